"""This module describes the room of sheet 5, Seating, to whatever spans the rooms."""

from __future__ import annotations

from aimtrue.core.model.finding import Finding
from aimtrue.core.model.job import Job
from aimtrue.core.room import Inquiry, Room, TaskHandler, TaskInputs, TaskResult
from aimtrue.core.seating.arrangement.after_division import with_room_for_pieces
from aimtrue.core.seating.arrangement.arranging import arranged, gap_asked
from aimtrue.core.seating.finding_kinds import KINDS
from aimtrue.core.seating.findings import seating_findings
from aimtrue.core.seating.handlers import ACTIONS
from aimtrue.core.seating.remedies import ways_of
from aimtrue.core.seating.seat_states import standing_of
from aimtrue.core.seating.successors import with_seats
from aimtrue.core.seating.tasks import ArrangeTask


def _arrange(inputs: TaskInputs, task: ArrangeTask) -> TaskResult:
    def tell(share: float, says: str) -> bool:
        inputs.progress(share, says)
        return not inputs.stopped()

    return TaskResult(arranged(inputs.job, task, inputs.store, tell), {})


def _refuse_unclear(job: Job, task: ArrangeTask) -> None:
    gap_asked(task)
    if task.plate:
        job.plate(task.plate)


def _findings(inquiry: Inquiry) -> list[Finding]:
    return seating_findings(inquiry.job, inquiry.of(standing_of))


SEATING = Room(
    name="seating",
    actions=ACTIONS,
    tasks=(TaskHandler(ArrangeTask, _arrange, _refuse_unclear),),
    kinds=KINDS,
    findings=_findings,
    remedies=ways_of,
    carry=with_seats,
    uphold=with_room_for_pieces,
)
