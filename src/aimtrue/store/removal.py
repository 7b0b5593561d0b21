"""Taking away: old states of jobs, and bytes that nothing names any more.

Bytes are shared: the same file in two jobs is kept once. So what a job names does not go with it, but is
looked for in all that is left, by a worker, later. Whoever puts bytes in touches them, also where they are
there already; and what was touched a short while ago stays, since the job that will name it may not be kept
yet.
"""

from __future__ import annotations

import re
import zlib
from collections.abc import Iterator, Sequence
from typing import Any

import orjson
from sqlalchemy import Row, Select, delete, func, select, text, update
from sqlalchemy.orm import Session

from aimtrue.store.tables import BlobRow, ReleaseRow, RemovalRow, RevisionRow, TaskRow

WHOLE_REVISIONS = 200
"""How many revisions of a job keep their states, besides those that were released."""
THINNED_EVERY = 20
QUIET_SECONDS = 900
"""Bytes that were put in, and not touched for so long, belong to what is kept or to nothing."""
_AT_ONCE = 2000
"""Rows that are in memory, or in one statement, at a time."""
_NAMES = re.compile(rb"[0-9a-f]{64}")
_TIDYING = 4_026_531_840
"""Number of the lock that lets one worker tidy at a time."""


def thin(session: Session, key: str, head: int) -> None:
    """Let go of the states of old revisions; an undo ends there.

    What was released, or is being released, stays as it was then.
    """
    last = head - WHOLE_REVISIONS
    released = select(ReleaseRow.revision).where(ReleaseRow.job == key)
    wanted = select(TaskRow.request["revision"].as_integer()).where(
        TaskRow.job == key, TaskRow.state.in_(("waiting", "doing")), TaskRow.request.has_key("revision")
    )
    old = (RevisionRow.job == key, RevisionRow.number <= last)
    let_go = (
        update(RevisionRow)
        .where(*old, RevisionRow.number.not_in(released), RevisionRow.number.not_in(wanted))
        .where(RevisionRow.packed.is_not(None) | RevisionRow.state.is_not(None))
        .values(packed=None, state=None)
        .returning(RevisionRow.number)
    )
    gone = session.scalars(let_go).all()
    if not gone:
        return
    for column in (RevisionRow.undo_to, RevisionRow.redo_to):
        back = update(RevisionRow).where(RevisionRow.job == key, column <= last)
        session.execute(back.values({column: None}))
    session.add(RemovalRow(says=f"{len(gone)} revisions of job {key}"))


def sweep(session: Session, quiet: float = QUIET_SECONDS) -> int:
    """Take away bytes that nothing names any more, if anything was removed since the last time.

    Args:
        session: within a transaction.
        quiet: for how many seconds bytes must not have been touched.

    Returns:
        How many bytes they were.
    """
    if not session.scalar(select(func.pg_try_advisory_xact_lock(_TIDYING))):
        return 0
    before = text("now() - make_interval(secs => :quiet)").bindparams(quiet=quiet)
    since = session.scalar(select(func.max(RemovalRow.id)))
    if since is None:
        return 0
    unnamed = {
        sha256: number
        for number, sha256 in _streamed(
            session, select(BlobRow.id, BlobRow.sha256).where(BlobRow.touched < before)
        )
    }
    for part in _all_that_is_kept(session) if unnamed else ():
        for name in _names_in(part):
            unnamed.pop(name, None)
    gone = 0
    for batch in _batches(list(unnamed.values())):
        # Looked at once more, since that took a while: whoever put them in meanwhile has touched them, and
        # who is doing so just now holds them, so that they are passed over.
        going = session.execute(
            select(BlobRow.id, BlobRow.bytes)
            .where(BlobRow.id.in_(batch), BlobRow.touched < before)
            .with_for_update(skip_locked=True)
        ).all()
        session.execute(delete(BlobRow).where(BlobRow.id.in_([row.id for row in going])))
        gone += sum(row.bytes for row in going)
    # What was removed a short while ago may have named bytes that were too young to go.
    session.execute(delete(RemovalRow).where(RemovalRow.id <= since, RemovalRow.at < before))
    return gone


def _all_that_is_kept(session: Session) -> Iterator[bytes]:
    """Yield everything that may name bytes, piece by piece; never all of it is in memory."""
    for (packed,) in _streamed(session, select(RevisionRow.packed).where(RevisionRow.packed.is_not(None))):
        yield zlib.decompress(packed)
    for column in (RevisionRow.state, TaskRow.request, ReleaseRow.files, ReleaseRow.record):
        for (kept,) in _streamed(session, select(column).where(column.is_not(None))):
            yield orjson.dumps(kept)


def _streamed(session: Session, asked: Select[*tuple[Any, ...]]) -> Iterator[Row[*tuple[Any, ...]]]:
    """Yield rows as the database sends them, few at a time."""
    yield from session.execute(asked.execution_options(yield_per=_AT_ONCE))


def _batches(numbers: Sequence[int]) -> Iterator[Sequence[int]]:
    """Divide numbers, of which one statement takes 65,535 at most."""
    for at in range(0, len(numbers), _AT_ONCE):
        yield numbers[at : at + _AT_ONCE]


def _names_in(kept: bytes) -> set[str]:
    return {name.decode() for name in _NAMES.findall(kept)}
