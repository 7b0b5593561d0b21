"""Make a release: transform, write, read back, compare.

A release is one file with all bodies *together*, or a file for *each*. Either way bodies of a
kit keep their common place.
"""

from __future__ import annotations

import hashlib
import io
import zipfile
from dataclasses import dataclass
from typing import Literal

import numpy as np

from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.findings import Finding
from aimtrue.core.formats import obj, stem_of, stl, threemf
from aimtrue.core.frames import allowed_points, allowed_sizes, as_vec3, seat_matrix
from aimtrue.core.job import Body, Job, Reading, Value, Vec3
from aimtrue.core.lengths import MM_PER, UNIT_NAMES, Unit
from aimtrue.core.mesh import Floats, Mesh, merged
from aimtrue.core.progress import Progress
from aimtrue.core.release import names
from aimtrue.core.release.proof import AcrossBodies, Asked, Check, GaugeAsked, Proof, prove
from aimtrue.core.release.second_reader import read_back
from aimtrue.core.seating.places import Place, places_of, seated_points
from aimtrue.core.seating.room import Room
from aimtrue.core.shelf import Shelf
from aimtrue.core.survey import all_findings, rooms_of
from aimtrue.core.truing.gauges import in_release, lengths_of

Format = Literal["3mf", "stl", "stl-ascii", "obj"]
Bodies = Literal["each", "together"]
ENDINGS: dict[str, str] = {"3mf": ".3mf", "stl": ".stl", "stl-ascii": ".stl", "obj": ".obj"}
MEDIA_TYPES: dict[str, str] = {
    "3mf": "model/3mf",
    "stl": "model/stl",
    "stl-ascii": "model/stl",
    "obj": "model/obj",
    "zip": "application/zip",
}


class Order(Value):
    """What to release.

    ``place`` is ``seated`` for bodies as they stand on the plate, ``own`` for bodies where the
    file had them. ``bodies`` names those wanted; None means all. ``pattern`` is empty for the usual
    name. ``number`` counts the releases of a job.
    """

    format: Format = "3mf"
    unit: Unit = Unit.MM
    place: Literal["seated", "own"] = "seated"
    shape: Bodies = "together"
    bodies: tuple[str, ...] | None = None
    pattern: str = ""
    number: int = 1


class Released(Value):
    """One file of a release."""

    name: str
    format: Format
    unit: Unit
    bodies: tuple[str, ...]
    size_mm: Vec3
    factor: Vec3
    triangles: int
    bytes: int
    sha256: str
    chain: str
    proof: Proof


@dataclass(frozen=True, eq=False)
class Made:
    """A file with its bytes; only to be handed over when its proof holds."""

    file: Released
    data: bytes


@dataclass(frozen=True, eq=False)
class Release:
    """The files of a release; only to be handed over when all proofs hold."""

    files: tuple[Made, ...]

    @property
    def holds(self) -> bool:
        """Whether every file is what was asked for."""
        return all(made.file.proof.holds for made in self.files)

    @property
    def broken(self) -> list[Check]:
        """The checks that do not hold."""
        return [check for made in self.files for check in made.file.proof.checks if not check.holds]


def refuse_open_stops(findings: list[Finding]) -> None:
    """Refuse a release while something would make a bad part."""
    stops = [finding for finding in findings if finding.stops]
    if stops:
        raise Refused(
            "stop-open",
            "; ".join(finding.says for finding in stops),
            remedy="mend it, or accept it on purpose on sheet 1, Intake",
        )


def release(job: Job, shelf: Shelf, order: Order, progress: Progress = lambda share, says: None) -> Release:
    """Write the bodies of a job into files, read them back and compare.

    Args:
        job: what to release; the unit of every body asked for must be settled.
        shelf: gives the meshes.
        order: which bodies, format, unit, place and name.
        progress: told how far it is.

    Returns:
        The files with their proofs. Where one does not hold, nothing must be handed over.

    Raises:
        Refused: nothing to release, the unit is not settled, or a stop finding is open.
        AimTrueError: the second reader cannot read what was written.
    """
    refuse_unreleasable(job, shelf, order)
    bodies = _wanted(job, order)
    places = places_of(job, shelf)
    sets = [(body,) for body in bodies] if order.shape == "each" else [bodies]
    made: list[Made] = []
    for number, one in enumerate(sets):
        within = _within(progress, number, len(sets))
        taken = {file.file.name for file in made}
        made.append(_made(job, one, shelf, order, places, taken, len(bodies), within))
    return Release(tuple(made))


