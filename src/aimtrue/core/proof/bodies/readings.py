"""Readings measured on the released points, and held against what the user gave."""

from __future__ import annotations

import math
import re
import statistics
from collections.abc import Callable

import numpy as np

from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.readings import Gauge, Reading
from aimtrue.core.proof.bodies.point_transform import MM
from aimtrue.core.proof.surface import Points
from aimtrue.core.proof.values import Check, small

Carry = Callable[[Points], Points | None]
"""Brings (n, 3) points of a gauge, in numbers of the file, to the true size of the released body in mm."""


def lengths(gauge: Gauge, points: Points) -> tuple[float, ...] | None:
    """Measure a gauge on its points; of an oval the greatest and the least; an angle in degrees.

    Args:
        gauge: not an extent, which has no points.
        points: (n, 3) in mm, as :class:`~aimtrue.core.gauges.Gauge` describes them per kind.
    """
    match gauge.kind:
        case "points" | "wall" | "depth":
            return (math.dist(points[0], points[1]),)
        case "faces":
            normal = np.cross(points[1] - points[0], points[2] - points[0])
            away = points[3:6].mean(axis=0) - points[:3].mean(axis=0)
            return (abs(float(away @ normal)) / math.sqrt(normal @ normal),)
        case "angle":
            a = np.cross(points[1] - points[0], points[2] - points[0])
            b = np.cross(points[4] - points[3], points[5] - points[3])
            cosine = abs(float(a @ b)) / math.sqrt((a @ a) * (b @ b))
            return (math.degrees(math.acos(min(1.0, cosine))),)
        case "perimeter":
            steps = np.roll(points, -1, axis=0) - points
            return (gauge.stretch * float(np.sqrt((steps**2).sum(axis=1)).sum()),)
        case "diameter" | "radius":
            return _round(points, 2.0 if gauge.kind == "diameter" else 1.0)
    return None


def _round(points: Points, times: float) -> tuple[float, ...]:
    """Half axes of the ellipse of which two conjugate radii are known (eigenvalues of M^T M)."""
    u, v = points[1] - points[0], points[2] - points[0]
    sum_, product = (u @ u + v @ v) / 2, math.sqrt(float(np.cross(u, v) @ np.cross(u, v)))
    spread = math.sqrt(max(float(sum_ * sum_ - product * product), 0.0))
    greatest, least = math.sqrt(sum_ + spread), math.sqrt(max(float(sum_ - spread), 0.0))
    return (times * greatest, times * least)


def band(reading: Reading) -> tuple[float, float]:
    """Return the least and the greatest length that is good, in mm, the reading's clearance with it."""
    low, high, real = reading.low_mm, reading.high_mm, reading.real_mm
    if real is not None and low is None and high is None:
        slack = max(reading.fineness_mm, 1e-6)
        if len(reading.repeats) > 1:
            slack = max(slack, 2 * statistics.stdev(reading.repeats) / math.sqrt(len(reading.repeats)))
        low, high = real - slack, real + slack
    more = reading.clearance_mm
    return (0.0 if low is None else low + more, math.inf if high is None else high + more)


def check(  # noqa: PLR0913 - told apart by their names
    reading: Reading,
    shown: tuple[float, ...],
    asked: tuple[float, ...],
    found: tuple[float, ...],
    limit: float,
    shown_met: bool | None = None,
    may_miss: bool = True,
) -> Check:
    """Hold a reading in the file against the chain, against what its sheet shows, and against its band.

    Args:
        reading: with what the user gave.
        shown: lengths that the sheet shows, in mm.
        asked: lengths by the chain alone.
        found: lengths on the released points.
        limit: how far these may be apart.
        shown_met: whether its sheet says that it is met.
        may_miss: whether it may be missed: it only checks, or its user accepted it on purpose.
    """
    low, high = band(reading)
    grain = 1e-9 * max(asked) + limit
    met = all(low - grain <= length <= high + grain for length in asked)
    off = max(abs(max(asked) - max(found)), abs(min(asked) - min(found)))
    difference = max(abs(max(asked) - max(shown)), abs(min(asked) - min(shown)))
    holds = off <= limit and difference <= limit + 1e-7 * max(asked) and _as_typed(reading)
    says = f"reading {reading.name}"
    wanted = reading.real_mm + reading.clearance_mm if reading.real_mm is not None else None
    if met:
        holds = holds and all(low - grain <= length <= high + grain for length in found)
        text = f"{wanted:.5f} mm" if wanted is not None and len(found) == 1 else _limits(low, high, wanted)
    else:
        over = max((min(length - low, 0.0) + max(length - high, 0.0) for length in asked), key=abs)
        says += f", MISSED: {small(abs(over))} {'over' if over > 0 else 'under'} its band"
        says += ", accepted on purpose" if may_miss and reading.role == "drive" else ""
        holds = holds and may_miss
        text = f"{max(asked):.5f} mm"
    if difference > limit + 1e-7 * max(asked):
        says += f"; its sheet shows {max(shown):.5f} mm"
    # At the very edge of a band either is right.
    edge = min(abs(length - end) for length in asked for end in (low, high)) <= 10 * grain
    if shown_met is not None and shown_met != met and not edge:
        holds = False
        says += "; its sheet says otherwise"
    measured = (
        f"{max(found):.5f} mm"
        if max(found) - min(found) <= limit
        else f"{min(found):.5f} to {max(found):.5f} mm"
    )
    return Check(code="reading", says=says, asked=text, found=measured, off=off, limit=limit, holds=holds)


