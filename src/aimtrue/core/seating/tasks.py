"""Work of sheet 5 that is done in the background, as values."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from aimtrue.core.model.ids import PlateId
from aimtrue.core.model.value import Value
from aimtrue.core.seating.arrangement.nesting import Turns


class ArrangeTask(Value):
    """Find room for what stands on the plates of one machine, on as few of them as possible.

    ``plate`` names one of them, empty the first; ``gap`` is typed, in mm; ``seconds`` are for trying orders.
    """

    do: Literal["arrange-seats"] = "arrange-seats"
    plate: PlateId = PlateId("")
    gap: str = "3"
    turns: Turns = "quarters"
    seconds: float = Field(6.0, ge=0, le=120)
