"""Turns of a seat as rotations; quarter turns are exact."""

from __future__ import annotations

import math
from functools import reduce
from typing import Final

import numpy as np

from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.seats import Seat, Turn

_QUARTER: Final = {0.0: (1.0, 0.0), 90.0: (0.0, 1.0), 180.0: (-1.0, 0.0), 270.0: (0.0, -1.0)}


def turn_matrix(turn: Turn) -> Floats:
    """Return the (3, 3) rotation of a turn; quarter turns are exact."""
    angle = math.radians(turn.degrees)
    cos, sin = _QUARTER.get(turn.degrees % 360, (math.cos(angle), math.sin(angle)))
    i, j = {"x": (1, 2), "y": (2, 0), "z": (0, 1)}[turn.axis]
    matrix = np.eye(3)
    matrix[i, i] = matrix[j, j] = cos
    matrix[i, j], matrix[j, i] = -sin, sin
    return matrix


def seat_matrix(seat: Seat) -> Floats:
    """Return the (3, 3) rotation of all turns of a seat."""
    return reduce(lambda done, turn: turn_matrix(turn) @ done, seat.turns, np.eye(3))
