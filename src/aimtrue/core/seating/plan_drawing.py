"""This module says what is drawn of what stands on plates: rings in mm, and bodies of one seat as one
mesh.
"""

from __future__ import annotations

import manifold3d
import numpy as np
import shapely

from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh, merged
from aimtrue.core.mesh.outlines import Outline, rings_of
from aimtrue.core.mesh.solids import mesh_of, solid_of
from aimtrue.core.model.job import Job
from aimtrue.core.model.value import Value
from aimtrue.core.seating.placement.places import SeatPlace, places_of, seated_mesh

Ring = tuple[tuple[float, float], ...]
DRAWN_MM = 0.02
"""Outlines are drawn as finely as this."""


class PlanSeat(Value):
    """What one seat covers of its plate, in mm from the front left corner."""

    id: str
    rings: tuple[Ring, ...]


def on_plate(job: Job, plate: str, store: GeometryStore) -> list[SeatPlace]:
    """Return what stands on a plate."""
    return [place for place in places_of(job, store).values() if place.seat.plate == plate]


def drawn(outline: Outline) -> tuple[Ring, ...]:
    """Return an outline as rings, as finely as it is drawn."""
    fine = shapely.simplify(outline, DRAWN_MM)
    shape = fine if isinstance(fine, shapely.MultiPolygon) else shapely.MultiPolygon([fine])
    return tuple(ring_of(ring) for ring in rings_of(shape))


def ring_of(points: Floats) -> Ring:
    """Return (k, 2) points as a ring to draw."""
    return tuple((float(x), float(y)) for x, y in np.round(points, 3))


def fused(meshes: list[Mesh]) -> Mesh:
    """Return several meshes as one, joined where they touch, so that what lies on another hangs over nothing.

    Where one of them is no closed solid they are taken as they are.
    """
    if len(meshes) == 1:
        return meshes[0]
    solids = [solid_of(mesh) for mesh in meshes]
    closed = [solid for solid in solids if solid is not None]
    if len(closed) < len(meshes):
        return merged(meshes)
    return mesh_of(manifold3d.Manifold.batch_boolean(closed, manifold3d.OpType.Add))


def seated_whole(job: Job, place: SeatPlace, store: GeometryStore) -> Mesh:
    """Return all bodies of a seat as they stand, as one mesh."""
    return fused([seated_mesh(job, body, store.mesh(body.geometry), place) for body in place.bodies])
