"""Files that were taken in join a job. By itself, since it is all that looking at a file needs of a job."""

from __future__ import annotations

from aimtrue.core.intake.actions import TakeIn
from aimtrue.core.intake.bodies.congruence import with_alike
from aimtrue.core.intake.naming import free_name
from aimtrue.core.intake.units.inference import inferred
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.job import Job
from aimtrue.core.model.source import Source


def join_files(job: Job, action: TakeIn, store: GeometryStore) -> Job:
    """Return the job with files that were taken in: names told apart, units settled where they are clear."""
    taken = {body.name for body in job.bodies}
    bodies = []
    for body in action.bodies:
        name = free_name(body.name, taken)
        taken.add(name)
        bodies.append(body.model_copy(update={"name": name}))
    sources = tuple(_with_habits(job, source) for source in action.sources)
    job = job.model_copy(
        update={
            "sources": (*job.sources, *sources),
            "bodies": (*job.bodies, *bodies),
            "kits": (*job.kits, *action.kits),
        }
    )
    for source in sources:
        if source.unit is None:
            job = job.with_source(inferred(job, source))
    return with_alike(job, {body.id for body in bodies}, store) if job.bodies[: -len(bodies)] else job


def _with_habits(job: Job, source: Source) -> Source:
    """A file takes over what the user said holds for further files of the job."""
    changes: dict[str, object] = {}
    if source.unit is None and job.habits.unit is not None:
        changes |= {"unit": job.habits.unit, "how": "sibling"}
    if job.habits.up is not None:
        changes["up"] = job.habits.up
    return source.model_copy(update=changes)
