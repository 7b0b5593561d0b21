"""A simulated next program: a small service that takes releases over HTTP, once each, and lists them.

It stands for no program in particular. It can be told to refuse, to stay silent, to cut off or to answer
rubbish, so that what then happens can be seen.
"""

from __future__ import annotations

import asyncio
import hashlib
import io
import zipfile
from collections.abc import Mapping
from typing import Literal

from fastapi import FastAPI, Request, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel

_MOST = 20
"""Releases that it remembers."""

Mood = Literal["takes", "refuses", "silent", "cuts-off", "rubbish"]


class ReceivedRelease(BaseModel):
    """A release that it took."""

    key: str
    name: str
    bytes: int
    files: list[str]


class NextProgramState(BaseModel):
    """What it does with the next releases, how many of them, and what it took."""

    mood: Mood = "takes"
    times: int = 0
    taken: list[ReceivedRelease] = []
    asked: int = 0
    simulated: bool = True


def make_app(silence: float = 60.0) -> FastAPI:
    """Return the service; it keeps what it took in memory alone.

    Args:
        silence: seconds that it stays silent for.
    """
    app = FastAPI(title="Next program, simulated")
    state = NextProgramState()

    @app.get("/")
    def now() -> NextProgramState:
        return state

    @app.post("/mood/{mood}")
    def behave(mood: Mood, times: int = 1) -> NextProgramState:
        state.mood, state.times = mood, times
        return state

    @app.post("/take")
    async def take(request: Request) -> Response:
        data = await request.body()
        mood = _mood_now(state)
        if mood == "silent":
            await asyncio.sleep(silence)
        if mood == "refuses":
            return Response("no room for it", 409)
        if mood == "rubbish":
            return Response("<html>welcome</html>", 200)
        answer = _taken(state, data, request.headers)
        # Cut off: it has the release, and its answer is lost.
        return Response(b"", 502) if mood == "cuts-off" else answer

    return app


def _mood_now(state: NextProgramState) -> Mood:
    """What it does this once; it takes what comes when its mood is over."""
    mood: Mood = state.mood if state.times > 0 else "takes"
    state.asked, state.times = state.asked + 1, max(0, state.times - 1)
    return mood


def _taken(state: NextProgramState, data: bytes, headers: Mapping[str, str]) -> Response:
    """Take a release, unless it arrived damaged or is none; one that it has already only once."""
    key = hashlib.sha256(data).hexdigest()
    if key != headers.get("x-release", key):
        return Response("it arrived damaged", 500)
    try:
        files = zipfile.ZipFile(io.BytesIO(data)).namelist()
    except zipfile.BadZipFile:
        return Response("it is no ZIP", 422)
    already = any(received_release.key == key for received_release in state.taken)
    if not already:
        name = headers.get("x-name", "release.zip")
        state.taken.append(ReceivedRelease(key=key, name=name, bytes=len(data), files=files))
        del state.taken[:-_MOST]
    return JSONResponse({"sha256": key, "already": already}, 201)
