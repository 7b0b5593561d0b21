"""This module says what can be done about findings of seats."""

from __future__ import annotations

from aimtrue.core.model.finding import Finding
from aimtrue.core.model.remedy import Remedy
from aimtrue.core.seating.actions import LevelAll, LevelSeat, MoveSeat
from aimtrue.core.seating.tasks import ArrangeTask


def ways_of(finding: Finding) -> list[Remedy]:
    """Return what can be done about a finding."""
    if finding.sheet != "seating" or not finding.seat:
        return []
    if finding.remedy == "arrange":
        return [Remedy("Arrange", ArrangeTask())]
    if finding.remedy == "divide":
        return [Remedy("Divide it", "division")]
    if finding.remedy == "stand":  # A cut leaves something flat to stand on.
        return [Remedy("Cut it", "division")]
    if finding.body_id is None:  # The finding is about several bodies.
        return [Remedy("Level them", LevelAll())] if finding.remedy == "level" else []
    copy_number = int(finding.seat.rpartition("~")[2])
    match finding.remedy:
        case "level":
            return [Remedy("Level it", LevelSeat(body=finding.body_id, copy_number=copy_number))]
        case "put-down":
            return [Remedy("Put it down", MoveSeat(body=finding.body_id, copy_number=copy_number, lift="0"))]
    return []
