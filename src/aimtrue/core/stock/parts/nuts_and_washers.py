"""This module makes nuts, washers and heat-set inserts of what was typed; they stand on Z = 0."""

from __future__ import annotations

from aimtrue.core.errors import Refused
from aimtrue.core.model.lengths import parse_length
from aimtrue.core.model.threads import ThreadSize
from aimtrue.core.stock.parts.hexagons import body_name, chamfered_hexagon, nominal_diameter
from aimtrue.core.stock.parts.shapes import DifferenceShape, Shape, ThreadedRod, TurnedShape, box, cylinder
from aimtrue.core.stock.parts.thread_notes import thread_notes
from aimtrue.core.stock.parts.typed import TypedPart, factors, nearest_named, thread_size
from aimtrue.core.stock.parts.values import (
    StockBody,
    StockDimension,
    StockPart,
    StockThread,
    ThreadCutting,
    unplaced,
    upright,
    wide,
)
from aimtrue.core.stock.tables.nuts_and_washers import INSERTS, NUTS, WASHERS, InsertSize, NutSize

NUT_WORDS = {"hex": "hex", "lock": "lock", "square": "square"}


def nut(typed: TypedPart, cutting: ThreadCutting) -> StockPart:
    """Return a nut: ``nut M6``, ``nut M5 lock``, ``nut #10 square``.

    Raises:
        Refused: no standard has it; the nearest sizes are named.
    """
    size, after = thread_size(typed.rest)
    kind = next((NUT_WORDS[word] for word in typed.words if word in NUT_WORDS), "hex")
    _nothing_left(after, f"nut {size.name}")
    row = _nut_of(kind, size)
    m = row.height
    outside = (
        box(row.across, row.across, 0.0, m)
        if kind == "square"
        else chamfered_hexagon(row.across, 0.0, m, below=True)
    )
    away: tuple[Shape, ...]
    if cutting.cut:
        away = (
            ThreadedRod(size.diameter, size.pitch, True, -size.pitch, m + size.pitch, cutting.clearance_mm),
        )
    else:
        away = (_plain_bore(size, m),)
    name = f"nut {size.name} {kind}"
    return StockPart(
        "nut",
        name,
        f"{row.table}; thread {size.table}",
        _nut_dimensions(row, size),
        (StockBody(body_name(f"{size.name} {kind} nut", cutting), DifferenceShape(outside, away)),),
        StockThread(size.name, size.diameter, size.pitch, True, 0.0, m, size.table),
        cutting.cut,
        thread_notes(size, cutting),
        plan_at=m / 2,
    )


def nut_size(kind: str, size: ThreadSize) -> NutSize | None:
    """Return the nut of a kind for a thread; None where no standard has it."""
    return next((nut for nut in NUTS if nut.kind == kind and nut.size == size.size), None)


def _nut_of(kind: str, size: ThreadSize) -> NutSize:
    row = nut_size(kind, size)
    if row is not None:
        return row
    same = {
        nut.size: nominal_diameter(nut.size)
        for nut in NUTS
        if nut.kind == kind and nut.size.startswith("M") == size.size.startswith("M")
    }
    raise Refused(
        "stock-size",
        f"no {kind} nut is listed in {size.size}",
        remedy=f"the nearest are {nearest_named(same, size.diameter)}",
    )


def _plain_bore(size: ThreadSize, height: float) -> TurnedShape:
    """The bore of a nut whose thread is not cut: its minor diameter, countersunk to the nominal one."""
    minor, major = size.minor / 2, size.diameter / 2
    down = min(major - minor, height / 4)
    return TurnedShape(
        (
            (0.0, 0.0),
            (minor + down, 0.0),
            (minor, down),
            (minor, height - down),
            (minor + down, height),
            (0.0, height),
        )
    )


def _nut_dimensions(row: NutSize, size: ThreadSize) -> tuple[StockDimension, ...]:
    a = row.across / 2
    return (
        unplaced("d", "thread", size.diameter, round=True),
        unplaced("P", "pitch", size.pitch),
        wide("D1", "minor diameter", size.minor, row.height, round=True),
        upright("s", "width across flats", row.across, 0.0, -a, view="plan"),
        upright("m", "height", row.height, a, 0.0),
    )


