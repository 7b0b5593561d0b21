"""Turns of a seat as rotations; quarter turns are exact."""

from __future__ import annotations

import math
from functools import reduce
from typing import Final

import numpy as np

from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.seats import Seat, Turn
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3

_QUARTER: Final = {0.0: (1.0, 0.0), 90.0: (0.0, 1.0), 180.0: (-1.0, 0.0), 270.0: (0.0, -1.0)}
_WAYS: Final[dict[str, Vec3]] = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}
_MIRROR: Final = np.diag([-1.0, 1.0, 1.0])


def turn_matrix(turn: Turn) -> Floats:
    """Return the (3, 3) rotation of a turn, by Rodrigues' formula; quarter turns about an axis are exact."""
    angle = math.radians(turn.degrees)
    cos, sin = _QUARTER.get(turn.degrees % 360, (math.cos(angle), math.sin(angle)))
    x, y, z = turn.about or _WAYS[turn.axis]
    cross = np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])
    way = np.array([x, y, z])
    return np.asarray(cos * np.eye(3) + sin * cross + (1 - cos) * np.outer(way, way))


_TURNED: Memo[tuple[Floats, bytes]] = Memo(2048)


def seat_matrix(seat: Seat) -> Floats:
    """Return the (3, 3) matrix of a seat: mirrored, when it is, then turned."""
    return _TURNED.get((seat,), (), lambda: _turned(seat))[0]


def seat_key(seat: Seat) -> bytes:
    """Return what tells how a seat is turned from others: to keep by it what is worked out of that.

    Made once a seat; turns themselves would be hashed one by one for every body at every action.
    """
    return _TURNED.get((seat,), (), lambda: _turned(seat))[1]


def _turned(seat: Seat) -> tuple[Floats, bytes]:
    start = _MIRROR if seat.mirrored else np.eye(3)
    matrix = reduce(lambda done, turn: turn_matrix(turn) @ done, seat.turns, start) + 0.0
    matrix.flags.writeable = False
    return matrix, matrix.tobytes()


def turn_down(way: Floats, says: str) -> Turn | None:
    """Return the shortest turn that brings a unit vector to point straight down; None when it does."""
    about = np.cross(way, [0.0, 0.0, -1.0])
    sine = float(np.linalg.norm(about))
    degrees = math.degrees(math.atan2(sine, -float(way[2])))
    if sine < 1e-15 and way[2] < 0:
        return None
    axis = as_vec3(about / sine) if sine >= 1e-15 else (1.0, 0.0, 0.0)
    return Turn(degrees=_tidied(degrees), about=_tidied_way(axis), says=says)


def _tidied(degrees: float) -> float:
    """A quarter turn where the angle is one but for rounding."""
    quarter = round(degrees / 90) * 90.0
    return quarter if abs(degrees - quarter) < 1e-12 else degrees


def _tidied_way(way: Vec3) -> Vec3:
    """An axis of the plate where a unit vector is one but for rounding."""
    near = as_vec3(np.round(way))
    return near if float(np.abs(np.subtract(near, way)).max()) < 1e-14 else way


def is_quarters(seat: Seat) -> bool:
    """Whether a seat only swaps axes, so that the corners of the bounds tell as much as all vertices."""
    matrix = seat_matrix(seat)
    return bool(((matrix == 0) | (abs(matrix) == 1)).all())
