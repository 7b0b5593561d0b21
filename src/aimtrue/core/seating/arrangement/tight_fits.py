"""Exact places where cells are too coarse: one part that just goes onto a plate, and rows of boxes.

A part may be moved by all translations that keep every corner of its hull within every side of the plate. The
sides of a plate that is convex are half planes, so these translations are again bounded by half planes, one
for each side (the inner fit polygon of a convex container). Boxes are packed by maximal rectangles (J.
Jylänki, "A Thousand Ways to Pack the Bin", 2010), which the library does.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import rectpack
import shapely
import shapely.affinity
from scipy.optimize import linprog

from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.mesh.outlines import Outline

SLACK_MM = 1e-6
"""What is wider than a plate by no more than this fits: float64 loses as much on the way."""
_PER_MM = 10_000
"""Boxes are packed in whole numbers, a tenth of a micrometre each."""
_FINE_DEGREES = 0.25
_MANY_ROUNDS = 30


@dataclass(frozen=True)
class TightPlacement:
    """How a part goes onto an empty plate: its turn about Z in degrees, and the middle of its box in mm."""

    turn: float
    x: float
    y: float


def fit_of(outline: Outline, plate: Floats, turns: Sequence[float]) -> TightPlacement | None:
    """Return how an outline goes onto an empty plate with most room to spare, or None where it does not.

    Args:
        outline: in mm, about any point.
        plate: (k, 2) corners of a convex plate, counter-clockwise.
        turns: that are tried, in degrees.
    """
    best: tuple[float, TightPlacement] | None = None
    for turn in turns:
        turned = shapely.affinity.rotate(outline, turn, origin=(0, 0)) if turn else outline
        moved = _moved_within(turned, plate)
        if moved is None:
            continue
        room, move = moved
        if best is None or room > best[0] + SLACK_MM:
            x0, y0, x1, y1 = turned.bounds
            best = room, TightPlacement(turn, (x0 + x1) / 2 + move[0], (y0 + y1) / 2 + move[1])
    return best[1] if best else None


def _moved_within(outline: Outline, plate: Floats) -> tuple[float, tuple[float, float]] | None:
    """The move that leaves most room to the nearest side of a convex plate, and that room in mm."""
    normals, heights = _sides(plate)
    corners = shapely.get_coordinates(shapely.convex_hull(outline))
    left = heights - (corners @ normals.T).max(axis=0)
    # The quick answer of most: the middles of the two boxes over each other.
    if plate.shape[0] == 4:
        low, high = corners.min(axis=0), corners.max(axis=0)
        move = (plate.min(axis=0) + plate.max(axis=0) - low - high) / 2
        room = float((left - normals @ move).min())
        return (room, (float(move[0]), float(move[1]))) if room >= -SLACK_MM else None
    sides = np.column_stack([normals, np.ones(len(normals))])
    done = linprog([0, 0, -1], A_ub=sides, b_ub=left, bounds=[(None, None)] * 3, method="highs")
    if not done.success or done.x[2] < -SLACK_MM:
        return None
    return float(done.x[2]), (float(done.x[0]), float(done.x[1]))


def _sides(plate: Floats) -> tuple[Floats, Floats]:
    """The outward unit normals of a plate's sides, and how far each side is along its own."""
    along = np.roll(plate, -1, axis=0) - plate
    normals = np.column_stack([along[:, 1], -along[:, 0]])
    normals = normals / np.linalg.norm(normals, axis=1)[:, None]
    return normals, (normals * plate).sum(axis=1)


def fine_turns() -> list[float]:
    """Return the turns that are tried where nothing else fits: something long may go in aslant."""
    return [45.0, 135.0, *np.arange(0, 180, _FINE_DEGREES).tolist()]


@dataclass(frozen=True)
class PackedBox:
    """A box that was packed: the number of its part, of its plate, its turn, and the middle of the box in
    mm.
    """

    number: int
    plate: int
    turn: float
    x: float
    y: float


def in_rows(
    sizes: Sequence[tuple[float, float]], plate: Floats, gap: float, *, turned: bool
) -> list[PackedBox]:
    """Pack boxes on as few plates as they take; what fits on none is left out.

    Args:
        sizes: width and depth of each box in mm.
        plate: (4, 2) corners of a plate that is a box.
        gap: between boxes, in mm.
        turned: whether they may be turned by a quarter.

    Returns:
        The boxes that were placed; the same for the same sizes.
    """
    low, room = plate.min(axis=0), np.ptp(plate, axis=0)
    # A gap behind every box, and one more behind the plate, is a gap between boxes and none at its sides.
    rows = [tuple(_up(side + gap) for side in size) for size in sizes]
    whole = tuple(int(np.floor((side + gap + SLACK_MM) * _PER_MM)) for side in room)
    tries = [_packed(rows, whole, turned, way) for way in _ways(len(sizes))]
    best = min(tries, key=_worth, default=[])
    packed_boxes = []
    for plate_number, x, y, width, depth, number in best:
        quarter = (width, depth) != rows[number]
        wide, deep = sizes[number][::-1] if quarter else sizes[number]
        at = low + np.array([x, y]) / _PER_MM + np.array([wide, deep]) / 2
        packed_boxes.append(
            PackedBox(number, plate_number, 90.0 if quarter else 0.0, float(at[0]), float(at[1]))
        )
    return packed_boxes


_Placed = list[tuple[int, int, int, int, int, int]]


def _up(mm: float) -> int:
    return int(np.ceil(mm * _PER_MM - 1e-3))


def _ways(many: int) -> Iterator[tuple[object, object, object]]:
    """Which algorithms and orders of boxes are tried: all of them while there are few."""
    algorithms = (
        rectpack.MaxRectsBssf,
        rectpack.MaxRectsBl,
        rectpack.MaxRectsBaf,
        rectpack.GuillotineBssfSas,
    )
    orders = (rectpack.SORT_AREA, rectpack.SORT_LSIDE, rectpack.SORT_SSIDE, rectpack.SORT_NONE)
    for algorithm in algorithms if many <= _MANY_ROUNDS else algorithms[:1]:
        for order in orders:
            yield algorithm, order, rectpack.PackingBin.BFF
            yield algorithm, order, rectpack.PackingBin.BBF


def _packed(
    rows: list[tuple[int, ...]], whole: tuple[int, ...], turned: bool, way: tuple[object, object, object]
) -> _Placed:
    packer = rectpack.newPacker(
        mode=rectpack.PackingMode.Offline,
        bin_algo=way[2],
        pack_algo=way[0],
        sort_algo=way[1],
        rotation=turned,
    )
    for number, (width, depth) in enumerate(rows):
        packer.add_rect(width, depth, rid=number)
    packer.add_bin(*whole, count=len(rows))
    packer.pack()
    return [tuple(rect) for rect in packer.rect_list()]


def _worth(placed: _Placed) -> tuple[int, int, int]:
    """Most boxes first, then fewest plates, then least depth of the last."""
    plates = max((rect[0] for rect in placed), default=0)
    deep = max((rect[2] + rect[4] for rect in placed if rect[0] == plates), default=0)
    return -len(placed), plates, deep
