"""Make a release: transform, write, read back, compare."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import Literal

import numpy as np

from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.findings import Finding
from aimtrue.core.formats import stl, threemf
from aimtrue.core.frames import as_vec3, seat_matrix, seated_points, true_points, true_sizes
from aimtrue.core.job import Body, Job, Value, Vec3
from aimtrue.core.lengths import MM_PER, UNIT_NAMES, Unit
from aimtrue.core.mesh import Mesh, merged
from aimtrue.core.progress import Progress
from aimtrue.core.release import names
from aimtrue.core.release.proof import Asked, Proof, prove
from aimtrue.core.release.second_reader import read_back
from aimtrue.core.seating.room import room_of
from aimtrue.core.shelf import Shelf
from aimtrue.core.survey import findings_of, seated_bounds
from aimtrue.core.truing.gauges import gauge_vector

Format = Literal["3mf", "stl", "stl-ascii"]
ENDINGS: dict[str, str] = {"3mf": ".3mf", "stl": ".stl", "stl-ascii": ".stl"}
MEDIA_TYPES: dict[str, str] = {"3mf": "model/3mf", "stl": "model/stl", "stl-ascii": "model/stl"}
DRIFT_MM = 1e-6
"""A reading whose model length is this near its real length counts as met."""


class Order(Value):
    """What to release.

    ``place`` is ``seated`` for bodies as they stand on the plate, ``own`` for bodies where the
    file had them. ``number`` counts the releases of a job.
    """

    format: Format = "3mf"
    unit: Unit = Unit.MM
    place: Literal["seated", "own"] = "seated"
    pattern: str = "{job}_r{number}"
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


@dataclass(frozen=True, eq=False)
class Release:
    """A file with its bytes and its proof; only to be handed over when the proof holds."""

    file: Released
    data: bytes
    proof: Proof


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
    """Write the bodies of a job into one file, read it back and compare.

    Args:
        job: what to release; every source's unit must be settled.
        shelf: gives the meshes.
        order: format, unit, place and name.
        progress: told how far it is.

    Returns:
        The file and its proof. When ``proof.holds`` is false the file must not be handed over.

    Raises:
        Refused: nothing to release, the unit is not settled, or a stop finding is open.
        AimTrueError: the second reader cannot read what was written.
    """
    if not job.bodies:
        raise Refused("no-bodies", "there is no body to release", remedy="take in a file first")
    for body in job.bodies:
        job.settled_unit(body)
        room = room_of(seated_bounds(job, body, shelf)[0], job.machine)
        refuse_open_stops(findings_of(job, body, room))
    progress(0.1, "placing the bodies")
    asked = [_asked(job, body, shelf, order) for body in job.bodies]
    progress(0.3, "writing")
    data = _written(job, asked, order)
    progress(0.6, "reading it back")
    declared, found = read_back(order.format, data)
    progress(0.85, "comparing")
    proof = prove(order.format, asked, order.unit, declared, found)
    return Release(_record(job, order, data, found), data, proof)


def _asked(job: Job, body: Body, shelf: Shelf, order: Order) -> Asked:
    mesh = shelf.mesh(body.geometry)
    if order.place == "seated":
        points, turn = seated_points(job, body, mesh.vertices)[0], seat_matrix(body.seat)
    else:
        points, turn = true_points(job, body, mesh.vertices), np.eye(3)
    met = tuple(
        reading
        for reading in job.readings
        if reading.body == body.id
        and reading.real_mm is not None
        and abs(float(np.linalg.norm(gauge_vector(job, body, reading))) - reading.real_mm) <= DRIFT_MM
    )
    return Asked(Mesh(points, mesh.faces), turn, np.array(true_sizes(job, body)), body.health.closed, met)


def _written(job: Job, asked: list[Asked], order: Order) -> bytes:
    per = MM_PER[order.unit]
    meshes = [body.mesh.mapped(lambda v: v / per) for body in asked]
    if not all(np.isfinite(mesh.vertices.astype(np.float32)).all() for mesh in meshes):
        raise AimTrueError(
            "beyond-float32",
            f"the size cannot be written in {UNIT_NAMES[order.unit]}",
            remedy="write it in another unit",
        )
    if order.format == "3mf":
        items = [threemf.Item(body.name, mesh) for body, mesh in zip(job.bodies, meshes, strict=True)]
        return threemf.write(items, order.unit, job.name, chain_text(job))
    if order.format == "stl-ascii":
        return stl.write_ascii(merged(meshes), f"{job.bodies[0].name} units {order.unit.value}")
    return stl.write_binary(merged(meshes), f"Aim True, units {order.unit.value}, {job.bodies[0].name}")


def chain_text(job: Job) -> str:
    """Say, per body, how the number in the file became the size released."""
    parts = []
    for body in job.bodies:
        source, unit = job.source_of(body), job.settled_unit(body)
        factors = " / ".join(f"{factor:.6g}" for factor in body.correction.factors)
        size = " x ".join(f"{size:.4f}" for size in true_sizes(job, body))
        set_by = f" ({body.correction.set_by})" if body.correction.set_by else ""
        parts.append(
            f"{body.name}: {source.name} in {UNIT_NAMES[unit]}, {source.how}; "
            f"correction {factors}{set_by}; size {size} mm"
        )
    return " | ".join(parts)


def _record(job: Job, order: Order, data: bytes, found: list[Mesh]) -> Released:
    fields = {
        "job": job.name,
        "body": job.bodies[0].name,
        "number": str(order.number),
        "unit": order.unit.value,
        "file": job.source_of(job.bodies[0]).name.rsplit(".", 1)[0],
    }
    whole = merged(found)
    return Released(
        name=names.from_pattern(order.pattern, fields) + ENDINGS[order.format],
        format=order.format,
        unit=order.unit,
        bodies=tuple(body.name for body in job.bodies),
        size_mm=as_vec3(whole.extents() * MM_PER[order.unit]),
        factor=job.bodies[0].correction.factors,
        triangles=whole.triangles,
        bytes=len(data),
        sha256=hashlib.sha256(data).hexdigest(),
        chain=chain_text(job),
    )
