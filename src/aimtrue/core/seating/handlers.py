"""This module says what actions of sheet 5 do: how bodies stand."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import seated_with
from aimtrue.core.model.seats import Seat
from aimtrue.core.room import ActionHandler
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


def _changed(
    change: Callable[[Job, _Asked, Seat, GeometryStore], placing.Changes],
) -> Callable[[Job, _Asked, GeometryStore], Job]:
    """Make the doing of an action that changes fields of one seat."""

    def do(job: Job, action: _Asked, store: GeometryStore) -> Job:
        group = seated_with(job, action.body)
        job.settled_unit(group[0])
        seat = seat_of_copy(job, group, action.copy_number)
        changed = seat.model_copy(update=change(job, action, seat, store))
        seats = job.seats_of(seat.subject)
        return job.with_seats(
            seat.subject,
            tuple(changed if other.copy_number == seat.copy_number else other for other in seats),
        )

    return do


ACTIONS = (
    ActionHandler(TurnSeat, _changed(turning.turned)),
    ActionHandler(ResetSeat, _changed(turning.as_it_came)),
    ActionHandler(RestOn, _changed(turning.resting)),
    ActionHandler(FaceDown, _changed(turning.face_down)),
    ActionHandler(MarkShowing, shown_faces.mark_showing),
    ActionHandler(HideAll, shown_faces.hide_all),
    ActionHandler(LevelAll, turning.all_levelled),
    ActionHandler(LevelSeat, _changed(turning.levelled)),
    ActionHandler(LineUp, _changed(turning.lined_up)),
    ActionHandler(MirrorSeat, _changed(turning.mirrored)),
    ActionHandler(MoveSeat, _changed(placing.moved)),
    ActionHandler(ShiftSeat, _changed(placing.shifted)),
    ActionHandler(CentreSeat, _changed(placing.centred)),
    ActionHandler(PutBy, _changed(placing.put_by)),
    ActionHandler(TakeOff, _changed(placing.off_plate)),
    ActionHandler(PutOn, _changed(placing.put_on)),
    ActionHandler(StandApart, kit_grouping.stand_apart),
    ActionHandler(SetCopies, plates.set_copies),
    ActionHandler(SetMachine, plates.set_machine),
    ActionHandler(AddPlate, plates.add_plate),
    ActionHandler(RemovePlate, plates.remove_plate),
    ActionHandler(Arrange, plates.arrange),
)
"""What is done on sheet 5."""
