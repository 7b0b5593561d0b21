"""The addresses of sheet 3 that are no actions: pairs that are offered, details, walls."""

from __future__ import annotations

from fastapi import APIRouter

from aimtrue.api.fair_queue import QueuedRoute
from aimtrue.api.shared import run_isolated, store
from aimtrue.core.fit.answers import BodyWalls, wall_limit
from aimtrue.core.fit.between import FitAnswer
from aimtrue.core.fit.detail import PairDetail, bodies_of_pair
from aimtrue.core.fit.offers import PairOffer
from aimtrue.core.fit.room import FitSurvey, survey_of
from aimtrue.core.mesh.surface_map.strokes import SurfaceStrokes
from aimtrue.core.model.ids import BodyId, PairId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length
from aimtrue.core.model.ownership import in_use
from aimtrue.store import jobs
from aimtrue.store.database import snapshot
from aimtrue.work.sandboxed import (
    TriedBodies,
    draw_gaps,
    draw_nearest,
    draw_pair,
    draw_walls,
    measure_walls,
    offer_pairs,
    try_fit,
)

router = APIRouter(prefix="/api")
heavy = APIRouter(prefix="/api", route_class=QueuedRoute)


def job_of(key: str) -> Job:
    """Return a job as it stands."""
    with snapshot() as session:
        return jobs.load(session, key).job


@heavy.get("/jobs/{key}/fit")
def pairs(key: str) -> FitSurvey:
    """Return how the pairs of a job stand, as its view has it, too."""
    return survey_of(job_of(key), store)


@heavy.get("/jobs/{key}/fit/offers")
def offers(key: str) -> list[PairOffer]:
    """List what nearly goes together and is no pair yet."""
    job = job_of(key)
    return list(run_isolated(offer_pairs, job, [body.id for body in job.bodies]))


@heavy.get("/jobs/{key}/fit/pairs/{pair}")
def detail(key: str, pair: PairId, depth: float = 0.0) -> PairDetail:
    """Return a section through a pair, so many mm in front of its place."""
    job = job_of(key)
    return run_isolated(draw_pair, job, bodies_of_pair(job, pair, store), pair, depth)


@heavy.get("/jobs/{key}/fit/walls")
def walls(key: str, under: str = "") -> list[BodyWalls]:
    """Measure the walls of all bodies, as released; ``under`` is a length, or beads: two unless told."""
    job = job_of(key)
    keys = tuple(body.id for body in in_use(job, job.bodies) if job.settled((body,)) and body.health.closed)
    return run_isolated(measure_walls, job, keys, keys, wall_limit(job, under))


@heavy.get("/jobs/{key}/fit/walls/{body}")
def drawn_walls(key: str, body: BodyId, under: str = "") -> SurfaceStrokes:
    """Draw how thick the walls of a body are, as hatch on its surface."""
    job = job_of(key)
    return run_isolated(draw_walls, job, (body,), body, wall_limit(job, under))


@heavy.get("/jobs/{key}/fit/between/{one}/{other}")
def between(key: str, one: BodyId, other: BodyId, place: str = "") -> FitAnswer:
    """Say how two bodies go together, the second where it is tried; see ``--place`` of the command line."""
    return run_isolated(try_fit, job_of(key), (one, other), TriedBodies(one, other, place))


@heavy.get("/jobs/{key}/fit/between/{one}/{other}/section")
def nearest(key: str, one: BodyId, other: BodyId, place: str = "", depth: float = 0.0) -> PairDetail:
    """Return a section where two bodies are nearest, so many mm in front of that place."""
    return run_isolated(draw_nearest, job_of(key), (one, other), TriedBodies(one, other, place), depth)


@heavy.get("/jobs/{key}/fit/between/{one}/{other}/gaps")
def gaps(key: str, one: BodyId, other: BodyId, place: str = "", upto: str = "") -> SurfaceStrokes:
    """Draw the gap between two bodies on the first; ``upto`` is the greatest length that is drawn."""
    most = parse_length(upto) if upto.strip() else None
    return run_isolated(draw_gaps, job_of(key), (one, other), TriedBodies(one, other, place), most)
