"""This module says what work gives back, and the records of what it did."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from aimtrue.core.intake.actions import LookOver, Remake
from aimtrue.core.intake.bodies.overlaps import overlaps_of
from aimtrue.core.mesh import serialization as geometry
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body, Health, MendingFacts
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import bodies_of
from aimtrue.core.model.source import BodyOverlap
from aimtrue.core.model.vectors import as_vec3


@dataclass(frozen=True, eq=False)
class MendingResult:
    """What is to be done to the job, and the blobs that this names."""

    action: Remake | LookOver
    blobs: dict[str, bytes]


def with_overlaps(job: Job, remade: MendingResult, store: GeometryStore) -> MendingResult:
    """Look for overlaps of new bodies with each other and with the others of their file."""
    action = remade.action
    assert isinstance(action, Remake)
    overlaps: list[BodyOverlap] = []
    for source in {body.source for body in action.come}:
        come = [body for body in action.come if body.source == source and stands(body)]
        rest = [body for body in bodies_of(job, source) if body.id not in action.gone and stands(body)]
        meshes = [(body.id, geometry.from_bytes(remade.blobs[body.geometry])) for body in come]
        meshes += [(body.id, store.mesh(body.geometry)) for body in rest]
        overlapping, _ = overlaps_of(meshes, {body.id for body in come})
        overlaps += overlapping
    return MendingResult(action.model_copy(update={"overlaps": tuple(overlaps)}), remade.blobs)


def stands(body: Body) -> bool:
    """Whether a body is a solid that fills its place in the file; a copy lies where its twin is."""
    return body.health.closed and not body.copied


def facts(body: Body) -> MendingFacts:
    """Return what is compared of a body before and after it is mended."""
    size = as_vec3(np.subtract(body.high, body.low))
    return MendingFacts(triangles=body.triangles, volume=body.volume, size=size, findings=faults(body.health))


def faults(health: Health) -> int:
    """Return how many single faults a body has."""
    return (
        health.open_edges
        + health.crowded_edges
        + health.turned_edges
        + health.zero_area
        + health.duplicates
        + (health.crossings or 0)
    )


def done_to(olds: list[Body], done: tuple[str, ...]) -> tuple[str, ...] | None:
    """What was done to the geometry of bodies that became one; not known of those kept before it was
    noted.
    """
    if any(old.remade is None for old in olds) and not done:
        return None
    return tuple(dict.fromkeys([*(name for old in olds for name in old.remade or ()), *done]))
