"""This module says what actions on readings do: gauges made, moved and removed, real lengths typed,
imported and met.
"""

from __future__ import annotations

from aimtrue.core.chain.correction import corrected
from aimtrue.core.chain.sizes import true_sizes
from aimtrue.core.chain.transforms import turn_up
from aimtrue.core.errors import Refused
from aimtrue.core.gauges.bands import parse_reading, times_larger, within_reason
from aimtrue.core.gauges.construction import GaugedMesh, PickedSpot, made
from aimtrue.core.gauges.measure import length_of
from aimtrue.core.intake.naming import a_name
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length, parse_offset
from aimtrue.core.model.ownership import corrected_with, file_axis
from aimtrue.core.model.readings import FINENESS_MM, Gauge, Reading
from aimtrue.core.model.value import AXES
from aimtrue.core.room import ActionHandler
from aimtrue.core.truing import csv
from aimtrue.core.truing.actions import (
    AddReading,
    AdjustReading,
    ImportReadings,
    MoveReading,
    NameReading,
    RelaxReading,
    RemoveReading,
    SetReading,
    SolveReadings,
)
from aimtrue.core.truing.confirmations import USUAL_CLEARANCE_MM, ask_first
from aimtrue.core.truing.solving.readings_verdict import trued


def _trued(job: Job, reading: Reading) -> Job:
    """Let the driving readings of the body or kit that a reading belongs to set its correction."""
    bodies = corrected_with(job, reading.body)
    correction = trued(job, bodies)
    return job if correction is None else corrected(job, bodies, correction)


def _add_reading(job: Job, action: AddReading, store: GeometryStore) -> Job:
    gauge = _gauge(job, action, store)
    number = job.counter + 1
    name = f"{_NAMES[action.kind]} {number}" if action.kind != "extent" else gauge.says
    reading = Reading(id=f"r{number}", name=name, body=action.body, gauge=gauge)
    added = job.model_copy(update={"readings": (*job.readings, reading), "counter": number})
    if not action.typed.strip():
        return added
    typed = SetReading(reading=reading.id, typed=action.typed, sure=action.sure)
    return set_reading(added, typed, store)


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


def _gauge(job: Job, action: AddReading | MoveReading, store: GeometryStore) -> Gauge:
    body = job.body(action.body)
    job.settled_unit(body)
    if action.kind == "extent":
        axis = action.axis or "x"
        return Gauge(kind="extent", axis=axis, kit=action.kit, says=f"overall {axis.upper()}")
    along = file_axis(job, body, action.axis) if action.axis else None
    spots = (_height(job, body, action),) if action.at.strip() else action.spots
    other = _other(job, body, spots)
    shape = GaugedMesh.fetched(body, store)
    if other is None:
        return made(action.kind, spots, along, action.kit, shape)
    gauge = made(action.kind, spots, along, action.kit, shape, GaugedMesh.fetched(other, store))
    return gauge.model_copy(update={"other": other.id})


def _other(job: Job, body: Body, spots: tuple[PickedSpot, ...]) -> Body | None:
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


def _height(job: Job, body: Body, action: AddReading | MoveReading) -> PickedSpot:
    """Where a typed height is on the body as it is now, as a share of its extent along the file's axis."""
    number = AXES.index(action.axis or "z")
    share = parse_length(action.at) / true_sizes(job, body)[number]
    if not 0 < share < 1:
        raise Refused(
            "height-beside", f"{action.at.strip()} is beyond the body", remedy="type a height within it"
        )
    # Where the axis of the job runs against that of the file, its low end is the file's high end.
    against = turn_up(job.source_of(body).up)[number].sum() < 0
    return PickedSpot(share=1 - share if against else share)


def _move_reading(job: Job, action: MoveReading, store: GeometryStore) -> Job:
    reading = job.reading(action.reading)
    moved = {"gauge": _gauge(job, action, store), "body": action.body, "lost": False}
    reading = reading.model_copy(update=moved)
    return _trued(job.with_reading(reading), reading)


