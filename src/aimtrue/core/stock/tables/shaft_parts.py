"""This module lists what goes onto, into and around shafts: pins, keys, circlip grooves, ball bearings."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

PINS = "ISO 2338:1997"
KEYS = "DIN 6885-1:1968"
CIRCLIPS_ON_SHAFTS = "DIN 471:2011"
CIRCLIPS_IN_BORES = "DIN 472:2017"
BEARINGS = "ISO 15:2017"


@dataclass(frozen=True)
class PinSize:
    """A parallel pin, in mm: its diameter and its chamfers."""

    diameter: float
    chamfer: float


@dataclass(frozen=True)
class KeySize:
    """A parallel key, in mm.

    Attributes:
        width, height: b and h.
        over, to: the shaft diameters that it is for.
        shaft_depth, hub_depth: t1 and t2 of the keyways.
    """

    width: float
    height: float
    over: float
    to: float
    shaft_depth: float
    hub_depth: float


@dataclass(frozen=True)
class GrooveSize:
    """The groove of a circlip, in mm.

    Attributes:
        side: around a shaft, or in a bore.
        nominal: the diameter of the shaft or the bore.
        groove: the diameter at the bottom of the groove.
        width: m of the groove.
        table: the standard and its edition.
    """

    side: Literal["shaft", "bore"]
    nominal: float
    groove: float
    width: float
    table: str


@dataclass(frozen=True)
class BearingSize:
    """A deep-groove ball bearing, in mm: bore, outer diameter, width, least chamfer."""

    name: str
    bore: float
    outer: float
    width: float
    chamfer: float


PIN_SIZES: tuple[PinSize, ...] = tuple(
    PinSize(diameter, chamfer)
    for diameter, chamfer in (
        (1, 0.2), (1.2, 0.25), (1.5, 0.3), (2, 0.35), (2.5, 0.4), (3, 0.5), (4, 0.63), (5, 0.8), (6, 1.2),
        (8, 1.6), (10, 2.0), (12, 2.5), (16, 3.0), (20, 3.5),
    )
)  # fmt: skip
PIN_LENGTHS: tuple[float, ...] = (
    2, 3, 4, 5, 6, 8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 30, 32, 35, 40, 45, 50, 55, 60, 65, 70, 75, 80,
    85, 90, 95, 100,
)  # fmt: skip

KEY_SIZES: tuple[KeySize, ...] = tuple(
    KeySize(*row)
    for row in (
        (2, 2, 6, 8, 1.2, 1.0),
        (3, 3, 8, 10, 1.8, 1.4),
        (4, 4, 10, 12, 2.5, 1.8),
        (5, 5, 12, 17, 3.0, 2.3),
        (6, 6, 17, 22, 3.5, 2.8),
        (8, 7, 22, 30, 4.0, 3.3),
        (10, 8, 30, 38, 5.0, 3.3),
        (12, 8, 38, 44, 5.0, 3.3),
        (14, 9, 44, 50, 5.5, 3.8),
        (16, 10, 50, 58, 6.0, 4.3),
        (18, 11, 58, 65, 7.0, 4.4),
        (20, 12, 65, 75, 7.5, 4.9),
        (22, 14, 75, 85, 9.0, 5.4),
    )
)
KEY_LENGTHS: tuple[float, ...] = (
    6, 8, 10, 12, 14, 16, 18, 20, 22, 25, 28, 32, 36, 40, 45, 50, 56, 63, 70, 80, 90, 100, 110, 125, 140,
)  # fmt: skip

_ON_SHAFTS: tuple[tuple[float, float, float], ...] = (
    (6, 5.7, 0.8), (8, 7.6, 0.9), (10, 9.6, 1.1), (12, 11.5, 1.1), (14, 13.4, 1.1), (15, 14.3, 1.1),
    (16, 15.2, 1.1), (17, 16.2, 1.1), (18, 17.0, 1.3), (20, 19.0, 1.3), (22, 21.0, 1.3), (25, 23.9, 1.3),
    (28, 26.6, 1.6), (30, 28.6, 1.6), (35, 33.0, 1.6), (40, 37.5, 1.85), (45, 42.5, 1.85), (50, 47.0, 2.15),
)  # fmt: skip
_IN_BORES: tuple[tuple[float, float, float], ...] = (
    (8, 8.4, 0.9), (10, 10.4, 1.1), (12, 12.5, 1.1), (14, 14.6, 1.1), (15, 15.7, 1.1), (16, 16.8, 1.1),
    (18, 19.0, 1.1), (19, 20.0, 1.1), (20, 21.0, 1.1), (22, 23.0, 1.1), (24, 25.2, 1.3), (26, 27.2, 1.3),
    (28, 29.4, 1.3), (30, 31.4, 1.3), (32, 33.7, 1.3), (35, 37.0, 1.6), (40, 42.5, 1.85), (42, 44.5, 1.85),
    (47, 49.5, 1.85), (52, 55.0, 2.15), (62, 65.0, 2.15),
)  # fmt: skip
GROOVES: tuple[GrooveSize, ...] = (
    *(GrooveSize("shaft", *row, CIRCLIPS_ON_SHAFTS) for row in _ON_SHAFTS),
    *(GrooveSize("bore", *row, CIRCLIPS_IN_BORES) for row in _IN_BORES),
)

BEARING_SIZES: tuple[BearingSize, ...] = tuple(
    BearingSize(str(row[0]), *row[1:])
    for row in (
        (623, 3, 10, 4, 0.15), (624, 4, 13, 5, 0.2), (625, 5, 16, 5, 0.3), (626, 6, 19, 6, 0.3),
        (607, 7, 19, 6, 0.3), (608, 8, 22, 7, 0.3), (609, 9, 24, 7, 0.3),
        (683, 3, 7, 2, 0.1), (684, 4, 9, 2.5, 0.1), (685, 5, 11, 3, 0.15), (686, 6, 13, 3.5, 0.15),
        (687, 7, 14, 3.5, 0.15), (688, 8, 16, 4, 0.2), (689, 9, 17, 4, 0.2),
        (6000, 10, 26, 8, 0.3), (6001, 12, 28, 8, 0.3), (6002, 15, 32, 9, 0.3), (6003, 17, 35, 10, 0.3),
        (6004, 20, 42, 12, 0.6), (6005, 25, 47, 12, 0.6), (6006, 30, 55, 13, 1.0),
        (6200, 10, 30, 9, 0.6), (6201, 12, 32, 10, 0.6), (6202, 15, 35, 11, 0.6), (6203, 17, 40, 12, 0.6),
        (6204, 20, 47, 14, 1.0), (6205, 25, 52, 15, 1.0), (6206, 30, 62, 16, 1.0),
        (6300, 10, 35, 11, 0.6), (6301, 12, 37, 12, 1.0), (6302, 15, 42, 13, 1.0), (6303, 17, 47, 14, 1.0),
        (6304, 20, 52, 15, 1.1), (6305, 25, 62, 17, 1.1), (6306, 30, 72, 19, 1.1),
        (61800, 10, 19, 5, 0.3), (61801, 12, 21, 5, 0.3), (61802, 15, 24, 5, 0.3), (61803, 17, 26, 5, 0.3),
        (61804, 20, 32, 7, 0.3), (61805, 25, 37, 7, 0.3), (61806, 30, 42, 7, 0.3),
        (61900, 10, 22, 6, 0.3), (61901, 12, 24, 6, 0.3), (61902, 15, 28, 7, 0.3), (61903, 17, 30, 7, 0.3),
        (61904, 20, 37, 9, 0.3), (61905, 25, 42, 9, 0.3), (61906, 30, 47, 9, 0.3),
    )
)  # fmt: skip
"""Rows of series 618, 619, 60, 62 and 63, and the small bearings that count in one figure; by bore."""
