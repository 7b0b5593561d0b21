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


SideKind = Literal["round", "oval", "thread", "width", "plane"]
"""What is measured of a side: a diameter, two diameters, a crest and a pitch, a width, or where a face is."""


class PairSide(Value):
    """One side of a pair as it is released: a bore, a shaft, a thread, a slot, a tab or a flat face.

    Attributes:
        says: which of these.
        kind: what is measured of it.
        faces: a round one, or one or two flat ones, in mm.
        size_mm: its diameter, or the width between two faces, or how far along its normal a face is from the
            origin. Of what is oval the greatest diameter, of a thread that which most of its crest has.
        least_mm: the least diameter of what is oval.
        across: the direction of the greatest diameter of what is oval.
        pitch_mm: of a thread; negative where it is left-hand.
    """

    says: str
    kind: SideKind
    faces: tuple[DescribedFace, ...]
    size_mm: float
    least_mm: float = 0.0
    across: Vec3 = (0.0, 0.0, 0.0)
    pitch_mm: float = 0.0


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
