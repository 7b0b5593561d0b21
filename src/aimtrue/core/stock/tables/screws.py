"""This module lists the heads and lengths of bolts and screws: hexagon, socket, countersunk and button.

Metric rows are in mm, inch rows in inches; :class:`ScrewHead` has mm of both.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from aimtrue.core.model.threads import INCH

HeadKind = Literal["hex", "socket", "countersunk", "button"]
HEAD_KINDS: tuple[HeadKind, ...] = ("hex", "socket", "countersunk", "button")


@dataclass(frozen=True)
class ScrewHead:
    """The head of a bolt or a screw, in mm.

    Attributes:
        kind: its shape.
        size: of the thread that it belongs to, ``M5`` or ``#10``.
        across: its diameter; of a hexagon the width across flats; of a countersunk one the theoretical, sharp
            diameter.
        height: k.
        key: the width across flats of the key; of a hexagon of the spanner.
        socket: the depth of the socket; 0 of a hexagon.
        angle_deg: of a countersunk one; else 0.
        table: the standard and its edition.
        lengths: the least and the greatest nominal length that the standard has.
    """

    kind: HeadKind
    size: str
    across: float
    height: float
    key: float
    socket: float
    angle_deg: float
    table: str
    lengths: tuple[float, float]


_HEX = "ISO 4017:2022"
_SOCKET = "ISO 4762:2004"
_COUNTERSUNK = "ISO 10642:2019"
_BUTTON = "ISO 7380-1:2022"
_INCH_HEX = "ASME B18.2.1-2012"
_INCH_SMALL_HEX = "ASME B18.6.3-2013"
_INCH_SOCKET = "ASME B18.3-2012"

_HEX_ROWS: tuple[tuple[str, float, float, float, float], ...] = (
    ("M1.6", 3.2, 1.1, 2, 16),
    ("M2", 4, 1.4, 4, 20),
    ("M2.5", 5, 1.7, 5, 25),
    ("M3", 5.5, 2.0, 6, 30),
    ("M4", 7, 2.8, 8, 40),
    ("M5", 8, 3.5, 10, 50),
    ("M6", 10, 4.0, 12, 60),
    ("M8", 13, 5.3, 16, 80),
    ("M10", 16, 6.4, 20, 100),
    ("M12", 18, 7.5, 25, 120),
    ("M16", 24, 10.0, 30, 200),
    ("M20", 30, 12.5, 40, 200),
    ("M24", 36, 15.0, 50, 200),
)
"""Size, s, k, lengths from and to."""

_SOCKET_ROWS: tuple[tuple[str, float, float, float, float, float], ...] = (
    ("M1.6", 3.0, 1.5, 0.7, 2.5, 16),
    ("M2", 3.8, 1.5, 1.0, 3, 20),
    ("M2.5", 4.5, 2.0, 1.1, 4, 25),
    ("M3", 5.5, 2.5, 1.3, 5, 30),
    ("M4", 7.0, 3.0, 2.0, 6, 40),
    ("M5", 8.5, 4.0, 2.5, 8, 50),
    ("M6", 10.0, 5.0, 3.0, 10, 60),
    ("M8", 13.0, 6.0, 4.0, 12, 80),
    ("M10", 16.0, 8.0, 5.0, 16, 100),
    ("M12", 18.0, 10.0, 6.0, 20, 120),
    ("M16", 24.0, 14.0, 8.0, 25, 160),
    ("M20", 30.0, 17.0, 10.0, 30, 200),
    ("M24", 36.0, 19.0, 12.0, 40, 200),
)
"""Size, dk, s, t, lengths from and to; k is the nominal diameter."""

_COUNTERSUNK_ROWS: tuple[tuple[str, float, float, float, float, float, float], ...] = (
    ("M3", 6.72, 1.86, 2.0, 1.1, 8, 30),
    ("M4", 8.96, 2.48, 2.5, 1.5, 8, 40),
    ("M5", 11.20, 3.10, 3.0, 1.9, 8, 50),
    ("M6", 13.44, 3.72, 4.0, 2.2, 8, 60),
    ("M8", 17.92, 4.96, 5.0, 3.0, 10, 80),
    ("M10", 22.40, 6.20, 6.0, 3.6, 12, 100),
    ("M12", 26.88, 7.44, 8.0, 4.3, 20, 100),
    ("M16", 33.60, 8.80, 10.0, 4.8, 30, 100),
    ("M20", 40.32, 10.16, 12.0, 5.6, 35, 100),
)
"""Size, theoretical dk, k, s, t, lengths from and to; 90°."""

_BUTTON_ROWS: tuple[tuple[str, float, float, float, float, float, float], ...] = (
    ("M3", 5.7, 1.65, 2.0, 1.04, 6, 30),
    ("M4", 7.6, 2.20, 2.5, 1.30, 8, 40),
    ("M5", 9.5, 2.75, 3.0, 1.56, 10, 50),
    ("M6", 10.5, 3.30, 4.0, 2.08, 10, 60),
    ("M8", 14.0, 4.40, 5.0, 2.60, 10, 80),
    ("M10", 17.5, 5.50, 6.0, 3.12, 16, 90),
    ("M12", 21.0, 6.60, 8.0, 4.16, 16, 90),
    ("M16", 28.0, 8.80, 10.0, 5.20, 20, 90),
)
"""Size, dk, k, s, t, lengths from and to."""

_INCH_HEX_ROWS: tuple[tuple[str, float, float, str], ...] = (
    ("#2", 0.125, 0.050, _INCH_SMALL_HEX),
    ("#4", 0.188, 0.060, _INCH_SMALL_HEX),
    ("#6", 0.250, 0.093, _INCH_SMALL_HEX),
    ("#8", 0.250, 0.110, _INCH_SMALL_HEX),
    ("#10", 0.312, 0.120, _INCH_SMALL_HEX),
    ("1/4", 0.4375, 0.163, _INCH_HEX),
    ("5/16", 0.500, 0.211, _INCH_HEX),
    ("3/8", 0.5625, 0.243, _INCH_HEX),
    ("7/16", 0.625, 0.291, _INCH_HEX),
    ("1/2", 0.750, 0.323, _INCH_HEX),
)
"""Size, width across flats, height, standard."""

_INCH_SOCKET_ROWS: tuple[tuple[str, float, float, float], ...] = (
    ("#2", 0.140, 5 / 64, 0.038),
    ("#4", 0.183, 3 / 32, 0.051),
    ("#6", 0.226, 7 / 64, 0.064),
    ("#8", 0.270, 9 / 64, 0.077),
    ("#10", 0.312, 5 / 32, 0.090),
    ("1/4", 0.375, 3 / 16, 0.120),
    ("5/16", 0.469, 1 / 4, 0.151),
    ("3/8", 0.562, 5 / 16, 0.182),
    ("7/16", 0.656, 3 / 8, 0.213),
    ("1/2", 0.750, 3 / 8, 0.245),
)
"""Size, head diameter, key, depth; the height is the nominal diameter."""

_INCH_COUNTERSUNK_ROWS: tuple[tuple[str, float, float, float, float], ...] = (
    ("#2", 0.197, 0.064, 0.050, 0.038),
    ("#4", 0.255, 0.083, 1 / 16, 0.055),
    ("#6", 0.307, 0.097, 5 / 64, 0.066),
    ("#8", 0.359, 0.112, 3 / 32, 0.076),
    ("#10", 0.411, 0.127, 1 / 8, 0.087),
    ("1/4", 0.531, 0.161, 5 / 32, 0.111),
    ("5/16", 0.656, 0.198, 3 / 16, 0.135),
    ("3/8", 0.781, 0.234, 7 / 32, 0.159),
    ("1/2", 0.938, 0.251, 5 / 16, 0.172),
)
"""Size, theoretical head diameter, height, key, depth; 82°."""

_INCH_BUTTON_ROWS: tuple[tuple[str, float, float, float, float], ...] = (
    ("#2", 0.164, 0.046, 0.050, 0.028),
    ("#4", 0.213, 0.059, 1 / 16, 0.035),
    ("#6", 0.262, 0.073, 5 / 64, 0.044),
    ("#8", 0.312, 0.087, 3 / 32, 0.052),
    ("#10", 0.361, 0.101, 1 / 8, 0.070),
    ("1/4", 0.437, 0.132, 5 / 32, 0.087),
    ("5/16", 0.547, 0.166, 3 / 16, 0.105),
    ("3/8", 0.656, 0.199, 7 / 32, 0.122),
    ("1/2", 0.875, 0.265, 5 / 16, 0.175),
)
"""Size, head diameter, height, key, depth."""

INCH_DIAMETERS = {
    "#2": 0.086,
    "#4": 0.112,
    "#6": 0.138,
    "#8": 0.164,
    "#10": 0.190,
    "1/4": 0.25,
    "5/16": 0.3125,
    "3/8": 0.375,
    "7/16": 0.4375,
    "1/2": 0.5,
}
_INCH_LENGTHS = (0.125 * INCH, 4 * INCH)


def _metric() -> list[ScrewHead]:
    heads = [ScrewHead("hex", size, s, k, s, 0, 0, _HEX, (a, b)) for size, s, k, a, b in _HEX_ROWS]
    heads += [
        ScrewHead("socket", size, dk, float(size[1:]), s, t, 0, _SOCKET, (a, b))
        for size, dk, s, t, a, b in _SOCKET_ROWS
    ]
    heads += [
        ScrewHead("countersunk", size, dk, k, s, t, 90, _COUNTERSUNK, (a, b))
        for size, dk, k, s, t, a, b in _COUNTERSUNK_ROWS
    ]
    heads += [
        ScrewHead("button", size, dk, k, s, t, 0, _BUTTON, (a, b)) for size, dk, k, s, t, a, b in _BUTTON_ROWS
    ]
    return heads


def _inch() -> list[ScrewHead]:
    per = INCH
    heads = [
        ScrewHead("hex", size, f * per, h * per, f * per, 0, 0, table, _INCH_LENGTHS)
        for size, f, h, table in _INCH_HEX_ROWS
    ]
    heads += [
        ScrewHead(
            "socket",
            size,
            a * per,
            INCH_DIAMETERS[size] * per,
            j * per,
            t * per,
            0,
            _INCH_SOCKET,
            _INCH_LENGTHS,
        )
        for size, a, j, t in _INCH_SOCKET_ROWS
    ]
    heads += [
        ScrewHead("countersunk", size, a * per, h * per, j * per, t * per, 82, _INCH_SOCKET, _INCH_LENGTHS)
        for size, a, h, j, t in _INCH_COUNTERSUNK_ROWS
    ]
    heads += [
        ScrewHead("button", size, a * per, h * per, j * per, t * per, 0, _INCH_SOCKET, _INCH_LENGTHS)
        for size, a, h, j, t in _INCH_BUTTON_ROWS
    ]
    return heads


HEADS: tuple[ScrewHead, ...] = (*_metric(), *_inch())

METRIC_LENGTHS: tuple[float, ...] = (
    2, 2.5, 3, 4, 5, 6, 8, 10, 12, 16, 20, 25, 30, 35, 40, 45, 50, 55, 60, 65, 70, 80, 90, 100, 110, 120,
    130, 140, 150, 160, 180, 200,
)  # fmt: skip
"""Nominal lengths of bolts and screws in mm; ISO 888:2012."""
INCH_LENGTHS: tuple[float, ...] = tuple(
    inches * INCH
    for inches in (
        1 / 8, 3 / 16, 1 / 4, 5 / 16, 3 / 8, 7 / 16, 1 / 2, 5 / 8, 3 / 4, 7 / 8, 1, 1.25, 1.5, 1.75, 2, 2.25,
        2.5, 2.75, 3, 3.25, 3.5, 3.75, 4,
    )
)  # fmt: skip
"""Nominal lengths of inch bolts and screws, in mm; ASME B18.3, table 1."""
