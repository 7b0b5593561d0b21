"""The addresses of the list of jobs: searched a page at a time, jobs copied, put away and had back."""

from __future__ import annotations

import hashlib
from typing import Annotated

from fastapi import APIRouter, Path, Query, Request, Response
from fastapi.responses import FileResponse, JSONResponse
from pydantic import BaseModel, Field

from aimtrue.api.fair_queue import QueuedRoute
from aimtrue.api.shared import run_isolated
from aimtrue.api.views import JobLine, OpenedJob, job_line
from aimtrue.core.drawing.thumbnail import VERSION as THUMBNAIL_VERSION
from aimtrue.core.intake.actions import RenameJob
from aimtrue.settings import settings
from aimtrue.store import job_list, jobs
from aimtrue.store.database import sessions, snapshot
from aimtrue.store.geometry_store import made_since_boot, written_aside
from aimtrue.store.job_list import BIN_DAYS, PAGE, JobOrder, JobPlace, JobQuery, JobsWanted
from aimtrue.work.change import change
from aimtrue.work.sandboxed import draw_thumbnail

router = APIRouter(prefix="/api")
heavy = APIRouter(prefix="/api", route_class=QueuedRoute)


class JobListPage(BaseModel):
    """A page of the list: its rows, how many there are in all, and how many of each kind and label."""

    rows: list[JobLine]
    count: int
    page_size: int
    bin_days: int
    counts: dict[JobsWanted, int]
    labels: dict[str, int]


@router.get("/job-list", response_model=JobListPage)
def listed(
    request: Request,
    text: Annotated[str, Query(max_length=200)] = "",
    wanted: JobsWanted = "all",
    order: JobOrder = "changed",
    page: Annotated[int, Query(ge=0, le=10_000)] = 0,
    label: Annotated[str, Query(max_length=40)] = "",
) -> Response:
    """Return a page of the list of jobs; a browser that has it as it is, is told just that."""
    query = JobQuery(text=text, wanted=wanted, label=label, order=order, page=page)
    with snapshot() as session:
        headers = {"ETag": f'"{job_list.page_name(session, query)}"', "Cache-Control": "private, no-cache"}
        if request.headers.get("if-none-match") == headers["ETag"]:
            return Response(status_code=304, headers=headers)
        found = job_list.page_of(session, query)
        rows = [job_line(row) for row in found.rows]
    answer = JobListPage(
        rows=rows,
        count=found.count,
        page_size=PAGE,
        bin_days=BIN_DAYS,
        counts=found.counts,
        labels=found.labels,
    )
    return JSONResponse(answer.model_dump(mode="json"), headers=headers)


@heavy.get("/jobs/{key}/thumbnail/{number}", response_class=Response)
def drawn(key: str, number: Annotated[int, Path(ge=1, le=2**31 - 1)]) -> Response:
    """Return a job at a glance, as SVG; of one that has gone on since, as it is now."""
    with snapshot() as session:
        loaded = jobs.load(session, key)
    name = hashlib.sha256(f"{loaded.revision.digest} {THUMBNAIL_VERSION}".encode()).hexdigest()
    path = settings().cache / f"{name}.thumbnail"
    if not made_since_boot(path):
        picture = run_isolated(draw_thumbnail, loaded.job, [body.id for body in loaded.job.bodies])
        with written_aside() as (out, aside):
            out.write(picture.encode())
        aside.replace(path)
    kept = "private, max-age=604800, immutable" if loaded.revision.number == number else "no-store"
    return FileResponse(path, media_type="image/svg+xml", headers={"Cache-Control": kept})


class PutJobs(BaseModel):
    """Jobs, and where they are to be: in the list, in the archive, or in the bin."""

    jobs: list[str] = Field(min_length=1, max_length=500)
    place: JobPlace


class JobsPut(BaseModel):
    """How many jobs were put there; others were gone already."""

    count: int


@router.post("/job-list/place")
def put(asked: PutJobs) -> JobsPut:
    """Put jobs into the archive or the bin, or back into the list. What is in the bin goes after some
    weeks.
    """
    with sessions().begin() as session:
        return JobsPut(count=job_list.put(session, asked.jobs, asked.place))


class LabelJobs(BaseModel):
    """Jobs, and a label that they are to have, or no longer."""

    jobs: list[str] = Field(min_length=1, max_length=500)
    label: str = Field(max_length=200)
    on: bool = True


@router.post("/job-list/label")
def put_label(asked: LabelJobs) -> JobsPut:
    """Give jobs a label, or take it from them."""
    with sessions().begin() as session:
        return JobsPut(count=job_list.set_label(session, asked.jobs, asked.label, on=asked.on))


class JobName(BaseModel):
    """What a job is to be called."""

    name: str = Field(max_length=200)


@router.post("/jobs/{key}/name", status_code=204)
def rename(key: str, asked: JobName) -> None:
    """Give a job a name, as an action of its own that can be undone there."""
    with snapshot() as session:
        seen = jobs.load(session, key).revision.number
    change(key, seen, RenameJob(name=asked.name))


@router.post("/jobs/{key}/copy", status_code=201)
def copy(key: str) -> OpenedJob:
    """Open a job that is as another is now, with its files; its history and its releases stay with that."""
    with sessions().begin() as session:
        job = jobs.load(session, key).job
        name = f"{job.name[:70]} copy"
        twin = job.model_copy(update={"name": name})
        return OpenedJob(id=jobs.create_with(session, name, [twin], f"copy of {job.name}"))
