"""Look bodies over for what is passed over at intake."""

from __future__ import annotations

from aimtrue.core.intake.actions import LookOver
from aimtrue.core.intake.bodies.overlaps import overlaps_of
from aimtrue.core.intake.health import health_of
from aimtrue.core.intake.mending.made import Remade, stands
from aimtrue.core.intake.work import Look
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.job import Job
from aimtrue.core.progress import Progress


def look(job: Job, work: Look, shelf: Shelf, progress: Progress) -> Remade:
    found = {}
    for number, key in enumerate(work.bodies):
        body = job.body(key)
        progress(number / len(work.bodies), f"looking over {body.name}")
        found[body.geometry] = health_of(shelf.mesh(body.geometry), thorough=True)
    if work.source is None:
        return Remade(LookOver(found=found), {})
    progress(0.1, "looking for overlaps")
    closed = [body for body in job.bodies_of(work.source) if stands(body)]
    meshes = [(body.id, shelf.mesh(body.geometry)) for body in closed]
    overlaps, _ = overlaps_of(meshes, thorough=True)
    return Remade(LookOver(found=found, overlaps={work.source: overlaps}), {})
