"""Make a release: transform, write, read back, compare.

A release is one file with all bodies *together*, or a file for *each*. Either way bodies of a
kit keep their common place.
"""

from __future__ import annotations

import hashlib
import io
import zipfile
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from aimtrue.core.chain.allowance import allowed_points, allowed_sizes
from aimtrue.core.division.stale import stale_bodies
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.formats import obj, stem_of, stl, threemf
from aimtrue.core.gauges.bands import band_of
from aimtrue.core.gauges.measure import lengths_of
from aimtrue.core.mesh.mesh import Mesh, merged
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.job import Job, Value, Vec3
from aimtrue.core.model.lengths import MM_PER, UNIT_NAMES, Unit
from aimtrue.core.model.seats import Seat
from aimtrue.core.progress import Progress
from aimtrue.core.proof import Order as Written
from aimtrue.core.proof import Proof, ProofBroken, prove
from aimtrue.core.proof.parts import Claim
from aimtrue.core.release import names
from aimtrue.core.seating.now import standing_of
from aimtrue.core.seating.places import Place, places_of, seated_mesh
from aimtrue.core.survey.findings import all_findings
from aimtrue.core.survey.gathered import gathered

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

    ``place`` is ``seated`` for bodies as they stand on their plates, every copy of them, ``own`` for bodies
    where the file had them. ``bodies`` names those wanted; None means all. ``pattern`` is empty for the usual
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
    """A file with its bytes, and the bodies in it by id, each copy; its proof holds."""

    file: Released
    data: bytes
    bodies: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class Release:
    """The files of a release; all their proofs hold."""

    files: tuple[Made, ...]


_MOST_NAMED = 6


def refuse_open_stops(job: Job, findings: list[Finding]) -> None:
    """Refuse a release while something would make a bad part: which findings, of which bodies, and their
    codes.
    """
    stops = [finding for finding in gathered(job, findings) if finding.stops]
    if stops:
        codes = list(dict.fromkeys(finding.code for finding in stops if finding.acceptable))
        how = " ".join(f"--accept {code}" for code in codes)
        accept = f", or accept it on purpose, there or with {how}" if codes else ""
        raise Refused(
            "stop-open",
            "; ".join(
                f"{_said(job, one)} (stop {one.code}, sheet {one.sheet.capitalize()})" for one in stops
            ),
            remedy=f"settle it on the sheet named{accept}",
        )


def _said(job: Job, finding: Finding) -> str:
    """Say a finding with the bodies that have it."""
    names = [job.body(key).name for key in finding.bodies]
    more = f" and {len(names) - _MOST_NAMED} more" if len(names) > _MOST_NAMED else ""
    who = f"{', '.join(names[:_MOST_NAMED])}{more}: " if names else ""
    return f"{who}{finding.says}"


def release(job: Job, shelf: Shelf, order: Order, progress: Progress = lambda share, says: None) -> Release:
    """Write the bodies of a job into files, read them back and compare.

    Args:
        job: what to release; the unit of every body asked for must be settled.
        shelf: gives the meshes.
        order: which bodies, format, unit, place and name.
        progress: told how far it is.

    Returns:
        The files with their proofs.

    Raises:
        ProofBroken: what was written is not what was asked for.
        Refused: nothing to release, the unit is not settled, or a stop finding is open.
        AimTrueError: the second reader cannot read what was written.
    """
    accepted = [one for one in refuse_unreleasable(job, shelf, order) if one.accepted]
    sets = _sets(job, shelf, order)
    made: list[Made] = []
    for number, one in enumerate(sets):
        within = _within(progress, number, len(sets))
        taken = {file.file.name for file in made}
        file = _made(job, one, shelf, order, taken, len(sets), within)
        mine = gathered(job, [row for row in accepted if any(row.concerns(item.body) for item in one)])
        made.append(_with_accepted(file, tuple(_said(job, row) for row in mine)))
    return Release(tuple(made))


