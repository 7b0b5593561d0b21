"""The addresses of sheet 6: releases asked for, looked at, taken, and files held against them."""

from __future__ import annotations

from datetime import datetime
from functools import partial
from typing import Literal

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from aimtrue.api import uploads
from aimtrue.api.answers import JobAnswer, Seen, answer
from aimtrue.api.fair_queue import HEAVY_REQUESTS, QueuedRoute
from aimtrue.api.guard import who_asks
from aimtrue.api.shared import downloaded, run_isolated, store, whole, written
from aimtrue.api.views import ReleaseDetail, release_detail
from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.proof.record import HeldNumber, Record
from aimtrue.core.release.history import Difference, changes
from aimtrue.core.release.making import refuse_unreleasable
from aimtrue.core.release.manifest import RECORD, as_csv, as_json, manifest_of
from aimtrue.core.release.names import FIELDS, safe
from aimtrue.core.release.order import MEDIA_TYPES, Order, ReleaseChoices
from aimtrue.core.release.preview import Preview, preview
from aimtrue.core.release.sheet import Paper, ProofSheet, sheet_of
from aimtrue.store import blobs, job_releases, jobs, patterns
from aimtrue.store.database import sessions, snapshot
from aimtrue.store.tables import ReleaseRow, TaskRow
from aimtrue.work import change, sandbox
from aimtrue.work.queue import ask_release
from aimtrue.work.sandboxed import draw_bodies, print_sheet, verify_file
from aimtrue.work.sending import files_of, zip_of
from aimtrue.work.tasks import usual_limits

router = APIRouter(prefix="/api")
heavy = APIRouter(prefix="/api", route_class=QueuedRoute)


class AskRelease(ReleaseChoices):
    """A release to be made of a revision; bodies None means all."""

    on: int


class AskPreview(ReleaseChoices):
    """A release that is thought of, and the number of the file that is looked at."""

    shown: int = Field(0, ge=0)


class Patterns(BaseModel):
    """Patterns of names that were used, and the fields that there are, with what they stand for."""

    used: list[str]
    fields: dict[str, str]


class ForgetPattern(BaseModel):
    """A pattern to be kept no longer."""

    pattern: str


class GoBack(BaseModel):
    """The revision that going back to a release was decided on."""

    on: int


class VerifiedFile(BaseModel):
    """A file held against the record of a release: every number, and the file's name there."""

    holds: bool
    checks: list[HeldNumber]


def _order(asked: ReleaseChoices, number: int) -> Order:
    now = datetime.now().astimezone()
    fields = asked.model_dump(exclude={"on", "shown", "jobs"})
    return Order.model_validate({**fields, "number": number, "day": f"{now:%Y-%m-%d}", "time": f"{now:%H%M}"})


@heavy.post("/jobs/{key}/releases/preview")
def preview_release(key: str, asked: AskPreview) -> Preview:
    """Say what a release would be: every name, what files hold, and what to mind."""
    with snapshot() as session:
        job = jobs.load(session, key).job
        earlier = job_releases.released_names(session, key)
        order = _order(asked, job_releases.last_release(session, key) + 1)
    return preview(job, store, order, earlier, asked.shown)


@router.post("/jobs/{key}/releases", status_code=202, response_model=JobAnswer)
def release(key: str, asked: AskRelease, seen: Seen = "") -> Response:
    """Ask for a release of the job as the caller sees it; it is made in the background."""
    with sessions().begin() as session:
        loaded = jobs.load(session, key)
        jobs.refuse_stale(session, loaded, asked.on)
        order = _order(asked, job_releases.last_release(session, key) + 1)
        refuse_unreleasable(loaded.job, store, order)
        ask_release(session, key, asked.on, order)
        return answer(session, key, seen, 202)


class AskBulk(ReleaseChoices):
    """Jobs that are released alike, each by itself; what one cannot do does not stop the others."""

    jobs: list[str] = Field(min_length=1, max_length=1000)


class BulkRow(BaseModel):
    """How one job of many goes: ``task`` is its task, None where it could not even be begun."""

    job: str
    name: str
    task: int | None
    state: Literal["waiting", "doing", "done", "failed"]
    says: str
    files: list[str]


class AskBulkState(BaseModel):
    """The rows that were asked for, as they were answered."""

    rows: list[BulkRow] = Field(max_length=1000)


