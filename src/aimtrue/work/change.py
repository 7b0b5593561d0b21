"""The one way in which a job is changed: by a user's action, by undo and redo, by an import, by a
background task.

What an action makes of a job is worked out before anything is locked, and kept in a short transaction.
Together with it the divisions whose wholes have changed are asked to be made again, so that nothing that ends
us in between leaves them stale.
"""

from __future__ import annotations

from collections.abc import Callable

from sqlalchemy.orm import Session

from aimtrue.core.actions import Action
from aimtrue.store import drafts, jobs
from aimtrue.store.database import sessions, snapshot
from aimtrue.store.geometry_store import CachedGeometryStore
from aimtrue.work.stale_work import ask_stale

STORE = CachedGeometryStore()
"""Meshes that changes are worked out with."""


def _always(session: Session) -> bool:
    return True


def change(
    key: str,
    on: int | None,
    action: Action,
    beside: Callable[[Session], bool] = _always,
) -> bool:
    """Do an action on a job.

    Args:
        key: the job.
        on: the revision that the caller saw; None for the system itself, which acts on what is there.
        action: what to do.
        beside: called in the transaction that keeps the change, before it; where it returns False nothing is
            changed.

    Returns:
        Whether the job was changed.

    Raises:
        JobGone, Stale: the job is gone, or has moved on since ``on``.
        Refused: the core does not take the action.
    """
    with snapshot() as session:
        ahead = jobs.ahead(session, STORE, key, on, action)
    with sessions().begin() as session:
        if not beside(session):
            return False
        kept = jobs.act(session, STORE, key, on, action, ahead)
        for replacement in action.replacements():
            drafts.carry(session, key, replacement.successor_of)
        ask_stale(session, key, kept)
    return True


def undo(key: str, on: int) -> None:
    """Take the last action on a job back."""
    _step(key, on, jobs.undo)


def redo(key: str, on: int) -> None:
    """Do again what was undone last."""
    _step(key, on, jobs.redo)


def back_to(key: str, on: int, revision: int, says: str) -> None:
    """Bring back the state of an earlier revision, as a new one."""
    _step(key, on, lambda session, key, on: jobs.back_to(session, key, on, revision, says))


def _step(key: str, on: int, step: Callable[[Session, str, int], jobs.NewRevision]) -> None:
    with sessions().begin() as session:
        ask_stale(session, key, step(session, key, on))
