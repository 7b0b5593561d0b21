"""This module makes rods, tubes, blocks and angles of what was typed; they have no standard but their
numbers.
"""

from __future__ import annotations

from aimtrue.core.errors import Refused
from aimtrue.core.stock.parts.shapes import PrismShape, box, cylinder, polygon
from aimtrue.core.stock.parts.typed import TypedPart, exact, sizes
from aimtrue.core.stock.parts.values import (
    StockBody,
    StockPart,
    ThreadCutting,
    level,
    unplaced,
    upright,
    wide,
)

AS_TYPED = "no standard: as typed"


def rod(typed: TypedPart, cutting: ThreadCutting) -> StockPart:
    """Return a rod by its diameter and length: ``rod 8x40``."""
    diameter, length = sizes(typed.rest, ("diameter", "length"), "rod 8x40")
    r = diameter / 2
    name = f"rod {exact(diameter)}x{exact(length)}"
    return StockPart(
        "rod",
        name,
        AS_TYPED,
        (
            wide("d", "diameter", diameter, 0.0, round=True),
            upright("l", "length", length, r, 0.0),
        ),
        (StockBody(name, cylinder(diameter, 0.0, length)),),
        plan_at=length / 2,
    )


def tube(typed: TypedPart, cutting: ThreadCutting) -> StockPart:
    """Return a tube by its outer and inner diameter and its length: ``tube 140.3 x 136 x 60``.

    Raises:
        Refused: the inner diameter is not below the outer one.
    """
    outer, inner, length = sizes(typed.rest, ("outside", "inside", "length"), "tube 140.3 x 136 x 60")
    if inner >= outer:
        raise Refused(
            "stock-wall",
            f"a tube of {outer:g} mm outside and {inner:g} mm inside has no wall",
            remedy="the inner diameter is below the outer one: tube 140.3 x 136 x 60",
        )
    a = outer / 2
    name = f"tube {exact(outer)}x{exact(inner)}x{exact(length)}"
    return StockPart(
        "tube",
        name,
        AS_TYPED,
        (
            wide("D", "outside", outer, 0.0, round=True),
            wide("d", "inside", inner, length, round=True),
            upright("l", "length", length, a, 0.0),
            unplaced("", "wall", (outer - inner) / 2),
        ),
        (StockBody(name, cylinder(outer, 0.0, length, bore=inner)),),
        plan_at=length / 2,
    )


def block(typed: TypedPart, cutting: ThreadCutting) -> StockPart:
    """Return a block by its three sizes: ``block 40x20x10``."""
    x, y, z = sizes(typed.rest, ("X", "Y", "Z"), "block 40x20x10")
    name = f"block {exact(x)}x{exact(y)}x{exact(z)}"
    return StockPart(
        "block",
        name,
        AS_TYPED,
        (
            wide("X", "along X", x, 0.0),
            upright("Y", "along Y", y, x / 2, -y / 2, view="plan"),
            upright("Z", "along Z", z, x / 2, 0.0),
        ),
        (StockBody(name, box(x, y, 0.0, z)),),
        plan_at=z / 2,
    )


def angle(typed: TypedPart, cutting: ThreadCutting) -> StockPart:
    """Return an angle by its legs, its thickness and its length: ``angle 20x20x3x100``.

    Raises:
        Refused: it is as thick as a leg.
    """
    a, b, t, length = sizes(typed.rest, ("leg", "leg", "thickness", "length"), "angle 20x20x3x100")
    if t >= min(a, b):
        raise Refused(
            "stock-wall",
            f"an angle with legs of {a:g} and {b:g} mm cannot be {t:g} mm thick",
            remedy="the thickness is below both legs",
        )
    corners = ((0.0, 0.0), (a, 0.0), (a, t), (t, t), (t, b), (0.0, b))
    name = f"angle {exact(a)}x{exact(b)}x{exact(t)}x{exact(length)}"
    return StockPart(
        "angle",
        name,
        AS_TYPED,
        (
            level("a", "leg along X", a, 0.0, 0.0, view="plan"),
            upright("b", "leg along Y", b, a, 0.0, view="plan"),
            upright("t", "thickness", t, a, 0.0, view="plan"),
            upright("l", "length", length, a, 0.0),
        ),
        (StockBody(name, PrismShape(polygon(corners), 0.0, length)),),
        plan_at=length / 2,
    )
