"""Sizes and bounds of bodies in the true frame, from their facts alone: no mesh is needed."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from aimtrue.core.chain.transforms import along_matrix, drawn_points, turn_up
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import Correction, StretchedBounds
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, Unit
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.source import Source
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3

_SIDES = {"z": (0, 1, 2), "y": (0, 2, 1), "x": (1, 2, 0)}
"""Which axes of the file are X, Y and Z of the job."""
_SIZES: Memo[Vec3] = Memo(8192)
_BOUNDS: Memo[Floats] = Memo(8192)


def numbers_in_job_axes(body: Body, source: Source) -> Vec3:
    """Return the extents of a body in numbers of the file, along the job's axes."""
    span = [high - low for low, high in zip(body.low, body.high, strict=True)]
    x, y, z = (span[axis] for axis in _SIDES[source.up])
    return x, y, z


def numbers_of_each(bodies: Sequence[Body], source: Source) -> Floats:
    """Return (n, 3): the extents of bodies in numbers of the file, along the job's axes."""
    ends = np.array([(body.low, body.high) for body in bodies])
    return np.asarray((ends[:, 1] - ends[:, 0])[:, _SIDES[source.up]])


def sizes_in(numbers: Vec3, unit: Unit, factors: Vec3 = (1.0, 1.0, 1.0)) -> Vec3:
    """Return extents in mm, were numbers of the file in ``unit``.

    The product is taken as (number x unit) x factor, the order of the size chain on screen.
    """
    x, y, z = (n * MM_PER[unit] * f for n, f in zip(numbers, factors, strict=True))
    return x, y, z


def true_sizes(job: Job, body: Body) -> Vec3:
    """Return the extents of a body in mm in the true frame.

    Raises:
        Unsettled: the unit of its source is not settled.
    """
    unit = job.settled_unit(body)
    return _SIZES.get(job.in_force(body), (), lambda: _true_sizes(job, body, unit))


def is_oval(correction: Correction) -> bool:
    """Tell whether a correction is not alike in all directions, so that round becomes oval."""
    x, y, z = correction.factors
    alike = x == y == z or len({round(factor, 12) for factor in (x, y, z)}) == 1
    return not alike or correction.along is not None


def true_volume(job: Job, body: Body) -> float:
    """Return the volume of a body in mm³ in the true frame; of an open one it means nothing."""
    scale, correction = MM_PER[job.settled_unit(body)], job.correction_of(body)
    x, y, z = correction.factors
    x *= correction.along.factor if correction.along else 1.0
    return body.volume * scale**3 * x * y * z


def true_area(job: Job, body: Body) -> float:
    """Return the area of a body in mm² in the true frame; its correction must be alike in all directions."""
    return body.area * (MM_PER[job.settled_unit(body)] * job.correction_of(body).factors[0]) ** 2


def sizes_of(job: Job, bodies: Sequence[Body]) -> list[Vec3]:
    """Return the extents of several bodies as :func:`true_sizes`, those that are alike at once.

    Raises:
        Unsettled: the unit of a source is not settled.
    """
    return _SIZES.get_all(
        [job.in_force(body) for body in bodies], (), lambda some: _sizes_of(job, [bodies[i] for i in some])
    )


def _sizes_of(job: Job, bodies: list[Body]) -> list[Vec3]:
    extents = np.empty((len(bodies), 3))
    for some in alike(job, bodies):
        first = bodies[some[0]]
        unit, correction = job.settled_unit(first), job.correction_of(first)
        if correction.along is not None:
            extents[some] = [_true_sizes(job, bodies[i], unit) for i in some]
            continue
        numbers = numbers_of_each([bodies[i] for i in some], job.source_of(first))
        # The rows are in the order of :func:`sizes_in`.
        extents[some] = numbers * MM_PER[unit] * np.asarray(correction.factors)
    return [(x, y, z) for x, y, z in extents.tolist()]


def alike(job: Job, bodies: Sequence[Body]) -> Iterable[list[int]]:
    """Return the numbers of bodies for which all but their own geometry is the same, group by group."""
    groups: dict[tuple[int, int, Vec3], list[int]] = {}
    for i, body in enumerate(bodies):
        _, decisions, source, home = job.in_force(body)
        groups.setdefault((id(decisions), id(source), home), []).append(i)
    return groups.values()


def _true_sizes(job: Job, body: Body, unit: Unit) -> Vec3:
    correction = job.correction_of(body)
    numbers = numbers_in_job_axes(body, job.source_of(body))
    if correction.along and body.stretched:
        numbers = as_vec3(np.subtract(body.stretched.high, body.stretched.low))
    return sizes_in(numbers, unit, correction.factors)


