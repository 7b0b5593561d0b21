"""This module says what would free a pair: which faces of which body to move, and by how much."""

from __future__ import annotations

from aimtrue.core.fit.pairs.values import FoundPair, PairPlace
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.decisions import PickedFace
from aimtrue.core.model.division import AskSurface
from aimtrue.core.model.ids import NO_DIVISION, BodyId, DivisionId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_offset, written
from aimtrue.core.model.ownership import division_of
from aimtrue.core.model.value import Value

_MOVABLE = ("bore and shaft", "slot and tab", "facing planes")
_OUTER, _INNER = ("Open", "Close"), ("Thin", "Thicken")
"""What a face moved into its material, or out of it, does to what is around and to what is inside."""
_ENOUGH_MM = 1e-3
"""What is to be moved by less is as it should be."""


class PairWay(Value):
    """Faces of a body to be moved, so that a pair has the middle of its band.

    Where they were moved already, ``instead`` is the division that did so: it is asked for otherwise.
    """

    says: str
    body: BodyId
    asked: AskSurface
    instead: DivisionId = NO_DIVISION


def ways_to_free(
    job: Job, pair: FoundPair, whole: FoundPair | None, free_mm: float, store: GeometryStore
) -> tuple[PairWay, ...]:
    """Return ways to open a pair by so much, or to close it where that is negative: at either body.

    What is oval has no one radius to be moved to, and a piece is moved before it is cut, as a whole: of these
    there is no way.

    Args:
        job: that it is of.
        pair: as it is found now; ``whole`` on the bodies that were there before they were divided.
        free_mm: in diameter or width.
        store: gives the features.
    """
    if abs(free_mm) < _ENOUGH_MM or pair.kind not in _MOVABLE:
        return ()
    # Away from the material closes a gap, from whichever side.
    amount = -free_mm / (1 if pair.kind == "facing planes" else 2)
    before = whole or pair
    ways = (
        _way(job, pair.a, before.a, amount, _OUTER, store),
        _way(job, pair.b, before.b, amount, _INNER, store),
    )
    return tuple(way for way in ways if way is not None)


def _way(
    job: Job, now: PairPlace, before: PairPlace, amount: float, verbs: tuple[str, str], store: GeometryStore
) -> PairWay | None:
    body, whole = job.body(now.body), job.body(before.body)
    moved = division_of(job, whole)
    listed = store.features(whole).listed
    picks = tuple(
        PickedFace(face=listed[feature].face, point=listed[feature].point) for feature in before.features
    )
    total = amount
    if moved is not None:
        asked = moved.asked
        if not isinstance(asked, AskSurface) or moved.id != body.division:
            return None
        features = store.features(whole)
        if {features.of_face[pick.face] for pick in asked.picks} != set(before.features):
            return None
        total += parse_offset(asked.amount)
    elif body.division is not None:
        return None
    return PairWay(
        says=f"{verbs[amount > 0]} {body.name} by {written(abs(amount), 3)} mm a side",
        body=whole.id,
        asked=AskSurface(picks=picks, amount=f"{total:.6g}", geometry=whole.geometry),
        instead=moved.id if moved is not None else NO_DIVISION,
    )
