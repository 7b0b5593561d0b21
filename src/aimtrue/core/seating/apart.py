"""The bodies of a kit on a plate: each by itself, or as one."""

from __future__ import annotations

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job, Kit
from aimtrue.core.model.seats import Seat
from aimtrue.core.seating.actions import StandApart
from aimtrue.core.seating.places import Place, places_of


def stand_apart(job: Job, action: StandApart, shelf: Shelf) -> Job:
    """Seat the bodies of a kit each by itself, where they stand now but all on the plate; or as one again.

    As one they stand as the first of them did, in the row.
    """
    kits = [job.kit(action.kit)] if action.kit is not None else list(job.kits)
    kits = [kit for kit in kits if kit.free != action.apart]
    if not kits:
        says = "each body stands by itself" if action.apart else "bodies of a kit stand as one"
        raise Refused("as-before", f"{says} already", remedy="nothing needs to be done")
    places = places_of(job, shelf)
    for kit in kits:
        job = _apart(job, kit, places) if action.apart else _as_one(job, kit)
    return job


def _apart(job: Job, kit: Kit, places: dict[str, Place]) -> Job:
    seats, bodies = job.seats_of(kit.id), job.group(kit.id)
    job = job.with_seats(kit.id, ()).with_kit(kit.model_copy(update={"free": True}))
    own = [_own_seat(seat, body, places.get(seat.id)) for body in bodies for seat in seats]
    return job.model_copy(update={"seats": (*job.seats, *own)})


def _as_one(job: Job, kit: Kit) -> Job:
    bodies = job.group(kit.id)
    seats = tuple(_kit_seat(seat, kit.id) for seat in job.seats_of(bodies[0].id))
    own = {body.id for body in bodies}
    others = tuple(seat for seat in job.seats if seat.subject not in own)
    return job.with_kit(kit.model_copy(update={"free": False})).model_copy(
        update={"seats": (*others, *seats)}
    )


def _kit_seat(seat: Seat, kit: str) -> Seat:
    return seat.model_copy(update={"subject": kit, "x": None, "y": None})


def _own_seat(seat: Seat, body: Body, place: Place | None) -> Seat:
    """The seat of one body, its middle where it is in the kit."""
    middle: tuple[float | None, float | None] = (None, None)
    if place is not None:
        x, y = np.asarray(place.each[body.id])[:, :2].mean(axis=0).tolist()
        middle = (x, y)
    return seat.model_copy(update={"subject": body.id, "x": middle[0], "y": middle[1], "lift": 0.0})
