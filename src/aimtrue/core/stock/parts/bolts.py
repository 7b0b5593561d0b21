"""This module makes bolts and screws of what was typed.

A bolt stands with its head up: its bearing face is at Z = 0 (of a countersunk one its upper face), the shank
goes down.
"""

from __future__ import annotations

import math

from aimtrue.core.errors import Refused
from aimtrue.core.model.threads import ThreadSize
from aimtrue.core.stock.parts.hexagons import body_name, chamfered_hexagon, nominal_diameter
from aimtrue.core.stock.parts.shapes import (
    DifferenceShape,
    Shape,
    ThreadedRod,
    TurnedShape,
    UnionShape,
    hexagon,
)
from aimtrue.core.stock.parts.thread_notes import thread_notes
from aimtrue.core.stock.parts.typed import TypedPart, length_of, nearest_lengths, nearest_named, thread_size
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
from aimtrue.core.stock.tables.screws import HEADS, INCH_LENGTHS, METRIC_LENGTHS, HeadKind, ScrewHead

HEAD_WORDS: dict[str, HeadKind] = {
    "hex": "hex",
    "hexagon": "hex",
    "socket": "socket",
    "countersunk": "countersunk",
    "csk": "countersunk",
    "flat": "countersunk",
    "button": "button",
}


def bolt(typed: TypedPart, cutting: ThreadCutting) -> StockPart:
    """Return a bolt or a screw: ``M5x20``, ``M8x1x40 socket``, ``#10x1/2 button``.

    Raises:
        Refused: no standard has it; the nearest sizes are named.
    """
    size, after = thread_size(typed.rest)
    kind: HeadKind = next((HEAD_WORDS[word] for word in typed.words if word in HEAD_WORDS), "hex")
    if len(after) != 1:
        raise Refused(
            "stock-sizes", f"“{typed.rest}” has no length, or more than one", remedy=f"write {size.name}x20"
        )
    head = _head(kind, size)
    length, notes = _length(head, size, after[0])
    shown = _shown_length(size, length)
    name = f"bolt {size.name}x{shown} {kind}"
    thread = _bolt_thread(head, size, length)
    shape = _bolt_shape(head, size, length, thread, cutting)
    return StockPart(
        "bolt",
        name,
        f"{head.table}; thread {size.table}",
        _bolt_dimensions(head, size, length, thread),
        (StockBody(body_name(f"{size.name}x{shown} {kind}", cutting), shape),),
        thread,
        cutting.cut,
        (*notes, *thread_notes(size, cutting)),
        plan_at=head.height * 0.6 if kind != "countersunk" else -head.socket * 0.5,
    )


def _head(kind: HeadKind, size: ThreadSize) -> ScrewHead:
    for head in HEADS:
        if head.kind == kind and head.size == size.size:
            return head
    of_kind = {head.size: nominal_diameter(head.size) for head in HEADS if head.kind == kind}
    same = {name: mm for name, mm in of_kind.items() if name.startswith("M") == size.size.startswith("M")}
    raise Refused(
        "stock-size",
        f"no {kind} bolt is listed in {size.size}",
        remedy=f"the nearest are {nearest_named(same, size.diameter)}",
    )


def _length(head: ScrewHead, size: ThreadSize, typed: str) -> tuple[float, tuple[str, ...]]:
    """Read a length that the standards have; beyond those of this head it is told."""
    inch = not size.size.startswith("M")
    length = length_of(typed, inch=inch)
    series = INCH_LENGTHS if inch else METRIC_LENGTHS
    if not any(abs(length - known) < 1e-6 for known in series):
        where = "ASME B18.3" if inch else "ISO 888"
        raise Refused(
            "stock-length",
            f"{where} has no length of {typed.strip()}",
            remedy=f"the nearest are {nearest_lengths(series, length)} mm",
        )
    if head.kind == "countersunk" and length <= head.height + size.pitch:
        longer = [known for known in series if known > head.height + 2 * size.pitch]
        raise Refused(
            "stock-length",
            f"a countersunk {size.size} of {typed.strip()} is all head, which is {head.height:.4g} mm high",
            remedy=f"take {nearest_lengths(longer, 0)} mm",
        )
    low, high = head.lengths
    if low - 1e-6 <= length <= high + 1e-6:
        return length, ()
    says = f"{head.table} lists it from {low:.4g} to {high:.4g} mm; it is made by its other dimensions"
    return length, (says,)


def _shown_length(size: ThreadSize, length: float) -> str:
    """Write a length as its standard does: in mm, or as a fraction of an inch."""
    if size.size.startswith("M"):
        return f"{length:g}"
    sixteenths = round(length / 25.4 * 16)
    whole, part = divmod(sixteenths, 16)
    if not part:
        return f"{whole}"
    shared = math.gcd(part, 16)
    return f"{f'{whole} ' if whole else ''}{part // shared}/{16 // shared}"


