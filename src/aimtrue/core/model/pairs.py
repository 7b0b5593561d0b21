"""A pair that somebody wants to go together: two places on bodies, and what they are to do.

How it stands is told in :mod:`aimtrue.core.fit`; here is what was decided.
"""

from __future__ import annotations

from typing import Literal

from aimtrue.core.model.ids import BodyId, PairId
from aimtrue.core.model.shaping import DescribedFace
from aimtrue.core.model.value import Value, Vec3

PairKind = Literal[
    "bore and shaft",
    "thread and thread",
    "socket and block",
    "slot and tab",
    "dovetail",
    "facing planes",
]
ROUND_KINDS: tuple[PairKind, ...] = ("bore and shaft", "thread and thread")
"""Kinds whose sizes are diameters."""
Intent = Literal["slides", "snug", "press", "apart"]


class PairSide(Value):
    """One side of a pair as it is released: a bore, a shaft, a slot or a tab.

    Attributes:
        says: which of these.
        faces: a round one, or two flat ones, in mm.
        size_mm: its diameter, or the width between them.
    """

    says: str
    faces: tuple[DescribedFace, ...]
    size_mm: float


class FitPair(Value):
    """Two places that are to go together.

    Attributes:
        id: of it.
        kind: what they are.
        a, b: the bodies, that with the bore or slot first; one body where both are on it.
        point: where, in numbers of the file of ``a``; it is found again there on other geometry.
        size: the diameter or width of both there, in numbers of that file; nothing of facing planes.
        intent: what they are to do.
        typed: the band of clearances as it was typed, ``0.2..0.4``, or a fit, ``H7/g6``; empty for that of
            the intent.
    """

    id: PairId
    kind: PairKind
    a: BodyId
    b: BodyId
    point: Vec3
    size: float = 0.0
    intent: Intent = "slides"
    typed: str = ""
