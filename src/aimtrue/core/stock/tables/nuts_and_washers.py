"""This module lists nuts, washers and heat-set inserts."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from aimtrue.core.model.threads import INCH

NutKind = Literal["hex", "lock", "square"]
NUT_KINDS: tuple[NutKind, ...] = ("hex", "lock", "square")


@dataclass(frozen=True)
class NutSize:
    """A nut, in mm: its width across flats and its height.

    Attributes:
        kind: hexagon, hexagon with an insert that locks, or square.
        size: of its thread.
        across: s.
        height: m, or h of one that locks.
        table: the standard and its edition.
    """

    kind: NutKind
    size: str
    across: float
    height: float
    table: str


@dataclass(frozen=True)
class WasherSize:
    """A washer, in mm: hole, outer diameter, thickness.

    Attributes:
        size: of the bolt that it is for.
        hole, outer, thickness: d1, d2 and h.
        large: whether it is of the large series.
        table: the standard and its edition.
    """

    size: str
    hole: float
    outer: float
    thickness: float
    large: bool
    table: str


@dataclass(frozen=True)
class InsertSize:
    """A heat-set insert, in mm: outer diameter, length, and the hole that it is set into."""

    size: str
    outer: float
    length: float
    hole: float
    table: str


_NUT_ROWS: tuple[tuple[str, float, float], ...] = (
    ("M1.6", 3.2, 1.3),
    ("M2", 4, 1.6),
    ("M2.5", 5, 2.0),
    ("M3", 5.5, 2.4),
    ("M4", 7, 3.2),
    ("M5", 8, 4.7),
    ("M6", 10, 5.2),
    ("M8", 13, 6.8),
    ("M10", 16, 8.4),
    ("M12", 18, 10.8),
    ("M16", 24, 14.8),
    ("M20", 30, 18.0),
    ("M24", 36, 21.5),
)
_LOCK_ROWS: tuple[tuple[str, float, float], ...] = (
    ("M3", 5.5, 4.5),
    ("M4", 7, 6.0),
    ("M5", 8, 6.8),
    ("M6", 10, 8.0),
    ("M8", 13, 9.5),
    ("M10", 16, 11.9),
    ("M12", 18, 14.9),
    ("M16", 24, 19.1),
    ("M20", 30, 22.8),
    ("M24", 36, 27.1),
)
_SQUARE_ROWS: tuple[tuple[str, float, float], ...] = (
    ("M1.6", 3.2, 1.0),
    ("M2", 4, 1.2),
    ("M2.5", 5, 1.6),
    ("M3", 5.5, 1.8),
    ("M4", 7, 2.2),
    ("M5", 8, 2.7),
    ("M6", 10, 3.2),
    ("M8", 13, 4.0),
)
_INCH_NUT_ROWS: tuple[tuple[str, float, float, str], ...] = (
    ("#2", 3 / 16, 0.066, "ASME B18.6.3-2013"),
    ("#4", 1 / 4, 0.098, "ASME B18.6.3-2013"),
    ("#6", 5 / 16, 0.114, "ASME B18.6.3-2013"),
    ("#8", 11 / 32, 0.130, "ASME B18.6.3-2013"),
    ("#10", 3 / 8, 0.130, "ASME B18.6.3-2013"),
    ("1/4", 7 / 16, 0.226, "ASME B18.2.2-2015"),
    ("5/16", 1 / 2, 0.273, "ASME B18.2.2-2015"),
    ("3/8", 9 / 16, 0.337, "ASME B18.2.2-2015"),
    ("7/16", 11 / 16, 0.385, "ASME B18.2.2-2015"),
    ("1/2", 3 / 4, 0.448, "ASME B18.2.2-2015"),
)
_INCH_LOCK_ROWS: tuple[tuple[str, float, float], ...] = (
    ("1/4", 7 / 16, 0.328),
    ("5/16", 1 / 2, 0.359),
    ("3/8", 9 / 16, 0.468),
    ("1/2", 3 / 4, 0.609),
)
_INCH_SQUARE_ROWS: tuple[tuple[str, float, float, str], ...] = (
    ("#2", 3 / 16, 0.066, "ASME B18.6.3-2013"),
    ("#4", 1 / 4, 0.098, "ASME B18.6.3-2013"),
    ("#6", 5 / 16, 0.114, "ASME B18.6.3-2013"),
    ("#8", 11 / 32, 0.130, "ASME B18.6.3-2013"),
    ("#10", 3 / 8, 0.130, "ASME B18.6.3-2013"),
    ("1/4", 7 / 16, 0.235, "ASME B18.2.2-2015"),
    ("5/16", 9 / 16, 0.283, "ASME B18.2.2-2015"),
    ("3/8", 5 / 8, 0.346, "ASME B18.2.2-2015"),
    ("1/2", 13 / 16, 0.458, "ASME B18.2.2-2015"),
)

NUTS: tuple[NutSize, ...] = (
    *(NutSize("hex", size, s, m, "ISO 4032:2012") for size, s, m in _NUT_ROWS),
    *(NutSize("lock", size, s, h, "ISO 7040:2012") for size, s, h in _LOCK_ROWS),
    *(NutSize("square", size, s, m, "DIN 562:2000") for size, s, m in _SQUARE_ROWS),
    *(NutSize("hex", size, s * INCH, m * INCH, table) for size, s, m, table in _INCH_NUT_ROWS),
    *(NutSize("lock", size, s * INCH, h * INCH, "ASME B18.16.6-2017") for size, s, h in _INCH_LOCK_ROWS),
    *(NutSize("square", size, s * INCH, m * INCH, table) for size, s, m, table in _INCH_SQUARE_ROWS),
)

_WASHER_ROWS: tuple[tuple[str, float, float, float], ...] = (
    ("M1.6", 1.7, 4, 0.3),
    ("M2", 2.2, 5, 0.3),
    ("M2.5", 2.7, 6, 0.5),
    ("M3", 3.2, 7, 0.5),
    ("M4", 4.3, 9, 0.8),
    ("M5", 5.3, 10, 1.0),
    ("M6", 6.4, 12, 1.6),
    ("M8", 8.4, 16, 1.6),
    ("M10", 10.5, 20, 2.0),
    ("M12", 13, 24, 2.5),
    ("M16", 17, 30, 3.0),
    ("M20", 21, 37, 3.0),
    ("M24", 25, 44, 4.0),
)
_LARGE_WASHER_ROWS: tuple[tuple[str, float, float, float], ...] = (
    ("M3", 3.2, 9, 0.8),
    ("M4", 4.3, 12, 1.0),
    ("M5", 5.3, 15, 1.0),
    ("M6", 6.4, 18, 1.6),
    ("M8", 8.4, 24, 2.0),
    ("M10", 10.5, 30, 2.5),
    ("M12", 13, 37, 3.0),
    ("M16", 17, 50, 3.0),
)
_INCH_WASHER_ROWS: tuple[tuple[str, float, float, float], ...] = (
    ("#2", 0.094, 0.250, 0.020),
    ("#4", 0.125, 0.312, 0.032),
    ("#6", 0.156, 0.375, 0.049),
    ("#8", 0.188, 0.438, 0.049),
    ("#10", 0.219, 0.500, 0.049),
    ("1/4", 0.281, 0.625, 0.065),
    ("5/16", 0.344, 0.688, 0.065),
    ("3/8", 0.406, 0.812, 0.065),
    ("7/16", 0.469, 0.922, 0.065),
    ("1/2", 0.531, 1.062, 0.095),
)

WASHERS: tuple[WasherSize, ...] = (
    *(WasherSize(size, d1, d2, h, False, "ISO 7089:2000") for size, d1, d2, h in _WASHER_ROWS),
    *(WasherSize(size, d1, d2, h, True, "ISO 7093-1:2000") for size, d1, d2, h in _LARGE_WASHER_ROWS),
    *(
        WasherSize(size, d1 * INCH, d2 * INCH, h * INCH, False, "ASME B18.21.1-2009")
        for size, d1, d2, h in _INCH_WASHER_ROWS
    ),
)

NO_STANDARD = "no standard: usual dimensions, measure yours"

INSERTS: tuple[InsertSize, ...] = (
    InsertSize("M2", 3.6, 4.0, 3.2, NO_STANDARD),
    InsertSize("M2.5", 4.6, 5.7, 4.0, NO_STANDARD),
    InsertSize("M3", 4.6, 5.7, 4.0, NO_STANDARD),
    InsertSize("M4", 6.3, 8.1, 5.6, NO_STANDARD),
    InsertSize("M5", 7.1, 9.5, 6.4, NO_STANDARD),
    InsertSize("M6", 8.7, 12.7, 8.0, NO_STANDARD),
    InsertSize("M8", 10.1, 12.7, 9.6, NO_STANDARD),
)
"""Heat-set inserts have no standard: these are starting values, and dimensions can be typed over them."""
