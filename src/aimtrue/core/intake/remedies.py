"""This module says what can be done about findings of files and bodies, for all the bodies that one
concerns.
"""

from __future__ import annotations

from aimtrue.core.intake.actions import Accept, BringHome, Delete
from aimtrue.core.intake.mending.remedies import MendingRemedy
from aimtrue.core.intake.tasks import JoinTask, LookOverTask, MendTask, RefineTask, SeparateTask
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.remedy import Remedy

_MENDS: dict[str, tuple[MendingRemedy, str]] = {
    "weld": ("weld", "Weld"),
    "remove-degenerate": ("remove-degenerate", "Remove them"),
    "face-outward": ("face-outward", "Face outward"),
    "close-holes": ("close-holes", "Close holes"),
    "resolve-crossings": ("resolve-crossings", "Resolve"),
    "rebuild": ("rebuild", "Rebuild as a solid"),
}


def ways_of(finding: Finding) -> list[Remedy]:
    """Return what can be done about a finding, the usual first."""
    return [*_mends(finding), *_works(finding), *_drops(finding), *_acceptance(finding)]


def _mends(finding: Finding) -> list[Remedy]:
    if finding.remedy not in _MENDS or not finding.bodies or finding.accepted:
        return []
    remedy, says = _MENDS[finding.remedy]
    ways = [Remedy(says, MendTask(bodies=finding.bodies, remedy=remedy))]
    if remedy != "rebuild" and finding.severity == "stop":
        ways.append(Remedy("Rebuild", MendTask(bodies=finding.bodies, remedy="rebuild")))
    return ways


def _works(finding: Finding) -> list[Remedy]:
    body, source = finding.body_id, finding.source_id
    match finding.code, finding.remedy:
        case "crossings-unknown", _ if finding.bodies:
            return [Remedy("Look for them", LookOverTask(bodies=finding.bodies))]
        case "overlaps-unknown", _ if source:
            return [Remedy("Look for them", LookOverTask(source=source))]
        case _, "separate" if body:
            return [Remedy("Separate", SeparateTask(body=body))]
        case _, "sew" if source:
            return [Remedy("Sew", RefineTask(source=source, sew=True))]
        case _, "bring-home" if source:
            return [Remedy("Bring home", BringHome(source=source))]
    return []


def _drops(finding: Finding) -> list[Remedy]:
    pair = finding.code == "overlap" and finding.body_id is not None and len(finding.bodies) == 2
    if pair:
        return [Remedy("Join", JoinTask(bodies=finding.bodies))]
    if finding.code == "stray" and not finding.accepted:
        many = len(finding.bodies) > 1 and finding.body_id is None
        return [
            Remedy(f"Remove all {len(finding.bodies)}" if many else "Remove", Delete(bodies=finding.bodies))
        ]
    return []


def _acceptance(finding: Finding) -> list[Remedy]:
    if not finding.acceptable or finding.sheet != "intake":
        return []
    says = "Take back" if finding.accepted else "Keep" if finding.code == "stray" else "Accept as it is"
    # Of two that overlap, the acceptance is the first's.
    first = finding.code == "overlap" and finding.body_id is not None
    bodies = (finding.body_id or "",) if first else finding.bodies
    asks = "" if finding.accepted or finding.acceptance == "on-sight" else "why it is right here"
    return [Remedy(says, Accept(bodies=bodies, code=finding.code, accepted=not finding.accepted), asks)]
