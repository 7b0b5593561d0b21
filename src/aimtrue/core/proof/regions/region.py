"""This module says what every region of space tells, and the simplest: what a closed surface bounds."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.proof import distance
from aimtrue.core.proof.surface import Points, Surface

Bools = NDArray[np.bool_]
ROUND = 2.5e-3
"""Facets of a pin, its hole or a drain may be this share of the radius away from the true circle."""


class Region(ABC):
    """A region of space."""

    @abstractmethod
    def inside(self, points: Points) -> Bools:
        """Tell which of (n, 3) points are in it."""

    @abstractmethod
    def ends(self, points: Points) -> Points:
        """Return (n,): how far points are from the nearest place where it may end, at least."""

    def loose(self, points: Points) -> Points:
        """Return (n,): by how much that may be off, since facets stand for something round."""
        return np.zeros(len(points))

    def telling(self) -> Points:
        """Return (n, 3) places in small parts of it, which points spread all over would hardly meet."""
        return np.empty((0, 3))


@dataclass(frozen=True, eq=False)
class SurfaceRegion(Region):
    """What a closed surface bounds; ``slack`` is how far the surface itself may be off."""

    surface: Surface
    slack: float = 0.0

    def inside(self, points: Points) -> Bools:
        """By the winding number."""
        return np.asarray(distance.inside(points, self.surface))

    def ends(self, points: Points) -> Points:
        """To the nearest triangle."""
        return distance.away(points, self.surface)

    def loose(self, points: Points) -> Points:
        """As far as its facets, or a remedy, may have moved it."""
        return np.full(len(points), self.slack)
