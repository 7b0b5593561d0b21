"""This module describes what printing takes, a room of sheet 5, to whatever spans the rooms."""

from __future__ import annotations

from collections.abc import Iterator

from aimtrue.core.cost.actions import PutEstimate
from aimtrue.core.cost.budgets import time_words
from aimtrue.core.cost.estimate import estimate_plate
from aimtrue.core.cost.handlers import ACTIONS, with_budgets, without_lost
from aimtrue.core.cost.kept_estimates import estimate_kept, estimate_key
from aimtrue.core.cost.survey import cost_survey
from aimtrue.core.cost.tasks import EstimateTask
from aimtrue.core.errors import Refused
from aimtrue.core.model.body import Body
from aimtrue.core.model.estimate import Estimate
from aimtrue.core.model.finding import Finding, FindingKind
from aimtrue.core.model.job import Job
from aimtrue.core.room import Inquiry, Room, TaskHandler, TaskInputs, TaskResult

OVER_BUDGET = FindingKind(
    "over-budget",
    "look",
    "seating",
    several=lambda _, group, n: f"{n:,} budgets are exceeded; {group[0].says}",
)
NO_BEAD = FindingKind(
    "no-bead", "look", "seating",
    several=lambda _, group, n: f"walls of {n:,} bodies hold no whole bead; {group[0].says}",
)  # fmt: skip


NOT_LAID = FindingKind(
    "not-laid", "look", "seating",
    several=lambda _, group, n: f"outlines of {n:,} bodies do not close; {group[0].says}",
)  # fmt: skip


def _estimate(inputs: TaskInputs, task: EstimateTask) -> TaskResult:
    def tell(share: float, says: str) -> None:
        inputs.progress(share, says)
        if inputs.stopped():
            raise Refused("stopped", "it was stopped, as asked", remedy="nothing was changed")

    key = estimate_key(inputs.job, task.plate)
    estimate = estimate_plate(inputs.job, task.plate, inputs.store, tell=tell)
    return TaskResult(PutEstimate(plate=task.plate, key=key, estimate=estimate), {})


def _refuse_unclear(job: Job, task: EstimateTask) -> None:
    job.plate(task.plate)


def _findings(inquiry: Inquiry) -> Iterator[Finding]:
    job = inquiry.job
    if job.budgets:
        for state in inquiry.of(cost_survey).budgets:
            if state.over > 0:
                yield OVER_BUDGET.found(says=state.says, remedy="ways")
    # What a plate takes is not asked for here: nobody on another sheet is to wait for it.
    for plate in job.plates if job.estimates else ():
        estimate = estimate_kept(job, plate.id)
        if estimate is not None:
            yield from _not_laid(estimate)


def _not_laid(estimate: Estimate) -> Iterator[Finding]:
    """What paths leave out: walls that hold no bead, and outlines that do not close."""
    for wall in estimate.thin:
        yield NO_BEAD.found(
            body=wall.body,
            body_id=wall.id,
            says=f"walls of {wall.body} hold no whole bead in {wall.layers} layers, the largest in layer "
            f"{wall.layer} at {wall.at[0]:.0f}, {wall.at[1]:.0f}: they are not laid",
            remedy="bead",
        )
    for gaping in estimate.gaping:
        yield NOT_LAID.found(
            body=gaping.body,
            body_id=gaping.id,
            says=f"in {gaping.layers} of {estimate.layers} layers outlines of {gaping.body} do not close: "
            "these are not laid",
            remedy="mend",
        )


def _sheet(job: Job, body: Body) -> Iterator[tuple[str, str]]:
    """What a body takes along the paths of its plates, where that was worked out."""
    known = [estimate for plate in job.plates if (estimate := estimate_kept(job, plate.id)) is not None]
    mine = [row for estimate in known for row in estimate.by_body if row.id == body.id]
    if mine:
        seconds, grams = sum(row.seconds for row in mine), sum(row.grams for row in mine)
        support = sum(row.support_g for row in mine)
        says = f"{time_words(seconds)}, {grams:.1f} g"
        yield "printing takes", f"{says}, {support:.1f} g of it support" if support >= 0.05 else says


COST = Room(
    name="cost",
    on="seating",
    actions=ACTIONS,
    tasks=(TaskHandler(EstimateTask, _estimate, _refuse_unclear),),
    kinds=(OVER_BUDGET, NO_BEAD, NOT_LAID),
    findings=_findings,
    sheet=_sheet,
    carry=with_budgets,
    uphold=lambda before, after, store: without_lost(before, after),
)
