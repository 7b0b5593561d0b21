"""Findings about the readings themselves: lost, excluding each other, out of their band."""

from __future__ import annotations

import numpy as np

from aimtrue.core.chain.sizes import true_sizes
from aimtrue.core.gauges.bands import band_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Finding, FindingKind, Severity
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import written
from aimtrue.core.model.ownership import corrected_with
from aimtrue.core.model.readings import Reading
from aimtrue.core.truing.correction_upkeep import missed
from aimtrue.core.truing.finding_kinds import (
    CHECK_MISSED,
    CLEARANCE_ALL,
    READING_LOST,
    READING_MISSED,
    READINGS_DISAGREE,
)

DRIVE_AGAIN = "let the readings drive again, take another way, or relax a band"
"""What helps where a size was typed over readings; where they drive and exclude each other it would not."""


def allowance_findings(job: Job) -> list[Finding]:
    """Say where a clearance would take off more than there is; none is given there."""
    findings = []
    for body in job.bodies:
        if job.source_of(body).unit is None or not job.allowed(body):
            continue
        left = np.add(true_sizes(job, body), body.clearance.mm)
        if (left <= 0).any():
            says = f"the clearance of {body.name} is larger than the body, so none is given there"
            findings.append(_finding(body, CLEARANCE_ALL, says, "type a smaller clearance"))
    return findings


def reading_findings(job: Job) -> list[Finding]:
    """Say which readings have lost their place, are not met, or contradict one on the same gauge."""
    findings = []
    for reading in job.readings:
        body = job.body(reading.body)
        if reading.lost:
            says = f"the place of {reading.name} is no longer on {body.name}"
            # A length that was to drive and cannot be measured is as open as one that is missed.
            drives = reading.role == "drive" and reading.has_length
            severity: Severity = "stop" if drives else "look"
            bodies = sharing_size(job, body) if drives else ()
            findings.append(
                _finding(body, READING_LOST, says, "pick it again, or remove it", severity, bodies)
            )
        elif job.source_of(body).unit is not None and reading.role != "ignore":
            findings += _missed(job, body, reading) + _twice(job, body, reading)
    return findings


def _finding(
    body: Body,
    kind: FindingKind,
    says: str,
    remedy: str,
    severity: Severity | None = None,
    bodies: tuple[str, ...] = (),
) -> Finding:
    return kind.found(
        severity=severity or kind.severity,
        body=body.name,
        body_id=body.id,
        bodies=bodies,
        says=says,
        remedy=remedy,
        accepted=kind.code in body.accepted,
    )


def _missed(job: Job, body: Body, reading: Reading) -> list[Finding]:
    """One that should drive is a stop for all that share its correction; one that only checks wants a
    look.
    """
    over = missed(job, reading)
    if not over:
        return []
    way = "over" if over > 0 else "under"
    whole = job.kit(body.kit).name if reading.gauge.kit and body.kit else body.name
    says = f"{reading.name} of {whole} is {written(abs(over))} mm {way} its band"
    if reading.role != "drive":
        return [_finding(body, CHECK_MISSED, says, "change the size, or relax the band")]
    driven = reading.id in job.correction_of(body).readings
    remedy = "take another way, or relax a band" if driven else DRIVE_AGAIN
    return [_finding(body, READING_MISSED, says, remedy, None, sharing_size(job, body))]


def sharing_size(job: Job, body: Body) -> tuple[str, ...]:
    """Return the ids of a body, of those that share its correction, and of what was made of any of them."""
    keys = [body.id, *(other.id for other in corrected_with(job, body.id) if other.id != body.id)]
    more = True
    while more:
        body_ids = [
            body.id
            for body in job.bodies
            if body.division is not None
            and body.id not in keys
            and set(keys) & set(job.division(body.division).wholes)
        ]
        keys, more = [*keys, *body_ids], bool(body_ids)
    return tuple(keys)


def _twice(job: Job, body: Body, reading: Reading) -> list[Finding]:
    """Two readings on one gauge whose bands do not meet."""
    band = band_of(reading)
    findings = []
    for other in job.readings[: job.readings.index(reading)]:
        theirs = band_of(other)
        if other.body != reading.body or other.role == "ignore" or not band or not theirs:
            continue
        same = (other.gauge.kind, other.gauge.axis, other.gauge.kit, other.gauge.points) == (
            reading.gauge.kind, reading.gauge.axis, reading.gauge.kit, reading.gauge.points,
        )  # fmt: skip
        if same and (band.low > theirs.high or theirs.low > band.high):
            says = f"{other.name} and {reading.name} are taken at the same place and disagree"
            findings.append(_finding(body, READINGS_DISAGREE, says, "measure again, or ignore one"))
    return findings
