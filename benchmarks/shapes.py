"""Shapes to measure with."""

from __future__ import annotations

import numpy as np

from aimtrue.core.mesh.mesh import Mesh


def wavy_sphere(triangles: int) -> Mesh:
    """A closed lattice sphere with waves, of about so many triangles."""
    rings = max(3, int((triangles / 4) ** 0.5))
    around = 2 * rings
    v, u = np.meshgrid(
        np.linspace(0, np.pi, rings + 1)[1:-1], np.arange(around) * 2 * np.pi / around, indexing="ij"
    )
    r = 3 + 0.05 * np.sin(9 * u) * np.sin(v) ** 2
    points = np.stack([r * np.sin(v) * np.cos(u), r * np.sin(v) * np.sin(u), r * np.cos(v)], axis=-1).reshape(
        -1, 3
    )
    points = np.vstack([points, [0, 0, 3], [0, 0, -3]])
    i, j = np.meshgrid(np.arange(rings - 2), np.arange(around), indexing="ij")
    a, b = i * around + j, i * around + (j + 1) % around
    quads = [np.stack([a, a + around, b + around], -1), np.stack([a, b + around, b], -1)]
    k = np.arange(around)
    top = np.stack([np.full(around, len(points) - 2), k, (k + 1) % around], -1)
    last = (rings - 2) * around
    bottom = np.stack([np.full(around, len(points) - 1), last + (k + 1) % around, last + k], -1)
    faces = np.concatenate([*(quad.reshape(-1, 3) for quad in quads), top, bottom])
    return Mesh(points, faces.astype(np.int32))
