"""What can be done about findings of seats."""

from __future__ import annotations

from aimtrue.core.model.finding import Finding
from aimtrue.core.model.way import Way
from aimtrue.core.seating.actions import LevelAll, LevelSeat, MoveSeat
from aimtrue.core.seating.work import ArrangeSeats


def ways_of(finding: Finding) -> list[Way]:
    """Return what can be done about a finding."""
    if finding.sheet != "seating" or not finding.seat:
        return []
    if finding.remedy == "arrange":
        return [Way("Arrange", ArrangeSeats())]
    if finding.remedy == "divide":
        return [Way("Divide it", "division")]
    if finding.remedy == "stand":  # a cut leaves something flat to stand on
        return [Way("Cut it", "division")]
    if finding.body_id is None:  # told of several
        return [Way("Level them", LevelAll())] if finding.remedy == "level" else []
    copy_number = int(finding.seat.rpartition("~")[2])
    match finding.remedy:
        case "level":
            return [Way("Level it", LevelSeat(body=finding.body_id, copy_number=copy_number))]
        case "put-down":
            return [Way("Put it down", MoveSeat(body=finding.body_id, copy_number=copy_number, lift="0"))]
    return []
