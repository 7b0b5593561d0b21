"""What changed from one release to another: bodies, names, sizes, readings, and how they came about."""

from __future__ import annotations

from collections.abc import Iterator

from aimtrue.core.chain.allowance import allowed_sizes
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import UNIT_NAMES
from aimtrue.core.model.value import Value


class Difference(Value):
    """One thing that is not as it was: of which body (or none), what, and as it was and is, in words."""

    of: str
    what: str
    before: str
    after: str


_ROUNDED = 5e-5
"""In mm: sizes that differ by less read the same."""


def changes(
    before: Job, after: Job, first: tuple[str, ...] | None = None, second: tuple[str, ...] | None = None
) -> tuple[Difference, ...]:
    """Compare a job as it was at one release with what it was at another.

    Args:
        before, after: the job at both.
        first, second: ids of the bodies in either release; None for all that were in use.
    """
    old, new = _bodies(before, first), _bodies(after, second)
    found = [
        Difference(of=old[key].name, what="body", before="released", after="gone")
        for key in old
        if key not in new
    ]
    found += [
        Difference(of=new[key].name, what="body", before="not there", after="new")
        for key in new
        if key not in old
    ]
    for key in new:
        if key in old:
            found += _of_body(before, old[key], after, new[key])
    if before.name != after.name:
        found.append(Difference(of="", what="name of the job", before=before.name, after=after.name))
    return tuple(found)


def _bodies(job: Job, ids: tuple[str, ...] | None) -> dict[str, Body]:
    return {body.id: body for body in job.in_use(job.bodies) if ids is None or body.id in ids}


def _of_body(before: Job, old: Body, after: Job, new: Body) -> Iterator[Difference]:
    told = (
        ("name", old.name, new.name),
        ("colour", old.colour or "none", new.colour or "none"),
        ("material", old.material or "the job's", new.material or "the job's"),
        ("unit of the file", _unit(before, old), _unit(after, new)),
        ("correction", _correction(before, old), _correction(after, new)),
        ("allowance", _allowance(before, old), _allowance(after, new)),
        ("geometry", "as it was", "as it was" if old.geometry == new.geometry else "made anew"),
        ("let pass on purpose", _accepted(old), _accepted(new)),
    )
    yield from (
        Difference(of=new.name, what=what, before=one, after=other)
        for what, one, other in told
        if one != other
    )
    yield from _readings(before, old, after, new)
    if not (before.settled((old,)) and after.settled((new,))):
        return
    sizes = allowed_sizes(before, old), allowed_sizes(after, new)
    if max(abs(a - b) for a, b in zip(*sizes, strict=True)) > _ROUNDED:
        yield Difference(of=new.name, what="size", before=_size(sizes[0]), after=_size(sizes[1]))


def _readings(before: Job, old: Body, after: Job, new: Body) -> Iterator[Difference]:
    first = {one.id: one for one in before.readings if one.body == old.id and one.has_length}
    second = {one.id: one for one in after.readings if one.body == new.id and one.has_length}
    for key in dict.fromkeys((*first, *second)):
        one, other = first.get(key), second.get(key)
        was, is_now = one.typed if one else "none", other.typed if other else "taken away"
        name = (other or one).name  # type: ignore[union-attr]
        if was != is_now:
            yield Difference(of=new.name, what=f"reading {name}", before=was, after=is_now)


def _unit(job: Job, body: Body) -> str:
    unit = job.source_of(body).unit
    return UNIT_NAMES[unit] if unit else "open"


def _correction(job: Job, body: Body) -> str:
    correction = job.correction_of(body)
    factors = [f"{factor:.6g}" for factor in correction.factors]
    told = factors[0] if len(set(factors)) == 1 else " / ".join(factors)
    return f"{told}, {correction.along.factor:.6g} along a direction" if correction.along else told


def _allowance(job: Job, body: Body) -> str:
    if not job.allowed(body):
        return "none"
    shares = " / ".join(f"{100 * share:.4g} %" for share in job.shrinkage_of(body).shares)
    return f"shrinkage {shares}, clearance {' / '.join(f'{more:+.4g}' for more in body.clearance.mm)} mm"


def _accepted(body: Body) -> str:
    return (
        ", ".join(f"{code} ({body.reason(code)})" if body.reason(code) else code for code in body.accepted)
        or "nothing"
    )


def _size(size: tuple[float, float, float]) -> str:
    return " × ".join(f"{one:.4f}" for one in size) + " mm"
