"""This module says what actions of sheet 2 do: sizes, factors, gauges, readings, allowance."""

from __future__ import annotations

import numpy as np

from aimtrue.core.chain.correction import as_typed, checked, corrected, scaled_to_size, with_factor
from aimtrue.core.chain.kept_bores import bolt_bores, kept_bore
from aimtrue.core.chain.sizes import group_sizes, restretched
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.gauges.bands import band_of
from aimtrue.core.gauges.measure import lengths_of
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.decisions import Correction
from aimtrue.core.model.ids import BodyId, Owner
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import is_factor, parse_factor, parse_length
from aimtrue.core.model.ownership import corrected_with, group_of, readings_on
from aimtrue.core.model.value import AXES, Axis
from aimtrue.core.room import ActionHandler
from aimtrue.core.truing.actions import (
    ChooseMaterial,
    CorrectAlone,
    FitMachine,
    FreeAxis,
    HoldAxis,
    KeepAsDrawn,
    KeepBores,
    ResetCorrection,
    ScaleTogether,
    SetAllowance,
    SetFactor,
    SetLeastWall,
    SizeAxis,
    SizeLongest,
    StretchAlong,
    TakeCalibration,
    TakeProposal,
)
from aimtrue.core.truing.allowances import choose_material, set_allowance, set_least_wall, take_calibration
from aimtrue.core.truing.solving.directional_stretch import stretched_along
from aimtrue.core.truing.solving.readings_verdict import truth_of


def _size_axis(job: Job, action: SizeAxis, store: GeometryStore) -> Job:
    if is_factor(action.typed):
        return set_factor(job, SetFactor(body=action.body, axis=action.axis, typed=action.typed), store)
    return _sized(job, action.body, action.axis, parse_length(action.typed), action.typed)


def _sized(job: Job, key: Owner, axis: Axis, target: float, typed: str) -> Job:
    # A kit is sized as a whole; a body of it by its own extent, and the kit follows.
    # Pieces are of a whole that is in the kit, too: its size is what is typed, with or without them.
    kit = key in job.kits_by_id
    wholes = tuple(body for body in corrected_with(job, key) if body.division is None) if kit else ()
    sized = wholes or (job.body(BodyId(key)),)
    sizes = group_sizes(job, sized)
    said = f"{axis.upper()} = {' '.join(typed.split())}"
    correction = scaled_to_size(job.correction_of(sized[0]), sizes, axis, target, said)
    correction = as_typed(correction, axis, typed, sized)
    return corrected(job, corrected_with(job, key), correction)


def _size_longest(job: Job, action: SizeLongest, store: GeometryStore) -> Job:
    sizes = group_sizes(job, corrected_with(job, action.body))
    axis = AXES[int(np.argmax(sizes))]
    return _sized(job, action.body, axis, parse_length(action.typed), action.typed)


def _fit_machine(job: Job, action: FitMachine, store: GeometryStore) -> Job:
    bodies = corrected_with(job, action.body)
    sizes = group_sizes(job, bodies)
    now = job.correction_of(bodies[0])
    if any(now.free):
        raise Refused(
            "all-free", "an axis is freed, so the body cannot be scaled as a whole", remedy="link it again"
        )
    moving = [i for i in range(3) if not now.held[i] and sizes[i] > 0]
    over = [AXES[i].upper() for i in range(3) if now.held[i] and sizes[i] > job.machine.volume.room[i]]
    if over:
        raise Refused(
            "held-over", f"{' and '.join(over)} is held and over {job.machine.name}", remedy="let it go first"
        )
    if not moving:
        raise Refused("all-held", "every axis is held", remedy="let one go")
    ratio = min(job.machine.volume.room[i] / sizes[i] for i in moving)
    factors = [factor * ratio if i in moving else factor for i, factor in enumerate(now.factors)]
    correction = checked(now, factors, f"fits {job.machine.name}")
    return corrected(job, bodies, correction.model_copy(update={"absolute": True}))


def set_factor(job: Job, action: SetFactor, store: GeometryStore) -> Job:
    """Give what shares a correction a factor, on one axis or on all that are linked."""
    bodies = corrected_with(job, action.body)
    job.settled_unit(bodies[0])
    factor = parse_factor(action.typed)
    said = f"factor {' '.join(action.typed.split())}" + (f" on {action.axis.upper()}" if action.axis else "")
    correction = with_factor(job.correction_of(bodies[0]), action.axis, factor, said)
    return corrected(job, bodies, as_typed(correction, action.axis, action.typed))


def _scale_together(job: Job, action: ScaleTogether, store: GeometryStore) -> Job:
    bodies = corrected_with(job, action.body)
    job.settled_unit(bodies[0])
    now = job.correction_of(bodies[0])
    moving = [i for i in range(3) if not now.held[i]]
    if not moving:
        raise Refused("all-held", "every axis is held", remedy="let one go")
    ratio = parse_factor(action.typed) / now.factors[moving[0]]
    factors = [factor * ratio if i in moving else factor for i, factor in enumerate(now.factors)]
    correction = checked(now, factors, f"factor {action.typed}")
    return corrected(job, bodies, correction.model_copy(update={"absolute": False}))


