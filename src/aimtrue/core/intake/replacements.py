"""Bodies made anew take the place of old ones, with the decisions made on those.

What other rooms keep of them, as seats and readings, these carry over themselves afterwards.
"""

from __future__ import annotations

from aimtrue.core.intake.actions import Remake
from aimtrue.core.intake.bodies.congruence import with_alike
from aimtrue.core.intake.kits import without_idle_kits
from aimtrue.core.intake.naming import free_name
from aimtrue.core.intake.revision_changes import with_what_was
from aimtrue.core.intake.successors import bores_again, in_other_numbers, showing_again, successor
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import NO_BODY, BodyId
from aimtrue.core.model.job import Job, Kit, LostItem


def replace_bodies(job: Job, action: Remake, store: GeometryStore) -> Job:
    """Put bodies that were made anew in the place of old ones, with what was decided of those."""
    before = job
    gone = {key: in_other_numbers(job.body(key), action.scale) for key in action.gone}
    bodies = [body for body in job.bodies if body.id not in gone]
    at = min((i for i, body in enumerate(job.bodies) if body.id in gone), default=len(bodies))
    at -= sum(body.id in gone for body in job.bodies[:at])
    taken = {body.name for body in bodies}
    come = []
    for body in action.come:
        old = gone.get(action.follows.get(body.id, NO_BODY))
        if old is not None:
            body = successor(body, old)
            body = body.model_copy(update={"own": body.own.followed({old.id: body.id}, {old.id})})
        name = free_name(body.name, taken)
        taken.add(name)
        come.append(body.model_copy(update={"name": name}))
    come, unkept = _bores_kept(come, gone, action, store)
    bodies[at:at] = come
    kits = _carried_kits(job, gone, action)
    job = job.model_copy(update={"bodies": tuple(bodies), "kits": kits})
    kept = job.missing
    if action.source is not None:
        job = job.with_source(action.source)
        lost = tuple(LostItem(source=action.source.id, says=says) for says in action.missing)
        kept = (*(lost_item for lost_item in job.missing if lost_item.source != action.source.id), *lost)
    job = job.model_copy(update={"missing": (*kept, *unkept)})
    job = with_what_was(before, job, action)
    job = with_alike(_with_overlaps(job, action), {body.id for body in action.come}, store)
    return without_idle_kits(job)


def _carried_kits(job: Job, gone: dict[BodyId, Body], action: Remake) -> tuple[Kit, ...]:
    """The kits, with what they hold in numbers of the file, and of sizes that were typed, on the new
    bodies.
    """
    follows = {old: new for new, old in action.follows.items()}
    mine = {body.kit for body in gone.values()}
    kits = [
        kit.model_copy(
            update={
                "shared": kit.shared.followed(follows, set(gone)),
                "home": tuple(action.scale * number for number in kit.home),
            }
        )
        if kit.id in mine
        else kit
        for kit in job.kits
    ]
    return (*kits, action.kit) if action.kit else tuple(kits)


def _bores_kept(
    come: list[Body], gone: dict[BodyId, Body], action: Remake, store: GeometryStore
) -> tuple[list[Body], list[LostItem]]:
    """Find kept bores, and faces that are to show, again on new bodies; say which are without a bore."""
    replaced, lost = [], []
    for body in come:
        follows = gone.get(action.follows.get(body.id, NO_BODY))
        old = follows or gone.get(action.pieces.get(body.id, NO_BODY))
        kept, away = bores_again(body, old, store) if old is not None else ((), 0)
        showing = showing_again(body, old, store) if old is not None else ()
        replaced.append(body.model_copy(update={"kept": kept, "showing": showing}))
        if follows is not None and away:
            many = "a kept bore" if away == 1 else f"{away} kept bores"
            says = f"{many} of {body.name} cannot be found again; what is there now scales with the body"
            lost.append(LostItem(source=body.source, says=says))
    return replaced, lost


def _with_overlaps(job: Job, action: Remake) -> Job:
    """What overlapped a body that is gone does so no longer; what overlaps a new one was looked for."""
    gone, here = set(action.gone), {body.id: body.source for body in job.bodies}
    for source in job.sources:
        if action.source is not None and source.id == action.source.id:
            continue
        kept = [overlap for overlap in source.overlaps if not gone & {overlap.a, overlap.b}]
        kept += [overlap for overlap in action.overlaps if here.get(overlap.a) == source.id]
        if tuple(kept) != source.overlaps:
            job = job.with_source(source.model_copy(update={"overlaps": tuple(kept)}))
    return job
