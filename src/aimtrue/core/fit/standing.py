"""This module says how the pairs of a job stand: as drawn, as corrected, as released, and whether that does.

A pair is looked for on whatever stands for its bodies now: pieces of one that was divided, geometry that was
mended or made anew. It is the one of its kind that is nearest to its place.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from aimtrue.core.chain.transforms import drawn_points
from aimtrue.core.errors import Refused
from aimtrue.core.fit.clearances.intents import Verdict, freed_by, verdict, wanted
from aimtrue.core.fit.clearances.printing import printed_clearance
from aimtrue.core.fit.faces import STATES, FitFace, State, faces_of, some_faces_of
from aimtrue.core.fit.pairs.measuring import measured
from aimtrue.core.fit.pairs.pair_search import REACH_MM, pairs_between, pairs_within
from aimtrue.core.fit.pairs.values import FoundPair
from aimtrue.core.fit.standard_limits import limits_words
from aimtrue.core.fit.ways import PairWay, ways_to_free
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId, PairId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.ownership import division_of
from aimtrue.core.model.pairs import FitPair, Intent, PairKind
from aimtrue.core.model.print_lines import ExpectedSize
from aimtrue.core.model.value import Value, Vec3

_NEAR = 0.05
"""How far a pair may be from its place, in shares of the size of its first body, and still be it."""
_NEAR_OF_PIECES = 0.75
"""The same on pieces, which have parts of its faces."""
_REACH = 0.1
"""A pair that is known has room for this share of the size of its first body, in whatever unit that is."""


class ClearanceState(Value):
    """A pair in one state: its sizes and clearance, and whether that is what is wanted."""

    state: State
    sizes_mm: tuple[float, ...]
    clearance_mm: float
    verdict: Verdict


class PrintedClearance(Value):
    """The clearance that is to be expected once both parts are printed, give or take ``uncertainty_mm``."""

    clearance_mm: float
    uncertainty_mm: float


class PairState(Value):
    """How a pair stands.

    Attributes:
        id, kind, intent, typed: as they were decided.
        a, b: the bodies that it is on now; ``names`` theirs.
        band: the clearances that are wanted; ``band_says`` in words.
        states: as drawn, corrected and released; none of a pair that is lost or whose unit is open.
        printed: what is to be expected of the print; None where no machine was measured.
        verdict: whether it does what it is meant to: as printed, else as released.
        engaged_mm, offset_mm: as released.
        at: where, in mm as released; ``along`` the axis, or the direction across the gap.
        free_mm: by how much it is to be opened, in diameter or width, for the middle of its band; ``ways``
            what would do so.
        says: what is odd: lost, oval, pitches that differ.
    """

    id: PairId
    kind: PairKind
    intent: Intent
    typed: str
    a: BodyId
    b: BodyId
    names: tuple[str, str]
    band_low_mm: float | None
    band_high_mm: float | None
    band_says: str
    states: tuple[ClearanceState, ...]
    printed: PrintedClearance | None
    verdict: Verdict
    engaged_mm: float
    offset_mm: float
    at: Vec3 | None
    along: Vec3 | None
    free_mm: float
    ways: tuple[PairWay, ...]
    says: str

    @property
    def released(self) -> ClearanceState | None:
        """As it is released; None where that cannot be told."""
        return self.states[-1] if self.states else None


_STATES: Memo[PairState] = Memo(4096)


def standing_pairs(job: Job, store: GeometryStore) -> tuple[PairState, ...]:
    """Return how all pairs of a job stand."""
    return tuple(standing_pair(job, pair, store) for pair in job.pairs)


def standing_pair(job: Job, pair: FitPair, store: GeometryStore) -> PairState:
    """Return how a pair stands."""
    bodies = (*_standing_for(job, job.body(pair.a)), *_standing_for(job, job.body(pair.b)))
    things = (pair, *(part for body in bodies for part in job.in_force(body)))
    return _STATES.get(things, (job.machine.process.kind,), lambda: _worked_out(job, pair, store))


def _worked_out(job: Job, pair: FitPair, store: GeometryStore) -> PairState:
    located_pair = located(job, pair, store)
    names = (job.body(pair.a).name, job.body(pair.b).name)
    if located_pair is None:
        settled = job.settled((job.body(pair.a), job.body(pair.b)))
        says = "it is not there any more; take it away or pair anew" if settled else "the unit is not settled"
        return _state(pair, names, says=says)
    one, other = job.body(located_pair.a.body), job.body(located_pair.b.body)
    pair_states = list(_in_states(job, pair, located_pair, store))
    if len(pair_states) < len(STATES):
        return _state(pair, names, says="it is not there any more; take it away or pair anew")
    last = pair_states[-1][1]
    try:
        band = wanted(pair, job.machine.process.kind, last.sizes_mm[0] if last.sizes_mm else 0.0)
    except Refused as error:
        return _state(pair, names, says=error.line())
    states = tuple(
        ClearanceState(
            state=state,
            sizes_mm=now.sizes_mm,
            clearance_mm=now.clearance_mm,
            verdict=verdict(now.clearance_mm, band),
        )
        for state, now in pair_states
    )
    expected = printed_clearance(job, last)
    seen = expected or ExpectedSize(last.clearance_mm, 0.0)
    held = verdict(seen.mm, band, seen.uncertainty_mm)
    free = freed_by(seen.mm, band)
    ways: tuple[PairWay, ...] = ()
    if held != "holds" and not last.oval:
        ways = ways_to_free(job, located_pair, located(job, pair, store, whole=True), free, store)
    return _state(pair, (one.name, other.name)).model_copy(
        update={
            "a": located_pair.a.body,
            "b": located_pair.b.body,
            "band_low_mm": band.low_mm,
            "band_high_mm": band.high_mm if np.isfinite(band.high_mm) else None,
            "band_says": band.says,
            "states": states,
            "printed": PrintedClearance(clearance_mm=expected.mm, uncertainty_mm=expected.uncertainty_mm)
            if expected
            else None,
            "verdict": held,
            "engaged_mm": last.engaged_mm,
            "offset_mm": last.offset_mm,
            "at": last.at,
            "along": last.along,
            "free_mm": free,
            "ways": ways,
            "says": "; ".join(words for words in (last.oval, last.says, limits_words(job, last)) if words),
        }
    )


def _in_states(
    job: Job, pair: FitPair, located_pair: FoundPair, store: GeometryStore
) -> Iterator[tuple[State, FoundPair]]:
    """A pair in each state; as drawn it is that of the bodies that were there before they were divided."""
    whole = located(job, pair, store, whole=True)
    for state in STATES:
        known = whole if state == "drawn" and whole is not None else located_pair
        one, other = job.body(known.a.body), job.body(known.b.body)
        mine = some_faces_of(state, job, one, store, known.a.features)
        again = measured(known, mine, some_faces_of(state, job, other, store, known.b.features))
        if again is not None:
            yield state, again


def _state(pair: FitPair, names: tuple[str, str], says: str = "") -> PairState:
    """Return a pair of which nothing can be told but what was decided."""
    return PairState(
        id=pair.id,
        kind=pair.kind,
        intent=pair.intent,
        typed=pair.typed,
        a=pair.a,
        b=pair.b,
        names=names,
        band_low_mm=None,
        band_high_mm=None,
        band_says="",
        states=(),
        printed=None,
        verdict="does not hold",
        engaged_mm=0.0,
        offset_mm=0.0,
        at=None,
        along=None,
        free_mm=0.0,
        ways=(),
        says=says,
    )


def _standing_for(job: Job, body: Body) -> tuple[Body, ...]:
    """The bodies that stand for one: its pieces where it was divided, theirs where they were."""
    division = division_of(job, body)
    if division is None:
        return (body,)
    pieces = [piece for piece in job.bodies if piece.division == division.id]
    return tuple(stands for piece in pieces for stands in _standing_for(job, piece))


def located(job: Job, pair: FitPair, store: GeometryStore, *, whole: bool = False) -> FoundPair | None:
    """Return a pair as it is found on what stands for its bodies, as drawn; None if it is not.

    Args:
        job, pair, store: the pair, of its job.
        whole: whether it is looked for on the bodies themselves, though they were divided.
    """
    body = job.body(pair.a)
    if not job.settled((body, job.body(pair.b))):
        return None
    place = drawn_points(job, body, np.array([pair.point]))[0]
    unit = MM_PER[job.settled_unit(body)]
    size = float(np.subtract(body.high, body.low).max()) * unit
    ends = tuple((job.body(key),) if whole else _standing_for(job, job.body(key)) for key in (pair.a, pair.b))
    # What a piece has of it may have its middle elsewhere; what is alone of its kind is it, wherever it went.
    near = size * (_NEAR if ends == ((body,), (job.body(pair.b),)) else _NEAR_OF_PIECES)
    rows = []
    for candidate in _candidates(job, ends[0], ends[1], max(REACH_MM, _REACH * size), store):
        if candidate.kind == pair.kind:
            away = float(np.linalg.norm(np.subtract(candidate.at, place)))
            off = abs(candidate.sizes_mm[0] - pair.size * unit) if candidate.sizes_mm else 0.0
            rows.append((away + off, away, candidate))
    if not rows:
        return None
    _, away, best = min(rows, key=lambda row: row[0])
    return best if away <= near or len(rows) == 1 else None


def _candidates(
    job: Job, ones: tuple[Body, ...], others: tuple[Body, ...], reach_mm: float, store: GeometryStore
) -> Iterator[FoundPair]:
    for body in ones:
        for other in others:
            mine, yours = faces_of("drawn", job, body, store), faces_of("drawn", job, other, store)
            if body.id == other.id:
                yield from pairs_within(mine, reach_mm)
            else:
                yield from drawn_pairs(mine, yours, reach_mm)


_DRAWN: Memo[list[FoundPair]] = Memo(65536)


def drawn_pairs(
    one: tuple[FitFace, ...], other: tuple[FitFace, ...], reach_mm: float = REACH_MM
) -> list[FoundPair]:
    """Return the pairs between two bodies as drawn; worked out once, since no correction changes them."""
    return _DRAWN.get((one, other), (reach_mm,), lambda: pairs_between(one, other, reach_mm))
