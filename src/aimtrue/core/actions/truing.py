"""What actions of sheet 2 do: sizes, factors, gauges, readings, allowance."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from aimtrue.core.actions.intake import a_name
from aimtrue.core.actions.models import (
    AddReading,
    AdjustReading,
    ChooseMaterial,
    CorrectAlone,
    FitMachine,
    FreeAxis,
    HoldAxis,
    ImportReadings,
    KeepAsDrawn,
    KeepBores,
    MoveReading,
    NameReading,
    RelaxReading,
    RemoveReading,
    ResetCorrection,
    ScaleTogether,
    SetAllowance,
    SetFactor,
    SetLeastWall,
    SetReading,
    SizeAxis,
    SizeLongest,
    SolveReadings,
    StretchAlong,
    TakeProposal,
)
from aimtrue.core.errors import Refused
from aimtrue.core.frames import group_sizes, true_sizes, turn_up
from aimtrue.core.job import AXES, Allowance, Axis, Body, Correction, Gauge, Job, Reading, Value, Vec3
from aimtrue.core.lengths import is_factor, parse_factor, parse_length, parse_offset
from aimtrue.core.readings import FINENESS_MM
from aimtrue.core.shelf import Shelf
from aimtrue.core.truing import csv, gauges
from aimtrue.core.truing.along import stretched_along
from aimtrue.core.truing.bands import band_of, parse_reading
from aimtrue.core.truing.correction import scaled_to_size, with_factor
from aimtrue.core.truing.keep import bolt_bores, kept_bore
from aimtrue.core.truing.truth import trued, truth_of

_ABSURD = 1000.0
"""A reading that changes the size by more than this is asked about first."""


def _bodies(job: Job, key: str) -> tuple[Body, ...]:
    """The bodies a change of size concerns."""
    return job.corrected_with(key)


def _size_axis(job: Job, action: SizeAxis, shelf: Shelf) -> Job:
    if is_factor(action.typed):
        return _set_factor(job, SetFactor(body=action.body, axis=action.axis, typed=action.typed), shelf)
    return _sized(job, action.body, action.axis, parse_length(action.typed), action.typed)


def _sized(job: Job, key: str, axis: Axis, target: float, typed: str) -> Job:
    # A kit is sized as a whole; a body of it by its own extent, and the kit follows.
    sized = _bodies(job, key) if any(kit.id == key for kit in job.kits) else (job.body(key),)
    sizes = group_sizes(job, sized)
    said = f"{axis.upper()} = {' '.join(typed.split())}"
    correction = scaled_to_size(sized[0].correction, sizes, axis, target, said)
    return _corrected(job, _bodies(job, key), correction)


def _size_longest(job: Job, action: SizeLongest, shelf: Shelf) -> Job:
    sizes = group_sizes(job, _bodies(job, action.body))
    axis = AXES[int(np.argmax(sizes))]
    return _sized(job, action.body, axis, parse_length(action.typed), action.typed)


def _fit_machine(job: Job, action: FitMachine, shelf: Shelf) -> Job:
    bodies = _bodies(job, action.body)
    sizes = group_sizes(job, bodies)
    now = bodies[0].correction
    ratio = min(room / size for room, size in zip(job.machine.volume, sizes, strict=True) if size > 0)
    linked = [i for i in range(3) if not now.free[i]]
    if len(linked) < 3:
        raise Refused(
            "all-free", "an axis is freed, so the body cannot be scaled as a whole", remedy="link it again"
        )
    factors = tuple(factor * ratio for factor in now.factors)
    update = {"factors": factors, "set_by": f"fits {job.machine.name}", "readings": (), "absolute": True}
    return _corrected(job, bodies, now.model_copy(update=update))


def _set_factor(job: Job, action: SetFactor, shelf: Shelf) -> Job:
    bodies = _bodies(job, action.body)
    job.settled_unit(bodies[0])
    factor = parse_factor(action.typed)
    said = f"factor {' '.join(action.typed.split())}" + (f" on {action.axis.upper()}" if action.axis else "")
    return _corrected(job, bodies, with_factor(bodies[0].correction, action.axis, factor, said))


def _scale_together(job: Job, action: ScaleTogether, shelf: Shelf) -> Job:
    bodies = _bodies(job, action.body)
    job.settled_unit(bodies[0])
    now = bodies[0].correction
    moving = [i for i in range(3) if not now.held[i]]
    if not moving:
        raise Refused("all-held", "every axis is held", remedy="let one go")
    ratio = parse_factor(action.typed) / now.factors[moving[0]]
    factors = tuple(factor * ratio if i in moving else factor for i, factor in enumerate(now.factors))
    update = {"factors": factors, "set_by": f"factor {action.typed}", "readings": (), "absolute": False}
    return _corrected(job, bodies, now.model_copy(update=update))


def _free_axis(job: Job, action: FreeAxis, shelf: Shelf) -> Job:
    return _with_axis(job, action.body, action.axis, "free", action.free)


def _hold_axis(job: Job, action: HoldAxis, shelf: Shelf) -> Job:
    return _with_axis(job, action.body, action.axis, "held", action.held)


def _with_axis(job: Job, key: str, axis: Axis, field: str, on: bool) -> Job:
    bodies = _bodies(job, key)
    job.settled_unit(bodies[0])
    now = bodies[0].correction
    flags = tuple(on if name == axis else old for name, old in zip(AXES, getattr(now, field), strict=True))
    return _corrected(job, bodies, now.model_copy(update={field: flags}))


def _reset_correction(job: Job, action: ResetCorrection, shelf: Shelf) -> Job:
    bodies = _bodies(job, action.body)
    now = bodies[0].correction
    return _corrected(job, bodies, Correction(free=now.free, held=now.held))


def _corrected(job: Job, bodies: tuple[Body, ...], correction: Correction) -> Job:
    """Give bodies a correction; those that mate with a real part refuse another size."""
    for body in bodies:
        if body.as_drawn and (correction.factors, correction.along) != (
            body.correction.factors,
            body.correction.along,
        ):
            raise Refused(
                "as-drawn",
                f"{body.name} is kept as drawn because it mates with a real part",
                remedy="let it be corrected, take it out of the kit, or correct the others alone",
            )
    for body in bodies:
        job = job.with_body(body.model_copy(update={"correction": correction}))
    return job


def _trued(job: Job, reading: Reading) -> Job:
    """Let the driving readings of the body or kit that a reading belongs to set its correction."""
    bodies = _bodies(job, reading.body)
    correction = trued(job, bodies)
    return job if correction is None else _corrected(job, bodies, correction)


def _add_reading(job: Job, action: AddReading, shelf: Shelf) -> Job:
    gauge = _gauge(job, action, shelf)
    number = job.counter + 1
    name = f"{_NAMES[action.kind]} {number}" if action.kind != "extent" else gauge.says
    reading = Reading(id=f"r{number}", name=name, body=action.body, gauge=gauge)
    added = job.model_copy(update={"readings": (*job.readings, reading), "counter": number})
    if not action.typed.strip():
        return added
    told = SetReading(reading=reading.id, typed=action.typed, sure=action.sure)
    return _set_reading(added, told, shelf)


_NAMES = {
    "points": "span",
    "faces": "faces",
    "extent": "overall",
    "diameter": "diameter",
    "radius": "radius",
    "depth": "depth",
    "wall": "wall",
    "angle": "angle",
    "perimeter": "girth",
}


def _gauge(job: Job, action: AddReading | MoveReading, shelf: Shelf) -> Gauge:
    body = job.body(action.body)
    job.settled_unit(body)
    if action.kind == "extent":
        axis = action.axis or "x"
        return Gauge(kind="extent", axis=axis, kit=action.kit, says=f"overall {axis.upper()}")
    along = job.file_axis(body, action.axis) if action.axis else None
    spots = (_height(job, body, action),) if action.at.strip() else action.spots
    other = _other(job, body, spots)
    on = gauges.On.body(body, shelf)
    if other is None:
        return gauges.made(action.kind, spots, along, action.kit, on)
    gauge = gauges.made(action.kind, spots, along, action.kit, on, gauges.On.body(other, shelf))
    return gauge.model_copy(update={"other": other.id})


def _other(job: Job, body: Body, spots: tuple[gauges.Spot, ...]) -> Body | None:
    """Return the second body that spots are on; one that keeps a common origin with the first."""
    keys = [spot.body or body.id for spot in spots]
    if set(keys) <= {body.id}:
        return None
    other = job.body(keys[-1])
    if len(keys) != 2 or keys[0] != body.id:
        raise Refused("spots", "this gauge is on one body", remedy="pick places of one body")
    if body.kit is None or (other.kit, other.source) != (body.kit, body.source) or other.alone or body.alone:
        raise Refused(
            "no-common-origin",
            f"{body.name} and {other.name} do not share an origin and a correction",
            remedy="pick the second place on the body of the first, or on one of its kit and file",
        )
    return other


def _height(job: Job, body: Body, action: AddReading | MoveReading) -> gauges.Spot:
    """Where a typed height is on the body as it is now, as a share of its extent along the file's axis."""
    number = AXES.index(action.axis or "z")
    share = parse_length(action.at) / true_sizes(job, body)[number]
    if not 0 < share < 1:
        raise Refused(
            "height-beside", f"{action.at.strip()} is beyond the body", remedy="type a height within it"
        )
    # Where the axis of the job runs against that of the file, its low end is the file's high end.
    against = turn_up(job.source_of(body).up)[number].sum() < 0
    return gauges.Spot(share=1 - share if against else share)