@dataclass(frozen=True, eq=False)
class _Item:
    """One body of a file, and where it stands; nowhere where it is released in its own place."""

    body: Body
    place: Place | None
    name: str

    @property
    def seat(self) -> Seat | None:
        return None if self.place is None else self.place.seat


def _sets(job: Job, shelf: Shelf, order: Order) -> list[tuple[_Item, ...]]:
    """Return what goes into each file: of several plates each its own, of bodies each, one at a time."""
    bodies = _wanted(job, order)
    if order.place == "own":
        items = [_Item(body, None, body.name) for body in bodies]
        return [(item,) for item in items] if order.shape == "each" else [tuple(items)]
    wanted = {body.id for body in bodies}
    files: list[tuple[_Item, ...]] = []
    places = places_of(job, shelf)
    for plate in job.plates:
        here = [place for place in places.values() if place.seat.plate == plate.id]
        items = [
            _Item(body, place, _copy_name(job, body, place))
            for place in here
            for body in place.bodies
            if body.id in wanted
        ]
        files += [(item,) for item in items] if order.shape == "each" else [tuple(items)] if items else []
    if not files:
        raise Refused(
            "not-seated",
            "none of this stands on a plate",
            remedy="put it on one, on sheet 5, or release it where the file has it",
        )
    return files


def _copy_name(job: Job, body: Body, place: Place) -> str:
    several = len(job.seats_of(place.seat.subject)) > 1
    return f"{body.name}, copy {place.seat.copy_number}" if several else body.name


def _with_accepted(made: Made, accepted: tuple[str, ...]) -> Made:
    proof = made.file.proof.model_copy(update={"accepted": accepted})
    return replace(made, file=made.file.model_copy(update={"proof": proof}))


def _within(progress: Progress, number: int, count: int) -> Progress:
    return lambda share, says: progress((number + share) / count, says)


def refuse_unreleasable(job: Job, shelf: Shelf, order: Order) -> list[Finding]:
    """Refuse an order that names no body, or a body with an open unit or an open stop finding.

    Returns:
        The findings of the bodies asked for, none of which stops.
    """
    bodies = _wanted(job, order)
    if not bodies:
        raise Refused("no-bodies", "there is no body to release", remedy="take in a file first")
    stale = stale_bodies(job)
    if any(body.id in stale for body in bodies):
        names = ", ".join(body.name for body in bodies if body.id in stale)
        says = f"{names}: what this was made of has changed since"
        raise Refused("stale", says, remedy="wait until it is made again, or put it back together")
    for body in bodies:
        job.settled_unit(body)
    found = findings_for(job, shelf, bodies)
    refuse_open_stops(job, found)
    return found


def _wanted(job: Job, order: Order) -> tuple[Body, ...]:
    """The bodies asked for; of all, those that were divided stand aside for their pieces."""
    return job.in_use(job.bodies) if order.bodies is None else tuple(job.body(key) for key in order.bodies)


