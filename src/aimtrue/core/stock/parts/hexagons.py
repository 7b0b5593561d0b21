"""This module has what bolts and nuts share: chamfered hexagons, and the names of bodies and sizes."""

from __future__ import annotations

import math

from aimtrue.core.stock.parts.shapes import IntersectionShape, Shape, TurnedShape, hexagon
from aimtrue.core.stock.parts.typed import thread_size
from aimtrue.core.stock.parts.values import ThreadCutting

_CHAMFER = math.tan(math.radians(30))
"""Corners of hexagons are turned off at 30°."""


def chamfered_hexagon(across: float, low: float, high: float, *, below: bool) -> Shape:
    """A hexagon whose corners are turned off at 30° above, and below where asked for."""
    corner = across / math.sqrt(3)
    flat = 0.475 * across
    # The cone goes on past the corners, so that no edge of its own lies on them.
    past = 1.01 * corner
    down = (past - flat) * _CHAMFER
    foot = ((flat, low), (past, low + down)) if below else ((past, low),)
    profile = ((0.0, low), *foot, (past, high - down), (flat, high), (0.0, high))
    return IntersectionShape(hexagon(across, low, high), TurnedShape(profile))


def body_name(name: str, cutting: ThreadCutting) -> str:
    """Return a name that becomes a file's: of inch sizes without a slash."""
    return name.replace("/", "-") + (" threaded" if cutting.cut else "")


def nominal_diameter(size: str) -> float:
    """Return the diameter of a size of thread, such as ``M5`` or ``#10``, in mm."""
    return thread_size(size)[0].diameter
