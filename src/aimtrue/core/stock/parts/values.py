"""This module holds a part of stock: its name, where its dimensions come from, and the shapes it is built
of.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from aimtrue.core.model.value import Value
from aimtrue.core.stock.parts.shapes import Shape, Vec2

DrawnView = Literal["section", "plan"]


class StockDimension(Value):
    """A dimension of a part, as its drawing shows it.

    Attributes:
        letter: what the standard calls it, ``dk``; empty where it has no letter.
        says: what it is, in words.
        mm: how large it is.
        round: whether it is a diameter.
        low_mm, high_mm: how far the standard lets it be off; None where none is told.
        view: where it is drawn: cut through the axis (X, Z), or from above (X, Y).
        start, end: between which places there, in mm; None where it is not drawn.
    """

    letter: str
    says: str
    mm: float
    round: bool = False
    low_mm: float | None = None
    high_mm: float | None = None
    view: DrawnView = "section"
    start: Vec2 | None = None
    end: Vec2 | None = None


def unplaced(letter: str, says: str, mm: float, *, round: bool = False) -> StockDimension:
    """Return a dimension that is told and not drawn."""
    return StockDimension(letter=letter, says=says, mm=mm, round=round)


def wide(  # noqa: PLR0913 - told apart by their names
    letter: str,
    says: str,
    mm: float,
    at: float,
    *,
    round: bool = False,
    view: DrawnView = "section",
    low_mm: float | None = None,
    high_mm: float | None = None,
) -> StockDimension:
    """Return a dimension across the axis, at a height (or, from above, at a Y)."""
    ends = {"start": (-mm / 2, at), "end": (mm / 2, at)}
    return StockDimension(
        letter=letter, says=says, mm=mm, round=round, view=view, low_mm=low_mm, high_mm=high_mm, **ends
    )


def level(
    letter: str, says: str, mm: float, start: float, at: float, *, view: DrawnView = "section"
) -> StockDimension:
    """Return a dimension along X from a place."""
    return StockDimension(letter=letter, says=says, mm=mm, view=view, start=(start, at), end=(start + mm, at))


def upright(
    letter: str, says: str, mm: float, beside: float, low: float, *, view: DrawnView = "section"
) -> StockDimension:
    """Return a dimension along Z (or, from above, along Y), beside the part, from a height."""
    return StockDimension(
        letter=letter, says=says, mm=mm, view=view, start=(beside, low), end=(beside, low + mm)
    )


@dataclass(frozen=True)
class StockBody:
    """One solid of a part: its name and its shape."""

    name: str
    shape: Shape


@dataclass(frozen=True)
class StockThread:
    """The thread of a part.

    Attributes:
        name: of its size, ``M5`` or ``M8x1``.
        diameter, pitch: in mm.
        internal: of a nut, or of a bolt.
        low, high: its ends along Z, in mm.
        table: the standard.
    """

    name: str
    diameter: float
    pitch: float
    internal: bool
    low: float
    high: float
    table: str


@dataclass(frozen=True)
class StockPart:
    """A part as it can be made.

    Attributes:
        kind: what it is: ``bolt``, ``nut``, ``gear`` ...
        name: in full, as it can be typed again: ``bolt M5x20 hex``.
        table: the standard of its dimensions and its edition, or that there is none.
        dimensions: in the order of the drawing.
        bodies: its solids.
        thread: its thread, cut or drawn plain; None where it has none.
        threaded: whether its thread is cut.
        notes: what is odd about it, in whole sentences.
        plan_at: at which height it is cut for the view from above, in mm.
    """

    kind: str
    name: str
    table: str
    dimensions: tuple[StockDimension, ...]
    bodies: tuple[StockBody, ...]
    thread: StockThread | None = None
    threaded: bool = False
    notes: tuple[str, ...] = ()
    plan_at: float = 0.0


@dataclass(frozen=True)
class ThreadCutting:
    """How threads are made.

    Attributes:
        cut: whether they are cut, or drawn plain.
        clearance_mm: by how much a nut's is wider, or a bolt's thinner, in diameter.
        bead_mm: of the machine; a thread whose flat is narrower than a third of it cannot be made. 0 where no
            machine is known.
        layer_mm: the height of its layers.
    """

    cut: bool = False
    clearance_mm: float = 0.0
    bead_mm: float = 0.0
    layer_mm: float = 0.0
