"""This module says what is added on purpose after the correction: clearance about the body's own middle,
then shrinkage.
"""

from __future__ import annotations

import numpy as np

from aimtrue.core.chain.kept_bores import with_kept_bores
from aimtrue.core.chain.sizes import bounds_of, true_bounds, true_sizes
from aimtrue.core.chain.transforms import true_linear, true_points
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3


def cleared(job: Job, body: Body) -> tuple[Floats, Floats]:
    """Return (3,) and (3,): what a clearance stretches a body by, about its own middle, and the shift of
    that.
    """
    sizes = np.asarray(true_sizes(job, body))
    more = np.asarray(body.clearance.mm)
    more = np.where(sizes + more > 0, more, 0.0)  # That nothing would be left is told as a finding.
    stretch = 1 + np.divide(more, sizes, out=np.zeros(3), where=sizes > 0)
    return stretch, true_bounds(job, body).mean(axis=0) * (1 - stretch)


def grown(job: Job, body: Body) -> Floats:
    """Return (3,) factors: what makes up for the shrinkage of the material."""
    return np.asarray(1 / (1 - np.asarray(job.shrinkage_of(body).shares)))


def allowed_linear(job: Job, body: Body) -> tuple[Floats, Floats]:
    """Return (3,) and (3,): factors and shift of the allowance, applied to points of the true frame.

    Clearance stretches a body about its own middle so that its overall size changes by just as much;
    shrinkage then enlarges it about the common origin, so that what has shrunk is right.
    """
    stretch, shift = cleared(job, body)
    grow = grown(job, body)
    return stretch * grow, shift * grow


def allowed_points(job: Job, body: Body, points: Floats) -> Floats:
    """Bring (n, 3) points of the file into the true frame with the allowance: as they are released.

    Kept bores come between the two parts of it: a clearance moves them and leaves them round, at the diameter
    they are to have; what the material will shrink they are made larger by.
    """
    if not job.allowed(body):
        return true_points(job, body, points)
    linear, shift = true_linear(job, body)
    stretch, move = cleared(job, body)
    linear, shift = stretch[:, None] * linear, stretch * shift + move
    stretched = points @ linear.T + shift
    per = MM_PER[job.settled_unit(body)]
    return np.asarray(with_kept_bores(stretched, points, body.kept, linear, shift, per) * grown(job, body))


def allowed_bounds(job: Job, body: Body) -> Floats:
    """Return (2, 3): the bounds of a body in mm in the true frame, with the allowance."""
    bounds = true_bounds(job, body)
    if not job.allowed(body):
        return bounds
    factors, shift = allowed_linear(job, body)
    return bounds * factors + shift


def allowed_bounds_of(job: Job, bodies: tuple[Body, ...]) -> Floats:
    """Return (n, 2, 3): the bounds of several bodies in mm in the true frame, with their allowances."""
    if any(job.allowed(body) for body in bodies):
        return np.stack([allowed_bounds(job, body) for body in bodies])
    return bounds_of(job, bodies)


def allowed_sizes(job: Job, body: Body) -> Vec3:
    """Return the extents of a body in mm as it is released: corrected, with the allowance."""
    sizes = true_sizes(job, body)
    return sizes if not job.allowed(body) else as_vec3(np.multiply(sizes, allowed_linear(job, body)[0]))
