"""This module says which walls of a body are thin, and tells walls from edges and crests of threads.

A place is on a *wall* where the other side, straight through, is parallel but for a draft. Where it leans
more the material runs out in an edge; and the crest of a thread is thin because it is meant to be.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.fit.walls.thickness import RayThickness, by_ball, by_ray
from aimtrue.core.mesh.features.listed import Features
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.surface_map.samples import SurfaceSamples, spread
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.model.vectors import as_vec3

SAMPLES = 160_000
"""Places that are looked at on a body of fewer triangles; of more, one on each."""
_DRAFT = 12.0
"""Degrees that two sides of a wall lean against each other at most."""
_BALLS = 256
"""Places, of those that are the thinnest, at which the largest ball is looked for."""
_LOOKED_CLOSER = 24
"""Triangles with the thinnest places, which are looked at more closely."""


@dataclass(frozen=True, eq=False)
class WallMap:
    """How thick a body is, place by place.

    Attributes:
        samples: the places; ``ray`` what was met straight through each.
        wall: (n,) whether a place is on a wall; ``crest`` whether it is on the turns of a thread.
    """

    samples: SurfaceSamples
    ray: RayThickness
    wall: NDArray[np.bool_]
    crest: NDArray[np.bool_]

    @cached_property
    def mm(self) -> Floats:
        """(n,) thickness where there is a wall, else infinite."""
        return np.where(self.wall, self.ray.mm, np.inf)

    def share_under(self, limit_mm: float) -> float:
        """Return the share of the surface whose wall is thinner than a limit."""
        total = float(self.samples.area.sum())
        return float(self.samples.area[self.mm < limit_mm * (1 - 1e-9)].sum()) / total if total else 0.0


class LeastWall(Value):
    """The thinnest wall of a body.

    Attributes:
        mm: how thick it is, straight through.
        ball_mm: the diameter of the largest ball inside that touches the surface there.
        at: a place in the middle of it, in mm.
        through: the direction straight through, of length 1.
        beads: how many beads that is.
        void_mm: what is left between whole beads, side by side; 0 where they fill it.
    """

    mm: float
    ball_mm: float
    at: Vec3
    through: Vec3
    beads: float
    void_mm: float


def wall_map(mesh: Mesh, features: Features, count: int = SAMPLES) -> WallMap:
    """Return how thick a closed body is over its whole surface.

    Args:
        mesh: in mm.
        features: of it, which tell threads.
        count: of places to look at, about.
    """
    return _mapped(mesh, features, spread(mesh, count))


def narrowest_gap(mesh: Mesh, features: Features, bead_mm: float) -> LeastWall | None:
    """Return the narrowest gap between faces of one body that look at each other, as of a slot; None if none.

    It is the thinnest wall of what is outside the body.
    """
    outside = Mesh(mesh.vertices, mesh.faces[:, ::-1])
    return least_wall(outside, wall_map(outside, features), bead_mm)


def wall_thickness(mesh: Mesh, features: Features, samples: SurfaceSamples) -> Floats:
    """Return (n,): how thick a closed body is at places on its walls, infinite elsewhere."""
    return _mapped(mesh, features, samples).mm


def _mapped(mesh: Mesh, features: Features, samples: SurfaceSamples) -> WallMap:
    ray = by_ray(mesh, samples)
    screws = [feature.id for feature in features.listed if feature.screw]
    crest = np.isin(features.of_face[samples.face], screws) if screws else np.zeros(len(ray.mm), bool)
    wall = np.isfinite(ray.mm) & (ray.lean <= _DRAFT) & ~crest
    return WallMap(samples, ray, wall, crest)


def least_wall(mesh: Mesh, walls: WallMap, bead_mm: float) -> LeastWall | None:
    """Return the thinnest wall of a body; None of one without any, as a cone or an open body.

    Where walls taper the least is at their rim, so the triangles with the thinnest places are looked at more
    closely.
    """
    if not np.isfinite(walls.mm).any():
        return None
    order = np.argsort(walls.mm, kind="stable")
    faces = np.unique(walls.samples.face[order[: 4 * _LOOKED_CLOSER]])[:_LOOKED_CLOSER]
    closer = spread(Mesh(mesh.vertices, mesh.faces[faces]), SAMPLES // 32)
    ray = by_ray(mesh, closer)
    thick = np.where(ray.lean <= _DRAFT, ray.mm, np.inf)
    if len(thick) and thick.min() < walls.mm.min():
        return _told(mesh, closer, thick, bead_mm)
    return _told(mesh, walls.samples, walls.mm, bead_mm)


def _told(mesh: Mesh, samples: SurfaceSamples, thick: Floats, bead_mm: float) -> LeastWall:
    """The thinnest place; of many that are as thin the one with the most room for a ball, amid its wall."""
    mm = float(thick.min())
    alike = np.flatnonzero(thick <= mm * (1 + 1e-6))
    alike = alike[:: -(-len(alike) // _BALLS)]
    places = samples.some(alike)
    balls = by_ball(mesh, places, thick[alike])
    number = int(np.argmax(balls))
    inward = places.inward[number]
    beads = mm / bead_mm
    whole = float(np.floor(beads + 1e-6))
    return LeastWall(
        mm=mm,
        ball_mm=float(balls[number]),
        at=as_vec3(places.points[number] + mm / 2 * inward),
        through=as_vec3(inward),
        beads=beads,
        void_mm=max(0.0, mm - whole * bead_mm) if beads - whole > 1e-6 else 0.0,
    )
