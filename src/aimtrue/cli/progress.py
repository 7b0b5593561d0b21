"""This module tells on a terminal how far long work is; where nobody watches, nothing is written."""

from __future__ import annotations

import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager

from aimtrue.core.progress import Progress

_PAUSE_SECONDS = 0.1
_QUIET_SECONDS = 1.0
"""Work that ends before this is told nothing of."""


@contextmanager
def told(what: str) -> Iterator[Progress]:
    """Give what tells how far some work is: a line of the terminal that is written anew, and gone at the end.

    Args:
        what: the file, or what is done.
    """
    if not sys.stderr.isatty():
        yield _untold
        return
    begun = last = time.monotonic()
    longest = 0

    def tell(share: float, says: str) -> None:
        nonlocal last, longest
        now = time.monotonic()
        if now - begun < _QUIET_SECONDS or now - last < _PAUSE_SECONDS:
            return
        last = now
        line = f"aimtrue: {what}: {100 * share:3.0f} % {says}"[:110]
        sys.stderr.write("\r" + line.ljust(longest))
        sys.stderr.flush()
        longest = max(longest, len(line))

    try:
        yield tell
    finally:
        if longest:
            sys.stderr.write("\r" + " " * longest + "\r")
            sys.stderr.flush()


def _untold(share: float, says: str) -> None:
    """Nobody watches."""
