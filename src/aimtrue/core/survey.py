"""Everything the screens show of a job, worked out from it: sizes, chain, findings.

The interface computes nothing; it shows this.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from typing import Literal

import numpy as np

from aimtrue.core.bodies.alike import identical
from aimtrue.core.findings import Finding, findings_of
from aimtrue.core.frames import (
    allowed_bounds,
    allowed_linear,
    allowed_sizes,
    along_matrix,
    as_vec3,
    group_sizes,
    numbers_in_job_axes,
    numbers_of,
    seat_matrix,
    sizes_in,
    true_linear,
    true_sizes,
    turn_up,
)
from aimtrue.core.gathered import gathered
from aimtrue.core.intake.settle import verdict_of
from aimtrue.core.intake.unit import Candidate, Verdict
from aimtrue.core.job import AXES, Axis, Body, Job, Reading, Value, Vec3
from aimtrue.core.lengths import MM_PER, Unit
from aimtrue.core.mesh import Floats
from aimtrue.core.seating.places import Place, places_of
from aimtrue.core.seating.room import Room, fits_as_it_lies, room_of
from aimtrue.core.shelf import Shelf
from aimtrue.core.truing.bands import band_of, written
from aimtrue.core.truing.changes import change_findings
from aimtrue.core.truing.conflicts import allowance_findings, reading_findings
from aimtrue.core.truing.gauges import ends_of, lengths_of
from aimtrue.core.truing.truth import Truth, off, truth_of

SheetName = Literal["intake", "truing", "fit", "division", "seating", "release"]
SheetMark = Literal["settled", "look", "stop", "blank", "later"]


class ChainRow(Value):
    """One axis of the size chain, in mm: number x unit x correction = size, + allowance = released."""

    axis: Axis
    number: float
    mm_per_unit: float
    factor: float
    size_mm: float
    size_in: float
    allowance_mm: float
    released_mm: float


class ReadingNow(Value):
    """A reading held against the model as corrected.

    Attributes:
        model_mm: how long the gauge is now, in mm; of an oval the greatest; an angle in degrees.
        least_mm: of an oval the least.
        off_mm: model less what is wanted, or how far beyond a limit; None while nothing is told.
        met: whether it is within its band.
        band: the band, as it is written behind the length.
        wanted_mm: the length wanted, clearance included.
        spread_mm: between the greatest and the least of repeats.
        drives: whether the correction in force was solved for it.
        ends: two points to draw its dimension between, in numbers of the file; of an extent none.
    """

    id: str
    model_mm: float
    least_mm: float | None
    off_mm: float | None
    met: bool
    band: str
    wanted_mm: float | None
    spread_mm: float | None
    drives: bool
    ends: tuple[Vec3, Vec3] | None


class Placement(Value):
    """How the bench draws a body: ``matrix`` (3 x 3, by rows) times file point, plus ``shift``, in mm.

    ``true`` leaves the seat out; ``seated`` has it.
    """

    true: tuple[Vec3, Vec3, Vec3]
    true_shift: Vec3
    seated: tuple[Vec3, Vec3, Vec3]
    seated_shift: Vec3


class BodySurvey(Value):
    """A body's facts in force. Everything in mm is None while the unit is not settled.

    ``identical`` are the bodies that are the same part, itself included; empty when it is the only one.
    ``releasable`` tells that no stop finding is open for it.
    ``reshaped`` names the way kept bores change its drawing; empty when they do not.
    """

    id: str
    identical: tuple[str, ...]
    releasable: bool
    reshaped: str
    numbers: Vec3
    chain: tuple[ChainRow, ...] | None
    volume_mm3: float | None
    area_mm2: float | None
    readings: tuple[ReadingNow, ...]
    room: Room | None
    fits_as_it_lies: bool | None
    placement: Placement
    oval: bool


class SourceSurvey(Value):
    """A file's unit, weighed: ``suggested`` is what the evidence points to, if to anything."""

    id: str
    numbers: Vec3
    candidates: tuple[Candidate, ...]
    suggested: Unit | None
    mm_per_unit: float | None
    home: bool


