"""From the numbers of a file to millimetres on a plate.

The chain, applied to a point of the file in this order:

1. *unit*: times the millimetres per unit;
2. *up*: the source's up axis is turned to Z (a permutation, so exact);
3. *correction*: a factor per axis;
4. *seat*: turns about the axes of the plate, then put down (least Z = 0) and centred.

After step 3 a point is in the *true frame*: the body's own axes, real size. Sizes
on the sheets are sizes in the true frame.
"""

from __future__ import annotations

import math
from functools import reduce
from typing import Final

import numpy as np

from aimtrue.core.job import Body, Job, Machine, Seat, Source, Turn, Up, Vec3
from aimtrue.core.lengths import MM_PER, Unit
from aimtrue.core.mesh import Floats

_TURN_UP: Final[dict[Up, Floats]] = {
    "z": np.eye(3),
    "y": np.array([[1.0, 0.0, 0.0], [0.0, 0.0, -1.0], [0.0, 1.0, 0.0]]),
}
_QUARTER: Final = {0.0: (1.0, 0.0), 90.0: (0.0, 1.0), 180.0: (-1.0, 0.0), 270.0: (0.0, -1.0)}


def turn_up(up: Up) -> Floats:
    """Return the (3, 3) permutation that turns the up axis of a source to Z."""
    return _TURN_UP[up]


def numbers_in_job_axes(body: Body, source: Source) -> Vec3:
    """Return the extents of a body in numbers of the file, along the job's axes."""
    span = np.subtract(body.high, body.low)
    return as_vec3(np.abs(turn_up(source.up) @ span))


def sizes_in(body: Body, source: Source, unit: Unit, *, corrected: bool = True) -> Vec3:
    """Return the extents in mm in the true frame, were the file in ``unit``.

    The product is taken as (number x unit) x factor, the order of the size chain on screen.
    """
    factors = body.correction.factors if corrected else (1.0, 1.0, 1.0)
    numbers = numbers_in_job_axes(body, source)
    return as_vec3([n * MM_PER[unit] * f for n, f in zip(numbers, factors, strict=True)])


def true_sizes(job: Job, body: Body) -> Vec3:
    """Return the extents of a body in mm in the true frame.

    Raises:
        Unsettled: the unit of its source is not settled.
    """
    return sizes_in(body, job.source_of(body), job.settled_unit(body))


def true_points(job: Job, body: Body, points: Floats) -> Floats:
    """Bring (n, 3) points of the file into the true frame."""
    unit = MM_PER[job.settled_unit(body)]
    turned = points @ turn_up(job.source_of(body).up).T
    return np.asarray(turned * unit * np.asarray(body.correction.factors))


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


def seat_shift(bounds: Floats, machine: Machine) -> Floats:
    """Return the (3,) move that puts turned (2, 3) bounds down on the plate, centred."""
    low, high = bounds
    middle = (low + high) / 2
    return np.array([machine.volume[0] / 2 - middle[0], machine.volume[1] / 2 - middle[1], -low[2]])


def seated_points(job: Job, body: Body, points: Floats) -> tuple[Floats, Floats]:
    """Bring (n, 3) file points to the plate.

    Args:
        points: all vertices of the body, since their bounds decide where it is put down.

    Returns:
        The points in mm from the front left corner of the plate, and the (3,) shift used.
    """
    turned = true_points(job, body, points) @ seat_matrix(body.seat).T
    shift = seat_shift(np.stack([turned.min(axis=0), turned.max(axis=0)]), job.machine)
    return turned + shift, shift


def as_vec3(numbers: object) -> Vec3:
    """Return three numbers as plain floats."""
    x, y, z = np.asarray(numbers, dtype=np.float64).tolist()
    return (x, y, z)
