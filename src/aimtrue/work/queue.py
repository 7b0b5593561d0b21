"""The queue, kept in PostgreSQL by procrastinate, and how the web process fills it."""

from __future__ import annotations

import logging
from functools import lru_cache
from typing import Any

import procrastinate
from sqlalchemy.orm import Session

from aimtrue.core.intake.tasks import ListFacesTask
from aimtrue.core.release.order import Order
from aimtrue.core.tasks import Task
from aimtrue.settings import settings
from aimtrue.store import job_tasks
from aimtrue.store.tables import TaskRow

HEARTBEAT_SECONDS = 3.0
STALLED_SECONDS = 10.0
"""After this long without a heartbeat a worker is gone, and its tasks are done again."""

PLACES = {"default": 2, "aside": 1}
"""How many tasks a worker does at once, by queue.

What nobody waits for has a queue and a place of its own: it gives way to all else, so that on a busy machine
it takes long, and would keep what somebody waits for from being begun.
"""
log = logging.getLogger("aimtrue.work")


class TaskPutOff(Exception):
    """A task was not done, which was said already; it is found and done again."""


def _not_said_yet(record: logging.LogRecord) -> bool:
    return not (record.exc_info and isinstance(record.exc_info[1], TaskPutOff))


# The queue tells of every task that ends in an exception by the whole way down to it, sixty lines.
logging.getLogger("procrastinate.worker").addFilter(_not_said_yet)


@lru_cache
def queue() -> procrastinate.App:
    """Return the queue; tasks are found by name in ``aimtrue.work.tasks``."""
    return procrastinate.App(
        connector=procrastinate.PsycopgConnector(conninfo=settings().database),
        import_paths=["aimtrue.work.tasks"],
    )


@lru_cache
def _filler() -> procrastinate.App:
    return procrastinate.App(connector=procrastinate.SyncPsycopgConnector(conninfo=settings().database))


def ask_reading(session: Session, job: str, name: str, sha256: str, preview: str | None = None) -> int:
    """Ask for a file to be read into a job; takes hold when the session commits.

    ``preview`` names a mesh in the disk cache to be drawn meanwhile, when there is one already.
    """
    row = job_tasks.add_task(session, job, "read", {"name": name, "sha256": sha256, "preview": preview})
    return _defer(session, "read", row)


def ask_remake(session: Session, job: str, revision: int, task: Task) -> int:
    """Ask for bodies of a revision to be made anew; takes hold when the session commits."""
    request = {"revision": revision, "task": task.model_dump(mode="json")}
    return _defer(session, "remake", job_tasks.add_task(session, job, "remake", request))


def ask_list(session: Session, job: str, revision: int, task: ListFacesTask, after: int) -> int:
    """Ask for faces to be listed after so many seconds; takes hold when the session commits.

    Nobody waits for it, so no page shows it, and it leaves the processors to what somebody waits for.
    """
    request = {"revision": revision, "task": task.model_dump(mode="json")}
    return _defer(session, "list", job_tasks.add_task(session, job, "list", request), after)


def _queue_of(kind: str) -> str:
    return "aside" if kind == "list" else "default"


def ask_release(session: Session, job: str, revision: int, order: Order) -> int:
    """Ask for a release of a revision; takes hold when the session commits."""
    row = job_tasks.add_task(
        session, job, "release", {"revision": revision, "order": order.model_dump(mode="json")}
    )
    return _defer(session, "release", row)


def ask_sending(session: Session, job: str, number: int, target: str) -> int:
    """Ask for a release to be sent to a target; takes hold when the session commits."""
    request = {"release": number, "target": target, "name": target}
    return _defer(session, "send", job_tasks.add_task(session, job, "send", request))


def defer_again(session: Session, row: TaskRow) -> None:
    """Put a task into the queue once more; takes hold when the session commits."""
    _defer(session, row.kind, row)


def _defer(session: Session, kind: str, row: TaskRow, after: int = 0) -> int:
    # In the caller's own transaction: a task exists exactly when what it is about does. No lock: tasks of
    # one job run side by side and meet only when they put in what they made; so none ever waits for the queue
    # to be polled.
    raw: Any = session.connection().connection.driver_connection
    later: Any = {"schedule_in": {"seconds": after}} if after else {}
    _filler().configure_task(kind, queue=_queue_of(kind), connection=raw, **later).defer(task=row.id)
    return row.id
