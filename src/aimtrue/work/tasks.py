"""The tasks: read a file into a job, make bodies of a job anew, make a release of a job.

Each may be done twice when a worker dies in between; the second time changes nothing
that the first has finished.
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy.exc import InterfaceError, OperationalError
from sqlalchemy.orm import Session

from aimtrue.core.cost.tasks import EstimateTask
from aimtrue.core.division.stale import stale_divisions
from aimtrue.core.division.tasks import RedoDivisionTask
from aimtrue.core.errors import AimTrueError
from aimtrue.core.formats.contents import UnpackingLimits
from aimtrue.core.intake.actions import TakeIn
from aimtrue.core.intake.tasks import ListFacesTask, LookOverTask, RefineTask, ReviseTask
from aimtrue.core.model.job import Job
from aimtrue.core.model.source import Source
from aimtrue.core.release.names import safe
from aimtrue.core.release.order import Order
from aimtrue.core.tasks import Task
from aimtrue.handover.targets import send as send_release
from aimtrue.readers import answers_folder, left_in
from aimtrue.settings import settings
from aimtrue.store import blobs, handovers, job_releases, job_tasks, jobs, patterns
from aimtrue.store.database import sessions
from aimtrue.store.geometry_store import keep_at_hand, keep_drawn, on_disk
from aimtrue.store.tables import HandoverRow, ReleaseRow, TaskRow
from aimtrue.work import sandbox, sandboxed
from aimtrue.work.change import change
from aimtrue.work.orphans import worked_on
from aimtrue.work.queue import TaskPutOff, log, queue
from aimtrue.work.sending import target_named, zip_of
from aimtrue.work.stale_work import ask_faces
from aimtrue.work.stops import find_stops

_REPORTED_SECONDS = 0.2
_TASK: TypeAdapter[Any] = TypeAdapter(Task)


@queue().task(name="read")
def read(task: int) -> None:
    """Read the file an task names and let its body join the job."""
    _run(task, _read)


@queue().task(name="release")
def release(task: int) -> None:
    """Make the release an task names, and keep it when its proof holds."""
    _run(task, _release)


@queue().task(name="remake")
def remake(task: int) -> None:
    """Make bodies anew as an task says, and let them take the place of the old ones."""
    _run(task, _remake)


@queue().task(name="list")
def list_faces(task: int) -> None:
    """List the faces of bodies that came in without, as an task says."""
    _run(task, _remake)


@queue().task(name="send")
def send(task: int) -> None:
    """Send the release an task names to its target, once."""
    _run(task, _send)


def _run(task: int, doing: Callable[[TaskRow], None]) -> None:
    with sessions().begin() as session:
        # The row is locked, so that a worker that begins late undoes no other's end.
        if not job_tasks.still_open(session, task):
            return
        row = session.get_one(TaskRow, task)
        job_tasks.set_task(session, task, state="doing", share=0.02, says="starting")
    try:
        with worked_on(task):
            doing(row)
    except jobs.JobGone:
        log.info("task %s ends: its job was removed meanwhile", task)
    except AimTrueError as error:
        _failed(task, error)
    except (OperationalError, InterfaceError):
        # The database was away in the middle of it. The queue has lost the task, too; it is found again and
        # done anew (see ``orphans``), so it is not said to have failed.
        log.warning("task %s is put off: the database was away", task)
        raise TaskPutOff from None
    except Exception as error:  # noqa: BLE001 - whatever it is, it is told
        log.exception("task %s failed", task)
        _failed(
            task,
            AimTrueError(
                "task-failed",
                f"the task failed: {type(error).__name__}",
                remedy="try again; nothing was lost",
            ),
        )


def _failed(task: int, error: AimTrueError) -> None:
    with sessions().begin() as session:
        # Another worker, that was given the same task, may have ended it already.
        if job_tasks.still_open(session, task):
            job_tasks.set_task(session, task, state="failed", says=error.says, error=error_fields(error))


def error_fields(error: AimTrueError) -> dict[str, str]:
    """Return an error as fields for the interface."""
    return {"code": error.code, "says": error.says, "where": error.where, "remedy": error.remedy}


def _read(row: TaskRow) -> None:
    name, sha256 = row.request["name"], row.request["sha256"]
    path = on_disk(sha256)
    with answers_folder(settings().cache) as out:
        done = sandbox.run(
            sandboxed.read_file,
            path,
            f"s{row.id}",
            name,
            UnpackingLimits(unpacked_bytes=settings().unpacked_mb * 1_000_000),
            out,
            limits=usual_limits(),
            progress=_progress(row.id, out),
            blamed=sandboxed.blamed_on(name),
        )
        _joined(row, done, out, None, "read")


def _remake(row: TaskRow) -> None:
    task: Task = _TASK.validate_python(row.request["task"])
    job, number = _as_asked(row, task)
    if _nothing_left(job, task):
        # The task was taken back meanwhile, or another task made the same.
        with sessions().begin() as session:
            job_tasks.set_task(session, row.id, state="done", share=1.0, says="nothing was left to do")
        return
    for body in job.bodies:
        on_disk(body.geometry)
        if body.features:
            on_disk(body.features)
    sha256 = _original_of(job, task)
    if isinstance(task, RefineTask):
        _originals_at_hand(job.source(task.source))
    with answers_folder(settings().cache) as out:
        done = sandbox.run(
            sandboxed.remake_bodies,
            f"m{row.id}",
            job,
            task,
            settings().cache,
            on_disk(sha256) if sha256 else None,
            out,
            limits=replace(usual_limits(), last=isinstance(task, ListFacesTask)),
            progress=_progress(row.id, out),
        )
        _joined(row, done, out, number, done.action.words())


def _nothing_left(job: Job, task: Task) -> bool:
    """Tell whether what the system itself asked for was done meanwhile, or what it is about has gone."""
    if isinstance(task, RedoDivisionTask):
        return task.division not in {division.id for division in stale_divisions(job)}
    return isinstance(task, ListFacesTask) and not any(body.id in task.bodies for body in job.bodies)


def _joined(row: TaskRow, done: sandboxed.TaskAnswer, out: Path, number: int | None, says: str) -> None:
    """Let what was made join its job: kept first, worked out next, and then, in a moment, put in."""
    with sessions().begin() as session:
        _keep(session, out, done.blobs)

    def ended(session: Session) -> bool:
        if not job_tasks.still_open(session, row.id):
            return False
        job_tasks.set_task(session, row.id, state="done", share=1.0, says=says)
        return True

    changed = change(row.job, number, done.action, ended)
    if changed:
        find_stops(row.job)
    if changed and isinstance(done.action, TakeIn) and not all(body.features for body in done.action.bodies):
        with sessions().begin() as session:
            ask_faces(session, row.job)


def _as_asked(row: TaskRow, task: Task) -> tuple[Job, int | None]:
    """The job as its user saw it; work on one that was changed meanwhile is refused.

    What is only looked at may change meanwhile: what is found is told of geometry by its hash, and an
    estimate of all that it depends on. What is stale is made of what is there now.
    """
    number = int(row.request["revision"])
    with sessions()() as session:
        loaded = jobs.load(session, row.job)
        if isinstance(task, LookOverTask | ListFacesTask | RedoDivisionTask | EstimateTask):
            return loaded.job, None
        jobs.refuse_stale(session, loaded, number)
        return loaded.job, number


def _originals_at_hand(source: Source) -> None:
    """Fetch what a source is made of into the disk cache, where the isolated process finds it."""
    for sha256 in (source.sha256, *(file.sha256 for file in source.beside)):
        on_disk(sha256)


def _original_of(job: Job, task: Task) -> str | None:
    """The file that has to be read again, if one has."""
    if isinstance(task, ReviseTask):
        return task.sha256
    return job.source(task.source).sha256 if isinstance(task, RefineTask) else None


def _keep(session: Session, out: Path, names: tuple[str, ...]) -> None:
    """Keep what a reader left, by the hash that it really has."""
    for name in names:
        data = left_in(out, name)
        blobs.put(session, data)
        keep_at_hand(data)


def _release(row: TaskRow) -> None:
    revision = int(row.request["revision"])
    with sessions()() as session:
        job = jobs.at(session, row.job, revision)
    for body in job.bodies:
        on_disk(body.geometry)
        if body.features:
            on_disk(body.features)
    for source in {job.source_of(body) for body in job.bodies}:
        _originals_at_hand(source)
    for _ in range(_TRIES):
        try:
            _released(row, job, revision)
        except job_releases.NumberTaken:
            continue  # Of two made at the same time the second counts up, and is named and made again.
        return


_TRIES = 20


def _released(row: TaskRow, job: Job, revision: int) -> None:
    with sessions()() as session:
        order = Order.model_validate(
            {**row.request["order"], "number": job_releases.next_release(session, row.job)}
        )
        earlier = job_releases.released_names(session, row.job)
    with answers_folder(settings().cache) as out:
        release_answer = sandbox.run(
            sandboxed.make_release,
            job,
            settings().cache,
            order,
            earlier,
            out,
            limits=usual_limits(),
            progress=_progress(row.id, out),
        )
        with sessions().begin() as session:
            if not job_tasks.still_open(session, row.id):
                return
            for name in dict.fromkeys(
                (*(file.sha256 for file in release_answer.files), release_answer.record)
            ):
                blobs.put(session, left_in(out, name))
            kept = ReleaseRow(
                job=row.job,
                number=order.number,
                revision=revision,
                files=[file.model_dump(mode="json") for file in release_answer.files],
                order=order.model_dump(mode="json"),
                record=release_answer.record,
            )
            job_releases.add_release(session, row.job, kept)
            if order.pattern.strip():
                patterns.used(session, order.pattern.strip())
            says, request = f"release {order.number} is proven", {**row.request, "release": order.number}
            job_tasks.set_task(session, row.id, state="done", share=1.0, says=says, request=request)


def _send(row: TaskRow) -> None:
    """Send a release; done twice after a crash, the target takes it once, since its bytes are the same."""
    number, target = int(row.request["release"]), target_named(row.request["target"])
    with tempfile.TemporaryFile() as package:
        with sessions()() as session:
            zip_of(session, row.job, job_releases.release_of(session, row.job, number), package)
            name = f"{safe(jobs.load(session, row.job).job.name)}_r{number}.zip"
        try:
            sent = send_release(package, name, target, anywhere=settings().targets_anywhere)
        except AimTrueError as error:
            _handed(row, number, target.name, whole=False, says=error.says)
            raise
    _handed(row, number, target.name, whole=True, says=sent.says)
    with sessions().begin() as session:
        job_tasks.set_task(
            session, row.id, state="done", share=1.0, says=f"release {number} is at {target.name}"
        )


def _handed(row: TaskRow, number: int, target: str, *, whole: bool, says: str) -> None:
    with sessions().begin() as session:
        if job_tasks.still_open(session, row.id):
            kept = HandoverRow(job=row.job, release=number, way="send", target=target, whole=whole, says=says)
            handovers.note(session, kept)


def usual_limits() -> sandbox.TaskLimits:
    """Return what work in the sandbox may take, as the settings have it."""
    return sandbox.TaskLimits(seconds=settings().task_seconds, memory_bytes=settings().task_memory_bytes)


def _progress(task: int, out: Path) -> Callable[[float, str], None]:
    """Return a reporter that writes to the task at most a few times a second; a task that is done sooner
    reports nothing. A task that its user wants to stop finds a file in its folder that says so.
    """
    last = [time.monotonic()]

    def report(share: float, says: str) -> None:
        if says.startswith(sandboxed.PREVIEW):
            preview = keep_drawn(left_in(out, says.removeprefix(sandboxed.PREVIEW)))
            with sessions().begin() as session:
                row = session.get_one(TaskRow, task)
                request = {**row.request, "preview": preview}
                job_tasks.set_task(session, task, share=share, says="drawn", request=request)
        elif time.monotonic() - last[0] >= _REPORTED_SECONDS:
            last[0] = time.monotonic()
            with sessions().begin() as session:
                row = job_tasks.set_progress(session, task, share, says)
                if row.request.get("stop"):
                    with suppress(FileExistsError):
                        (out / sandboxed.STOP).touch(exist_ok=False)

    return report
