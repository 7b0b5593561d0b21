"""What can be done about findings of files and bodies, for all the bodies that one concerns."""

from __future__ import annotations

from aimtrue.core.intake.actions import Accept, BringHome, Delete
from aimtrue.core.intake.mending.remedies import Remedy
from aimtrue.core.intake.work import Join, Look, Mend, Refine, Separate
from aimtrue.core.model.finding import WITHOUT_REASON, Finding
from aimtrue.core.model.way import Way

_MENDS: dict[str, tuple[Remedy, str]] = {
    "weld": ("weld", "Weld"),
    "remove-degenerate": ("remove-degenerate", "Remove them"),
    "face-outward": ("face-outward", "Face outward"),
    "close-holes": ("close-holes", "Close holes"),
    "resolve-crossings": ("resolve-crossings", "Resolve"),
    "rebuild": ("rebuild", "Rebuild as a solid"),
}


def ways_of(finding: Finding) -> list[Way]:
    """Return what can be done about a finding, the usual first."""
    return [*_mends(finding), *_works(finding), *_drops(finding), *_acceptance(finding)]


def _mends(finding: Finding) -> list[Way]:
    if finding.remedy not in _MENDS or not finding.bodies or finding.accepted:
        return []
    remedy, says = _MENDS[finding.remedy]
    ways = [Way(says, Mend(bodies=finding.bodies, remedy=remedy))]
    if remedy != "rebuild" and finding.severity == "stop":
        ways.append(Way("Rebuild", Mend(bodies=finding.bodies, remedy="rebuild")))
    return ways


def _works(finding: Finding) -> list[Way]:
    body, source = finding.body_id, finding.source_id
    match finding.code, finding.remedy:
        case "crossings-unknown", _ if finding.bodies:
            return [Way("Look for them", Look(bodies=finding.bodies))]
        case "overlaps-unknown", _ if source:
            return [Way("Look for them", Look(source=source))]
        case _, "separate" if body:
            return [Way("Separate", Separate(body=body))]
        case _, "sew" if source:
            return [Way("Sew", Refine(source=source, sew=True))]
        case _, "bring-home" if source:
            return [Way("Bring home", BringHome(source=source))]
    return []


def _drops(finding: Finding) -> list[Way]:
    pair = finding.code == "overlap" and finding.body_id is not None and len(finding.bodies) == 2
    if pair:
        return [Way("Join", Join(bodies=finding.bodies))]
    if finding.code == "stray" and not finding.accepted:
        many = len(finding.bodies) > 1 and finding.body_id is None
        return [Way(f"Drop all {len(finding.bodies)}" if many else "Drop", Delete(bodies=finding.bodies))]
    return []


def _acceptance(finding: Finding) -> list[Way]:
    if not finding.acceptable or finding.sheet != "intake":
        return []
    says = "Take back" if finding.accepted else "Keep" if finding.code == "stray" else "Accept as it is"
    # Of two that overlap, the acceptance is the first's.
    first = finding.code == "overlap" and finding.body_id is not None
    bodies = (finding.body_id or "",) if first else finding.bodies
    asks = "" if finding.accepted or finding.code in WITHOUT_REASON else "why it is right here"
    return [Way(says, Accept(bodies=bodies, code=finding.code, accepted=not finding.accepted), asks)]
