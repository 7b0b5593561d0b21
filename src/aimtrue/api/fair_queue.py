"""Heavy work that pages wait for, two pieces at a time: who asks waits in line, and holds nothing meanwhile.

A line of its own for each client, taken from in turn, so that one with a hundred wishes holds up nobody who
has one. Whoever has too many in line already, or waits too long, is told to come again.
"""

from __future__ import annotations

import asyncio
from collections import OrderedDict, deque
from collections.abc import AsyncIterator, Callable, Coroutine
from contextlib import asynccontextmanager
from typing import Any

from fastapi import Request, Response
from fastapi.routing import APIRoute

from aimtrue.api.guard import who_asks
from aimtrue.core.errors import AimTrueError

_AT_ONCE = 2
_EACH, _ALL = 16, 200
_SECONDS = 60.0


class TooBusy(AimTrueError):
    """Too much is asked for at once; nothing was done."""


class FairQueue:
    """Lets so many in at a time; the others wait in lines of their own.

    Args:
        at_once: how many are in at a time.
        each, every: how many of one client, and of all, may wait.
        seconds: how long anybody waits at most.
    """

    def __init__(
        self, at_once: int = _AT_ONCE, each: int = _EACH, every: int = _ALL, seconds: float = _SECONDS
    ) -> None:
        self._at_once, self._each, self._every, self._seconds = at_once, each, every, seconds
        self._inside = 0
        self._lines: OrderedDict[str, deque[asyncio.Future[None]]] = OrderedDict()

    @asynccontextmanager
    async def place(self, who: str) -> AsyncIterator[None]:
        """Wait for a place, and give it back at the end.

        Raises:
            Busy: too many wait already, or it took too long.
        """
        await self._enter(who)
        try:
            yield
        finally:
            self._leave()

    async def _enter(self, who: str) -> None:
        if self._inside < self._at_once:
            self._inside += 1
            return
        line = self._lines.get(who, deque())
        if len(line) >= self._each or sum(map(len, self._lines.values())) >= self._every:
            raise _busy()
        turn: asyncio.Future[None] = asyncio.get_running_loop().create_future()
        line.append(turn)
        self._lines[who] = line
        try:
            await asyncio.wait_for(asyncio.shield(turn), self._seconds)
        except TimeoutError:
            self._give_up(who, turn)
            raise _busy() from None
        except asyncio.CancelledError:  # The client that asked has gone.
            self._give_up(who, turn)
            raise

    def _give_up(self, who: str, turn: asyncio.Future[None]) -> None:
        """Leave the line; a place that was given just now goes on to the next."""
        if turn.done():
            self._leave()
            return
        turn.cancel()
        line = self._lines.get(who)
        if line is not None and turn in line:
            line.remove(turn)
            if not line:
                del self._lines[who]

    def _leave(self) -> None:
        while self._lines:
            who, line = self._lines.popitem(last=False)
            turn = line.popleft()
            if line:
                # A client that was served goes to the end, so that the others come first.
                self._lines[who] = line
            if not turn.done():
                turn.set_result(None)  # The place goes from one client to the next.
                return
        self._inside -= 1


def _busy() -> TooBusy:
    return TooBusy(
        "busy", "too much is being drawn just now; nothing was done", remedy="try again in a moment"
    )


HEAVY_REQUESTS = FairQueue()


class QueuedRoute(APIRoute):
    """An address whose answers take long to work out.

    What is asked is read before, and the answer is sent after: a slow line holds no place.
    """

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        """Return what answers a request."""
        answer = super().get_route_handler()

        async def in_turn(request: Request) -> Response:
            await request.body()
            async with HEAVY_REQUESTS.place(who_asks(request)):
                return await answer(request)

        return in_turn
