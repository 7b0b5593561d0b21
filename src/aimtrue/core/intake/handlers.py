"""This module says what actions of sheet 1 do: files, units, up, bodies, kits, names."""

from __future__ import annotations

from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import (
    Accept,
    Delete,
    Duplicate,
    LookOver,
    Paint,
    Rename,
    RenameAll,
    RenameJob,
)
from aimtrue.core.intake.kits import without_idle_kits
from aimtrue.core.intake.naming import a_name, free_name, numbered_names
from aimtrue.core.intake.successors import without_bodies
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import FindingKind
from aimtrue.core.model.ids import KitId
from aimtrue.core.model.job import Job


def look_over(job: Job, action: LookOver, store: GeometryStore) -> Job:
    """Put in what was found by looking bodies over."""
    for body in job.bodies:
        facts = {"health": action.found.get(body.geometry), "features": action.features.get(body.geometry)}
        if known := {name: value for name, value in facts.items() if value is not None}:
            job = job.with_body(body.model_copy(update=known))
    for source in job.sources:
        if source.id in action.overlaps:
            update = {"overlaps": action.overlaps[source.id], "pairs_passed": 0}
            job = job.with_source(source.model_copy(update=update))
    return job


def paint(job: Job, action: Paint, store: GeometryStore) -> Job:
    """Give bodies a colour."""
    return job.with_each(action.bodies, lambda _: {"colour": action.colour})


def delete(job: Job, action: Delete, store: GeometryStore) -> Job:
    """Take bodies out of the job, and files that nothing is left of."""
    gone = [job.body(key) for key in action.bodies]
    job = without_idle_kits(without_bodies(job, {body.id for body in gone}))
    # A file that nothing is left of has no say any more; its bytes stay, and an undo brings it back.
    idle = {body.source for body in gone} - {body.source for body in job.bodies}
    return job.model_copy(
        update={"sources": tuple(source for source in job.sources if source.id not in idle)}
    )


def duplicate(job: Job, action: Duplicate, store: GeometryStore) -> Job:
    """Put copies of bodies beside them."""
    for key in action.bodies:
        body = job.body(key)
        if body.division is not None:
            raise Refused("piece", f"{body.name} is a piece", remedy="make copies of it on sheet 5")
        number = job.counter + 1
        name = free_name(body.name, {other.name for other in job.bodies})
        group = body.alike or f"{body.id}~"
        job = job.with_body(body.model_copy(update={"alike": group}))
        # A copy in the same place would lie in its twin; on the plate it stands beside it.
        own = {
            "id": f"d{number}",
            "name": name,
            "kit": None,
            "alone": False,
            "own": job.decisions_of(body).for_one(body.id, f"d{number}"),
            "home": job.home_of(body),
            "alike": group,
            "copied": True,
        }
        copy = body.model_copy(update=own)
        job = job.model_copy(update={"bodies": (*job.bodies, copy), "counter": number})
    return job


def rename(job: Job, action: Rename, store: GeometryStore) -> Job:
    """Give a body or a kit a name."""
    name = a_name(action.name)
    if action.body in job.kits_by_id:
        kits = tuple(
            kit.model_copy(update={"name": name}) if kit.id == KitId(action.body) else kit for kit in job.kits
        )
        return job.model_copy(update={"kits": kits})
    body = job.body(action.body)
    if any(other.name == name and other.id != body.id for other in job.bodies):
        raise Refused("name-taken", f"another body is called {name}", remedy="choose another name")
    return job.with_body(body.model_copy(update={"name": name}))


def rename_all(job: Job, action: RenameAll, store: GeometryStore) -> Job:
    """Give several bodies names of one pattern, in the order in which the job has them."""
    chosen = [body for body in job.bodies if body.id in action.bodies]
    if missing := set(action.bodies) - {body.id for body in chosen}:
        job.body(next(iter(missing)))  # It says that there is no such body.
    names = numbered_names(action.pattern, [body.name for body in chosen])
    others = {body.name for body in job.bodies if body not in chosen}
    if taken := [name for name in names if name in others]:
        raise Refused("name-taken", f"another body is called {taken[0]}", remedy="choose another name")
    for body, name in zip(chosen, names, strict=True):
        job = job.with_body(body.model_copy(update={"name": name}))
    return job


def rename_job(job: Job, action: RenameJob, store: GeometryStore) -> Job:
    """Give the job a name."""
    return job.model_copy(update={"name": a_name(action.name)})


def accept(job: Job, action: Accept, store: GeometryStore) -> Job:
    """Note what is accepted, and why; whether that can be is seen to before, see ``refuse_unacceptable``."""
    reason = " ".join(action.reason.split())
    chosen = (*action.bodies, *((action.body,) if action.body else ()))
    keys = chosen or tuple(body.id for body in job.bodies)

    def noted(body: Body) -> dict[str, object]:
        left = tuple(code for code in body.accepted if code != action.code)
        others = tuple(pair for pair in body.reasons if pair[0] != action.code)
        if not action.accepted:
            return {"accepted": left, "reasons": others}
        said = ((action.code, reason),) if reason else ()
        return {"accepted": (*left, action.code), "reasons": (*others, *said)}

    return job.with_each(keys, noted)


def refuse_unacceptable(action: Accept, kind: FindingKind | None) -> None:
    """Refuse to accept what cannot be, and what would make a bad part without a reason.

    Args:
        action: the acceptance.
        kind: of the finding that is accepted, from whatever room; None where there is no such kind.
    """
    if kind is None or kind.acceptance == "never":
        raise Refused(
            "not-acceptable",
            f"“{action.code}” is not a finding that can be accepted",
            remedy="settle it where the finding points",
        )
    if action.accepted and not action.reason.strip() and kind.acceptance == "for-a-reason":
        raise Refused(
            "reason-missing",
            "what would make a bad part is accepted for a reason",
            remedy="say in a few words why it is right here; it is kept with the release",
        )