def numbers_of(bodies: tuple[Body, ...], source: Source) -> Vec3:
    """Return the extents of several bodies of a source together, in numbers of the file, job axes."""
    low, high = np.min([body.low for body in bodies], axis=0), np.max([body.high for body in bodies], axis=0)
    return as_vec3(np.abs(turn_up(source.up) @ (high - low)))


def true_bounds(job: Job, body: Body) -> Floats:
    """Return (2, 3): the bounds of a body in mm in the true frame."""
    return _BOUNDS.get(job.in_force(body), (), lambda: _true_bounds(job, body))


def _true_bounds(job: Job, body: Body) -> Floats:
    _, decisions, source, home = job.in_force(body)
    correction = decisions.correction
    # Most bodies are so. No matrix is built, since this is asked of every body at every action.
    if correction.along is None:
        unit, spans = MM_PER[job.settled_unit(body)], []
        for i, axis in enumerate(_SIDES[source.up]):
            way = -unit if (source.up, i) == ("y", 1) else unit
            ends = [(end[axis] + home[axis]) * way * correction.factors[i] for end in (body.low, body.high)]
            spans.append((min(ends), max(ends)))
        return np.array(spans).T
    moved = base_bounds(job, body) * np.asarray(correction.factors)
    return np.stack([moved.min(axis=0), moved.max(axis=0)])


_EVERY: Memo[Floats] = Memo(64)


def bounds_of(job: Job, bodies: tuple[Body, ...]) -> Floats:
    """Return (n, 2, 3): the bounds of several bodies in mm in the true frame; those alike at once."""
    return _EVERY.get((job, *bodies), (), lambda: _bounds_of(job, bodies))


def _bounds_of(job: Job, bodies: tuple[Body, ...]) -> Floats:
    bounds = np.empty((len(bodies), 2, 3))
    for some in alike(job, bodies):
        _, decisions, source, home = job.in_force(bodies[some[0]])
        if decisions.correction.along is not None:
            bounds[some] = [true_bounds(job, bodies[i]) for i in some]
            continue
        # In the order of :func:`_true_bounds`, so that both are the same to the last bit.
        unit = MM_PER[job.settled_unit(bodies[some[0]])]
        ways = [-unit if (source.up, i) == ("y", 1) else unit for i in range(3)]
        ends = np.array([(bodies[i].low, bodies[i].high) for i in some]) + np.asarray(home)
        ends = ends[:, :, _SIDES[source.up]] * np.asarray(ways) * np.asarray(decisions.correction.factors)
        bounds[some] = np.stack([ends.min(axis=1), ends.max(axis=1)], axis=1)
    return bounds


def group_sizes(job: Job, bodies: tuple[Body, ...]) -> Vec3:
    """Return the extents of several bodies together, in mm in the true frame."""
    if len(bodies) == 1:
        return true_sizes(job, bodies[0])
    ends = bounds_of(job, bodies)
    return as_vec3(ends[:, 1].max(axis=0) - ends[:, 0].min(axis=0))


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
    if job.correction_of(body).along is None or kept is None:
        return drawn_points(job, body, np.array([body.low, body.high]))
    source, unit = job.source_of(body), MM_PER[job.settled_unit(body)]
    home = along_matrix(job.correction_of(body).along) @ turn_up(source.up) @ np.asarray(job.home_of(body))
    return np.asarray((np.array([kept.low, kept.high]) + home) * unit)


def restretched(job: Job, body: Body, store: GeometryStore) -> Body:
    """Return a body whose bounds under its stretch are those of its present mesh.

    Args:
        job, body: as they are.
        store: gives the body's mesh; asked only when the bounds are not known yet.
    """
    along, kept, source = job.correction_of(body).along, body.stretched, job.source_of(body)
    if along is None:
        return body if kept is None else body.model_copy(update={"stretched": None})
    if kept is not None and (kept.along, kept.up, kept.geometry) == (along, source.up, body.geometry):
        return body
    points = store.mesh(body.geometry).vertices @ (along_matrix(along) @ turn_up(source.up)).T
    low, high = as_vec3(points.min(axis=0)), as_vec3(points.max(axis=0))
    stretched_bounds = StretchedBounds(along=along, up=source.up, geometry=body.geometry, low=low, high=high)
    return body.model_copy(update={"stretched": stretched_bounds})