class KitSurvey(Value):
    """Several bodies together: their overall size, volume and room; readings of all of them."""

    id: str
    bodies: tuple[str, ...]
    numbers: Vec3 | None
    chain: tuple[ChainRow, ...] | None
    volume_mm3: float | None
    readings: tuple[ReadingNow, ...]
    room: Room | None
    fits_as_it_lies: bool | None
    oval: bool


class SheetState(Value):
    """The mark of one sheet in the strip, with a word."""

    name: SheetName
    mark: SheetMark
    says: str


class Survey(Value):
    """What a job comes to."""

    sources: tuple[SourceSurvey, ...]
    bodies: tuple[BodySurvey, ...]
    kits: tuple[KitSurvey, ...]
    truths: tuple[Truth, ...]
    findings: tuple[Finding, ...]
    sheets: tuple[SheetState, ...]
    settled: bool
    releasable: bool


class Released(Value):
    """The newest release: its number, and whether the job still is as it was released."""

    number: int
    current: bool


def survey(job: Job, shelf: Shelf, released: Released | None = None) -> Survey:
    """Work out sizes, readings, room and findings of a whole job.

    Args:
        job: the job.
        shelf: gives meshes; only bodies turned by other than quarter turns need one.
        released: the newest release, if there is one.
    """
    judged = {source.id: verdict_of(job, source) for source in job.sources}
    places = places_of(job, shelf)
    rooms = rooms_of(job, places)
    findings = tuple(all_findings(job, shelf, rooms, judged))
    told = gathered(job, list(findings))
    settled = bool(job.sources) and all(source.unit for source in job.sources)
    same = identical(job)
    return Survey(
        sources=tuple(_source_survey(job, key, found) for key, found in judged.items()),
        bodies=tuple(
            _body_survey(job, body, places.get(body.id), rooms.get(body.id), findings, same)
            for body in job.bodies
        ),
        kits=tuple(_kit_survey(job, kit.id, places) for kit in job.kits),
        truths=_truths(job),
        findings=told,
        sheets=_sheets(job, told, settled, released),
        settled=settled,
        releasable=settled and bool(job.bodies) and not any(finding.stops for finding in findings),
    )


def all_findings(
    job: Job, shelf: Shelf, rooms: dict[str, Room], judged: dict[str, Verdict] | None = None
) -> list[Finding]:
    """Return everything worth knowing about a job, what corrections changed included, stops first."""
    found = (
        findings_of(job, rooms, judged)
        + reading_findings(job)
        + allowance_findings(job)
        + change_findings(job, shelf)
    )
    order = {"stop": 0, "look": 1, "note": 2}
    return sorted(found, key=lambda finding: order[finding.severity])


def _truths(job: Job) -> tuple[Truth, ...]:
    """What the readings say, for every kit and every body that is corrected on its own."""
    found = []
    for group in job.groups():
        if not all(job.source_of(body).unit for body in group):
            continue
        together = [body for body in group if not body.alone] if len(group) > 1 else []
        subjects = [(group[0].kit or "", tuple(together))] if together else []
        subjects += [(body.id, (body,)) for body in group if body.alone or len(group) == 1]
        found += [truth for key, bodies in subjects if (truth := truth_of(job, key, bodies)) is not None]
    return tuple(found)


def rooms_of(job: Job, places: dict[str, Place]) -> dict[str, Room]:
    """Hold every placed body against the machine."""
    return {key: room_of(place.bounds, job.machine) for key, place in places.items()}


def _source_survey(job: Job, key: str, found: Verdict) -> SourceSurvey:
    source, bodies = job.source(key), job.bodies_of(key)
    return SourceSurvey(
        id=key,
        numbers=numbers_of(bodies, source) if bodies else (0.0, 0.0, 0.0),
        candidates=found.candidates,
        suggested=found.leads,
        mm_per_unit=MM_PER[source.unit] if source.unit else None,
        home=any(source.home),
    )


