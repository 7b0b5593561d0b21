"""This module makes pins, keys, the rings that fill circlip grooves, and ball bearings of what was typed."""

from __future__ import annotations

import math
import re

from aimtrue.core.errors import Refused
from aimtrue.core.model.lengths import written
from aimtrue.core.stock.parts.shapes import CurveRun, PrismShape, TurnedShape, box, cylinder
from aimtrue.core.stock.parts.typed import TypedPart, nearest_lengths, nearest_named, sizes
from aimtrue.core.stock.parts.values import (
    StockBody,
    StockDimension,
    StockPart,
    ThreadCutting,
    unplaced,
    upright,
    wide,
)
from aimtrue.core.stock.tables.shaft_parts import (
    BEARING_SIZES,
    BEARINGS,
    GROOVES,
    KEY_LENGTHS,
    KEY_SIZES,
    KEYS,
    PIN_LENGTHS,
    PIN_SIZES,
    PINS,
)

_PIN_TOLERANCE = (
    (3, 0.002, 0.008),
    (6, 0.004, 0.012),
    (10, 0.006, 0.015),
    (18, 0.007, 0.018),
    (30, 0.008, 0.021),
)
"""Limits of m6 up to each nominal size, in mm; ISO 286-2:2010."""
_BEARING_TOLERANCE = ((10, 0.008), (18, 0.008), (30, 0.010), (50, 0.012), (80, 0.015))
"""By how much the mean bore may be smaller, up to each size, in mm; ISO 492:2014, class Normal."""
_RING_TOLERANCE = ((18, 0.008), (30, 0.009), (50, 0.011), (80, 0.013))
"""By how much the mean outer diameter may be smaller, up to each size, in mm; ISO 492:2014, class Normal."""


def pin(typed: TypedPart, cutting: ThreadCutting) -> StockPart:
    """Return a parallel pin: ``pin 4x20``.

    Raises:
        Refused: the standard has no such diameter or length.
    """
    diameter, length = sizes(typed.rest, ("diameter", "length"), "pin 4x20")
    rows = {f"{row.diameter:g}": row for row in PIN_SIZES}
    row = next((row for row in PIN_SIZES if abs(row.diameter - diameter) < 1e-6), None)
    if row is None:
        near = nearest_named({name: row.diameter for name, row in rows.items()}, diameter)
        raise Refused("stock-size", f"{PINS} has no pin of {diameter:g} mm", remedy=f"the nearest are {near}")
    _of_series(length, PIN_LENGTHS, PINS)
    low, high = next((low, high) for to, low, high in _PIN_TOLERANCE if diameter <= to)
    r, c = diameter / 2, min(row.chamfer, length / 3)
    # The chamfer is of 15°, so it takes little off the radius.
    in_by = c * math.tan(math.radians(15))
    profile = ((0.0, 0.0), (r - in_by, 0.0), (r, c), (r, length - c), (r - in_by, length), (0.0, length))
    return StockPart(
        "pin",
        f"pin {diameter:g}x{length:g}",
        PINS,
        (
            wide("d", "diameter, m6", diameter, 0.0, low_mm=low, high_mm=high, round=True),
            upright("l", "length", length, r, 0.0),
            unplaced("c", "chamfer", row.chamfer),
        ),
        (StockBody(f"pin {diameter:g}x{length:g}", TurnedShape(profile)),),
        plan_at=length / 2,
    )


def key(typed: TypedPart, cutting: ThreadCutting) -> StockPart:
    """Return a parallel key by its width and length, ``key 5x20``, or by all, ``key 5x5x20 square``.

    Raises:
        Refused: the standard has no such section or length.
    """
    parts = len(re.findall(r"[x×*]", typed.rest, re.IGNORECASE)) + 1
    if parts == 3:
        width, height, length = sizes(typed.rest, ("width", "height", "length"), "key 5x5x20")
    else:
        width, length = sizes(typed.rest, ("width", "length"), "key 5x20")
        height = 0.0
    row = next((row for row in KEY_SIZES if abs(row.width - width) < 1e-6), None)
    if row is None or (height and abs(row.height - height) > 1e-6):
        named = {f"{row.width:g}x{row.height:g}": row.width for row in KEY_SIZES}
        shown = f"{width:g}" + (f"x{height:g}" if height else "")
        raise Refused(
            "stock-size",
            f"{KEYS} has no key of {shown}",
            remedy=f"the nearest are {nearest_named(named, width)}",
        )
    _of_series(length, KEY_LENGTHS, KEYS)
    square = "square" in typed.words
    if not square and length <= row.width:
        raise Refused(
            "stock-length", f"a key with round ends is longer than {row.width:g} mm", remedy="add square"
        )
    b, h = row.width, row.height
    shape = box(length, b, 0.0, h) if square else PrismShape(_stadium(length, b), 0.0, h)
    return StockPart(
        "key",
        f"key {b:g}x{h:g}x{length:g}{' square' if square else ''}",
        f"{KEYS}, form {'B' if square else 'A'}",
        (
            upright("b", "width, h9", b, length / 2, -b / 2, view="plan"),
            upright("h", "height", h, length / 2, 0.0),
            wide("l", "length", length, 0.0),
            StockDimension(
                letter="t1", says=f"depth in the shaft, ø {row.over:g} to {row.to:g}", mm=row.shaft_depth
            ),
            unplaced("t2", "depth in the hub", row.hub_depth),
        ),
        (StockBody(f"key {b:g}x{h:g}x{length:g}", shape),),
        plan_at=h / 2,
    )


