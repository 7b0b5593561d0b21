"""This module divides the triangles of a mesh into parts small enough to carry a number each."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.surface_map.samples import SurfaceSamples


@dataclass(frozen=True, eq=False)
class SurfaceParts:
    """Small triangles that together are the surface of a mesh.

    Attributes:
        mesh: that they are of.
        face: (n,) the triangle that each is in.
        weights: (n, 3, 3) barycentric weights of its corners in that triangle, a row a corner.
    """

    mesh: Mesh
    face: NDArray[np.int64]
    weights: Floats

    def corners(self, mesh: Mesh) -> Floats:
        """Return (n, 3, 3): their corners on this mesh, or on another with the same triangles."""
        return np.asarray(np.einsum("ncw,nwx->ncx", self.weights, mesh.vertices[mesh.faces[self.face]]))

    def middles(self) -> SurfaceSamples:
        """Return the middle of each part, with the direction into the material and its area."""
        vectors = self.mesh.area_vectors[self.face]
        size = np.linalg.norm(vectors, axis=1, keepdims=True)
        share = np.abs(np.linalg.det(self.weights))
        return SurfaceSamples(
            self.corners(self.mesh).mean(axis=1),
            -vectors / size,
            self.face,
            self.mesh.areas[self.face] * share,
        )


def divided(mesh: Mesh, count: int) -> SurfaceParts:
    """Divide each triangle into ``k²`` equal ones, as many as bring all to about ``count``.

    Triangles without area have none.
    """
    areas = mesh.areas
    total = float(areas.sum()) or 1.0
    times = np.ceil(np.sqrt(count * areas / total)).astype(np.int64)
    chosen = np.flatnonzero(areas > 0)
    faces, weights = [np.empty(0, np.int64)], [np.empty((0, 3, 3))]
    for k in np.unique(times[chosen]).tolist():
        some = chosen[times[chosen] == k]
        parts = _corners_of_parts(k)
        faces.append(np.repeat(some, len(parts)))
        weights.append(np.tile(parts, (len(some), 1, 1)))
    return SurfaceParts(mesh, np.concatenate(faces), np.concatenate(weights))


def _corners_of_parts(k: int) -> Floats:
    """Return (k², 3, 3): barycentric weights of the corners of equal triangles that one is divided into."""
    upright = [((i, j), (i + 1, j), (i, j + 1)) for i in range(k) for j in range(k - i)]
    turned = [((i + 1, j), (i + 1, j + 1), (i, j + 1)) for i in range(k) for j in range(k - i - 1)]
    u, v = np.moveaxis(np.array(upright + turned, dtype=np.float64) / k, -1, 0)
    return np.stack([1 - u - v, u, v], axis=-1)
