"""Triangles as the second readers hand them over, and the few measures the proof takes of them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TypeAlias, TypeVar

import igl
import numpy as np
from numpy.typing import NDArray

from aimtrue.core.proof.lazy_value import once
from aimtrue.core.proof.winding import ColumnGrid

Points: TypeAlias = NDArray[np.float64]
Numbers: TypeAlias = NDArray[np.int64]


_Number = TypeVar("_Number", np.float64, np.int64)


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

    def nearest(self, points: Points) -> tuple[Points, Points]:
        """Return (n,) and (n, 3): how far each of (n, 3) points is from the triangles, and where it is so."""
        tree, own_points, own_faces = self._tree
        squared, _, feet = tree.squared_distance(own_points, own_faces, np.ascontiguousarray(points))
        return np.sqrt(np.maximum(squared, 0.0)), np.asarray(feet).reshape(-1, 3)

    @once
    def _tree(self) -> tuple[igl.AABB, Points, Numbers]:
        """A tree of boxes over the triangles, and the points and triangles that it is over."""
        points, faces = self.points, self.faces
        if len(faces) > _FEW and len(cut := without_needles(self.corners)) > len(faces):
            points = np.ascontiguousarray(cut.reshape(-1, 3))
            faces = np.arange(len(points)).reshape(-1, 3)
        tree = igl.AABB()
        tree.init(points, faces)
        return tree, points, faces

    @once
    def columns(self) -> ColumnGrid | None:
        """Its triangles, to be asked which points they enclose; None where they do not close."""
        corners = self.corners
        return ColumnGrid(corners) if len(corners) and bounds_a_volume(corners) else None

    @once
    def places(self) -> tuple[Points, Numbers]:
        """Places all over it, and the triangle each is on.

        They are its corners, each place once, all of them unless there are over 300 000, and samples spread
        by area.
        """
        corners = self.corners
        areas = np.linalg.norm(np.array(crosses(corners)), axis=0)
        number = point_numbers(self.points)[self.faces].ravel()
        first = np.full(int(number.max(initial=-1)) + 1, -1)
        first[number[::-1]] = np.arange(len(number))[::-1]  # Of what is assigned twice the last stays.
        # In the order of the file: neighbours there are near each other, and near ones are found quickly.
        first = np.sort(first[first >= 0])
        first = first[:: -(-len(first) // _MOST_POINTS)]
        points, owner = self.points[self.faces.ravel()[first]], first // 3
        if not areas.sum() > 0:
            return points, owner
        chance = np.random.default_rng(_SEED)
        some = chance.choice(len(areas), min(_SAMPLES, 20 * len(areas)), p=areas / areas.sum())
        u, v = chance.random((2, len(some)))
        over = u + v > 1
        u[over], v[over] = 1 - u[over], 1 - v[over]
        a, b, c = (corners[some, k] for k in range(3))
        samples = a + u[:, None] * (b - a) + v[:, None] * (c - a)
        return np.concatenate([points, samples]), np.concatenate([owner, some])

    def bounds(self) -> Points:
        """Return (2, 3): least and greatest of the points that its triangles use."""
        used = np.zeros(len(self.points), dtype=bool)
        used[self.faces.ravel()] = True
        return bounds(self.points if used.all() else self.points[used])

    def moved(self, points: Points) -> Surface:
        """Return the same triangles over other points."""
        return Surface(points, self.faces)

    def within(self, low: Points, high: Points) -> NDArray[np.int64]:
        """Return the numbers of the triangles with all corners between (3,) ends, these included."""
        good = np.concatenate([_between(few, low, high) for few in blocks(self.points)])
        a, b, c = self.faces.T
        return np.flatnonzero(good[a] & good[b] & good[c])

    def some(self, faces: NDArray[np.generic]) -> Surface:
        """Return some of the triangles, by their numbers, with only the points they use."""
        own = self.faces[faces]
        used = np.zeros(len(self.points), dtype=bool)
        used[own.ravel()] = True
        return Surface(self.points[used], (np.cumsum(used) - 1)[own])


_SAMPLES = 20_000
_MOST_POINTS = 300_000
_SEED = 20
_FEW = 20_000
"""Triangles that are searched as they are."""
_NEEDLE = 6.0
"""A triangle whose box is so many times as large as itself is a needle."""
_SHORT = 0.01
"""A needle shorter than this share of the surface's size is left as it is."""
_HALVED = 5
"""Times, at most."""


