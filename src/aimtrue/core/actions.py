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
from aimtrue.core.frames import as_vec3, group_sizes, home_of
from aimtrue.core.intake.settle import inferred
from aimtrue.core.job import (
    AXES,
    Anchor,
    Axis,
    Body,
    Correction,
    Job,
    Kit,
    Missing,
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

ACCEPTABLE = ("open-edges", "turned-edges", "crowded-edges", "inside-out", "crossings", "stray", "overlap")
"""Findings that a user may accept on purpose; the proof records it. To accept a stray is to keep it."""
_NAME_LENGTH = 80


class TakeIn(Value):
    """Files were read: their sources, bodies and kits join the job."""

    do: Literal["take-in"] = "take-in"
    sources: tuple[Source, ...]
    bodies: tuple[Body, ...]
    kits: tuple[Kit, ...] = ()


class Remake(Value):
    """Bodies were made anew by a remedy: some go, others come, decisions go with them.

    ``follows`` tells, per new body, which old one's decisions it takes over.
    """

    do: Literal["remake"] = "remake"
    says: str
    gone: tuple[str, ...]
    come: tuple[Body, ...]
    follows: dict[str, str] = Field(default_factory=dict)
    source: Source | None = None
    missing: tuple[str, ...] = ()


class SettleUnit(Value):
    """The user says which unit a source is in; None means all sources whose unit is open.

    ``remember`` makes it the unit of further files of the job that do not say theirs.
    """

    do: Literal["settle-unit"] = "settle-unit"
    source: str | None
    unit: Unit
    remember: bool = False


class SetUp(Value):
    """The user says which axis of a source points up; None means all, and those to come."""

    do: Literal["set-up"] = "set-up"
    source: str | None
    up: Up


class BringHome(Value):
    """A lost model is moved to the origin, or (not ``home``) left where its file has it."""

    do: Literal["bring-home"] = "bring-home"
    source: str
    home: bool = True


class Paint(Value):
    """Bodies get a colour, or (None) the colour of none."""

    do: Literal["paint"] = "paint"
    bodies: tuple[str, ...]
    colour: str | None = Field(pattern=r"^#[0-9a-f]{6}$")


class Delete(Value):
    """Bodies leave the job; their sources stay."""

    do: Literal["delete"] = "delete"
    bodies: tuple[str, ...] = Field(min_length=1)


class Duplicate(Value):
    """Bodies are there once more, under names of their own."""

    do: Literal["duplicate"] = "duplicate"
    bodies: tuple[str, ...] = Field(min_length=1)


class MakeKit(Value):
    """Bodies share one correction, seat and origin from now on: those of the first."""

    do: Literal["make-kit"] = "make-kit"
    bodies: tuple[str, ...] = Field(min_length=2)
    name: str


class LeaveKit(Value):
    """Bodies go their own way; each keeps the correction and seat it has."""

    do: Literal["leave-kit"] = "leave-kit"
    bodies: tuple[str, ...] = Field(min_length=1)


class Rename(Value):
    """A body gets a name, which becomes its file name."""

    do: Literal["rename"] = "rename"
    body: str
    name: str


class Accept(Value):
    """A finding is accepted on purpose, or no longer; body None means every body."""

    do: Literal["accept"] = "accept"
    body: str | None
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
    | BringHome
    | Paint
    | Delete
    | Duplicate
    | MakeKit
    | LeaveKit
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

Action = Annotated[TakeIn | Remake | UserAction, Field(discriminator="do")]
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
    taken = {body.name for body in job.bodies}
    bodies = []
    for body in action.bodies:
        name = _free_name(body.name, taken)
        taken.add(name)
        bodies.append(body.model_copy(update={"name": name}))
    sources = tuple(_with_habits(job, source) for source in action.sources)
    job = job.model_copy(
        update={
            "sources": (*job.sources, *sources),
            "bodies": (*job.bodies, *bodies),
            "kits": (*job.kits, *action.kits),
        }
    )
    for source in sources:
        if source.unit is None:
            job = job.with_source(inferred(job, source))
    return job


def _with_habits(job: Job, source: Source) -> Source:
    """A file takes over what the user said holds for further files of the job."""
    changes: dict[str, object] = {}
    if source.unit is None and job.habits.unit is not None:
        changes |= {"unit": job.habits.unit, "how": "sibling"}
    if job.habits.up is not None:
        changes["up"] = job.habits.up
    return source.model_copy(update=changes)


def _free_name(wanted: str, taken: set[str]) -> str:
    """Return the name, with a number after it when it is taken."""
    if wanted not in taken:
        return wanted
    number = 2
    while (name := f"{wanted[: _NAME_LENGTH - 6]} ({number})") in taken:
        number += 1
    return name


def _remake(job: Job, action: Remake, shelf: Shelf) -> Job:
    gone = {key: job.body(key) for key in action.gone}
    bodies = [body for body in job.bodies if body.id not in gone]
    at = min((i for i, body in enumerate(job.bodies) if body.id in gone), default=len(bodies))
    at -= sum(body.id in gone for body in job.bodies[:at])
    taken = {body.name for body in bodies}
    come = []
    for body in action.come:
        old = gone.get(action.follows.get(body.id, ""))
        if old is not None:
            body = _taking_over(body, old)
        name = _free_name(body.name, taken)
        taken.add(name)
        come.append(body.model_copy(update={"name": name}))
    bodies[at:at] = come
    job = job.model_copy(update={"bodies": tuple(bodies)})
    if action.source is not None:
        job = job.with_source(action.source)
        lost = tuple(Missing(source=action.source.id, says=says) for says in action.missing)
        kept = tuple(one for one in job.missing if one.source != action.source.id)
        job = job.model_copy(update={"missing": (*kept, *lost)})
    follows = {old: new for new, old in action.follows.items()}
    return _without_idle_kits(_reanchored(job, set(gone), follows, shelf))


def _taking_over(body: Body, old: Body) -> Body:
    """The decisions of an old body, on the geometry of a new one."""
    return body.model_copy(
        update={
            "name": old.name,
            "colour": old.colour or body.colour,
            "material": old.material or body.material,
            "kit": old.kit,
            "correction": old.correction,
            "seat": old.seat,
            "accepted": old.accepted,
        }
    )


def _reanchored(job: Job, gone: set[str], follows: dict[str, str], shelf: Shelf) -> Job:
    """Find the places of readings again on the bodies that took over; those not found are lost."""
    readings = []
    for reading in job.readings:
        if reading.body not in gone:
            readings.append(reading)
        elif reading.body in follows:
            body = job.body(follows[reading.body])
            readings.append(anchors.found_again(reading, body, shelf.mesh(body.geometry)))
    return job.model_copy(update={"readings": tuple(readings)})


def _without_idle_kits(job: Job) -> Job:
    """A kit of one body is no kit."""
    counts = [body.kit for body in job.bodies]
    kits = tuple(kit for kit in job.kits if counts.count(kit.id) > 1)
    known = {kit.id for kit in kits}
    bodies = tuple(
        body if body.kit in known or body.kit is None else body.model_copy(update={"kit": None})
        for body in job.bodies
    )
    return job.model_copy(update={"kits": kits, "bodies": bodies})


def _settle_unit(job: Job, action: SettleUnit, shelf: Shelf) -> Job:
    if action.remember:
        habits = job.habits.model_copy(update={"unit": action.unit})
        job = job.model_copy(update={"habits": habits})
    if action.source is None:
        for source in job.sources:
            if source.unit is None:
                job = _settled(job, source, action.unit)
        return job
    return _settled(job, job.source(action.source), action.unit)


def _settled(job: Job, source: Source, unit: Unit) -> Job:
    how = "declared" if unit == source.declared else "told"
    if source.unit is not None:
        old, new = MM_PER[source.unit], MM_PER[unit]
        job = _with_corrections(job, source, lambda now: for_other_unit(now, old, new))
    return job.with_source(source.model_copy(update={"unit": unit, "how": how}))


def _set_up(job: Job, action: SetUp, shelf: Shelf) -> Job:
    if action.source is None:
        job = job.model_copy(update={"habits": job.habits.model_copy(update={"up": action.up})})
    for source in job.sources:
        if action.source in (None, source.id) and source.up != action.up:
            job = _turned_up(job, source, action.up)
    if action.source is not None:
        job.source(action.source)
    return job


def _turned_up(job: Job, source: Source, up: Up) -> Job:
    job = _with_corrections(job, source, lambda now: for_other_up(now, source.up, up))
    return job.with_source(source.model_copy(update={"up": up}))


def _with_corrections(job: Job, source: Source, change: Callable[[Correction], Correction]) -> Job:
    """Change the correction of every body of a source."""
    for body in job.bodies_of(source.id):
        job = job.with_body(body.model_copy(update={"correction": change(body.correction)}))
    return job


def _bring_home(job: Job, action: BringHome, shelf: Shelf) -> Job:
    source = job.source(action.source)
    bodies = job.bodies_of(source.id)
    home = home_of(bodies, source) if action.home and bodies else (0.0, 0.0, 0.0)
    return job.with_source(source.model_copy(update={"home": home}))


def _each(job: Job, keys: tuple[str, ...], change: Callable[[Body], dict[str, object]]) -> Job:
    for key in keys:
        body = job.body(key)
        job = job.with_body(body.model_copy(update=change(body)))
    return job


def _paint(job: Job, action: Paint, shelf: Shelf) -> Job:
    return _each(job, action.bodies, lambda _: {"colour": action.colour})


def _delete(job: Job, action: Delete, shelf: Shelf) -> Job:
    gone = {job.body(key).id for key in action.bodies}
    job = job.model_copy(
        update={
            "bodies": tuple(body for body in job.bodies if body.id not in gone),
            "readings": tuple(reading for reading in job.readings if reading.body not in gone),
        }
    )
    return _without_idle_kits(job)


def _duplicate(job: Job, action: Duplicate, shelf: Shelf) -> Job:
    for key in action.bodies:
        body = job.body(key)
        number = job.counter + 1
        name = _free_name(body.name, {other.name for other in job.bodies})
        group = body.alike or f"{body.id}~"
        job = job.with_body(body.model_copy(update={"alike": group}))
        # A copy in the same place would lie in its twin; on the plate it stands beside it.
        copy = body.model_copy(update={"id": f"d{number}", "name": name, "kit": None, "alike": group})
        job = job.model_copy(update={"bodies": (*job.bodies, copy), "counter": number})
    return job


def _make_kit(job: Job, action: MakeKit, shelf: Shelf) -> Job:
    name = _a_name(action.name)
    first = job.body(action.bodies[0])
    frame = job.source_of(first)
    number = job.counter + 1
    for key in action.bodies[1:]:
        source = job.source_of(job.body(key))
        if (source.unit, source.up) != (frame.unit, frame.up):
            raise Refused(
                "kit-mixed",
                f"{frame.name} and {source.name} differ in unit or up axis and have no common origin",
                remedy="settle both alike first",
            )
    kit = Kit(id=f"k{number}", name=name)
    job = _each(
        job,
        action.bodies,
        lambda _: {"kit": kit.id, "correction": first.correction, "seat": first.seat},
    )
    return _without_idle_kits(job.model_copy(update={"kits": (*job.kits, kit), "counter": number}))


def _leave_kit(job: Job, action: LeaveKit, shelf: Shelf) -> Job:
    return _without_idle_kits(_each(job, action.bodies, lambda _: {"kit": None}))


def _rename(job: Job, action: Rename, shelf: Shelf) -> Job:
    name = _a_name(action.name)
    if any(kit.id == action.body for kit in job.kits):
        kits = tuple(
            kit.model_copy(update={"name": name}) if kit.id == action.body else kit for kit in job.kits
        )
        return job.model_copy(update={"kits": kits})
    body = job.body(action.body)
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
    if action.code not in ACCEPTABLE:
        raise Refused(
            "not-acceptable",
            f"“{action.code}” is not a finding that can be accepted",
            remedy="settle it where the finding points",
        )
    keys = tuple(body.id for body in job.bodies) if action.body is None else (action.body,)

    def accepted(body: Body) -> dict[str, object]:
        left = tuple(code for code in body.accepted if code != action.code)
        return {"accepted": (*left, action.code) if action.accepted else left}

    return _each(job, keys, accepted)


def _size_axis(job: Job, action: SizeAxis, shelf: Shelf) -> Job:
    sized = (
        job.group(action.body) if any(kit.id == action.body for kit in job.kits) else (job.body(action.body),)
    )
    sizes = group_sizes(job, sized)
    if is_factor(action.typed):
        return _set_factor(job, SetFactor(body=action.body, axis=action.axis, typed=action.typed), shelf)
    target = parse_length(action.typed)
    said = f"{action.axis.upper()} = {' '.join(action.typed.split())}"
    return _corrected(job, sized[0], scaled_to_size(sized[0].correction, sizes, action.axis, target, said))


def _set_factor(job: Job, action: SetFactor, shelf: Shelf) -> Job:
    body = job.group(action.body)[0]
    job.settled_unit(body)
    factor = parse_factor(action.typed)
    said = f"factor {' '.join(action.typed.split())}" + (f" on {action.axis.upper()}" if action.axis else "")
    return _corrected(job, body, with_factor(body.correction, action.axis, factor, said))


def _free_axis(job: Job, action: FreeAxis, shelf: Shelf) -> Job:
    body = job.group(action.body)[0]
    job.settled_unit(body)
    i = AXES.index(action.axis)
    free = tuple(action.free if k == i else old for k, old in enumerate(body.correction.free))
    return _corrected(job, body, body.correction.model_copy(update={"free": free}))


def _reset_correction(job: Job, action: ResetCorrection, shelf: Shelf) -> Job:
    body = job.group(action.body)[0]
    return _corrected(job, body, Correction(free=body.correction.free))


def _corrected(job: Job, body: Body, correction: Correction) -> Job:
    """Give a body a correction, and with it all of its kit: they must still fit together."""
    for one in job.group(body.id):
        job = job.with_body(one.model_copy(update={"correction": correction}))
    return job


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
    body = job.group(action.body)[0]
    job.settled_unit(body)
    turns = (*body.seat.turns, Turn(axis=action.axis, degrees=parse_degrees(action.typed)))
    return _seated(job, action.body, Seat(turns=turns))


def _reset_seat(job: Job, action: ResetSeat, shelf: Shelf) -> Job:
    return _seated(job, action.body, Seat())


def _seated(job: Job, key: str, seat: Seat) -> Job:
    for body in job.group(key):
        job = job.with_body(body.model_copy(update={"seat": seat}))
    return job


_DOING: dict[type[Value], Callable[..., Job]] = {
    TakeIn: _take_in,
    Remake: _remake,
    BringHome: _bring_home,
    Paint: _paint,
    Delete: _delete,
    Duplicate: _duplicate,
    MakeKit: _make_kit,
    LeaveKit: _leave_kit,
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
        case TakeIn(sources=sources):
            return f"take in {sources[0].packed_in or sources[0].name}"
        case Remake(says=says):
            return says
        case SettleUnit(unit=unit):
            return f"settle unit: {UNIT_NAMES[unit]}"
        case BringHome(home=home):
            return "bring home" if home else "leave where the file has it"
        case Paint():
            return "colour"
        case Delete(bodies=bodies):
            return f"delete {_bodies(bodies)}"
        case Duplicate(bodies=bodies):
            return f"duplicate {_bodies(bodies)}"
        case MakeKit(name=name):
            return f"make kit {name}"
        case LeaveKit():
            return "leave the kit"
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


def _bodies(keys: tuple[str, ...]) -> str:
    return "a body" if len(keys) == 1 else f"{len(keys)} bodies"
