"""This module holds what was measured on printed parts, by part and by what was measured."""

from __future__ import annotations

from typing import Literal

from aimtrue.core.model.ids import PrintedPartId
from aimtrue.core.model.value import Value


class InspectionTarget(Value):
    """What is measured on a printed part: a reading, a side of a pair, or a size of a body along an axis.

    Attributes:
        kind: of it.
        of: the id of the reading, of the pair or of the body.
        side: ``outer`` or ``inner`` of a pair, the axis of a size, nothing of a reading.
    """

    kind: Literal["reading", "pair", "size"]
    of: str
    side: Literal["", "outer", "inner", "x", "y", "z"] = ""

    @property
    def key(self) -> str:
        """How it is written in a table."""
        return " ".join(part for part in (self.kind, self.of, self.side) if part)


class Measurement(Value):
    """One size of one printed part.

    Attributes:
        target: what was measured.
        typed, mm: the length, as it was typed and in mm.
        file_mm: how long that was in the released file when it was typed: what it was printed of.
    """

    target: InspectionTarget
    typed: str
    mm: float
    file_mm: float


class PrintedPart(Value):
    """A printed part: what it is called, and what was measured on it."""

    id: PrintedPartId
    name: str
    measured: tuple[Measurement, ...] = ()

    def of(self, target: InspectionTarget) -> Measurement | None:
        """Return what was measured of a target; None where nothing was."""
        return next((measurement for measurement in self.measured if measurement.target == target), None)


class Inspection(Value):
    """Printed parts, and the tolerance of what has no band of its own, in mm to either side."""

    parts: tuple[PrintedPart, ...] = ()
    tolerance_mm: float = 0.2
