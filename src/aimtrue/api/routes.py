"""The addresses under /api."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from pathlib import Path, PurePosixPath
from typing import IO

from fastapi import APIRouter, Request, Response
from fastapi.responses import FileResponse, JSONResponse, StreamingResponse
from sqlalchemy import text
from starlette.concurrency import run_in_threadpool

from aimtrue.api import uploads
from aimtrue.api.answers import JobAnswer, Seen, answer
from aimtrue.api.events import Watchers
from aimtrue.api.fair_queue import HEAVY_REQUESTS
from aimtrue.api.guard import who_asks
from aimtrue.api.shared import downloaded, store, written
from aimtrue.api.views import (
    ActRequest,
    AskTask,
    HistoryStep,
    JobLine,
    OpenedJob,
    UploadLimits,
    job_line,
)
from aimtrue.core.formats import READ_ENDINGS
from aimtrue.core.formats.contents import UnpackingLimits as PackingLimits
from aimtrue.core.intake.tasks import ReviseTask
from aimtrue.core.mesh.serialization import KIND_BYTES, bench_bytes, is_drawn, is_kept
from aimtrue.core.model.ids import SourceId
from aimtrue.core.model.text import is_sha256
from aimtrue.core.release.bundle import Bundle, BundledFile
from aimtrue.core.release.names import safe
from aimtrue.core.tasks import refuse_unclear
from aimtrue.readers import answers_folder, open_left
from aimtrue.settings import settings
from aimtrue.store import blobs, bundles, job_tasks, jobs
from aimtrue.store.database import sessions, snapshot
from aimtrue.store.geometry_store import made_since_boot, make_cache, on_disk, written_aside
from aimtrue.work import change, sandbox
from aimtrue.work.queue import ask_reading, ask_remake
from aimtrue.work.sandboxed import unpack_bundle
from aimtrue.work.stale_work import ask_stale, take_over
from aimtrue.work.tasks import usual_limits

router = APIRouter(prefix="/api")
watchers = Watchers()


def _answered(key: str, seen: str) -> Response:
    """Answer after a change: what the sheets show is worked out when the change is kept already."""
    with snapshot() as session:
        return answer(session, key, seen)


@router.get("/health")
def health() -> dict[str, str]:
    """Answer when the server and its database do."""
    with snapshot() as session:
        session.execute(text("select 1"))
    return {"state": "up"}


@router.get("/limits")
def limits() -> UploadLimits:
    """Say what files are taken."""
    return UploadLimits(upload_bytes=settings().upload_bytes, endings=list(READ_ENDINGS))


@router.get("/jobs", response_model=list[JobLine])
def list_jobs(request: Request) -> Response:
    """List all jobs, the last changed first; a page that has the list as it is, is told just that."""
    with snapshot() as session:
        headers = {"ETag": f'"{jobs.list_name(session)}"', "Cache-Control": "private, no-cache"}
        if request.headers.get("if-none-match") == headers["ETag"]:
            return Response(status_code=304, headers=headers)
        rows = [job_line(listed_job).model_dump(mode="json") for listed_job in jobs.every(session)]
    return JSONResponse(rows, headers=headers)


@router.post("/jobs", status_code=201)
async def open_job(request: Request, name: str) -> OpenedJob:
    """Open a job with a file; the body of the request is the file, byte for byte."""
    with await uploads.spool(request, name) as file:
        if name.lower().endswith(".zip"):
            async with HEAVY_REQUESTS.place(who_asks(request)):
                taken = await run_in_threadpool(_taken_bundle, file)
            if taken is not None:
                return OpenedJob(id=taken)
            file.seek(0)

        def keep() -> OpenedJob:
            with sessions().begin() as session:
                return OpenedJob(id=uploads.opened_with(session, file, name))

        return await run_in_threadpool(keep)


def _taken_bundle(file: IO[bytes]) -> str | None:
    """Make a job of a bundle, and return its id; None of any other archive."""
    limits = PackingLimits(unpacked_bytes=settings().unpacked_mb * 1_000_000)
    make_cache()
    with answers_folder(settings().cache) as out:
        with uploads.at_a_path(file) as path:
            unpacked = sandbox.run(unpack_bundle, path, limits, out, limits=usual_limits())
        if unpacked is None:
            return None

        def pieces(file: BundledFile) -> Iterator[bytes]:
            with open_left(out, file.sha256) as left:
                while piece := left.read(blobs.CHUNK):
                    yield piece

        # What comes from the sandbox is data, and no more to be trusted than the file was.
        unpacked = Bundle.model_validate(unpacked.model_dump())
        with sessions().begin() as session:
            key = bundles.take_in(session, unpacked, pieces)
            taken = jobs.load(session, key)
            # It may have been packed before something in it was made again.
            ask_stale(session, key, jobs.NewRevision(taken.revision.number, taken.job))
            return key


@router.get("/jobs/{key}/bundle")
def bundle(key: str) -> Response:
    """Hand over a whole job as one ZIP of open formats, that another machine takes in to the same state."""
    with snapshot() as session:
        name = jobs.load(session, key).job.name
        return written(partial(bundles.bundle_of, session, key), f"{safe(name)}_bundle.zip", "zip")


@router.post("/jobs/{key}/sources", status_code=201)
async def add_file(request: Request, key: str, name: str) -> OpenedJob:
    """Give a job another file; it is read in the background."""
    with await uploads.spool(request, name) as file:

        def keep() -> OpenedJob:
            with sessions().begin() as session:
                jobs.load(session, key)
                ask_reading(session, key, name, *uploads.kept_with_preview(session, file, name))
            return OpenedJob(id=key)

        return await run_in_threadpool(keep)


@router.post("/jobs/{key}/sources/{source}/revision", status_code=202, response_model=JobAnswer)
async def new_revision(
    request: Request, key: str, source: SourceId, name: str, on: int, seen: Seen = ""
) -> Response:
    """Give a new revision of a file; it is swapped in under the same bodies, in the background."""
    with await uploads.spool(request, name) as file:

        def keep() -> Response:
            with sessions().begin() as session:
                loaded = jobs.load(session, key)
                jobs.refuse_stale(session, loaded, on)
                loaded.job.source(source)
                task = ReviseTask(source=source, name=name, sha256=uploads.keep(session, file))
                ask_remake(session, key, on, task)
                return answer(session, key, seen, 202)

        return await run_in_threadpool(keep)


@router.post("/jobs/{key}/tasks", status_code=202, response_model=JobAnswer)
def ask_task(key: str, asked: AskTask, seen: Seen = "") -> Response:
    """Ask for bodies to be mended, joined, divided or cut into facets anew, in the background."""
    with sessions().begin() as session:
        loaded = jobs.load(session, key)
        jobs.refuse_stale(session, loaded, asked.on)
        refuse_unclear(loaded.job, asked.task)
        if asked.begin:
            ask_remake(session, key, asked.on, take_over(session, key, asked.task))
        return answer(session, key, seen, 202)


@router.post("/jobs/{key}/tasks/{task}/stop", status_code=204)
def stop(key: str, task: int) -> None:
    """Ask for a background task to stop with the best that it has found so far."""
    with sessions().begin() as session:
        job_tasks.ask_to_stop(session, key, task)


@router.get("/jobs/{key}", response_model=JobAnswer)
def get_job(key: str, seen: Seen = "") -> Response:
    """Return a job as it stands."""
    with snapshot() as session:
        return answer(session, key, seen)


@router.delete("/jobs/{key}", status_code=204)
def remove_job(key: str) -> None:
    """Remove a job with its history, tasks and releases. It cannot be had back."""
    with sessions().begin() as session:
        jobs.remove(session, key)


@router.post("/jobs/{key}/actions", response_model=JobAnswer)
def act(key: str, asked: ActRequest, seen: Seen = "") -> Response:
    """Do one action."""
    change.change(key, asked.on, asked.action)
    return _answered(key, seen)


@router.post("/jobs/{key}/undo", response_model=JobAnswer)
def undo(key: str, asked: HistoryStep, seen: Seen = "") -> Response:
    """Take the last action back."""
    change.undo(key, asked.on)
    return _answered(key, seen)


@router.post("/jobs/{key}/redo", response_model=JobAnswer)
def redo(key: str, asked: HistoryStep, seen: Seen = "") -> Response:
    """Do again what was undone."""
    change.redo(key, asked.on)
    return _answered(key, seen)


@router.get("/jobs/{key}/originals/{sha256}")
def original(key: str, sha256: str) -> Response:
    """Hand back a file as it was given, whether or not it could be read."""
    with snapshot() as session:
        names = {row.request.get("sha256"): row.request.get("name") for row in job_tasks.tasks(session, key)}
        for source in jobs.load(session, key).job.sources:
            names |= dict.fromkeys((source.sha256, *source.replaced), PurePosixPath(source.name).name)
    if sha256 not in names:
        raise jobs.UnknownJob("original-unknown", "there is no such file in this job")
    return downloaded(sha256, names[sha256] or "original", "application/octet-stream")


def _no_mesh() -> jobs.UnknownJob:
    return jobs.UnknownJob("blob-unknown", "there is no such mesh")


@router.get("/bench/{name}", response_class=Response)
def bench(name: str) -> FileResponse:
    """Return a mesh for drawing; see `aimtrue.core.mesh.serialization.bench_bytes` for its layout."""
    path = _on_disk(name)
    with path.open("rb") as file:
        # An original or a release is not to be had by its hash alone.
        if not is_drawn(file.read(KIND_BYTES)):
            raise _no_mesh()
    return _for_ever(path)


@router.get("/bench/{name}/full", response_class=Response)
def full_bench(name: str) -> FileResponse:
    """Return kept geometry for drawing, however large: what picks on a reduced mesh are exact on."""
    path = settings().cache / f"{name}.full"
    if not is_sha256(name) or not made_since_boot(path):
        with _on_disk(name).open("rb") as file:
            if not is_kept(file.read(KIND_BYTES)):
                raise _no_mesh()
        data = bench_bytes(store.mesh(name))
        with written_aside() as (out, aside):
            out.write(data)
        aside.replace(path)
    return _for_ever(path)


def _on_disk(name: str) -> Path:
    try:
        if is_sha256(name):
            return on_disk(name)
    except blobs.UnknownBlob:
        pass
    raise _no_mesh()


def _for_ever(path: Path) -> FileResponse:
    """Named by hash, so it never changes and can be kept for ever."""
    return FileResponse(
        path,
        media_type="application/octet-stream",
        headers={"Cache-Control": "public, max-age=31536000, immutable"},
    )


@router.get("/jobs/{key}/events", response_class=StreamingResponse)
async def events(key: str) -> StreamingResponse:
    """Tell a page whenever the job changes."""
    return StreamingResponse(
        watchers.changes(key),
        media_type="text/event-stream",
        headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
    )
