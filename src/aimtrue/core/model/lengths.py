"""Units, and lengths as people write them.

Inside, every length is a float64 number of millimetres. People type ``171.5``,
``17.15cm``, ``6 3/4 in`` or ``2 ft 5``; this module is the only place that reads
such text, so the interface and the command line agree.

The inch is exactly 25.4 mm (international yard and pound agreement, 1959).
"""

from __future__ import annotations

import math
import re
from decimal import ROUND_HALF_UP, Decimal
from enum import StrEnum
from fractions import Fraction

from aimtrue.core.errors import Refused
from aimtrue.core.model.numbers import with_decimal_point


class Unit(StrEnum):
    """A unit a model file can be in."""

    UM = "um"
    MM = "mm"
    CM = "cm"
    M = "m"
    IN = "in"
    FT = "ft"


_EXACT_MM = {
    Unit.UM: Fraction(1, 1000),
    Unit.MM: Fraction(1),
    Unit.CM: Fraction(10),
    Unit.M: Fraction(1000),
    Unit.IN: Fraction(254, 10),
    Unit.FT: Fraction(3048, 10),
}

MM_PER: dict[Unit, float] = {unit: float(value) for unit, value in _EXACT_MM.items()}
"""Millimetres per unit."""

UNIT_NAMES: dict[Unit, str] = {
    Unit.UM: "micrometre",
    Unit.MM: "millimetre",
    Unit.CM: "centimetre",
    Unit.M: "metre",
    Unit.IN: "inch",
    Unit.FT: "foot",
}

LONGEST_MM = 100_000.0
"""Lengths over 100 m are refused: nobody prints them, a slip of the key makes them."""

_SPELLINGS: dict[str, Unit] = {
    spelling: unit
    for unit, spellings in {
        Unit.UM: "um µm μm micron microns micrometre micrometres micrometer micrometers",
        Unit.MM: "mm millimetre millimetres millimeter millimeters",
        Unit.CM: "cm centimetre centimetres centimeter centimeters",
        Unit.M: "m metre metres meter meters",
        Unit.IN: 'in inch inches " ″ ”',
        Unit.FT: "ft foot feet ' ′ ’",
    }.items()
    for spelling in spellings.split()
}

_NUMBER = r"""(?P<whole>\d+)\s+(?P<num>\d+)\s*/\s*(?P<den>\d+)      # 6 3/4
            | (?P<n>\d+)\s*/\s*(?P<d>\d+)                            # 3/4
            | (?P<dec>(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?)         # 171.5, .5, 1e2
            """
_TERM = re.compile(rf"\s*(?:{_NUMBER})\s*(?P<unit>[a-zµμ]+|[\"″”'′’])?", re.VERBOSE)


def written(value: float, digits: int = 2) -> str:
    """Write a number with so many decimals, halves away from zero, as a draughtsman rounds.

    The decimal that a float stands for is rounded, not the float: 28.575, which is 1.125 in, becomes 28.58,
    also where the seven digits that a float32 holds left 28.574999 of it.
    """
    step = Decimal(1).scaleb(-digits)
    if not value or not math.isfinite(value):
        return f"{value:.{digits}f}"
    held = max(digits, 6 - math.floor(math.log10(abs(value))))
    return f"{Decimal(repr(round(float(value), held))).quantize(step, rounding=ROUND_HALF_UP):f}"


def unit_named(text: str) -> Unit:
    """Return the unit a spelling stands for, e.g. ``inch`` or ``mm``.

    Raises:
        Refused: the spelling is not known.
    """
    try:
        return _SPELLINGS[text.strip().lower()]
    except KeyError:
        raise Refused(
            "unit-unknown", f"“{text}” is not a unit known here", remedy="use um, mm, cm, m, in or ft"
        ) from None


def parse_length(text: str, default: Unit = Unit.MM) -> float:
    """Read a length as a person writes it and return millimetres.

    Args:
        text: for example ``171.5``, ``17.15cm``, ``6 3/4 in``, ``2 ft 5``, ``2'5"``.
        default: the unit of a bare number.

    Returns:
        The length in mm, above 0 and at most :data:`LONGEST_MM`.

    Raises:
        Refused: empty, not a length, zero, negative, or absurd; the text says which.

    Example:
        >>> parse_length("6 3/4 in")
        171.45
        >>> parse_length("2 ft 5")
        736.6
    """
    mm = parse_gap(text, default)
    if mm == 0:
        raise Refused("length-zero", "a size cannot be zero", remedy="type a length above zero")
    return mm


