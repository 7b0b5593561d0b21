"""What a process that lives for long lets go of while nobody asks for it."""

from __future__ import annotations

import asyncio
import logging

from aimtrue.core.model.memo import forget_unused
from aimtrue.processes import give_back_memory
from aimtrue.store.shelf import StoreShelf

_EVERY_SECONDS = 30.0
_RESULTS_SECONDS = 300.0
"""A result that nobody asked for so long is of a job that nobody works on."""
log = logging.getLogger("aimtrue.rest")


async def let_go_at_rest(shelf: StoreShelf) -> None:
    """Let go now and then of meshes and results that are not asked for any more, and give the memory back."""
    while True:
        await asyncio.sleep(_EVERY_SECONDS)
        try:
            await asyncio.to_thread(_let_go, shelf)
        except Exception:
            log.exception("letting go failed")


def _let_go(shelf: StoreShelf) -> None:
    shelf.let_go(_EVERY_SECONDS)
    forget_unused(_RESULTS_SECONDS)
    give_back_memory()
