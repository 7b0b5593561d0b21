"""A mesh with far fewer triangles, to be looked at and nothing else."""

from __future__ import annotations

import numpy as np

from aimtrue.core.mesh.mesh import Mesh

REDUCED_FROM = 300_000
"""Triangles from which the bench draws a reduced mesh."""
_CELLS = 180
"""Along the longest side: finer than the bench has pixels for it."""


def reduced(mesh: Mesh, cells: int = _CELLS) -> Mesh:
    """Join all vertices within a cell of a grid to one of them (Rossignac and Borrel 1993).

    Kept vertices are vertices of the mesh. Every size, volume and pick is worked out on the full mesh;
    this one serves the eye alone.
    """
    low, high = mesh.bounds()
    step = float((high - low).max()) / cells or 1.0
    key = np.zeros(len(mesh.vertices), np.int64)
    for axis in range(3):
        key *= 4 * cells
        key += ((mesh.vertices[:, axis] - low[axis]) / step).astype(np.int64)
    _, first, index = np.unique(key, return_index=True, return_inverse=True)
    a, b, c = (index.astype(np.int32)[mesh.faces[:, corner]] for corner in range(3))
    kept = (a != b) & (b != c) & (c != a)
    return Mesh(mesh.vertices[first], np.stack([a[kept], b[kept], c[kept]], axis=1))
