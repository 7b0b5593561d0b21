"""The region that a body is to fill, by what was done to make it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from aimtrue.core.model.shaping import (
    Combination,
    DowelMaking,
    FaceSplit,
    HeightSplit,
    Hollowing,
    OutlineSplit,
    PieceCut,
    Shaping,
    Slice,
    SurfaceMove,
    ThreadCut,
)
from aimtrue.core.proof.regions.cells import cell_of
from aimtrue.core.proof.regions.hollowed import HollowRegion
from aimtrue.core.proof.regions.moved import MovedRegion
from aimtrue.core.proof.regions.parts import PrismRegion, SliceRegion, SplitRegion
from aimtrue.core.proof.regions.pins import DowelRegion
from aimtrue.core.proof.regions.region import Bools, Region
from aimtrue.core.proof.regions.threaded import ThreadedRegion
from aimtrue.core.proof.surface import Points, Surface

_BETWEEN = 1.25
"""A wall may be off by this many times what was measured at places on its facets, for elsewhere on them it
may be more.
"""


@dataclass(frozen=True, eq=False)
class CombinedRegion(Region):
    """Two solids joined, the second cut from the first, or what they have in common; of a split, either."""

    one: Region
    other: Region
    how: str

    def inside(self, points: Points) -> Bools:
        """As the word says."""
        a, b = self.one.inside(points), self.other.inside(points)
        return np.asarray({"join": a | b, "cut": a & ~b, "common": a & b}[self.how])

    def ends(self, points: Points) -> Points:
        """To either surface."""
        return np.minimum(self.one.ends(points), self.other.ends(points))

    def loose(self, points: Points) -> Points:
        """As the looser of them."""
        return np.maximum(self.one.loose(points), self.other.loose(points))


def region(  # noqa: PLR0913 - told apart by their names
    shaping: Shaping,
    number: int,
    wholes: list[Region],
    within: Points,
    top: tuple[float, float, float],
    wall_mm: tuple[float, float, float] | None,
    surface: Surface,
    alone: bool = True,
) -> Region:
    """Return the region that a body is to fill.

    Args:
        shaping, number: what was done, and which of the bodies it is that came of it.
        wholes: what it was done to.
        within: (n, 3) places within the released body, which tell the cell that it is in.
        top: the highest places of the whole along the axes.
        wall_mm: of a hollow, the wall asked for, and its least and greatest as made.
        surface: of the wholes.
        alone: whether no other piece is in the same cell.
    """
    match shaping:
        case PieceCut():
            return cell_of(shaping, wholes[0], within, alone)
        case Slice():
            axis = "xyz".index(shaping.axis)
            return SliceRegion(wholes[0], axis, shaping.low, shaping.high, shaping.wall)
        case HeightSplit() | OutlineSplit():
            return SplitRegion(wholes[0], shaping, number == 1, top["xyz".index(shaping.axis)])
        case FaceSplit():
            return PrismRegion(wholes[0], shaping.prisms, number == 1)
        case Hollowing():
            asked, least, greatest = wall_mm or (shaping.wall, shaping.wall, shaping.wall)
            thick = max(greatest - asked, asked - least, 0.0)
            return HollowRegion(wholes[0], shaping, _BETWEEN * thick + 1e-6)
        case Combination():
            how = ("cut", "common")[number] if shaping.how == "split" else shaping.how
            return CombinedRegion(wholes[0], wholes[1], how)
        case SurfaceMove():
            return MovedRegion(wholes[0], surface, shaping)
        case ThreadCut():
            return ThreadedRegion(wholes[0], shaping)
        case DowelMaking():
            return DowelRegion(shaping.pins)
