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

from aimtrue.store import jobs
from aimtrue.store.tables import ErrandRow
from aimtrue.work.queue import defer_again

MOST_TRIES = 3
QUIET_SECONDS = 12
"""A task that was not heard of for so long, and is not in the queue, has been lost."""

_LOST = text(
    """
    select errand.id from errand
    where errand.state in ('waiting', 'doing')
      and greatest(errand.changed, coalesce(errand.beat, errand.changed)) < now() - make_interval(secs =>
      :quiet) and not exists (
        select 1 from procrastinate_jobs task
        where task.status = 'todo' and (task.args->>'errand')::bigint = errand.id)
    order by errand.id
    for update skip locked
    """
)
_BEAT = text("update errand set beat = now() where id = any(:errands)")
_working: set[int] = set()
_lock = Lock()


@contextmanager
def worked_on(errand: int) -> Iterator[None]:
    """Count a task among those that this worker works on."""
    with _lock:
        _working.add(errand)
    try:
        yield
    finally:
        with _lock:
            _working.discard(errand)


def beat(session: Session) -> None:
    """Tell what this worker works on."""
    with _lock:
        errands = sorted(_working)
    if errands:
        session.execute(_BEAT, {"errands": errands})


def adopt(session: Session, quiet: float = QUIET_SECONDS) -> list[int]:
    """Put lost tasks into the queue again, or say that they failed when that was done often enough.

    Args:
        session: within a transaction.
        quiet: seconds that a task must not have been heard of.

    Returns:
        The errands that were found.
    """
    found = list(session.scalars(_LOST, {"quiet": quiet}))
    for errand in found:
        row = session.get_one(ErrandRow, errand)
        tries = int(row.request.get("again", 0)) + 1
        if tries > MOST_TRIES:
            give_up(session, errand)
            continue
        request = {**row.request, "again": tries}
        jobs.set_errand(session, errand, state="waiting", says="waiting to be done again", request=request)
        defer_again(session, row)
    return found


def give_up(session: Session, errand: int) -> None:
    """Say that a task failed that was begun often enough, unless it was ended meanwhile."""
    if not jobs.still_open(session, errand):
        return
    error = {
        "code": "task-lost",
        "says": f"this was begun {MOST_TRIES + 1} times and never came to an end",
        "where": "",
        "remedy": "try again; nothing was lost",
    }
    jobs.set_errand(session, errand, state="failed", says=error["says"], error=error)
