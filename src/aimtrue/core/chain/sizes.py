"""Sizes and bounds of bodies in the true frame, from their facts alone: no mesh is needed."""

from __future__ import annotations

import numpy as np

from aimtrue.core.chain.transforms import along_matrix, drawn_points, turn_up
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import Stretched
from aimtrue.core.model.job import Job, Vec3
from aimtrue.core.model.lengths import MM_PER, Unit
from aimtrue.core.model.source import Source
from aimtrue.core.model.vectors import as_vec3


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
