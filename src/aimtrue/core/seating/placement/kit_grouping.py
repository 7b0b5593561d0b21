"""The bodies of a kit, or of a split, on a plate: each by itself, or as one."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import DivisionId, KitId, Subject
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import group_of, to_print
from aimtrue.core.model.seats import Seat
from aimtrue.core.model.shaping import PieceCut
from aimtrue.core.seating.actions import StandApart
from aimtrue.core.seating.placement.places import SeatPlace, places_of


def stand_apart(job: Job, action: StandApart, store: GeometryStore) -> Job:
    """Seat the bodies of a kit, or of a split, each by itself, where they stand now but all on the plate;
    or as one again.

    As one they stand as the first of them did, in the row.
    """
    groups = [group for group in _groups(job, action.kit) if group.apart != action.apart]
    if not groups:
        says = "each body stands by itself" if action.apart else "bodies of a kit stand as one"
        raise Refused("as-before", f"{says} already", remedy="nothing needs to be done")
    places = places_of(job, store)
    for group in groups:
        job = _apart(job, group, places) if action.apart else _as_one(job, group)
    return job


@dataclass(frozen=True)
class _Group:
    """Bodies that may stand as one: those of a kit, or what a split made; ``subject`` is its id."""

    subject: KitId | DivisionId
    bodies: tuple[Body, ...]
    apart: bool

    def standing(self, job: Job, *, apart: bool) -> Job:
        """Return the job with how they stand noted."""
        if self.subject in job.kits_by_id:
            return job.with_kit(job.kit(KitId(self.subject)).model_copy(update={"free": apart}))
        return job.with_division(
            job.division(DivisionId(self.subject)).model_copy(update={"together": not apart})
        )


def _groups(job: Job, key: KitId | None) -> list[_Group]:
    """The kit or the split of an id, or all of them."""
    kits = [_Group(kit.id, to_print(job, group_of(job, kit.id)), kit.free) for kit in job.kits]
    splits = [
        _Group(division.id, bodies, not division.together)
        for division in job.divisions
        if division.replaces and not isinstance(division.shaping, PieceCut)
        if len(bodies := to_print(job, (body for body in job.bodies if body.division == division.id))) > 1
    ]
    groups = [
        replace(kit, bodies=tuple(body for body in kit.bodies if body.division in (None, kit.subject)))
        for kit in (*kits, *splits)
        if key in (None, kit.subject)
    ]
    groups = [group for group in groups if group.bodies]
    if key is not None and not groups:
        job.kit(key)  # The action says that there is no group.
    return groups


def _apart(job: Job, group: _Group, places: dict[str, SeatPlace]) -> Job:
    seats = job.seats_of(group.subject)
    job = group.standing(job.with_seats(group.subject, ()), apart=True)
    own = [_own_seat(seat, body, places.get(seat.id)) for body in group.bodies for seat in seats]
    return job.model_copy(update={"seats": (*job.seats, *own)})


def _as_one(job: Job, group: _Group) -> Job:
    seats = tuple(_shared_seat(seat, group.subject) for seat in job.seats_of(group.bodies[0].id))
    own = {body.id for body in group.bodies}
    others = tuple(seat for seat in job.seats if seat.subject not in own)
    return group.standing(job, apart=False).model_copy(update={"seats": (*others, *seats)})


def _shared_seat(seat: Seat, subject: Subject) -> Seat:
    return seat.model_copy(update={"subject": subject, "x": None, "y": None})


def _own_seat(seat: Seat, body: Body, place: SeatPlace | None) -> Seat:
    """The seat of one body, its middle where it is in the kit."""
    middle: tuple[float | None, float | None] = (None, None)
    if place is not None:
        x, y = np.asarray(place.each[body.id])[:, :2].mean(axis=0).tolist()
        middle = (x, y)
    return seat.model_copy(update={"subject": body.id, "x": middle[0], "y": middle[1], "lift": 0.0})