@router.post("/bulk/releases", status_code=202)
def release_many(asked: AskBulk) -> list[BulkRow]:
    """Ask for releases of many jobs with the same settings."""
    return [_begun(key, asked) for key in dict.fromkeys(asked.jobs)]


def _begun(key: str, asked: AskBulk) -> BulkRow:
    name = ""
    try:
        with sessions().begin() as session:
            loaded = jobs.load(session, key)
            name = loaded.job.name
            order = _order(asked, job_releases.last_release(session, key) + 1)
            refuse_unreleasable(loaded.job, store, order)
            task = ask_release(session, key, loaded.revision.number, order)
    except AimTrueError as error:
        return BulkRow(job=key, name=name, task=None, state="failed", says=error.line(), files=[])
    return BulkRow(job=key, name=name, task=task, state="waiting", says="waiting", files=[])


@router.post("/bulk/state")
def bulk_state(asked: AskBulkState) -> list[BulkRow]:
    """Say how the jobs of a bulk release are by now."""
    with snapshot() as session:
        return [_now(session, row) for row in asked.rows]


def _now(session: Session, row: BulkRow) -> BulkRow:
    task = None if row.task is None else session.get(TaskRow, row.task)
    if task is None or task.job != row.job or row.state in ("done", "failed"):
        return row
    says = task.says if task.error is None else ", ".join(filter(None, (task.says, task.error["remedy"])))
    files: list[str] = []
    if task.state == "done":
        release_row = job_releases.release_of(session, row.job, int(task.request["release"]))
        files = [file["name"] for file in release_row.files]
    return row.model_copy(update={"state": task.state, "says": says, "files": files})


@router.get("/patterns")
def list_patterns() -> Patterns:
    """List the patterns of names that were used, the last first, and what they are made of."""
    with snapshot() as session:
        return Patterns(used=patterns.every(session), fields=FIELDS)


@router.post("/patterns/forget")
def forget_pattern(asked: ForgetPattern) -> Patterns:
    """Keep a pattern no longer."""
    with sessions().begin() as session:
        patterns.forget(session, asked.pattern)
    return list_patterns()


@router.get("/jobs/{key}/releases/{number}")
def release_files(key: str, number: int) -> ReleaseDetail:
    """Return the files of a release with their proofs."""
    with snapshot() as session:
        return release_detail(job_releases.release_of(session, key, number))


@router.get("/jobs/{key}/releases/{number}/file")
def released_file(key: str, number: int, file: int | None = None) -> Response:
    """Hand over one file of a release, or all of them: as it is when it is one, else in a ZIP."""
    with snapshot() as session:
        release_row = job_releases.release_of(session, key, number)
        if file is not None and not 0 <= file < len(release_row.files):
            raise jobs.UnknownJob("release-unknown", f"there is no such file in release {number} of this job")
        files = release_row.files if file is None else [release_row.files[file]]
        if len(files) > 1:
            return written(
                partial(zip_of, session, key, release_row), f"{_stem(session, key, number)}.zip", "zip"
            )
    single = files[0]
    return downloaded(single["sha256"], single["name"], MEDIA_TYPES[single["format"]])


@heavy.get("/jobs/{key}/releases/{number}/zip")
def release_aszip_of(key: str, number: int) -> Response:
    """Hand over a release in a ZIP, with its manifest and its proof record."""
    with snapshot() as session:
        release_row = job_releases.release_of(session, key, number)
        return written(
            partial(zip_of, session, key, release_row), f"{_stem(session, key, number)}.zip", "zip"
        )


@router.get("/jobs/{key}/releases/{number}/manifest.{kind}")
def release_manifest(key: str, number: int, kind: str) -> Response:
    """Hand over the list of a release's files, as JSON or CSV."""
    with snapshot() as session:
        release_row = job_releases.release_of(session, key, number)
        manifest = manifest_of(_name(session, key, release_row), number, files_of(release_row))
        name = f"{_stem(session, key, number)}_manifest.{kind}"
    if kind not in ("json", "csv"):
        raise jobs.UnknownJob("manifest-kind", "a manifest is JSON or CSV")
    return whole(as_json(manifest) if kind == "json" else as_csv(manifest), name, kind)


@router.get("/jobs/{key}/releases/{number}/record")
def release_record(key: str, number: int) -> Response:
    """Hand over the proof record of a release, which `aimtrue verify` takes anywhere."""
    with snapshot() as session:
        return whole(record_bytes(session, job_releases.release_of(session, key, number)), RECORD, "json")