def zipped(files: list[tuple[str, bytes]]) -> bytes:
    """Pack files into a ZIP, the same bytes for the same files."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=4) as package:
        for name, data in files:
            entry = zipfile.ZipInfo(name, date_time=(1980, 1, 1, 0, 0, 0))
            entry.compress_type = zipfile.ZIP_DEFLATED
            package.writestr(entry, data)
    return out.getvalue()


def findings_for(job: Job, shelf: Shelf, bodies: tuple[Body, ...]) -> list[Finding]:
    """Return the findings that concern some bodies of a job: theirs, and those of their sources."""
    return [
        finding
        for finding in all_findings(job, shelf, standing_of(job, shelf))
        if any(finding.concerns(body) for body in bodies)
    ]


def _made(
    job: Job,
    items: tuple[_Item, ...],
    shelf: Shelf,
    order: Order,
    taken: set[str],
    count: int,
    progress: Progress,
) -> Made:
    progress(0.1, "placing the bodies")
    placed = [_placed(job, item, shelf) for item in items]
    progress(0.3, "writing")
    data = _written(job, items, placed, order)
    progress(0.5, "reading it back, and the original a second time")
    bodies = tuple(item.body for item in items)
    claims = [_claim(job, item) for item in items]
    written = Written(order.format, order.unit, order.place)
    proof = prove(job, bodies, written, data, lambda source: shelf.original(source.sha256), claims)
    name = names.unique(_name(job, items, order, count), taken) + ENDINGS[order.format]
    if not proof.holds:
        raise ProofBroken(proof, name)
    progress(0.95, "naming the file")
    return Made(_record(job, items, order, data, name, proof), data, tuple(body.id for body in bodies))


def _name(job: Job, items: tuple[_Item, ...], order: Order, count: int) -> str:
    plates = [plate.id for plate in job.plates]
    seat = items[0].seat
    usual = "{job}_r{number}"
    if count > 1:
        usual = "{body}_r{number}" if order.shape == "each" else "{job}_plate-{plate}_r{number}"
    fields = {
        "job": job.name,
        "body": items[0].name,
        "number": str(order.number),
        "unit": order.unit.value,
        "file": stem_of(job.source_of(items[0].body).name),
        "plate": str(plates.index(seat.plate) + 1) if seat else "1",
    }
    return names.from_pattern(order.pattern or usual, fields)


def _placed(job: Job, item: _Item, shelf: Shelf) -> Mesh:
    """The body in mm, as it is to be written."""
    mesh = shelf.mesh(item.body.geometry)
    if item.place is not None:
        return seated_mesh(job, item.body, mesh, item.place)
    return Mesh(allowed_points(job, item.body, mesh.vertices), mesh.faces)


def _claim(job: Job, item: _Item) -> Claim:
    """What the sheets say of a body; the proof holds them to it."""
    body = item.body
    mine = [one for one in job.readings if one.body == body.id and one.has_length and not one.lost]
    lengths = {reading.id: lengths_of(job, reading) for reading in mine}
    bands = {reading.id: band_of(reading) for reading in mine}
    return Claim(
        place=np.zeros(3) if item.place is None else item.place.shift,
        seat=item.seat,
        sizes=allowed_sizes(job, body),
        lengths=lengths,
        met={key: all(map(band.holds, lengths[key])) for key, band in bands.items() if band is not None},
    )


def _written(job: Job, items: tuple[_Item, ...], placed: list[Mesh], order: Order) -> bytes:
    bodies = tuple(item.body for item in items)
    per = MM_PER[order.unit]
    meshes = [mesh.mapped(lambda v: v / per) for mesh in placed]
    if not all(np.isfinite(mesh.vertices.astype(np.float32)).all() for mesh in meshes):
        raise AimTrueError(
            "beyond-float32",
            f"the size cannot be written in {UNIT_NAMES[order.unit]}",
            remedy="write it in another unit",
        )
    if order.format == "3mf":
        objects = [
            threemf.Item(item.name, mesh, item.body.colour, item.body.material)
            for item, mesh in zip(items, meshes, strict=True)
        ]
        return threemf.write(objects, order.unit, job.name, chain_text(job, bodies))
    if order.format == "obj":
        rows = [(item.name, mesh.triangles) for item, mesh in zip(items, meshes, strict=True)]
        return obj.write(merged(meshes), rows, f"Aim True, units {order.unit.value}")
    if order.format == "stl-ascii":
        return stl.write_ascii(merged(meshes), f"{bodies[0].name} units {order.unit.value}")
    return stl.write_binary(merged(meshes), f"Aim True, units {order.unit.value}, {bodies[0].name}")


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


def _record(
    job: Job, items: tuple[_Item, ...], order: Order, data: bytes, name: str, proof: Proof
) -> Released:
    bodies = tuple(item.body for item in items)
    return Released(
        name=name,
        format=order.format,
        unit=order.unit,
        bodies=tuple(item.name for item in items),
        size_mm=proof.size_mm,
        factor=job.correction_of(bodies[0]).factors,
        triangles=proof.triangles,
        bytes=len(data),
        sha256=hashlib.sha256(data).hexdigest(),
        chain=chain_text(job, bodies),
        proof=proof,
    )
