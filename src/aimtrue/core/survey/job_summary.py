"""A job in one line, for the list of jobs."""

from __future__ import annotations

from aimtrue.core.chain.sizes import group_sizes
from aimtrue.core.cost.budgets import time_words
from aimtrue.core.cost.kept_estimates import printing_of
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.ownership import groups_of
from aimtrue.core.model.source import How
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.model.vectors import as_vec3

NEWEST = 2
"""Counts how this line is worked out; kept lines of another number are worked out anew."""


_MOST_WORDS = 20_000


class JobSummary(Value):
    """What the list of jobs shows; ``unit`` and ``size_mm`` only where there is just one.

    ``takes`` says how long all plates print and what they weigh, where that was worked out; ``open_units``
    counts the files whose unit is not settled.
    """

    file: str | None
    files: int
    bodies: int
    triangles: int
    unit: Unit | None
    how: How | None
    size_mm: Vec3 | None
    takes: str = ""
    open_units: int = 0


def line_of(job: Job) -> JobSummary:
    """Return a job in one line."""
    source = job.sources[0] if job.sources else None
    units = {source.unit for source in job.sources}
    alone = bool(job.bodies) and None not in units and len(groups_of(job)) == 1
    return JobSummary(
        file=source.name if source else None,
        files=len(job.sources),
        bodies=len(job.bodies),
        triangles=sum(body.triangles for body in job.bodies),
        unit=source.unit if source and len(units) == 1 else None,
        how=source.how if source and len(units) == 1 else None,
        size_mm=as_vec3(group_sizes(job, job.bodies)) if alone else None,
        takes=_takes(job),
        open_units=sum(source.unit is None for source in job.sources),
    )


def words_of(job: Job) -> str:
    """Return the words that a job is found by: of its name, files, bodies, materials and machines."""
    names = [
        job.name,
        *(source.name for source in job.sources),
        *(source.packed_in for source in job.sources),
    ]
    names += [body.name for body in job.bodies]
    names += sorted({job.material_of(body).name for body in job.bodies})
    names += [plate.machine.name for plate in job.plates]
    return "\n".join(dict.fromkeys(name.lower() for name in names if name))[:_MOST_WORDS]


def _takes(job: Job) -> str:
    rows = printing_of(job)
    if not rows:
        return ""
    return f"{time_words(sum(row.seconds for row in rows))}, {sum(row.grams for row in rows):.1f} g"
