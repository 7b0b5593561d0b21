"""This module says how a source was made here, where it did not come from elsewhere, as a value."""

from __future__ import annotations

from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.value import Value, Vec3


class SizeLimits(Value):
    """How far a standard lets a size of a part be off, in mm: ``low_mm`` and ``high_mm`` from ``mm``."""

    mm: float
    low_mm: float
    high_mm: float


class StockRecipe(Value):
    """What a part of stock was made of: the same words make the same file again, to the last bit.

    Attributes:
        text: the part in full, as it can be typed: ``bolt M5x20 hex``.
        threaded: whether its thread is cut, or drawn plain.
        clearance_mm: by how much a nut's thread is wider, or a bolt's thinner, in diameter.
        table: the standard of its dimensions and its edition, or that there is none.
        limits: of its sizes, where the standard has such.
        point, way: where the origin of the part is, and where its Z points, in mm and the axes of the job; of
            one that was made at a bore.
        at: the body that it was made at; empty for none. It is drawn with that.
    """

    text: str
    threaded: bool = False
    clearance_mm: float = 0.0
    table: str = ""
    limits: tuple[SizeLimits, ...] = ()
    point: Vec3 = (0.0, 0.0, 0.0)
    way: Vec3 = (0.0, 0.0, 1.0)
    at: BodyId = BodyId("")
