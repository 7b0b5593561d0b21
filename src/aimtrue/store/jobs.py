"""Jobs and their revisions: append, undo, redo; a stale write is refused, never merged."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from aimtrue.core.actions import ACTION, Action, apply
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.intake.actions import LookOver
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.job import Job
from aimtrue.store.tables import ErrandRow, JobRow, ReleaseRow, RevisionRow

CHANNEL = "aimtrue_job"
"""Where every change of a job is told, with the job's id, once its transaction is committed."""


class UnknownJob(AimTrueError):
    """There is no such job."""


class Stale(AimTrueError):
    """The job was changed elsewhere since the caller last saw it."""


@dataclass(frozen=True)
class Loaded:
    """A job as it stands."""

    row: JobRow
    revision: RevisionRow
    job: Job
    undo_says: str | None
    redo_says: str | None
    undo_brought: tuple[str, ...] = ()
    """Bodies that the step which an undo would take back made anew."""


def create(session: Session, name: str, *, demo: bool = False) -> str:
    """Make an empty job and return its id."""
    key = secrets.token_hex(6)
    session.add(JobRow(id=key, name=name, head=1, demo=demo))
    session.flush()
    session.add(
        RevisionRow(
            job=key,
            number=1,
            action={"do": "open"},
            says="open the job",
            state=Job(name=name).model_dump(mode="json"),
            undo_to=None,
            redo_to=None,
        )
    )
    _tell(session, key)
    return key


def every(session: Session) -> Sequence[tuple[JobRow, RevisionRow]]:
    """Return all jobs with their newest state, the last changed first."""
    rows = session.execute(
        select(JobRow, RevisionRow)
        .join(RevisionRow, (RevisionRow.job == JobRow.id) & (RevisionRow.number == JobRow.head))
        .order_by(JobRow.demo, JobRow.changed.desc(), JobRow.id)
    )
    return [(row[0], row[1]) for row in rows]


def load(session: Session, key: str) -> Loaded:
    """Return a job as it stands.

    Raises:
        UnknownJob: there is no job of that id.
    """
    row = session.get(JobRow, key)
    if row is None:
        raise UnknownJob("job-unknown", "there is no such job here", remedy="go back to the list of jobs")
    revision = _revision(session, key, row.head)
    return Loaded(
        row,
        revision,
        Job.model_validate(revision.state),
        revision.says if revision.undo_to else None,
        _says(session, key, revision.redo_to),
        _brought(session, revision) if revision.undo_to else (),
    )


def _brought(session: Session, revision: RevisionRow) -> tuple[str, ...]:
    """Return the bodies that the last step of a revision made anew, however it was undone and redone
    since.
    """
    for _ in range(revision.number):
        before = _revision(session, revision.job, revision.number - 1) if revision.number > 1 else None
        do = revision.action.get("do")
        if do == "undo" and before is not None and before.undo_to is not None:
            revision = _revision(session, revision.job, before.undo_to)
        elif do == "redo" and before is not None and before.redo_to is not None:
            revision = _revision(session, revision.job, before.redo_to)
        elif do == "look-over" and before is not None:
            revision = before
        else:
            break
    come = revision.action.get("come", ()) if revision.action.get("do") == "remake" else ()
    return tuple(str(body["id"]) for body in come)


def act(session: Session, shelf: Shelf, key: str, on: int | None, action: Action) -> int:
    """Apply an action and keep the new state.

    Args:
        session: within a transaction.
        shelf: gives meshes to the core.
        key: the job.
        on: the revision the caller saw; None for the system itself, which acts on what is there.
        action: what to do.

    Returns:
        The number of the new revision.

    Raises:
        Stale: the job has moved on since ``on``.
        Refused: the core does not take the action.
    """
    head = _locked_head(session, key, on)
    job = apply(Job.model_validate(head.state), action, shelf)
    # What the system puts in (a file read) is not the user's to undo; what it only finds out is no step, and
    # undo goes on from the step before.
    finds = on is None and isinstance(action, LookOver) and head.undo_to is not None
    return _append(
        session,
        head,
        ACTION.dump_python(action, mode="json"),
        head.says if finds else action.words(),
        job.model_dump(mode="json"),
        undo_to=head.undo_to if finds else None if on is None else head.number,
        redo_to=None,
    )


