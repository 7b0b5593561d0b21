"""This module keeps the releases of jobs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from aimtrue.core.actions import holds_after
from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.upgrades import RELEASES
from aimtrue.store.change_notices import tell
from aimtrue.store.jobs import LoadedJob, UnknownJob, kinds_since
from aimtrue.store.tables import JobRow, ReleaseRow, RevisionRow


class NumberTaken(AimTrueError):
    """Another release took the number meanwhile."""


def releases(session: Session, key: str) -> Sequence[ReleaseRow]:
    """Return the releases of a job, newest first."""
    return session.scalars(
        select(ReleaseRow).where(ReleaseRow.job == key).order_by(ReleaseRow.number.desc())
    ).all()


@dataclass(frozen=True)
class ReleasedRow:
    """A release, and whether the job still is as it was released."""

    row: ReleaseRow
    current: bool

    @property
    def number(self) -> int:
        """Its number."""
        return self.row.number


def released(session: Session, loaded: LoadedJob) -> list[ReleasedRow]:
    """Return the releases of a job, newest first, each held against the job as it stands; no state is
    read.
    """
    rows = session.execute(
        select(ReleaseRow, RevisionRow.digest)
        .join(RevisionRow, (RevisionRow.job == ReleaseRow.job) & (RevisionRow.number == ReleaseRow.revision))
        .where(ReleaseRow.job == loaded.row.id)
        .order_by(ReleaseRow.number.desc())
    )
    released_rows = [ReleasedRow(row, digest == loaded.revision.digest) for row, digest in rows]
    # Faces that were listed since are in the state, but nothing that was released is otherwise for that.
    if (
        released_rows
        and not released_rows[0].current
        and holds_after(kinds_since(session, loaded.row.id, released_rows[0].row.revision), of_all=True)
    ):
        released_rows[0] = replace(released_rows[0], current=True)
    return released_rows


def add_release(session: Session, key: str, release: ReleaseRow) -> None:
    """Keep a release whose files were proven.

    Raises:
        NumberTaken: another was made at the same time, and kept first.
    """
    if release.number != next_release(session, key):
        raise NumberTaken(
            "release-number", f"there is a release {release.number} already", remedy="make it again"
        )
    release.version = RELEASES.newest
    session.add(release)
    session.flush()
    tell(session, key)


def release_of(session: Session, key: str, number: int) -> ReleaseRow:
    """Return a release, or raise :class:`UnknownJob`."""
    release_row = session.get(ReleaseRow, (key, number))
    if release_row is None:
        raise UnknownJob("release-unknown", f"there is no release {number} of this job")
    return release_row


def released_names(session: Session, key: str) -> tuple[str, ...]:
    """Return the names of all files that a job released."""
    rows = session.scalars(select(ReleaseRow.files).where(ReleaseRow.job == key)).all()
    return tuple(file["name"] for files in rows for file in files)


def next_release(session: Session, key: str) -> int:
    """Return the number of the next release of a job, waiting for one being kept just now."""
    session.execute(select(JobRow.id).where(JobRow.id == key).with_for_update())
    return last_release(session, key) + 1


def last_release(session: Session, key: str) -> int:
    """Return the number of the newest release of a job; 0 where it has none."""
    return session.scalar(select(func.max(ReleaseRow.number)).where(ReleaseRow.job == key)) or 0
