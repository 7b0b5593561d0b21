"""Undo and redo: which revision either would bring back, after an action, an undo or a redo.

Nothing is ever taken away: undo and redo add a revision whose state is that of an earlier one.
"""

from __future__ import annotations

from dataclasses import dataclass

from aimtrue.core.errors import Refused
from aimtrue.core.model.action import ActionValue


@dataclass(frozen=True)
class RevisionNote:
    """What is kept with a revision besides its state.

    Attributes:
        number: of the revision.
        says: the action that an undo would take back, in words.
        undo_to, redo_to: the revisions whose states an undo and a redo would bring back, if any.
        brought: bodies that the action made anew.
        sheet: that the action is on; empty where there is none.
    """

    number: int
    says: str
    undo_to: int | None = None
    redo_to: int | None = None
    brought: tuple[str, ...] = ()
    sheet: str = ""


def done(head: RevisionNote, action: ActionValue, *, by_user: bool, sheet: str = "") -> RevisionNote:
    """Return the step of a new revision that an action makes of the newest one.

    What the system puts in (a file that was read) is not the user's to undo. What it only finds out is no
    step: undo and redo go on from the step before.
    """
    number = head.number + 1
    if action.finds and not by_user and (head.undo_to is not None or head.redo_to is not None):
        return RevisionNote(number, head.says, head.undo_to, head.redo_to, head.brought, head.sheet)
    return RevisionNote(
        number, action.words(), head.number if by_user else None, None, action.brings(), sheet
    )


def undone_to(head: RevisionNote) -> int:
    """Return the revision whose state an undo brings back.

    Raises:
        Refused: there is nothing to undo.
    """
    if head.undo_to is None:
        raise Refused("nothing-to-undo", "there is nothing to undo")
    return head.undo_to


def redone_to(head: RevisionNote) -> int:
    """Return the revision whose state a redo brings back.

    Raises:
        Refused: there is nothing to redo.
    """
    if head.redo_to is None:
        raise Refused("nothing-to-redo", "there is nothing to redo")
    return head.redo_to


def undone(head: RevisionNote, before: RevisionNote) -> RevisionNote:
    """Return the step of the revision that an undo makes; ``before`` is the one it brings back."""
    return RevisionNote(
        head.number + 1, before.says, before.undo_to, head.number, before.brought, before.sheet
    )


def redone(head: RevisionNote, after: RevisionNote) -> RevisionNote:
    """Return the step of the revision that a redo makes; ``after`` is the one it brings back."""
    return RevisionNote(head.number + 1, after.says, after.undo_to, after.redo_to, after.brought, after.sheet)
