"""This module describes the room of sheet 2, Truing, to whatever spans the rooms."""

from __future__ import annotations

from collections.abc import Iterator

from aimtrue.core.chain.allowance import allowed_sizes
from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.job import Job
from aimtrue.core.model.value import Vec3
from aimtrue.core.room import ActionHandler, BodyChange, Difference, Inquiry, Room
from aimtrue.core.truing import readings, sizes
from aimtrue.core.truing.correction_upkeep import restated
from aimtrue.core.truing.finding_kinds import KINDS
from aimtrue.core.truing.findings import truing_findings
from aimtrue.core.truing.remedies import ways_of
from aimtrue.core.truing.successors import with_readings
from aimtrue.core.truing.together import SetTogether, set_together

_ROUNDED = 5e-5
"""In mm: sizes that differ by less read the same."""


def _findings(inquiry: Inquiry) -> list[Finding]:
    return truing_findings(inquiry.job, inquiry.store)


def _differences(change: BodyChange) -> Iterator[Difference]:
    before, old, after, new = change.before, change.old, change.after, change.new
    yield "correction", _correction(before, old), _correction(after, new)
    yield "allowance", _allowance(before, old), _allowance(after, new)
    yield from _readings(change)
    if not (before.settled((old,)) and after.settled((new,))):
        return
    first, second = allowed_sizes(before, old), allowed_sizes(after, new)
    if max(abs(a - b) for a, b in zip(first, second, strict=True)) > _ROUNDED:
        yield "size", _size(first), _size(second)


def _readings(change: BodyChange) -> Iterator[Difference]:
    first = {
        reading.id: reading
        for reading in change.before.readings
        if reading.body == change.old.id and reading.has_length
    }
    second = {
        reading.id: reading
        for reading in change.after.readings
        if reading.body == change.new.id and reading.has_length
    }
    for reading in {**first, **second}.values():
        old, new = first.get(reading.id), second.get(reading.id)
        yield (
            f"reading {reading.name}",
            old.typed if old else "none",
            new.typed if new else "removed",
        )


def _correction(job: Job, body: Body) -> str:
    correction = job.correction_of(body)
    factors = [f"{factor:.6g}" for factor in correction.factors]
    text = factors[0] if len(set(factors)) == 1 else " / ".join(factors)
    return f"{text}, {correction.along.factor:.6g} along a direction" if correction.along else text


def _allowance(job: Job, body: Body) -> str:
    if not job.allowed(body):
        return "none"
    shares = " / ".join(f"{100 * share:.4g} %" for share in job.shrinkage_of(body).shares)
    return f"shrinkage {shares}, clearance {' / '.join(f'{more:+.4g}' for more in body.clearance.mm)} mm"


def _size(size: Vec3) -> str:
    return " × ".join(f"{side:.4f}" for side in size) + " mm"


def _told_on_sheet(job: Job, body: Body) -> Iterator[tuple[str, str]]:
    yield "correction", _correction_told(job, body)
    yield "allowance", _allowance_told(job, body)
    yield "kept", ", ".join(f"ø {bore.diameter:.6g} as in the file" for bore in body.kept)


def _correction_told(job: Job, body: Body) -> str:
    correction = job.correction_of(body)
    text = " / ".join(dict.fromkeys(f"{factor:.9g}" for factor in correction.factors))
    text += f", by {correction.set_by}" if correction.set_by else ", as in its file"
    if correction.along:
        way = ", ".join(f"{number:.4g}" for number in correction.along.direction)
        text += f"; stretched {correction.along.factor:.6g} along ({way})"
    return text


def _allowance_told(job: Job, body: Body) -> str:
    if not job.allowed(body):
        return "none"
    shrinkage = job.shrinkage_of(body)
    shares = " / ".join(dict.fromkeys(f"{100 * share:.4g} %" for share in shrinkage.shares))
    clearance = " / ".join(dict.fromkeys(f"{more:+.4g} mm" for more in body.clearance.mm))
    source = f" ({shrinkage.says})" if shrinkage.says else ""
    return f"shrinkage {shares}{source}, clearance {clearance}"


TRUING = Room(
    name="truing",
    actions=(*sizes.ACTIONS, *readings.ACTIONS, ActionHandler(SetTogether, set_together)),
    kinds=KINDS,
    findings=_findings,
    remedies=ways_of,
    differences=_differences,
    sheet=_told_on_sheet,
    carry=with_readings,
    uphold=lambda before, after, store: restated(before, after),
)
