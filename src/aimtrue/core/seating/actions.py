"""What a user can do on sheet 5, as values, as they are sent and kept."""

from __future__ import annotations

from typing import Literal

from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.job import Axis


class TurnSeat(ActionValue):
    """A body is turned by a typed angle about an axis of the plate."""

    do: Literal["turn-seat"] = "turn-seat"
    body: str
    axis: Axis
    typed: str

    def words(self) -> str:
        """Say it for history and the undo button."""
        return f"turn {self.typed} about {self.axis.upper()}"


class ResetSeat(ActionValue):
    """A body stands again as it came."""

    do: Literal["reset-seat"] = "reset-seat"
    body: str

    def words(self) -> str:
        """Say it for history and the undo button."""
        return "seat as it came"


SeatingAction = TurnSeat | ResetSeat
"""What the interface may send."""
