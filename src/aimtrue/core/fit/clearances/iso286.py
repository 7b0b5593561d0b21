"""This module gives limits of ISO 286 for holes and shafts: H7/g6 and the like.

Grades: ISO 286-1:2010, table 1, for nominal sizes from 1 to 500 mm and IT5 to IT13, in micrometres.
Fundamental deviations: ISO 286-1:2010, tables 2 to 5, for the letters that are used most.
"""

from __future__ import annotations

import re
from bisect import bisect_left

from aimtrue.core.errors import Refused
from aimtrue.core.fit.clearances.clearance_band import ClearanceBand
from aimtrue.core.model.value import Value

_STEPS = (3, 6, 10, 18, 30, 50, 80, 120, 180, 250, 315, 400, 500)
"""The upper end of each range of nominal sizes, in mm; each includes it."""
_GRADES: dict[int, tuple[int, ...]] = {
    5: (4, 5, 6, 8, 9, 11, 13, 15, 18, 20, 23, 25, 27),
    6: (6, 8, 9, 11, 13, 16, 19, 22, 25, 29, 32, 36, 40),
    7: (10, 12, 15, 18, 21, 25, 30, 35, 40, 46, 52, 57, 63),
    8: (14, 18, 22, 27, 33, 39, 46, 54, 63, 72, 81, 89, 97),
    9: (25, 30, 36, 43, 52, 62, 74, 87, 100, 115, 130, 140, 155),
    10: (40, 48, 58, 70, 84, 100, 120, 140, 160, 185, 210, 230, 250),
    11: (60, 75, 90, 110, 130, 160, 190, 220, 250, 290, 320, 360, 400),
    12: (100, 120, 150, 180, 210, 250, 300, 350, 400, 460, 520, 570, 630),
    13: (140, 180, 220, 270, 330, 390, 460, 540, 630, 720, 810, 890, 970),
}
_UPPER: dict[str, tuple[int, ...]] = {
    "d": (-20, -30, -40, -50, -65, -80, -100, -120, -145, -170, -190, -210, -230),
    "e": (-14, -20, -25, -32, -40, -50, -60, -72, -85, -100, -110, -125, -135),
    "f": (-6, -10, -13, -16, -20, -25, -30, -36, -43, -50, -56, -62, -68),
    "g": (-2, -4, -5, -6, -7, -9, -10, -12, -14, -15, -17, -18, -20),
    "h": (0,) * 13,
}
"""Upper deviations of shafts that are smaller than their nominal size, in micrometres."""
_LOWER: dict[str, tuple[int, ...]] = {
    "k": (0, 1, 1, 1, 2, 2, 2, 3, 3, 4, 4, 4, 5),
    "m": (2, 4, 6, 7, 8, 9, 11, 13, 15, 17, 20, 21, 23),
    "n": (4, 8, 10, 12, 15, 17, 20, 23, 27, 31, 34, 37, 40),
    "p": (6, 12, 15, 18, 22, 26, 32, 37, 43, 50, 56, 62, 68),
}
"""Lower deviations of shafts that are larger than their nominal size, in micrometres; ``k`` of IT4 to IT7."""
_FIT = re.compile(
    r"\s*(?P<hole>[A-Z]{1,2})(?P<hole_grade>\d{1,2})\s*/\s*(?P<shaft>[a-z]{1,2})(?P<grade>\d{1,2})\s*"
)


class Limits(Value):
    """The least and the greatest deviation from a nominal size, in mm."""

    low_mm: float
    high_mm: float


def grade_mm(nominal_mm: float, grade: int) -> float:
    """Return the tolerance of a grade in mm, for a nominal size.

    Raises:
        Refused: the size or the grade is not in the table.

    Example: ``grade_mm(25, 7)`` is 0.021.
    """
    if grade not in _GRADES:
        raise Refused("fit-grade", f"IT{grade} is not in the table", remedy="use grades from 5 to 13")
    return _GRADES[grade][_row(nominal_mm)] / 1000


def shaft_limits(nominal_mm: float, letter: str, grade: int) -> Limits:
    """Return the limits of a shaft, such as g6.

    Raises:
        Refused: the size, the letter or the grade is not in the tables.
    """
    width, row = grade_mm(nominal_mm, grade), _row(nominal_mm)
    if letter == "js":
        return Limits(low_mm=-width / 2, high_mm=width / 2)
    if letter in _UPPER:
        high = _UPPER[letter][row] / 1000
        return Limits(low_mm=high - width, high_mm=high)
    if letter in _LOWER:
        # Above IT7 a k shaft begins at its nominal size.
        low = 0.0 if letter == "k" and grade > 7 else _LOWER[letter][row] / 1000
        return Limits(low_mm=low, high_mm=low + width)
    raise Refused(
        "fit-letter", f"shafts of {letter} are not in the table", remedy="use d, e, f, g, h, js, k, m, n or p"
    )


def hole_limits(nominal_mm: float, letter: str, grade: int) -> Limits:
    """Return the limits of a hole: H, or the mirror of a shaft that is smaller than its nominal size.

    Raises:
        Refused: the size, the letter or the grade is not in the tables.
    """
    width = grade_mm(nominal_mm, grade)
    if letter == "JS":
        return Limits(low_mm=-width / 2, high_mm=width / 2)
    mirrored = letter.lower()
    if mirrored not in _UPPER:
        raise Refused(
            "fit-letter", f"holes of {letter} are not in the table", remedy="use D, E, F, G, H or JS"
        )
    low = -_UPPER[mirrored][_row(nominal_mm)] / 1000
    return Limits(low_mm=low, high_mm=low + width)


def clearance_of(text: str, nominal_mm: float) -> ClearanceBand:
    """Return the clearances that a fit allows, such as H7/g6, for a nominal size.

    Raises:
        Refused: it is no fit, or not in the tables.

    Example: ``clearance_of("H7/g6", 25)`` is 0.007 to 0.041 mm.
    """
    match = _FIT.fullmatch(text)
    if match is None:
        raise Refused("fit-unreadable", f"“{text}” is no fit", remedy="write a hole and a shaft: H7/g6")
    hole = hole_limits(nominal_mm, match["hole"], int(match["hole_grade"]))
    shaft = shaft_limits(nominal_mm, match["shaft"], int(match["grade"]))
    return ClearanceBand(low_mm=hole.low_mm - shaft.high_mm, high_mm=hole.high_mm - shaft.low_mm)


def _row(nominal_mm: float) -> int:
    if not 1 <= nominal_mm <= _STEPS[-1]:
        raise Refused(
            "fit-size",
            f"the tables are for sizes from 1 to {_STEPS[-1]} mm, not {nominal_mm:.4g}",
            remedy="type a band instead",
        )
    return bisect_left(_STEPS, nominal_mm)
