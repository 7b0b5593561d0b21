"""This module says how bodies stand that take the place of others."""

from __future__ import annotations

from aimtrue.core.intake.kits import seats_for
from aimtrue.core.model.ids import PlateId, Subject
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import subject_of
from aimtrue.core.model.seats import Seat
from aimtrue.core.room import Succession


def with_seats(job: Job, succession: Succession) -> Job:
    """Return a job in which a body that stands by itself and goes on stands as it stood; so do the pieces
    that it became, and of what is made in some number there are so many.
    """
    before, replacement = succession.before, succession.replacement
    for new, old in replacement.follows.items():
        if subject_of(before, before.body(old)) == old and subject_of(job, job.body(new)) == new:
            job = job.with_seats(new, seats_for(new, before.seats_of(old)))
    if replacement.kit is not None and replacement.pieces:
        whole = next(iter(replacement.pieces.values()))
        job = job.with_seats(replacement.kit, seats_for(replacement.kit, before.seats_of(whole)))
    for key, count in replacement.copies.items():
        if len(job.seats_of(key)) != count:
            job = job.with_seats(key, _copies(key, job.plates[0].id, count))
    return job


def _copies(subject: Subject, plate: PlateId, count: int) -> tuple[Seat, ...]:
    return tuple(Seat(subject=subject, plate=plate, copy_number=number) for number in range(1, count + 1))