def without_needles(corners: Points) -> Points:
    """Cut long needles that lie askew in halves, and these again: the same surface, in smaller boxes.

    Around the holes of a plate every box holds those of dozens of others, and a search goes through all.

    Args:
        corners: (m, 3, 3).

    Returns:
        (k, 3, 3), with k at least m.
    """
    if not len(corners):
        return corners
    short = _SHORT * float(np.ptp(bounds(corners), axis=0).max())
    # Most triangles of a large surface are short, and are not looked at more closely.
    long = np.concatenate([_width(few) > short for few in blocks(corners)])
    done, left = [corners[~long]], corners[long]
    for _ in range(_HALVED):
        sides = np.linalg.norm(np.roll(left, -1, axis=1) - left, axis=2)
        longest, length = sides.argmax(axis=1), sides.max(axis=1)
        twice_area = np.linalg.norm(np.array(crosses(left)), axis=0)
        across = np.sort(np.ptp(left, axis=1), axis=1)[:, 1]
        needle = (length * across > _NEEDLE * twice_area) & (length > short)
        done.append(left[~needle])
        left, longest = left[needle], longest[needle]
        row = np.arange(len(left))
        a, b, c = (left[row, (longest + k) % 3] for k in range(3))
        middle = (a + b) / 2
        left = np.concatenate([np.stack([a, middle, c], axis=1), np.stack([middle, b, c], axis=1)])
    return np.concatenate([*done, left])


def _width(corners: Points) -> Points:
    """Return (m,): the greatest extent of (m, 3, 3) triangles along an axis."""
    a, b, c = (corners[:, k] for k in range(3))
    return np.asarray((np.maximum(np.maximum(a, b), c) - np.minimum(np.minimum(a, b), c)).max(axis=1))


def joined(surfaces: list[Surface]) -> Surface:
    """Return the triangles of all surfaces, in their order."""
    if len(surfaces) == 1:
        return surfaces[0]
    starts = np.cumsum([0, *(len(surface.points) for surface in surfaces)])
    return Surface(
        np.concatenate([surface.points for surface in surfaces]),
        np.concatenate([surface.faces + start for surface, start in zip(surfaces, starts, strict=False)]),
    )


def _between(points: Points, low: Points, high: Points) -> NDArray[np.bool_]:
    x, y, z = points.T
    return np.asarray(
        (x >= low[0]) & (x <= high[0]) & (y >= low[1]) & (y <= high[1]) & (z >= low[2]) & (z <= high[2])
    )


def blocks(corners: NDArray[_Number], size: int = 1 << 14) -> Iterator[NDArray[_Number]]:
    """Yield (k, ...) runs of rows so short that what is worked out of one stays in a processor's cache."""
    for at in range(0, len(corners), size):
        yield corners[at : at + size]


def bounds(corners: Points) -> Points:
    """Return (2, 3): least and greatest of points of any shape (..., 3)."""
    # Column by column: along the other way NumPy takes three numbers at a time.
    flat = corners.reshape(-1, 3)
    ends = np.array(
        [[[few[:, k].min() for k in range(3)], [few[:, k].max() for k in range(3)]] for few in blocks(flat)]
    )
    return np.array([ends[:, 0].min(axis=0), ends[:, 1].max(axis=0)])


def crosses(corners: Points) -> tuple[Points, Points, Points]:
    """Return (m,) each: twice the area of (m, 3, 3) triangles along their normals, in X, Y and Z."""
    ax, ay, az = (corners[:, 1, k] - corners[:, 0, k] for k in range(3))
    bx, by, bz = (corners[:, 2, k] - corners[:, 0, k] for k in range(3))
    return ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx


