"""This module says whether a point is inside a closed surface."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats, Mesh


def winding_numbers(mesh: Mesh, faces: NDArray[np.integer], points: Floats) -> Floats:
    """Return how often a surface winds around each of (k, 3) points: 1 inside, 0 outside.

    The sum of the solid angles of all triangles (van Oosterom and Strackee 1983) over 4 pi. No ray
    is cast, so no edge or corner can be hit.
    """
    a, b, c = (mesh.vertices[mesh.faces[faces, k]] for k in range(3))
    result = np.empty(len(points))
    for i, point in enumerate(points):
        u, v, w = a - point, b - point, c - point
        lu, lv, lw = (np.sqrt(np.einsum("ij,ij->i", x, x)) for x in (u, v, w))
        above = np.einsum("ij,ij->i", u, np.cross(v, w))
        below = (
            lu * lv * lw
            + np.einsum("ij,ij->i", u, v) * lw
            + np.einsum("ij,ij->i", v, w) * lu
            + np.einsum("ij,ij->i", w, u) * lv
        )
        result[i] = np.arctan2(above, below).sum() / (2 * np.pi)
    return result