def set_reading(job: Job, action: SetReading, store: GeometryStore) -> Job:
    """Take the real length of a reading as typed; where it drives, the correction follows."""
    reading = job.reading(action.reading)
    if not action.typed.strip():
        bare = {"real_mm": None, "low_mm": None, "high_mm": None, "typed": "", "repeats": ()}
        return _trued(job.with_reading(reading.model_copy(update=bare)), reading)
    if reading.gauge.kind == "angle":
        raise Refused("angle", "an angle is only told; scaling does not change it", remedy="give a length")
    typed_reading = parse_reading(action.typed)
    length = length_of(job, reading)
    if not action.sure and reading.role == "drive":
        _refuse_absurd(typed_reading.real or typed_reading.low or typed_reading.high or length, length)
    update = {
        "real_mm": typed_reading.real,
        "low_mm": typed_reading.low,
        "high_mm": typed_reading.high,
        "repeats": typed_reading.repeats,
        "typed": " ".join(action.typed.split()),
    }
    reading = reading.model_copy(update=update)
    return _trued(job.with_reading(reading), reading)


def _refuse_absurd(real: float, length: float) -> None:
    if not within_reason(real, length):
        raise ask_first(f"this makes the body {times_larger(real, length)}, so the unit may be wrong")


def _relax_reading(job: Job, action: RelaxReading, store: GeometryStore) -> Job:
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


def _adjust_reading(job: Job, action: AdjustReading, store: GeometryStore) -> Job:
    reading = job.reading(action.reading)
    update: dict[str, object] = {}
    if action.role is not None:
        update["role"] = action.role
    if action.means is not None:
        update |= {"means": action.means, "fineness_mm": FINENESS_MM[action.means]}
    if action.fineness is not None:
        update["fineness_mm"] = parse_length(action.fineness)
    if action.clearance is not None:
        update["clearance_mm"] = mm = parse_offset(action.clearance.strip() or "0")
        if abs(mm) > USUAL_CLEARANCE_MM and not action.sure:
            raise ask_first(f"a clearance of {mm:+.6g} mm is far from the 0.3 to 0.5 mm of a usual fit")
    if action.note is not None:
        update["note"] = action.note
    reading = reading.model_copy(update=update)
    if set(update) == {"note"}:
        return job.with_reading(reading)
    return _trued(job.with_reading(reading), reading)


def _import_readings(job: Job, action: ImportReadings, store: GeometryStore) -> Job:
    bodies = corrected_with(job, action.body)
    good, problems = csv.sorted_out(job, bodies, action.text)
    keys = {body.id for body in bodies}
    here = {reading.name: reading for reading in job.readings if reading.body in keys}
    if not good:
        unknown = "; ".join(problem.line() for problem in problems[:3]) or "no row names a reading here"
        raise Refused(
            "csv-nothing", f"no reading was taken: {unknown}", remedy="mend the rows, then import again"
        )
    for row in good:
        job = job.with_reading(here[row.name].model_copy(update=row.update()))
    return _trued(job, here[good[-1].name])


def _solve_readings(job: Job, action: SolveReadings, store: GeometryStore) -> Job:
    bodies = corrected_with(job, action.body)
    if action.free is not None:
        now = job.correction_of(bodies[0])
        free = tuple(old or axis == action.free for axis, old in zip(AXES, now.free, strict=True))
        job = corrected(job, bodies, now.model_copy(update={"free": free}))
        bodies = corrected_with(job, action.body)
    correction = trued(job, bodies)
    if correction is None:
        raise Refused("no-readings", "no reading drives here", remedy="type the real length of a gauge")
    return corrected(job, bodies, correction)


def _name_reading(job: Job, action: NameReading, store: GeometryStore) -> Job:
    return job.with_reading(job.reading(action.reading).model_copy(update={"name": a_name(action.name)}))


def _remove_reading(job: Job, action: RemoveReading, store: GeometryStore) -> Job:
    reading = job.reading(action.reading)
    # That the correction no longer comes of it is seen to after every action, see ``restated``.
    return job.model_copy(update={"readings": tuple(r for r in job.readings if r.id != reading.id)})


ACTIONS = (
    ActionHandler(AddReading, _add_reading),
    ActionHandler(MoveReading, _move_reading),
    ActionHandler(SetReading, set_reading),
    ActionHandler(RelaxReading, _relax_reading),
    ActionHandler(AdjustReading, _adjust_reading),
    ActionHandler(ImportReadings, _import_readings),
    ActionHandler(SolveReadings, _solve_readings),
    ActionHandler(NameReading, _name_reading),
    ActionHandler(RemoveReading, _remove_reading),
)
"""What is done in this part of the room."""
