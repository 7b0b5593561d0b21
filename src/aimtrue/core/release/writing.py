"""From the bodies of a file to its bytes."""

from __future__ import annotations

from collections.abc import Hashable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from aimtrue.core.chain.allowance import allowed_points, allowed_sizes
from aimtrue.core.chain.seat_turns import seat_key, seat_matrix
from aimtrue.core.drawing.picture import Shown, picture
from aimtrue.core.errors import AimTrueError
from aimtrue.core.formats import obj, ply, stl, threemf
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh, merged
from aimtrue.core.mesh.soundness import soundly_rounded
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import DivisionId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, UNIT_NAMES
from aimtrue.core.release import step_writing
from aimtrue.core.release.filing import FileBody, FileContents, standing_as_one
from aimtrue.core.release.order import Order


@dataclass(frozen=True)
class WrittenFile:
    """A file as it was written.

    Attributes:
        data: its bytes.
        triangles: how many triangles each of its items has there; of STEP, none.
    """

    data: bytes
    triangles: tuple[int, ...]


def written(job: Job, file: FileContents, store: GeometryStore, order: Order) -> WrittenFile:
    """Return a file of a release, with what is in it.

    Raises:
        AimTrueError: a size does not fit into float32 in the unit asked for.
        Refused: STEP of what is not exact CAD any more.
    """
    if order.format == "step":
        return WrittenFile(step_writing.written(job, file, store, order), (0,) * len(file.items))
    if order.format == "3mf" and order.shape != "merged":
        return _objects(job, file, store, order)
    placed = [_finite(_placed(job, item, store, item.shift, order), order) for item in file.items]
    counts = tuple(mesh.triangles for mesh in placed)
    return WrittenFile(_as_one(job, file, placed, order), counts)


def _as_one(job: Job, file: FileContents, placed: list[Mesh], order: Order) -> bytes:
    """A file whose bodies are one run of triangles after the other."""
    items = file.items
    if order.format == "3mf":
        looks = tuple((_look(item), mesh.triangles) for item, mesh in zip(items, placed, strict=True))
        whole = threemf.BuildObject(job.name, merged(placed), looks=looks)
        return _package(job, file, [whole], [Shown(whole.mesh, items[0].body.colour)], order)
    comment = f"Aim True, units {order.unit.value}"
    if order.format == "ply":
        return ply.write(merged(placed), f"{comment}, {items[0].name}")
    if order.format == "obj":
        rows = [(item.name, mesh.triangles) for item, mesh in zip(items, placed, strict=True)]
        if order.shape == "merged":
            rows = [(job.name, sum(count for _, count in rows))]
        return obj.write(merged(placed), rows, comment)
    if order.format == "stl-ascii":
        return stl.write_ascii(merged(placed), f"{items[0].body.name} units {order.unit.value}")
    return stl.write_binary(merged(placed), f"{comment}, {items[0].body.name}")


def _look(item: FileBody) -> threemf.MaterialColour | None:
    body = item.body
    return threemf.MaterialColour(body.material or item.name, body.colour) if body.colour else None


def _placed(job: Job, item: FileBody, store: GeometryStore, shift: Floats, order: Order) -> Mesh:
    """A body as it is to be written, in numbers of the file; a mirrored one is turned inside out again."""
    mesh = store.mesh(item.body.geometry)
    points, faces = allowed_points(job, item.body, mesh.vertices), mesh.faces
    if item.seat is not None:
        points = points @ seat_matrix(item.seat).T
        faces = faces[:, ::-1] if item.seat.mirrored else faces
    shifted = Mesh((points + shift) / MM_PER[order.unit], faces)
    # What was read from a file keeps its triangles one by one; what we made ourselves is to be sound as
    # written.
    ours = item.body.division is not None or bool(item.body.remade)
    return soundly_rounded(shifted) if ours and item.body.health.closed else shifted


def _finite(mesh: Mesh, order: Order) -> Mesh:
    if not np.isfinite(mesh.vertices.astype(np.float32)).all():
        raise AimTrueError(
            "beyond-float32",
            f"the size cannot be written in {UNIT_NAMES[order.unit]}",
            remedy="write it in another unit",
        )
    return mesh


