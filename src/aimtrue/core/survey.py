"""Everything the screens show of a job, worked out from it: sizes, chain, findings.

The interface computes nothing; it shows this.
"""

from __future__ import annotations

from typing import Literal

import numpy as np

from aimtrue.core.findings import Finding, health_findings, room_findings, size_findings, unit_findings
from aimtrue.core.frames import (
    as_vec3,
    numbers_in_job_axes,
    seat_matrix,
    seated_points,
    sizes_in,
    true_sizes,
    turn_up,
)
from aimtrue.core.intake.unit import Candidate, candidates, suggestion
from aimtrue.core.job import AXES, Axis, Body, Job, Value, Vec3
from aimtrue.core.lengths import MM_PER, Unit
from aimtrue.core.mesh import Floats
from aimtrue.core.seating.room import Room, fits_as_it_lies, room_of
from aimtrue.core.shelf import Shelf
from aimtrue.core.truing.gauges import gauge_vector

SheetName = Literal["intake", "truing", "fit", "division", "seating", "release"]
SheetMark = Literal["settled", "look", "stop", "blank", "later"]


class ChainRow(Value):
    """One axis of the size chain: number in file x unit x correction = size, in mm."""

    axis: Axis
    number: float
    mm_per_unit: float
    factor: float
    size_mm: float
    size_in: float


SHOWN_MM = 0.005
"""Half of the hundredth of a millimetre that sheets show: nearer than this a reading is met."""


class ReadingNow(Value):
    """A reading held against the model as corrected.

    ``off_mm`` is model less real; None while no real length is told. ``met`` tells whether it is
    right to the hundredth that is shown.
    """

    id: str
    model_mm: float
    off_mm: float | None
    met: bool
    drives: bool


class Placement(Value):
    """How the bench draws a body: ``matrix`` (3 x 3, by rows) times file point, plus ``shift``, in mm.

    ``true`` leaves the seat out; ``seated`` has it.
    """

    true: tuple[Vec3, Vec3, Vec3]
    seated: tuple[Vec3, Vec3, Vec3]
    seated_shift: Vec3


class BodySurvey(Value):
    """A body's facts in force. Everything in mm is None while the unit is not settled."""

    id: str
    numbers: Vec3
    candidates: tuple[Candidate, ...]
    suggested: Unit | None
    chain: tuple[ChainRow, ...] | None
    volume_mm3: float | None
    area_mm2: float | None
    readings: tuple[ReadingNow, ...]
    room: Room | None
    fits_as_it_lies: bool | None
    placement: Placement
    oval: bool


class SheetState(Value):
    """The mark of one sheet in the strip, with a word."""

    name: SheetName
    mark: SheetMark
    says: str


class Survey(Value):
    """What a job comes to."""

    bodies: tuple[BodySurvey, ...]
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
    bodies = tuple(_body_survey(job, body, shelf) for body in job.bodies)
    findings = tuple(
        finding
        for body, facts in zip(job.bodies, bodies, strict=True)
        for finding in findings_of(job, body, facts.room)
    )
    settled = bool(job.sources) and all(source.unit for source in job.sources)
    return Survey(
        bodies=bodies,
        findings=findings,
        sheets=_sheets(job, findings, settled, released),
        settled=settled,
        releasable=settled and bool(job.bodies) and not any(finding.stops for finding in findings),
    )


def findings_of(job: Job, body: Body, room: Room | None) -> list[Finding]:
    """Return everything worth knowing about one body, stops first."""
    source = job.source_of(body)
    found = unit_findings(source) + health_findings(body)
    if source.unit is not None:
        found += size_findings(job, body)
    if room is not None:
        found += room_findings(job, body, room)
    order = {"stop": 0, "look": 1, "note": 2}
    return sorted(found, key=lambda finding: order[finding.severity])


def seated_bounds(job: Job, body: Body, shelf: Shelf) -> tuple[Floats, Floats]:
    """Return where a seated body is, exact for any turn.

    Returns:
        The (2, 3) bounds in mm from the front left corner of the plate, and the (3,) shift
        that took the turned body there.
    """
    # Under quarter turns the corners of the bounds tell as much as all the vertices.
    oblique = any(turn.degrees % 90 for turn in body.seat.turns)
    points = shelf.mesh(body.geometry).vertices if oblique else np.array([body.low, body.high])
    seated, shift = seated_points(job, body, points)
    return np.stack([seated.min(axis=0), seated.max(axis=0)]), shift


def _body_survey(job: Job, body: Body, shelf: Shelf) -> BodySurvey:
    source = job.source_of(body)
    numbers = numbers_in_job_axes(body, source)
    ranked = candidates(numbers, f"{source.words} {source.name}", job.machine)
    settled = source.unit is not None
    bounds, shift = seated_bounds(job, body, shelf) if settled else (None, np.zeros(3))
    scale = MM_PER[source.unit] if source.unit else 1.0
    factors = body.correction.factors
    return BodySurvey(
        id=body.id,
        numbers=numbers,
        candidates=tuple(ranked),
        suggested=suggestion(ranked),
        chain=chain_of(job, body) if settled else None,
        volume_mm3=body.volume * scale**3 * factors[0] * factors[1] * factors[2] if settled else None,
        area_mm2=body.area * (scale * factors[0]) ** 2 if settled and len(set(factors)) == 1 else None,
        readings=_readings(job, body) if settled else (),
        room=room_of(bounds, job.machine) if bounds is not None else None,
        fits_as_it_lies=fits_as_it_lies(true_sizes(job, body), job.machine) if settled else None,
        placement=_placement(job, body, scale, shift),
        oval=len({round(f, 12) for f in factors}) > 1,
    )


def chain_of(job: Job, body: Body) -> tuple[ChainRow, ...]:
    """Return the size chain of a body, a row per axis."""
    unit = job.settled_unit(body)
    source = job.source_of(body)
    numbers, sizes = numbers_in_job_axes(body, source), sizes_in(body, source, unit)
    return tuple(
        ChainRow(
            axis=axis,
            number=numbers[i],
            mm_per_unit=MM_PER[unit],
            factor=body.correction.factors[i],
            size_mm=sizes[i],
            size_in=sizes[i] / MM_PER[Unit.IN],
        )
        for i, axis in enumerate(AXES)
    )


def _readings(job: Job, body: Body) -> tuple[ReadingNow, ...]:
    rows = []
    for reading in job.readings:
        if reading.body == body.id:
            now = float(np.linalg.norm(gauge_vector(job, body, reading)))
            off = None if reading.real_mm is None else now - reading.real_mm
            rows.append(
                ReadingNow(
                    id=reading.id,
                    model_mm=now,
                    off_mm=off,
                    met=off is not None and abs(off) < SHOWN_MM,
                    drives=body.correction.reading == reading.id,
                )
            )
    return tuple(rows)


def _placement(job: Job, body: Body, scale: float, shift: Floats) -> Placement:
    true = np.diag(body.correction.factors) @ turn_up(job.source_of(body).up) * scale
    return Placement(
        true=_rows(true), seated=_rows(seat_matrix(body.seat) @ true), seated_shift=as_vec3(shift)
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
