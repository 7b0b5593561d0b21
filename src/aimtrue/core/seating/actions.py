"""This module says what a user can do on sheet 5, as values, as they are sent and kept.

``body`` is a kit, or a body that stands for itself or its kit; ``copy_number`` says which copy of it.
"""

from __future__ import annotations

from typing import ClassVar, Literal

from typing_extensions import override

from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.ids import BodyId, KitId, PlateId, SeatId, Subject
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.value import Axis, Value, Vec3


class SeatAction(ActionValue):
    """Something done to one seat."""

    body: Subject
    copy_number: int = 1


class TurnSeat(SeatAction):
    """It is turned by a typed angle about an axis of the plate.

    ``absolute`` counts from how it came. Turned by hand ``here``, its middle stays where it is, and it leaves
    the row if it stood there.
    """

    do: Literal["turn-seat"] = "turn-seat"
    axis: Axis
    typed: str
    absolute: bool = False
    here: bool = False

    @override
    def words(self) -> str:
        return f"turn {'to ' if self.absolute else ''}{self.typed} about {self.axis.upper()}"


class ResetSeat(SeatAction):
    """It stands again as it came."""

    do: Literal["reset-seat"] = "reset-seat"
    history: ClassVar[str] = "seat as it came"


class RestOn(SeatAction):
    """A direction of the body, in the axes of the job, points down from now on: one of its ways to stand."""

    do: Literal["rest-on"] = "rest-on"
    history: ClassVar[str] = "stand another way"
    down: Vec3


class FaceDown(SeatAction):
    """The face of a picked triangle goes down; ``on`` is the body of the kit that it is on."""

    do: Literal["face-down"] = "face-down"
    history: ClassVar[str] = "put a face down"
    on: BodyId
    face: int


class MarkShowing(ActionValue):
    """The face of a picked triangle is one that is to show, or no longer."""

    do: Literal["mark-showing"] = "mark-showing"
    history: ClassVar[str] = "mark a face that shows"
    body: BodyId
    face: int


class HideAll(ActionValue):
    """No face of a kit or lone body is marked as one that is to show."""

    do: Literal["hide-all"] = "hide-all"
    history: ClassVar[str] = "mark no face"
    body: BodyId


class LevelSeat(SeatAction):
    """Its lowest flat region is laid flat."""

    do: Literal["level-seat"] = "level-seat"
    history: ClassVar[str] = "level"


class LevelAll(ActionValue):
    """Every seat that is tilted is laid flat."""

    do: Literal["level-all"] = "level-all"
    history: ClassVar[str] = "level all"

    @override
    def of_all(self) -> bool:
        return True


class LineUp(SeatAction):
    """A picked edge is turned along an axis of the plate, the nearer of X and Y unless one is named.

    It is the edge of triangle ``face`` of ``on`` that the corner with the least of ``weights`` is not on;
    without ``weights`` it is the face that is turned square to the plate's edges.
    """

    do: Literal["line-up"] = "line-up"
    on: BodyId
    face: int
    weights: Vec3 | None = None
    axis: Literal["x", "y", "near"] = "near"

    @override
    def words(self) -> str:
        what = "a face" if self.weights is None else "an edge"
        return f"line {what} up" if self.axis == "near" else f"line {what} up with {self.axis.upper()}"


class MirrorSeat(SeatAction):
    """It becomes its mirror image, left to right, which is another part."""

    do: Literal["mirror-seat"] = "mirror-seat"
    history: ClassVar[str] = "mirror"


class MoveSeat(SeatAction):
    """Its middle goes to a typed place, and it to a typed lift; what is empty stays."""

    do: Literal["move-seat"] = "move-seat"
    x: str = ""
    y: str = ""
    lift: str = ""

    @override
    def words(self) -> str:
        changed = [
            f"{name} {typed}" for name, typed in (("X", self.x), ("Y", self.y), ("lift", self.lift)) if typed
        ]
        return f"place at {', '.join(changed)}"


class ShiftSeat(SeatAction):
    """It is moved on the plate, by hand or by keys, in mm."""

    do: Literal["shift-seat"] = "shift-seat"
    history: ClassVar[str] = "move on the plate"
    dx: float
    dy: float


class CentreSeat(SeatAction):
    """It goes to the middle of its plate."""

    do: Literal["centre-seat"] = "centre-seat"
    history: ClassVar[str] = "centre"


class PutBy(SeatAction):
    """It is put beside another seat, on top of it, or in line with it; it keeps what that leaves open."""

    do: Literal["put-by"] = "put-by"
    other: str
    how: Literal["beside", "on-top", "in-line"]
    gap: str = "5"

    @override
    def words(self) -> str:
        return {"beside": "put beside", "on-top": "put on top", "in-line": "put in line"}[self.how]


class SetCopies(ActionValue):
    """There are so many copies of a body or kit from now on."""

    do: Literal["set-copies"] = "set-copies"
    body: Subject
    typed: str

    @override
    def words(self) -> str:
        return f"{self.typed.strip()} copies"


class TakeOff(SeatAction):
    """It is taken off its plate, and stays in the job."""

    do: Literal["take-off"] = "take-off"
    history: ClassVar[str] = "remove from its plate"


class PutOn(SeatAction):
    """It goes onto a plate."""

    do: Literal["put-on"] = "put-on"
    history: ClassVar[str] = "put on a plate"
    plate: PlateId


class StandApart(ActionValue):
    """The bodies of a kit, or of all kits, stand each by itself from now on, or as one again.

    They keep the kit's correction and, where the file has them, its origin.
    """

    do: Literal["stand-apart"] = "stand-apart"
    kit: KitId | None = None
    apart: bool

    @override
    def of_all(self) -> bool:
        return self.kit is None

    @override
    def words(self) -> str:
        return "seat the bodies of a kit apart" if self.apart else "seat a kit as one"


class SetMachine(ActionValue):
    """A plate is of another machine from now on, or all plates are."""

    do: Literal["set-machine"] = "set-machine"
    machine: Machine
    plate: PlateId | None = None

    @override
    def words(self) -> str:
        return f"machine {self.machine.name}"


class AddPlate(ActionValue):
    """Another plate of the same machine as the last; one that ``follows`` is printed on top of another."""

    do: Literal["add-plate"] = "add-plate"
    follows: PlateId | None = None

    @override
    def words(self) -> str:
        return "add a second pass" if self.follows else "add a plate"


class RemovePlate(ActionValue):
    """A plate goes; what stands on it is taken off."""

    do: Literal["remove-plate"] = "remove-plate"
    history: ClassVar[str] = "remove a plate"
    plate: PlateId


class SeatPlacement(Value):
    """Where one seat goes: a plate, and a turn about Z in degrees before its middle goes to x and y."""

    seat: SeatId
    plate: PlateId
    turn: float
    x: float
    y: float


class Arrange(ActionValue):
    """Seats go where an arrangement found room for them; plates are added as it needs them.

    What fits nowhere is taken off; ``told`` says why.
    """

    do: Literal["arrange"] = "arrange"
    puts: tuple[SeatPlacement, ...]
    plates: tuple[PlateId, ...] = ()
    off: tuple[SeatId, ...] = ()
    told: tuple[str, ...] = ()

    @override
    def words(self) -> str:
        return f"arrange; {'; '.join(self.told[:3])}" if self.told else "arrange"
