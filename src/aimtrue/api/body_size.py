"""This module says how much a request may bring, looked at before it is read into memory."""

from __future__ import annotations

import re

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from aimtrue.api.guard import refused

_FILES = re.compile(r"/api/jobs(/[^/]+/(sources(/[^/]+/revision)?|releases/[^/]+/verify))?")
"""Where a file is sent: these are streamed to disk, and have a limit of their own."""
_DRAWINGS = re.compile(r"/api/jobs/[^/]+/(tasks|division/.*)")
"""Where a drawing may come along."""
_KEY = "/api/key"
KEY_BYTES, USUAL_BYTES, DRAWING_BYTES = 64_000, 1_000_000, 6_000_000


class BodySizeLimit:
    """Middleware that refuses requests that are too large, by what they say or by what comes."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, no farther than its limit."""
        path = scope.get("path", "")
        if scope["type"] != "http" or (_FILES.fullmatch(path) and scope["method"] == "POST"):
            await self.app(scope, receive, send)
            return
        most = limit_of(path)
        said = Headers(scope=scope).get("content-length", "0")
        too_large = refused(
            413, "request-large", f"the request is over {most / 1000:g} kB; nothing was changed", "send less"
        )
        if not said.isdecimal() or int(said) > most:
            await too_large(scope, receive, send)
            return
        taken, over = 0, False

        async def counted() -> Message:
            nonlocal taken, over
            message = await receive()
            taken += len(message.get("body", b""))
            over = over or taken > most
            return {"type": "http.disconnect"} if over else message

        async def answered(message: Message) -> None:
            if not over:
                await send(message)
            elif message["type"] == "http.response.start":  # It only knows that the rest is missing.
                await too_large(scope, receive, send)

        await self.app(scope, counted, answered)


def limit_of(path: str) -> int:
    """Return how many bytes a request to a path may bring."""
    if path == _KEY:
        return KEY_BYTES
    return DRAWING_BYTES if _DRAWINGS.fullmatch(path) else USUAL_BYTES
