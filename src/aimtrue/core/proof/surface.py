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
        """Return some of the triangles, with only the points they use."""
        used, index = np.unique(self.faces[faces], return_inverse=True)
        return Surface(self.points[used], index.reshape(-1, 3))


def bounds(corners: Points) -> Points:
    """Return (2, 3): least and greatest of points of any shape (..., 3)."""
    flat = corners.reshape(-1, 3)
    return np.stack([flat.min(axis=0), flat.max(axis=0)])


def volume(corners: Points) -> float:
    """Return the signed volume under (m, 3, 3) triangles, summed from their own middle (divergence
    theorem).
    """
    if not len(corners):
        return 0.0
    a, b, c = (corners[:, k] - corners.reshape(-1, 3).mean(axis=0) for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


def area(corners: Points) -> float:
    """Return the area of (m, 3, 3) triangles."""
    sides = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return float(np.linalg.norm(sides, axis=1).sum() / 2)


def point_numbers(points: Points) -> Numbers:
    """Return (n,): equal points get equal numbers."""
    rows = np.ascontiguousarray(points + 0.0)
    _, index = np.unique(rows.view([("", rows.dtype)] * 3).ravel(), return_inverse=True)
    return np.asarray(index, dtype=np.int64)


def bounds_a_volume(corners: Points) -> bool:
    """Tell whether triangles close: every edge is run along as often each way.

    Args:
        corners: (m, 3, 3); corners of the very same place are one.
    """
    faces = point_numbers(corners.reshape(-1, 3)).reshape(-1, 3)
    starts, ends = faces.ravel(), np.roll(faces, -1, axis=1).ravel()
    low, high = np.minimum(starts, ends), np.maximum(starts, ends)
    _, edge = np.unique(low * (int(faces.max(initial=0)) + 1) + high, return_inverse=True)
    ways = np.where(starts < ends, 1, np.where(starts > ends, -1, 0))
    return not np.bincount(edge, ways).any()
