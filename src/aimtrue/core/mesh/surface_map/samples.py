"""This module spreads places over the surface of a mesh, as dense everywhere and the same each time."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats, Mesh


@dataclass(frozen=True, eq=False)
class SurfaceSamples:
    """Places on a surface.

    Attributes:
        points: (n, 3).
        inward: (n, 3) unit vectors into the material.
        face: (n,) the triangle that each is on.
        area: (n,) the share of the surface that each stands for.
    """

    points: Floats
    inward: Floats
    face: NDArray[np.int64]
    area: Floats

    def some(self, numbers: NDArray[np.int64]) -> SurfaceSamples:
        """Return some of the places, by their numbers."""
        return SurfaceSamples(
            self.points[numbers], self.inward[numbers], self.face[numbers], self.area[numbers]
        )


def spread(mesh: Mesh, count: int) -> SurfaceSamples:
    """Return the middles of all triangles, of large ones those of equal parts of them.

    A triangle is divided into ``k²`` equal ones, as many as bring it to its share of about ``count`` places.
    Triangles without area have none.
    """
    areas = mesh.areas
    total = float(areas.sum()) or 1.0
    parts = np.ceil(np.sqrt(count * areas / total)).astype(np.int64)
    chosen = np.flatnonzero(areas > 0)
    rows: list[tuple[NDArray[np.int64], Floats]] = []
    for k in np.unique(parts[chosen]).tolist():
        faces = chosen[parts[chosen] == k]
        weights = _middles_of_parts(k)
        corners = mesh.vertices[mesh.faces[faces]]
        rows.append(
            (np.repeat(faces, len(weights)), np.einsum("wc,fci->fwi", weights, corners).reshape(-1, 3))
        )
    face = np.concatenate([faces for faces, _ in rows]) if rows else np.empty(0, np.int64)
    points = np.concatenate([points for _, points in rows]) if rows else np.empty((0, 3))
    vectors = mesh.area_vectors[face]
    inward = -vectors / np.linalg.norm(vectors, axis=1, keepdims=True)
    return SurfaceSamples(points, inward, face, areas[face] / np.maximum(parts[face], 1) ** 2)


def _middles_of_parts(k: int) -> Floats:
    """Return (k², 3): barycentric weights of the middles of the equal triangles that one is divided into."""
    upright = [(i + 1 / 3, j + 1 / 3) for i in range(k) for j in range(k - i)]
    turned = [(i + 2 / 3, j + 2 / 3) for i in range(k) for j in range(k - i - 1)]
    u, v = np.array(upright + turned).T / k
    return np.stack([1 - u - v, u, v], axis=1)
