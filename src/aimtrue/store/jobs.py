"""Jobs and their revisions: append, undo, redo; a stale write is refused, never merged."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import Text, delete, event, func, select
from sqlalchemy.orm import Session

from aimtrue.core.actions import ACTION, Action, apply, holds_after, sheet_of
from aimtrue.core.errors import AimTrueError
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.history import RevisionNote, done, redone, redone_to, undone, undone_to
from aimtrue.core.model.job import Job
from aimtrue.core.model.upgrades import JOBS
from aimtrue.core.survey import job_summary
from aimtrue.store import removal, states
from aimtrue.store.change_notices import tell
from aimtrue.store.tables import JobRow, ReleaseRow, RemovalRow, RevisionRow, TaskRow


class UnknownJob(AimTrueError):
    """There is no such job."""


class JobGone(UnknownJob):
    """There is no such job any more, or never was."""


class StaleRevision(AimTrueError):
    """The job was changed elsewhere since the caller last saw it."""


@dataclass(frozen=True)
class LoadedJob:
    """A job as it stands."""

    row: JobRow
    revision: RevisionRow
    job: Job
    redone: RevisionRow | None

    @property
    def redo_says(self) -> str | None:
        """What a redo would do again."""
        return self.redone.says if self.redone else None

    @property
    def redo_on(self) -> str:
        """The sheet of what a redo would do again; empty where there is none."""
        return self.redone.sheet if self.redone else ""

    @property
    def undo_on(self) -> str:
        """The sheet of what an undo would take back; empty where there is none."""
        return self.revision.sheet if self.revision.undo_to else ""

    @property
    def undo_says(self) -> str | None:
        """What an undo would take back."""
        return self.revision.says if self.revision.undo_to else None

    @property
    def undo_brought(self) -> tuple[str, ...]:
        """Bodies that the step which an undo would take back made anew."""
        return tuple(self.revision.brought) if self.revision.undo_to else ()


@dataclass(frozen=True)
class ListedJob:
    """A row of the list of jobs: what is kept in one line, its newest task, and how many releases it has."""

    row: JobRow
    task: TaskRow | None
    releases: int


def create(session: Session, name: str, *, demo: bool = False) -> str:
    """Make an empty job and return its id."""
    key = secrets.token_hex(6)
    session.add(JobRow(id=key, name=name, head=0, demo=demo))
    session.flush()
    _append(session, key, {"do": "open"}, RevisionNote(1, "open the job"), job=Job(name=name))
    return key


def create_with(session: Session, name: str, states_of: Sequence[Job], says: str) -> str:
    """Make a job that has some states one after another, the last as it stands, and return its id."""
    key = create(session, name)
    for number, job in enumerate(states_of, 2):
        _append(session, key, {"do": "take-in-bundle"}, RevisionNote(number, says), job=job)
    return key


def remove(session: Session, key: str) -> None:
    """Remove a job with its revisions, tasks and releases; a task under way ends without keeping anything.

    Bytes that only it named go later, see :func:`aimtrue.store.removal.sweep`.

    Raises:
        JobGone: there is no such job.
    """
    row = session.scalar(select(JobRow).where(JobRow.id == key).with_for_update())
    if row is None:
        raise unknown_job()
    session.execute(delete(JobRow).where(JobRow.id == key))
    session.add(RemovalRow(says=f"job {key}"))
    tell(session, key)


def every(session: Session) -> list[ListedJob]:
    """Return all jobs in one line each but those in the bin, the last changed first; no state is read."""
    here = select(JobRow).where(JobRow.removed.is_(None))
    rows = session.scalars(here.order_by(JobRow.demo, JobRow.changed.desc(), JobRow.id)).all()
    newest = select(TaskRow).distinct(TaskRow.job).order_by(TaskRow.job, TaskRow.id.desc())
    tasks = {row.job: row for row in session.scalars(newest)}
    counts = session.execute(select(ReleaseRow.job, func.count()).group_by(ReleaseRow.job)).all()
    releases = {key: int(count) for key, count in counts}
    return [ListedJob(row, tasks.get(row.id), releases.get(row.id, 0)) for row in rows]


def list_name(session: Session) -> str:
    """Return a name of the list of all jobs as it is now: another one whenever anything in it is another."""
    rows = [
        session.execute(
            select(
                func.count(),
                func.max(JobRow.changed),
                func.max(JobRow.removed),
                func.count(JobRow.removed),
                func.max(JobRow.archived),
                func.count(JobRow.archived),
                func.sum(JobRow.stops),
                func.count(JobRow.stops),
                func.sum(func.hashtext(func.cast(JobRow.labels, Text))),
            )
        ).one(),
        session.execute(select(func.max(TaskRow.id), func.max(TaskRow.changed))).one(),
        session.execute(select(func.count(), func.max(ReleaseRow.created))).one(),
    ]
    return hashlib.sha256(repr([job_summary.NEWEST, *map(tuple, rows)]).encode()).hexdigest()[:24]


def refresh_lines(session: Session) -> None:
    """Work out anew the lines of jobs that were kept before lines were worked out as they are now."""
    old = select(JobRow.id).where(JobRow.line_version != job_summary.NEWEST).with_for_update()
    for key in session.scalars(old).all():
        row = session.get_one(JobRow, key)
        _keep_line(row, states.job_of(_revision(session, key, row.head)))


def load(session: Session, key: str) -> LoadedJob:
    """Return a job as it stands.

    Raises:
        UnknownJob: there is no job of that id.
    """
    row, revision = _head(session, key)
    return LoadedJob(row, revision, states.job_of(revision), _redone(session, key, revision))


def _head(session: Session, key: str, *, lock: bool = False) -> tuple[JobRow, RevisionRow]:
    """Return a job's row and its newest revision, by one statement; ``lock`` keeps others from changing it.

    Of two that wait for one lock the second must see what the first kept. A joined row would be the one from
    before the wait, so what is locked is the job alone, and its revision is fetched after.
    """
    if lock:
        locked = session.scalar(select(JobRow).where(JobRow.id == key).with_for_update())
        if locked is None:
            raise unknown_job()
        return locked, _revision(session, key, locked.head)
    newest = (RevisionRow.job == JobRow.id) & (RevisionRow.number == JobRow.head)
    asked = select(JobRow, RevisionRow).join(RevisionRow, newest).where(JobRow.id == key)
    row = session.execute(asked).first()
    if row is None:
        raise unknown_job()
    return row[0], row[1]


def unknown_job() -> JobGone:
    """Return what is raised where a job is asked for that is not there."""
    return JobGone("job-unknown", "there is no such job here", remedy="go back to the list of jobs")


def at(session: Session, key: str, number: int) -> Job:
    """Return a job as some revision has it."""
    return states.job_of(_revision(session, key, number))


@dataclass(frozen=True)
class NewRevision:
    """A new revision of a job, as it was kept."""

    number: int
    job: Job


@dataclass(frozen=True)
class PrecomputedChange:
    """What an action makes of a revision, worked out before anything is locked."""

    number: int
    job: Job


def ahead(
    session: Session, store: GeometryStore, key: str, on: int | None, action: Action
) -> PrecomputedChange:
    """Work out an action on what is there, without keeping it; for :func:`act`, so that it holds no lock
    for long.
    """
    loaded = load(session, key)
    if on is not None:
        refuse_stale(session, loaded, on, of_all=action.of_all())
    return PrecomputedChange(loaded.revision.number, apply(loaded.job, action, store))


def act(
    session: Session,
    store: GeometryStore,
    key: str,
    on: int | None,
    action: Action,
    worked_out: PrecomputedChange | None = None,
) -> NewRevision:
    """Apply an action and keep the new state.

    Args:
        session: within a transaction.
        store: gives meshes to the core.
        key: the job.
        on: the revision the caller saw; None for the system itself, which acts on what is there. What the
            system only added since (a file that was read, faces that were listed) makes no difference.
        action: what to do.
        worked_out: what it makes of a revision; taken when that still is the newest.

    Returns:
        The new revision.

    Raises:
        Stale: the job has moved on since ``on``.
        Refused: the core does not take the action.
    """
    head = _locked_head(session, key, on, of_all=action.of_all())
    if worked_out is not None and worked_out.number == head.number:
        job = worked_out.job
    else:
        job = apply(states.job_of(head), action, store)
    step = done(_step(head), action, by_user=on is not None, sheet=sheet_of(action))
    return _append(session, key, ACTION.dump_python(action, mode="json"), step, job=job)


def undo(session: Session, key: str, on: int) -> NewRevision:
    """Bring back the state before the last action, as a new revision."""
    head = _locked_head(session, key, on)
    before = _revision(session, key, undone_to(_step(head)))
    return _append(session, key, {"do": "undo"}, undone(_step(head), _step(before)), like=before)


def redo(session: Session, key: str, on: int) -> NewRevision:
    """Bring back the state that the last undo took away, as a new revision."""
    head = _locked_head(session, key, on)
    after = _revision(session, key, redone_to(_step(head)))
    return _append(session, key, {"do": "redo"}, redone(_step(head), _step(after)), like=after)


def back_to(session: Session, key: str, on: int, number: int, says: str) -> NewRevision:
    """Bring back the state of an earlier revision, as a new one; an undo takes that back."""
    head = _locked_head(session, key, on)
    before = _revision(session, key, number)
    step = RevisionNote(head.number + 1, says, head.number)
    return _append(session, key, {"do": "back-to", "revision": number}, step, like=before)


def _locked_head(session: Session, key: str, on: int | None, *, of_all: bool = True) -> RevisionRow:
    row, head = _head(session, key, lock=True)
    if on is not None:
        _refuse_other(session, key, on, row.head, of_all=of_all)
    return head


def refuse_stale(session: Session, loaded: LoadedJob, on: int, *, of_all: bool = False) -> None:
    """Refuse to go on from a revision that is no longer the newest, unless the system only added to it since.

    Args:
        session: that it was loaded in.
        loaded: the job as it is.
        on: the revision the caller saw.
        of_all: whether all that there is is meant, also what came in since.
    """
    _refuse_other(session, loaded.row.id, on, loaded.revision.number, of_all=of_all)


def _refuse_other(session: Session, key: str, on: int, head: int, *, of_all: bool) -> None:
    if on == head:
        return
    if on > head or not holds_after(kinds_since(session, key, on), of_all=of_all):
        raise StaleRevision(
            "stale",
            "this job was changed elsewhere since you last saw it",
            remedy="look at it as it is now, and do it again if you still want it",
        )


def kinds_since(session: Session, key: str, number: int) -> Sequence[str]:
    """Return the kinds of actions that were done to a job since a revision."""
    """Return the kinds of all actions since a revision."""
    kind = RevisionRow.action["do"].astext
    since = (RevisionRow.job == key) & (RevisionRow.number > number)
    return session.scalars(select(kind).distinct().where(since)).all()


def _append(
    session: Session,
    key: str,
    action: dict[str, object],
    step: RevisionNote,
    *,
    job: Job | None = None,
    like: RevisionRow | None = None,
) -> NewRevision:
    """Keep a new revision: a job, or the state of an earlier one."""
    if like is not None:
        job, version, digest = states.job_of(like), like.version, like.digest
        kept = like.packed if like.packed is not None else states.packed(states.kept_state(like))[0]
    else:
        assert job is not None
        version = JOBS.newest
        kept, digest = states.packed(states.plain(job))
    revision_row = RevisionRow(
        job=key,
        number=step.number,
        action=action,
        says=step.says,
        packed=kept,
        version=version,
        digest=digest,
        undo_to=step.undo_to,
        redo_to=step.redo_to,
        brought=list(step.brought),
        sheet=step.sheet,
    )
    session.add(revision_row)
    row = session.get_one(JobRow, key)
    row.head, row.name, row.changed = step.number, job.name, func.now()
    _keep_line(row, job)
    session.flush()
    _once_kept(session, revision_row, job)
    if step.number % removal.THINNED_EVERY == 0:
        removal.thin(session, key, step.number)
    tell(session, key)
    return NewRevision(step.number, job)


def _keep_line(row: JobRow, job: Job) -> None:
    row.line, row.line_version = job_summary.line_of(job).model_dump(mode="json"), job_summary.NEWEST
    row.words = job_summary.words_of(job)


def _once_kept(session: Session, row: RevisionRow, job: Job) -> None:
    """Remember a job as it was just kept, but only when its transaction holds."""

    def remember(_: Session) -> None:
        states.remember(row, job)

    event.listen(session, "after_commit", remember, once=True)


def _step(row: RevisionRow) -> RevisionNote:
    return RevisionNote(row.number, row.says, row.undo_to, row.redo_to, tuple(row.brought), row.sheet)


def _revision(session: Session, key: str, number: int) -> RevisionRow:
    return session.get_one(RevisionRow, (key, number))


def _redone(session: Session, key: str, row: RevisionRow) -> RevisionRow | None:
    return None if row.redo_to is None else _revision(session, key, row.redo_to)