def _within(progress: Progress, number: int, of: int) -> Progress:
    return lambda share, says: progress((number + share) / of, says)


def refuse_unreleasable(job: Job, shelf: Shelf, order: Order) -> None:
    """Refuse an order that names no body, or a body with an open unit or an open stop finding."""
    bodies = _wanted(job, order)
    if not bodies:
        raise Refused("no-bodies", "there is no body to release", remedy="take in a file first")
    for body in bodies:
        job.settled_unit(body)
    refuse_open_stops(findings_for(job, shelf, bodies, rooms_of(job, places_of(job, shelf))))


def _wanted(job: Job, order: Order) -> tuple[Body, ...]:
    return job.bodies if order.bodies is None else tuple(job.body(key) for key in order.bodies)


def zipped(files: list[tuple[str, bytes]]) -> bytes:
    """Pack files into a ZIP, the same bytes for the same files."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=4) as package:
        for name, data in files:
            entry = zipfile.ZipInfo(name, date_time=(1980, 1, 1, 0, 0, 0))
            entry.compress_type = zipfile.ZIP_DEFLATED
            package.writestr(entry, data)
    return out.getvalue()


def findings_for(job: Job, shelf: Shelf, bodies: tuple[Body, ...], rooms: dict[str, Room]) -> list[Finding]:
    """Return the findings that concern some bodies of a job: theirs, and those of their sources."""
    return [
        finding
        for finding in all_findings(job, shelf, rooms)
        if any(finding.concerns(body) for body in bodies)
    ]


def _made(
    job: Job,
    bodies: tuple[Body, ...],
    shelf: Shelf,
    order: Order,
    places: dict[str, Place],
    taken: set[str],
    of: int,
    progress: Progress,
) -> Made:
    progress(0.1, "placing the bodies")
    asked = [_asked(job, body, shelf, order, places[body.id]) for body in bodies]
    progress(0.3, "writing")
    data = _written(job, bodies, asked, order)
    progress(0.6, "reading it back")
    declared, found = read_back(order.format, data)
    progress(0.85, "comparing")
    across = _across_bodies(job, bodies, asked)
    proof = prove(order.format, asked, order.unit, declared, found, across)
    name = names.unique(_name(job, bodies, order, of), taken) + ENDINGS[order.format]
    return Made(_record(job, bodies, order, data, found, name, proof), data)


def _name(job: Job, bodies: tuple[Body, ...], order: Order, of: int) -> str:
    usual = "{body}_r{number}" if order.shape == "each" and of > 1 else "{job}_r{number}"
    fields = {
        "job": job.name,
        "body": bodies[0].name,
        "number": str(order.number),
        "unit": order.unit.value,
        "file": stem_of(job.source_of(bodies[0]).name),
    }
    return names.from_pattern(order.pattern or usual, fields)


def _asked(job: Job, body: Body, shelf: Shelf, order: Order, place: Place) -> Asked:
    mesh = shelf.mesh(body.geometry)
    if order.place == "seated":
        points, turn = seated_points(job, body, mesh.vertices, place), seat_matrix(body.seat)
    else:
        points, turn = allowed_points(job, body, mesh.vertices), np.eye(3)
    written = Mesh(points, mesh.faces)
    readings = tuple(
        gauge
        for reading in job.readings
        if reading.body == body.id and reading.told and not reading.lost and reading.gauge.other is None
        if (gauge := _gauge_asked(job, body, reading, order, place, written, turn)) is not None
    )
    return Asked(written, turn, np.array(allowed_sizes(job, body)), body.health.closed, readings)


def _across_bodies(job: Job, bodies: tuple[Body, ...], asked: list[Asked]) -> list[AcrossBodies]:
    """What readings over several bodies of a file must measure in it, where all of these stand together."""
    numbers = {body.id: number for number, body in enumerate(bodies)}
    found = []
    for reading in job.readings:
        gauge, group = reading.gauge, [body.id for body in job.group(reading.body)]
        keys = group if gauge.kit else [reading.body, gauge.other or reading.body]
        if (
            len(set(keys)) < 2
            or not reading.told
            or reading.lost
            or not set(keys) <= set(numbers) & set(group)
        ):
            continue
        of = tuple(numbers[key] for key in keys)
        half = len(gauge.anchors) // 2
        moved = tuple(
            one.model_copy(update={"face": one.face + asked[of[0]].mesh.triangles})
            for one in gauge.anchors[half:]
        )
        gauge = gauge.model_copy(update={"kit": False, "anchors": (*gauge.anchors[:half], *moved)})
        written = merged([asked[number].mesh for number in of])
        measured = in_release(gauge, np.empty((0, 3)), written, asked[of[0]].turn)
        if measured is None:
            continue
        plain = all(bodies[number].allowance.none for number in of)
        length = max(lengths_of(job, reading) if plain else measured)
        found.append(AcrossBodies(GaugeAsked(reading.name, gauge, np.empty((0, 3)), length), of))
    return found


def _gauge_asked(
    job: Job, body: Body, reading: Reading, order: Order, place: Place, written: Mesh, turn: Floats
) -> GaugeAsked | None:
    """What a reading's gauge must measure in the file: what the sheets show, with the allowance on top."""
    gauge = reading.gauge
    points = np.asarray(gauge.points, dtype=np.float64).reshape(-1, 3)
    points = (
        seated_points(job, body, points, place)
        if order.place == "seated"
        else allowed_points(job, body, points)
    )
    found = in_release(gauge, points, written, turn)
    if found is None:
        return None
    shown = lengths_of(job, reading) if body.allowance.none else found
    return GaugeAsked(reading.name, gauge, points, max(shown))


