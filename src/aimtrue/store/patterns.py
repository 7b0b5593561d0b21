"""Patterns of names, kept for the next job."""

from __future__ import annotations

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from aimtrue.store.tables import PatternRow

_MOST = 12


def every(session: Session) -> list[str]:
    """Return all patterns, the one used last first."""
    return list(session.scalars(select(PatternRow.pattern).order_by(PatternRow.used.desc())).all())


def used(session: Session, pattern: str) -> None:
    """Keep a pattern that was used; the oldest of too many goes."""
    row = insert(PatternRow).values(pattern=pattern)
    session.execute(row.on_conflict_do_update(index_elements=["pattern"], set_={"used": func.now()}))
    newest = select(PatternRow.pattern).order_by(PatternRow.used.desc()).limit(_MOST)
    session.execute(delete(PatternRow).where(PatternRow.pattern.not_in(newest)))


def forget(session: Session, pattern: str) -> None:
    """Keep a pattern no longer."""
    session.execute(delete(PatternRow).where(PatternRow.pattern == pattern))
