"""This module says how often closed triangles go around points: told by those of them that are over each."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

Points = NDArray[np.float64]
Numbers = NDArray[np.integer]

_UP = np.array([[0.8137, 0.4697, -0.3424], [-0.5437, 0.8232, -0.1632], [0.2052, 0.3190, 0.9253]])
"""Rows: aside, aside and up. Oblique, so that what engineers draw neither stands along it nor lies across.

Any right-handed basis works; an oblique one avoids edges parallel to an axis.
"""
_PAIRS = 1 << 16
"""This many pairs of a point and a triangle are looked at together: few enough to stay in a processor's
cache.
"""
_FINE, _FINEST = 2.0, 1200
"""Columns along a side by the root of how many triangles there are, and at most."""
_LARGE = 8
"""Columns within the box of a triangle."""
_HAIR = 1e-6
"""Each triangle's range of columns is padded by this share of a column, so that rounding cannot drop it."""


class ColumnGrid:
    """Triangles by the columns of a grid that they are over or under, to be asked which points they enclose.

    A point is as often inside as triangles over it face up more often than down. That is exact where they
    close: edges are judged alike from both sides, and a point right under one is taken for one beside it.

    Args:
        corners: (m, 3, 3), of triangles that close.
    """

    def __init__(self, corners: Points) -> None:
        seen = _seen(corners)
        flat = seen[..., :2]
        self._corners = [np.ascontiguousarray(flat[:, k]) for k in range(3)]
        self._heights = [np.ascontiguousarray(seen[:, k, 2]) for k in range(3)]
        self._low, self._high = flat.min(axis=(0, 1)), flat.max(axis=(0, 1))
        self._across = int(min(_FINE * np.sqrt(len(corners)) + 8, _FINEST))
        self._starts, self._triangles = self._listed()

    def turns(self, points: Points) -> Numbers:
        """Return (n,): how often the triangles go around (n, 3) points."""
        seen = _seen(points)
        winding = np.zeros(len(points))
        for point, triangle in self._pairs(seen[:, :2]):
            under, facing = self._over(seen, point, triangle)
            winding += np.bincount(under, facing, len(winding))
        return winding.astype(np.int64)

    def _over(self, seen: Points, point: Numbers, triangle: Numbers) -> tuple[Numbers, Points]:
        """Of points and triangles: those points that are under theirs, with 1 where it faces up, else -1."""
        # Each row tells on which side of an edge the point is; where all agree, it is within the triangle.
        sides: list[Points] = []
        for k in range(3):
            at = seen[point, :2]
            side = _side(self._corners[k][triangle] - at, self._corners[k - 2][triangle] - at)
            if sides:
                alike = np.flatnonzero((side > 0) == (sides[0] > 0))
                point, triangle, side = point[alike], triangle[alike], side[alike]
                sides = [side[alike] for side in sides]
            sides.append(side)
        up = seen[point, 2]
        # The height of the triangle there is a mean of its corners', each by the side of the edge across.
        height = sum(side * (self._heights[k - 1][triangle] - up) for k, side in enumerate(sides))
        facing = np.sign(sides[0])
        over = height * facing > 0
        return point[over], facing[over]

    def _pairs(self, flat: Points) -> Iterator[tuple[Numbers, Numbers]]:
        """Yield the numbers of (n, 2) places with those of each triangle of their column, some at a time."""
        under = np.flatnonzero(((flat >= self._low) & (flat <= self._high)).all(axis=1))
        places = np.minimum(self._place(flat[under]).astype(np.int64), self._across - 1)
        columns = places[:, 1] * self._across + places[:, 0]
        counts = self._starts[columns + 1] - self._starts[columns]
        ends = np.cumsum(counts)
        cuts = np.searchsorted(ends, np.arange(_PAIRS, counts.sum(), _PAIRS)).tolist()
        for first, last in zip([0, *cuts], [*cuts, len(under)], strict=True):
            some, many = slice(first, last), counts[first:last]
            yield np.repeat(under[some], many), self._triangles[_runs(self._starts[columns[some]], many)]

    def _place(self, flat: Points) -> Points:
        """Return (n, 2): places counted in columns."""
        wide = np.maximum(self._high - self._low, 1e-300)
        return np.asarray((flat - self._low) / wide * self._across)

    def _listed(self) -> tuple[Numbers, Numbers]:
        """Where the triangles of each column begin, and the triangles, column by column."""
        corners = [self._place(corner) for corner in self._corners]
        low, high = np.minimum.reduce(corners), np.maximum.reduce(corners)
        first, many = _columns(low[:, 1], high[:, 1], self._across)
        triangle = np.repeat(np.arange(len(first), dtype=np.int32), many)
        row = _runs(first, many)
        left, right = low[triangle, 0], high[triangle, 0]
        # What is over many columns is listed in each row only where it is; a needle is over few of its box's.
        large = np.flatnonzero(many[triangle] * (right - left) > _LARGE)
        left[large], right[large] = _within_row([corner[triangle[large]] for corner in corners], row[large])
        first, many = _columns(left, right, self._across)
        column = np.repeat(row * self._across, many) + _runs(first, many)
        entries = column.astype(np.int64) << 32 | np.repeat(triangle, many)
        entries.sort()
        starts = np.searchsorted(entries, np.arange(self._across**2 + 1) << 32)
        return starts, (entries & 0xFFFF_FFFF).astype(np.int32)