def volume(corners: Points) -> float:
    """Return the signed volume under (m, 3, 3) triangles, summed from near by (divergence theorem)."""
    if not len(corners):
        return 0.0
    near = corners[0, 0]
    return sum(_volume(few, near) for few in blocks(corners)) / 6


def _volume(corners: Points, near: Points) -> float:
    heights = (corners[:, 0, k] - near[k] for k in range(3))
    return sum(float(h @ side) for h, side in zip(heights, crosses(corners), strict=True))


def area(corners: Points) -> float:
    """Return the area of (m, 3, 3) triangles."""
    return sum(_area(few) for few in blocks(corners)) / 2


def _area(corners: Points) -> float:
    x, y, z = crosses(corners)
    return float(np.sqrt(x * x + y * y + z * z).sum())


def edge_marks(corners: Points) -> tuple[NDArray[np.uint64], NDArray[np.bool_]]:
    """Return (m, 3) each: a mark of 64 bits for every side of (m, 3, 3) triangles, and which way it runs.

    Sides between the same two places have the same mark and, run along the other way, the other way. Marks
    of others agree by chance, once in 2**64 (they are mixed as by Steele, Lea and Flood 2014), so that
    sums of them tell what otherwise takes sorting all edges. A side without length has the mark 0.
    """
    bits = (corners + 0.0).view(np.uint64)
    # The sign is the uppermost bit, which a product by an odd number leaves there: two signs that change
    # together
    # would cancel in the sum, and places opposite each other about the origin would have one mark.
    bits = bits ^ (bits >> np.uint64(31))
    with np.errstate(over="ignore"):
        places = _mixed(bits[..., 0] * _ODD[0] + bits[..., 1] * _ODD[1] + bits[..., 2] * _ODD[2])
        ends = places[:, [1, 2, 0]]
        marks = _mixed(np.minimum(places, ends) * _ODD[0] + np.maximum(places, ends))
    marks[places == ends] = 0
    return marks, places < ends


_ODD = tuple(np.uint64(number) for number in (0x9E3779B97F4A7C15, 0xD6E8FEB86659FD93, 0xA0761D6478BD642F))


def _mixed(x: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """The finaliser of SplitMix64: every bit of the input moves every bit of the result."""
    x = (x ^ (x >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    x = (x ^ (x >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return np.asarray(x ^ (x >> np.uint64(31)))


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
    if (places[1:] != places[:-1])[~starts[1:]].any():  # Two points share a key, so they are sorted in full.
        _, index = np.unique(points + 0.0, axis=0, return_inverse=True)
        return np.asarray(index, dtype=np.int64).ravel()
    index = np.empty(len(points), np.int64)
    index[order] = np.cumsum(starts) - 1
    return index


def bounds_a_volume(corners: Points) -> bool:
    """Tell whether triangles close: every edge is run along as often each way.

    Args:
        corners: (m, 3, 3); corners of the very same place are one.
    """
    total = 0
    with np.errstate(over="ignore"):
        for few in blocks(corners):
            marks, forward = edge_marks(np.ascontiguousarray(few))
            total += int(marks[forward].sum()) - int(marks[~forward].sum())
    return total % 2**64 == 0


def unsound(corners: Points) -> tuple[int, int, int]:
    """Count what is not sound of (m, 3, 3) triangles as they were written.

    Returns:
        How many have no area, how many lie upon another, and how many edges are of more than two of them.
    """
    x, y, z = crosses(corners)
    empty = int(((x == 0) & (y == 0) & (z == 0)).sum())
    marks, _ = edge_marks(np.ascontiguousarray(corners))
    ordered = np.sort(marks, axis=1)
    doubled = len(ordered) - len(np.unique(ordered, axis=0))
    _, uses = np.unique(marks[marks != 0], return_counts=True)
    return empty, doubled, int((uses > 2).sum())
