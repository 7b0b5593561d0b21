"""This module says what belongs together in a job: which bodies share a size, an origin, a place on a plate.

A kit shares its correction, but for bodies corrected alone; what stands on a plate as one is a kit, a split
or a body. The job itself is :mod:`aimtrue.core.model.job`.
"""

from __future__ import annotations

from collections.abc import Iterable

from aimtrue.core.errors import Refused
from aimtrue.core.model.body import Body
from aimtrue.core.model.division import Division
from aimtrue.core.model.ids import BodyId, KitId, Owner, ReadingId, SourceId, Subject
from aimtrue.core.model.job import Job
from aimtrue.core.model.seats import Seat
from aimtrue.core.model.source import Source
from aimtrue.core.model.value import Axis


def subject_of(job: Job, body: Body) -> Subject:
    """Return what the seats of a body are of: the split that it is of, its kit, or itself.

    A piece, a body in no kit and one of a kit that is free stand by themselves.
    """
    if body.division is not None:
        return body.division if job.division(body.division).together else body.id
    return body.id if body.kit is None or job.kit(body.kit).free else body.kit


def seat_of(job: Job, body: Body) -> Seat:
    """Return how the first copy of a body, or of the kit that it is in, stands."""
    return job.seats_of(subject_of(job, body))[0]


def subject_name(job: Job, subject: Subject) -> str:
    """Return the name of what seats are of: a kit's, a body's, of a split that of its whole."""
    if subject in job.kits_by_id:
        return job.kits_by_id[subject].name
    if subject in job.divisions_by_id:
        return job.body(job.divisions_by_id[subject].wholes[0]).name
    return job.body(BodyId(subject)).name


def seated_with(job: Job, key: Subject) -> tuple[Body, ...]:
    """Return the bodies that stand on a plate as one.

    Args:
        key: id of a kit, of a split or of a body; a body stands for what it stands on a plate with.

    Raises:
        Refused: there is no such kit or body, or the bodies of the kit stand each by itself.
    """
    if key in job.divisions_by_id:
        return tuple(body for body in to_print(job, job.bodies) if body.division == key)
    if key not in job.kits_by_id:
        body = job.body(BodyId(key))
        if body.for_checking:
            raise Refused(
                "for-checking",
                f"{body.name} is there to check against and stands on no plate",
                remedy="mark it as to print on Intake",
            )
        subject = subject_of(job, body)
        return (body,) if subject == key else seated_with(job, subject)
    if job.kits_by_id[key].free:
        raise Refused(
            "kit-free",
            f"the bodies of {job.kits_by_id[key].name} stand each by itself",
            remedy="choose one of them, or seat the kit as one again",
        )
    return _as_one(job, KitId(key))


def _as_one(job: Job, key: KitId) -> tuple[Body, ...]:
    """The bodies of a kit that stand together: not its pieces, nor what was divided into them."""
    return tuple(body for body in to_print(job, group_of(job, key)) if body.division is None)


def standing_together(job: Job) -> tuple[tuple[Body, ...], ...]:
    """Return all bodies by what they stand on a plate with, in the order of their first."""
    groups: dict[str, list[Body]] = {}
    for body in to_print(job, job.bodies):
        groups.setdefault(subject_of(job, body), []).append(body)
    return tuple(tuple(bodies) for bodies in groups.values())


def group_of(job: Job, key: Owner) -> tuple[Body, ...]:
    """Return the bodies that a change of size or seat concerns.

    Args:
        key: id of a kit or of a body; a body of a kit stands for the whole kit.

    Raises:
        Refused: there is no such kit or body.
    """
    kit = KitId(key) if key in job.kits_by_id else job.body(BodyId(key)).kit
    if kit is None:
        return (job.body(BodyId(key)),)
    return tuple(body for body in job.bodies if body.kit == kit)


def groups_of(job: Job) -> tuple[tuple[Body, ...], ...]:
    """Return all bodies by kit, a body of no kit alone, in the order of their first."""
    groups: dict[str, list[Body]] = {}
    for body in job.bodies:
        groups.setdefault(body.kit or f"body {body.id}", []).append(body)
    return tuple(tuple(bodies) for bodies in groups.values())


def corrected_with(job: Job, key: Owner) -> tuple[Body, ...]:
    """Return the bodies that share a correction: a kit's but those corrected alone, or one body.

    Args:
        key: id of a kit or of a body.
    """
    bodies = group_of(job, key)
    if len(bodies) > 1:
        mine = next((body for body in bodies if body.id == key), None)
        if mine is not None and mine.alone:
            return (mine,)
        together = tuple(body for body in bodies if not body.alone)
        return together or bodies
    return bodies


def framed_with(job: Job, key: SourceId) -> tuple[Source, ...]:
    """Return the sources that share an origin with one through kits, itself included, in order."""
    linked, more = {key}, True
    while more:
        kits = {body.kit for body in job.bodies if body.source in linked and body.kit is not None}
        wider = linked | {body.source for body in job.bodies if body.kit in kits}
        more, linked = wider != linked, wider
    return tuple(source for source in job.sources if source.id in linked)


def bodies_of(job: Job, key: SourceId) -> tuple[Body, ...]:
    """Return the bodies that were read from a source, not what was made of them since."""
    return tuple(body for body in job.bodies if body.source == key and body.division is None)


def readings_on(job: Job, body: BodyId) -> tuple[ReadingId, ...]:
    """Return the ids of the readings that are on a body alone."""
    return tuple(
        reading.id
        for reading in job.readings
        if reading.body == body and reading.gauge.other in (None, body) and not reading.gauge.kit
    )


def in_use(job: Job, bodies: Iterable[Body]) -> tuple[Body, ...]:
    """Leave out bodies that were divided: their pieces stand for them."""
    return tuple(body for body in bodies if body.id not in job.divisions_by_whole)


def to_print(job: Job, bodies: Iterable[Body]) -> tuple[Body, ...]:
    """Leave out bodies that are not printed: those that were divided, and those to check others against."""
    return tuple(body for body in in_use(job, bodies) if not body.for_checking)


def division_of(job: Job, body: Body) -> Division | None:
    """Return what a body was divided by, if its pieces take its place."""
    return job.divisions_by_whole.get(body.id)


def file_axis(job: Job, body: Body, axis: Axis) -> Axis:
    """Return which axis of a body's file an axis of the job is."""
    up = job.source_of(body).up
    return {"z": "xyz", "y": "xzy", "x": "yzx"}[up]["xyz".index(axis)]  # type: ignore[return-value]
