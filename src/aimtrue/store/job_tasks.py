"""This module keeps the background tasks of jobs; the queue that hands them to workers is another's."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from aimtrue.store.change_notices import tell
from aimtrue.store.jobs import UnknownJob, unknown_job
from aimtrue.store.tables import TaskRow


def tasks(session: Session, key: str) -> Sequence[TaskRow]:
    """Return the background tasks of a job, newest first."""
    return session.scalars(select(TaskRow).where(TaskRow.job == key).order_by(TaskRow.id.desc())).all()


def add_task(session: Session, key: str, kind: str, request: dict[str, object]) -> TaskRow:
    """Note a background task for a job."""
    row = TaskRow(job=key, kind=kind, request=request)
    session.add(row)
    session.flush()
    tell(session, key)
    return row


def set_task(session: Session, task: int, **fields: object) -> TaskRow:
    """Change the state of a background task, and tell who watches."""
    row = session.get(TaskRow, task)
    if row is None:
        raise unknown_job()
    for name, value in fields.items():
        setattr(row, name, value)
    session.flush()
    tell(session, row.job)
    return row


def set_progress(session: Session, task: int, share: float, says: str) -> TaskRow:
    """Note how far a background task is; who watches is told just that, and need not ask for the job."""
    row = session.scalar(select(TaskRow).where(TaskRow.id == task).with_for_update())
    if row is None:
        raise unknown_job()
    if row.state in ("done", "failed"):  # Another worker that was given the same task has ended it.
        return row
    row.state, row.share, row.says = "doing", share, says
    session.flush()
    tell(session, row.job, {"task": task, "share": share, "says": says})
    return row


def ask_to_stop(session: Session, key: str, task: int) -> None:
    """Ask a background task to stop with what it has so far; one that is done is left alone."""
    row = session.scalar(select(TaskRow).where(TaskRow.id == task).with_for_update())
    if row is None or row.job != key:
        raise UnknownJob("task-unknown", "there is no such task in this job", remedy="reload the page")
    if row.state in ("waiting", "doing"):
        row.request = {**row.request, "stop": True}


def still_open(session: Session, task: int) -> bool:
    """Tell whether a task is yet to be finished, and keep others from finishing it in this transaction.

    A task that was rescued from a worker thought dead may be done twice at once; only the first counts.
    """
    row = session.scalar(select(TaskRow).where(TaskRow.id == task).with_for_update())
    return row is not None and row.state not in ("done", "failed")
