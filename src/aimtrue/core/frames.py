"""From the numbers of a file to millimetres on a plate.

The chain, applied to a point of the file in this order:

0. *home*: moved, where a model that was lost far away has been brought home;
1. *unit*: times the millimetres per unit;
2. *up*: the source's up axis is turned to Z (a permutation, so exact);
3. *correction*: a stretch in one direction, if there is one, then a factor per axis;
   then *allowance*: a factor per axis and a move, see :func:`allowed_linear`;
4. *seat*: turns about the axes of the plate, then put down (least Z = 0) and centred.

After step 3 a point is in the *true frame*: the body's own axes, real size. Sizes
on the sheets are sizes in the true frame.
"""

from __future__ import annotations

import math
from functools import reduce
from typing import Final

import numpy as np

from aimtrue.core.job import Body, Job, Machine, Seat, Source, Stretched, Turn, Up, Vec3
from aimtrue.core.lengths import MM_PER, Unit
from aimtrue.core.mesh import Floats
from aimtrue.core.shelf import Shelf
from aimtrue.core.truing.keep import with_kept_bores

_TURN_UP: Final[dict[Up, Floats]] = {
    "z": np.eye(3),
    "y": np.array([[1.0, 0.0, 0.0], [0.0, 0.0, -1.0], [0.0, 1.0, 0.0]]),
    "x": np.array([[0.0, 1.0, 0.0], [0.0, 0.0, 1.0], [1.0, 0.0, 0.0]]),
}
_QUARTER: Final = {0.0: (1.0, 0.0), 90.0: (0.0, 1.0), 180.0: (-1.0, 0.0), 270.0: (0.0, -1.0)}


def turn_up(up: Up) -> Floats:
    """Return the (3, 3) permutation that turns the up axis of a source to Z."""
    return _TURN_UP[up]


def numbers_in_job_axes(body: Body, source: Source) -> Vec3:
    """Return the extents of a body in numbers of the file, along the job's axes."""
    span = np.subtract(body.high, body.low)
    return as_vec3(np.abs(turn_up(source.up) @ span))


def along_matrix(body: Body) -> Floats:
    """Return (3, 3): the stretch of a body in one direction, in the axes of the job; I + (k - 1) d dᵀ."""
    along = body.correction.along
    if along is None:
        return np.eye(3)
    direction = np.asarray(along.direction)
    return np.asarray(np.eye(3) + (along.factor - 1) * np.outer(direction, direction))


def sizes_in(body: Body, source: Source, unit: Unit, *, corrected: bool = True) -> Vec3:
    """Return the extents in mm in the true frame, were the file in ``unit``.

    The product is taken as (number x unit) x factor, the order of the size chain on screen.
    """
    factors = body.correction.factors if corrected else (1.0, 1.0, 1.0)
    numbers = numbers_in_job_axes(body, source)
    if corrected and body.correction.along and body.stretched:
        numbers = as_vec3(np.subtract(body.stretched.high, body.stretched.low))
    return as_vec3([n * MM_PER[unit] * f for n, f in zip(numbers, factors, strict=True)])


def true_sizes(job: Job, body: Body) -> Vec3:
    """Return the extents of a body in mm in the true frame.

    Raises:
        Unsettled: the unit of its source is not settled.
    """
    return sizes_in(body, job.source_of(body), job.settled_unit(body))


def numbers_of(bodies: tuple[Body, ...], source: Source) -> Vec3:
    """Return the extents of several bodies of a source together, in numbers of the file, job axes."""
    low, high = np.min([body.low for body in bodies], axis=0), np.max([body.high for body in bodies], axis=0)
    return as_vec3(np.abs(turn_up(source.up) @ (high - low)))


def true_bounds(job: Job, body: Body) -> Floats:
    """Return (2, 3): the bounds of a body in mm in the true frame."""
    ends = base_bounds(job, body) * np.asarray(body.correction.factors)
    return np.stack([ends.min(axis=0), ends.max(axis=0)])


