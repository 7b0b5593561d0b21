"""This module says what a release would be, before it is made: every name, what each file holds and where
in it, and what to mind.
"""

from __future__ import annotations

from collections.abc import Collection

import numpy as np
import shapely

from aimtrue.core.division.sections.kernel_sections import exact_of
from aimtrue.core.errors import AimTrueError
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.mesh.outlines import Outline
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import UNIT_NAMES, Unit
from aimtrue.core.model.ownership import subject_of
from aimtrue.core.model.seats import Seat, Turn
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.release.filing import FileBody, FileContents, filed, standing_as_one, wanted
from aimtrue.core.release.naming import ReleaseFileName, named, pattern_of
from aimtrue.core.release.order import SAYS_UNIT, Order
from aimtrue.core.seating.orientation.orientations import outline_in

_OUTLINED = 60_000
"""Triangles up to which a body is drawn by its outline; larger ones by the box around them."""
_DRAWN = 40
"""Bodies of a file that are drawn."""
_FROM_THE_FRONT = Turn(axis="x", degrees=-90.0)
_FINE = 1 / 300
"""Corners that deviate by a smaller share of the drawing's size are left out."""

Ring = tuple[tuple[float, float], ...]


class BodySilhouette(Value):
    """A body of a file from the front: rings of X and Z in mm of the file, outer ones and holes."""

    body: str
    colour: str | None
    rings: tuple[Ring, ...]
    boxed: bool


class FilePreview(Value):
    """A file that a release would have.

    ``full_name`` is what it would be called if the machine's display were no matter, ``low_mm`` and
    ``high_mm`` what it holds spans in it.
    """

    name: str
    full_name: str
    bodies: tuple[str, ...]
    count: int
    plate: str
    size_mm: Vec3
    low_mm: Vec3
    high_mm: Vec3


class Preview(Value):
    """What a release would be.

    Attributes:
        files: in order.
        pattern: of their names, in force.
        place_says: where bodies are in their files, in words.
        holds_says: what is in a file, in words.
        minds: what to mind, such as a format that cannot say its unit.
        drawn: the bodies of the file that was looked at, from the front, or nothing where it is not asked
            for.
        exact: whether all of it could be released as STEP.
        shortens: how many characters the machine's display shows, if any machine shows few.
        problem: why nothing can be made of this, if so; then there are no files.
    """

    files: tuple[FilePreview, ...]
    pattern: str
    place_says: str
    holds_says: str
    minds: tuple[str, ...]
    drawn: tuple[BodySilhouette, ...]
    exact: bool
    shortens: int | None
    problem: str


def preview(
    job: Job, store: GeometryStore, order: Order, earlier: Collection[str] = (), shown: int = 0
) -> Preview:
    """Work out what a release would be; no file is written and large meshes are not asked for.

    Args:
        job, store: whose units are settled.
        order: what is asked for.
        earlier: names of files that were released before.
        shown: number of the file that is drawn.
    """
    bodies = wanted(job, order)
    exact = bool(bodies) and all(job.settled((body,)) and exact_of(job, body) is not None for body in bodies)
    files: tuple[FileContents, ...] = ()
    names: list[ReleaseFileName] = []
    problem = ""
    try:
        files = filed(job, store, order) if bodies else ()
        names = named(job, files, order, earlier)
    except AimTrueError as error:
        problem, files = error.line(), ()
    looked = files[min(shown, len(files) - 1)] if files else None
    displays = [plate.machine.display for plate in job.plates if plate.machine.display is not None]
    return Preview(
        files=tuple(_file(file, name) for file, name in zip(files, names, strict=False)),
        pattern=pattern_of(order, len(files)),
        place_says=_place_says(order),
        holds_says=_holds_says(job, order, files),
        minds=tuple(_minds(job, order, files)),
        drawn=tuple(_drawn(job, item, store) for item in looked.items[:_DRAWN]) if looked else (),
        exact=exact,
        shortens=min(displays, default=None),
        problem=problem,
    )


def _file(file: FileContents, name: ReleaseFileName) -> FilePreview:
    low, high = file.bounds
    return FilePreview(
        name=name.name,
        full_name=name.full,
        bodies=tuple(item.name for item in file.items),
        count=file.count,
        plate=file.plate or "",
        size_mm=as_vec3(high - low),
        low_mm=as_vec3(low),
        high_mm=as_vec3(high),
    )


