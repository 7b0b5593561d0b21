"""What actions of sheet 1 do: files, units, up, bodies, kits, names."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from aimtrue.core.actions.models import (
    Accept,
    BringHome,
    Delete,
    Duplicate,
    LeaveKit,
    LookOver,
    MakeKit,
    Paint,
    Remake,
    Rename,
    SettleUnit,
    SetUp,
    TakeIn,
)
from aimtrue.core.bodies.alike import with_alike
from aimtrue.core.errors import Refused
from aimtrue.core.findings import ACCEPTABLE
from aimtrue.core.frames import home_of
from aimtrue.core.inherit import bores_again, with_decisions
from aimtrue.core.intake.settle import inferred
from aimtrue.core.job import Body, Correction, Job, Kit, Missing, Source, Up, Value
from aimtrue.core.lengths import MM_PER, Unit
from aimtrue.core.shelf import Shelf
from aimtrue.core.truing.correction import corrected, for_other_unit, for_other_up
from aimtrue.core.truing.gauges import On
from aimtrue.core.truing.refound import found_again

_NAME_LENGTH = 80
_SAME_PLACE = 1e-3
"""Of a body's size: so near, a fault that was accepted is still the same."""


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
    return with_alike(job, {body.id for body in bodies}, shelf) if job.bodies[: -len(bodies)] else job


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
    come, unkept = _bores_kept(come, gone, action, shelf)
    bodies[at:at] = come
    kits = (*job.kits, action.kit) if action.kit else job.kits
    job = job.model_copy(update={"bodies": tuple(bodies), "kits": kits})
    kept = job.missing
    if action.source is not None:
        job = job.with_source(action.source)
        lost = tuple(Missing(source=action.source.id, says=says) for says in action.missing)
        kept = (*(one for one in job.missing if one.source != action.source.id), *lost)
    job = job.model_copy(update={"missing": (*kept, *unkept)})
    follows = {old: new for new, old in action.follows.items()}
    job = _with_overlaps(job, action)
    job = with_alike(job, {body.id for body in action.come}, shelf)
    return _without_idle_kits(_reanchored(job, set(gone), follows, shelf))


def _bores_kept(
    come: list[Body], gone: dict[str, Body], action: Remake, shelf: Shelf
) -> tuple[list[Body], list[Missing]]:
    """Find kept bores again on new bodies; say which of those that go on are without one."""
    made, lost = [], []
    for body in come:
        follows = gone.get(action.follows.get(body.id, ""))
        old = follows or gone.get(action.pieces.get(body.id, ""))
        kept, away = bores_again(body, old, shelf) if old is not None else ((), 0)
        made.append(body.model_copy(update={"kept": kept}))
        if follows is not None and away:
            many = "a kept bore" if away == 1 else f"{away} kept bores"
            says = f"{many} of {body.name} cannot be found again; what is there now scales with the body"
            lost.append(Missing(source=body.source, says=says))
    return made, lost


def _look_over(job: Job, action: LookOver, shelf: Shelf) -> Job:
    for body in job.bodies:
        if body.geometry in action.found:
            job = job.with_body(body.model_copy(update={"health": action.found[body.geometry]}))
    for source in job.sources:
        if source.id in action.overlaps:
            update = {"overlaps": action.overlaps[source.id], "pairs_passed": 0}
            job = job.with_source(source.model_copy(update=update))
    return job


def _with_overlaps(job: Job, action: Remake) -> Job:
    """What overlapped a body that is gone does so no longer; what overlaps a new one was looked for."""
    gone, here = set(action.gone), {body.id: body.source for body in job.bodies}
    for source in job.sources:
        if action.source is not None and source.id == action.source.id:
            continue
        kept = [one for one in source.overlaps if not gone & {one.a, one.b}]
        kept += [one for one in action.overlaps if here.get(one.a) == source.id]
        if tuple(kept) != source.overlaps:
            job = job.with_source(source.model_copy(update={"overlaps": tuple(kept)}))
    return job


def _taking_over(body: Body, old: Body) -> Body:
    """A new body that goes on being an old one."""
    return with_decisions(body, old).model_copy(
        update={
            "name": old.name,
            "colour": old.colour or body.colour,
            "material": old.material or body.material,
            "accepted": _still_accepted(body, old),
        }
    )


def _still_accepted(body: Body, old: Body) -> tuple[str, ...]:
    """What was accepted of an old body and is just the same on the new one: as many faults, in the same
    places.
    """
    if body.geometry == old.geometry:
        return old.accepted
    return tuple(code for code in old.accepted if _same_fault(code, body, old))


def _same_fault(code: str, body: Body, old: Body) -> bool:
    counts: dict[str, Callable[[Body], object]] = {
        "open-edges": lambda one: (one.health.open_edges, one.health.holes),
        "turned-edges": lambda one: one.health.turned_edges,
        "crowded-edges": lambda one: one.health.crowded_edges,
        "crossings": lambda one: one.health.crossings,
        "inside-out": lambda one: one.volume < 0,
        "stray": lambda one: one.stray,
    }
    count = counts.get(code)
    if count is None or count(body) != count(old):
        return False
    here, there = body.health.places.get(code, ()), old.health.places.get(code, ())
    near = _SAME_PLACE * max(np.subtract(old.high, old.low).max(), 1e-300)
    return len(here) == len(there) and all(
        max(abs(a - b) for a, b in zip(p, q, strict=True)) <= near for p, q in zip(here, there, strict=True)
    )