def group_sizes(job: Job, bodies: tuple[Body, ...]) -> Vec3:
    """Return the extents of several bodies together, in mm in the true frame."""
    if len(bodies) == 1:
        return true_sizes(job, bodies[0])
    ends = np.concatenate([true_bounds(job, body) for body in bodies])
    return as_vec3(ends.max(axis=0) - ends.min(axis=0))


def home_of(bodies: tuple[Body, ...], source: Source) -> Vec3:
    """Return the move, in numbers and axes of the file, that centres bodies over the origin, down on it."""
    low, high = np.min([body.low for body in bodies], axis=0), np.max([body.high for body in bodies], axis=0)
    turn = turn_up(source.up)
    ends = np.stack([turn @ low, turn @ high])
    bottom, top = ends.min(axis=0), ends.max(axis=0)
    move = np.array([-(bottom[0] + top[0]) / 2, -(bottom[1] + top[1]) / 2, -bottom[2]])
    return as_vec3(turn.T @ move)


def drawn_points(job: Job, body: Body, points: Floats) -> Floats:
    """Bring (n, 3) points of the file into mm and the axes of the job, before any correction."""
    source, unit = job.source_of(body), MM_PER[job.settled_unit(body)]
    return np.asarray((points + np.asarray(source.home)) @ turn_up(source.up).T * unit)


def base_points(job: Job, body: Body, points: Floats) -> Floats:
    """Bring (n, 3) points of the file to where the factors act: in mm, stretched along a direction."""
    drawn = drawn_points(job, body, points)
    return drawn if body.correction.along is None else np.asarray(drawn @ along_matrix(body).T)


def base_bounds(job: Job, body: Body) -> Floats:
    """Return (2, 3): the bounds of a body in mm where the factors act on it."""
    kept = body.stretched
    if body.correction.along is None or kept is None:
        return drawn_points(job, body, np.array([body.low, body.high]))
    source, unit = job.source_of(body), MM_PER[job.settled_unit(body)]
    home = along_matrix(body) @ turn_up(source.up) @ np.asarray(source.home)
    return np.asarray((np.array([kept.low, kept.high]) + home) * unit)


def restretched(body: Body, source: Source, shelf: Shelf) -> Body:
    """Return a body whose bounds under its stretch are those of its present mesh.

    Args:
        body, source: as they are.
        shelf: gives the body's mesh; asked only when the bounds are not known yet.
    """
    along, kept = body.correction.along, body.stretched
    if along is None:
        return body if kept is None else body.model_copy(update={"stretched": None})
    if kept is not None and (kept.of, kept.up, kept.geometry) == (along, source.up, body.geometry):
        return body
    points = shelf.mesh(body.geometry).vertices @ (along_matrix(body) @ turn_up(source.up)).T
    low, high = as_vec3(points.min(axis=0)), as_vec3(points.max(axis=0))
    made = Stretched(of=along, up=source.up, geometry=body.geometry, low=low, high=high)
    return body.model_copy(update={"stretched": made})


def true_linear(job: Job, body: Body) -> tuple[Floats, Floats]:
    """Return (3, 3) and (3,): matrix and shift that bring points of the file into the true frame."""
    source, unit = job.source_of(body), MM_PER[job.settled_unit(body)]
    linear = np.diag(body.correction.factors) @ along_matrix(body) @ turn_up(source.up) * unit
    return np.asarray(linear), np.asarray(linear @ np.asarray(source.home))


def true_points(job: Job, body: Body, points: Floats) -> Floats:
    """Bring (n, 3) points of the file into the true frame; those on kept bores stay at their diameter."""
    scaled = np.asarray(base_points(job, body, points) * np.asarray(body.correction.factors))
    if not body.kept:
        return scaled
    return with_kept_bores(scaled, points, body.kept, *true_linear(job, body), MM_PER[job.settled_unit(body)])


