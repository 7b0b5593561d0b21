"""A whole with a hollow in it, and drains into that."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from aimtrue.core.model.shaping import Drain, Hollowing
from aimtrue.core.proof.regions.region import ROUND, Bools, Region
from aimtrue.core.proof.surface import Points


@dataclass(frozen=True, eq=False)
class HollowRegion(Region):
    """A whole with a hollow a wall's thickness inside it, and drains into that.

    ``thick`` is how much thicker the wall may be where the hollow has an edge.
    """

    whole: Region
    shaping: Hollowing
    thick: float

    def inside(self, points: Points) -> Bools:
        """In the whole and in its wall, and in no drain."""
        inside = self.whole.inside(points) & (self.whole.ends(points) < self.shaping.wall)
        for drain in self.shaping.drains:
            height, aside = _along(points, drain)
            low, high = -self.shaping.wall, drain.depth + drain.diameter / 2
            inside &= ~((aside < drain.diameter / 2) & (height > low) & (height < high))
        return np.asarray(inside)

    def ends(self, points: Points) -> Points:
        """To the surface, to where the wall ends, and to the walls of drains."""
        deep = self.whole.ends(points)
        distance = np.minimum(deep, abs(deep - self.shaping.wall))
        for drain in self.shaping.drains:
            height, aside = _along(points, drain)
            distance = np.minimum(distance, abs(aside - drain.diameter / 2))
            beside = np.maximum(aside - drain.diameter / 2, 0)
            distance = np.minimum(distance, np.hypot(beside, height - drain.depth - drain.diameter / 2))
        return np.asarray(distance)

    def loose(self, points: Points) -> Points:
        """The wall is as even as it was measured to be; a drain's facets are near its circle."""
        deep, tolerance = self.whole.ends(points), self.whole.loose(points)
        tolerance = np.where(deep > self.shaping.wall / 2, np.maximum(tolerance, self.thick), tolerance)
        for drain in self.shaping.drains:
            _, aside = _along(points, drain)
            near = aside < drain.diameter
            tolerance = np.where(near, np.maximum(tolerance, 2 * ROUND * drain.diameter), tolerance)
        return tolerance

    def telling(self) -> Points:
        """In the middle of every drain."""
        points = [self.whole.telling()]
        for drain in self.shaping.drains:
            points.append((np.asarray(drain.point) + drain.depth / 2 * np.asarray(drain.direction))[None])
        return np.concatenate(points)

    def depths(self, points: Points) -> Points:
        """Return how deep those of (n, 3) places are that are on the hollow's own surface."""
        deep = self.whole.ends(points)
        own = deep > self.shaping.wall / 2
        for drain in self.shaping.drains:
            _, aside = _along(points, drain)
            own &= aside > drain.diameter
        return np.asarray(deep[own])


def _along(points: Points, drain: Drain) -> tuple[Points, Points]:
    way = np.asarray(drain.direction)
    away = points - np.asarray(drain.point)
    height = away @ way
    return height, np.linalg.norm(away - height[:, None] * way, axis=1)
