"""This module reads any part that can be made from what was typed, and lists what there is."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

from aimtrue.core.errors import Refused
from aimtrue.core.model.threads import THREADS
from aimtrue.core.model.value import Value
from aimtrue.core.stock.parts.bolts import HEAD_WORDS, bolt
from aimtrue.core.stock.parts.boxes import box_with_lid
from aimtrue.core.stock.parts.gears import gear
from aimtrue.core.stock.parts.nuts_and_washers import NUT_WORDS, insert, nut, washer
from aimtrue.core.stock.parts.plain import angle, block, rod, tube
from aimtrue.core.stock.parts.shaft_parts import bearing, circlip, key, pin
from aimtrue.core.stock.parts.typed import TypedPart, cleaned, without_words
from aimtrue.core.stock.parts.values import StockPart, ThreadCutting
from aimtrue.core.stock.tables.nuts_and_washers import INSERTS, NUTS, WASHERS
from aimtrue.core.stock.tables.screws import HEADS
from aimtrue.core.stock.tables.shaft_parts import BEARING_SIZES, GROOVES, KEY_SIZES, PIN_SIZES

PLAIN = ThreadCutting()


@dataclass(frozen=True)
class StockKind:
    """A kind of part.

    Attributes:
        name: as it is typed first.
        make: reads the rest.
        words: that choose among its variants.
        example: of what can be typed.
        says: what it is, in words.
        also: other words for it.
    """

    name: str
    make: Callable[[TypedPart, ThreadCutting], StockPart]
    words: tuple[str, ...]
    example: str
    says: str
    also: tuple[str, ...] = ()


KINDS: tuple[StockKind, ...] = (
    StockKind(
        "bolt", bolt, tuple(HEAD_WORDS), "M5x20 socket", "bolts and screws: hex, socket, countersunk, button",
        ("screw",),
    ),
    StockKind("nut", nut, tuple(NUT_WORDS), "nut M6", "nuts: hex, lock, square"),
    StockKind("washer", washer, ("large",), "washer M5", "washers, also large ones"),
    StockKind("insert", insert, (), "insert M3", "heat-set inserts; other dimensions can be typed: 4.2x5"),
    StockKind("pin", pin, (), "pin 4x20", "parallel pins, diameter x length", ("dowel",)),
    StockKind("key", key, ("square",), "key 5x20", "parallel keys, width x length"),
    StockKind(
        "circlip", circlip, ("shaft", "bore"), "circlip shaft 10", "a groove, as the ring that fills it"
    ),
    StockKind("bearing", bearing, (), "bearing 608", "deep-groove ball bearings, as a ring"),
    StockKind("rod", rod, (), "rod 8x40", "rods, diameter x length"),
    StockKind("tube", tube, (), "tube 140.3 x 136 x 60", "tubes, outside x inside x length"),
    StockKind("block", block, (), "block 40x20x10", "blocks, X x Y x Z"),
    StockKind("angle", angle, (), "angle 20x20x3x100", "angles, leg x leg x thickness x length"),
    StockKind(
        "box", box_with_lid, (), "box 60x40x20,2,clearance 0.3,handle 8",
        "a box with a lid: inside X x Y x Z, wall; clearance, lip, handle, corner",
    ),
    StockKind("gear", gear, (), "gear m1 z20 w8 b5", "spur gears: m or dp, z, w; b bore, a angle, backlash"),
)  # fmt: skip
_BY_WORD = {word: kind for kind in KINDS for word in (kind.name, *kind.also)}
_PLURAL = re.compile(r"(?<=[a-z])(?:es|s)$")
_BOLT = re.compile(r"(?i)\s*(?:m\s*\d|#\s*\d|\d+/\d+)")


def part_of(text: str, cutting: ThreadCutting = PLAIN) -> StockPart:
    """Return the part that is meant by what was typed.

    Args:
        text: ``M5x20``, ``nut M6 lock``, ``tube 140.3 x 136 x 60``, ``gear m1 z20 w8``.
        cutting: whether threads are cut, with how much clearance, and on which machine.

    Raises:
        Refused: it is no part, or none that can be made; the message names what can.

    Example:
        >>> part_of("m5x20 socket").table
        'ISO 4762:2004; thread ISO 261:1998'
    """
    plain = cleaned(text)
    kind, rest = _kind_of(plain)
    bare, words = without_words(rest, kind.words)
    return kind.make(TypedPart(kind.name, bare, words), cutting)


def _kind_of(text: str) -> tuple[StockKind, str]:
    match = re.match(r"(?i)([a-z]+)(?![a-z0-9.])\s*(.*)", text)
    word = match[1].lower() if match else ""
    kind = _BY_WORD.get(word) or _BY_WORD.get(_PLURAL.sub("", word))
    if match and kind:
        return kind, match[2]
    # A size alone is a bolt; so is one after the word for its head.
    if _BOLT.match(text) or word in HEAD_WORDS:
        return _BY_WORD["bolt"], text
    known = ", ".join(kind.name for kind in KINDS)
    raise Refused(
        "stock-unknown", f"“{text}” is no part that can be made here", remedy=f"there are {known}; type M5x20"
    )


class StockRow(Value):
    """A line of the list of what can be made.

    Attributes:
        text: as it can be typed.
        kind: what it is.
        says: its dimensions, or what else can be typed.
        table: the standard; empty where there is none.
    """

    text: str
    kind: str
    says: str
    table: str = ""


@lru_cache
def all_rows() -> tuple[StockRow, ...]:
    """Return everything that is listed: a line for each row of the tables, and one for each free kind."""
    rows = [StockRow(text=kind.example, kind=kind.name, says=kind.says) for kind in KINDS]
    for head in HEADS:
        says = f"{head.kind} bolt, head {head.across:.4g} mm, k {head.height:.4g}, key {head.key:.4g}"
        low, high = head.lengths
        rows.append(
            StockRow(text=f"{head.size} {head.kind}", kind="bolt", table=head.table,
                     says=f"{says}, lengths {low:.4g} to {high:.4g} mm")
        )  # fmt: skip
    rows += [
        StockRow(text=f"nut {nut.size} {nut.kind}", kind="nut", table=nut.table,
                 says=f"across flats {nut.across:.4g} mm, height {nut.height:.4g}")
        for nut in NUTS
    ]  # fmt: skip
    rows += [
        StockRow(text=f"washer {washer.size}{' large' if washer.large else ''}", kind="washer",
                 table=washer.table,
                 says=f"{washer.hole:.4g} x {washer.outer:.4g} x {washer.thickness:.4g} mm")
        for washer in WASHERS
    ]  # fmt: skip
    rows += [
        StockRow(text=f"insert {row.size}", kind="insert", table=row.table,
                 says=f"ø {row.outer:g} x {row.length:g} mm, hole {row.hole:g}")
        for row in INSERTS
    ]  # fmt: skip
    rows += [*_shaft_rows(), *_thread_rows()]
    # An example that is in a table stands there, with its dimensions.
    tabled = {row.text for row in rows if row.table}
    return tuple(row for row in rows if row.table or row.text not in tabled)


def _shaft_rows() -> list[StockRow]:
    from aimtrue.core.stock.tables import shaft_parts as tables

    rows = [
        StockRow(text=f"pin {pin.diameter:g}x…", kind="pin", table=tables.PINS,
                 says=f"ø {pin.diameter:g} mm, chamfer {pin.chamfer:g}")
        for pin in PIN_SIZES
    ]  # fmt: skip
    rows += [
        StockRow(text=f"key {key.width:g}x{key.height:g}x…", kind="key", table=tables.KEYS,
                 says=f"for shafts of {key.over:g} to {key.to:g} mm")
        for key in KEY_SIZES
    ]  # fmt: skip
    rows += [
        StockRow(text=f"circlip {groove.side} {groove.nominal:g}", kind="circlip", table=groove.table,
                 says=f"groove ø {groove.groove:g} mm, {groove.width:g} wide")
        for groove in GROOVES
    ]  # fmt: skip
    rows += [
        StockRow(text=f"bearing {bearing.name}", kind="bearing", table=tables.BEARINGS,
                 says=f"{bearing.bore:g} x {bearing.outer:g} x {bearing.width:g} mm")
        for bearing in BEARING_SIZES
    ]  # fmt: skip
    return rows


def _thread_rows() -> list[StockRow]:
    return [
        StockRow(text=f"{thread.name}x…", kind="bolt", table=thread.table,
                 says=f"{'coarse' if thread.coarse else 'fine'} thread, ø {thread.diameter:.4g} mm, pitch "
                 f"{thread.pitch:.4g}, minor {thread.minor:.4g}")
        for thread in THREADS
    ]  # fmt: skip


def search(text: str) -> tuple[StockRow, ...]:
    """Return the rows that hold every word of what was typed; all for nothing.

    Example:
        >>> [row.text for row in search("608")]
        ['bearing 608']
    """
    words = text.lower().split()
    rows = []
    for row in all_rows():
        whole = f" {row.text} {row.kind} {row.says} {row.table} ".lower()
        if all(re.search(rf"(?<![\w.]){re.escape(word)}", whole) for word in words):
            rows.append(row)
    return tuple(rows)