def _move_reading(job: Job, action: MoveReading, shelf: Shelf) -> Job:
    reading = job.reading(action.reading)
    moved = {"gauge": _gauge(job, action, shelf), "body": action.body, "lost": False}
    reading = reading.model_copy(update=moved)
    return _trued(job.with_reading(reading), reading)


def _set_reading(job: Job, action: SetReading, shelf: Shelf) -> Job:
    reading = job.reading(action.reading)
    if not action.typed.strip():
        bare = {"real_mm": None, "low_mm": None, "high_mm": None, "typed": "", "repeats": ()}
        return _trued(job.with_reading(reading.model_copy(update=bare)), reading)
    if reading.gauge.kind == "angle":
        raise Refused("angle", "an angle is only told; scaling does not change it", remedy="give a length")
    told = parse_reading(action.typed)
    length = gauges.length_of(job, reading)
    if not action.sure and reading.role == "drive":
        _refuse_absurd(told.real or told.low or told.high or length, length)
    update = {
        "real_mm": told.real,
        "low_mm": told.low,
        "high_mm": told.high,
        "repeats": told.repeats,
        "typed": " ".join(action.typed.split()),
    }
    reading = reading.model_copy(update=update)
    return _trued(job.with_reading(reading), reading)


def _refuse_absurd(real: float, length: float) -> None:
    ratio = real / length if length else float("inf")
    if not 1 / _ABSURD <= ratio <= _ABSURD:
        times = f"{ratio:.3g} times as large" if ratio > 1 else f"{1 / ratio:.3g} times smaller"
        raise Refused(
            "ask-first",
            f"this makes the body {times}; is the unit right?",
            remedy="press Enter again to do it all the same",
        )


