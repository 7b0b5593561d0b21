"""Tasks that nobody works on any more: found, and done again or said to have failed.

Where the database is away at the end of a task, the queue may take it for failed, or for ever under way at
a worker that has long gone on to others; and nobody says so at the job. So each worker tells now and then
what it works on, and what nobody has told of for a while is put into the queue again, a few times.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock

from sqlalchemy import text
from sqlalchemy.orm import Session

from aimtrue.store import job_tasks
from aimtrue.store.tables import TaskRow
from aimtrue.work.queue import defer_again

MOST_TRIES = 3
QUIET_SECONDS = 12
"""A task that was not heard of for so long, and is not in the queue, has been lost."""

_LOST = text(
    """
    select task.id from task
    where task.state in ('waiting', 'doing')
      and greatest(task.changed, coalesce(task.beat, task.changed)) < now() - make_interval(secs =>
      :quiet) and not exists (
        select 1 from procrastinate_jobs queued
        where queued.status = 'todo' and (queued.args->>'task')::bigint = task.id)
    order by task.id
    for update skip locked
    """
)
_BEAT = text("update task set beat = now() where id = any(:tasks)")
_working: set[int] = set()
_lock = Lock()


@contextmanager
def worked_on(task: int) -> Iterator[None]:
    """Count a task among those that this worker works on."""
    with _lock:
        _working.add(task)
    try:
        yield
    finally:
        with _lock:
            _working.discard(task)


def beat(session: Session) -> None:
    """Tell what this worker works on."""
    with _lock:
        tasks = sorted(_working)
    if tasks:
        session.execute(_BEAT, {"tasks": tasks})


def adopt(session: Session, quiet: float = QUIET_SECONDS) -> list[int]:
    """Put lost tasks into the queue again, or say that they failed when that was done often enough.

    Args:
        session: within a transaction.
        quiet: seconds that a task must not have been heard of.

    Returns:
        The tasks that were found.
    """
    lost = list(session.scalars(_LOST, {"quiet": quiet}))
    for task in lost:
        row = session.get_one(TaskRow, task)
        tries = int(row.request.get("again", 0)) + 1
        if tries > MOST_TRIES:
            give_up(session, task)
            continue
        request = {**row.request, "again": tries}
        job_tasks.set_task(session, task, state="waiting", says="waiting to be done again", request=request)
        defer_again(session, row)
    return lost


def give_up(session: Session, task: int) -> None:
    """Say that a task failed that was begun often enough, unless it was ended meanwhile."""
    if not job_tasks.still_open(session, task):
        return
    error = {
        "code": "task-lost",
        "says": f"this was begun {MOST_TRIES + 1} times and never came to an end",
        "where": "",
        "remedy": "try again; nothing was lost",
    }
    job_tasks.set_task(session, task, state="failed", says=error["says"], error=error)
