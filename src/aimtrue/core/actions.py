"""Everything a user can do to a job, and ``apply``, which does it.

An action is a small value; ``apply(job, action, shelf)`` returns the new job or raises
:class:`~aimtrue.core.errors.Refused`, and never changes anything in place. Typed text
travels in the action as typed, so history shows what the user wrote.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from aimtrue.core.errors import Refused
from aimtrue.core.frames import as_vec3, true_sizes
from aimtrue.core.job import (
    AXES,
    Anchor,
    Axis,
    Body,
    Correction,
    Job,
    Reading,
    Seat,
    Source,
    Turn,
    Up,
    Value,
)
from aimtrue.core.lengths import MM_PER, UNIT_NAMES, Unit, is_factor, parse_factor, parse_length
from aimtrue.core.seating.angles import parse_degrees
from aimtrue.core.shelf import Shelf
from aimtrue.core.truing import anchors
from aimtrue.core.truing.correction import (
    for_other_unit,
    for_other_up,
    scaled_to_reading,
    scaled_to_size,
    with_factor,
)
from aimtrue.core.truing.gauges import gauge_vector

ACCEPTABLE = ("open-edges", "turned-edges", "crowded-edges", "inside-out")
"""Findings of severity stop that a user may accept on purpose; the proof records it."""


class TakeIn(Value):
    """A file was read: its source and body join the job."""

    do: Literal["take-in"] = "take-in"
    source: Source
    body: Body


class SettleUnit(Value):
    """The user says which unit a source is in."""

    do: Literal["settle-unit"] = "settle-unit"
    source: str
    unit: Unit


class SetUp(Value):
    """The user says which axis of a source points up."""

    do: Literal["set-up"] = "set-up"
    source: str
    up: Up


class Rename(Value):
    """A body gets a name, which becomes its file name."""

    do: Literal["rename"] = "rename"
    body: str
    name: str


class Accept(Value):
    """A finding of severity stop is accepted on purpose, or no longer."""

    do: Literal["accept"] = "accept"
    body: str
    code: str
    accepted: bool = True


class SizeAxis(Value):
    """A size is typed for one axis: a length, or with ``%`` or ``x`` a factor."""

    do: Literal["size-axis"] = "size-axis"
    body: str
    axis: Axis
    typed: str


class SetFactor(Value):
    """A factor or percentage is typed, for one axis or (None) for all linked ones."""

    do: Literal["set-factor"] = "set-factor"
    body: str
    axis: Axis | None = None
    typed: str


class FreeAxis(Value):
    """An axis is freed from the others, or linked to them again."""

    do: Literal["free-axis"] = "free-axis"
    body: str
    axis: Axis
    free: bool


class ResetCorrection(Value):
    """Back to the size in the file; readings stay and tell how far off they are."""

    do: Literal["reset-correction"] = "reset-correction"
    body: str


class AddReading(Value):
    """Two places are picked; the real length may follow later."""

    do: Literal["add-reading"] = "add-reading"
    body: str
    a: Anchor
    b: Anchor
    typed: str = ""


class SetReading(Value):
    """The real length of a reading is typed; it becomes the one that drives."""

    do: Literal["set-reading"] = "set-reading"
    reading: str
    typed: str


class NameReading(Value):
    """A reading gets a name."""

    do: Literal["name-reading"] = "name-reading"
    reading: str
    name: str


class RemoveReading(Value):
    """A reading is taken away; the correction it gave stays."""

    do: Literal["remove-reading"] = "remove-reading"
    reading: str


class TurnSeat(Value):
    """A body is turned by a typed angle about an axis of the plate."""

    do: Literal["turn-seat"] = "turn-seat"
    body: str
    axis: Axis
    typed: str


class ResetSeat(Value):
    """A body stands again as it came."""

    do: Literal["reset-seat"] = "reset-seat"
    body: str


UserAction = Annotated[
    SettleUnit
    | SetUp
    | Rename
    | Accept
    | SizeAxis
    | SetFactor
    | FreeAxis
    | ResetCorrection
    | AddReading
    | SetReading
    | NameReading
    | RemoveReading
    | TurnSeat
    | ResetSeat,
    Field(discriminator="do"),
]
"""What the interface may send."""

Action = Annotated[TakeIn | UserAction, Field(discriminator="do")]
ACTION: TypeAdapter[Action] = TypeAdapter(Action)


def apply(job: Job, action: Action, shelf: Shelf) -> Job:
    """Return the job after an action.

    Args:
        job: the job as it is.
        action: what to do.
        shelf: gives meshes by hash; only picked places need one.

    Raises:
        Refused: the action cannot be done; the text says why and what to do.
    """
    doing = _DOING[type(action)]
    return doing(job, action, shelf)


def _take_in(job: Job, action: TakeIn, shelf: Shelf) -> Job:
    return job.model_copy(
        update={
            "sources": (*job.sources, action.source),
            "bodies": (*job.bodies, action.body),
        }
    )


def _settle_unit(job: Job, action: SettleUnit, shelf: Shelf) -> Job:
    source = job.source(action.source)
    how = "declared" if action.unit == source.declared else "told"
    if source.unit is not None:
        old, new = MM_PER[source.unit], MM_PER[action.unit]
        job = _with_corrections(job, source, lambda now: for_other_unit(now, old, new))
    return job.with_source(source.model_copy(update={"unit": action.unit, "how": how}))


def _set_up(job: Job, action: SetUp, shelf: Shelf) -> Job:
    source = job.source(action.source)
    if action.up == source.up:
        return job
    job = _with_corrections(job, source, for_other_up)
    return job.with_source(source.model_copy(update={"up": action.up}))


def _with_corrections(job: Job, source: Source, change: Callable[[Correction], Correction]) -> Job:
    """Change the correction of every body of a source."""
    for body in job.bodies:
        if body.source == source.id:
            job = _corrected(job, body, change(body.correction))
    return job


def _rename(job: Job, action: Rename, shelf: Shelf) -> Job:
    body = job.body(action.body)
    name = _a_name(action.name)
    if any(other.name == name and other.id != body.id for other in job.bodies):
        raise Refused("name-taken", f"another body is called {name}", remedy="choose another name")
    return job.with_body(body.model_copy(update={"name": name}))


def _a_name(typed: str) -> str:
    name = " ".join(typed.split())
    if not name:
        raise Refused("name-empty", "a name cannot be empty", remedy="type a name")
    if len(name) > 80:
        raise Refused("name-long", "a name can have at most 80 characters", remedy="type a shorter name")
    return name


def _accept(job: Job, action: Accept, shelf: Shelf) -> Job:
    body = job.body(action.body)
    if action.code not in ACCEPTABLE:
        raise Refused(
            "not-acceptable",
            f"“{action.code}” is not a finding that can be accepted",
            remedy="settle it where the finding points",
        )
    left = tuple(code for code in body.accepted if code != action.code)
    accepted = (*left, action.code) if action.accepted else left
    return job.with_body(body.model_copy(update={"accepted": accepted}))


def _size_axis(job: Job, action: SizeAxis, shelf: Shelf) -> Job:
    body = job.body(action.body)
    sizes = true_sizes(job, body)
    if is_factor(action.typed):
        return _set_factor(job, SetFactor(body=body.id, axis=action.axis, typed=action.typed), shelf)
    target = parse_length(action.typed)
    said = f"{action.axis.upper()} = {' '.join(action.typed.split())}"
    return _corrected(job, body, scaled_to_size(body.correction, sizes, action.axis, target, said))


def _set_factor(job: Job, action: SetFactor, shelf: Shelf) -> Job:
    body = job.body(action.body)
    job.settled_unit(body)
    factor = parse_factor(action.typed)
    said = f"factor {' '.join(action.typed.split())}" + (f" on {action.axis.upper()}" if action.axis else "")
    return _corrected(job, body, with_factor(body.correction, action.axis, factor, said))


def _free_axis(job: Job, action: FreeAxis, shelf: Shelf) -> Job:
    body = job.body(action.body)
    job.settled_unit(body)
    i = AXES.index(action.axis)
    free = tuple(action.free if k == i else old for k, old in enumerate(body.correction.free))
    return _corrected(job, body, body.correction.model_copy(update={"free": free}))


def _reset_correction(job: Job, action: ResetCorrection, shelf: Shelf) -> Job:
    body = job.body(action.body)
    return _corrected(job, body, Correction(free=body.correction.free))


def _corrected(job: Job, body: Body, correction: Correction) -> Job:
    return job.with_body(body.model_copy(update={"correction": correction}))


def _add_reading(job: Job, action: AddReading, shelf: Shelf) -> Job:
    body = job.body(action.body)
    job.settled_unit(body)
    mesh = shelf.mesh(body.geometry)
    a, b = anchors.exact(action.a, mesh), anchors.exact(action.b, mesh)
    a_point = anchors.point_of(a, mesh.vertices, mesh.faces)
    b_point = anchors.point_of(b, mesh.vertices, mesh.faces)
    if a_point == b_point:
        raise Refused(
            "gauge-no-length", "the two places are the same point", remedy="pick two different places"
        )
    number = job.counter + 1
    reading = Reading(
        id=f"r{number}", name=f"span {number}", body=body.id, a=a, b=b, a_point=a_point, b_point=b_point
    )
    added = job.model_copy(update={"readings": (*job.readings, reading), "counter": number})
    if not action.typed.strip():
        return added
    return _set_reading(added, SetReading(reading=reading.id, typed=action.typed), shelf)


def _set_reading(job: Job, action: SetReading, shelf: Shelf) -> Job:
    reading = job.reading(action.reading)
    body = job.body(reading.body)
    vector = gauge_vector(job, body, reading)
    real = parse_length(action.typed)
    typed = " ".join(action.typed.split())
    told = reading.model_copy(update={"real_mm": real, "typed": typed})
    correction = scaled_to_reading(
        body.correction, as_vec3(vector), real, f"{reading.name} = {typed}", reading.id
    )
    return _corrected(job.with_reading(told), body, correction)


def _name_reading(job: Job, action: NameReading, shelf: Shelf) -> Job:
    return job.with_reading(job.reading(action.reading).model_copy(update={"name": _a_name(action.name)}))


def _remove_reading(job: Job, action: RemoveReading, shelf: Shelf) -> Job:
    reading = job.reading(action.reading)
    body = job.body(reading.body)
    left = job.model_copy(update={"readings": tuple(r for r in job.readings if r.id != reading.id)})
    if body.correction.reading != reading.id:
        return left
    return _corrected(left, body, body.correction.model_copy(update={"reading": None}))


def _turn_seat(job: Job, action: TurnSeat, shelf: Shelf) -> Job:
    body = job.body(action.body)
    job.settled_unit(body)
    turns = (*body.seat.turns, Turn(axis=action.axis, degrees=parse_degrees(action.typed)))
    return job.with_body(body.model_copy(update={"seat": Seat(turns=turns)}))


def _reset_seat(job: Job, action: ResetSeat, shelf: Shelf) -> Job:
    return job.with_body(job.body(action.body).model_copy(update={"seat": Seat()}))


_DOING: dict[type[Value], Callable[..., Job]] = {
    TakeIn: _take_in,
    SettleUnit: _settle_unit,
    SetUp: _set_up,
    Rename: _rename,
    Accept: _accept,
    SizeAxis: _size_axis,
    SetFactor: _set_factor,
    FreeAxis: _free_axis,
    ResetCorrection: _reset_correction,
    AddReading: _add_reading,
    SetReading: _set_reading,
    NameReading: _name_reading,
    RemoveReading: _remove_reading,
    TurnSeat: _turn_seat,
    ResetSeat: _reset_seat,
}


def describe(action: Action) -> str:
    """Say an action in a few words, for history and for the undo button."""
    match action:
        case TakeIn(source=source):
            return f"take in {source.name}"
        case SettleUnit(unit=unit):
            return f"settle unit: {UNIT_NAMES[unit]}"
        case SetUp(up=up):
            return f"up is {up.upper()}"
        case Rename(name=name):
            return f"rename to {name}"
        case Accept(code=code, accepted=accepted):
            return f"{'accept' if accepted else 'no longer accept'} {code}"
        case SizeAxis(axis=axis, typed=typed):
            return f"size {axis.upper()} {typed}"
        case SetFactor(typed=typed):
            return f"factor {typed}"
        case FreeAxis(axis=axis, free=free):
            return f"{'free' if free else 'link'} {axis.upper()}"
        case ResetCorrection():
            return "back to the size in the file"
        case AddReading():
            return "add reading"
        case SetReading(typed=typed):
            return f"reading {typed}"
        case NameReading(name=name):
            return f"name reading {name}"
        case RemoveReading():
            return "remove reading"
        case TurnSeat(axis=axis, typed=typed):
            return f"turn {typed} about {axis.upper()}"
        case ResetSeat():
            return "seat as it came"
