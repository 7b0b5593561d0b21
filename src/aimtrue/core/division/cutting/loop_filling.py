"""Loops in a plane filled with triangles over their own corners, none left out."""

from __future__ import annotations

from collections.abc import Sequence

import manifold3d
import mapbox_earcut
import numpy as np
import shapely
from numpy.typing import NDArray

from aimtrue.core.mesh.arrays import ring_area
from aimtrue.core.mesh.mesh import Floats

_SAME = 1e-9
"""Of the area of all loops: a filling that is farther off overlaps itself."""
_LONG = 20_000
"""Corners: a filling of more takes the quicker way."""


def filled(loops: Sequence[Floats]) -> NDArray[np.int64]:
    """Return (m, 3): triangles that fill loops, by the numbers of their corners over all loops.

    One outer loop, with holes or without, is filled by a Delaunay triangulation, of a very long one by ear
    clipping, which leaves needles across the whole of it. Both may leave out corners on straight lines, and a
    filling over fewer corners than its rim has would gape: one is taken only where every corner is in it and
    its area is right. All else goes to the slower triangulation of the library of solids.

    Args:
        loops: (k, 2) each, outer ones counter-clockwise, holes clockwise.
    """
    areas = [ring_area(loop) for loop in loops]
    if sum(area > 0 for area in areas) == 1:
        order = sorted(range(len(loops)), key=lambda number: areas[number] < 0)
        ordered = [loops[number] for number in order]
        quick = _delaunay(ordered, sum(areas))
        quick = _clipped(ordered, sum(areas)) if quick is None else quick
        if quick is not None:
            starts = np.cumsum([0, *(len(loop) for loop in loops)])
            number = np.concatenate([np.arange(starts[loop], starts[loop + 1]) for loop in order])
            return number[quick]
    return np.asarray(manifold3d.triangulate(list(loops), 0.0), np.int64).reshape(-1, 3)


def _delaunay(loops: list[Floats], area: float) -> NDArray[np.int64] | None:
    """Fill one outer loop and holes in it by a constrained Delaunay triangulation; None where that is not
    right.
    """
    points = np.concatenate(loops)
    if len(points) > _LONG:
        return None
    shape = shapely.Polygon(loops[0], loops[1:])
    if not shape.is_valid:
        return None
    corners = shapely.get_coordinates(shapely.constrained_delaunay_triangles(shape)).reshape(-1, 4, 2)[:, :3]
    places, number = np.unique(np.concatenate([points, corners.reshape(-1, 2)]), axis=0, return_inverse=True)
    if len(places) != len(points):  # Two corners are at one place, or the corner was none.
        return None
    own = np.empty(len(points), np.int64)
    own[number[: len(points)].ravel()] = np.arange(len(points))
    return _right(own[number[len(points) :].reshape(-1, 3)], points, len(loops), area)


def _clipped(loops: list[Floats], area: float) -> NDArray[np.int64] | None:
    """Fill one outer loop and holes in it by ear clipping; None where that is not right."""
    points = np.ascontiguousarray(np.concatenate(loops))
    ends = np.cumsum([len(loop) for loop in loops]).astype(np.uint32)
    faces = mapbox_earcut.triangulate_float64(points, ends).astype(np.int64).reshape(-1, 3)
    return _right(faces, points, len(loops), area)


def _right(faces: NDArray[np.int64], points: Floats, loops: int, area: float) -> NDArray[np.int64] | None:
    """Return triangles counter-clockwise; None where a corner is left out, or the area is another."""
    if len(faces) != len(points) + 2 * (loops - 1) - 2:
        return None
    a, b, c = (points[faces[:, k]] for k in range(3))
    twice = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    if abs(np.abs(twice).sum() / 2 - area) > _SAME * area:
        return None
    # All of its triangles run the same way round, those without an area, too.
    return faces[:, ::-1] if twice.sum() < 0 else faces