def _columns(low: Points, high: Points, across: int) -> tuple[Numbers, Numbers]:
    """Return the first column of each stretch that is counted in columns, and over how many it is."""
    first, last = (np.clip(bound, 0, across - 1).astype(np.int32) for bound in (low - _HAIR, high + _HAIR))
    return first, last - first + 1


def _within_row(corners: list[Points], row: Numbers) -> tuple[Points, Points]:
    """Return (n,): from where to where triangles reach within a row of columns.

    They end there at a corner or where an edge enters the row.
    """
    low, high = np.full(len(row), np.inf), np.full(len(row), -np.inf)
    for k in range(3):
        (pu, pv), (qu, qv) = corners[k].T, corners[k - 2].T
        steep = np.where(pv == qv, 1.0, qv - pv)
        for edge in (row - _HAIR, row + 1 + _HAIR):
            # Of an edge that ends before, its end; of one that lies level both ends, one for each.
            share = np.where(pv == qv, edge > row, np.clip((edge - pv) / steep, 0.0, 1.0))
            u, v = pu + share * (qu - pu), pv + share * (qv - pv)
            here = (v >= row - 2 * _HAIR) & (v <= row + 1 + 2 * _HAIR)
            low = np.where(here, np.minimum(low, u), low)
            high = np.where(here, np.maximum(high, u), high)
    return low, high


def _seen(points: Points) -> Points:
    """Turn points to where up is up; number by number, so that equal places stay equal to the last bit."""
    a, b, c = points[..., 0], points[..., 1], points[..., 2]
    return np.stack([a * x + b * y + c * z for x, y, z in _UP], axis=-1)


def _runs(starts: Numbers, counts: Numbers) -> Numbers:
    """Return the numbers from each start on, as many as are counted for it."""
    before = np.cumsum(counts) - counts
    shift = (starts - before).astype(np.int32)
    return np.arange(int(counts.sum()), dtype=np.int32) + np.repeat(shift, counts)


def _side(p: Points, q: Points) -> Points:
    """On which side of the origin lines from p to q pass: exactly opposite for q to p, and never 0.

    A line right through the origin passes where it does when the origin moves aside by next to nothing.
    """
    areas = np.asarray(p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0])
    through = np.flatnonzero(areas == 0)
    if len(through):
        along = q[through] - p[through]
        areas[through] = np.finfo(float).tiny * np.sign(np.where(along[:, 1] == 0, along[:, 0], -along[:, 1]))
    return areas
