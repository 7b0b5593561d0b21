"""What actions of sheet 5 do: how bodies stand."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.action import Handlers
from aimtrue.core.model.job import Job
from aimtrue.core.model.seats import Seat
from aimtrue.core.seating.actions import (
    AddPlate,
    Arrange,
    CentreSeat,
    FaceDown,
    HideAll,
    LevelAll,
    LevelSeat,
    LineUp,
    MarkShowing,
    MirrorSeat,
    MoveSeat,
    PutBy,
    PutOn,
    RemovePlate,
    ResetSeat,
    RestOn,
    SeatAction,
    SetCopies,
    SetMachine,
    ShiftSeat,
    StandApart,
    TakeOff,
    TurnSeat,
)
from aimtrue.core.seating.orientation import shown_faces, turning
from aimtrue.core.seating.placement import kit_grouping, placing, plates
from aimtrue.core.seating.placement.places import seat_of_copy

_Asked = TypeVar("_Asked", bound=SeatAction)


def _changed(change: Callable[[Job, _Asked, Seat, GeometryStore], placing.Changes]) -> Callable[..., Job]:
    """Make the doing of an action that changes fields of one seat."""

    def do(job: Job, action: _Asked, store: GeometryStore) -> Job:
        group = job.seated_with(action.body)
        job.settled_unit(group[0])
        seat = seat_of_copy(job, group, action.copy_number)
        made = seat.model_copy(update=change(job, action, seat, store))
        seats = job.seats_of(seat.subject)
        return job.with_seats(
            seat.subject, tuple(made if one.copy_number == seat.copy_number else one for one in seats)
        )

    return do


HANDLERS: Handlers = {
    TurnSeat: _changed(turning.turned),
    ResetSeat: _changed(turning.as_it_came),
    RestOn: _changed(turning.resting),
    FaceDown: _changed(turning.face_down),
    MarkShowing: shown_faces.mark_showing,
    HideAll: shown_faces.hide_all,
    LevelAll: turning.all_levelled,
    LevelSeat: _changed(turning.levelled),
    LineUp: _changed(turning.lined_up),
    MirrorSeat: _changed(turning.mirrored),
    MoveSeat: _changed(placing.moved),
    ShiftSeat: _changed(placing.shifted),
    CentreSeat: _changed(placing.centred),
    PutBy: _changed(placing.put_by),
    TakeOff: _changed(placing.off_plate),
    PutOn: _changed(placing.put_on),
    StandApart: kit_grouping.stand_apart,
    SetCopies: plates.set_copies,
    SetMachine: plates.set_machine,
    AddPlate: plates.add_plate,
    RemovePlate: plates.remove_plate,
    Arrange: plates.arrange,
}