@heavy.get("/jobs/{key}/releases/{number}/sheet")
def release_sheet(key: str, number: int) -> ProofSheet:
    """Return what the proof sheet of a release says."""
    return _sheet(key, number)[1]


@heavy.get("/jobs/{key}/releases/{number}/sheet.pdf")
def printed_sheet(key: str, number: int, kind: Paper = "a4") -> Response:
    """Hand over the proof sheet of a release to be printed."""
    job, sheet = _sheet(key, number)
    pages = run_isolated(print_sheet, job, [body.id for body in job.bodies], sheet, kind)
    return whole(pages, f"{safe(sheet.job)}_r{number}_proof.pdf", "pdf")


@heavy.get("/jobs/{key}/releases/{number}/drawing/{body}", response_class=Response)
def released_drawing(key: str, number: int, body: BodyId) -> Response:
    """Return the three-view drawing of a body as it was released."""
    with snapshot() as session:
        job = _job_then(session, key, job_releases.release_of(session, key, number))
    drawn = job.body(body)
    drawing = run_isolated(draw_bodies, job, (body,), (body,), drawn.name)
    return Response(drawing, media_type="image/svg+xml")


@router.post("/jobs/{key}/releases/{number}/verify")
async def verify_release(request: Request, key: str, number: int, name: str) -> VerifiedFile:
    """Hold a file against a release; the body of the request is the file, byte for byte."""
    with await uploads.spool(request, name) as file:

        def held() -> VerifiedFile:
            with snapshot() as session:
                record = Record.model_validate_json(
                    record_bytes(session, job_releases.release_of(session, key, number))
                )
            with uploads.at_a_path(file) as path:
                rows = sandbox.run(verify_file, path, name, record, limits=usual_limits())
            return VerifiedFile(holds=all(row.holds for row in rows), checks=rows)

        async with HEAVY_REQUESTS.place(who_asks(request)):
            return await run_in_threadpool(held)


@router.get("/jobs/{key}/releases/{number}/changes")
def release_changes(key: str, number: int, since: int | None = None) -> list[Difference]:
    """Return what changed since another release (the one before, unless told), or to the job as it stands."""
    with snapshot() as session:
        release_row = job_releases.release_of(session, key, number)
        earlier = number - 1 if since is None else since
        if earlier < 1:
            return []
        before = job_releases.release_of(session, key, earlier)
        states = [jobs.at(session, key, release_row.revision) for release_row in (before, release_row)]
    return list(changes(states[0], states[1], _ids(before), _ids(release_row)))


@router.post("/jobs/{key}/releases/{number}/back", response_model=JobAnswer)
def back_to_release(key: str, number: int, asked: GoBack, seen: Seen = "") -> Response:
    """Open the job as it was when a release was made; an undo takes that back."""
    with snapshot() as session:
        release_row = job_releases.release_of(session, key, number)
    change.back_to(key, asked.on, release_row.revision, f"go back to release {number}")
    with snapshot() as session:
        return answer(session, key, seen)


def _sheet(key: str, number: int) -> tuple[Job, ProofSheet]:
    with snapshot() as session:
        release_row = job_releases.release_of(session, key, number)
        job = _job_then(session, key, release_row)
    day = f"{release_row.created:%Y-%m-%d}"
    seated = (release_row.order or {}).get("place", "seated") == "seated"
    return job, sheet_of(job, number, day, files_of(release_row), store, seated=seated)


def _ids(row: ReleaseRow) -> tuple[str, ...] | None:
    """The bodies of a release; of one kept before they were noted it is not known which."""
    ids = tuple(dict.fromkeys(key for file in files_of(row) for key in file.ids))
    return ids or None


def _job_then(session: Session, key: str, row: ReleaseRow) -> Job:
    return jobs.at(session, key, row.revision)


def _name(session: Session, key: str, row: ReleaseRow) -> str:
    return _job_then(session, key, row).name


def _stem(session: Session, key: str, number: int) -> str:
    return f"{safe(jobs.load(session, key).job.name)}_r{number}"


def record_bytes(session: Session, row: ReleaseRow) -> bytes:
    """Return the proof record of a release as JSON, or raise :class:`~aimtrue.store.jobs.UnknownJob`."""
    if row.record is None:
        raise jobs.UnknownJob(
            "record-unknown",
            "this release was made before records were kept",
            remedy="release it again",
        )
    return blobs.read(session, row.record)
