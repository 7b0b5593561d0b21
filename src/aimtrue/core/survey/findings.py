"""What would make a bad part: severity, place, and what to do."""

from __future__ import annotations

from collections.abc import Iterable

from aimtrue.core.intake import findings as intake
from aimtrue.core.intake.findings import intake_findings
from aimtrue.core.intake.units.inference import verdict_of
from aimtrue.core.intake.units.verdict import UnitVerdict
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.finding import Finding, FindingGroup
from aimtrue.core.model.job import Job
from aimtrue.core.seating import findings as seating
from aimtrue.core.seating.findings import seating_findings
from aimtrue.core.seating.seat_states import SeatStates
from aimtrue.core.truing import findings as truing
from aimtrue.core.truing.findings import truing_findings

TOGETHER: dict[str, FindingGroup] = {**intake.TOGETHER, **truing.TOGETHER, **seating.TOGETHER}
"""What is said of several bodies that have the same finding, by its code."""
_ORDER = {"stop": 0, "look": 1, "note": 2}


def all_findings(
    job: Job, store: GeometryStore, standing: SeatStates, judged: dict[str, UnitVerdict] | None = None
) -> list[Finding]:
    """Return everything worth knowing about a job, as its rooms find it, stops first.

    Args:
        job: the job.
        store: gives the features of bodies.
        standing: how its seats stand.
        judged: per source, what is thought of its unit; worked out here when it is not at hand.
    """
    judged = judged or {source.id: verdict_of(job, source) for source in job.sources}
    found = intake_findings(job, judged) + seating_findings(job, standing) + truing_findings(job, store)
    return sorted(found, key=lambda finding: _ORDER[finding.severity])


def stopped_by(job: Job, findings: Iterable[Finding]) -> set[str]:
    """Return the bodies for which a stop finding is open, on them or on their file."""
    stops = [finding for finding in findings if finding.stops]
    sources = {finding.source_id for finding in stops}
    own = {finding.body_id for finding in stops}
    return {body.id for body in job.bodies if body.id in own or body.source in sources}
