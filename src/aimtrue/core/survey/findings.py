"""What would make a bad part: severity, place, and what to do."""

from __future__ import annotations

from collections.abc import Iterable

from aimtrue.core.intake.findings import (
    body_findings,
    overlap_findings,
    source_findings,
)
from aimtrue.core.intake.settle import verdict_of
from aimtrue.core.intake.unit import Verdict
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.job import Job
from aimtrue.core.seating.findings import room_findings
from aimtrue.core.seating.places import Place
from aimtrue.core.seating.room import Room, room_of
from aimtrue.core.truing.changes import change_findings
from aimtrue.core.truing.conflicts import allowance_findings, reading_findings


def findings_of(job: Job, rooms: dict[str, Room], judged: dict[str, Verdict] | None = None) -> list[Finding]:
    """Return everything worth knowing about a job, stops first.

    Args:
        job: the job.
        rooms: per body whose unit is settled, where it stands.
        judged: per source, what is thought of its unit; worked out here when it is not at hand.
    """
    found: list[Finding] = []
    for source in job.sources:
        found += source_findings(job, source, (judged or {}).get(source.id) or verdict_of(job, source))
    for body in job.bodies:
        found += body_findings(job, body)
        if body.id in rooms:
            found += room_findings(job, body, rooms[body.id])
    found += overlap_findings(job)
    order = {"stop": 0, "look": 1, "note": 2}
    return sorted(found, key=lambda finding: order[finding.severity])


def all_findings(
    job: Job, shelf: Shelf, rooms: dict[str, Room], judged: dict[str, Verdict] | None = None
) -> list[Finding]:
    """Return everything worth knowing about a job, what corrections changed included, stops first."""
    found = (
        findings_of(job, rooms, judged)
        + reading_findings(job)
        + allowance_findings(job)
        + change_findings(job, shelf)
    )
    order = {"stop": 0, "look": 1, "note": 2}
    return sorted(found, key=lambda finding: order[finding.severity])


def stopped_by(job: Job, findings: Iterable[Finding]) -> set[str]:
    """Return the bodies for which a stop finding is open, on them or on their file."""
    stops = [finding for finding in findings if finding.stops]
    sources = {finding.source_id for finding in stops}
    own = {finding.body_id for finding in stops}
    return {body.id for body in job.bodies if body.id in own or body.source in sources}


def rooms_of(job: Job, places: dict[str, Place]) -> dict[str, Room]:
    """Hold every placed body against the machine."""
    return {key: room_of(place.bounds, job.machine) for key, place in places.items()}
