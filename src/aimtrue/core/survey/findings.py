"""This module says what would make a bad part: severity, place, and what to do."""

from __future__ import annotations

from collections.abc import Iterable

from aimtrue.core.model.finding import Finding
from aimtrue.core.model.job import Job
from aimtrue.core.room import Inquiry, Room
from aimtrue.core.rooms import ROOMS

_ORDER = {"stop": 0, "look": 1, "note": 2}


def all_findings(inquiry: Inquiry, rooms: Iterable[Room] = ROOMS) -> list[Finding]:
    """Return everything worth knowing about a job, as its rooms find it, stops first.

    Nothing is told of bodies that are only there to check against: no part is made of them.
    """
    bodies = inquiry.job.bodies
    checked: set[str] = {body.id for body in bodies if body.for_checking}
    made = {source.id for source in inquiry.job.sources if source.made is not None}
    checked |= made - {body.source for body in bodies if not body.for_checking}
    findings = [
        finding
        for room in rooms
        for finding in room.findings(inquiry)
        if (finding.body_id or finding.source_id) not in checked
    ]
    return sorted(findings, key=lambda finding: _ORDER[finding.severity])


def stopped_by(job: Job, findings: Iterable[Finding]) -> set[str]:
    """Return the bodies for which a stop finding is open, on them or on their file."""
    stops = [finding for finding in findings if finding.stops]
    sources = {finding.source_id for finding in stops}
    own = {finding.body_id for finding in stops}
    return {body.id for body in job.bodies if body.id in own or body.source in sources}