def _written(job: Job, bodies: tuple[Body, ...], asked: list[Asked], order: Order) -> bytes:
    per = MM_PER[order.unit]
    meshes = [body.mesh.mapped(lambda v: v / per) for body in asked]
    if not all(np.isfinite(mesh.vertices.astype(np.float32)).all() for mesh in meshes):
        raise AimTrueError(
            "beyond-float32",
            f"the size cannot be written in {UNIT_NAMES[order.unit]}",
            remedy="write it in another unit",
        )
    if order.format == "3mf":
        items = [
            threemf.Item(body.name, mesh, body.colour, body.material)
            for body, mesh in zip(bodies, meshes, strict=True)
        ]
        return threemf.write(items, order.unit, job.name, chain_text(job, bodies))
    if order.format == "obj":
        rows = [(body.name, mesh.triangles) for body, mesh in zip(bodies, meshes, strict=True)]
        return obj.write(merged(meshes), rows, f"Aim True, units {order.unit.value}")
    if order.format == "stl-ascii":
        return stl.write_ascii(merged(meshes), f"{bodies[0].name} units {order.unit.value}")
    return stl.write_binary(merged(meshes), f"Aim True, units {order.unit.value}, {bodies[0].name}")


def chain_text(job: Job, bodies: tuple[Body, ...]) -> str:
    """Say, per body, how the number in the file became the size released."""
    parts = []
    for body in bodies:
        source, unit = job.source_of(body), job.settled_unit(body)
        factors = " / ".join(f"{factor:.6g}" for factor in body.correction.factors)
        size = " x ".join(f"{size:.4f}" for size in allowed_sizes(job, body))
        if body.correction.along:
            way = ", ".join(f"{part:.4g}" for part in body.correction.along.direction)
            factors += f", stretched {body.correction.along.factor:.6g} along ({way})"
        set_by = f" ({body.correction.set_by})" if body.correction.set_by else ""
        allowance = "" if body.allowance.none else f"; allowance {_allowance_text(body)}"
        parts.append(
            f"{body.name}: {source.name} in {UNIT_NAMES[unit]}, {source.how}; "
            f"correction {factors}{set_by}{allowance}; size {size} mm"
        )
    return " | ".join(parts)


def _allowance_text(body: Body) -> str:
    shrinkage = " / ".join(f"{100 * share:.4g} %" for share in body.allowance.shrinkage)
    clearance = " / ".join(f"{more:+.4g} mm" for more in body.allowance.clearance_mm)
    source = f" ({body.allowance.says})" if body.allowance.says else ""
    return f"shrinkage {shrinkage}{source}, clearance {clearance}"


def _record(
    job: Job, bodies: tuple[Body, ...], order: Order, data: bytes, found: list[Mesh], name: str, proof: Proof
) -> Released:
    whole = merged(found)
    return Released(
        name=name,
        format=order.format,
        unit=order.unit,
        bodies=tuple(body.name for body in bodies),
        size_mm=as_vec3(whole.extents() * MM_PER[order.unit]),
        factor=bodies[0].correction.factors,
        triangles=whole.triangles,
        bytes=len(data),
        sha256=hashlib.sha256(data).hexdigest(),
        chain=chain_text(job, bodies),
        proof=proof,
    )
