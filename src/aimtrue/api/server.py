"""The web application: routes, errors as messages, and the built pages."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from collections.abc import AsyncIterator

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse
from fastapi.staticfiles import StaticFiles
from sqlalchemy.exc import DataError, OperationalError
from starlette.middleware.gzip import DEFAULT_EXCLUDED_CONTENT_TYPES, GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.requests import ClientDisconnect
from starlette.responses import Response

from aimtrue import __version__
from aimtrue.api import (
    cost,
    division,
    drafts,
    examples,
    fit,
    handover,
    inspection,
    intake,
    job_list,
    key,
    release,
    seating,
    stock,
    truing,
    usual,
)
from aimtrue.api.body_size import BodySizeLimit
from aimtrue.api.fair_queue import TooBusy
from aimtrue.api.guard import Guard, refused
from aimtrue.api.routes import router, watchers
from aimtrue.api.shared import store
from aimtrue.api.uploads import TooLarge
from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.value import build_all
from aimtrue.examples import UnknownExample
from aimtrue.settings import ROOT, settings
from aimtrue.store.blobs import UnknownBlob
from aimtrue.store.idle_release import let_go_at_rest
from aimtrue.store.jobs import StaleRevision, UnknownJob
from aimtrue.work import sandbox

PAGES = ROOT / "web" / "dist"
_STATUS: list[tuple[type[AimTrueError], int]] = [
    (StaleRevision, 409),
    (UnknownJob, 404),
    (UnknownBlob, 404),
    (UnknownExample, 404),
    (TooLarge, 413),
    (TooBusy, 503),
]
_NOT_PACKED = (*DEFAULT_EXCLUDED_CONTENT_TYPES, "application/octet-stream", "model/*")
"""What is packed already, or is fetched once and would take longer to pack than to send."""
log = logging.getLogger("aimtrue.api")
_DATABASE_SAYS = {
    "40P01": (
        503,
        "database-crossed",
        "two changes crossed; nothing was changed",
        "try again",
    ),
    "53100": (
        507,
        "database-full",
        "the disk that the database is on is full; nothing was changed",
        "make room there, and try again",
    ),
    "53200": (503, "database-memory", "the database is short of memory; nothing was changed", "try again"),
    "53300": (
        503,
        "database-busy",
        "the database serves too many; nothing was changed",
        "try again",
    ),
}
"""By its SQLSTATE (PostgreSQL, appendix A): what the database itself says, where it does answer."""


def make_app() -> FastAPI:
    """Return the application."""
    # Without the pages that describe it: they would fetch scripts from elsewhere.
    app = FastAPI(title="Aim True", version=__version__, lifespan=_lifespan, docs_url=None, redoc_url=None)
    if settings().host != "0.0.0.0":
        # A page elsewhere must not reach this server by naming it differently.
        app.add_middleware(TrustedHostMiddleware, allowed_hosts=["127.0.0.1", "localhost", settings().host])
    app.add_middleware(GZipMiddleware, minimum_size=2000, compresslevel=4, exclude_content_types=_NOT_PACKED)
    app.add_middleware(BodySizeLimit)
    app.add_middleware(Guard, key=settings().key)
    app.include_router(key.router)
    app.include_router(router)
    app.include_router(examples.router)
    app.include_router(drafts.router)
    app.include_router(usual.router)
    app.include_router(intake.heavy)
    for sheet in (job_list, truing, fit, inspection, division, seating, cost, stock, release, handover):
        app.include_router(sheet.heavy)
        app.include_router(sheet.router)
    app.add_exception_handler(AimTrueError, _as_message)
    app.add_exception_handler(RequestValidationError, _as_usage)
    app.add_exception_handler(OperationalError, _as_away)
    app.add_exception_handler(DataError, _as_unkeepable)
    app.add_exception_handler(UnicodeEncodeError, _as_unkeepable)
    app.add_exception_handler(ClientDisconnect, _as_gone)
    app.add_exception_handler(Exception, _as_apology)
    if PAGES.exists():
        app.mount("/assets", StaticFiles(directory=PAGES / "assets"), name="assets")
        app.add_api_route("/{path:path}", _page, include_in_schema=False, response_model=None)
    return app


@contextlib.asynccontextmanager
async def _lifespan(_: FastAPI) -> AsyncIterator[None]:
    aside = [asyncio.create_task(watchers.listen()), asyncio.create_task(let_go_at_rest(store))]
    aside += [asyncio.create_task(asyncio.to_thread(early)) for early in (build_all, sandbox.warm)]
    yield
    for task in aside:
        task.cancel()


def _page(path: str) -> Response:
    # Looked up among the names that are there: what was asked for may be no name of a file at all.
    if path in {file.name for file in PAGES.iterdir() if file.is_file()}:
        return FileResponse(PAGES / path)
    return FileResponse(PAGES / "index.html", headers={"Cache-Control": "no-cache"})


async def _as_message(_: Request, error: Exception) -> Response:
    assert isinstance(error, AimTrueError)
    status = next((code for kind, code in _STATUS if isinstance(error, kind)), 422)
    return refused(status, error.code, error.says, error.remedy, error.where)


async def _as_usage(_: Request, error: Exception) -> Response:
    assert isinstance(error, RequestValidationError)
    first = error.errors()[0]
    where = " > ".join(str(step) for step in first["loc"])
    return refused(422, "request", f"the request is not understood: {first['msg']}", "reload the page", where)


async def _as_unkeepable(_: Request, error: Exception) -> Response:
    log.warning("a request that cannot be kept: %s", str(error).splitlines()[0])
    says = "the request has a number or a character that nothing here can have; nothing was changed"
    return refused(422, "request", says, "reload the page")


async def _as_away(_: Request, error: Exception) -> Response:
    log.warning("the database is away: %s", str(error).splitlines()[0])
    reason = _DATABASE_SAYS.get(str(getattr(getattr(error, "orig", None), "sqlstate", "")))
    if reason is not None:
        return refused(*reason)
    says = "the database does not answer just now; nothing was changed"
    return refused(503, "database-away", says, "try again in a moment")


async def _as_gone(request: Request, _: Exception) -> Response:
    log.info("whoever sent something to %s went away before its end", request.url.path)
    return refused(400, "cut-off", "the file did not come whole; nothing was changed", "send it again")


async def _as_apology(_: Request, error: Exception) -> Response:
    log.exception("request failed", exc_info=error)
    says = "something went wrong here; nothing was changed"
    return refused(500, "server", says, "try again, or reload the page")
