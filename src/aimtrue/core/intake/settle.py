"""Settle the unit of a source without asking, where the evidence is clear."""

from __future__ import annotations

from aimtrue.core.chain.sizes import numbers_of
from aimtrue.core.intake.unit import Verdict, verdict
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.source import Source

_VERDICTS: Memo[Verdict] = Memo(1024)


def verdict_of(job: Job, source: Source) -> Verdict:
    """Judge the unit of a source of a job."""
    bodies = tuple(body for body in job.bodies_of(source.id) if not body.stray) or job.bodies_of(source.id)
    numbers = numbers_of(bodies, source) if bodies else (1.0, 1.0, 1.0)
    words = f"{source.words} {source.name}"
    siblings = siblings_of(job, source)
    return _VERDICTS.get(
        (source.evidence,),
        (numbers, words, siblings),
        lambda: verdict(numbers, source.evidence, words, siblings),
    )


def siblings_of(job: Job, source: Source) -> tuple[Unit, ...]:
    """Return the units of the job's other files that did not declare theirs."""
    return tuple(
        other.unit
        for other in job.sources
        if other.id != source.id and other.unit is not None and other.declared is None
    )


def inferred(job: Job, source: Source) -> Source:
    """Return the source with its unit settled if no other unit is within reach; else as it is."""
    clear = verdict_of(job, source).clear
    if clear is None:
        return source
    return source.model_copy(update={"unit": clear, "how": "inferred"})
