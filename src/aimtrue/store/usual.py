"""Usual settings that are kept between jobs, each under a name of its own."""

from __future__ import annotations

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from aimtrue.core.errors import Refused
from aimtrue.core.usual.settings import UsualSettings
from aimtrue.store.tables import UsualRow

VERSION = 1
"""How a set is written; one of another version is brought up as it is read."""
_MOST = 100


def every(session: Session) -> list[UsualSettings]:
    """Return all sets, by name."""
    rows = session.scalars(select(UsualRow).order_by(func.lower(UsualRow.name))).all()
    return [UsualSettings.model_validate(row.settings) for row in rows]


def keep(session: Session, settings: UsualSettings) -> None:
    """Keep a set, in the place of one of the same name.

    Raises:
        Refused: there are too many.
    """
    row = session.scalar(select(UsualRow).where(func.lower(UsualRow.name) == settings.name.lower()))
    if row is None:
        if (session.scalar(select(func.count()).select_from(UsualRow)) or 0) >= _MOST:
            raise Refused("usual-full", f"{_MOST} sets are kept at most", remedy="remove one first")
        row = UsualRow()
        session.add(row)
    row.name, row.settings, row.version = settings.name, settings.model_dump(mode="json"), VERSION
    session.flush()


def remove(session: Session, name: str) -> None:
    """Take a set away; jobs that took it keep what they have."""
    session.execute(delete(UsualRow).where(func.lower(UsualRow.name) == name.strip().lower()))
