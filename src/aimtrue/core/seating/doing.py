"""What actions of sheet 5 do: how bodies stand."""

from __future__ import annotations

from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.action import Doing
from aimtrue.core.model.angles import parse_degrees
from aimtrue.core.model.decisions import Seat, Turn
from aimtrue.core.model.job import Job
from aimtrue.core.seating.actions import ResetSeat, TurnSeat


def _turn_seat(job: Job, action: TurnSeat, shelf: Shelf) -> Job:
    body = job.group(action.body)[0]
    job.settled_unit(body)
    turns = (*body.seat.turns, Turn(axis=action.axis, degrees=parse_degrees(action.typed)))
    return _seated(job, action.body, Seat(turns=turns))


def _reset_seat(job: Job, action: ResetSeat, shelf: Shelf) -> Job:
    return _seated(job, action.body, Seat())


def _seated(job: Job, key: str, seat: Seat) -> Job:
    for body in job.group(key):
        job = job.with_body(body.model_copy(update={"seat": seat}))
    return job


DOING: Doing = {
    TurnSeat: _turn_seat,
    ResetSeat: _reset_seat,
}
