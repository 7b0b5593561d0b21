"""This module says what a process that lives for long lets go of while nobody asks for it."""

from __future__ import annotations

import asyncio
import logging
import sys

from aimtrue.core.model.memo import forget_unused
from aimtrue.processes import give_back_memory
from aimtrue.store.geometry_store import CachedGeometryStore

_EVERY_SECONDS = 30.0
_RESULTS_SECONDS = 300.0
"""A result that nobody asked for so long is of a job that nobody works on."""
_CROWDED_SECONDS = 60.0
_CROWDED_BLOCKS = 500_000
"""Blocks more than at the start, about 40 MB, from which results are kept for a shorter time.

Python hands out small blocks from pages that it gives back only when nothing is left on them. A few results
that stay long keep most pages that many ever took, so it is the most that is ever held that counts.
"""
log = logging.getLogger("aimtrue.rest")


async def let_go_at_rest(store: CachedGeometryStore) -> None:
    """Let go now and then of meshes and results that are not asked for any more, and give the memory back."""
    at_start = sys.getallocatedblocks()
    while True:
        await asyncio.sleep(_EVERY_SECONDS)
        try:
            await asyncio.to_thread(let_go, store, at_start)
        except Exception:
            log.exception("letting go failed")


def let_go(store: CachedGeometryStore, at_start: int) -> None:
    """Let go of what was not asked for lately.

    Args:
        store: whose meshes go.
        at_start: how many blocks Python held before anybody asked for anything.
    """
    store.let_go(_EVERY_SECONDS)
    crowded = sys.getallocatedblocks() > at_start + _CROWDED_BLOCKS
    forget_unused(_CROWDED_SECONDS if crowded else _RESULTS_SECONDS)
    give_back_memory()
