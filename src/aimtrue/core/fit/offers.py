"""This module lists the pairs that a job offers: whatever nearly goes together, and is no pair of it yet."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

import numpy as np

from aimtrue.core.chain.transforms import drawn_points
from aimtrue.core.fit.clearances.intents import intent_met
from aimtrue.core.fit.faces import faces_of
from aimtrue.core.fit.pairs.pair_search import REACH_MM, pairs_within
from aimtrue.core.fit.pairs.values import FoundPair
from aimtrue.core.fit.standing import drawn_pairs, located
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import in_use
from aimtrue.core.model.pairs import Intent, PairKind
from aimtrue.core.model.value import Value, Vec3

MOST = 400
"""More offers than this nobody reads; the tightest are kept."""


class PairOffer(Value):
    """A pair that is offered, as it is drawn, in mm; ``a_feature`` and ``b_feature`` tell it from others."""

    kind: PairKind
    a: BodyId
    b: BodyId
    names: tuple[str, str]
    a_feature: int
    b_feature: int
    sizes_mm: tuple[float, ...]
    clearance_mm: float
    engaged_mm: float
    offset_mm: float
    at: Vec3
    suits: Intent | None
    says: str


def offers(job: Job, store: GeometryStore, *, as_they_lie: bool = False) -> tuple[PairOffer, ...]:
    """Return the pairs between bodies that share an origin, and within bodies, that are no pairs yet.

    The round ones and slots come first, then facing planes; the tightest of each first.

    Args:
        job: with the bodies.
        store: gives their meshes.
        as_they_lie: files share one origin, too.
    """
    known = {
        _key(located_pair) for pair in job.pairs if (located_pair := located(job, pair, store)) is not None
    }
    new = [pair for pair in _found(job, store, as_they_lie) if _key(pair) not in known]
    new.sort(key=lambda pair: (pair.kind == "facing planes", abs(pair.clearance_mm)))
    return tuple(_offer(job, pair) for pair in new[:MOST])


def _key(pair: FoundPair) -> tuple[object, ...]:
    return pair.kind, pair.a, pair.b


def _found(job: Job, store: GeometryStore, as_they_lie: bool) -> Iterator[FoundPair]:
    bodies = [body for body in in_use(job, job.bodies) if job.settled((body,)) and not body.stray]
    for body in bodies:
        yield from pairs_within(faces_of("drawn", job, body, store))
    for one, other in _near(job, bodies, as_they_lie):
        yield from drawn_pairs(faces_of("drawn", job, one, store), faces_of("drawn", job, other, store))


def _near(job: Job, bodies: list[Body], as_they_lie: bool) -> Iterator[tuple[Body, Body]]:
    """Bodies of one origin that are near enough to have to do with each other."""
    ends = {body.id: _ends(job, body) for body in bodies}
    for one, other in combinations(bodies, 2):
        in_one_kit = one.kit is not None and one.kit == other.kit
        if not (as_they_lie or in_one_kit or one.source == other.source):
            continue
        (low, high), (other_low, other_high) = ends[one.id], ends[other.id]
        if (low - REACH_MM <= other_high).all() and (other_low - REACH_MM <= high).all():
            yield one, other


def _ends(job: Job, body: Body) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
    corners = drawn_points(job, body, np.array([body.low, body.high]))
    return np.stack([corners.min(axis=0), corners.max(axis=0)])


def _offer(job: Job, pair: FoundPair) -> PairOffer:
    return PairOffer(
        kind=pair.kind,
        a=pair.a.body,
        b=pair.b.body,
        names=(job.body(pair.a.body).name, job.body(pair.b.body).name),
        a_feature=pair.a.features[0],
        b_feature=pair.b.features[0],
        sizes_mm=pair.sizes_mm,
        clearance_mm=pair.clearance_mm,
        engaged_mm=pair.engaged_mm,
        offset_mm=pair.offset_mm,
        at=pair.at,
        suits=intent_met(pair.clearance_mm, job.machine.process.kind),
        says="; ".join(note for note in (pair.oval, pair.says) if note),
    )