def washer(typed: TypedPart, cutting: ThreadCutting) -> StockPart:
    """Return a washer: ``washer M5``, ``washer M5 large``, ``washer 1/4``.

    Raises:
        Refused: no standard has it; the nearest sizes are named.
    """
    size, after = thread_size(typed.rest)
    large = "large" in typed.words
    _nothing_left(after, f"washer {size.size}")
    rows = {row.size: row for row in WASHERS if row.large == large}
    if size.size not in rows:
        same = {
            name: nominal_diameter(name) for name in rows if name.startswith("M") == size.size.startswith("M")
        } or {name: nominal_diameter(name) for name in rows}
        raise Refused(
            "stock-size",
            f"no {'large ' if large else ''}washer is listed for {size.size}",
            remedy=f"the nearest are {nearest_named(same, size.diameter)}",
        )
    row = rows[size.size]
    d2 = row.outer / 2
    name = f"washer {size.size}{' large' if large else ''}"
    return StockPart(
        "washer",
        name,
        row.table,
        (
            wide("d1", "hole", row.hole, row.thickness, round=True),
            wide("d2", "outside", row.outer, 0.0, round=True),
            upright("h", "thickness", row.thickness, d2, 0.0),
        ),
        (
            StockBody(
                f"{size.size} {'large ' if large else ''}washer".replace("/", "-"),
                cylinder(row.outer, 0.0, row.thickness, bore=row.hole),
            ),
        ),
        plan_at=row.thickness / 2,
    )


def insert(typed: TypedPart, cutting: ThreadCutting) -> StockPart:
    """Return a heat-set insert: ``insert M3``, or with its own outer diameter and length, ``insert M3
    4.2x5``.

    Raises:
        Refused: none is listed in this size and no dimensions are typed.
    """
    first, _, typed_over = typed.rest.partition(" ")
    size, after = thread_size(first)
    _nothing_left(after, f"insert {size.name} 4.6x5.7")
    row = _insert_row(size, typed_over)
    if row.outer <= size.diameter:
        raise Refused(
            "stock-insert",
            f"an insert of {row.outer:g} mm leaves no wall around {size.name}",
            remedy="type an outer diameter over that of its thread",
        )
    minor = size.minor
    away: Shape = (
        ThreadedRod(
            size.diameter, size.pitch, True, -size.pitch, row.length + size.pitch, cutting.clearance_mm
        )
        if cutting.cut
        else cylinder(minor, 0.0, row.length)
    )
    a = row.outer / 2
    return StockPart(
        "insert",
        f"insert {size.name}" + (f" {row.outer:g}x{row.length:g}" if typed_over else ""),
        f"{row.table}; thread {size.table}",
        (
            unplaced("d", "thread", size.diameter, round=True),
            unplaced("P", "pitch", size.pitch),
            wide("D1", "minor diameter", minor, row.length, round=True),
            wide("D", "outside", row.outer, 0.0, round=True),
            upright("L", "length", row.length, a, 0.0),
            unplaced("", "hole that it is set into", row.hole, round=True),
        ),
        (
            StockBody(
                body_name(f"{size.name} insert", cutting),
                DifferenceShape(cylinder(row.outer, 0.0, row.length), (away,)),
            ),
        ),
        StockThread(size.name, size.diameter, size.pitch, True, 0.0, row.length, size.table),
        cutting.cut,
        thread_notes(size, cutting),
        plan_at=row.length / 2,
    )


def _insert_row(size: ThreadSize, typed: str) -> InsertSize:
    if typed.strip():
        parts = factors(typed)
        if len(parts) != 2:
            raise Refused(
                "stock-sizes", f"“{typed}” is not outer x length", remedy=f"write insert {size.name} 4.6x5.7"
            )
        outer, length = (parse_length(part) for part in parts)
        return InsertSize(size.size, outer, length, outer - 0.6, "no standard: as typed")
    for row in INSERTS:
        if row.size == size.size:
            return row
    listed = {row.size: nominal_diameter(row.size) for row in INSERTS}
    raise Refused(
        "stock-size",
        f"no insert is listed in {size.size}",
        remedy=f"the nearest are {nearest_named(listed, size.diameter)}; or type its size: "
        f"insert {size.name} 4.6x5.7",
    )


def _nothing_left(after: list[str], example: str) -> None:
    if after:
        raise Refused(
            "stock-sizes", f"“{' x '.join(after)}” is not understood here", remedy=f"write {example}"
        )
