"""Placing a seat: what each action makes of where it is."""

from __future__ import annotations

from math import isfinite

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length, parse_offset
from aimtrue.core.model.seats import Seat
from aimtrue.core.seating.actions import CentreSeat, MoveSeat, PutBy, PutOn, ShiftSeat, TakeOff
from aimtrue.core.seating.placement.places import SeatPlace, places_of

Changes = dict[str, object]
"""Fields of a seat, and what they become."""
_FARTHEST_MM = 1e5
OFF_PLATE: Changes = {"plate": "", "x": None, "y": None, "lift": 0.0}


def moved(job: Job, action: MoveSeat, seat: Seat, store: GeometryStore) -> Changes:
    """Put its middle at typed places."""
    if not (action.x.strip() or action.y.strip() or action.lift.strip()):
        raise Refused("length-empty", "nothing was typed", remedy="type a place, such as 60 or 2.5 in")
    changes: Changes = dict(here(job, seat, store))
    for name, typed in (("x", action.x), ("y", action.y)):
        if typed.strip():
            changes[name] = _near(parse_offset(typed))
    if action.lift.strip():
        changes["lift"] = _near(parse_offset(action.lift))
    return changes


def _near(length: float) -> float:
    if abs(length) > _FARTHEST_MM:
        raise Refused(
            "too-far", "that is farther than any machine reaches", remedy="type a place on the plate"
        )
    return length


def shifted(job: Job, action: ShiftSeat, seat: Seat, store: GeometryStore) -> Changes:
    """Move it by hand."""
    x, y = here(job, seat, store).values()
    if not (isfinite(action.dx) and isfinite(action.dy)):
        raise Refused("too-far", "that is no move", remedy="move it again")
    return {"x": _near(x + action.dx), "y": _near(y + action.dy)}


def here(job: Job, seat: Seat, store: GeometryStore) -> dict[str, float]:
    """Return where the middle of a seat is now, whether it was placed or takes its place in the row."""
    x, y = _place(job, seat, store).middle.tolist()
    return {"x": x, "y": y}


def _place(job: Job, seat: Seat, store: GeometryStore) -> SeatPlace:
    place = places_of(job, store).get(seat.id)
    if place is None:
        raise Refused("not-seated", "it is on no plate", remedy="put it on a plate first")
    return place


def centred(job: Job, action: CentreSeat, seat: Seat, store: GeometryStore) -> Changes:
    """Put it in the middle of its plate."""
    corners = job.plate(seat.plate).machine.volume.plate(job.plate(seat.plate).machine.margins)
    x, y = ((corners.min(axis=0) + corners.max(axis=0)) / 2).tolist()
    return {"x": x, "y": y}


def put_by(job: Job, action: PutBy, seat: Seat, store: GeometryStore) -> Changes:
    """Put it by another seat."""
    places = places_of(job, store)
    other = places.get(action.other)
    if other is None or action.other == seat.id:
        raise Refused("seat-unknown", "there is no such seat to put it by", remedy="choose another")
    mine = _place(job, seat, store)
    if action.how == "on-top" and _shares_origin(job, mine, other):
        # Turned alike and from one origin, both are moved by the same: so they lie on each other as they
        # were drawn.
        x, y = (mine.middle + (other.shift - mine.shift)[:2]).tolist()
        lift = float(mine.bounds[0, 2] + (other.shift - mine.shift)[2])
        return {"x": x, "y": y, "lift": lift, "plate": other.seat.plate}
    if action.how == "on-top":
        return {**_at(other), "lift": float(other.bounds[1, 2]), "plate": other.seat.plate}
    if action.how == "in-line":
        return {"x": float(mine.middle[0]), "y": float(other.middle[1]), "plate": other.seat.plate}
    gap = parse_length(action.gap)
    half = float(np.ptp(mine.bounds[:, 0])) / 2
    return {
        "x": float(other.bounds[1, 0]) + gap + half,
        "y": float(other.middle[1]),
        "plate": other.seat.plate,
    }


def _shares_origin(job: Job, mine: SeatPlace, other: SeatPlace) -> bool:
    """Whether two seats hold bodies that were drawn about one origin, and are turned alike."""
    if (mine.seat.turns, mine.seat.mirrored) != (other.seat.turns, other.seat.mirrored):
        return False
    return any(
        (a.division is not None and a.division == b.division)
        or (a.kit is not None and a.kit == b.kit and not a.alone and not b.alone)
        for a in mine.bodies
        for b in other.bodies
    )


def _at(place: SeatPlace) -> Changes:
    x, y = place.middle.tolist()
    return {"x": x, "y": y}


def off_plate(job: Job, action: TakeOff, seat: Seat, store: GeometryStore) -> Changes:
    """Take it off its plate."""
    return OFF_PLATE


def put_on(job: Job, action: PutOn, seat: Seat, store: GeometryStore) -> Changes:
    """Put it on a plate."""
    plate = job.plate(action.plate)
    if plate.follows is not None and plate.follows == seat.plate:
        # A second pass has the origin of the first, so what goes onto it stays where it is, at its height.
        place = _place(job, seat, store)
        return {**_at(place), "plate": plate.id, "lift": float(place.bounds[0, 2])}
    return {"plate": plate.id, "x": None, "y": None, "lift": 0.0}
