"""All work that is done in the background, gathered from the rooms, and ``do``, which does it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from aimtrue.core.division.actions import PutAll, PutShaped
from aimtrue.core.division.making import refuse_unfit, shape, shape_all
from aimtrue.core.division.work import Shape, ShapeAgain
from aimtrue.core.errors import Refused
from aimtrue.core.intake import work as intake
from aimtrue.core.intake.actions import LookOver, Remake
from aimtrue.core.intake.mending.remake import remake
from aimtrue.core.intake.work import Join, ListFaces, Look, Mend, Refine, Revise, Separate, TakeAsOne
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.division import AskHollow, AskPieces
from aimtrue.core.model.job import Job
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.progress import Progress
from aimtrue.core.seating.actions import Arrange
from aimtrue.core.seating.arranging import arranged, gap_asked
from aimtrue.core.seating.turns import seat_matrix
from aimtrue.core.seating.work import ArrangeSeats

UserWork = Annotated[
    Mend | Look | Separate | Join | TakeAsOne | Refine | Shape | ArrangeSeats, Field(discriminator="do")
]
"""What the interface may ask for; a new revision comes with its file."""
Work = Annotated[
    Mend
    | Look
    | ListFaces
    | Separate
    | Join
    | TakeAsOne
    | Refine
    | Shape
    | ShapeAgain
    | ArrangeSeats
    | Revise,
    Field(discriminator="do"),
]


@dataclass(frozen=True, eq=False)
class Worked:
    """What is to be done to the job, and the blobs that this names."""

    action: Remake | LookOver | PutShaped | PutAll | Arrange
    blobs: dict[str, bytes]


def refuse_unclear(job: Job, work: Work) -> None:
    """Raise :class:`Refused` when something typed for some work makes no sense, before it is begun."""
    if isinstance(work, ArrangeSeats):
        gap_asked(work)
        if work.plate:
            job.plate(work.plate)
    elif isinstance(work, Shape):
        refuse_unfit(job, work)
    elif not isinstance(work, ShapeAgain):
        intake.refuse_unclear(job, work)


def do(
    key: str,
    job: Job,
    work: Work,
    shelf: Shelf,
    data: bytes,
    progress: Progress,
    stopped: Callable[[], bool] = lambda: False,
) -> Worked:
    """Do some work.

    Args:
        key: a fresh id, from which those of new bodies are made.
        job: as it stands.
        work: what to do.
        shelf: gives the meshes.
        data: the bytes of the source, for work that reads it again; else empty.
        progress: told how far it is.
        stopped: asked whether to stop with the best so far.

    Raises:
        Refused: it cannot be done, or there is nothing to do.
        UnreadableFile: the file of a revision cannot be read.
    """
    if isinstance(work, ArrangeSeats):

        def tell(share: float, says: str) -> bool:
            progress(share, says)
            return not stopped()

        return Worked(arranged(job, work, shelf, tell), {})
    if isinstance(work, Shape | ShapeAgain):

        def report(share: float, says: str) -> None:
            progress(share, says)
            if stopped():
                raise Refused("stopped", "it was stopped; the job is as it was")

        if isinstance(work, Shape) and len(work.bodies) > 1 and isinstance(work.asked, AskPieces):
            each = shape_all(key, job, work, shelf, report)
            blobs = {name: data for one in each for name, data in one.blobs.items()}
            return Worked(PutAll(each=tuple(one.action for one in each)), blobs)
        shapings = shape(key, job, as_seated(job, work), shelf, report)
        return Worked(shapings.action, shapings.blobs)
    made = remake(key, job, work, shelf, data, progress)
    return Worked(made.action, made.blobs)


def as_seated(job: Job, work: Shape | ShapeAgain) -> Shape | ShapeAgain:
    """Return work with which way is down for a hollow's drains: as its body stands on its plate."""
    if isinstance(work, ShapeAgain) or not isinstance(work.asked, AskHollow):
        return work
    seat = job.seats_of(job.subject_of(job.body(work.bodies[0])))[0]
    down = as_vec3(-seat_matrix(seat)[2] + 0.0)
    return work.model_copy(update={"asked": work.asked.model_copy(update={"down": down})})
