"""This module says what every action is: a small value that says itself in words."""

from __future__ import annotations

from typing import Any, ClassVar

from aimtrue.core.model.replacement import Replacement
from aimtrue.core.model.value import Value


class ActionValue(Value):
    """One thing that is done to a job. Typed text travels in it as typed."""

    finds: ClassVar[bool] = False
    """Whether it only tells what is so already, and changes nothing that was decided."""

    adds: ClassVar[bool] = False
    """Whether all that was there stays as it was: what was asked of the state before holds after it."""

    def of_all(self) -> bool:
        """Tell whether it means all that there is, so that what came in meanwhile would be meant unseen."""
        return False

    def brings(self) -> tuple[str, ...]:
        """Return the bodies that it makes anew."""
        return ()

    def replacements(self) -> tuple[Replacement, ...]:
        """Return which bodies it puts in the place of which."""
        return ()

    history: ClassVar[str] = ""
    """What it is called in history and on the undo button, where that is always the same."""

    def words(self) -> str:
        """Say it in a few words, for history and for the undo button."""
        return self.history


def count_of_bodies(keys: tuple[Any, ...]) -> str:
    """Say how many bodies there are."""
    return "a body" if len(keys) == 1 else f"{len(keys)} bodies"
