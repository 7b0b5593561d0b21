"""What a new revision of a file changed: sizes, volumes and gauges of its bodies, before and after.

What a body was is noted when the revision is swapped in (:func:`with_what_was`), without correction, so
that a correction that is solved anew is not mistaken for a change of the part. What it is now is worked out
when it is shown.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import numpy as np

from aimtrue.core.gauges.measure import form_of
from aimtrue.core.intake.actions import Remake
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import NO_BODY, BodyId, ReadingId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER
from aimtrue.core.model.ownership import bodies_of, file_axis
from aimtrue.core.model.source import BodyBefore, Source
from aimtrue.core.model.value import AXES, Value

ChangeKind = Literal["size", "volume", "gauge", "new", "gone"]

_LEAST_MM = 0.005
"""A length that changed by less is the same: it is written the same, too."""
_LEAST_SHARE = 1e-4
"""A volume that changed by a smaller share is the same, but for facets and rounding."""


class RevisionChange(Value):
    """One thing that is another in the newest revision of a file.

    Attributes:
        body: that it is of; empty of one that is gone.
        kind: what changed; new and gone have no values.
        says: of what: a body, with the axis or the reading.
        before, after: in mm, of a volume in mm³.
    """

    body: BodyId
    kind: ChangeKind
    says: str
    before: float | None = None
    after: float | None = None


def with_what_was(before: Job, after: Job, action: Remake) -> Job:
    """Return a job whose sources know what their bodies were in the revision before.

    Args:
        before: the job with the old bodies.
        after: with the new ones in their place.
        action: what put them there; bodies that are only made anew go on being what they were.
    """
    new_of = {old: new for new, old in action.follows.items()}
    for source in after.sources:
        old = next((one for one in before.sources if one.id == source.id), None)
        if old is None:
            continue
        was = old.was if source.replaced == old.replaced else _as_it_was(before, old, action)
        was = tuple(one.model_copy(update={"body": new_of.get(one.body, one.body)}) for one in was)
        if was != source.was:
            after = after.with_source(source.model_copy(update={"was": was}))
    return after


def _as_it_was(job: Job, source: Source, action: Remake) -> tuple[BodyBefore, ...]:
    """Note what the bodies of a source are, and which new ones were not there; nothing without a unit."""
    if source.unit is None:
        return ()
    gone = {key for key in action.gone if key not in action.follows.values()}
    was = [
        BodyBefore(
            body=NO_BODY if body.id in gone else body.id,
            name=body.name,
            size_mm=_size_mm(body, source),
            up=source.up,
            volume_mm3=_volume_mm3(body, source),
            lengths_mm=tuple(_lengths_mm(job, body).items()),
            geometry=body.geometry,
            unit=source.unit,
        )
        for body in bodies_of(job, source.id)
        if not body.copied
    ]
    new = [body for body in action.come if body.id not in action.follows]
    return (*was, *(BodyBefore(body=body.id, name=body.name) for body in new))


def _size_mm(body: Body, source: Source) -> tuple[float, float, float]:
    assert source.unit is not None
    per = MM_PER[source.unit]
    x, y, z = (per * (high - low) for low, high in zip(body.low, body.high, strict=True))
    return x, y, z


def _volume_mm3(body: Body, source: Source) -> float:
    assert source.unit is not None
    return float(body.volume * MM_PER[source.unit] ** 3)


def _lengths_mm(job: Job, body: Body) -> dict[ReadingId, float]:
    """How long the gauges on a body are without correction; angles do not tell a size."""
    return {
        reading.id: float(np.mean(form_of(job, reading).lengths(np.ones(3))))
        for reading in job.readings
        if reading.body == body.id and not reading.lost and reading.gauge.kind != "angle"
    }


def revision_changes(job: Job, source: Source) -> tuple[RevisionChange, ...]:
    """Return what the newest revision of a file changed, as far as its bodies are still there.

    Nothing is told of a first revision, nor while the unit of the new one is not settled.
    """
    if source.unit is None or not source.was:
        return ()
    here = {body.id: body for body in job.bodies}
    return tuple(change for was in source.was for change in _changes_of(job, source, was, here))


def _changes_of(
    job: Job, source: Source, was: BodyBefore, here: dict[BodyId, Body]
) -> Iterator[RevisionChange]:
    if not was.body:
        yield RevisionChange(body=NO_BODY, kind="gone", says=was.name)
        return
    body = here.get(was.body)
    if body is None:  # Deleted, joined or separated since: no part to be held against.
        return
    if was.size_mm is None:
        yield RevisionChange(body=body.id, kind="new", says=body.name)
        return
    size_mm = _size_mm(body, source)
    for axis in AXES:
        side = AXES.index(file_axis(job, body, axis))
        old, new = was.size_mm[side], size_mm[side]
        if abs(new - old) > _LEAST_MM:
            yield RevisionChange(
                body=body.id, kind="size", says=f"{body.name}, {axis.upper()}", before=old, after=new
            )
    volume = _volume_mm3(body, source)
    if abs(volume - was.volume_mm3) > _LEAST_SHARE * max(abs(volume), abs(was.volume_mm3)):
        yield RevisionChange(
            body=body.id, kind="volume", says=f"{body.name}, volume", before=was.volume_mm3, after=volume
        )
    readings = {reading.id: reading for reading in job.readings}
    lengths = dict(was.lengths_mm)
    for key, length in _lengths_mm(job, body).items():
        known = lengths.get(key)
        if readings[key].gauge.kind == "extent" and was.up != source.up:
            continue  # It is another side of the part that lies along that axis now.
        if known is not None and abs(length - known) > _LEAST_MM:
            yield RevisionChange(
                body=body.id, kind="gauge", says=readings[key].name, before=known, after=length
            )
