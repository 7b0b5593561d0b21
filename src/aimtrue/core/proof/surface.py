"""Triangles as the second readers hand them over, and the few measures the proof takes of them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

Points: TypeAlias = NDArray[np.float64]
Numbers: TypeAlias = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Surface:
    """Triangles over points.

    Attributes:
        points: (n, 3).
        faces: (m, 3) indices into ``points``, in the order of the file.
    """

    points: Points
    faces: Numbers

    @property
    def corners(self) -> Points:
        """(m, 3, 3): the corners of every triangle."""
        return np.asarray(self.points[self.faces])

    def moved(self, points: Points) -> Surface:
        """Return the same triangles over other points."""
        return Surface(points, self.faces)

    def some(self, faces: NDArray[np.generic]) -> Surface:
        """Return some of the triangles, by their numbers, with only the points they use."""
        own = self.faces[faces]
        used = np.zeros(len(self.points), dtype=bool)
        used[own.ravel()] = True
        return Surface(self.points[used], (np.cumsum(used) - 1)[own])


def bounds(corners: Points) -> Points:
    """Return (2, 3): least and greatest of points of any shape (..., 3)."""
    flat = corners.reshape(-1, 3)
    return np.stack([flat.min(axis=0), flat.max(axis=0)])


def volume(corners: Points) -> float:
    """Return the signed volume under (m, 3, 3) triangles, summed from near by (divergence theorem)."""
    if not len(corners):
        return 0.0
    near = corners[0, 0]
    a, b, c = (corners[:, k] - near for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


def area(corners: Points) -> float:
    """Return the area of (m, 3, 3) triangles."""
    sides = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return float(np.linalg.norm(sides, axis=1).sum() / 2)


def point_numbers(points: Points) -> Numbers:
    """Return (n,): equal points get equal numbers."""
    bits = np.ascontiguousarray(points + 0.0).view(np.int64).astype(np.uint64)
    with np.errstate(over="ignore"):
        key = bits[:, 0] * np.uint64(0xD6E8FEB86659FD93) ^ (bits[:, 1] >> np.uint64(7))
        key = (key + bits[:, 1]) * np.uint64(0xA0761D6478BD642F) ^ (key >> np.uint64(31))
        key = (key + bits[:, 2]) * np.uint64(0xE7037ED1A0B428DB) ^ (key >> np.uint64(29))
    order = np.argsort(key)
    ordered, places = key[order], points[order]
    starts = np.r_[True, ordered[1:] != ordered[:-1]] if len(points) else np.empty(0, bool)
    if (places[1:] != places[:-1])[~starts[1:]].any():  # two points share a key: sort them in full
        _, index = np.unique(points + 0.0, axis=0, return_inverse=True)
        return np.asarray(index, dtype=np.int64).ravel()
    index = np.empty(len(points), np.int64)
    index[order] = np.cumsum(starts) - 1
    return index


def sides_of(faces: Numbers) -> tuple[Numbers, Numbers]:
    """Return (3 m,) each: a number for every side of (m, 3) triangles, the same for the same edge, and
    its way.

    The way is 1 from the lower corner to the higher, -1 back, 0 where both are the same.
    """
    starts, ends = faces.ravel(), np.roll(faces, -1, axis=1).ravel()
    key = np.minimum(starts, ends) * (int(faces.max(initial=0)) + 1) + np.maximum(starts, ends)
    return key, np.sign(ends - starts)


def bounds_a_volume(corners: Points) -> bool:
    """Tell whether triangles close: every edge is run along as often each way.

    Args:
        corners: (m, 3, 3); corners of the very same place are one.
    """
    key, way = sides_of(point_numbers(corners.reshape(-1, 3)).reshape(-1, 3))
    order = np.argsort(key)
    key, way = key[order], way[order]
    first = np.flatnonzero(np.r_[True, key[1:] != key[:-1]])
    return not np.add.reduceat(way, first).any()