def _kit_survey(job: Job, key: str, places: dict[str, Place]) -> KitSurvey:
    bodies = job.group(key)
    source = job.source_of(bodies[0])
    alone = all(body.source == source.id for body in bodies)
    settled = all(job.source_of(body).unit for body in bodies)
    numbers = numbers_of(bodies, source) if alone else None
    sizes = group_sizes(job, bodies) if settled else None
    return KitSurvey(
        id=key,
        bodies=tuple(body.id for body in bodies),
        numbers=numbers,
        chain=_chain(job, bodies[0], numbers or sizes, sizes, _released(job, bodies)) if sizes else None,
        volume_mm3=sum(_volume(job, body) for body in bodies) if settled and _all_closed(bodies) else None,
        readings=tuple(row for body in bodies for row in _readings(job, body)) if settled else (),
        room=_kit_room(job, bodies, places) if settled else None,
        fits_as_it_lies=fits_as_it_lies(sizes, job.machine) if sizes else None,
        oval=_is_oval(bodies[0]),
    )


def _kit_room(job: Job, bodies: tuple[Body, ...], places: dict[str, Place]) -> Room:
    low = np.min([places[body.id].bounds[0] for body in bodies], axis=0)
    high = np.max([places[body.id].bounds[1] for body in bodies], axis=0)
    return room_of(np.stack([low, high]), job.machine)


def _is_oval(body: Body) -> bool:
    return len({round(factor, 12) for factor in body.correction.factors}) > 1 or bool(body.correction.along)


def _volume(job: Job, body: Body) -> float:
    x, y, z = body.correction.factors
    x *= body.correction.along.factor if body.correction.along else 1.0
    return body.volume * MM_PER[job.settled_unit(body)] ** 3 * x * y * z


def _body_survey(
    job: Job,
    body: Body,
    place: Place | None,
    room: Room | None,
    findings: tuple[Finding, ...],
    same: dict[str, tuple[str, ...]],
) -> BodySurvey:
    source = job.source_of(body)
    settled = source.unit is not None
    scale = MM_PER[source.unit] if source.unit else 1.0
    factors = body.correction.factors
    return BodySurvey(
        id=body.id,
        identical=same.get(body.id, ()),
        releasable=settled and not any(one.stops and one.concerns(body) for one in findings),
        reshaped=reshaped(job, body) if settled else "",
        numbers=numbers_in_job_axes(body, source),
        chain=chain_of(job, body) if settled else None,
        volume_mm3=_volume(job, body) if settled and body.health.closed else None,
        area_mm2=body.area * (scale * factors[0]) ** 2 if settled and not _is_oval(body) else None,
        readings=_readings(job, body) if settled else (),
        room=room,
        fits_as_it_lies=fits_as_it_lies(true_sizes(job, body), job.machine) if settled else None,
        placement=_placement(job, body, scale, place.shift if place else np.zeros(3)),
        oval=_is_oval(body),
    )


def _all_closed(bodies: Iterable[Body]) -> bool:
    """An open surface bounds no volume: where one is among them, no sum is told."""
    return all(body.health.closed for body in bodies)


def reshaped(job: Job, body: Body) -> str:
    """Name the way kept bores are drawn; where nothing is scaled they are as the file has them."""
    if not body.kept or (body.correction.factors == (1.0, 1.0, 1.0) and body.correction.along is None):
        return ""
    linear, _ = true_linear(job, body)
    told = repr((body.geometry, linear.tolist(), [one.model_dump() for one in body.kept]))
    return hashlib.sha256(told.encode()).hexdigest()[:16]


def chain_of(job: Job, body: Body) -> tuple[ChainRow, ...]:
    """Return the size chain of a body, a row per axis."""
    source = job.source_of(body)
    sizes = sizes_in(body, source, job.settled_unit(body))
    return _chain(job, body, numbers_in_job_axes(body, source), sizes, allowed_sizes(job, body))


def _released(job: Job, bodies: tuple[Body, ...]) -> Vec3:
    """The overall size of several bodies with their allowances."""
    bounds = np.stack([allowed_bounds(job, body) for body in bodies])
    return as_vec3(bounds[:, 1].max(axis=0) - bounds[:, 0].min(axis=0))


