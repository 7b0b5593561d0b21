"""Units, up axes and origins of files: settled, changed, brought home."""

from __future__ import annotations

from collections.abc import Callable

from aimtrue.core.chain.correction import for_other_unit, for_other_up
from aimtrue.core.chain.sizes import home_of
from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import BringHome, SettleUnit, SetUp
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.decisions import Correction
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, Unit
from aimtrue.core.model.source import Source, Up


def settle_unit(job: Job, action: SettleUnit, shelf: Shelf) -> Job:
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


def set_up(job: Job, action: SetUp, shelf: Shelf) -> Job:
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


def bring_home(job: Job, action: BringHome, shelf: Shelf) -> Job:
    source = job.source(action.source)
    framed = job.framed_with(source.id)  # what shares an origin through a kit moves together
    bodies = tuple(body for one in framed for body in job.bodies_of(one.id))
    home = home_of(bodies, source) if action.home and bodies else (0.0, 0.0, 0.0)
    for one in framed:
        job = job.with_source(one.model_copy(update={"home": home}))
    return job