def undo(session: Session, key: str, on: int) -> int:
    """Bring back the state before the last action, as a new revision."""
    head = _locked_head(session, key, on)
    if head.undo_to is None:
        raise Refused("nothing-to-undo", "there is nothing to undo")
    before = _revision(session, key, head.undo_to)
    return _append(
        session, head, {"do": "undo"}, before.says, before.state, undo_to=before.undo_to, redo_to=head.number
    )


def redo(session: Session, key: str, on: int) -> int:
    """Bring back the state that the last undo took away, as a new revision."""
    head = _locked_head(session, key, on)
    if head.redo_to is None:
        raise Refused("nothing-to-redo", "there is nothing to redo")
    after = _revision(session, key, head.redo_to)
    return _append(
        session, head, {"do": "redo"}, after.says, after.state, undo_to=after.undo_to, redo_to=after.redo_to
    )


def errands(session: Session, key: str) -> Sequence[ErrandRow]:
    """Return the background tasks of a job, newest first."""
    return session.scalars(select(ErrandRow).where(ErrandRow.job == key).order_by(ErrandRow.id.desc())).all()


def releases(session: Session, key: str) -> Sequence[ReleaseRow]:
    """Return the releases of a job, newest first."""
    return session.scalars(
        select(ReleaseRow).where(ReleaseRow.job == key).order_by(ReleaseRow.number.desc())
    ).all()


def add_errand(session: Session, key: str, kind: str, request: dict[str, object]) -> ErrandRow:
    """Note a background task for a job."""
    row = ErrandRow(job=key, kind=kind, request=request)
    session.add(row)
    session.flush()
    _tell(session, key)
    return row


def set_errand(session: Session, errand: int, **fields: object) -> ErrandRow:
    """Change the state of a background task, and tell who watches."""
    row = session.get_one(ErrandRow, errand)
    for name, value in fields.items():
        setattr(row, name, value)
    session.flush()
    _tell(session, row.job)
    return row


def still_open(session: Session, errand: int) -> bool:
    """Tell whether a task is yet to be finished, and keep others from finishing it in this transaction.

    A task that was rescued from a worker thought dead may be done twice at once; only the first counts.
    """
    row = session.scalar(select(ErrandRow).where(ErrandRow.id == errand).with_for_update())
    return row is not None and row.state not in ("done", "failed")


def add_release(
    session: Session, key: str, revision: int, number: int, files: list[dict[str, object]]
) -> None:
    """Keep a release whose files were proven."""
    session.add(ReleaseRow(job=key, number=number, revision=revision, files=files))
    session.flush()
    _tell(session, key)


def next_release(session: Session, key: str) -> int:
    """Return the number of the next release of a job, waiting for one being kept just now."""
    session.execute(select(JobRow.id).where(JobRow.id == key).with_for_update())
    return (session.scalar(select(func.max(ReleaseRow.number)).where(ReleaseRow.job == key)) or 0) + 1


def _locked_head(session: Session, key: str, on: int | None) -> RevisionRow:
    row = session.scalar(select(JobRow).where(JobRow.id == key).with_for_update())
    if row is None:
        raise UnknownJob("job-unknown", "there is no such job here", remedy="go back to the list of jobs")
    if on is not None:
        _refuse_other(on, row.head)
    return _revision(session, key, row.head)


def refuse_stale(loaded: Loaded, on: int) -> None:
    """Refuse to go on from a revision that is no longer the newest."""
    _refuse_other(on, loaded.revision.number)


def _refuse_other(on: int, head: int) -> None:
    if on != head:
        raise Stale(
            "stale",
            "this job was changed elsewhere since you last saw it",
            remedy="look at it as it is now, and do it again if you still want it",
        )


def _append(
    session: Session,
    head: RevisionRow,
    action: dict[str, object],
    says: str,
    state: dict[str, object],
    *,
    undo_to: int | None,
    redo_to: int | None,
) -> int:
    number = head.number + 1
    session.add(
        RevisionRow(
            job=head.job,
            number=number,
            action=action,
            says=says,
            state=state,
            undo_to=undo_to,
            redo_to=redo_to,
        )
    )
    row = session.get_one(JobRow, head.job)
    row.head, row.name, row.changed = number, str(state["name"]), func.now()
    session.flush()
    _tell(session, head.job)
    return number


def _revision(session: Session, key: str, number: int) -> RevisionRow:
    return session.get_one(RevisionRow, (key, number))


def _says(session: Session, key: str, number: int | None) -> str | None:
    return None if number is None else _revision(session, key, number).says


def _tell(session: Session, key: str) -> None:
    session.execute(text("select pg_notify(:channel, :key)"), {"channel": CHANNEL, "key": key})
