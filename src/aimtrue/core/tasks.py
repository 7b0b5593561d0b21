"""All work that is done in the background, gathered from the rooms, and ``do``, which does it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from aimtrue.core.division.actions import PutAll, PutDivision
from aimtrue.core.division.making import refuse_unfit, shape, shape_all
from aimtrue.core.division.tasks import DivideTask, RedoDivisionTask
from aimtrue.core.errors import Refused
from aimtrue.core.intake import tasks as intake
from aimtrue.core.intake.actions import LookOver, Remake
from aimtrue.core.intake.mending.remake import remake
from aimtrue.core.intake.tasks import (
    JoinTask,
    ListFacesTask,
    LookOverTask,
    MendTask,
    RefineTask,
    ReviseTask,
    SeparateTask,
    TakeAsOneTask,
)
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.division import AskHollow, AskPieces
from aimtrue.core.model.job import Job
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.progress import Progress
from aimtrue.core.seating.actions import Arrange
from aimtrue.core.seating.arrangement.arranging import arranged, gap_asked
from aimtrue.core.seating.orientation.turns import seat_matrix
from aimtrue.core.seating.tasks import ArrangeTask

UserWork = Annotated[
    MendTask | LookOverTask | SeparateTask | JoinTask | TakeAsOneTask | RefineTask | DivideTask | ArrangeTask,
    Field(discriminator="do"),
]
"""What the interface may ask for; a new revision comes with its file."""
Task = Annotated[
    MendTask
    | LookOverTask
    | ListFacesTask
    | SeparateTask
    | JoinTask
    | TakeAsOneTask
    | RefineTask
    | DivideTask
    | RedoDivisionTask
    | ArrangeTask
    | ReviseTask,
    Field(discriminator="do"),
]


@dataclass(frozen=True, eq=False)
class TaskResult:
    """What is to be done to the job, and the blobs that this names."""

    action: Remake | LookOver | PutDivision | PutAll | Arrange
    blobs: dict[str, bytes]


def refuse_unclear(job: Job, work: Task) -> None:
    """Raise :class:`Refused` when something typed for some work makes no sense, before it is begun."""
    if isinstance(work, ArrangeTask):
        gap_asked(work)
        if work.plate:
            job.plate(work.plate)
    elif isinstance(work, DivideTask):
        refuse_unfit(job, work)
    elif not isinstance(work, RedoDivisionTask):
        intake.refuse_unclear(job, work)


def do(
    key: str,
    job: Job,
    work: Task,
    store: GeometryStore,
    data: bytes,
    progress: Progress,
    stopped: Callable[[], bool] = lambda: False,
) -> TaskResult:
    """Do some work.

    Args:
        key: a fresh id, from which those of new bodies are made.
        job: as it stands.
        work: what to do.
        store: gives the meshes.
        data: the bytes of the source, for work that reads it again; else empty.
        progress: told how far it is.
        stopped: asked whether to stop with the best so far.

    Raises:
        Refused: it cannot be done, or there is nothing to do.
        UnreadableFile: the file of a revision cannot be read.
    """
    if isinstance(work, ArrangeTask):

        def tell(share: float, says: str) -> bool:
            progress(share, says)
            return not stopped()

        return TaskResult(arranged(job, work, store, tell), {})
    if isinstance(work, DivideTask | RedoDivisionTask):

        def report(share: float, says: str) -> None:
            progress(share, says)
            if stopped():
                raise Refused("stopped", "it was stopped; the job is as it was")

        if isinstance(work, DivideTask) and len(work.bodies) > 1 and isinstance(work.asked, AskPieces):
            each = shape_all(key, job, work, store, report)
            blobs = {name: data for one in each for name, data in one.blobs.items()}
            return TaskResult(PutAll(each=tuple(one.action for one in each)), blobs)
        shapings = shape(key, job, as_seated(job, work), store, report)
        return TaskResult(shapings.action, shapings.blobs)
    made = remake(key, job, work, store, data, progress)
    return TaskResult(made.action, made.blobs)


def as_seated(job: Job, work: DivideTask | RedoDivisionTask) -> DivideTask | RedoDivisionTask:
    """Return work with which way is down for a hollow's drains: as its body stands on its plate."""
    if isinstance(work, RedoDivisionTask) or not isinstance(work.asked, AskHollow):
        return work
    seat = job.seats_of(job.subject_of(job.body(work.bodies[0])))[0]
    down = as_vec3(-seat_matrix(seat)[2] + 0.0)
    return work.model_copy(update={"asked": work.asked.model_copy(update={"down": down})})
