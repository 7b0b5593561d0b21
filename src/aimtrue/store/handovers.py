"""This module says what was handed over: which release, where to, and how it went."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from aimtrue.store.tables import HandoverRow


def of_release(session: Session, key: str, release: int) -> Sequence[HandoverRow]:
    """Return the handovers of a release, the newest first."""
    asked = select(HandoverRow).where(HandoverRow.job == key, HandoverRow.release == release)
    return session.scalars(asked.order_by(HandoverRow.id.desc())).all()


def sent(session: Session, key: str, release: int, target: str) -> HandoverRow | None:
    """Return how a release arrived at a target that it was sent to, if it did."""
    rows = of_release(session, key, release)
    return next((row for row in rows if row.way == "send" and row.target == target and row.whole), None)


def note(session: Session, row: HandoverRow) -> None:
    """Keep how a handover went."""
    session.add(row)
    session.flush()
