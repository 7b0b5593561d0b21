"""What actions of sheet 5 do: how bodies stand."""

from __future__ import annotations

from collections.abc import Callable

from aimtrue.core.actions.models import ResetSeat, TurnSeat
from aimtrue.core.job import Job, Seat, Turn, Value
from aimtrue.core.seating.angles import parse_degrees
from aimtrue.core.shelf import Shelf


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


DOING: dict[type[Value], Callable[..., Job]] = {
    TurnSeat: _turn_seat,
    ResetSeat: _reset_seat,
}
