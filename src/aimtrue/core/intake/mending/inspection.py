"""Look bodies over for what is passed over at intake."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

from aimtrue.core.intake.actions import LookOver
from aimtrue.core.intake.bodies.overlaps import overlaps_of
from aimtrue.core.intake.health import health_of
from aimtrue.core.intake.mending.results import MendingResult, stands
from aimtrue.core.intake.tasks import ListFacesTask, LookOverTask
from aimtrue.core.mesh import serialization as geometry
from aimtrue.core.mesh.features import listed
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import bodies_of
from aimtrue.core.progress import Progress


def list_faces(job: Job, task: ListFacesTask, store: GeometryStore, progress: Progress) -> MendingResult:
    """List the faces of bodies, two at a time."""
    progress(0.05, "finding flat and round faces")
    names = {body.geometry for body in job.bodies if body.id in task.bodies}
    meshes = {name: store.mesh(name) for name in names}
    with ThreadPoolExecutor(2) as both:  # NumPy lets go of the interpreter in its long loops.
        described = [listed.to_bytes(features) for features in both.map(listed.features_of, meshes.values())]
    kept = [geometry.name_of(data) for data in described]
    action = LookOver(features=dict(zip(meshes, kept, strict=True)))
    return MendingResult(action, dict(zip(kept, described, strict=True)))


def look(job: Job, task: LookOverTask, store: GeometryStore, progress: Progress) -> MendingResult:
    """Look for faces that cut through each other, or for bodies of a file that overlap, however large."""
    healths = {}
    for number, key in enumerate(task.bodies):
        body = job.body(key)
        progress(number / len(task.bodies), f"looking over {body.name}")
        healths[body.geometry] = health_of(store.mesh(body.geometry), thorough=True)
    if task.source is None:
        return MendingResult(LookOver(found=healths), {})
    progress(0.1, "looking for overlaps")
    closed = [body for body in bodies_of(job, task.source) if stands(body)]
    meshes = [(body.id, store.mesh(body.geometry)) for body in closed]
    overlaps, _ = overlaps_of(meshes, thorough=True)
    return MendingResult(LookOver(found=healths, overlaps={task.source: overlaps}), {})
