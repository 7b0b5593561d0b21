"""Server-sent events: a word to every open page of a job when it changes."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from collections import defaultdict
from collections.abc import AsyncIterator

import psycopg

from aimtrue.settings import settings
from aimtrue.store.jobs import CHANNEL

log = logging.getLogger("aimtrue.api")
_QUIET_SECONDS = 15.0


class Watchers:
    """Listens on the database once, and wakes every page that watches a job."""

    def __init__(self) -> None:
        self._waiting: defaultdict[str, set[asyncio.Event]] = defaultdict(set)

    async def listen(self) -> None:
        """Listen until cancelled; after a lost connection everybody is woken, to be safe."""
        while True:
            try:
                connection = await psycopg.AsyncConnection.connect(settings().database, autocommit=True)
                async with connection:
                    await connection.execute(f"LISTEN {CHANNEL}")
                    self._wake_all()
                    async for notice in connection.notifies():
                        self._wake(notice.payload)
            except psycopg.Error as error:
                log.warning("listening for changes failed, trying again: %s", error)
                await asyncio.sleep(1)

    async def changes(self, job: str) -> AsyncIterator[str]:
        """Yield an event for every change of a job, and a comment when all is quiet."""
        event = asyncio.Event()
        self._waiting[job].add(event)
        try:
            yield "event: open\ndata: {}\n\n"
            while True:
                with contextlib.suppress(TimeoutError):
                    await asyncio.wait_for(event.wait(), _QUIET_SECONDS)
                if event.is_set():
                    event.clear()
                    yield "event: changed\ndata: {}\n\n"
                else:
                    yield ": quiet\n\n"
        finally:
            self._waiting[job].discard(event)
            if not self._waiting[job]:
                del self._waiting[job]

    def _wake(self, job: str) -> None:
        for event in self._waiting.get(job, ()):
            event.set()

    def _wake_all(self) -> None:
        for events in self._waiting.values():
            for event in events:
                event.set()
