"""The addresses of sheet 3 that are no actions: pairs that are offered, details, walls."""

from __future__ import annotations

from fastapi import APIRouter

from aimtrue.api.fair_queue import QueuedRoute
from aimtrue.api.shared import run_isolated, store
from aimtrue.core.fit.answers import BodyWalls
from aimtrue.core.fit.detail import PairDetail, bodies_of_pair
from aimtrue.core.fit.offers import PairOffer
from aimtrue.core.fit.room import FitSurvey, survey_of
from aimtrue.core.model.ids import PairId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length
from aimtrue.core.model.ownership import in_use
from aimtrue.store import jobs
from aimtrue.store.database import snapshot
from aimtrue.work.sandboxed import draw_pair, measure_walls, offer_pairs

router = APIRouter(prefix="/api")
heavy = APIRouter(prefix="/api", route_class=QueuedRoute)


def _job(key: str) -> Job:
    with snapshot() as session:
        return jobs.load(session, key).job


@heavy.get("/jobs/{key}/fit")
def pairs(key: str) -> FitSurvey:
    """Return how the pairs of a job stand, as its view has it, too."""
    return survey_of(_job(key), store)


@heavy.get("/jobs/{key}/fit/offers")
def offers(key: str) -> list[PairOffer]:
    """List what nearly goes together and is no pair yet."""
    job = _job(key)
    return list(run_isolated(offer_pairs, job, [body.id for body in job.bodies]))


@heavy.get("/jobs/{key}/fit/pairs/{pair}")
def detail(key: str, pair: PairId) -> PairDetail:
    """Return a section through a pair."""
    job = _job(key)
    return run_isolated(draw_pair, job, bodies_of_pair(job, pair, store), pair)


@heavy.get("/jobs/{key}/fit/walls")
def walls(key: str, under: str = "") -> list[BodyWalls]:
    """Measure the walls of all bodies, as released; ``under`` is a length, two beads unless told."""
    job = _job(key)
    limit = parse_length(under) if under.strip() else 2 * job.machine.process.bead
    keys = tuple(body.id for body in in_use(job, job.bodies) if job.settled((body,)) and body.health.closed)
    return run_isolated(measure_walls, job, keys, keys, limit)
