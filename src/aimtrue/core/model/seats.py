"""Plates and seats: how copies of bodies and kits stand, as values of their own."""

from __future__ import annotations

from aimtrue.core.model.machine import Machine
from aimtrue.core.model.value import Axis, Value


class Turn(Value):
    """A rotation of a seat about an axis of the plate, counter-clockwise seen from its tip."""

    axis: Axis
    degrees: float


class Plate(Value):
    """One filling of a machine. Its origin is the front left corner."""

    id: str = "p1"
    machine: Machine = Machine()


class Seat(Value):
    """How one copy of a body or kit stands on a plate.

    Attributes:
        subject: id of the kit, or of a body that is in none.
        copy: counts the copies of the subject, from 1.
        plate: id of the plate that it is on.
        turns: done in order, face down first.
        x, y: where its middle is, in mm from the front left corner; None while it takes its place in the row.
        lift: in mm over the plate.
    """

    subject: str
    copy_number: int = 1
    plate: str = "p1"
    turns: tuple[Turn, ...] = ()
    x: float | None = None
    y: float | None = None
    lift: float = 0.0