def _relax_reading(job: Job, action: RelaxReading, shelf: Shelf) -> Job:
    reading = job.reading(action.reading)
    limit = action.limit_mm
    low, high, real = reading.low_mm, reading.high_mm, reading.real_mm
    if real is not None and low is None and high is None:
        low = high = real
    grain = 1e-9 * limit
    low = None if low is None else min(low, limit - grain)
    high = None if high is None else max(high, limit + grain)
    typed = reading.typed.split("[")[0].strip()
    if low is not None and high is not None:
        typed = f"{real if real is not None else (low + high) / 2:.6g} [{low:.6g}..{high:.6g}]"
    relaxed = reading.model_copy(update={"low_mm": low, "high_mm": high, "typed": typed})
    return _trued(job.with_reading(relaxed), relaxed)


def _adjust_reading(job: Job, action: AdjustReading, shelf: Shelf) -> Job:
    reading = job.reading(action.reading)
    update: dict[str, object] = {}
    if action.role is not None:
        update["role"] = action.role
    if action.means is not None:
        update |= {"means": action.means, "fineness_mm": FINENESS_MM[action.means]}
    if action.fineness is not None:
        update["fineness_mm"] = parse_length(action.fineness)
    if action.clearance is not None:
        update["clearance_mm"] = parse_offset(action.clearance)
    if action.note is not None:
        update["note"] = action.note
    reading = reading.model_copy(update=update)
    if set(update) == {"note"}:
        return job.with_reading(reading)
    return _trued(job.with_reading(reading), reading)


