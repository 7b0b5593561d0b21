"""Polygons of any number of corners, cut into triangles."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, eq=False)
class Polygons:
    """Polygons one after the other.

    Attributes:
        corners: (k,) vertex numbers of all polygons.
        counts: (p,) corners of each, at least 3.
    """

    corners: NDArray[np.int64]
    counts: NDArray[np.int64]


def triangles_of(polygons: Polygons, vertices: NDArray[np.float64]) -> NDArray[np.int32]:
    """Return (m, 3) faces, in the order of the polygons.

    A convex polygon becomes a fan from its first corner. A hollow one is cut otherwise, since a fan would
    cover what lies outside it.
    """
    if (polygons.counts == 3).all():
        return polygons.corners.reshape(-1, 3).astype(np.int32)
    starts = np.cumsum(polygons.counts) - polygons.counts
    fans = np.repeat(np.arange(len(polygons.counts)), polygons.counts - 2)
    step = np.arange(len(fans)) - np.repeat(
        np.cumsum(polygons.counts - 2) - (polygons.counts - 2), polygons.counts - 2
    )
    first = starts[fans]
    faces = np.stack(
        [polygons.corners[first], polygons.corners[first + step + 1], polygons.corners[first + step + 2]],
        axis=1,
    )
    hollow = _hollow(faces, fans, vertices, len(polygons.counts)) & (polygons.counts > 3)
    for number in np.flatnonzero(hollow):
        loop = polygons.corners[starts[number] : starts[number] + polygons.counts[number]]
        faces[fans == number] = ears(loop, vertices)
    return faces.astype(np.int32)


def _hollow(
    faces: NDArray[np.int64], fans: NDArray[np.int64], vertices: NDArray[np.float64], count: int
) -> NDArray[np.bool_]:
    """Which polygons have triangles in their fan that face against the whole."""
    a, b, c = (vertices[np.minimum(faces[:, k], len(vertices) - 1)] for k in range(3))
    normals = np.cross(b - a, c - a)
    whole = np.stack([np.bincount(fans, normals[:, k], count) for k in range(3)], axis=1)
    against = np.einsum("ij,ij->i", normals, whole[fans]) < 0
    return np.bincount(fans, against, count) > 0


def ears(loop: NDArray[np.int64], vertices: NDArray[np.float64]) -> NDArray[np.int64]:
    """Cut a hollow polygon into (n - 2, 3) triangles, in the plane of its own normal (Newell's method).

    A polygon that crosses itself or runs over itself has no right way; it is cut as a fan.
    """
    import manifold3d

    points = vertices[loop] - vertices[loop[0]]
    normal = np.cross(points, np.roll(points, -1, axis=0)).sum(axis=0)
    drop = int(np.abs(normal).argmax())
    flat = np.delete(points, drop, axis=1)
    if (normal[drop] < 0) != (drop == 1):  # Leaving Y out turns the plane over.
        flat = flat * [-1.0, 1.0]
    cut = np.asarray(manifold3d.triangulate([flat])).astype(np.int64)
    if len(cut) != len(loop) - 2:
        rest = np.arange(1, len(loop) - 1)
        cut = np.stack([np.zeros_like(rest), rest, rest + 1], axis=1)
    return np.asarray(loop[cut])