def drawn_vertices(job: Job, body: Body, points: Floats) -> Floats:
    """Return (n, 3) points of the file, those on kept bores where :func:`true_linear` puts them right.

    So that what is placed by a matrix alone, as the bench does, shows kept bores at their diameter.
    """
    linear, shift = true_linear(job, body)
    plain = points @ linear.T + shift
    moved = with_kept_bores(plain, points, body.kept, linear, shift, MM_PER[job.settled_unit(body)])
    back = np.linalg.solve(linear, (moved - shift).T).T
    return np.where((moved != plain).any(axis=1)[:, None], back, points)


def _cleared(job: Job, body: Body) -> tuple[Floats, Floats]:
    """Return (3,) and (3,): what a clearance stretches a body by, about its own middle, and the shift of
    that.
    """
    sizes = np.asarray(true_sizes(job, body))
    more = np.asarray(body.allowance.clearance_mm)
    more = np.where(sizes + more > 0, more, 0.0)  # told as a finding: nothing would be left
    stretch = 1 + np.divide(more, sizes, out=np.zeros(3), where=sizes > 0)
    return stretch, true_bounds(job, body).mean(axis=0) * (1 - stretch)


def _grown(body: Body) -> Floats:
    """Return (3,): what makes up for the shrinkage of the material."""
    return np.asarray(1 / (1 - np.asarray(body.allowance.shrinkage)))


def allowed_linear(job: Job, body: Body) -> tuple[Floats, Floats]:
    """Return (3,) and (3,): factors and shift of the allowance, applied to points of the true frame.

    Clearance stretches a body about its own middle so that its overall size changes by just as much;
    shrinkage then enlarges it about the common origin, so that what has shrunk is right.
    """
    stretch, shift = _cleared(job, body)
    grow = _grown(body)
    return stretch * grow, shift * grow


def allowed_points(job: Job, body: Body, points: Floats) -> Floats:
    """Bring (n, 3) points of the file into the true frame with the allowance: as they are released.

    Kept bores come between the two parts of it: a clearance moves them and leaves them round, at the diameter
    they are to have; what the material will shrink they are made larger by.
    """
    if body.allowance.none:
        return true_points(job, body, points)
    linear, shift = true_linear(job, body)
    stretch, move = _cleared(job, body)
    linear, shift = stretch[:, None] * linear, stretch * shift + move
    cleared = points @ linear.T + shift
    per = MM_PER[job.settled_unit(body)]
    return np.asarray(with_kept_bores(cleared, points, body.kept, linear, shift, per) * _grown(body))


def allowed_bounds(job: Job, body: Body) -> Floats:
    """Return (2, 3): the bounds of a body in mm in the true frame, with the allowance."""
    bounds = true_bounds(job, body)
    if body.allowance.none:
        return bounds
    factors, shift = allowed_linear(job, body)
    return bounds * factors + shift


def allowed_sizes(job: Job, body: Body) -> Vec3:
    """Return the extents of a body in mm as it is released: corrected, with the allowance."""
    sizes = true_sizes(job, body)
    return sizes if body.allowance.none else as_vec3(np.multiply(sizes, allowed_linear(job, body)[0]))


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


GAP_MM = 5.0
"""Between bodies that are put on the plate side by side."""


def seat_shifts(bounds: list[Floats], machine: Machine) -> list[Floats]:
    """Return the (3,) moves that put turned (2, 3) bounds down on the plate.

    Several stand in a row along X with a gap between them, each centred in Y; the row is centred.
    """
    widths = [high[0] - low[0] for low, high in bounds]
    at = (machine.volume[0] - sum(widths) - GAP_MM * (len(widths) - 1)) / 2
    shifts = []
    for (low, high), width in zip(bounds, widths, strict=True):
        shifts.append(np.array([at - low[0], machine.volume[1] / 2 - (low[1] + high[1]) / 2, -low[2]]))
        at += width + GAP_MM
    return shifts


def as_vec3(numbers: object) -> Vec3:
    """Return three numbers as plain floats."""
    x, y, z = np.asarray(numbers, dtype=np.float64).tolist()
    return (x, y, z)
