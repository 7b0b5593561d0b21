"""The facts of sources, bodies and kits: chain, readings, room, how they are drawn."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable

import numpy as np

from aimtrue.core.chain.allowance import allowed_bounds, allowed_linear, allowed_sizes
from aimtrue.core.chain.sizes import group_sizes, numbers_in_job_axes, numbers_of, sizes_in, true_sizes
from aimtrue.core.chain.transforms import along_matrix, true_linear, turn_up
from aimtrue.core.gauges.bands import band_of, written
from aimtrue.core.gauges.measure import ends_of, lengths_of
from aimtrue.core.intake.unit import Verdict
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.job import AXES, Job, Reading, Vec3
from aimtrue.core.model.lengths import MM_PER, Unit
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.seating.places import Place
from aimtrue.core.seating.room import Room, fits_as_it_lies, room_of
from aimtrue.core.seating.turns import seat_matrix
from aimtrue.core.survey.values import BodySurvey, ChainRow, KitSurvey, Placement, ReadingNow, SourceSurvey
from aimtrue.core.truing.truth import off


def source_survey(job: Job, key: str, found: Verdict) -> SourceSurvey:
    source, bodies = job.source(key), job.bodies_of(key)
    return SourceSurvey(
        id=key,
        numbers=numbers_of(bodies, source) if bodies else (0.0, 0.0, 0.0),
        candidates=found.candidates,
        suggested=found.leads,
        mm_per_unit=MM_PER[source.unit] if source.unit else None,
        home=any(source.home),
    )


def kit_survey(job: Job, key: str, places: dict[str, Place]) -> KitSurvey:
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


def body_survey(
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
