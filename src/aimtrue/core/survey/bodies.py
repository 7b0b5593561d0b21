"""The facts of sources, bodies and kits: chain, readings, room, how they are drawn."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Iterable, Sequence

import numpy as np

from aimtrue.core.chain.allowance import allowed_bounds_of, allowed_linear, allowed_sizes
from aimtrue.core.chain.seat_turns import seat_key, seat_matrix
from aimtrue.core.chain.sizes import (
    alike,
    group_sizes,
    is_oval,
    numbers_in_job_axes,
    numbers_of,
    numbers_of_each,
    sizes_of,
    true_area,
    true_volume,
)
from aimtrue.core.chain.transforms import along_matrix, true_linear, turn_up
from aimtrue.core.gauges.bands import band_of, written
from aimtrue.core.gauges.measure import ends_of, lengths_of
from aimtrue.core.intake.revision_changes import revision_changes
from aimtrue.core.intake.units.verdict import UnitVerdict
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import Correction, Decisions
from aimtrue.core.model.ids import BodyId, KitId, Owner, SourceId, Subject
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, Unit
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.ownership import bodies_of, division_of, group_of, seat_of, subject_of
from aimtrue.core.model.readings import DIRECTED_KINDS, Reading
from aimtrue.core.model.seats import Seat
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.seating.placement.places import SeatPlace
from aimtrue.core.seating.placement.room import RoomCheck, fits_as_it_lies, room_of
from aimtrue.core.survey.values import (
    BodySurvey,
    DecisionsInForce,
    KitSurvey,
    Placement,
    ReadingState,
    SeatBounds,
    SizeChain,
    SourceSurvey,
)
from aimtrue.core.truing.solving.readings_verdict import off


def source_survey(job: Job, key: SourceId, verdict: UnitVerdict) -> SourceSurvey:
    """Tell of a file what its unit is weighed to be."""
    source, bodies = job.source(key), bodies_of(job, key)
    return SourceSurvey(
        id=key,
        numbers=numbers_of(bodies, source) if bodies else (0.0, 0.0, 0.0),
        candidates=verdict.candidates,
        suggested=verdict.leads,
        mm_per_unit=MM_PER[source.unit] if source.unit else None,
        home=any(any(job.home_of(body)) for body in bodies),
        changed=revision_changes(job, source),
    )


def owner_of(body: Body) -> str:
    """Return what the decisions in force for a body belong to: its kit, or the body itself."""
    return body.id if body.kit is None or body.alone else body.kit


def decided(job: Job) -> tuple[DecisionsInForce, ...]:
    """Return what is in force, once for every kit and every body that decides for itself."""
    kits: dict[Owner, Decisions] = {kit.id: kit.shared for kit in job.kits}
    own: dict[Owner, Decisions] = {body.id: body.own for body in job.bodies if owner_of(body) == body.id}
    seats: dict[Owner, Subject] = {body.id: subject_of(job, body) for body in job.bodies}
    return tuple(
        DecisionsInForce(
            id=key,
            correction=decisions.correction,
            shrinkage=decisions.shrinkage,
            seat=job.seats_of(seats.get(key, key))[0],
        )
        for key, decisions in {**kits, **own}.items()
    )


def kit_survey(job: Job, key: KitId, places: dict[str, SeatPlace]) -> KitSurvey:
    """Tell of several bodies together how large they are, and whether that is inside the machine."""
    everyone = group_of(job, key)
    # What was made of others lies within them; and a loose pin lies at the origin, where no part of it is.
    bodies = tuple(body for body in everyone if body.division is None) or everyone
    source = job.source_of(bodies[0])
    alone = all(body.source == source.id for body in bodies)
    settled = job.settled(bodies)
    numbers = numbers_of(bodies, source) if alone else None
    sizes = group_sizes(job, bodies) if settled else None
    return KitSurvey(
        id=key,
        bodies=tuple(body.id for body in everyone),
        numbers=numbers,
        chain=_chain(job, bodies[0], numbers or sizes, sizes, _released(job, bodies)) if sizes else None,
        volume_mm3=(
            sum(true_volume(job, body) for body in bodies) if settled and _all_closed(bodies) else None
        ),
        readings=tuple(row for body in everyone for row in _readings(job, body)) if settled else (),
        room=_kit_room(job, bodies, places) if settled else None,
        fits_as_it_lies=fits_as_it_lies(sizes, job.machine) if sizes else None,
        oval=is_oval(job.correction_of(bodies[0])),
    )


def _kit_room(job: Job, bodies: tuple[Body, ...], places: dict[str, SeatPlace]) -> RoomCheck | None:
    place = places.get(bodies[0].id)
    return None if place is None else room_of(place.bounds, _machine_of(job, place))


_SURVEYED: Memo[BodySurvey] = Memo(8192)


def body_survey(
    job: Job,
    body: Body,
    place: SeatPlace | None,
    stopped: set[str],
    same: dict[BodyId, tuple[BodyId, ...]],
    stale: frozenset[str],
) -> BodySurvey:
    """Return the facts in force of a body; the same object while nothing of it changed.

    Args:
        job, body: the body may be of an unsettled unit.
        place: where its first seat stands; None while its unit is not settled, or it is on no plate.
        stopped: bodies for which a stop finding is open.
        same: by body, all that are the same part.
        stale: bodies to be made again.
    """
    seat = seat_of(job, body) if place is None else place.seat
    bounds = None if place is None else place.each[body.id]
    where = () if place is None else (*place.each[body.id].ravel().tolist(), *place.shift.tolist())
    things = (*job.in_force(body), job.plates)
    marks = (division_of(job, body) is not None, body.id in stale)
    plain = (where, seat_key(seat), body.id in stopped, same.get(body.id, ()), marks)
    bare = _SURVEYED.get(things, plain, lambda: _body_survey(job, body, place, bounds, *plain[2:]))
    readings = _readings(job, body) if job.source_of(body).unit else ()
    return bare.model_copy(update={"readings": readings}) if readings else bare


def _body_survey(  # noqa: PLR0913 - told apart by their names
    job: Job,
    body: Body,
    place: SeatPlace | None,
    bounds: Floats | None,
    stopped: bool,
    identical: tuple[str, ...],
    marks: tuple[bool, bool],
) -> BodySurvey:
    _, decisions, source, _ = job.in_force(body)
    correction, settled = decisions.correction, source.unit is not None
    scale = MM_PER[source.unit] if source.unit else 1.0
    oval = is_oval(correction)
    chain = chains_of(job, (body,))[0] if settled else None
    return BodySurvey(
        id=body.id,
        owner=owner_of(body),
        identical=identical,
        releasable=settled and not stopped and not marks[1],
        divided=marks[0],
        stale=marks[1],
        reshaped=reshaped(job, body) if settled else "",
        numbers=chain.number if chain else numbers_in_job_axes(body, source),
        chain=chain,
        volume_mm3=true_volume(job, body) if settled and body.health.closed else None,
        area_mm2=true_area(job, body) if settled and not oval else None,
        readings=(),
        room=None if bounds is None else _stands(bounds),
        fits_as_it_lies=fits_as_it_lies(chain.size_mm, job.machine) if chain else None,
        placement=_placement(job, body, scale, place),
        oval=oval,
    )


def _stands(bounds: Floats) -> SeatBounds:
    (x0, y0, z0), (x1, y1, z1) = bounds.tolist()
    return SeatBounds((x0, y0, z0), (x1, y1, z1))


def _all_closed(bodies: Iterable[Body]) -> bool:
    """An open surface bounds no volume: where one is among them, no sum is told."""
    return all(body.health.closed for body in bodies)


def reshaped(job: Job, body: Body) -> str:
    """Name the way kept bores are drawn; where nothing is scaled they are as the file has them."""
    if not body.kept or (
        job.correction_of(body).factors == (1.0, 1.0, 1.0) and job.correction_of(body).along is None
    ):
        return ""
    linear, _ = true_linear(job, body)
    key = repr((body.geometry, linear.tolist(), [bore.model_dump() for bore in body.kept]))
    return hashlib.sha256(key.encode()).hexdigest()[:16]


_CHAINS: Memo[SizeChain] = Memo(8192)
_SAME_FACTOR = 1e-12
_NO_ALLOWANCE_MM = 1e-9
"""What rounding leaves between two sizes that are meant to be the same."""


def chains_of(job: Job, bodies: Sequence[Body]) -> list[SizeChain]:
    """Return the size chains of several bodies whose unit is settled; those alike at once."""
    return _CHAINS.get_all(
        [job.in_force(body) for body in bodies], (), lambda some: _chains_of(job, [bodies[i] for i in some])
    )


def _chains_of(job: Job, bodies: list[Body]) -> list[SizeChain]:
    sizes = sizes_of(job, bodies)
    size_chains: dict[int, SizeChain] = {}
    for some in alike(job, bodies):
        source = job.source_of(bodies[some[0]])
        numbers = numbers_of_each([bodies[i] for i in some], source).tolist()
        for i, (x, y, z) in zip(some, numbers, strict=True):
            size_chains[i] = _chain(job, bodies[i], (x, y, z), sizes[i], allowed_sizes(job, bodies[i]))
    return [size_chains[i] for i in range(len(bodies))]


def _released(job: Job, bodies: tuple[Body, ...]) -> Vec3:
    """The overall size of several bodies with their allowances."""
    bounds = allowed_bounds_of(job, bodies)
    return as_vec3(bounds[:, 1].max(axis=0) - bounds[:, 0].min(axis=0))


def _chain(job: Job, body: Body, numbers: Vec3, sizes: Vec3, released: Vec3) -> SizeChain:
    per, inch = MM_PER[job.settled_unit(body)], MM_PER[Unit.IN]
    (x, y, z), (rx, ry, rz) = sizes, released
    correction = job.correction_of(body)
    factors = _factors(correction, numbers, per, sizes)
    return SizeChain(
        number=numbers,
        mm_per_unit=per,
        factor=factors,
        common=_common(correction, factors),
        size_mm=sizes,
        size_in=(x / inch, y / inch, z / inch),
        allowance_mm=(rx - x, ry - y, rz - z),
        allowed=max(abs(rx - x), abs(ry - y), abs(rz - z)) > _NO_ALLOWANCE_MM,
        released_mm=released,
    )


def _common(correction: Correction, factors: Vec3) -> float | None:
    """The factor that all linked axes share; None where they differ, or none is linked."""
    linked = [factor for factor, free in zip(factors, correction.free, strict=True) if not free]
    alike = linked and all(math.isclose(factor, linked[0], rel_tol=_SAME_FACTOR) for factor in linked)
    return linked[0] if alike else None


def _factors(correction: Correction, numbers: Vec3, per: float, sizes: Vec3) -> Vec3:
    """The factors; under a stretch in a direction, what they come to on the overall size."""
    if not correction.along:
        return correction.factors
    x, y, z = (
        size / (number * per) if number > 0 else factor
        for size, number, factor in zip(sizes, numbers, correction.factors, strict=True)
    )
    return x, y, z


def _readings(job: Job, body: Body) -> tuple[ReadingState, ...]:
    return tuple(
        _reading_now(job, body, reading)
        for reading in job.readings
        if reading.body == body.id and not reading.lost
    )


def _reading_now(job: Job, body: Body, reading: Reading) -> ReadingState:
    lengths, band = lengths_of(job, reading), band_of(reading)
    worst = lengths[0] if band is None else max(lengths, key=lambda length: abs(off(band, length)))
    repeats = reading.repeats
    return ReadingState(
        id=reading.id,
        model_mm=worst,
        least_mm=min(lengths) if max(lengths) - min(lengths) > 1e-6 else None,
        off_mm=None if band is None else off(band, worst),
        met=band is not None and all(band.holds(length) for length in lengths),
        band=written(reading),
        wanted_mm=None if band is None else band.wanted,
        spread_mm=max(repeats) - min(repeats) if repeats else None,
        drives=reading.id in job.correction_of(body).readings,
        directed=reading.gauge.kind in DIRECTED_KINDS and reading.has_length,
        ends=ends_of(reading.gauge),
    )


_PLACEMENTS: Memo[Placement] = Memo(8192)


def _machine_of(job: Job, place: SeatPlace | None) -> Machine:
    """The machine of the plate that something stands on; of what is on none, the first."""
    return job.machine if place is None else job.plate(place.seat.plate).machine


def _placement(job: Job, body: Body, scale: float, place: SeatPlace | None) -> Placement:
    """How the bench draws a body; bodies of a kit share one, unless a clearance is about a body's own
    middle.
    """
    _, decisions, source, home = job.in_force(body)
    mine = body if any(body.clearance.mm) else None
    seat = seat_of(job, body) if place is None else place.seat
    shift = np.zeros(3) if place is None else place.shift
    return _PLACEMENTS.get(
        (decisions, source, home, mine),
        (seat_key(seat), *shift.tolist()),
        lambda: _worked_out_placement(job, body, scale, seat, shift),
    )


def _worked_out_placement(job: Job, body: Body, scale: float, seat: Seat, shift: Floats) -> Placement:
    source = job.source_of(body)
    correction = job.correction_of(body)
    true = np.diag(correction.factors) @ along_matrix(correction.along) @ turn_up(source.up) * scale
    home = true @ np.asarray(job.home_of(body))
    turn = seat_matrix(seat)
    allowed, move = true, home
    if source.unit is not None and job.allowed(body):
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
