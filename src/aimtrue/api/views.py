"""This module says what travels to the browser."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from typing import Any, Literal

from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from aimtrue.core.actions import UserAction
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.job import Job
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.upgrades import RELEASES
from aimtrue.core.model.value import Vec3
from aimtrue.core.release import making
from aimtrue.core.release.sheet.content import letter_of
from aimtrue.core.survey.job_summary import JobSummary
from aimtrue.core.survey.survey import survey
from aimtrue.core.survey.values import NewestRelease, Survey
from aimtrue.core.tasks import UserTask
from aimtrue.store import job_releases, job_tasks, jobs
from aimtrue.store.tables import ReleaseRow, TaskRow


class Problem(BaseModel):
    """What is wrong, where, and what to do."""

    code: str
    says: str
    where: str = ""
    remedy: str = ""


class TaskView(BaseModel):
    """A background task: ``share`` runs from 0 to 1."""

    id: int
    kind: Literal["read", "remake", "list", "release", "send"]
    does: str = Field(description="what is made anew, by the name of the task; empty of other kinds")
    state: Literal["waiting", "doing", "done", "failed"]
    share: float
    says: str
    name: str
    sha256: str
    preview: str | None = Field(None, description="a mesh to draw while the file is still being read")
    error: Problem | None


class ReleaseView(BaseModel):
    """A release that was proven.

    ``current`` tells whether the job still is as it was released, ``recorded`` whether a proof record was
    kept, ``name`` that of its first file.
    """

    number: int
    current: bool
    revision: int
    at: datetime
    files: int
    bytes: int
    name: str
    recorded: bool
    letter: str


class ReleaseDetail(BaseModel):
    """The files of a release, each with its proof; fetched when they are looked at."""

    number: int
    files: list[making.ReleasedFile]


class JobView(BaseModel):
    """A job as it stands, with all that its sheets show."""

    id: str
    number: int = Field(description="revision; send it back as `on` with every change")
    undo: str | None = Field(description="what an undo would take back; None when there is nothing")
    redo: str | None
    undo_on: str = Field(description="the sheet of what an undo would take back; empty where there is none")
    redo_on: str = Field(description="the sheet of what a redo would do again; empty where there is none")
    undo_brought: list[str] = Field(description="bodies made anew by the step that an undo would take back")
    job: Job
    survey: Survey
    tasks: list[TaskView]
    releases: list[ReleaseView]


class JobLine(BaseModel):
    """A row of the list of jobs; ``number`` is that of its newest revision."""

    id: str
    number: int
    name: str
    labels: list[str]
    stops: int
    demo: bool
    changed: datetime
    file: str | None
    files: int
    bodies: int
    triangles: int
    unit: str | None
    how: str | None
    size_mm: Vec3 | None
    takes: str = ""
    releases: int
    says: str
    failed: bool


class OpenedJob(BaseModel):
    """The job a dropped file opened, or joined."""

    id: str


class ActRequest(BaseModel):
    """One action, and the revision it was decided on."""

    on: int
    action: UserAction


class HistoryStep(BaseModel):
    """An undo or redo, and the revision it was decided on."""

    on: int


class AskTask(BaseModel):
    """Bodies to be made anew in the background, and the revision it was decided on.

    ``begin`` False only reads what is typed, so that a slip is told where it was made.
    """

    on: int
    begin: bool = True
    task: UserTask


class UploadLimits(BaseModel):
    """What the page must know before a file is sent."""

    upload_bytes: int
    endings: list[str]


_PARTS: Memo[dict[str, Any]] = Memo(32_768)
_LISTS = ("sources", "bodies", "kits", "readings")


@dataclass(frozen=True)
class JobActivity:
    """What is told of a job besides its state: the tasks that pages show, and its releases."""

    tasks: Sequence[TaskRow]
    releases: Sequence[job_releases.ReleasedRow]


def beside(session: Session, loaded: jobs.LoadedJob) -> JobActivity:
    """Fetch what is told of a job besides its state."""
    return JobActivity(_tasks(session, loaded), job_releases.released(session, loaded))


def state_of(loaded: jobs.LoadedJob, activity: JobActivity) -> tuple[object, ...]:
    """Return what an answer about a job depends on, in short."""
    tasks = [(row.id, row.state, row.share, row.says, str(row.changed)) for row in activity.tasks]
    releases = [(row.number, row.current) for row in activity.releases]
    return loaded.revision.number, loaded.revision.digest, tasks, releases


def job_parts(store: GeometryStore, loaded: jobs.LoadedJob, activity: JobActivity) -> dict[str, Any]:
    """Gather a job and everything its sheets show, as JSON; parts that did not change are the same objects.

    The shape is that of :class:`JobView`.
    """
    job, releases = loaded.job, [_release_view(row) for row in activity.releases]
    newest = NewestRelease(number=releases[0].number, current=releases[0].current) if releases else None
    return {
        "id": loaded.row.id,
        "number": loaded.revision.number,
        "undo": loaded.undo_says,
        "redo": loaded.redo_says,
        "undo_on": loaded.undo_on,
        "redo_on": loaded.redo_on,
        "undo_brought": list(loaded.undo_brought),
        "job": _plain(job, _LISTS),
        "survey": _plain(survey(job, store, newest), ("sources", "bodies", "kits", "findings", "truths")),
        "tasks": [_task_view(row).model_dump(mode="json") for row in activity.tasks],
        "releases": [release.model_dump(mode="json") for release in releases],
    }


def _plain(whole: BaseModel, lists: tuple[str, ...]) -> dict[str, Any]:
    """Return a value as JSON, its long lists entry by entry, each made once."""
    parts = whole.model_dump(mode="json", exclude=set(lists))
    for name in lists:
        parts[name] = [_PARTS.get((part,), (), partial(_dumped, part)) for part in getattr(whole, name)]
    return parts


def _dumped(part: BaseModel) -> dict[str, Any]:
    return part.model_dump(mode="json")


def _tasks(session: Session, loaded: jobs.LoadedJob) -> Sequence[TaskRow]:
    """The tasks that the pages show: those under way, those that failed, and the newest."""
    rows = job_tasks.tasks(session, loaded.row.id)
    return [row for i, row in enumerate(rows) if i == 0 or row.state != "done"]


def job_line(listed: jobs.ListedJob) -> JobLine:
    """Make a row of the list of jobs."""
    row, task = listed.row, listed.task
    line = JobSummary.model_validate(row.line)
    return JobLine(
        id=row.id,
        number=row.head,
        name=row.name,
        labels=row.labels,
        stops=row.stops or 0,
        demo=row.demo,
        changed=row.changed,
        file=line.file or (task.request.get("name") if task else None),
        triangles=line.triangles,
        unit=line.unit,
        how=line.how,
        size_mm=line.size_mm,
        takes=line.takes,
        files=line.files,
        bodies=line.bodies,
        releases=listed.releases,
        says=task.says if task and not line.bodies else "",
        failed=not line.bodies and task is not None and task.state == "failed",
    )


def _task_view(row: TaskRow) -> TaskView:
    return TaskView.model_validate(
        {
            "id": row.id,
            "kind": row.kind,
            "does": row.request.get("task", {}).get("do", ""),
            "state": row.state,
            "share": row.share,
            "says": row.says,
            "name": row.request.get("name") or row.request.get("task", {}).get("name", ""),
            "sha256": row.request.get("sha256") or row.request.get("task", {}).get("sha256", ""),
            "preview": row.request.get("preview"),
            "error": row.error,
        }
    )


def _release_view(released: job_releases.ReleasedRow) -> ReleaseView:
    row = released.row
    return ReleaseView(
        number=row.number,
        current=released.current,
        revision=row.revision,
        at=row.created,
        files=len(row.files),
        bytes=sum(file["bytes"] for file in row.files),
        name=row.files[0]["name"],
        recorded=row.record is not None,
        letter=letter_of(row.number),
    )


def release_detail(row: ReleaseRow) -> ReleaseDetail:
    """Make what is shown of a release that is looked at."""
    files = [RELEASES.up(file, row.version) for file in row.files]
    return ReleaseDetail(
        number=row.number, files=[making.ReleasedFile.model_validate(file) for file in files]
    )
