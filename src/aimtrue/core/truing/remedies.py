"""This module says what can be done about what a correction changes that it should not."""

from __future__ import annotations

from aimtrue.core.intake.actions import Accept
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.remedy import Remedy
from aimtrue.core.truing.actions import CorrectAlone, KeepAsDrawn, KeepBores, SolveReadings
from aimtrue.core.truing.conflicts import DRIVE_AGAIN
from aimtrue.core.truing.finding_kinds import READING_MISSED


def ways_of(finding: Finding) -> list[Remedy]:
    """Return what can be done about a finding."""
    if not finding.bodies or finding.sheet != "truing":
        return []
    match finding.remedy:
        case "keep-bores":
            return [Remedy("Keep bores", KeepBores(bodies=finding.bodies))]
        case "follow-kit" if finding.body_id:
            return [Remedy("Follow the kit", CorrectAlone(body=finding.body_id, on=False))]
        case _ if finding.code == READING_MISSED.code:
            return _missed(finding)
        case "as-drawn":
            return [Remedy("Keep as drawn", KeepAsDrawn(bodies=finding.bodies))]
    return []


def _missed(finding: Finding) -> list[Remedy]:
    """Let the readings drive again where a typed size took over, or accept that they are missed."""
    bodies = (finding.body_id,) if finding.body_id else finding.bodies
    accept = Accept(bodies=bodies, code=READING_MISSED.code, accepted=not finding.accepted)
    if finding.accepted:
        return [Remedy("Take back", accept)]
    typed_over = finding.remedy == DRIVE_AGAIN and finding.body_id
    again = [Remedy("Let readings drive", SolveReadings(body=finding.body_id))] if typed_over else []
    return [*again, Remedy("Accept as it is", accept, "why it is right here")]
