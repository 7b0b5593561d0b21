"""This module measures the thickness of material: by a ray straight in, and by the largest ball that touches.

A ray tells what a caliper would: the way to the other side. The ball tells what is left in corners and
around bores: the diameter of the largest ball inside that touches the surface at the place (the shrinking
ball of Ma, Bae and Choi 2012).
"""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import igl
import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.surface_map.samples import SurfaceSamples

_COLUMNS = ("mm", "lean", "other")
_AT_ONCE = 100_000
"""Places that one thread looks in from at a time."""
_ROUNDS = 30
_SETTLED = 1e-9
"""A ball that shrinks by less than this share is the one."""


@dataclass(frozen=True, eq=False)
class RayThickness:
    """What rays met.

    Attributes:
        mm: (n,) how far it is to the other side; infinite where nothing was met, or from outside.
        lean: (n,) by how much, in degrees, the other side is not parallel; 0 between parallel faces.
        other: (n,) the triangle met, -1 for none.
    """

    mm: Floats
    lean: Floats
    other: NDArray[np.int64]


def by_ray(mesh: Mesh, samples: SurfaceSamples) -> RayThickness:
    """Look straight in from each place.

    A single precision tree finds the triangle; the distance is worked out in float64 from that.
    """
    from embreex import rtcore_scene
    from embreex.mesh_construction import TriangleMesh

    reach = float(mesh.extents().max()) or 1.0
    middle = mesh.bounds().mean(axis=0)
    scene = rtcore_scene.EmbreeScene()
    TriangleMesh(scene, ((mesh.vertices - middle) / reach).astype(np.float32), mesh.faces.astype(np.int32))

    def looked(part: slice) -> RayThickness:
        inward = samples.inward[part]
        start = ((samples.points[part] - middle) / reach + 2e-6 * inward).astype(np.float32)
        hit = scene.run(start, inward.astype(np.float32), query="INTERSECT")
        return _measured(mesh, samples.points[part], inward, np.asarray(hit).astype(np.int64), 1e-6 * reach)

    # Neither the search nor most of the arithmetic holds the interpreter, so threads share the places.
    parts = [slice(at, at + _AT_ONCE) for at in range(0, max(1, len(samples.points)), _AT_ONCE)]
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        parts_seen = [looked(parts[0]), *pool.map(looked, parts[1:])]  # The first ray builds the tree.
    return RayThickness(
        *(np.concatenate([getattr(ray_thickness, name) for ray_thickness in parts_seen]) for name in _COLUMNS)
    )


def _measured(
    mesh: Mesh, points: Floats, inward: Floats, hit: NDArray[np.int64], least: float
) -> RayThickness:
    """Return how far it is to the triangles that rays met, and how much these lean."""
    met = hit >= 0
    known = np.where(met, hit, 0)
    vectors = mesh.area_vectors[known]
    slope = np.einsum("ij,ij->i", vectors, inward)
    with np.errstate(divide="ignore", invalid="ignore"):
        away = np.einsum("ij,ij->i", vectors, mesh.vertices[mesh.faces[known, 0]] - points) / slope
        cosine = slope / (2 * mesh.areas[known])
    mm = np.where(met & (slope > 0) & (away > least), away, np.inf)
    lean = np.where(met, np.degrees(np.arccos(np.clip(cosine, -1, 1))), 0.0)
    return RayThickness(mm, lean, np.where(np.isfinite(mm), hit, -1))


def by_ball(mesh: Mesh, samples: SurfaceSamples, start_mm: Floats) -> Floats:
    """Return (n,): the diameter of the largest ball inside that touches the surface at each place.

    Args:
        mesh: closed.
        samples: places on it.
        start_mm: (n,) a diameter that is not too small, such as by ray; where infinite, the body's largest
            extent.
    """
    faces = mesh.faces.astype(np.int64)
    most = float(mesh.extents().max())
    radius = np.minimum(np.where(np.isfinite(start_mm), start_mm, most), most) / 2
    active = np.arange(len(radius))
    tree = igl.AABB()
    tree.init(np.ascontiguousarray(mesh.vertices), faces)
    for _ in range(_ROUNDS):
        if not len(active):
            break
        points, inward = samples.points[active], samples.inward[active]
        centre = points + radius[active, None] * inward
        squares, _, nearest = tree.squared_distance(np.ascontiguousarray(mesh.vertices), faces, centre)
        chord = points - nearest
        depth = -np.einsum("ij,ij->i", chord, inward)
        with np.errstate(divide="ignore", invalid="ignore"):
            smaller = np.einsum("ij,ij->i", chord, chord) / (2 * depth)
        shrinks = (np.sqrt(squares) < radius[active] * (1 - 1e-7)) & (depth > 0) & (smaller < radius[active])
        change = 1 - smaller / radius[active]
        radius[active[shrinks]] = smaller[shrinks]
        active = active[shrinks & (change > _SETTLED)]
    return 2 * radius
