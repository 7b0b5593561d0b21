"""This module holds a pair as it is found: which faces of which bodies, how large, and with how much play."""

from __future__ import annotations

from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.pairs import PairKind
from aimtrue.core.model.value import Value, Vec3


class PairPlace(Value):
    """One side of a pair: a body, and the numbers of its features that take part."""

    body: BodyId
    features: tuple[int, ...]


class FoundPair(Value):
    """Two places that go together, or nearly do; lengths in mm.

    Attributes:
        kind: what they are.
        a, b: what is outside, as a bore, and what is inside; of facing planes in the order of the bodies.
        sizes_mm: the diameters or widths of both; of facing planes none.
        clearance_mm: how much wider the outer is, in diameter or width; of facing planes their distance.
            Where one is oval, the least that there is around it.
        engaged_mm: over how much of their length they are in each other, or face each other.
        offset_mm: between their axes or middle planes.
        angle_deg: between these.
        oval: the one that is no longer round, in words; empty where both are.
        at: a place on the axis or between the planes, in the axes of the job.
        along: the direction of the axis, or square to the planes; of length 1.
        says: what is odd about it, in words; empty where nothing is.
    """

    kind: PairKind
    a: PairPlace
    b: PairPlace
    sizes_mm: tuple[float, ...]
    clearance_mm: float
    engaged_mm: float
    offset_mm: float
    angle_deg: float
    oval: str = ""
    at: Vec3
    along: Vec3
    says: str = ""

    @property
    def per_side_mm(self) -> float:
        """The clearance at each side; of facing planes all of it."""
        return self.clearance_mm if self.kind == "facing planes" else self.clearance_mm / 2
