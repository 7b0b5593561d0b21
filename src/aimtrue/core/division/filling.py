"""Loops in a plane filled with triangles over their own corners, none left out."""

from __future__ import annotations

from collections.abc import Sequence

import manifold3d
import mapbox_earcut
import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats

_SAME = 1e-9
"""Of the area of all loops: a filling that is farther off overlaps itself."""


def filled(loops: Sequence[Floats]) -> NDArray[np.int64]:
    """Return (m, 3): triangles that fill loops, by the numbers of their corners over all loops.

    One outer loop, with holes or without, is filled by ear clipping. That leaves out corners on straight
    lines, and a filling over fewer corners than its rim has would gape: it is taken only where every corner
    is in it and its area is right. All else goes to the slower triangulation of the library of solids.

    Args:
        loops: (k, 2) each, outer ones counter-clockwise, holes clockwise.
    """
    areas = [_signed(loop) for loop in loops]
    if sum(area > 0 for area in areas) == 1:
        order = sorted(range(len(loops)), key=lambda number: areas[number] < 0)
        quick = _clipped([loops[number] for number in order], sum(areas))
        if quick is not None:
            starts = np.cumsum([0, *(len(loop) for loop in loops)])
            number = np.concatenate([np.arange(starts[one], starts[one + 1]) for one in order])
            return number[quick]
    return np.asarray(manifold3d.triangulate(list(loops), 0.0), np.int64).reshape(-1, 3)


def _clipped(loops: list[Floats], area: float) -> NDArray[np.int64] | None:
    """Fill one outer loop and holes in it; None where a corner is left out, or the area is another."""
    points = np.ascontiguousarray(np.concatenate(loops))
    ends = np.cumsum([len(loop) for loop in loops]).astype(np.uint32)
    faces = mapbox_earcut.triangulate_float64(points, ends).astype(np.int64).reshape(-1, 3)
    if len(faces) != len(points) + 2 * (len(loops) - 1) - 2:
        return None
    a, b, c = (points[faces[:, k]] for k in range(3))
    twice = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    if abs(np.abs(twice).sum() / 2 - area) > _SAME * area:
        return None
    # All of its triangles run the same way round, those without an area, too.
    return faces[:, ::-1] if twice.sum() < 0 else faces


def _signed(loop: Floats) -> float:
    x, y = (loop - loop[0]).T
    return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum() / 2)
