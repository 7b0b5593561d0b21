"""This module says what of readings and corrections would make a bad part."""

from __future__ import annotations

from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.job import Job
from aimtrue.core.truing.conflicts import allowance_findings, reading_findings
from aimtrue.core.truing.effects.changes import change_findings


def truing_findings(job: Job, store: GeometryStore) -> list[Finding]:
    """Return everything that is to be known of readings, allowances, and what corrections change."""
    return reading_findings(job) + allowance_findings(job) + change_findings(job, store)
