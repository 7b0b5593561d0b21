"""Bodies made anew take the place of old ones, with the decisions made on those."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from aimtrue.core.gauges.again import found_again
from aimtrue.core.gauges.make import On
from aimtrue.core.intake.actions import Remake
from aimtrue.core.intake.bodies.alike import with_alike
from aimtrue.core.intake.kits import without_idle_kits
from aimtrue.core.intake.naming import free_name
from aimtrue.core.intake.successors import bores_again, with_decisions
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job, Missing

_SAME_PLACE = 1e-3
"""Of a body's size: so near, a fault that was accepted is still the same."""


def replace_bodies(job: Job, action: Remake, shelf: Shelf) -> Job:
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
        name = free_name(body.name, taken)
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
    return without_idle_kits(_reanchored(job, set(gone), follows, shelf))


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
