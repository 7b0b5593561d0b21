"""Kits: made, left, and gone when one body is left."""

from __future__ import annotations

from collections import Counter

from aimtrue.core.chain.correction import corrected
from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import (
    LeaveKit,
    MakeKit,
)
from aimtrue.core.intake.naming import a_name
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.ids import BodyId, Subject
from aimtrue.core.model.job import Job, Kit
from aimtrue.core.model.ownership import readings_on, subject_of
from aimtrue.core.model.seats import Seat


def make_kit(job: Job, action: MakeKit, store: GeometryStore) -> Job:
    """Bodies share from now on what is decided of the first: correction, shrinkage, origin and seat."""
    name = a_name(action.name)
    first = job.body(action.bodies[0])
    frame = job.source_of(first)
    for key in action.bodies[1:]:
        body = job.body(key)
        source = job.source_of(body)
        if (source.unit, source.up, job.home_of(body)) != (frame.unit, frame.up, job.home_of(first)):
            raise Refused(
                "kit-mixed",
                f"{frame.name} and {source.name} differ in unit, up axis or origin and have no common origin",
                remedy="settle both alike first",
            )
    number = job.counter + 1
    kit = Kit(id=f"k{number}", name=name, shared=job.decisions_of(first), home=job.home_of(first))
    seats = job.seats_of(subject_of(job, first))
    job = corrected(job, tuple(job.body(key) for key in action.bodies), kit.shared.correction)
    job = job.model_copy(update={"kits": (*job.kits, kit), "counter": number})
    job = job.with_each(action.bodies, lambda _: {"kit": kit.id, "alone": False})
    return without_idle_kits(job.with_seats(kit.id, seats_for(kit.id, seats)))


def leave_kit(job: Job, action: LeaveKit, store: GeometryStore) -> Job:
    """Bodies go their own way; each keeps what was in force for it."""
    return without_idle_kits(_on_their_own(job, action.bodies))


def _on_their_own(job: Job, keys: tuple[BodyId, ...]) -> Job:
    before = job
    for key in keys:
        body = before.body(key)
        if body.kit is None:
            continue
        decided = before.decisions_of(body).for_one(body.id, body.id, readings_on(before, body.id))
        own = {"kit": None, "alone": False, "own": decided, "home": before.home_of(body)}
        job = job.with_body(job.body(key).model_copy(update=own))
        job = job.with_seats(key, seats_for(key, before.seats_of(subject_of(before, body))))
    return job


def seats_for(subject: Subject, seats: tuple[Seat, ...]) -> tuple[Seat, ...]:
    """Return the seats of one subject as those of another; none that nobody has touched."""
    copies = tuple(seat.model_copy(update={"subject": subject}) for seat in seats)
    return () if copies == (Seat(subject=subject, plate=copies[0].plate),) else copies


def without_idle_kits(job: Job) -> Job:
    """A kit of one body is no kit; its body keeps what was decided of it. Seats of nobody go."""
    counts = Counter(body.kit for body in job.bodies)
    idle = tuple(body.id for body in job.bodies if body.kit is not None and counts[body.kit] < 2)
    job = _on_their_own(job, idle)
    kits = tuple(kit for kit in job.kits if counts[kit.id] > 1)
    job = job.model_copy(update={"kits": kits})
    subjects = {subject_of(job, body) for body in job.bodies}
    seats = tuple(seat for seat in job.seats if seat.subject in subjects)
    return job.model_copy(update={"seats": seats})
