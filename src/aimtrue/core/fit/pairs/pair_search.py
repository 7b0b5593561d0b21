"""This module gathers all pairs between two bodies, or within one."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

from aimtrue.core.fit.faces import FitFace
from aimtrue.core.fit.pairs.flat_pairs import Slab, facing_pairs, largest, slabs_of, slot_pairs
from aimtrue.core.fit.pairs.round_pairs import aligned, full, hollow, round_pairs
from aimtrue.core.fit.pairs.values import FoundPair
from aimtrue.core.model.memo import Memo

_SLABS: Memo[list[Slab]] = Memo(4096)
REACH_MM = 4.0
"""What has more room than this is beside the point of what is around it, however large both are."""
_LEANING = 0.05
"""Two pairs of facing planes whose normals differ by more than this, and are not square, make a dovetail."""


def pairs_between(
    one: tuple[FitFace, ...], other: tuple[FitFace, ...], reach_mm: float = REACH_MM
) -> list[FoundPair]:
    """Return the pairs between two bodies as they lie in their frame, the round ones first.

    Args:
        one, other: all faces of each body, in the same state.
        reach_mm: the widest gap that is a fit.
    """
    pairs = [
        *round_pairs(one, other, reach_mm),
        *round_pairs(other, one, reach_mm),
    ]
    slotted = [
        *slot_pairs(_slots(one), _tabs(other), reach_mm),
        *slot_pairs(_slots(other), _tabs(one), reach_mm),
    ]
    used = {
        (place.body, number) for pair in slotted for place in (pair.a, pair.b) for number in place.features
    }
    facing = [
        pair
        for pair in facing_pairs(largest(one), largest(other), reach_mm)
        if not {(pair.a.body, pair.a.features[0]), (pair.b.body, pair.b.features[0])} <= used
    ]
    return [*pairs, *slotted, *_with_dovetails(facing)]


def pairs_within(faces: tuple[FitFace, ...], reach_mm: float = REACH_MM) -> list[FoundPair]:
    """Return the round pairs within one body, as of a hinge that is printed in one go."""
    return list(round_pairs(faces, faces, reach_mm))


def best_aligned(one: Sequence[FitFace], other: Sequence[FitFace]) -> FoundPair | None:
    """Return the round pair that fits best with its axes brought together: the least play that is none too
    tight, else the least tight.
    """
    pairs = [
        pair
        for outer, inner in ((one, other), (other, one))
        for bore in hollow(outer)
        for shaft in full(inner)
        if (pair := aligned(bore, shaft)) is not None
    ]
    return min(pairs, key=lambda pair: (pair.clearance_mm < 0, abs(pair.clearance_mm)), default=None)


def _slots(faces: tuple[FitFace, ...]) -> list[Slab]:
    return [slab for slab in _slabs(faces) if not slab.solid]


def _tabs(faces: tuple[FitFace, ...]) -> list[Slab]:
    return [slab for slab in _slabs(faces) if slab.solid]


def _slabs(faces: tuple[FitFace, ...]) -> list[Slab]:
    return _SLABS.get((faces,), (), lambda: slabs_of(largest(faces)))


def _with_dovetails(facing: list[FoundPair]) -> list[FoundPair]:
    """Call two facing planes that lean against each other a dovetail; the narrower gap is told."""
    rest, paired = list(facing), []
    for one, other in combinations(facing, 2):
        lean = abs(sum(a * b for a, b in zip(one.along, other.along, strict=True)))
        if one in rest and other in rest and _LEANING < lean < 1 - _LEANING and 1 - lean > _LEANING:
            tight, wide = sorted((one, other), key=lambda pair: pair.clearance_mm)
            places = {
                name: getattr(tight, name).model_copy(
                    update={"features": (*getattr(tight, name).features, *getattr(wide, name).features)}
                )
                for name in ("a", "b")
            }
            paired.append(tight.model_copy(update={"kind": "dovetail", **places}))
            rest = [pair for pair in rest if pair is not one and pair is not other]
    return [*paired, *rest]