def _bolt_thread(head: ScrewHead, size: ThreadSize, length: float) -> StockThread:
    """How long the thread is: all of the shank, or 2 d + 12 mm of socket and countersunk ones.

    ISO 4017 and ISO 7380-1 are threaded to the head; ISO 4762 and ISO 10642 have a plain shank above
    b = 2 d + 12.
    """
    longest = length - (head.height if head.kind == "countersunk" else 0.0)
    low, threaded = -length, longest
    if head.kind in ("socket", "countersunk"):
        along = 2 * size.diameter + 12
        threaded = along if along < longest - 5 * size.pitch else longest
    return StockThread(size.name, size.diameter, size.pitch, False, low, low + threaded, size.table)


def _bolt_shape(
    head: ScrewHead, size: ThreadSize, length: float, thread: StockThread, cutting: ThreadCutting
) -> Shape:
    top = _head_shape(head, size)
    if not cutting.cut:
        return UnionShape(
            (top, _plain_shank(size, length, -head.height if head.kind == "countersunk" else 0.0))
        )
    play = cutting.clearance_mm
    rod = ThreadedRod(size.diameter, size.pitch, False, thread.low, thread.high, play)
    if thread.high > -1e-9:
        return UnionShape((top, rod))
    # The thread begins below a neck: a crest that met the shank's own cylinder would touch it in a line.
    neck = (size.root - play) / 2 * 0.96
    radius = (size.diameter - play) / 2
    foot = thread.high
    rise = radius - neck
    above = -head.height if head.kind == "countersunk" else 0.0
    if above - foot < rise + 1e-6:
        foot, rise = above - 2 * rise, rise
        rod = ThreadedRod(size.diameter, size.pitch, False, thread.low, foot, play)
    shank = TurnedShape(((0.0, foot), (neck, foot), (radius, foot + rise), (radius, above), (0.0, above)))
    return UnionShape((top, shank, rod))


def _plain_shank(size: ThreadSize, length: float, top: float) -> TurnedShape:
    """A shank of the nominal diameter up to a height, its end chamfered down to the root of the thread."""
    radius, root = size.diameter / 2, size.root / 2
    down = min(radius - root, (length + top) / 2)
    return TurnedShape(
        ((0.0, -length), (radius - down, -length), (radius, down - length), (radius, top), (0.0, top))
    )


def _head_shape(head: ScrewHead, size: ThreadSize) -> Shape:
    if head.kind == "hex":
        return chamfered_hexagon(head.across, 0.0, head.height, below=False)
    top = 0.0 if head.kind == "countersunk" else head.height
    if head.kind == "socket":
        edge = 0.05 * head.across
        r = head.across / 2
        body = TurnedShape(((0.0, 0.0), (r, 0.0), (r, top - edge), (r - edge, top), (0.0, top)))
    elif head.kind == "button":
        body = TurnedShape(_button_profile(head))
    else:
        body = TurnedShape(
            (
                (0.0, -head.height),
                (size.diameter / 2, -head.height),
                (head.across / 2, 0.0),
                (0.0, 0.0),
            )
        )
    return DifferenceShape(body, (hexagon(head.key, top - head.socket, top + 1.0),))


def _button_profile(head: ScrewHead) -> tuple[tuple[float, float], ...]:
    """A button head: round on a rim a tenth of its height, as a dome of twelve steps to a flat over the
    socket.
    """
    r, k = head.across / 2, head.height
    flat = min(0.62 * head.key, 0.8 * r)
    rim = 0.1 * k
    # The dome is an arc about a point on the axis, through the rim and the edge of the flat.
    centre = (k + rim) / 2 - (r * r - flat * flat) / (2 * (k - rim))
    radius = math.hypot(r, rim - centre)
    steps = 12
    first, last = math.atan2(rim - centre, r), math.atan2(k - centre, flat)
    turns = (first + (last - first) * step / steps for step in range(steps + 1))
    dome = tuple((radius * math.cos(turn), centre + radius * math.sin(turn)) for turn in turns)
    return ((0.0, 0.0), (r, 0.0), *dome, (0.0, k))


def _bolt_dimensions(
    head: ScrewHead, size: ThreadSize, length: float, thread: StockThread
) -> tuple[StockDimension, ...]:
    r, a = size.diameter / 2, head.across / 2
    top = 0.0 if head.kind == "countersunk" else head.height
    across = (
        upright("s", "width across flats", head.across, 0.0, -a, view="plan")
        if head.kind == "hex"
        else wide("dk", "head", head.across, top, round=True)
    )
    rows = [
        wide("d", "thread", size.diameter, -length, round=True),
        unplaced("P", "pitch", size.pitch),
        across,
        upright("k", "height of the head", head.height, a, top - head.height),
        upright("l", "length", length, r, -length),
        unplaced("b", "length of the thread", thread.high - thread.low),
    ]
    if head.kind != "hex":
        rows.append(upright("s", "key", head.key, 0.0, -head.key / 2, view="plan"))
        rows.append(unplaced("t", "depth of the socket", head.socket))
    return tuple(rows)
