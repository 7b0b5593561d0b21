"""What travels to the browser."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from aimtrue.core.actions import UserAction
from aimtrue.core.chain.sizes import group_sizes
from aimtrue.core.intake.work import Join, Look, Mend, Refine, Separate, TakeAsOne
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.job import Job, Vec3
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.release import make
from aimtrue.core.survey.survey import survey
from aimtrue.core.survey.values import Released, Survey
from aimtrue.store import jobs
from aimtrue.store.tables import ErrandRow, JobRow, ReleaseRow, RevisionRow


class Problem(BaseModel):
    """What is wrong, where, and what to do."""

    code: str
    says: str
    where: str = ""
    remedy: str = ""


class ErrandView(BaseModel):
    """A background task: ``share`` runs from 0 to 1."""

    id: int
    kind: Literal["read", "remake", "release"]
    state: Literal["waiting", "doing", "done", "failed"]
    share: float
    says: str
    name: str
    sha256: str
    preview: str | None = Field(None, description="a mesh to draw while the file is still being read")
    error: Problem | None


class ReleaseView(BaseModel):
    """A release that was proven. ``current`` tells whether the job still is as it was released."""

    number: int
    current: bool
    revision: int
    at: datetime
    files: list[make.Released]
    bytes: int


class JobView(BaseModel):
    """A job as it stands, with all that its sheets show."""

    id: str
    number: int = Field(description="revision; send it back as `on` with every change")
    undo: str | None = Field(description="what an undo would take back; None when there is nothing")
    redo: str | None
    undo_brought: list[str] = Field(description="bodies made anew by the step that an undo would take back")
    job: Job
    survey: Survey
    errands: list[ErrandView]
    releases: list[ReleaseView]


class JobLine(BaseModel):
    """A row of the list of jobs."""

    id: str
    name: str
    demo: bool
    changed: datetime
    file: str | None
    files: int
    bodies: int
    triangles: int
    unit: str | None
    how: str | None
    size_mm: Vec3 | None
    releases: int
    says: str
    failed: bool


class Opened(BaseModel):
    """The job a dropped file opened, or joined."""

    id: str


class Act(BaseModel):
    """One action, and the revision it was decided on."""

    on: int
    action: UserAction


class Step(BaseModel):
    """An undo or redo, and the revision it was decided on."""

    on: int


class AskRelease(BaseModel):
    """A release to be made of a revision; bodies None means all."""

    on: int
    format: make.Format = "3mf"
    unit: Unit = Unit.MM
    shape: make.Bodies = "together"
    bodies: tuple[str, ...] | None = None
    pattern: str = ""


class AskWork(BaseModel):
    """Bodies to be made anew in the background, and the revision it was decided on.

    ``begin`` False only reads what is typed, so that a slip is told where it was made.
    """

    on: int
    begin: bool = True
    work: Annotated[Mend | Look | Separate | Join | TakeAsOne | Refine, Field(discriminator="do")]


class Limits(BaseModel):
    """What the page must know before a file is sent."""

    upload_bytes: int
    endings: list[str]


def job_view(session: Session, shelf: Shelf, key: str) -> JobView:
    """Gather a job and everything its sheets show."""
    loaded = jobs.load(session, key)
    releases = [_release_view(session, row, loaded) for row in jobs.releases(session, key)]
    newest = Released(number=releases[0].number, current=releases[0].current) if releases else None
    return JobView(
        id=key,
        number=loaded.revision.number,
        undo=loaded.undo_says,
        redo=loaded.redo_says,
        undo_brought=list(loaded.undo_brought),
        job=loaded.job,
        survey=survey(loaded.job, shelf, newest),
        errands=[_errand_view(row) for row in jobs.errands(session, key)],
        releases=releases,
    )


def job_line(session: Session, row: JobRow, revision: RevisionRow) -> JobLine:
    """Make a row of the list of jobs."""
    job = Job.model_validate(revision.state)
    errands = jobs.errands(session, row.id)
    source = job.sources[0] if job.sources else None
    units = {one.unit for one in job.sources}
    settled = bool(job.bodies) and None not in units
    alone = settled and len(job.groups()) == 1
    failed = not job.bodies and bool(errands) and errands[0].state == "failed"
    return JobLine(
        id=row.id,
        name=row.name,
        demo=row.demo,
        changed=row.changed,
        file=source.name if source else (errands[0].request.get("name") if errands else None),
        triangles=sum(body.triangles for body in job.bodies),
        unit=source.unit if source and len(units) == 1 else None,
        how=source.how if source and len(units) == 1 else None,
        size_mm=as_vec3(group_sizes(job, job.bodies)) if alone else None,
        files=len(job.sources),
        bodies=len(job.bodies),
        releases=len(jobs.releases(session, row.id)),
        says=errands[0].says if errands and not job.bodies else "",
        failed=failed,
    )


def _errand_view(row: ErrandRow) -> ErrandView:
    return ErrandView.model_validate(
        {
            "id": row.id,
            "kind": row.kind,
            "state": row.state,
            "share": row.share,
            "says": row.says,
            "name": row.request.get("name") or row.request.get("work", {}).get("name", ""),
            "sha256": row.request.get("sha256") or row.request.get("work", {}).get("sha256", ""),
            "preview": row.request.get("preview"),
            "error": row.error,
        }
    )


def _release_view(session: Session, row: ReleaseRow, loaded: jobs.Loaded) -> ReleaseView:
    released = session.get_one(RevisionRow, (row.job, row.revision))
    return ReleaseView(
        number=row.number,
        current=released.state == loaded.revision.state,
        revision=row.revision,
        at=row.created,
        files=[make.Released.model_validate(file) for file in row.files],
        bytes=sum(file["bytes"] for file in row.files),
    )
