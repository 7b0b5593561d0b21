"""This module says which divisions no longer are what their wholes have become."""

from __future__ import annotations

from aimtrue.core.division.frames import frame_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.division import Division
from aimtrue.core.model.job import Job
from aimtrue.core.model.memo import Memo

_STALE: Memo[bool] = Memo(1024)


def is_stale(job: Job, division: Division) -> bool:
    """Tell whether a whole has another geometry, correction, unit or clearance than when it was divided."""
    wholes = [job.body(key) for key in division.wholes]
    things = (division, *(thing for whole in wholes for thing in job.in_force(whole)))
    return _STALE.get(things, (), lambda: _is_stale(job, division, wholes))


def _is_stale(job: Job, division: Division, wholes: list[Body]) -> bool:
    if not job.settled(wholes):
        return True
    now = tuple(frame_of(job, whole) for whole in wholes)
    return now != division.frames or tuple(whole.geometry for whole in wholes) != division.geometries


def stale_divisions(job: Job) -> tuple[Division, ...]:
    """Return the divisions to be made again, those that others stand on first."""
    return tuple(division for division in job.divisions if is_stale(job, division))


def stale_bodies(job: Job) -> frozenset[str]:
    """Return the bodies that are to be made again, and those made of them."""
    stale: set[str] = set()
    for division in job.divisions:
        if is_stale(job, division) or stale & set(division.wholes):
            stale |= {body.id for body in job.bodies if body.division == division.id}
    return frozenset(stale)


def fresh_wholes(job: Job, division: Division) -> bool:
    """Tell whether what a division is made of is as it is to be: its unit settled, no whole stale itself."""
    wholes = [job.body(key) for key in division.wholes]
    return job.settled(wholes) and not stale_bodies(job) & set(division.wholes)
