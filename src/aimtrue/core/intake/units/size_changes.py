"""This module compares the size that a part had with what it would be in a unit."""

from __future__ import annotations

import math

from aimtrue.core.model.lengths import MM_PER, Unit
from aimtrue.core.model.value import Vec3

_SAME_SIZE = math.log(1.005)


_NEAR_SIZE = math.log(1.5)
"""A revision that changes more than this in size is asked about: 2.54, the least ratio of two units, is far
off.
"""


def size_change(extents: tuple[Vec3, ...], unit: Unit, before_mm: tuple[Vec3, ...]) -> float:
    """Return how many times larger a file in some unit is than the revision before it.

    Args:
        extents: of all of the file, and of its bodies, in its numbers.
        unit: that these are taken in.
        before_mm: the same of the revision before it, in mm.

    Returns:
        The ratio of all of it, the one of three that is farthest from 1; or 1 where two extents of the whole
        are as before. Bodies may have been added or removed, so that the whole is larger or smaller though
        no part of it changed: where half of the bodies or more are as large as before, the file is. Extents
        are compared by size, not by axis, so that a part that was exported another way up is still the
        same size.
    """
    whole = _change(scaled(extents[0], unit), before_mm[0])
    if is_near_size(whole):
        return whole
    if _keeps_two(scaled(extents[0], unit), before_mm[0]):
        return 1.0
    olds = list(before_mm[1:] or before_mm)
    news = [scaled(extent, unit) for extent in extents[1:] or extents]
    fewest, same = min(len(olds), len(news)), 0
    for new in news:
        twin = next((old for old in olds if _keeps_two(new, old)), None)
        if twin is not None:
            olds.remove(twin)
            same += 1
    return 1.0 if 2 * same >= fewest else whole


def _keeps_two(now: Vec3, old: Vec3) -> bool:
    """Whether two extents of three are as before: another unit would have changed them all by the same."""
    pairs = zip(sorted(now), sorted(old), strict=True)
    return sum(a > 0 and b > 0 and is_same_size(a / b) for a, b in pairs) >= 2


def _change(now: Vec3, old: Vec3) -> float:
    """Of the three ratios of two sets of extents the one that is farthest from 1."""
    ratios = [a / b for a, b in zip(sorted(now), sorted(old), strict=True) if a > 0 and b > 0]
    return max(ratios, key=lambda ratio: abs(math.log(ratio)), default=1.0)


def is_same_size(change: float) -> bool:
    """Tell whether a revision is as large as the one before it, but for rounding and facets."""
    return abs(math.log(change)) < _SAME_SIZE


def is_near_size(change: float) -> bool:
    """Tell whether a revision differs from the one before it by as much as designs usually change."""
    return abs(math.log(change)) < _NEAR_SIZE


def scaled(numbers: Vec3, unit: Unit) -> Vec3:
    """Return numbers of a file in some unit, in mm."""
    x, y, z = (number * MM_PER[unit] for number in numbers)
    return (x, y, z)
