"""This module holds shapes as values: what is turned, what is a prism, and what is made of others.

All in mm, Z up. The kernel builds solids of them (:mod:`aimtrue.core.stock.solids`), and
:mod:`aimtrue.core.stock.drawing` cuts them flat for a drawing, each by a way of its own.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

Vec2 = tuple[float, float]


@dataclass(frozen=True)
class TurnedShape:
    """A closed polygon of (radius, height) turned around Z; no radius is negative."""

    profile: tuple[Vec2, ...]


@dataclass(frozen=True)
class CurveRun:
    """A piece of a closed outline, from its first point to its last.

    Attributes:
        kind: ``line`` through two points; ``arc`` through three; ``spline`` smoothly through all.
        points: the pieces of an outline follow each other counter-clockwise.
    """

    kind: Literal["line", "arc", "spline"]
    points: tuple[Vec2, ...]


@dataclass(frozen=True)
class PrismShape:
    """What a closed outline sweeps along Z between two heights."""

    outline: tuple[CurveRun, ...]
    low: float
    high: float


@dataclass(frozen=True)
class ThreadedRod:
    """A 60° thread with its core, cut square at two heights.

    Attributes:
        diameter, pitch: of the thread, in mm.
        internal: whether it is the space in a nut, and has the profile of one.
        low, high: its ends.
        play: by how much it is wider (internal) or thinner in diameter, in mm.
        left: whether it is left-hand.
    """

    diameter: float
    pitch: float
    internal: bool
    low: float
    high: float
    play: float = 0.0
    left: bool = False


@dataclass(frozen=True)
class UnionShape:
    """Several shapes as one."""

    parts: tuple[Shape, ...]


@dataclass(frozen=True)
class DifferenceShape:
    """A shape with others cut away."""

    whole: Shape
    away: tuple[Shape, ...]


@dataclass(frozen=True)
class IntersectionShape:
    """What two shapes have in common."""

    first: Shape
    second: Shape


@dataclass(frozen=True)
class TranslatedShape:
    """A shape, moved."""

    shape: Shape
    by: tuple[float, float, float]


Shape = (
    TurnedShape
    | PrismShape
    | ThreadedRod
    | UnionShape
    | DifferenceShape
    | IntersectionShape
    | TranslatedShape
)


def cylinder(diameter: float, low: float, high: float, *, bore: float = 0.0) -> TurnedShape:
    """Return a cylinder about Z, or a ring where it has a bore."""
    inner, outer = bore / 2, diameter / 2
    return TurnedShape(((inner, low), (outer, low), (outer, high), (inner, high)))


def polygon(points: tuple[Vec2, ...]) -> tuple[CurveRun, ...]:
    """Return a closed outline of straight runs through points."""
    return tuple(CurveRun("line", (a, b)) for a, b in zip(points, points[1:] + points[:1], strict=True))


def box(x: float, y: float, low: float, high: float) -> PrismShape:
    """Return a block in the middle of X and Y."""
    return PrismShape(
        polygon(((-x / 2, -y / 2), (x / 2, -y / 2), (x / 2, y / 2), (-x / 2, y / 2))), low, high
    )


def hexagon(across: float, low: float, high: float) -> PrismShape:
    """Return a hexagonal prism of a width across flats, two corners on X."""
    radius = across / math.sqrt(3)
    turns = (math.radians(60 * step) for step in range(6))
    return PrismShape(
        polygon(tuple((radius * math.cos(turn), radius * math.sin(turn)) for turn in turns)), low, high
    )


def rounded(x: float, y: float, radius: float, low: float, high: float) -> PrismShape:
    """Return a block in the middle of X and Y whose upright edges are rounded; sharp where the radius is
    0.
    """
    if radius <= 0:
        return box(x, y, low, high)
    runs: list[CurveRun] = []
    a, b, r = x / 2 - radius, y / 2 - radius, radius
    corners = (((a, -b), -90.0), ((a, b), 0.0), ((-a, b), 90.0), ((-a, -b), 180.0))
    arcs = [
        tuple(
            (cx + r * math.cos(math.radians(start + part)), cy + r * math.sin(math.radians(start + part)))
            for part in (0, 45, 90)
        )
        for (cx, cy), start in corners
    ]
    for arc, following in zip(arcs, arcs[1:] + arcs[:1], strict=True):
        runs.append(CurveRun("arc", arc))
        if math.dist(arc[-1], following[0]) > 1e-9:
            runs.append(CurveRun("line", (arc[-1], following[0])))
    return PrismShape(tuple(runs), low, high)