def _place_says(order: Order) -> str:
    return {
        "own": "Where their file has them: nothing is turned or moved, so all of it lines up again.",
        "seated": "As they stand on the plate: turned, in place, at their lift, from its front left corner.",
        "origin": "Put down at the origin: turned as they stand, the middle over 0, 0, the lowest at 0.",
    }[order.place]


def _holds_says(job: Job, order: Order, files: tuple[FileContents, ...]) -> str:
    if order.shape == "each":
        once = " The same part is written once, with how many there are." if order.alike == "once" else ""
        return f"Each body its own file.{once}"
    several = "One file for each plate" if len(files) > 1 else "One file"
    apart = {
        "3mf": "with separate objects",
        "step": "with separate solids",
        "obj": "with a group for each body",
    }.get(order.format)
    if order.shape == "merged" or apart is None:
        return f"{several}, all bodies as one object."
    split = any(len(some) > 1 for file in files for some in standing_as_one(job, file.items))
    kept = "; the colours of one body are parts of one object" if split and order.format == "3mf" else ""
    return f"{several}, {apart}{kept}."


def _minds(job: Job, order: Order, files: tuple[FileContents, ...]) -> list[str]:
    minds = []
    if order.unit != Unit.MM and order.format not in SAYS_UNIT:
        kind = order.format.split("-")[0].upper()
        minds.append(
            f"{kind} cannot say its unit: whoever takes millimetres for granted gets this in "
            f"{UNIT_NAMES[order.unit]}, in the wrong size"
        )
    items = [item for file in files for item in file.items]
    lifted = [item.name for item in items if item.seat is not None and item.seat.lift > 0]
    if lifted and order.place == "origin":
        minds.append(f"the lift of {_listed(lifted)} is left out, since all of it is put down")
    kits = {item.body.kit for item in items} - {None}
    if order.place == "origin" and order.shape == "each" and len(files) > len(kits) and kits:
        minds.append("bodies of a kit do not line up again when each is put down by itself")
    raised = [body.name for body in wanted(job, order) if _is_lifted(job, body)]
    if raised and order.place == "own":
        minds.append(f"the lift of {_listed(raised)} is a plate's, and is left out here")
    return minds


def _is_lifted(job: Job, body: Body) -> bool:
    return any(seat.lift for seat in job.seats_of(subject_of(job, body)))


def _listed(names: list[str]) -> str:
    few = list(dict.fromkeys(names))
    return ", ".join(few[:4]) + (f" and {len(few) - 4} more" if len(few) > 4 else "")


def _drawn(job: Job, item: FileBody, store: GeometryStore) -> BodySilhouette:
    body = item.body
    boxed = body.triangles > _OUTLINED
    rings = _box(item.bounds) if boxed else _rings(_outline(job, item, store), item.shift)
    return BodySilhouette(body=body.id, colour=body.colour, rings=rings, boxed=boxed)


def _outline(job: Job, item: FileBody, store: GeometryStore) -> Outline:
    """What a body covers from the front: turned so that its Z lies along the plate's Y."""
    seat = item.seat or Seat(subject=subject_of(job, item.body))
    lying = seat.model_copy(update={"turns": (*seat.turns, _FROM_THE_FRONT)})
    return outline_in(job, item.body, lying, store)


def _rings(outline: Outline, shift: Floats) -> tuple[Ring, ...]:
    size = max(float(np.ptp(np.reshape(outline.bounds, (2, 2)), axis=0).max()), 1e-9)
    plain = shapely.simplify(outline, size * _FINE)
    rings = [ring for part in shapely.get_parts(plain) for ring in (part.exterior, *part.interiors)]
    return tuple(
        tuple((x + float(shift[0]), z + float(shift[2])) for x, z in ring.coords[:-1]) for ring in rings
    )


def _box(bounds: Floats) -> tuple[Ring, ...]:
    (x0, _, z0), (x1, _, z1) = bounds.tolist()
    return (((x0, z0), (x1, z0), (x1, z1), (x0, z1)),)
