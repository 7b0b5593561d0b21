"""This module says what actions of sheet 3 do, and how pairs go with bodies that take the place of others."""

from __future__ import annotations

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.fit.actions import MeanPair, PairUp, UnPair
from aimtrue.core.fit.clearances.intents import wanted
from aimtrue.core.fit.faces import faces_of, numbers_at
from aimtrue.core.fit.offers import offers
from aimtrue.core.fit.pairs.pair_search import pairs_within
from aimtrue.core.fit.pairs.values import FoundPair
from aimtrue.core.fit.standing import drawn_pairs, located
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.ids import PairId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER
from aimtrue.core.model.pairs import FitPair
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.room import ActionHandler, Succession


def pair_up(job: Job, action: PairUp, store: GeometryStore) -> Job:
    """Make a pair of what is offered."""
    one, other = job.body(action.a), job.body(action.b)
    job.settled_unit(one)
    job.settled_unit(other)
    faces = [faces_of("drawn", job, body, store) for body in (one, other)]
    pairs = pairs_within(faces[0]) if one.id == other.id else drawn_pairs(faces[0], faces[1])
    wants = (action.kind, action.a_feature, action.b_feature)
    for pair in pairs:
        if (pair.kind, pair.a.features[0], pair.b.features[0]) == wants and pair.a.body == one.id:
            return _with_pair(job, pair, action, store)
    raise Refused("pair-gone", "this pair is not there any more", remedy="choose one that is offered")


def paired_as_offered(job: Job, store: GeometryStore) -> Job:
    """Return a job with every pair of its bodies as they lie, each to do what it suits as it is drawn."""
    for offer in offers(job, store, as_they_lie=True):
        action = PairUp(
            kind=offer.kind,
            a=offer.a,
            b=offer.b,
            a_feature=offer.a_feature,
            b_feature=offer.b_feature,
            intent=offer.suits or "slides",
        )
        job = pair_up(job, action, store)
    return job


def _with_pair(job: Job, pair: FoundPair, action: PairUp, store: GeometryStore) -> Job:
    body = job.body(pair.a.body)
    for fit_pair in job.pairs:
        located_pair = located(job, fit_pair, store)
        if located_pair is not None and (located_pair.kind, located_pair.a, located_pair.b) == (
            pair.kind,
            pair.a,
            pair.b,
        ):
            raise Refused("pair-known", "it is a pair already", remedy="change what it is to do")
    number = job.counter + 1
    fit_pair = FitPair(
        id=PairId(f"f{number}"),
        kind=pair.kind,
        a=pair.a.body,
        b=pair.b.body,
        point=numbers_at("drawn", job, body, pair.at),
        size=pair.sizes_mm[0] / MM_PER[job.settled_unit(body)] if pair.sizes_mm else 0.0,
        intent=action.intent,
    )
    return job.model_copy(update={"pairs": (*job.pairs, fit_pair), "counter": number})


def mean_pair(job: Job, action: MeanPair, store: GeometryStore) -> Job:
    """Say what a pair is to do."""
    pair = job.pair(action.pair).model_copy(
        update={"intent": action.intent, "typed": " ".join(action.typed.split())}
    )
    located_pair = located(job, pair, store)
    wanted(
        pair,
        job.machine.process.kind,
        located_pair.sizes_mm[0] if located_pair and located_pair.sizes_mm else 0.0,
    )
    return job.model_copy(
        update={"pairs": tuple(pair if fit_pair.id == pair.id else fit_pair for fit_pair in job.pairs)}
    )


def unpair(job: Job, action: UnPair, store: GeometryStore) -> Job:
    """Take a pair away."""
    gone = job.pair(action.pair)
    return job.model_copy(update={"pairs": tuple(pair for pair in job.pairs if pair.id != gone.id)})


def with_pairs(job: Job, succession: Succession) -> Job:
    """Return a job whose pairs are on the bodies that took over from theirs."""
    follows, scale = succession.replacement.successor_of, succession.replacement.scale
    if not job.pairs or not follows:
        return job
    return job.model_copy(
        update={
            "pairs": tuple(
                pair.model_copy(
                    update={
                        "a": follows.get(pair.a, pair.a),
                        "b": follows.get(pair.b, pair.b),
                        "point": as_vec3(scale * np.asarray(pair.point)) if pair.a in follows else pair.point,
                        "size": scale * pair.size if pair.a in follows else pair.size,
                    }
                )
                for pair in job.pairs
            )
        }
    )


def without_lost_bodies(before: Job, after: Job) -> Job:
    """Return a job without pairs of bodies that it has no more."""
    here = {body.id for body in after.bodies}
    if all({pair.a, pair.b} <= here for pair in after.pairs):
        return after
    return after.model_copy(update={"pairs": tuple(pair for pair in after.pairs if {pair.a, pair.b} <= here)})


ACTIONS = (
    ActionHandler(PairUp, pair_up),
    ActionHandler(MeanPair, mean_pair),
    ActionHandler(UnPair, unpair),
)
