"""What actions of sheet 5 do: how bodies stand."""

from __future__ import annotations

from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.action import Doing
from aimtrue.core.model.angles import parse_degrees
from aimtrue.core.model.job import Job
from aimtrue.core.model.seats import Seat, Turn
from aimtrue.core.seating.actions import ResetSeat, TurnSeat


def _turn_seat(job: Job, action: TurnSeat, shelf: Shelf) -> Job:
    body = job.group(action.body)[0]
    job.settled_unit(body)
    seat = job.seat_of(body)
    turn = Turn(axis=action.axis, degrees=parse_degrees(action.typed))
    return _seated(job, seat.model_copy(update={"turns": (*seat.turns, turn)}))


def _reset_seat(job: Job, action: ResetSeat, shelf: Shelf) -> Job:
    seat = job.seat_of(job.group(action.body)[0])
    return _seated(job, seat.model_copy(update={"turns": ()}))


def _seated(job: Job, seat: Seat) -> Job:
    others = job.seats_of(seat.subject)[1:]
    return job.with_seats(seat.subject, (seat, *others))


DOING: Doing = {
    TurnSeat: _turn_seat,
    ResetSeat: _reset_seat,
}