def _stadium(length: float, width: float) -> tuple[CurveRun, ...]:
    a, r = (length - width) / 2, width / 2
    return (
        CurveRun("line", ((-a, -r), (a, -r))),
        CurveRun("arc", ((a, -r), (a + r, 0.0), (a, r))),
        CurveRun("line", ((a, r), (-a, r))),
        CurveRun("arc", ((-a, r), (-a - r, 0.0), (-a, -r))),
    )


def circlip(typed: TypedPart, cutting: ThreadCutting) -> StockPart:
    """Return the ring that fills a circlip's groove: ``circlip shaft 10``, ``circlip bore 22``.

    Raises:
        Refused: no side is told, or the standard has no such diameter.
    """
    side = next((side for side in ("shaft", "bore") if side in typed.words), None)
    if side is None:
        raise Refused(
            "stock-words",
            "a circlip's groove is around a shaft or in a bore",
            remedy="write circlip shaft 10",
        )
    (nominal,) = sizes(typed.rest, ("diameter",), f"circlip {side} 10")
    rows = {row.nominal: row for row in GROOVES if row.side == side}
    row = next((row for mm, row in rows.items() if abs(mm - nominal) < 1e-6), None)
    if row is None:
        near = nearest_named({f"{mm:g}": mm for mm in rows}, nominal)
        table = next(iter(rows.values())).table
        raise Refused(
            "stock-size", f"{table} has no {side} of {nominal:g} mm", remedy=f"the nearest are {near}"
        )
    outer, inner = max(row.nominal, row.groove), min(row.nominal, row.groove)
    m = row.width
    name = f"circlip {side} {nominal:g}"
    return StockPart(
        "circlip",
        name,
        row.table,
        (
            StockDimension(
                letter="d1",
                says=side,
                mm=row.nominal,
                round=True,
                start=(-nominal / 2, m),
                end=(nominal / 2, m),
            ),
            wide("d2", "bottom of the groove", row.groove, 0.0, round=True),
            upright("m", "width of the groove", m, outer / 2, 0.0),
        ),
        (StockBody(f"{name} groove", cylinder(outer, 0.0, m, bore=inner)),),
        notes=("the ring fills the groove: cut it from the part on Division",),
        plan_at=m / 2,
    )


def bearing(typed: TypedPart, cutting: ThreadCutting) -> StockPart:
    """Return a deep-groove ball bearing as a ring: ``bearing 608``.

    Raises:
        Refused: it is not in the series that are listed.
    """
    name = re.sub(r"(?i)[-\s]*(2rs1?|2rsh?|zz|2z|c3)$", "", typed.rest.strip())
    row = next((row for row in BEARING_SIZES if row.name == name), None)
    if row is None:
        raise Refused("stock-size", f"no bearing {name or '…'} is listed", remedy=_near_bearings(name))
    d, outer, width, c = row.bore / 2, row.outer / 2, row.width, row.chamfer
    profile = (
        (d + c, 0.0), (outer - c, 0.0), (outer, c), (outer, width - c), (outer - c, width), (d + c, width),
        (d, width - c), (d, c),
    )  # fmt: skip
    below = next(low for to, low in _BEARING_TOLERANCE if row.bore <= to)
    outside = next(low for to, low in _RING_TOLERANCE if row.outer <= to)
    return StockPart(
        "bearing",
        f"bearing {row.name}",
        f"{BEARINGS}; limits ISO 492:2014, class Normal",
        (
            wide("d", "bore", row.bore, width, low_mm=-below, high_mm=0.0, round=True),
            wide("D", "outside", row.outer, 0.0, low_mm=-outside, high_mm=0.0, round=True),
            upright("B", "width", width, outer, 0.0),
            unplaced("r", "chamfer, at least", c),
        ),
        (StockBody(f"bearing {row.name}", TurnedShape(profile)),),
        notes=("rings, cage and balls are one ring here",),
        plan_at=width / 2,
    )


def _near_bearings(name: str) -> str:
    """Name listed bearings that begin alike; else tell the series."""
    for count in (3, 2, 1):
        alike = [row.name for row in BEARING_SIZES if name and row.name.startswith(name[:count])]
        if alike:
            return f"listed are {', '.join(alike[:6])}"
    return f"listed are {', '.join(row.name for row in BEARING_SIZES[:6])} and {len(BEARING_SIZES) - 6} more"


def _of_series(length: float, series: tuple[float, ...], table: str) -> None:
    if not any(abs(length - known) < 1e-6 for known in series):
        raise Refused(
            "stock-length",
            f"{table} has no length of {written(length, 3).rstrip('0').rstrip('.')} mm",
            remedy=f"the nearest are {nearest_lengths(series, length)} mm",
        )
