"""The addresses of what a print takes: paths of a layer, sets of settings, ways under budgets, the tool
paths.
"""

from __future__ import annotations

from contextlib import suppress

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from aimtrue.api.fair_queue import QueuedRoute
from aimtrue.api.fit import job_of
from aimtrue.api.shared import run_isolated, store, whole
from aimtrue.core.cost.survey import CostSurvey, cost_survey
from aimtrue.core.cost.tally import JobsTally, TallyView, tally, tally_of_jobs
from aimtrue.core.cost.views import (
    BudgetWays,
    CostedWay,
    CostWish,
    LayerPathsView,
    SetEffect,
    budget_ways,
    layer_paths,
    set_effects,
    way_costs,
)
from aimtrue.core.model.ids import PlateId, Subject
from aimtrue.core.release.names import safe
from aimtrue.store import job_releases, jobs
from aimtrue.store.database import snapshot
from aimtrue.work.sandboxed import tool_paths

router = APIRouter(prefix="/api")
heavy = APIRouter(prefix="/api", route_class=QueuedRoute)


@heavy.get("/jobs/{key}/cost")
def taken(key: str) -> CostSurvey:
    """Tell what the plates of a job take: in full where that is known, else quickly."""
    return cost_survey(job_of(key), store)


@heavy.get("/jobs/{key}/plates/{plate}/paths/{number}")
def paths(key: str, plate: PlateId, number: int) -> LayerPathsView:
    """Draw the paths of one layer of a plate."""
    return layer_paths(job_of(key), plate, number, store)


@heavy.get("/jobs/{key}/plates/{plate}/print-sets")
def print_sets(key: str, plate: PlateId) -> list[SetEffect]:
    """List sets of settings, and what each would change on a plate."""
    return list(set_effects(job_of(key), plate, store))


@heavy.get("/jobs/{key}/plates/{plate}/budget-ways")
def ways(key: str, plate: PlateId) -> list[BudgetWays]:
    """Work out ways under the budgets that are exceeded."""
    return list(budget_ways(job_of(key), plate, store))


@heavy.get("/jobs/{key}/plates/{plate}/paths.gcode", response_class=Response)
def gcode(key: str, plate: PlateId) -> Response:
    """Hand over the tool paths of a plate, read back and held against it."""
    with snapshot() as session:
        loaded = jobs.load(session, key)
        rows = job_releases.released(session, loaded)
    job = loaded.job
    # Of a job that was changed since, no release is what the paths are of.
    newest = next((row.row for row in rows if row.current), None)
    release = f"release {newest.number}, record sha256 {newest.record}" if newest is not None else ""
    number = [known.id for known in job.plates].index(plate) + 1
    text: bytes = run_isolated(tool_paths, job, [body.id for body in job.bodies], plate, release)
    return whole(text, f"{safe(job.name)}_plate-{number}.gcode", "gcode")


@heavy.get("/jobs/{key}/tally")
def tallied(key: str, times: int = 1, machines: int = 1) -> TallyView:
    """Add up all plates of a job, made so many times on so many machines of each kind."""
    job = job_of(key)
    names = {plate.machine.name for plate in job.plates}
    return tally(job, store, times, dict.fromkeys(names, machines))


@heavy.get("/jobs/{key}/seats/{body}/{copy_number}/way-costs")
def costed_ways(key: str, body: Subject, copy_number: int, wish: CostWish = "seconds") -> list[CostedWay]:
    """Tell what a plate would take with a seat in each way to stand, the best for a wish first."""
    return list(way_costs(job_of(key), body, copy_number, store, wish))


class TallyRequest(BaseModel):
    """The jobs that are to be added up."""

    jobs: list[str] = Field(max_length=500)


@heavy.post("/bulk/tally")
def tallied_jobs(asked: TallyRequest) -> JobsTally:
    """Add up what several jobs take; one that was removed meanwhile is left out."""
    known = {}
    for key in dict.fromkeys(asked.jobs):
        with suppress(jobs.JobGone):
            known[key] = job_of(key)
    return tally_of_jobs(known, store)
