"""This module says what was typed, met again after what it was typed of has changed; and nothing claimed
that does not hold.

Geometry that is made anew, a new revision or another unit changes sizes under a correction. Sizes and
readings that were in force when that happened are met again, so that who typed 139.7 mm still gets 139.7
mm. What cannot be met again is no longer said to be met.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

from aimtrue.core.chain.correction import as_typed, corrected, scaled_to_size
from aimtrue.core.chain.sizes import group_sizes
from aimtrue.core.errors import Refused
from aimtrue.core.gauges.bands import band_of
from aimtrue.core.gauges.measure import lengths_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import Correction, TypedSize
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length
from aimtrue.core.model.readings import Reading
from aimtrue.core.model.value import AXES
from aimtrue.core.truing.finding_kinds import READING_MISSED
from aimtrue.core.truing.solving.readings_verdict import trued

_SAME = 1e-9


def restated(before: Job, after: Job) -> Job:
    """Return a job in which what was typed of changed bodies is met again, and claims are as they hold.

    Args:
        before: the job before an action.
        after: the job after it.
    """
    if before is after:
        return after
    for bodies in _corrected_together(after):
        after = _claimed_of_these(after, bodies)
    for bodies in _corrected_together(after):
        if _is_made_anew(before, after, bodies):
            after = _met_again(after, bodies)
    for bodies in _corrected_together(after):
        if after.correction_of(bodies[0]).readings and not _is_untouched(before, after, bodies):
            after = _claimed_as_met(after, bodies)
    return _still_accepted(before, after)


def missed(job: Job, reading: Reading) -> float:
    """Return by how much a reading is out of its band in mm, negative where it is too short; 0 if it is met.

    A reading without a length or a place, or of a file whose unit is open, misses nothing.
    """
    band = band_of(reading)
    if band is None or reading.lost or reading.gauge.kind == "angle":
        return 0.0
    if not job.settled(_ends(job, reading)):
        return 0.0
    lengths = lengths_of(job, reading)
    if all(band.holds(length) for length in lengths):
        return 0.0
    return max((band.over(length) for length in lengths), key=abs)


def _ends(job: Job, reading: Reading) -> tuple[Body, ...]:
    return tuple(job.body(key) for key in (reading.body, reading.gauge.other) if key is not None)


def _corrected_together(job: Job) -> Iterator[tuple[Body, ...]]:
    """Bodies by the correction that they share, those that a division made left out: their wholes have it."""
    owners: dict[str, list[Body]] = {}
    for body in job.bodies:
        if body.division is None:
            owner = body.id if body.alone or body.kit is None else body.kit
            owners.setdefault(owner, []).append(body)
    return (tuple(bodies) for bodies in owners.values())


def _claimed_of_these(job: Job, bodies: tuple[Body, ...]) -> Job:
    """No longer claim a size that was typed of a body which has another correction by now, or is gone."""
    now = job.correction_of(bodies[0])
    keys = {body.id for body in bodies}
    typed = tuple(typed_size for typed_size in now.typed if set(typed_size.bodies) <= keys)
    if typed == now.typed:
        return job
    correction = now.model_copy(update={"typed": typed})
    return job.with_decisions(job.body(bodies[0].id), correction=correction)


def _is_made_anew(before: Job, after: Job, bodies: tuple[Body, ...]) -> bool:
    """Whether geometry or unit of some bodies came about by the action, under a correction that claims a
    size.
    """
    correction = after.correction_of(bodies[0])
    if not after.settled(bodies) or not (
        correction.readings or any(typed.bodies for typed in correction.typed)
    ):
        return False
    old = {body.id: body for body in before.bodies}
    units = {source.id: source.unit for source in before.sources}
    return any(
        body.id not in old
        or old[body.id].geometry != body.geometry
        or units.get(body.source) != after.source_of(body).unit
        for body in bodies
    )


def _is_untouched(before: Job, after: Job, bodies: tuple[Body, ...]) -> bool:
    """Whether neither bodies nor readings nor what is in force for the bodies changed, by being the same."""
    if before.readings is not after.readings or before.sources is not after.sources:
        return False
    old = {body.id: body for body in before.bodies}
    return all(
        body.id in old and old[body.id] is body and before.decisions_of(body) is after.decisions_of(body)
        for body in bodies
    )


def _met_again(job: Job, bodies: tuple[Body, ...]) -> Job:
    correction = job.correction_of(bodies[0])
    try:
        if correction.readings:
            solved = trued(job, bodies)
            return corrected(job, bodies, solved) if solved is not None else job
        for typed in correction.typed:
            if typed.bodies and typed.axis is not None:
                job = _sized_again(job, bodies, typed)
    except Refused:
        # It is kept as drawn, or the size that was typed is now absurd: what is missed is told as missed.
        return job
    return job


def _sized_again(job: Job, bodies: tuple[Body, ...], typed: TypedSize) -> Job:
    assert typed.axis is not None
    sized = tuple(job.body(key) for key in typed.bodies)
    sizes, target = group_sizes(job, sized), parse_length(typed.text)
    if math.isclose(sizes[AXES.index(typed.axis)], target, rel_tol=_SAME):
        return job
    now = job.correction_of(bodies[0])
    correction = scaled_to_size(now, sizes, typed.axis, target, now.set_by)
    return corrected(job, bodies, as_typed(correction, typed.axis, typed.text, sized))


def _claimed_as_met(job: Job, bodies: tuple[Body, ...]) -> Job:
    """The correction of some bodies, said to come of readings only as far as these are there and met."""
    now = job.correction_of(bodies[0])
    readings = {reading.id: reading for reading in job.readings}
    there = [readings[key] for key in now.readings if key in readings and not readings[key].lost]
    driving = [reading for reading in there if reading.role == "drive" and reading.has_length]
    if not driving:
        gone = "readings that are gone" if len(now.readings) > 1 else "a reading that is gone"
        return corrected(
            job, bodies, now.model_copy(update={"readings": (), "set_by": gone, "absolute": False})
        )
    update: dict[str, object] = {
        "readings": tuple(reading.id for reading in there),
        "set_by": said_by(job, driving, now),
    }
    correction = now.model_copy(update=update)
    return job if correction == now else corrected(job, bodies, correction)


def said_by(job: Job, driving: list[Reading], now: Correction) -> str:
    """Say what a correction comes from: readings only where all of them are met."""
    off = sum(missed(job, reading) != 0 for reading in driving)
    if not off:
        return now.set_by if not _says_missed(now.set_by) else _plainly(driving)
    many = "1 of them" if off == 1 else f"{off} of them"
    if len(driving) == 1:
        return f"{driving[0].name}, which is missed"
    return f"nearest to {len(driving)} readings, {many} missed"


def _says_missed(set_by: str) -> bool:
    return set_by.endswith("missed")


def _plainly(driving: list[Reading]) -> str:
    return f"{driving[0].name} = {driving[0].typed}" if len(driving) == 1 else f"{len(driving)} readings"


def _still_accepted(before: Job, after: Job) -> Job:
    """Take back the acceptance of missed readings where others are missed now, or by more."""
    for body in after.bodies:
        if READING_MISSED.code not in body.accepted:
            continue
        if _misses_of(before, body.id) != _misses_of(after, body.id):
            left = tuple(code for code in body.accepted if code != READING_MISSED.code)
            reasons = tuple(pair for pair in body.reasons if pair[0] != READING_MISSED.code)
            after = after.with_body(body.model_copy(update={"accepted": left, "reasons": reasons}))
    return after


def _misses_of(job: Job, key: str) -> dict[str, float]:
    mine = [reading for reading in job.readings if reading.body == key and reading.role == "drive"]
    return {reading.id: round(missed(job, reading), 4) for reading in mine if missed(job, reading)}