def _import_readings(job: Job, action: ImportReadings, shelf: Shelf) -> Job:
    bodies = _bodies(job, action.body)
    rows = csv.read(action.text)
    here = {reading.name: reading for reading in job.readings if reading.body in {body.id for body in bodies}}
    last = None
    for row in rows.good:
        if row.name not in here:
            continue
        last = here[row.name].model_copy(update=row.update())
        job = job.with_reading(last)
    if last is None:
        unknown = "; ".join(problem.line() for problem in rows.problems[:3]) or "no row names a reading here"
        raise Refused(
            "csv-nothing", f"no reading was taken: {unknown}", remedy="mend the rows, then import again"
        )
    return _trued(job, last)


def _solve_readings(job: Job, action: SolveReadings, shelf: Shelf) -> Job:
    bodies = _bodies(job, action.body)
    correction = trued(job, bodies)
    if correction is None:
        raise Refused("no-readings", "no reading drives here", remedy="type the real length of a gauge")
    return _corrected(job, bodies, correction)


def _stretch_along(job: Job, action: StretchAlong, shelf: Shelf) -> Job:
    reading = job.reading(action.reading)
    bodies = _bodies(job, reading.body)
    band = band_of(reading)
    if band is None or reading.gauge.kind == "angle":
        raise Refused("no-length", f"{reading.name} has no real length yet", remedy="type it first")
    return _corrected(job, bodies, stretched_along(job, bodies[0], reading, band))


def _take_proposal(job: Job, action: TakeProposal, shelf: Shelf) -> Job:
    bodies = _bodies(job, action.body)
    truth = truth_of(job, action.body, bodies)
    found = next((one for one in truth.proposals if one.key == action.key), None) if truth else None
    if found is None:
        raise Refused("proposal-gone", "this way is no longer proposed", remedy="choose one that is listed")
    update = {
        "factors": found.factors,
        "free": found.free,
        "set_by": found.says.lower(),
        "readings": tuple(one.reading for one in found.outcomes),
        "absolute": True,
    }
    return _corrected(job, bodies, bodies[0].correction.model_copy(update=update))


def _name_reading(job: Job, action: NameReading, shelf: Shelf) -> Job:
    return job.with_reading(job.reading(action.reading).model_copy(update={"name": a_name(action.name)}))


def _remove_reading(job: Job, action: RemoveReading, shelf: Shelf) -> Job:
    reading = job.reading(action.reading)
    left = job.model_copy(update={"readings": tuple(r for r in job.readings if r.id != reading.id)})
    for body in left.corrected_with(reading.body):
        names = tuple(name for name in body.correction.readings if name != reading.id)
        kept = body.correction.model_copy(update={"readings": names})
        left = left.with_body(body.model_copy(update={"correction": kept}))
    return left


def _keep_as_drawn(job: Job, action: KeepAsDrawn, shelf: Shelf) -> Job:
    for key in action.bodies:
        job = job.with_body(job.body(key).model_copy(update={"as_drawn": action.on}))
    return job


def _correct_alone(job: Job, action: CorrectAlone, shelf: Shelf) -> Job:
    body = job.body(action.body)
    if body.kit is None:
        raise Refused("no-kit", f"{body.name} is in no kit, so it is always corrected alone")
    update: dict[str, object] = {"alone": action.on}
    if not action.on:
        others = [one for one in job.group(body.id) if one.id != body.id and not one.alone]
        update["correction"] = others[0].correction if others else body.correction
    return job.with_body(body.model_copy(update=update))


def _keep_bores(job: Job, action: KeepBores, shelf: Shelf) -> Job:
    for key in action.bodies:
        body = job.body(key)
        features = shelf.features(body)
        if action.features is None:
            chosen = bolt_bores(job, body, features)
        else:
            chosen = [features.listed[number] for number in action.features if number < len(features.listed)]
        centres = {feature.point for feature in chosen}
        kept = tuple(one for one in body.kept if one.point not in centres)
        if action.on:
            kept += tuple(kept_bore(job, body, feature) for feature in chosen)
        job = job.with_body(body.model_copy(update={"kept": kept}))
    return job


