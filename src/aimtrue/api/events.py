"""Server-sent events: a word to every open page of a job when it changes, and how far its tasks are."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from collections import defaultdict
from collections.abc import AsyncIterator
from typing import Any

import orjson
import psycopg

from aimtrue.settings import settings
from aimtrue.store.change_notices import CHANNEL

log = logging.getLogger("aimtrue.api")
_QUIET_SECONDS = 15.0


class _Page:
    """One open page: what it has not been told yet. Of several words about one thing the last counts."""

    def __init__(self) -> None:
        self.woken = asyncio.Event()
        self.changed = False
        self.progress: dict[int, dict[str, Any]] = {}

    def told(self) -> list[str]:
        """Return what to tell the page now."""
        some = [
            f"event: progress\ndata: {orjson.dumps(progress).decode()}\n\n"
            for progress in self.progress.values()
        ]
        if self.changed:
            some.append("event: changed\ndata: {}\n\n")
        self.changed, self.progress = False, {}
        self.woken.clear()
        return some


class Watchers:
    """Listens on the database once, and wakes every page that watches a job."""

    def __init__(self) -> None:
        self._pages: defaultdict[str, set[_Page]] = defaultdict(set)

    async def listen(self) -> None:
        """Listen until cancelled; after a lost connection everybody is woken, to be safe."""
        while True:
            try:
                connection = await psycopg.AsyncConnection.connect(settings().database, autocommit=True)
                async with connection:
                    await connection.execute(f"LISTEN {CHANNEL}")
                    for job in list(self._pages):
                        self._wake(job, None)
                    async for notice in connection.notifies():
                        said = orjson.loads(notice.payload)
                        self._wake(said["job"], said["progress"])
            except psycopg.Error as error:
                log.warning("listening for changes failed, trying again: %s", error)
                await asyncio.sleep(1)

    async def changes(self, job: str) -> AsyncIterator[str]:
        """Yield an event for every change of a job, and a comment when all is quiet."""
        page = _Page()
        self._pages[job].add(page)
        try:
            yield "event: open\ndata: {}\n\n"
            while True:
                with contextlib.suppress(TimeoutError):
                    await asyncio.wait_for(page.woken.wait(), _QUIET_SECONDS)
                for said in page.told() or [": quiet\n\n"]:
                    yield said
        finally:
            self._pages[job].discard(page)
            if not self._pages[job]:
                del self._pages[job]

    def _wake(self, job: str, progress: dict[str, Any] | None) -> None:
        for page in self._pages.get(job, ()):
            if progress is None:
                page.changed = True
            else:
                page.progress[progress["task"]] = progress
            page.woken.set()