def parse_gap(text: str, default: Unit = Unit.MM) -> float:
    """Read a length that may be zero in any unit: ``0.5``, ``0``, ``0 in``.

    Raises:
        Refused: empty, not a length, negative, or absurd; the text says which.
    """
    cleaned = _cleaned(text)
    if not cleaned:
        raise Refused("length-empty", "nothing was typed", remedy="type a length such as 171.5 or 6 3/4 in")
    if cleaned.startswith(("-", "−")):
        raise Refused("length-negative", "a size cannot be negative", remedy="type a length above zero")
    mm = float(_sum_of_terms(cleaned.removeprefix("+"), text, default))
    if not math.isfinite(mm) or mm > LONGEST_MM:
        raise Refused(
            "length-absurd", f"“{text.strip()}” is over 100 m", remedy="check the unit and the digits"
        )
    return mm


def parse_offset(text: str, default: Unit = Unit.MM) -> float:
    """Read a length with a sign, which may be zero: ``0.3``, ``-0.1``, ``+1/64 in``, ``0``.

    Raises:
        Refused: it is empty or no length.
    """
    cleaned = _cleaned(text)
    if cleaned.startswith(("-", "−")):
        return -parse_gap(cleaned[1:], default) or 0.0
    return parse_gap(cleaned, default)


def parse_factor(text: str) -> float:
    """Read a factor or a percentage: ``0.98``, ``98 %``, ``x1.5``, ``3/4``.

    Returns:
        The factor, between 1e-6 and 1e6.

    Raises:
        Refused: empty, not a number, zero, negative or absurd.
    """
    cleaned = _cleaned(text).removeprefix("×").removeprefix("x").removeprefix("*").strip()
    percent = cleaned.endswith("%")
    cleaned = cleaned.removesuffix("%").strip()
    if not cleaned:
        raise Refused("factor-empty", "nothing was typed", remedy="type a factor such as 0.98 or 98 %")
    if cleaned.startswith(("-", "−")):
        raise Refused("factor-negative", "a factor cannot be negative", remedy="type a factor above zero")
    match = _TERM.fullmatch(with_decimal_point(cleaned))
    if match is None or match["unit"]:
        raise Refused("factor-not-a-number", f"“{text.strip()}” is not a factor", remedy="type 0.98 or 98 %")
    factor = float(_value(match, text)) / (100 if percent else 1)
    if factor == 0:
        raise Refused("factor-zero", "a factor cannot be zero", remedy="type a factor above zero")
    if not 1e-6 <= factor <= 1e6:
        raise Refused(
            "factor-absurd",
            f"“{text.strip()}” would change the size beyond reason",
            remedy="type a factor between 0.000001 and 1000000",
        )
    return factor


def is_factor(text: str) -> bool:
    """Tell whether a typed size is meant as a factor: it says ``%``, or starts with ``x`` or ``×``."""
    cleaned = _cleaned(text)
    return cleaned.endswith("%") or cleaned.startswith(("x", "×", "*"))


def _cleaned(text: str) -> str:
    return text.replace("\u00a0", " ").replace("\u2009", " ").replace("\u202f", " ").strip().lower()


def _sum_of_terms(cleaned: str, typed: str, default: Unit) -> Fraction:
    """Add up ``2 ft 5 1/2 in``; a bare number after feet is inches."""
    cleaned = with_decimal_point(cleaned)
    total, at, before = Fraction(0), 0, None
    while at < len(cleaned):
        match = _TERM.match(cleaned, at)
        if match is None:
            raise _not_a_length(typed)
        unit = _unit_of(match, typed, before, default)
        if before is not None and _EXACT_MM[unit] >= _EXACT_MM[before]:
            raise _not_a_length(typed)
        total += _value(match, typed) * _EXACT_MM[unit]
        at, before = match.end(), unit
        while at < len(cleaned) and cleaned[at] == " ":
            at += 1
    return total


def _unit_of(match: re.Match[str], typed: str, before: Unit | None, default: Unit) -> Unit:
    spelled = match["unit"]
    if spelled:
        if spelled not in _SPELLINGS:
            raise Refused(
                "unit-unknown", f"“{spelled}” is not a unit known here", remedy="use um, mm, cm, m, in or ft"
            )
        return _SPELLINGS[spelled]
    if before is None:
        return default
    if before is Unit.FT:
        return Unit.IN
    raise _not_a_length(typed)


def _value(match: re.Match[str], typed: str) -> Fraction:
    top, bottom = match["num"] or match["n"], match["den"] or match["d"]
    if bottom is not None:
        if int(bottom) == 0:
            raise _not_a_length(typed)
        return Fraction(int(match["whole"] or 0)) + Fraction(int(top), int(bottom))
    # A very long exponent would make an enormous exact fraction; a float says it is absurd at once.
    value = float(match["dec"])
    if not math.isfinite(value) or value > 1e12:
        raise Refused("length-absurd", f"“{typed.strip()}” is beyond reason", remedy="check the digits")
    return Fraction(match["dec"]) if value else Fraction(0)


def _not_a_length(typed: str) -> Refused:
    return Refused(
        "length-not-a-number",
        f"“{typed.strip()}” is not a length",
        remedy="type a length such as 171.5, 17.15cm, 6 3/4 in or 2 ft 5",
    )
