"""This module says what a user can do about printed parts, as values."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field
from typing_extensions import override

from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.ids import PrintedPartId
from aimtrue.core.model.inspection import InspectionTarget


class AddPrintedPart(ActionValue):
    """A further printed part is measured; without a name it is the next number."""

    do: Literal["add-printed-part"] = "add-printed-part"
    history: ClassVar[str] = "printed part"
    name: str = Field("", max_length=60)


class RemovePrintedPart(ActionValue):
    """A printed part is left out, with what was measured on it."""

    do: Literal["remove-printed-part"] = "remove-printed-part"
    history: ClassVar[str] = "leave a printed part out"
    part: PrintedPartId


class MeasurePart(ActionValue):
    """What a size of a printed part measures is typed; nothing takes it back."""

    do: Literal["measure-part"] = "measure-part"
    part: PrintedPartId
    target: InspectionTarget
    typed: str = Field(max_length=40)

    @override
    def words(self) -> str:
        return f"measured {self.typed.strip() or 'nothing'} on a printed part"


class TakeMeasurements(ActionValue):
    """Measured sizes come in as a table: a row for each size, a column for each part."""

    do: Literal["take-measurements"] = "take-measurements"
    history: ClassVar[str] = "measured parts"
    text: str = Field(max_length=200_000)


class SetInspectionTolerance(ActionValue):
    """How far a printed size may be off that has no band of its own."""

    do: Literal["set-inspection-tolerance"] = "set-inspection-tolerance"
    history: ClassVar[str] = "tolerance of printed parts"
    typed: str = Field(max_length=40)
