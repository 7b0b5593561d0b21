"""This module says what the limits of a standard make of a clearance: of a bearing in its seat, a pin in
its bore.
"""

from __future__ import annotations

from aimtrue.core.fit.pairs.values import FoundPair
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.pairs import ROUND_KINDS
from aimtrue.core.model.stock import SizeLimits

_NEAR_MM = 2e-3
"""A size is that of the standard when it is no farther from it than its facets may be."""


def clearance_limits(job: Job, pair: FoundPair) -> tuple[float, float] | None:
    """Return the least and the greatest clearance that the standards of both sides allow, in mm.

    A side that no standard limits is taken as it is; None where none of them does.
    """
    if pair.kind not in ROUND_KINDS or len(pair.sizes_mm) != 2:
        return None
    outer, inner = (
        _limits_of(job, side.body, size) for side, size in zip((pair.a, pair.b), pair.sizes_mm, strict=True)
    )
    if outer is None and inner is None:
        return None
    low = pair.clearance_mm + (outer.low_mm if outer else 0.0) - (inner.high_mm if inner else 0.0)
    high = pair.clearance_mm + (outer.high_mm if outer else 0.0) - (inner.low_mm if inner else 0.0)
    return low, high


def limits_words(job: Job, pair: FoundPair) -> str:
    """Say what the limits of a standard make of a clearance; nothing where none does."""
    limits = clearance_limits(job, pair)
    if limits is None:
        return ""
    low, high = limits
    return f"within the limits of its standard {low:+.3f} to {high:+.3f} mm"


def _limits_of(job: Job, key: BodyId, size: float) -> SizeLimits | None:
    made = job.source_of(job.body(key)).made
    rows = made.limits if made is not None else ()
    return next((row for row in rows if abs(row.mm - size) <= _NEAR_MM), None)
