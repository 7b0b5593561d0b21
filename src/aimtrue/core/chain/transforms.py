"""From the numbers of a file to millimetres in the true frame: points.

The chain, applied to a point of the file in this order:

0. *home*: moved, where a model that was lost far away has been brought home;
1. *unit*: times the millimetres per unit;
2. *up*: the source's up axis is turned to Z (a permutation, so exact);
3. *correction*: a stretch in one direction, if there is one, then a factor per axis;
   then *allowance* (see :mod:`aimtrue.core.chain.allowance`): a factor per axis and a move.

After step 3 a point is in the *true frame*: the body's own axes, real size. Sizes on the sheets are sizes in
the true frame. How a body stands on a plate comes after it, in :mod:`aimtrue.core.seating`.
"""

from __future__ import annotations

from typing import Final

import numpy as np

from aimtrue.core.chain.kept_bores import with_kept_bores
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import DirectionalStretch
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER
from aimtrue.core.model.source import Up

_TURN_UP: Final[dict[Up, Floats]] = {
    "z": np.eye(3),
    "y": np.array([[1.0, 0.0, 0.0], [0.0, 0.0, -1.0], [0.0, 1.0, 0.0]]),
    "x": np.array([[0.0, 1.0, 0.0], [0.0, 0.0, 1.0], [1.0, 0.0, 0.0]]),
}


def turn_up(up: Up) -> Floats:
    """Return the (3, 3) permutation that turns the up axis of a source to Z."""
    return _TURN_UP[up]


def along_matrix(along: DirectionalStretch | None) -> Floats:
    """Return (3, 3): a stretch in one direction, in the axes of the job; I + (k - 1) d dᵀ."""
    if along is None:
        return np.eye(3)
    direction = np.asarray(along.direction)
    return np.asarray(np.eye(3) + (along.factor - 1) * np.outer(direction, direction))


def drawn_points(job: Job, body: Body, points: Floats) -> Floats:
    """Bring (n, 3) points of the file into mm and the axes of the job, before any correction."""
    source, unit = job.source_of(body), MM_PER[job.settled_unit(body)]
    return np.asarray((points + np.asarray(job.home_of(body))) @ turn_up(source.up).T * unit)


def base_points(job: Job, body: Body, points: Floats) -> Floats:
    """Bring (n, 3) points of the file to where the factors act: in mm, stretched along a direction."""
    drawn = drawn_points(job, body, points)
    along = job.correction_of(body).along
    return drawn if along is None else np.asarray(drawn @ along_matrix(along).T)


def true_linear(job: Job, body: Body) -> tuple[Floats, Floats]:
    """Return (3, 3) and (3,): matrix and shift that bring points of the file into the true frame."""
    source, unit = job.source_of(body), MM_PER[job.settled_unit(body)]
    correction = job.correction_of(body)
    linear = np.diag(correction.factors) @ along_matrix(correction.along) @ turn_up(source.up) * unit
    return np.asarray(linear), np.asarray(linear @ np.asarray(job.home_of(body)))


def true_points(job: Job, body: Body, points: Floats) -> Floats:
    """Bring (n, 3) points of the file into the true frame; those on kept bores stay at their diameter."""
    scaled = np.asarray(base_points(job, body, points) * np.asarray(job.correction_of(body).factors))
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
