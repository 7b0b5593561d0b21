"""A piece: what of a whole is on certain sides of planes, with its pins and holes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.model.shaping import PieceCut, Pin, Pins
from aimtrue.core.proof.regions.pins import about, beside, from_pin, in_hole, in_pin
from aimtrue.core.proof.regions.region import ROUND, Bools, Region
from aimtrue.core.proof.surface import Points

_HAIR_MM = 2e-4
_SMALL = 0.03
"""Of the material of the cell that a piece is in: a cell with less of it may have been a sliver given to
it.
"""
_ASKED = 20_000
_SEED = 11


@dataclass(frozen=True, eq=False)
class CuttingPlanes:
    """Cutting planes; ``only`` are the sides of earlier ones that each is limited to."""

    normals: Points
    heights: Points
    only: tuple[tuple[tuple[int, bool], ...], ...]

    def over(self, points: Points) -> Points:
        """Return (n, p): how far points are over each plane."""
        return np.asarray(points @ self.normals.T - self.heights)

    def sides(self, points: Points) -> NDArray[np.int8]:
        """Return (n, p): 1 above a plane, 0 below, -1 where it does not cut."""
        sides = (self.over(points) > 0).astype(np.int8)
        for number, limits in enumerate(self.only):
            for other, above in limits:
                sides[sides[:, other] != above, number] = -1
        return sides


@dataclass(frozen=True, eq=False)
class CellRegion(Region):
    """What of a whole is on certain sides of planes, with the holes of its pins and the pins fixed to it.

    A whole that is ``open`` has no inside; what is ``alone`` in its cells has all of the surface there.
    """

    whole: Region
    planes: CuttingPlanes
    sides: NDArray[np.int8]
    pins: Pins | None
    open: bool = False
    alone: bool = True

    def inside(self, points: Points) -> Bools:
        """In the whole, in one of the cells, in no hole; or in a pin that is fixed to it."""
        inside = self.whole.inside(points) & self._mine(points)
        for pin, near in beside(self.pins, points):
            assert self.pins is not None
            height, aside, flat = about(points[near], pin, self.normals[pin.plane])
            hole = in_hole(self.pins, height, aside, flat)
            if self.pins.kind == "dowel":
                inside[near] &= ~hole
                continue
            if (self.sides[:, pin.plane] == 1).any():
                inside[near] &= ~(hole & (height > 0))
            if (self.sides[:, pin.plane] == 0).any() and self._holds(pin):
                stem = (height > 0) & (height < self.pins.depth) & in_pin(self.pins, aside, flat)
                inside[near] |= stem
        return np.asarray(inside)

    def among(self, points: Points) -> Bools:
        """Tell which points are in one of its cells, whether there is material or not."""
        return self._mine(points)

    def telling(self) -> Points:
        """In the middle of every pin and hole, on both sides of its plane."""
        points = [self.whole.telling()]
        for pin in self.pins.places if self.pins else ():
            assert self.pins is not None
            away = np.array([[-1.0], [1.0]]) * (self.pins.depth / 2) * self.normals[pin.plane]
            points.append(np.asarray(pin.point) + away)
        return np.concatenate(points)

    def _holds(self, pin: Pin) -> bool:
        """Whether a fixed pin stands on this piece: what lies right under it is in it."""
        under = np.asarray(pin.point)[None] - 1e-3 * self.normals[pin.plane]
        return bool((self.whole.inside(under) & self._mine(under))[0])

    def _mine(self, points: Points) -> Bools:
        """Which points are in one of its cells."""
        sides = self.planes.sides(points)
        return np.asarray((sides[:, None] == self.sides[None]).all(axis=2).any(axis=1))

    @property
    def normals(self) -> Points:
        """(p, 3): those of its planes."""
        return self.planes.normals

    def ends(self, points: Points) -> Points:
        """To the whole's surface, the planes, and the walls, bottoms and flats of pins and holes."""
        near = np.minimum(self.whole.ends(points), np.abs(self.planes.over(points)).min(axis=1))
        for pin, some in beside(self.pins, points, near):
            assert self.pins is not None
            height, aside, flat = about(points[some], pin, self.normals[pin.plane])
            near[some] = np.minimum(near[some], from_pin(self.pins, height, aside, flat))
        return np.asarray(near)

    def loose(self, points: Points) -> Points:
        """What facets of pins lose, near them."""
        tolerance = self.whole.loose(points)
        reach = (self.pins.diameter + self.pins.clearance) / 2 if self.pins else 0.0
        for pin, some in beside(self.pins, points, 1.0 + reach):
            assert self.pins is not None
            height, aside, _ = about(points[some], pin, self.normals[pin.plane])
            close = (np.abs(height) < self.pins.depth + self.pins.clearance + 1) & (aside < 1.5 * reach)
            tolerance[some] = np.where(
                close, np.maximum(tolerance[some], ROUND * reach + _HAIR_MM), tolerance[some]
            )
        return np.asarray(tolerance)


def cell_of(shaping: PieceCut, whole: Region, within: Points, alone: bool) -> CellRegion:
    """Return the cell that a released piece is in; see :func:`aimtrue.core.proof.regions.combined.region`."""
    normals = np.array([plane.normal for plane in shaping.planes])
    heights = np.array([plane.at for plane in shaping.planes])
    only = tuple(
        tuple((plane_side.plane, plane_side.above) for plane_side in plane.only) for plane in shaping.planes
    )
    planes = CuttingPlanes(normals, heights, only)
    sides = planes.sides(within)
    if not len(sides):  # The pieces face inward, so there is no place within.
        sides = np.zeros((1, len(heights)), np.int8)
    cells, counts = np.unique(sides, axis=0, return_counts=True)
    if shaping.slivers == "give" and len(within):
        keep = _with_slivers(planes, cells, whole, within)
    else:
        keep = np.arange(len(counts)) == int(counts.argmax())
    return CellRegion(whole, planes, cells[keep], shaping.pins, shaping.open, alone)


def _with_slivers(planes: CuttingPlanes, cells: NDArray[np.int8], whole: Region, within: Points) -> Bools:
    """Which cells a piece may be in that slivers were given to: the one with most material, and small ones.

    How much material is in each is told by points all over where the piece is. A thin sliver has much surface
    and little material, so that places beside the surface do not tell which cell is the piece's own.
    """
    ends = within.min(axis=0), within.max(axis=0)
    points = np.random.default_rng(_SEED).uniform(*ends, (_ASKED, 3))
    sides = planes.sides(points[whole.inside(points)])
    material = (sides[:, None] == cells[None]).all(axis=2).sum(axis=0)
    return np.asarray((material <= _SMALL * material.max()) | (material == material.max()))
