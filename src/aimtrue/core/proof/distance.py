"""Surfaces held against each other where triangles do not correspond: bodies made anew, and CAD."""

from __future__ import annotations

from dataclasses import dataclass

import igl
import numpy as np

from aimtrue.core.proof.surface import Points, Surface, point_numbers

_EXACT_UP_TO = 5000
"""Triangles."""
_NEAR = 5e-5
"""A point is near a surface when it is nearer than this share of the surface's size."""


def farthest(points: Points, surface: Surface) -> float:
    """Return how far any of (n, 3) points is from a surface, at most."""
    return float(away(points, surface).max(initial=0.0))


def away(points: Points, surface: Surface) -> Points:
    """Return (n,): how far each of (n, 3) points is from a surface."""
    if not len(points) or not len(surface.faces):
        return np.full(len(points), np.inf)
    return surface.nearest(points)[0]


def feet(points: Points, surface: Surface) -> Points:
    """Return (n, 3): the nearest place of a surface to each of (n, 3) points."""
    return surface.nearest(points)[1]


def inside(points: Points, surface: Surface) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Tell which of (n, 3) points lie within a surface: those that it goes around.

    Where the surface does not close, the generalized winding number tells. Small surfaces use the exact sum
    of solid angles. The quick way works in single precision, and may be off by whole turns beside a needle,
    so points very near to the surface are asked about one by one.
    """
    if not len(points) or not len(surface.faces):
        return np.zeros(len(points), dtype=bool)
    if surface.columns is not None:
        return np.asarray(surface.columns.turns(points) != 0)
    given = [np.ascontiguousarray(array) for array in (surface.points, surface.faces, points)]
    if len(surface.faces) <= _EXACT_UP_TO:
        return np.asarray(np.abs(igl.winding_number(*given)) > 0.5)
    turns = igl.fast_winding_number(*given)
    size = float(np.ptp(surface.points, axis=0).max())
    near = np.flatnonzero(surface.nearest(points)[0] < _NEAR * size)
    corners = surface.corners if len(near) else np.empty((0, 3, 3))
    for number in near.tolist():
        turns[number] = _turns(points[number], corners)
    return np.asarray(np.abs(turns) > 0.5)


def _turns(point: Points, corners: Points) -> float:
    """Return how often (m, 3, 3) triangles go around a point: the sum of their solid angles over 4 pi.

    Source of the formula: A. van Oosterom and J. Strackee, "The Solid Angle of a Plane Triangle", 1983.
    """
    ways = corners - point
    a, b, c = (ways[:, k] for k in range(3))
    la, lb, lc = np.sqrt(np.einsum("ijk,ijk->ji", ways, ways))
    over = np.einsum("ij,ij->i", a, np.cross(b, c))
    under = la * lb * lc
    for p, q, length in ((a, b, lc), (b, c, la), (c, a, lb)):
        under += np.einsum("ij,ij->i", p, q) * length
    return float(2 * np.arctan2(over, under).sum() / (4 * np.pi))


@dataclass(frozen=True, eq=False)
class Rim:
    """Where a hole of a surface is: the disc that its open edges are in.

    Attributes:
        middle, normal: (3,) each, of the plane that suits the rim best.
        radius: of the disc about the middle that holds the rim.
        height: how far the rim itself leaves the plane.
        width: the longest way across the rim along the axes.
    """

    middle: Points
    normal: Points
    radius: float
    height: float
    width: float

    def beyond(self, points: Points, bulge: float) -> Points:
        """Return (n,): how far points are outside of the disc that new surface over the hole may be in.

        Args:
            points: (n, 3).
            bulge: share of the width by which a patch over a rim that is not flat may leave its plane.
        """
        from_middle = points - self.middle
        high = abs(from_middle @ self.normal)
        aside = np.sqrt(np.maximum((from_middle**2).sum(axis=1) - high**2, 0.0))
        flat = self.height <= _FLAT * self.width
        most = self.height + (0.0 if flat else bulge * self.width)
        return np.asarray(np.maximum(np.maximum(high - most, aside - self.radius), 0.0))


_FLAT = 1e-5
"""A rim is flat, and so is what closes it, when it leaves its plane by less than this share of its width."""


def rims(surface: Surface) -> list[Rim]:
    """Return the holes of a surface, by what hangs together of its open edges."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    numbers = point_numbers(surface.points)
    faces = numbers[surface.faces]
    starts, ends = faces.ravel(), np.roll(faces, -1, axis=1).ravel()
    low, high = np.minimum(starts, ends), np.maximum(starts, ends)
    many = len(surface.points) + 1
    keys, counts = np.unique(low * many + high, return_counts=True)
    rim = keys[counts == 1]
    if not len(rim):
        return []
    at = np.zeros((int(numbers.max()) + 1, 3))
    at[numbers] = surface.points
    a, b = rim // many, rim % many
    _, label = connected_components(
        coo_matrix((np.ones(len(a)), (a, b)), shape=(len(at), len(at))), directed=False
    )
    return [_rim(at[np.flatnonzero(label == component)]) for component in np.unique(label[a])]


def _rim(points: Points) -> Rim:
    ends = points.min(axis=0), points.max(axis=0)
    middle = (ends[0] + ends[1]) / 2
    normal = np.linalg.svd(points - points.mean(axis=0), full_matrices=False)[2][-1]
    high = (points - middle) @ normal
    middle = middle + normal * (high.max() + high.min()) / 2
    from_middle = points - middle
    aside = np.linalg.norm(from_middle - np.outer(from_middle @ normal, normal), axis=1)
    width = float(np.linalg.norm(ends[1] - ends[0]))
    return Rim(middle, normal, float(aside.max()), float(np.ptp(high)) / 2, width)
