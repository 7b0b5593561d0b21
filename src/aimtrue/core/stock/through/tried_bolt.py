"""This module gives what a bolt needs that is tried in a bore: head, nut and washer, by its tables."""

from __future__ import annotations

import math
from dataclasses import dataclass

from aimtrue.core.errors import Refused
from aimtrue.core.model.threads import THREADS, ThreadSize
from aimtrue.core.stock.parts.catalogue import part_of
from aimtrue.core.stock.parts.nuts_and_washers import nut_size
from aimtrue.core.stock.parts.values import StockPart
from aimtrue.core.stock.tables.nuts_and_washers import WASHERS, NutSize, WasherSize
from aimtrue.core.stock.tables.screws import HEADS, ScrewHead


@dataclass(frozen=True, eq=False)
class TriedBolt:
    """What a bolt needs, from its tables."""

    part: StockPart
    head: ScrewHead
    size: ThreadSize
    length: float
    nut: NutSize | None
    washer: WasherSize | None

    @property
    def across(self) -> float:
        """Greatest diameter of the head: of a hexagon over its corners."""
        corners = math.cos(math.pi / 6) if self.head.kind == "hex" else 1.0
        return self.head.across / corners


def tried_bolt(text: str, *, washers: bool) -> TriedBolt:
    """Return a bolt as it is typed, with the hexagon nut of its size, and a washer where there are such.

    Raises:
        Refused: it is no bolt.
    """
    part = part_of(text)
    if part.kind != "bolt" or part.thread is None:
        raise Refused("through-bolt", f"{part.name} is no bolt", remedy="type one, such as M5x20 socket")
    size = next(thread for thread in THREADS if thread.name == part.thread.name)
    kind = part.name.rsplit(" ", 1)[1]
    head = next(head for head in HEADS if head.kind == kind and head.size == size.size)
    washer = next((row for row in WASHERS if row.size == size.size and not row.large), None)
    length = -part.thread.low
    return TriedBolt(part, head, size, length, nut_size("hex", size), washer if washers else None)


def washer_mm(bolt: TriedBolt) -> float:
    """Return the thickness of a washer, in mm; 0 without one."""
    return bolt.washer.thickness if bolt.washer else 0.0


def typed_as(bolt: TriedBolt, length: float) -> str:
    """Write a bolt of this kind in another length, in mm, as it can be typed."""
    shown = f"{length:g}" if bolt.size.size.startswith("M") else f"{length / 25.4:g}"
    return f"{bolt.size.name}x{shown} {bolt.head.kind}"
