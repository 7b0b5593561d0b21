"""Units, up axes and origins of files: settled, changed, brought home."""

from __future__ import annotations

from collections.abc import Callable

from aimtrue.core.chain.correction import for_other_unit, for_other_up
from aimtrue.core.chain.sizes import home_of
from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import BringHome, SettleUnit, SetUp
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import Correction
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, Unit
from aimtrue.core.model.ownership import bodies_of, framed_with
from aimtrue.core.model.source import Source


def settle_unit(job: Job, action: SettleUnit, store: GeometryStore) -> Job:
    """Settle the unit of a source, or of all whose unit is open; sizes that were typed stay."""
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
        job = _with_corrections(job, bodies_of(job, source.id), lambda now, _: for_other_unit(now, old, new))
    return job.with_source(source.model_copy(update={"unit": unit, "how": how}))


def _refuse_in_kit(job: Job, source: Source, what: str, same: Callable[[Source], bool]) -> None:
    """Refuse to take a file out of the frame that it shares with others through a kit."""
    for other in framed_with(job, source.id):
        if other.id != source.id and not same(other):
            raise Refused(
                "kit-mixed",
                f"{source.name} and {other.name} share a kit, so they must have the same {what}",
                remedy="take their bodies out of the kit first, or settle both files alike",
            )


def set_up(job: Job, action: SetUp, store: GeometryStore) -> Job:
    """Turn files so that another of their axes points up; factors stay with their sides of the bodies."""
    if action.source is None:
        job = job.model_copy(update={"habits": job.habits.model_copy(update={"up": action.up})})
    else:
        _refuse_in_kit(job, job.source(action.source), "up axis", lambda other: other.up == action.up)
    turning = [
        source for source in job.sources if action.source in (None, source.id) and source.up != action.up
    ]
    keys = {source.id for source in turning}
    bodies = tuple(body for body in job.bodies if body.source in keys)
    job = _with_corrections(
        job, bodies, lambda now, body: for_other_up(now, job.source_of(body).up, action.up)
    )
    for source in turning:
        job = job.with_source(source.model_copy(update={"up": action.up}))
    for source in turning:
        # The body stands on another side now.
        if any(any(job.home_of(body)) for body in bodies_of(job, source.id)):
            job = _moved_home(job, job.source(source.id), home=True)
    return job


def _with_corrections(
    job: Job, bodies: tuple[Body, ...], change: Callable[[Correction, Body], Correction]
) -> Job:
    """Change the correction of bodies; what a kit shares is changed once."""
    done = set()
    for body in bodies:
        owner = body.id if body.alone or body.kit is None else body.kit
        if owner not in done:
            done.add(owner)
            job = job.with_decisions(body, correction=change(job.correction_of(body), body))
    return job


def bring_home(job: Job, action: BringHome, store: GeometryStore) -> Job:
    """Move a model that was lost to the origin, or leave it where its file has it."""
    return _moved_home(job, job.source(action.source), home=action.home)


def _moved_home(job: Job, source: Source, *, home: bool) -> Job:
    """Move a file, and what shares an origin with it through a kit."""
    framed = framed_with(job, source.id)
    bodies = tuple(body for source in framed for body in bodies_of(job, source.id))
    move = home_of(bodies, source) if home and bodies else (0.0, 0.0, 0.0)
    for body in bodies:
        if job.home_of(job.body(body.id)) != move:
            job = job.with_home(job.body(body.id), move)
    return job
