"""This module says what actions of stock do to a job."""

from __future__ import annotations

from aimtrue.core.intake.actions import TakeIn
from aimtrue.core.intake.joining import join_files
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.job import Job
from aimtrue.core.room import ActionHandler, Succession
from aimtrue.core.stock.actions import AddStock, SetPurpose


def add_stock(job: Job, action: AddStock, store: GeometryStore) -> Job:
    """Let a part join the job: it is Z up, whatever the user said of the files of the job."""
    taken = TakeIn(sources=(action.source,), bodies=action.bodies, kits=action.kits)
    job = join_files(job, taken, store)
    return job.with_source(job.source(action.source.id).model_copy(update={"up": "z"}))


def set_purpose(job: Job, action: SetPurpose, store: GeometryStore) -> Job:
    """Mark bodies as there to check against, or as to be printed.

    What was made here and is only checked against is a real thing, which no correction may change.
    """

    def purpose(body_id: str) -> dict[str, object]:
        body = next(body for body in job.bodies if body.id == body_id)
        made = job.source_of(body).made is not None
        return {
            "for_checking": action.for_checking,
            "as_drawn": action.for_checking if made else body.as_drawn,
        }

    return job.with_each(action.bodies, lambda body: purpose(body.id))


def with_its_body(job: Job, succession: Succession) -> Job:
    """Return a job in which parts that were made at bodies are at those that took their place."""
    follows = succession.replacement.successor_of
    for source in job.sources:
        if source.made is not None and source.made.at in follows:
            made = source.made.model_copy(update={"at": follows[source.made.at]})
            job = job.with_source(source.model_copy(update={"made": made}))
    return job


ACTIONS = (
    ActionHandler(AddStock, add_stock, by_user=False),
    ActionHandler(SetPurpose, set_purpose),
)
