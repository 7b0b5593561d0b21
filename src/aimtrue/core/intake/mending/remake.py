"""Make bodies of a job anew: mend, separate, join, take as one, re-tessellate, or swap in a revision.

Each function returns a :class:`MendingResult`: the action that puts the new bodies in the place of the old
ones (or tells what was found by looking them over), and the geometry they name. Nothing here changes a job.
"""

from __future__ import annotations

from aimtrue.core.intake.mending.inspection import list_faces, look
from aimtrue.core.intake.mending.mend import mend
from aimtrue.core.intake.mending.regroup import join, separate_body, take_as_one
from aimtrue.core.intake.mending.reread import refine, revise
from aimtrue.core.intake.mending.results import MendingResult, with_overlaps
from aimtrue.core.intake.tasks import (
    IntakeTask,
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
from aimtrue.core.model.job import Job
from aimtrue.core.progress import Progress


def remake(
    key: str, job: Job, work: IntakeTask, store: GeometryStore, data: bytes, progress: Progress
) -> MendingResult:
    """Do the work.

    Args:
        key: a fresh id, from which those of new bodies are made.
        job: as it stands.
        work: what to do.
        store: gives the meshes.
        data: the bytes of the source, for work that reads it again; else empty.
        progress: told how far it is.

    Raises:
        Refused: it cannot be done, or there is nothing to do.
        UnreadableFile: the file of a revision cannot be read.
    """
    match work:
        case MendTask():
            return with_overlaps(job, mend(key, job, work, store, progress), store)
        case LookOverTask():
            return look(job, work, store, progress)
        case ListFacesTask():
            return list_faces(job, work, store, progress)
        case SeparateTask():
            return with_overlaps(job, separate_body(key, job, work, store), store)
        case JoinTask():
            return with_overlaps(job, join(key, job, work, store, progress), store)
        case TakeAsOneTask():
            return with_overlaps(job, take_as_one(key, job, work, store), store)
        case RefineTask():
            return refine(key, job, work, data, store, progress)
        case ReviseTask():
            return revise(key, job, work, data, progress)
