"""This module says what the addresses of all sheets share: the shelf, and how files are handed over."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import IO, Any, TypeVar
from urllib.parse import quote

from fastapi import Response
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.release.order import MEDIA_TYPES
from aimtrue.settings import settings
from aimtrue.store.geometry_store import CachedGeometryStore, on_disk, written_aside
from aimtrue.work import sandbox
from aimtrue.work.tasks import usual_limits

T = TypeVar("T")
store = CachedGeometryStore()


def run_isolated(work: Callable[..., T], job: Job, keys: Iterable[BodyId], *arguments: Any) -> T:  # noqa: ANN401 - of any type, or of none that is known
    """Do heavy work on bodies in the sandbox, where neither their size nor a fault in them holds up others.

    Args:
        work: of :mod:`aimtrue.work.sandboxed`; called with the job, the disk cache and the arguments.
        job: that the bodies are of.
        keys: of the bodies; their geometry is fetched into the disk cache first.
        arguments: for the work.
    """
    for key in keys:
        body = job.body(key)
        for name in (body.geometry, body.features):
            if name:
                on_disk(name)
    return sandbox.run(work, job, settings().cache, *arguments, limits=usual_limits())


def whole(data: bytes, name: str, kind: str) -> Response:
    """Hand over bytes as a file of some kind, by a key of :data:`MEDIA_TYPES`."""
    return Response(data, media_type=MEDIA_TYPES[kind], headers=named(name))


def written(write: Callable[[IO[bytes]], None], name: str, kind: str) -> FileResponse:
    """Hand over a file that is made for it: on disk, however large it gets, and gone once it was fetched.

    Args:
        write: writes the file; when it fails nothing was handed over yet.
        name, kind: what it is called, and a key of :data:`MEDIA_TYPES`.
    """
    with written_aside() as (out, path):
        write(out)
    return FileResponse(
        path, media_type=MEDIA_TYPES[kind], headers=named(name), background=BackgroundTask(path.unlink, True)
    )


def downloaded(sha256: str, name: str, media_type: str) -> FileResponse:
    """Hand over a blob under a name, from the disk cache.

    Whoever fetches it may take as long as they like: meanwhile it holds nothing that others wait for.
    """
    return FileResponse(on_disk(sha256), media_type=media_type, headers={**named(name), "X-SHA256": sha256})


def named(name: str, how: str = "attachment") -> dict[str, str]:
    """Return the header that names what is handed over, in any script (RFC 6266, RFC 8187)."""
    return {"Content-Disposition": f"{how}; filename*=UTF-8''{quote(name)}"}
