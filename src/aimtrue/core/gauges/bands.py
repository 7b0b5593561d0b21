"""Readings as people write them, and the band of lengths that is good.

    171.5            171.5 ±0.2        171.5 +0.2 -0.1      171.5 [171..172]
    171..172         at least 188      <= 100               171.4; 171.5; 171.6

A reading without a band is good within what its means can tell: a caliper's 171.5 is anything
from 171.45 to 171.55. Repeats widen that by twice the standard error of their mean.
"""

from __future__ import annotations

import math
import re
import statistics
from dataclasses import dataclass

from aimtrue.core.errors import Refused
from aimtrue.core.model.lengths import parse_length
from aimtrue.core.model.readings import Reading

_LEAST = re.compile(r"^(?:at least|min(?:imum)?|>=|≥|>)\s*(.+)$", re.IGNORECASE)
_MOST = re.compile(r"^(?:at most|max(?:imum)?|<=|≤|<)\s*(.+)$", re.IGNORECASE)
_BAND = re.compile(r"^(.*?)\[(.+?)(?:\.\.+|…|\bto\b)(.+)\]$", re.IGNORECASE)
_RANGE = re.compile(r"^(.+?)(?:\.\.+|…|\s+to\s+)(.+)$", re.IGNORECASE)
_EVEN = re.compile(r"^(.+?)(?:±|\+/-|\+-)(.+)$")
_ODD = re.compile(r"^(.+?)\s*\+\s*([^+\-−/]+?)\s*/?\s*[-−]\s*([^+\-−]+)$")


@dataclass(frozen=True)
class TypedReading:
    """What a typed reading says, in mm. At least one of the first three is there."""

    real: float | None
    low: float | None
    high: float | None
    repeats: tuple[float, ...] = ()


@dataclass(frozen=True)
class Band:
    """The lengths that are good, in mm, clearance included.

    Attributes:
        low, high: limits; infinite where there is none.
        wanted: the best length; None when only a limit is known.
        slack: half of the band, or how finely the reading tells; the weight of a deviation is one over its
            square, so what must be exact pulls harder than what may vary.
    """

    low: float
    high: float
    wanted: float | None
    slack: float

    def holds(self, length: float) -> bool:
        """Whether a length is good, to a millionth of it."""
        grain = 1e-9 * max(length, 1.0)
        return self.low - grain <= length <= self.high + grain

    def over(self, length: float) -> float:
        """Return by how much a length is outside, negative when too short; 0 when good."""
        return min(length - self.low, 0.0) + max(length - self.high, 0.0)


_ABSURD = 1000.0
"""A reading that changes the size by more than this is asked about first."""


def within_reason(real: float, length: float) -> bool:
    """Whether a real length is within a thousand times of what the model has."""
    ratio = real / length if length else math.inf
    return 1 / _ABSURD <= ratio <= _ABSURD


def times_larger(real: float, length: float) -> str:
    """Say how much larger or smaller a real length is than what the model has."""
    ratio = real / length if length else math.inf
    return f"{ratio:.3g} times as large" if ratio > 1 else f"{1 / ratio:.3g} times smaller"


def parse_reading(text: str) -> TypedReading:
    """Read a length with its band or limit, or several repeats of one length.

    Raises:
        Refused: it is no length, or the band is empty or does not hold the length.
    """
    cleaned = " ".join(text.split())
    if ";" in cleaned:
        return _repeated(cleaned)
    if match := _LEAST.match(cleaned):
        return TypedReading(None, parse_length(match[1]), None)
    if match := _MOST.match(cleaned):
        return TypedReading(None, None, parse_length(match[1]))
    if match := _BAND.match(cleaned):
        low, high = parse_length(match[2]), parse_length(match[3])
        real = parse_length(match[1]) if match[1].strip() else (low + high) / 2
        return _checked(real, low, high, text)
    if match := _EVEN.match(cleaned):
        real, off = parse_length(match[1]), _tolerance(match[2])
        return _checked(real, real - off, real + off, text)
    if match := _ODD.match(cleaned):
        real = parse_length(match[1])
        return _checked(real, real - _tolerance(match[3]), real + _tolerance(match[2]), text)
    if match := _RANGE.match(cleaned):
        low, high = parse_length(match[1]), parse_length(match[2])
        return _checked((low + high) / 2, low, high, text)
    return TypedReading(parse_length(cleaned), None, None)


def _repeated(text: str) -> TypedReading:
    values = tuple(parse_length(text_of_value) for text_of_value in text.split(";") if text_of_value.strip())
    if not values:
        raise Refused("length-empty", "nothing was typed", remedy="type lengths such as 171.4; 171.5; 171.6")
    return TypedReading(statistics.fmean(values), None, None, values if len(values) > 1 else ())


def _tolerance(text: str) -> float:
    return 0.0 if re.fullmatch(r"\s*0*\.?0*\s*(mm)?\s*", text) else parse_length(text)


def _checked(real: float, low: float, high: float, text: str) -> TypedReading:
    if low > high:
        raise Refused(
            "band-empty", f"the band in “{text.strip()}” runs backwards", remedy="write the lower limit first"
        )
    if low <= 0:
        raise Refused(
            "band-negative",
            f"the band in “{text.strip()}” goes below zero",
            remedy="type a smaller tolerance",
        )
    if not low <= real <= high:
        raise Refused(
            "band-beside", f"{real:g} is outside its own band {low:g} to {high:g}", remedy="mend the reading"
        )
    return TypedReading(real, low, high)


def slack_of(reading: Reading) -> float:
    """Return, in mm, how finely a reading tells its length.

    Half of the band its means leave, or twice the standard error of the mean of repeats when that is more.
    """
    spread = 0.0
    if len(reading.repeats) > 1:
        spread = 2 * statistics.stdev(reading.repeats) / math.sqrt(len(reading.repeats))
    return max(reading.fineness_mm, spread, 1e-6)


def band_of(reading: Reading) -> Band | None:
    """Return the band of a reading, or None while nothing real is known of it."""
    if not reading.has_length:
        return None
    slack, more = slack_of(reading), reading.clearance_mm
    low, high, real = reading.low_mm, reading.high_mm, reading.real_mm
    if real is not None and low is None and high is None:
        low, high = real - slack, real + slack
    elif low is not None and high is not None:
        slack = max(slack, (high - low) / 2)
    return Band(
        low + more if low is not None else 0.0,
        high + more if high is not None else math.inf,
        real + more if real is not None else None,
        slack,
    )


def written(reading: Reading) -> str:
    """Say a band as a draughtsman writes it behind the length."""
    low, high, real = reading.low_mm, reading.high_mm, reading.real_mm
    if real is None:
        return f"at least {low:g}" if low is not None else f"at most {high:g}" if high is not None else ""
    if low is None or high is None:
        return f"±{slack_of(reading):.3g}"
    above, below = high - real, real - low
    return f"±{above:.4g}" if abs(above - below) < 1e-9 else f"+{above:.4g} −{below:.4g}"
