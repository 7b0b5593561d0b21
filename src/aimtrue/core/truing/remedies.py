"""What can be done about what a correction changes that it should not."""

from __future__ import annotations

from aimtrue.core.model.finding import Finding
from aimtrue.core.model.way import Way
from aimtrue.core.truing.actions import CorrectAlone, KeepAsDrawn, KeepBores


def ways_of(finding: Finding) -> list[Way]:
    """Return what can be done about a finding."""
    if not finding.bodies or finding.sheet != "truing":
        return []
    match finding.remedy:
        case "keep-bores":
            return [Way("Keep bores", KeepBores(bodies=finding.bodies))]
        case "follow-kit" if finding.body_id:
            return [Way("Follow the kit", CorrectAlone(body=finding.body_id, on=False))]
        case "as-drawn":
            return [Way("Keep as drawn", KeepAsDrawn(bodies=finding.bodies))]
    return []
