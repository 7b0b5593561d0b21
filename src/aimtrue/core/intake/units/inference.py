"""Settle the unit of a source without asking, where the evidence is clear."""

from __future__ import annotations

from aimtrue.core.chain.sizes import numbers_in_job_axes, numbers_of
from aimtrue.core.intake.units.verdict import UnitVerdict, verdict
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import SourceId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.ownership import bodies_of
from aimtrue.core.model.source import Source
from aimtrue.core.model.value import Vec3

_VERDICTS: Memo[UnitVerdict] = Memo(1024)


def verdict_of(job: Job, source: Source) -> UnitVerdict:
    """Judge the unit of a source of a job."""
    extents = extents_of(bodies_of(job, source.id), source)
    numbers = extents[0]
    words = f"{source.words} {source.name}"
    siblings = siblings_of(job, source)
    return _VERDICTS.get(
        (source.evidence,),
        (extents, words, siblings, source.before_mm),
        lambda: verdict(numbers, source.evidence, words, siblings, source.before_mm, extents),
    )


def verdicts_of(job: Job, store: GeometryStore) -> dict[SourceId, UnitVerdict]:
    """Judge the units of all sources of a job, by their ids."""
    return {source.id: verdict_of(job, source) for source in job.sources}


_COMPARED = 8
"""This many of the largest bodies of a file are compared with those of its next revision."""


def extents_of(bodies: tuple[Body, ...], source: Source) -> tuple[Vec3, ...]:
    """Return the extents of a file in its numbers, along the axes of the job, strays left out.

    Those of all bodies together come first, then those of its largest bodies.
    """
    chosen = tuple(body for body in bodies if not body.stray) or bodies
    if not chosen:
        return ((1.0, 1.0, 1.0),)
    each = sorted((numbers_in_job_axes(body, source) for body in chosen), key=max, reverse=True)
    return (numbers_of(chosen, source), *(each[:_COMPARED] if len(chosen) > 1 else ()))


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
