"""This module says where readings are on bodies that take the place of others."""

from __future__ import annotations

from aimtrue.core.gauges.construction import GaugedMesh
from aimtrue.core.gauges.successor_gauges import found_again
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.readings import Reading
from aimtrue.core.model.replacement import Replacement
from aimtrue.core.room import Succession


def with_readings(job: Job, succession: Succession) -> Job:
    """Return a job with the places of readings found again on bodies that took over; those not found are
    lost.
    """
    replacement, gone = succession.replacement, set(succession.replacement.gone)
    readings = tuple(
        _carried(job, reading, replacement, succession.store)
        if gone.intersection(_ends(reading))
        else (reading,)
        for reading in job.readings
    )
    return job.model_copy(update={"readings": sum(readings, ())}) if gone else job


def _ends(reading: Reading) -> list[BodyId]:
    """The bodies that a reading is taken on."""
    return [key for key in (reading.body, reading.gauge.other) if key is not None]


def _carried(
    job: Job, reading: Reading, replacement: Replacement, store: GeometryStore
) -> tuple[Reading, ...]:
    """A reading on what took the place of its bodies; nothing where a body is gone for good."""
    if replacement.onto is not None and reading.id in replacement.anchored:
        gauge = {"anchors": replacement.anchored[reading.id], "other": None}
        update = {"body": replacement.onto, "gauge": reading.gauge.model_copy(update=gauge)}
        return (reading.model_copy(update=update),)
    follows = replacement.successor_of
    ends = [key for key in _ends(reading) if key not in replacement.gone or key in follows]
    if len(ends) < len(_ends(reading)):
        return ()
    bodies = [job.body(follows.get(key, key)) for key in ends]
    meshes = [GaugedMesh.fetched(body, store) for body in bodies]
    other, beyond = (bodies[1], meshes[1]) if len(bodies) > 1 else (None, None)
    reading = _in_other_numbers(reading, replacement.scale)
    return (found_again(reading, bodies[0], meshes[0], other, beyond),)


def _in_other_numbers(reading: Reading, scale: float) -> Reading:
    """A reading whose gauge is where it would be in a file with numbers so many times larger."""
    if scale == 1.0:
        return reading
    points = tuple((scale * x, scale * y, scale * z) for x, y, z in reading.gauge.points)
    off = None if reading.gauge.off is None else scale * reading.gauge.off
    return reading.model_copy(
        update={"gauge": reading.gauge.model_copy(update={"points": points, "off": off})}
    )