def _set_least_wall(job: Job, action: SetLeastWall, shelf: Shelf) -> Job:
    least = parse_length(action.typed) if action.typed.strip() else None
    return job.model_copy(update={"least_wall_mm": least})


def _choose_material(job: Job, action: ChooseMaterial, shelf: Shelf) -> Job:
    material = action.material
    if action.shrinkage is not None:
        material = material.model_copy(update={"shrinkage": _shares(action.shrinkage)})
    job = job.model_copy(update={"material": material})
    for body in job.bodies:
        if body.allowance.of_material:
            job = job.with_body(body.model_copy(update={"allowance": _of_material(job, body.allowance)}))
    return job


def _of_material(job: Job, allowance: Allowance) -> Allowance:
    says = f"usual of {job.material.name}"
    return allowance.model_copy(
        update={"shrinkage": job.material.shrinkage, "of_material": True, "says": says}
    )


def _set_allowance(job: Job, action: SetAllowance, shelf: Shelf) -> Job:
    bodies = _bodies(job, action.body)
    job.settled_unit(bodies[0])
    for body in bodies:
        old = body.allowance
        # Shrinkage is the material's and so the kit's; clearance is a body's own.
        mine = action.clearance is not None and (
            len(bodies) == 1 or action.body == body.id or action.body == body.kit
        )
        clearance = _offsets(action.clearance) if mine and action.clearance else old.clearance_mm
        made = _shrunk(job, old, action).model_copy(update={"clearance_mm": clearance})
        job = job.with_body(body.model_copy(update={"allowance": made}))
    return job


def _shrunk(job: Job, old: Allowance, action: SetAllowance) -> Allowance:
    """The allowance with the shrinkage that is asked for: the material's, one that is typed, or none."""
    if action.of_material:
        return _of_material(job, old)
    if action.shrinkage is not None:
        return Allowance(shrinkage=_shares(action.shrinkage), says=action.says)
    if action.of_material is False:
        return Allowance()
    return old.model_copy(update={"says": action.says or old.says})


def _shares(typed: tuple[str, str, str]) -> Vec3:
    x, y, z = (_share(one) for one in typed)
    return (x, y, z)


def _share(typed: str) -> float:
    """Read ``0.4`` or ``0.4 %`` as a share; a part may also grow."""
    text = typed.strip().removesuffix("%").strip().replace("−", "-").replace(",", ".")
    try:
        share = float(text or 0) / 100
    except ValueError:
        raise Refused("share", f"“{typed}” is not a percentage", remedy="type for example 0.4") from None
    if not -0.2 <= share <= 0.2:
        raise Refused("share-absurd", f"{typed} is over 20 %", remedy="plastics shrink by 0.2 to 1.5 %")
    return share


def _offsets(typed: tuple[str, str, str]) -> Vec3:
    x, y, z = (parse_offset(one) for one in typed)
    return (x, y, z)


DOING: dict[type[Value], Callable[..., Job]] = {
    SizeAxis: _size_axis,
    SizeLongest: _size_longest,
    FitMachine: _fit_machine,
    SetFactor: _set_factor,
    ScaleTogether: _scale_together,
    FreeAxis: _free_axis,
    HoldAxis: _hold_axis,
    ResetCorrection: _reset_correction,
    AddReading: _add_reading,
    MoveReading: _move_reading,
    SetReading: _set_reading,
    RelaxReading: _relax_reading,
    AdjustReading: _adjust_reading,
    ImportReadings: _import_readings,
    SolveReadings: _solve_readings,
    StretchAlong: _stretch_along,
    TakeProposal: _take_proposal,
    NameReading: _name_reading,
    RemoveReading: _remove_reading,
    KeepAsDrawn: _keep_as_drawn,
    CorrectAlone: _correct_alone,
    KeepBores: _keep_bores,
    SetLeastWall: _set_least_wall,
    ChooseMaterial: _choose_material,
    SetAllowance: _set_allowance,
}
