"""Plates and seats: how copies of bodies and kits stand, as values of their own."""

from __future__ import annotations

from aimtrue.core.model.ids import PlateId, SeatId, Subject
from aimtrue.core.model.machine import SHIPPED, Machine
from aimtrue.core.model.value import Axis, Value, Vec3

FIRST_PLATE = PlateId("p1")


class Turn(Value):
    """A rotation of a seat about an axis of the plate, counter-clockwise seen from its tip.

    Attributes:
        axis: of the plate; what a turn that was not typed is about is ``about``, a unit vector.
        degrees: how far.
        typed: as it was typed; empty for one that was worked out.
        says: what one that was worked out is for: ``face down``, ``level``, ``in line``.
    """

    axis: Axis = "z"
    degrees: float
    about: Vec3 | None = None
    typed: str = ""
    says: str = ""


class Plate(Value):
    """One filling of a machine. Its origin is the front left corner.

    ``follows`` names the plate that it is printed on top of, in the same origin: a second pass.
    """

    id: PlateId = FIRST_PLATE
    machine: Machine = SHIPPED[0]
    follows: PlateId | None = None


class Seat(Value):
    """How one copy of a body or kit stands on a plate.

    Attributes:
        subject: id of the kit, or of a body that is in none.
        copy_number: counts the copies of the subject, from 1.
        plate: id of the plate that it is on; empty for one that is taken off all plates.
        mirrored: whether it is the mirror image, left to right, of what the file has.
        turns: done in order, after mirroring.
        x, y: where its middle is, in mm from the front left corner; None while it takes its place in the row.
        lift: in mm over the plate.
    """

    subject: Subject
    copy_number: int = 1
    plate: PlateId = FIRST_PLATE
    mirrored: bool = False
    turns: tuple[Turn, ...] = ()
    x: float | None = None
    y: float | None = None
    lift: float = 0.0

    @property
    def id(self) -> SeatId:
        """What tells it from the others of a job."""
        return SeatId(f"{self.subject}~{self.copy_number}")
