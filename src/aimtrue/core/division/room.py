"""This module describes the room of sheet 4, Division, to whatever spans the rooms."""

from __future__ import annotations

from collections.abc import Iterator

from aimtrue.core.chain.seat_turns import seat_matrix
from aimtrue.core.division.actions import (
    PutAll,
    PutDivision,
    RedoneDivision,
    SetPrinted,
    TakePrinted,
    Undivide,
)
from aimtrue.core.division.handlers import put_all, put_shaped, undivide, with_wholes
from aimtrue.core.division.making import refuse_unfit, shape, shape_all
from aimtrue.core.division.tasks import DivideTask, RedoDivisionTask
from aimtrue.core.division.trials import set_printed, take_printed
from aimtrue.core.errors import Refused
from aimtrue.core.model.body import Body
from aimtrue.core.model.division import AskHollow, AskPieces
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import subject_of
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.progress import Progress
from aimtrue.core.room import ActionHandler, Room, TaskHandler, TaskInputs, TaskResult


def _divide(inputs: TaskInputs, task: DivideTask) -> TaskResult:
    if len(task.bodies) > 1 and isinstance(task.asked, AskPieces):
        each = shape_all(inputs.key, inputs.job, task, inputs.store, _telling(inputs))
        blobs = {name: data for result in each for name, data in result.blobs.items()}
        return TaskResult(PutAll(each=tuple(result.action for result in each)), blobs)
    result = shape(inputs.key, inputs.job, _as_seated(inputs.job, task), inputs.store, _telling(inputs))
    return TaskResult(result.action, result.blobs)


def _redo(inputs: TaskInputs, task: RedoDivisionTask) -> TaskResult:
    result = shape(inputs.key, inputs.job, task, inputs.store, _telling(inputs))
    return TaskResult(result.action, result.blobs)


def _telling(inputs: TaskInputs) -> Progress:
    """Report progress, and stop where its user wants that."""

    def tell(share: float, says: str) -> None:
        inputs.progress(share, says)
        if inputs.stopped():
            raise Refused("stopped", "it was stopped; the job is as it was")

    return tell


def _as_seated(job: Job, task: DivideTask) -> DivideTask:
    """Return a task with which way is down for a hollow's drains: as its body stands on its plate."""
    if not isinstance(task.asked, AskHollow):
        return task
    seat = job.seats_of(subject_of(job, job.body(task.bodies[0])))[0]
    down = as_vec3(-seat_matrix(seat)[2] + 0.0)
    return task.model_copy(update={"asked": task.asked.model_copy(update={"down": down})})


def _told_on_sheet(job: Job, body: Body) -> Iterator[tuple[str, str]]:
    for division in job.divisions:
        if division.id == body.division:
            wholes = ", ".join(whole.name for whole in job.bodies if whole.id in division.wholes)
            yield "made", f"made of {wholes} by a division"


DIVISION = Room(
    name="division",
    actions=(
        ActionHandler(PutDivision, put_shaped, by_user=False),
        ActionHandler(PutAll, put_all, by_user=False),
        ActionHandler(RedoneDivision, put_shaped, by_user=False),
        ActionHandler(Undivide, undivide),
        ActionHandler(SetPrinted, set_printed),
        ActionHandler(TakePrinted, take_printed),
    ),
    tasks=(
        TaskHandler(DivideTask, _divide, refuse_unfit),
        TaskHandler(RedoDivisionTask, _redo, by_user=False),
    ),
    sheet=_told_on_sheet,
    carry=with_wholes,
)
