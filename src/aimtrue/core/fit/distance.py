"""This module tells how far two bodies are from each other, and how much of one is in the other.

The least distance of two meshes lies between a vertex and a triangle, or between two edges. The first is
found by a search tree (igl), exact in float64; the second is looked for only among triangles that could be
nearer: their middles and their reach say how near they can be at all.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import igl
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.solids import solid_of

_FEW = 1000
"""Corners that are asked first how near the other body is."""
_FLAT = 1e-9
"""An edge that stands out by less than this, as a share, is flat."""
_AT_ONCE = 20_000
"""Edges that are held against those near them in one go."""
_SMALL = 1e-12
"""Two edges with less of a common normal than this, as a share, are parallel: a vertex tells of them."""


@dataclass(frozen=True, eq=False)
class LeastDistance:
    """How near two bodies are.

    Attributes:
        mm: the least distance; 0 where they touch or overlap.
        a, b: (3,) a place on each where they are so near; where they overlap one in the overlap.
        overlap_mm3: the volume that both fill.
    """

    mm: float
    a: Floats
    b: Floats
    overlap_mm3: float


def least_distance(one: Mesh, other: Mesh) -> LeastDistance:
    """Return the least distance of two bodies, and the volume of what they share.

    Args:
        one, other: in mm. What an open body encloses nobody can tell, so its overlap is taken to be none.
    """
    solids = solid_of(one), solid_of(other)
    if solids[0] is not None and solids[1] is not None and _boxes_meet(one, other):
        shared = solids[0] ^ solids[1]
        volume = abs(float(shared.volume()))
        if volume > _rounding(one, other):
            mesh = shared.to_mesh64()
            place = np.asarray(mesh.vert_properties[:, :3], np.float64).mean(axis=0)
            return LeastDistance(0.0, place, place, volume)
    mm, a, b = surface_distance(one, other)
    return LeastDistance(mm, a, b, 0.0)


def _boxes_meet(one: Mesh, other: Mesh) -> bool:
    (low, high), (other_low, other_high) = one.bounds(), other.bounds()
    return bool((low <= other_high).all() and (other_low <= high).all())


def _rounding(one: Mesh, other: Mesh) -> float:
    """The volume that float32 places of touching faces may share: their area times a few of its spacings."""
    reach = max(float(np.abs(one.bounds()).max()), float(np.abs(other.bounds()).max()))
    return 4 * float(np.spacing(np.float32(reach))) * min(one.area(), other.area())


def surface_distance(one: Mesh, other: Mesh) -> tuple[float, Floats, Floats]:
    """Return the least distance between two surfaces, and a place on each where it is.

    Example: unit cubes with 2 between two of their faces are 2 apart, at two places on those faces.
    """
    near, far = _Side.of(one), _Side.of(other)
    # A few corners tell how near the two are at least; what that rules out is not asked of all.
    for count in (_FEW, None):
        step = max(1, len(near.corners) // count) if count else 1
        bound = float(cKDTree(far.corners).query(near.corners[::step], workers=-1)[0].min())
        near = near.boxed(far, bound)
        far = far.boxed(near, bound)
    near, far = near.within(far, bound), far.within(near, bound)
    mm, a, b = _from_vertices(near, far)
    back, b2, a2 = _from_vertices(far, near)
    if back < mm:
        mm, a, b = back, a2, b2
    return _from_edges(near, far, (mm, a, b)) if mm > 0 else (0.0, a, b)


@dataclass(frozen=True, eq=False)
class _Side:
    """Some triangles of a body: (n, 3) vertices, (m, 3) faces, and (k, 3) the vertices that are used."""

    vertices: Floats
    faces: NDArray[np.int64]
    corners: Floats

    @classmethod
    def of(cls, mesh: Mesh) -> _Side:
        faces = mesh.faces.astype(np.int64)
        return cls(mesh.vertices, faces, mesh.vertices[np.unique(faces)])

    def boxed(self, other: _Side, mm: float) -> _Side:
        """The triangles that can be so near to another body, by its box."""
        low, high = other.corners.min(axis=0) - mm, other.corners.max(axis=0) + mm
        points = self.vertices[self.faces]
        return self._some(((points.max(axis=1) >= low) & (points.min(axis=1) <= high)).all(axis=1))

    def within(self, other: _Side, mm: float) -> _Side:
        """The triangles that can be so near to another body, by its corners.

        A place on the other body is no farther from one of its corners than its longest edge.
        """
        used, where = np.unique(self.faces, return_inverse=True)
        away = cKDTree(other.corners).query(self.vertices[used], workers=-1)[0]
        nearest = away[where.reshape(-1, 3)].min(axis=1)
        longest = float(_edges_of(other.vertices[other.faces]).max())
        return self._some(nearest - longest - _edges_of(self.vertices[self.faces]) <= mm)

    def _some(self, chosen: NDArray[np.bool_]) -> _Side:
        faces = self.faces[chosen]
        return _Side(self.vertices, faces, self.vertices[np.unique(faces)])


def _edges_of(corners: Floats) -> Floats:
    """The longest edge of each of (m, 3, 3) triangles."""
    return np.asarray(np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(axis=1))


def _from_vertices(one: _Side, other: _Side) -> tuple[float, Floats, Floats]:
    """The vertex of one that is nearest to a triangle of another."""
    squares, _, nearest = igl.point_mesh_squared_distance(one.corners, other.vertices, other.faces)
    at = int(np.argmin(squares))
    return float(np.linalg.norm(one.corners[at] - nearest[at])), one.corners[at], nearest[at]


def _from_edges(one: _Side, other: _Side, best: tuple[float, Floats, Floats]) -> tuple[float, Floats, Floats]:
    """The two edges that are nearer than what is known, if there are such."""
    near, far = _ridges(one), _ridges(other)
    for a, b in _near_edges(near, far, best[0]):
        apart, p, q = _between_edges(near[a, 0], near[a, 1], far[b, 0], far[b, 1])
        at = int(np.argmin(apart))
        if apart[at] < best[0]:
            best = float(apart[at]), p[at], q[at]
    return best


def _ridges(side: _Side) -> Floats:
    """Return (e, 2, 3): the edges that stand out, and those of one triangle alone.

    Only two such can be the nearest places of two bodies: what is across from a hollow or flat edge is nearer
    to one of its two triangles.
    """
    ends = np.sort(side.faces[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
    edges, where, count = np.unique(ends, axis=0, return_inverse=True, return_counts=True)
    order = np.argsort(where.ravel(), kind="stable")
    first = np.concatenate([[0], np.cumsum(count)[:-1]])
    a, b = order[first], order[first + np.minimum(count, 2) - 1]
    corners = side.vertices[side.faces]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    # The corner of the second triangle that is not on the edge lies below the plane of the first.
    away = corners[b // 3, (b + 2) % 3] - corners[a // 3, 0]
    height = np.einsum("ij,ij->i", normals[a // 3], away)
    scale = np.linalg.norm(normals[a // 3], axis=1) * np.linalg.norm(away, axis=1)
    return np.asarray(side.vertices[edges[(count != 2) | (height < -_FLAT * scale)]])


def _near_edges(
    one: Floats, other: Floats, within: float
) -> Iterator[tuple[NDArray[np.int64], NDArray[np.int64]]]:
    """Pairs of edges that can be nearer than so much, by their middles and halves."""
    if not len(one) or not len(other):
        return
    (near, half), (far, other_half) = _middles(one), _middles(other)
    tree = cKDTree(far)
    order = np.argsort(half, kind="stable")
    reach = float(other_half.max()) + within
    for some in np.array_split(order, len(order) // _AT_ONCE + 1):
        hits = tree.query_ball_point(near[some], half[some] + reach, workers=-1)
        a = np.repeat(some, [len(hit) for hit in hits])
        b = np.concatenate([np.asarray(hit, np.int64) for hit in hits]) if len(a) else a
        close = np.linalg.norm(near[a] - far[b], axis=1) - half[a] - other_half[b] < within
        if close.any():
            yield a[close], b[close]


def _middles(edges: Floats) -> tuple[Floats, Floats]:
    return edges.mean(axis=1), np.asarray(np.linalg.norm(edges[:, 1] - edges[:, 0], axis=1) / 2)


def _between_edges(p: Floats, p2: Floats, q: Floats, q2: Floats) -> tuple[Floats, Floats, Floats]:
    """Return (n,), (n, 3), (n, 3): the distance of n pairs of edges where both are met within their length.

    Infinite where the nearest place is an end, which a vertex tells of (Ericson, Real-Time Collision
    Detection 2005, 5.1.9).
    """
    u, v, w = p2 - p, q2 - q, p - q
    a, b, c = (np.einsum("ij,ij->i", x, y) for x, y in ((u, u), (u, v), (v, v)))
    d, e = np.einsum("ij,ij->i", u, w), np.einsum("ij,ij->i", v, w)
    spread = a * c - b * b
    with np.errstate(divide="ignore", invalid="ignore"):
        s, t = (b * e - c * d) / spread, (a * e - b * d) / spread
    within = (spread > _SMALL * a * c) & (s >= 0) & (s <= 1) & (t >= 0) & (t <= 1)
    s, t = np.where(within, s, 0.0), np.where(within, t, 0.0)
    first, second = p + s[:, None] * u, q + t[:, None] * v
    return np.where(within, np.linalg.norm(first - second, axis=1), np.inf), first, second
