"""Versions of what is kept: a step from each to the next, so that whatever was once kept can be read for
ever.

A field that is renamed, moved or given another meaning needs a step here, and a line in the test that reads a
database from before. One that is added with a default needs none.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from aimtrue.core.errors import AimTrueError

Kept = dict[str, Any]
Step = Callable[[Kept], Kept]


class Ladder:
    """The steps of one kind of thing that is kept; each takes and returns plain JSON, and changes nothing
    given.

    Args:
        what: in words, for the message when something newer than this program is met.
        steps: the first leads from version 1 to 2.
    """

    def __init__(self, what: str, steps: Sequence[Step] = ()) -> None:
        self._what, self._steps = what, tuple(steps)

    @property
    def newest(self) -> int:
        """The version that is written now."""
        return len(self._steps) + 1

    def up(self, kept: Kept, version: int) -> Kept:
        """Return what was kept in some version as it is kept now.

        Raises:
            AimTrueError: it was written by a newer program than this one.
        """
        if version > self.newest:
            raise AimTrueError(
                "kept-newer",
                f"{self._what} was kept by a newer version of Aim True ({version}, here {self.newest})",
                remedy="start the newer version; nothing was changed",
            )
        for step in self._steps[version - 1 :]:
            kept = step(kept)
        return kept