def _limits(low: float, high: float, wanted: float | None) -> str:
    if wanted is not None:
        return f"{wanted:.5f} mm"
    if low > 0 and math.isfinite(high):
        return f"{low:.5f} to {high:.5f} mm"
    return f"at least {low:.5f} mm" if low > 0 else f"at most {high:.5f} mm"


def _as_typed(reading: Reading) -> bool:
    """Whether a length typed in a plain way is the one that was taken; what is typed otherwise is not
    judged.
    """
    if reading.real_mm is None or reading.repeats:
        return True
    mm = plain_length(reading.typed.split("[")[0].split("±")[0])
    return mm is None or math.isclose(mm, reading.real_mm, rel_tol=2e-6)


_UNITS = {unit.value: unit for unit in MM} | {"µm": Unit.UM, '"': Unit.IN, "inch": Unit.IN, "'": Unit.FT}
_TERM = re.compile(r"(?:(\d+)\s+)?(\d+)\s*/\s*(\d+)\s*([a-zµ\"']*)|(\d+(?:[.,]\d+)?)\s*([a-zµ\"']*)")


def plain_length(text: str) -> float | None:
    """Read a length typed in a plain way: ``171.5``, ``17,15 cm``, ``6 3/4 in``, ``2 ft 5``; None for
    anything else.

    Returns:
        The length in mm.
    """
    cleaned = _ungrouped(text)
    match = _TERM.match(cleaned)
    if match is None:
        return None
    rest = cleaned[match.end() :].strip()
    first = _term(match)
    if not rest:
        return first
    second = _TERM.fullmatch(rest)
    if first is None or second is None or (match[4] if match[3] else match[6]) not in ("ft", "'"):
        return None
    inches = _term(second, Unit.IN)
    return None if inches is None else first + inches


def _ungrouped(text: str) -> str:
    """Close up digits that an apostrophe or a space groups by threes, one separator at a time."""
    cleaned = re.sub(r"[\u00a0\u2009\u202f]", " ", text).strip().lower()
    if re.match(r"[+-]?\d{1,3}(['’ ]\d{3})+(?!\d|\s*/|['’])", cleaned):
        while (closed := re.sub(r"^([+-]?\d+)['’ ](\d{3})(?!\d)", r"\1\2", cleaned)) != cleaned:
            cleaned = closed
    return cleaned


def _term(match: re.Match[str], usual: Unit = Unit.MM) -> float | None:
    named = match[4] if match[3] else match[6]
    unit = _UNITS.get(named) if named else usual
    if unit is None:
        return None
    if match[3]:
        return (int(match[1] or 0) + int(match[2]) / int(match[3])) * MM[unit] if int(match[3]) else None
    return float(match[5].replace(",", ".")) * MM[unit]


def plain_offset(text: str) -> float | None:
    """Read a length with a sign, typed in a plain way; None for anything else.

    Returns:
        The length in mm.
    """
    cleaned = text.strip().replace("−", "-")
    size = plain_length(cleaned.lstrip("+-"))
    return None if size is None else -size if cleaned.startswith("-") else size


def plain_factor(text: str) -> float | None:
    """Read a factor typed in a plain way: ``0.98``, ``98 %``, ``x1.5``; None for anything else."""
    match = re.fullmatch(r"[x×*]?\s*(\d+(?:[.,]\d+)?)\s*(%?)", text.strip().lower())
    return None if match is None else float(match[1].replace(",", ".")) / (100 if match[2] else 1)
