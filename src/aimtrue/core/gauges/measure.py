"""This module says how long gauges are now, how that depends on the factors, and where their dimensions are
drawn.
"""

from __future__ import annotations

import math

import numpy as np

from aimtrue.core.chain.kept_bores import kept_mm
from aimtrue.core.chain.sizes import group_sizes
from aimtrue.core.chain.transforms import base_points
from aimtrue.core.gauges.forms import CircleForm, Form, GapForm, GirthForm, SpanForm
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import KeptBore
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import group_of
from aimtrue.core.model.readings import Gauge, Reading
from aimtrue.core.model.value import AXES, Vec3
from aimtrue.core.model.vectors import as_vec3


def form_of(job: Job, reading: Reading) -> Form:
    """Return how a reading's gauge depends on the factors of its body; not for angles.

    A gauge between two bodies is so while both have the same correction, see :func:`sharing`.
    """
    gauge, body = reading.gauge, job.body(reading.body)
    if gauge.kind == "extent":
        return SpanForm(_extent(job, body, gauge))
    points = base_points(job, body, np.asarray(gauge.points, dtype=np.float64))
    if gauge.kind in ("diameter", "radius"):
        return CircleForm(points[1:3] - points[0], 2.0 if gauge.kind == "diameter" else 1.0)
    if gauge.kind == "faces":
        return GapForm(_across(points))
    if gauge.kind == "perimeter":
        return GirthForm(np.roll(points, -1, axis=0) - points, gauge.stretch)
    return SpanForm(points[1] - points[0])


def _extent(job: Job, body: Body, gauge: Gauge) -> Floats:
    axis = AXES.index(gauge.axis or "x")
    bodies = group_of(job, body.id) if gauge.kit else (body,)
    sizes = group_sizes(job, bodies)
    vector = np.zeros(3)
    vector[axis] = sizes[axis] / job.correction_of(body).factors[axis]
    return vector


def _across(points: Floats) -> Floats:
    """Return the vector between two planes of three points each, along their normal."""
    normal = np.cross(points[1] - points[0], points[2] - points[0])
    normal = normal / np.linalg.norm(normal)
    apart = (points[3:6].mean(axis=0) - points[:3].mean(axis=0)) @ normal
    return np.asarray(normal * apart)


def ends_of(gauge: Gauge) -> tuple[Vec3, Vec3] | None:
    """Return the two points a gauge's dimension is drawn between, in numbers of the file."""
    points = np.asarray(gauge.points, dtype=np.float64)
    match gauge.kind:
        case "extent":
            return None
        case "diameter":
            return as_vec3(2 * points[0] - points[1]), as_vec3(points[1])
        case "radius":
            return as_vec3(points[0]), as_vec3(points[1])
        case "faces":
            middle = points[:3].mean(axis=0)
            return as_vec3(middle), as_vec3(middle + _across(points))
        case "angle":
            return as_vec3(points[:3].mean(axis=0)), as_vec3(points[3:6].mean(axis=0))
        case "perimeter":
            far = int(np.linalg.norm(points - points[0], axis=1).argmax())
            return as_vec3(points[0]), as_vec3(points[far])
        case _:
            return as_vec3(points[0]), as_vec3(points[1])


def factors_of(job: Job, body: Body) -> Floats:
    """Return (3,): the factors in force for a body."""
    return np.asarray(job.correction_of(body).factors, dtype=np.float64)


def kept_of(body: Body, gauge: Gauge) -> KeptBore | None:
    """Return the kept bore that a round gauge is on."""
    if gauge.kind not in ("diameter", "radius"):
        return None
    near = 1e-6 * max(abs(value) for value in (*body.low, *body.high))
    return next((bore for bore in body.kept if math.dist(bore.point, gauge.points[0]) <= near), None)


def lengths_of(job: Job, reading: Reading) -> tuple[float, ...]:
    """Return how long a gauge is now, in mm (an angle in degrees); of an oval the greatest and the least."""
    if reading.gauge.kind == "angle":
        return (_degrees(job, reading),)
    if not sharing(job, reading):
        return (_apart(job, reading),)
    kept = kept_of(job.body(reading.body), reading.gauge)
    if kept is not None:
        diameter = kept_mm(job, job.body(reading.body), kept)
        return (diameter if reading.gauge.kind == "diameter" else diameter / 2,)
    return form_of(job, reading).lengths(factors_of(job, job.body(reading.body)))


def length_of(job: Job, reading: Reading) -> float:
    """Return how long a gauge is now: of an oval the mean of the greatest and the least."""
    lengths = lengths_of(job, reading)
    return sum(lengths) / len(lengths)


def sharing(job: Job, reading: Reading) -> bool:
    """Whether both bodies that a gauge is on have the same correction, so that it scales as a whole."""
    other = reading.gauge.other
    return other is None or job.correction_of(job.body(other)) == job.correction_of(job.body(reading.body))


def _true_ends(job: Job, reading: Reading) -> Floats:
    """Return (n, 3): the points of a gauge in the true frame, each moved with its own body."""
    points = np.asarray(reading.gauge.points, dtype=np.float64)
    bodies = [reading.body, reading.gauge.other or reading.body]
    halves = np.split(points, [len(points) // 2])
    own = [job.body(key) for key in bodies]
    return np.concatenate(
        [base_points(job, body, half) * factors_of(job, body) for body, half in zip(own, halves, strict=True)]
    )


def _apart(job: Job, reading: Reading) -> float:
    """How long a gauge is between two bodies that are corrected differently."""
    points = _true_ends(job, reading)
    across = _across(points) if reading.gauge.kind == "faces" else points[1] - points[0]
    return float(np.linalg.norm(across))


def _degrees(job: Job, reading: Reading) -> float:
    points = _true_ends(job, reading)
    a, b = (np.cross(p[1] - p[0], p[2] - p[0]) for p in (points[:3], points[3:6]))
    cosine = abs(float(a @ b)) / float(np.linalg.norm(a) * np.linalg.norm(b))
    return math.degrees(math.acos(min(1.0, cosine)))
