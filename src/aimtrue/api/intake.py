"""The addresses of sheet 1 that are no actions: where a surface is another than it was."""

from __future__ import annotations

from fastapi import APIRouter

from aimtrue.api.fair_queue import QueuedRoute
from aimtrue.api.fit import job_of
from aimtrue.api.shared import run_isolated
from aimtrue.core.errors import Refused
from aimtrue.core.intake.surface_changes import Since, SurfaceChange, earlier_geometry
from aimtrue.core.model.ids import BodyId
from aimtrue.store.blobs import UnknownBlob
from aimtrue.store.geometry_store import on_disk
from aimtrue.work.sandboxed import draw_change

heavy = APIRouter(prefix="/api", route_class=QueuedRoute)


@heavy.get("/jobs/{key}/bodies/{body}/changed")
def changed(key: str, body: BodyId, since: Since) -> SurfaceChange:
    """Draw where a body is another than before it was mended, or than in the revision before."""
    job = job_of(key)
    here = job.body(body)
    try:
        on_disk(earlier_geometry(job, here, since))
    except UnknownBlob as gone:
        raise Refused(
            "earlier-gone",
            f"what {here.name} was is not kept here: the job came in a bundle from before that was",
            remedy="compare it where the job comes from",
        ) from gone
    return run_isolated(draw_change, job, (body,), body, since)