def _objects(job: Job, file: FileContents, store: GeometryStore, order: Order) -> WrittenFile:
    """A 3MF of separate objects; copies that are turned alike are one object, placed again and again.

    What one body was split into stands together as components of one object, each with its colour.
    """
    keys = [_key(item) for item in file.items]
    items: list[threemf.BuildObject] = []
    numbers: dict[Hashable, int] = {}
    placed, shown = [], []
    for some in standing_as_one(job, file.items):
        several = any(keys.count(_key(item)) > 1 for item in some)
        for item in some:
            if _key(item) not in numbers:
                mesh = _finite(_placed(job, item, store, _NOWHERE if several else item.shift, order), order)
                numbers[_key(item)] = len(items)
                name = item.body.name if several else item.name
                items.append(threemf.BuildObject(name, mesh, item.body.colour, item.body.material))
        move = some[0].shift / MM_PER[order.unit] if several else None
        own = tuple(numbers[_key(item)] for item in some)
        placed.append(threemf.BuildItem(own, move, _whole_name(job, some) if len(some) > 1 else ""))
        for number, item in zip(own, some, strict=True):
            mesh = items[number].mesh
            drawn = mesh if move is None else Mesh(mesh.vertices + move, mesh.faces)
            shown.append(Shown(drawn, item.body.colour))
    counts = tuple(items[number].mesh.triangles for build_item in placed for number in build_item.items)
    return WrittenFile(_package(job, file, items, shown, order, placed), counts)


def _whole_name(job: Job, items: tuple[FileBody, ...]) -> str:
    whole = job.body(job.division(DivisionId(str(items[0].body.division))).wholes[0]).name
    # The name says which copy it is, where there are several.
    suffix = items[0].name.removeprefix(items[0].body.name)
    return f"{whole}{suffix}"


_NOWHERE = np.zeros(3)


def _key(item: FileBody) -> Hashable:
    """What copies of a body that are turned alike have in common."""
    return item.body.id, None if item.seat is None else seat_key(item.seat)


def _package(
    job: Job,
    file: FileContents,
    items: list[threemf.BuildObject],
    shown: list[Shown],
    order: Order,
    placed: list[threemf.BuildItem] | None = None,
) -> bytes:
    bodies = tuple(item.body for item in file.items)
    metadata = {"CreationDate": order.day} if order.day else {}
    with ThreadPoolExecutor(1) as other:  # Pictures are drawn while the numbers are printed.
        drawn = other.submit(picture, shown)
        return threemf.write(
            items,
            order.unit,
            job.name,
            chain_text(job, bodies),
            placed=placed,
            more=metadata,
            thumbnail=drawn.result,
        )


def chain_text(job: Job, bodies: tuple[Body, ...]) -> str:
    """Say, once per body, how the number in the file became the size released."""
    parts = []
    for body in {body.id: body for body in bodies}.values():
        source, unit = job.source_of(body), job.settled_unit(body)
        correction = job.correction_of(body)
        factors = " / ".join(f"{factor:.6g}" for factor in correction.factors)
        size = " x ".join(f"{size:.4f}" for size in allowed_sizes(job, body))
        if correction.along:
            way = ", ".join(f"{part:.4g}" for part in correction.along.direction)
            factors += f", stretched {correction.along.factor:.6g} along ({way})"
        set_by = f" ({correction.set_by})" if correction.set_by else ""
        allowance = f"; allowance {_allowance_text(job, body)}" if job.allowed(body) else ""
        parts.append(
            f"{body.name}: {source.name} in {UNIT_NAMES[unit]}, {source.how}; "
            f"correction {factors}{set_by}{allowance}; size {size} mm"
        )
    return " | ".join(parts)


def _allowance_text(job: Job, body: Body) -> str:
    shrinkage = job.shrinkage_of(body)
    shares = " / ".join(f"{100 * share:.4g} %" for share in shrinkage.shares)
    clearance = " / ".join(f"{more:+.4g} mm" for more in body.clearance.mm)
    source = f" ({shrinkage.says})" if shrinkage.says else ""
    return f"shrinkage {shares}{source}, clearance {clearance}"
