"""This module says what actions of sheet 4 do."""

from __future__ import annotations

from functools import reduce

from aimtrue.core.division import trials
from aimtrue.core.division.actions import PutAll, PutDivision, RedoneDivision, Undivide
from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import Remake
from aimtrue.core.intake.kits import seats_for, without_idle_kits
from aimtrue.core.intake.replacements import replace_bodies
from aimtrue.core.intake.successors import without_bodies
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.division import Division
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import subject_of
from aimtrue.core.model.seats import Seat
from aimtrue.core.room import Succession


def put_shaped(job: Job, action: PutDivision, store: GeometryStore) -> Job:
    """Bodies of a division come, in the place of those that it made before, if it did."""
    new, old = action.division, {division.id: division for division in job.divisions}.get(action.division.id)
    if old is not None:  # How the bodies stand is the user's decision.
        new = new.model_copy(update={"together": old.together})
    if isinstance(action, RedoneDivision) and all(division.id != new.id for division in job.divisions):
        raise Refused("division-gone", "this division was taken back meanwhile", remedy="divide it anew")
    seats = _as_its_whole_stood(job, new) if new.together and old is None else ()
    if action.kit is not None:
        kit = action.kit
        others_stand = tuple(seat for seat in job.seats if seat.subject != kit.id)
        job = job.model_copy(update={"kits": (*job.kits, kit), "seats": others_stand})
        job = job.with_each(new.wholes, lambda _: {"kit": kit.id})
    remake = Remake(says=new.says, gone=action.gone, come=action.come, follows=action.follows)
    others = tuple(division for division in job.divisions if division.id != new.id)
    job = replace_bodies(job.model_copy(update={"divisions": (*others, new)}), remake, store)
    job = job.model_copy(update={"bodies": _beside_their_wholes(job.bodies, new)})
    if seats:
        job = job.with_seats(new.id, seats)
    if not action.gone:
        for body in action.come:
            job = job.model_copy(
                update={"readings": (*job.readings, *trials.carried(job, new, job.body(body.id), store))}
            )
    return without_idle_kits(job)


def _as_its_whole_stood(job: Job, division: Division) -> tuple[Seat, ...]:
    """The seats of what a split made: those of its whole; of one in a kit its turns, in a place of its
    own.
    """
    whole = job.body(division.wholes[0])
    subject = subject_of(job, whole)
    seats = seats_for(division.id, job.seats_of(subject))
    if subject == whole.id:
        return seats
    return tuple(seat.model_copy(update={"x": None, "y": None}) for seat in seats)


def with_wholes(job: Job, succession: Succession) -> Job:
    """Return a job whose divisions are of the bodies that took the place of their wholes."""
    follows = succession.replacement.successor_of
    if not job.divisions or not follows:
        return job
    divisions = (
        division.model_copy(update={"wholes": tuple(follows.get(key, key) for key in division.wholes)})
        for division in job.divisions
    )
    return job.model_copy(update={"divisions": tuple(divisions)})


def put_all(job: Job, action: PutAll, store: GeometryStore) -> Job:
    """Bodies of several divisions come."""
    return reduce(lambda done, division: put_shaped(done, division, store), action.each, job)


def _beside_their_wholes(bodies: tuple[Body, ...], division: Division) -> tuple[Body, ...]:
    pieces = [body for body in bodies if body.division == division.id]
    rest = [body for body in bodies if body.division != division.id]
    at = max((i for i, body in enumerate(rest) if body.id in division.wholes), default=len(rest) - 1)
    return (*rest[: at + 1], *pieces, *rest[at + 1 :])


def undivide(job: Job, action: Undivide, store: GeometryStore) -> Job:
    """Take away what a division made, and whatever was made of that."""
    its_division = job.division(action.division)
    pieces = {body.id for body in job.bodies if body.division == its_division.id}
    later = [division for division in job.divisions if pieces & set(division.wholes)]
    if later:
        names = ", ".join(job.body(key).name for division in later for key in division.wholes)
        raise Refused(
            "divided-further",
            f"{names} was divided further",
            remedy="put that back together first",
        )
    job = without_bodies(job, pieces)
    job = job.model_copy(
        update={"divisions": tuple(division for division in job.divisions if division.id != its_division.id)}
    )
    return without_idle_kits(job)
