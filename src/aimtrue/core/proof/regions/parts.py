"""This module says what of a whole lies between heights, above one, within outlines or in prisms; or the
rest of it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from aimtrue.core.model.shaping import HeightSplit, OutlineSplit, Prism
from aimtrue.core.proof.regions.pins import first_across
from aimtrue.core.proof.regions.region import Bools, Region
from aimtrue.core.proof.surface import Points


@dataclass(frozen=True, eq=False)
class SliceRegion(Region):
    """What of a whole lies between two heights on an axis; ``wall`` of it, if it is thinned from inside."""

    whole: Region
    axis: int
    low: float
    high: float
    wall: float | None = None

    def inside(self, points: Points) -> Bools:
        """In the whole, between the heights, and within the wall."""
        along = points[:, self.axis]
        inside = self.whole.inside(points) & (along > self.low) & (along < self.high)
        return inside & (self.whole.ends(points) < self.wall) if self.wall is not None else inside

    def ends(self, points: Points) -> Points:
        """To the whole's surface, the planes, and the inside of the wall."""
        along, near = points[:, self.axis], self.whole.ends(points)
        distance = np.minimum(near, np.minimum(abs(along - self.low), abs(along - self.high)))
        return np.asarray(distance if self.wall is None else np.minimum(distance, abs(near - self.wall)))

    def loose(self, points: Points) -> Points:
        """A thinned wall is as thick as its grid was fine."""
        tolerance = self.whole.loose(points)
        if self.wall is None:
            return tolerance
        return np.where(
            self.whole.ends(points) > self.wall / 2, np.maximum(tolerance, self.wall / 2), tolerance
        )


@dataclass(frozen=True, eq=False)
class SplitRegion(Region):
    """One of two parts of a whole: above a height, for a depth, or within outlines; or the rest."""

    whole: Region
    shaping: HeightSplit | OutlineSplit
    rest: bool
    top: float

    @property
    def _axis(self) -> int:
        return "xyz".index(self.shaping.axis)

    def _spans(self) -> tuple[float, float]:
        if isinstance(self.shaping, HeightSplit):
            low = self.shaping.at
            return low, math.inf if self.shaping.depth is None else low + self.shaping.depth
        low = -math.inf if self.shaping.depth is None else self.top - self.shaping.depth
        return low, math.inf

    def _shape(self) -> shapely.Geometry | None:
        if isinstance(self.shaping, HeightSplit):
            return None
        shape = shapely.Polygon()
        # By the even-odd rule, what is within one more outline changes sides.
        for ring in self.shaping.rings:
            shape = shapely.symmetric_difference(shape, shapely.Polygon(ring))
        shapely.prepare(shape)
        return shape

    def _plan(self, points: Points) -> Points:
        return np.column_stack([points[:, (self._axis + 1) % 3], points[:, (self._axis + 2) % 3]])

    def inside(self, points: Points) -> Bools:
        """In the whole, and in the part."""
        along, (low, high), shape = points[:, self._axis], self._spans(), self._shape()
        part = (along > low) & (along < high)
        if shape is not None:
            plan = self._plan(points)
            part &= shapely.contains_xy(shape, plan[:, 0], plan[:, 1])
        return np.asarray(self.whole.inside(points) & (~part if self.rest else part))

    def ends(self, points: Points) -> Points:
        """To the whole's surface, the planes, and the walls under the outlines."""
        near, along, shape = self.whole.ends(points), points[:, self._axis], self._shape()
        for height in self._spans():
            if math.isfinite(height):
                near = np.minimum(near, abs(along - height))
        if shape is not None:
            plan = shapely.points(self._plan(points))
            near = np.minimum(near, shapely.distance(shape.boundary, plan))
        return np.asarray(near)

    def loose(self, points: Points) -> Points:
        """As the whole."""
        return self.whole.loose(points)


@dataclass(frozen=True, eq=False)
class PrismRegion(Region):
    """What of a whole is in one of some prisms; or the rest."""

    whole: Region
    prisms: tuple[Prism, ...]
    rest: bool

    def inside(self, points: Points) -> Bools:
        """In the whole, and in a prism."""
        part = np.zeros(len(points), bool)
        for prism in self.prisms:
            along, plan, shape = _under(points, prism)
            part |= (along > prism.low) & (along < prism.high) & shapely.contains_xy(shape, *plan.T)
        return np.asarray(self.whole.inside(points) & (~part if self.rest else part))

    def ends(self, points: Points) -> Points:
        """To the whole's surface, and the walls and ends of prisms."""
        near = self.whole.ends(points)
        for prism in self.prisms:
            along, plan, shape = _under(points, prism)
            wall = shapely.distance(shape.boundary, shapely.points(plan))
            over = np.maximum(np.maximum(prism.low - along, along - prism.high), 0)
            end = np.minimum(abs(along - prism.low), abs(along - prism.high))
            beside = np.where(shapely.contains_xy(shape, *plan.T), 0, wall)
            near = np.minimum(near, np.minimum(np.hypot(wall, over), np.hypot(end, beside)))
        return np.asarray(near)

    def loose(self, points: Points) -> Points:
        """As the whole."""
        return self.whole.loose(points)

    def telling(self) -> Points:
        """Over and under the middle of every prism's rings."""
        points = [self.whole.telling()]
        for prism in self.prisms:
            middle = np.mean(np.asarray(prism.rings[0]), axis=0)
            points.append(middle + np.array([[-0.2], [0.2]]) * np.asarray(prism.normal))
        return np.concatenate(points)


def _under(points: Points, prism: Prism) -> tuple[Points, Points, shapely.Geometry]:
    """How far points are along a prism, where they are across it, and the shape of what it sweeps."""
    normal = np.asarray(prism.normal)
    first = first_across(normal)
    ways = np.column_stack([first, np.cross(normal, first)])
    shape = shapely.Polygon()
    for ring in prism.rings:  # By the even-odd rule, what is within one more outline changes sides.
        shape = shapely.symmetric_difference(shape, shapely.Polygon(np.asarray(ring) @ ways))
    shapely.prepare(shape)
    return points @ normal, points @ ways, shape
