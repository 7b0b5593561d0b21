"""This module says what would free a pair: which faces of which body to move, and by how much."""

from __future__ import annotations

from aimtrue.core.fit.pairs.values import FoundPair, PairPlace
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.decisions import PickedFace
from aimtrue.core.model.division import AskSurface
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import written
from aimtrue.core.model.value import Value

_ENOUGH_MM = 1e-3
"""What is to be moved by less is as it should be."""


class PairWay(Value):
    """Faces of a body to be moved, so that a pair has the middle of its band."""

    says: str
    body: BodyId
    asked: AskSurface


def ways_to_free(job: Job, pair: FoundPair, free_mm: float, store: GeometryStore) -> tuple[PairWay, ...]:
    """Return ways to open a pair by so much, or to close it where that is negative: at either body.

    Args:
        job: that it is of.
        pair: as it is found now.
        free_mm: in diameter or width.
    """
    if abs(free_mm) < _ENOUGH_MM or pair.kind in ("thread and thread", "dovetail", "socket and block"):
        return ()
    sides = 1 if pair.kind == "facing planes" else 2
    # Away from the material closes a gap, from whichever side.
    amount = -free_mm / sides
    return tuple(_way(job, place, amount, outer, store) for place, outer in ((pair.a, True), (pair.b, False)))


def _way(job: Job, place: PairPlace, amount: float, outer: bool, store: GeometryStore) -> PairWay:
    body = job.body(place.body)
    listed = store.features(body).listed
    picks = tuple(
        PickedFace(face=listed[number].face, point=listed[number].point) for number in place.features
    )
    verb = "Open" if amount < 0 else "Close"
    word = ("Thin" if amount < 0 else "Thicken") if not outer else verb
    return PairWay(
        says=f"{word} {body.name} by {written(abs(amount), 3)} mm a side",
        body=body.id,
        asked=AskSurface(picks=picks, amount=f"{amount:.6g}", geometry=body.geometry),
    )