def _chain(job: Job, body: Body, numbers: Vec3, sizes: Vec3, released: Vec3) -> tuple[ChainRow, ...]:
    unit = job.settled_unit(body)
    return tuple(
        ChainRow(
            axis=axis,
            number=numbers[i],
            mm_per_unit=MM_PER[unit],
            factor=_factor(body, i, numbers[i] * MM_PER[unit], sizes[i]),
            size_mm=sizes[i],
            size_in=sizes[i] / MM_PER[Unit.IN],
            allowance_mm=released[i] - sizes[i],
            released_mm=released[i],
        )
        for i, axis in enumerate(AXES)
    )


def _factor(body: Body, axis: int, drawn: float, size: float) -> float:
    """The factor of an axis; under a stretch in a direction, what it comes to on the overall size."""
    return size / drawn if body.correction.along and drawn > 0 else body.correction.factors[axis]


def _readings(job: Job, body: Body) -> tuple[ReadingNow, ...]:
    return tuple(
        _reading_now(job, body, reading)
        for reading in job.readings
        if reading.body == body.id and not reading.lost
    )


def _reading_now(job: Job, body: Body, reading: Reading) -> ReadingNow:
    lengths, band = lengths_of(job, reading), band_of(reading)
    worst = lengths[0] if band is None else max(lengths, key=lambda length: abs(off(band, length)))
    repeats = reading.repeats
    return ReadingNow(
        id=reading.id,
        model_mm=worst,
        least_mm=min(lengths) if max(lengths) - min(lengths) > 1e-6 else None,
        off_mm=None if band is None else off(band, worst),
        met=band is not None and all(band.holds(length) for length in lengths),
        band=written(reading),
        wanted_mm=None if band is None else band.wanted,
        spread_mm=max(repeats) - min(repeats) if repeats else None,
        drives=reading.id in body.correction.readings,
        ends=ends_of(reading.gauge),
    )


def _placement(job: Job, body: Body, scale: float, shift: Floats) -> Placement:
    source = job.source_of(body)
    true = np.diag(body.correction.factors) @ along_matrix(body) @ turn_up(source.up) * scale
    home = true @ np.asarray(source.home)
    turn = seat_matrix(body.seat)
    allowed, move = true, home
    if source.unit is not None and not body.allowance.none:
        factors, more = allowed_linear(job, body)
        allowed, move = np.diag(factors) @ true, home * factors + more
    return Placement(
        true=_rows(true),
        true_shift=as_vec3(home),
        seated=_rows(turn @ allowed),
        seated_shift=as_vec3(turn @ move + shift),
    )


def _rows(matrix: Floats) -> tuple[Vec3, Vec3, Vec3]:
    return (as_vec3(matrix[0]), as_vec3(matrix[1]), as_vec3(matrix[2]))


def _sheets(
    job: Job, findings: tuple[Finding, ...], settled: bool, released: Released | None
) -> tuple[SheetState, ...]:
    def state(name: SheetName, done: str) -> SheetState:
        here = [finding for finding in findings if finding.sheet == name]
        stops = sum(finding.stops for finding in here)
        looks = sum(finding.severity == "look" for finding in here)
        if stops:
            return SheetState(name=name, mark="stop", says=f"{stops} stop")
        if looks:
            return SheetState(name=name, mark="look", says=f"{looks} look")
        return SheetState(name=name, mark="settled" if done else "blank", says=done)

    trued = settled and any(body.correction.set_by for body in job.bodies)
    return (
        state("intake", "settled" if settled else ""),
        state("truing", "trued" if trued else ("as in file" if settled else "")),
        SheetState(name="fit", mark="later", says="later"),
        SheetState(name="division", mark="later", says="later"),
        state("seating", "on plate" if settled else ""),
        _release_sheet(released),
    )


def _release_sheet(released: Released | None) -> SheetState:
    if released is None:
        return SheetState(name="release", mark="blank", says="")
    if released.current:
        return SheetState(name="release", mark="settled", says=f"r{released.number} proven")
    return SheetState(name="release", mark="look", says=f"changed since r{released.number}")
