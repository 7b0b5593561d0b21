"""This module says where seats are put that nobody has placed: side by side on their plate, in a row."""

from __future__ import annotations

import numpy as np

from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.seats import Seat

GAP_MM = 5.0
"""Between seats that are put on the plate side by side."""


def row_moves(seats: list[Seat], bounds: list[Floats], machine: Machine) -> list[Floats]:
    """Return the (3,) moves that put turned seats down on their plate.

    One that has a place goes there, its middle at ``x`` and ``y``. Of the others each is centred in Y, and
    they stand in a row along X with a gap between them; the row is centred, or begins beside those that have
    a place. All stand on the plate, or as far over it as their lift.

    Args:
        seats: of one plate.
        bounds: (2, 3) of each, turned.
        machine: that the plate is of.
    """
    free = [i for i, seat in enumerate(seats) if seat.x is None or seat.y is None]
    placed = [i for i in range(len(seats)) if i not in set(free)]
    widths = {i: float(bounds[i][1, 0] - bounds[i][0, 0]) for i in free}
    length = sum(widths.values()) + GAP_MM * max(0, len(free) - 1)
    at = (machine.volume.room[0] - length) / 2
    if placed:
        at = GAP_MM + max(_middle_x(seats[i]) + float(np.ptp(bounds[i][:, 0])) / 2 for i in placed)
    depth = machine.volume.room[1] / 2
    moves = []
    for i, (seat, (low, high)) in enumerate(zip(seats, bounds, strict=True)):
        middle, down = (low + high) / 2, seat.lift - low[2]
        if i in widths:
            moves.append(np.array([at - low[0], depth - middle[1], down]))
            at += widths[i] + GAP_MM
        else:
            moves.append(np.array([_middle_x(seat) - middle[0], (seat.y or 0.0) - middle[1], down]))
    return moves


def _middle_x(seat: Seat) -> float:
    return seat.x or 0.0