def _reanchored(job: Job, gone: set[str], follows: dict[str, str], shelf: Shelf) -> Job:
    """Find the places of readings again on the bodies that took over; those not found are lost."""
    readings = []
    for reading in job.readings:
        ends = [key for key in (reading.body, reading.gauge.other) if key is not None]
        if not gone.intersection(ends):
            readings.append(reading)
            continue
        now = [job.body(follows.get(key, key)) for key in ends if key not in gone or key in follows]
        if len(now) == len(ends):
            ons = [On.body(body, shelf) for body in now]
            other, beyond = (now[1], ons[1]) if len(now) > 1 else (None, None)
            readings.append(found_again(reading, now[0], ons[0], other, beyond))
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
    _refuse_in_kit(job, source, "unit", lambda other: other.unit == unit)
    how = "declared" if unit == source.declared else "told"
    if source.unit is not None:
        old, new = MM_PER[source.unit], MM_PER[unit]
        job = _with_corrections(job, source, lambda now: for_other_unit(now, old, new))
    return job.with_source(source.model_copy(update={"unit": unit, "how": how}))


def _refuse_in_kit(job: Job, source: Source, what: str, same: Callable[[Source], bool]) -> None:
    """Refuse to take a file out of the frame that it shares with others through a kit."""
    for other in job.framed_with(source.id):
        if other.id != source.id and not same(other):
            raise Refused(
                "kit-mixed",
                f"{source.name} and {other.name} share a kit, so they must have the same {what}",
                remedy="take their bodies out of the kit first, or settle both files alike",
            )


def _set_up(job: Job, action: SetUp, shelf: Shelf) -> Job:
    if action.source is None:
        job = job.model_copy(update={"habits": job.habits.model_copy(update={"up": action.up})})
    else:
        _refuse_in_kit(job, job.source(action.source), "up axis", lambda other: other.up == action.up)
    for source in job.sources:
        if action.source in (None, source.id) and source.up != action.up:
            job = _turned_up(job, source, action.up)
    return job


def _turned_up(job: Job, source: Source, up: Up) -> Job:
    job = _with_corrections(job, source, lambda now: for_other_up(now, source.up, up))
    turned = source.model_copy(update={"up": up})
    if any(source.home):  # it stands on another side now
        framed = job.framed_with(source.id)
        bodies = tuple(body for one in framed for body in job.bodies_of(one.id))
        turned = turned.model_copy(update={"home": home_of(bodies, turned)})
    return job.with_source(turned)


def _with_corrections(job: Job, source: Source, change: Callable[[Correction], Correction]) -> Job:
    """Change the correction of every body of a source."""
    for body in job.bodies_of(source.id):
        job = job.with_body(body.model_copy(update={"correction": change(body.correction)}))
    return job


def _bring_home(job: Job, action: BringHome, shelf: Shelf) -> Job:
    source = job.source(action.source)
    framed = job.framed_with(source.id)  # what shares an origin through a kit moves together
    bodies = tuple(body for one in framed for body in job.bodies_of(one.id))
    home = home_of(bodies, source) if action.home and bodies else (0.0, 0.0, 0.0)
    for one in framed:
        job = job.with_source(one.model_copy(update={"home": home}))
    return job


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
            "readings": tuple(one for one in job.readings if not gone & {one.body, one.gauge.other}),
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
        own = {"id": f"d{number}", "name": name, "kit": None, "alike": group, "copied": True}
        copy = body.model_copy(update=own)
        job = job.model_copy(update={"bodies": (*job.bodies, copy), "counter": number})
    return job


def _make_kit(job: Job, action: MakeKit, shelf: Shelf) -> Job:
    name = a_name(action.name)
    first = job.body(action.bodies[0])
    frame = job.source_of(first)
    number = job.counter + 1
    for key in action.bodies[1:]:
        source = job.source_of(job.body(key))
        if (source.unit, source.up, source.home) != (frame.unit, frame.up, frame.home):
            raise Refused(
                "kit-mixed",
                f"{frame.name} and {source.name} differ in unit, up axis or origin and have no common origin",
                remedy="settle both alike first",
            )
    kit = Kit(id=f"k{number}", name=name)
    job = corrected(job, tuple(job.body(key) for key in action.bodies), first.correction)
    job = _each(job, action.bodies, lambda _: {"kit": kit.id, "seat": first.seat})
    return _without_idle_kits(job.model_copy(update={"kits": (*job.kits, kit), "counter": number}))


def _leave_kit(job: Job, action: LeaveKit, shelf: Shelf) -> Job:
    return _without_idle_kits(_each(job, action.bodies, lambda _: {"kit": None}))


def _rename(job: Job, action: Rename, shelf: Shelf) -> Job:
    name = a_name(action.name)
    if any(kit.id == action.body for kit in job.kits):
        kits = tuple(
            kit.model_copy(update={"name": name}) if kit.id == action.body else kit for kit in job.kits
        )
        return job.model_copy(update={"kits": kits})
    body = job.body(action.body)
    if any(other.name == name and other.id != body.id for other in job.bodies):
        raise Refused("name-taken", f"another body is called {name}", remedy="choose another name")
    return job.with_body(body.model_copy(update={"name": name}))


def a_name(typed: str) -> str:
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
    chosen = (*action.bodies, *((action.body,) if action.body else ()))
    keys = chosen or tuple(body.id for body in job.bodies)

    def accepted(body: Body) -> dict[str, object]:
        left = tuple(code for code in body.accepted if code != action.code)
        return {"accepted": (*left, action.code) if action.accepted else left}

    return _each(job, keys, accepted)


DOING: dict[type[Value], Callable[..., Job]] = {
    TakeIn: _take_in,
    Remake: _remake,
    LookOver: _look_over,
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
}