def _free_axis(job: Job, action: FreeAxis, store: GeometryStore) -> Job:
    return _with_axis(job, action.body, action.axis, "free", action.free)


def _hold_axis(job: Job, action: HoldAxis, store: GeometryStore) -> Job:
    return _with_axis(job, action.body, action.axis, "held", action.held)


def _with_axis(job: Job, key: Owner, axis: Axis, field: str, on: bool) -> Job:
    bodies = corrected_with(job, key)
    job.settled_unit(bodies[0])
    now = job.correction_of(bodies[0])
    flags = tuple(on if name == axis else old for name, old in zip(AXES, getattr(now, field), strict=True))
    return corrected(job, bodies, now.model_copy(update={field: flags}))


def _reset_correction(job: Job, action: ResetCorrection, store: GeometryStore) -> Job:
    bodies = corrected_with(job, action.body)
    now = job.correction_of(bodies[0])
    return corrected(job, bodies, Correction(free=now.free, held=now.held))


def _stretch_along(job: Job, action: StretchAlong, store: GeometryStore) -> Job:
    reading = job.reading(action.reading)
    bodies = corrected_with(job, reading.body)
    band = band_of(reading)
    if band is None or reading.gauge.kind == "angle":
        raise Refused("no-length", f"{reading.name} has no real length yet", remedy="type it first")
    after = corrected(job, bodies, stretched_along(job, bodies[0], reading, band))
    for body in corrected_with(after, reading.body):  # The whole mesh tells an overall size.
        after = after.with_body(restretched(after, body, store))
    if not all(band.holds(length) for length in lengths_of(after, reading)):
        raise AimTrueError(
            "solver-off",
            f"the stretch found does not meet {reading.name}, though it should",
            remedy="nothing was changed; report this with the reading",
        )
    return after


def _take_proposal(job: Job, action: TakeProposal, store: GeometryStore) -> Job:
    bodies = corrected_with(job, action.body)
    truth = truth_of(job, action.body, bodies)
    candidates = (
        next((proposal for proposal in truth.proposals if proposal.key == action.key), None)
        if truth
        else None
    )
    if candidates is None:
        raise Refused("proposal-gone", "this way is no longer proposed", remedy="choose one that is listed")
    correction = checked(job.correction_of(bodies[0]), list(candidates.factors), candidates.says.lower())
    update = {
        "free": candidates.free,
        "readings": tuple(outcome.reading for outcome in candidates.outcomes),
        "absolute": True,
        "typed": (),
    }
    return corrected(job, bodies, correction.model_copy(update=update))


def _keep_as_drawn(job: Job, action: KeepAsDrawn, store: GeometryStore) -> Job:
    for key in action.bodies:
        job = job.with_body(job.body(key).model_copy(update={"as_drawn": action.on}))
    return job


def _correct_alone(job: Job, action: CorrectAlone, store: GeometryStore) -> Job:
    body = job.body(action.body)
    if body.kit is None:
        raise Refused("no-kit", f"{body.name} is in no kit, so it is always corrected alone")
    others = [other for other in group_of(job, body.id) if other.id != body.id and not other.alone]
    if not action.on and others:
        job = corrected(job, (body,), job.correction_of(others[0]))
    update: dict[str, object] = {"alone": action.on}
    # From here on the body has a correction of its own, and is as large as before.
    if action.on and not body.alone:
        update["own"] = job.decisions_of(body).for_one(body.id, body.id, readings_on(job, body.id))
    return job.with_body(job.body(body.id).model_copy(update=update))


def _keep_bores(job: Job, action: KeepBores, store: GeometryStore) -> Job:
    for key in action.bodies:
        body = job.body(key)
        features = store.features(body)
        if action.features is None:
            chosen = bolt_bores(job, body, features)
        else:
            chosen = [features.listed[number] for number in action.features if number < len(features.listed)]
        centres = {feature.point for feature in chosen}
        kept = tuple(bore for bore in body.kept if bore.point not in centres)
        if action.on:
            kept += tuple(kept_bore(feature) for feature in chosen)
        job = job.with_body(body.model_copy(update={"kept": kept}))
    return job


ACTIONS = (
    ActionHandler(SizeAxis, _size_axis),
    ActionHandler(SizeLongest, _size_longest),
    ActionHandler(FitMachine, _fit_machine),
    ActionHandler(SetFactor, set_factor),
    ActionHandler(ScaleTogether, _scale_together),
    ActionHandler(FreeAxis, _free_axis),
    ActionHandler(HoldAxis, _hold_axis),
    ActionHandler(ResetCorrection, _reset_correction),
    ActionHandler(StretchAlong, _stretch_along),
    ActionHandler(TakeProposal, _take_proposal),
    ActionHandler(KeepAsDrawn, _keep_as_drawn),
    ActionHandler(CorrectAlone, _correct_alone),
    ActionHandler(KeepBores, _keep_bores),
    ActionHandler(SetLeastWall, set_least_wall),
    ActionHandler(ChooseMaterial, choose_material),
    ActionHandler(SetAllowance, set_allowance),
    ActionHandler(TakeCalibration, take_calibration),
)
"""What is done in this part of the room."""
