"""This module says what changed from one release to another: bodies, names, sizes, readings, and how they
came about.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import to_print
from aimtrue.core.model.value import Value
from aimtrue.core.room import BodyChange, Room
from aimtrue.core.rooms import ROOMS


class Difference(Value):
    """One thing that is not as it was: of which body (or none), what, and as it was and is, in words."""

    of: str
    what: str
    before: str
    after: str


def changes(
    before: Job,
    after: Job,
    first: tuple[str, ...] | None = None,
    second: tuple[str, ...] | None = None,
    rooms: Sequence[Room] = ROOMS,
) -> tuple[Difference, ...]:
    """Compare a job as it was at one release with what it was at another.

    Args:
        before, after: the job at both.
        first, second: ids of the bodies in either release; None for all that were in use.
        rooms: that know what may differ.
    """
    old, new = _bodies(before, first), _bodies(after, second)
    differences = [
        Difference(of=old[key].name, what="body", before="released", after="gone")
        for key in old
        if key not in new
    ]
    differences += [
        Difference(of=new[key].name, what="body", before="not there", after="new")
        for key in new
        if key not in old
    ]
    for key in new:
        if key in old:
            differences += _of_body(BodyChange(before, old[key], after, new[key]), rooms)
    if before.name != after.name:
        differences.append(Difference(of="", what="name of the job", before=before.name, after=after.name))
    return tuple(differences)


def _bodies(job: Job, ids: tuple[str, ...] | None) -> dict[str, Body]:
    return {body.id: body for body in to_print(job, job.bodies) if ids is None or body.id in ids}


def _of_body(change: BodyChange, rooms: Sequence[Room]) -> Iterator[Difference]:
    for room in rooms:
        for what, before, after in room.differences(change):
            if before != after:
                yield Difference(of=change.new.name, what=what, before=before, after=after)
