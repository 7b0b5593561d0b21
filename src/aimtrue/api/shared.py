"""What the addresses of all sheets share: the shelf, and how files are handed over."""

from __future__ import annotations

from collections.abc import Iterator
from urllib.parse import quote

from fastapi import Response
from fastapi.responses import StreamingResponse

from aimtrue.core.release.order import MEDIA_TYPES
from aimtrue.store import blobs
from aimtrue.store.database import snapshot
from aimtrue.store.shelf import StoreShelf

shelf = StoreShelf()


def whole(data: bytes, name: str, kind: str) -> Response:
    """Hand over bytes as a file of some kind, by a key of :data:`MEDIA_TYPES`."""
    return Response(data, media_type=MEDIA_TYPES[kind], headers=_named(name))


def downloaded(sha256: str, name: str, media_type: str, size: int | None) -> StreamingResponse:
    """Hand over a blob under a name, piece by piece."""

    def body() -> Iterator[bytes]:
        with snapshot() as session:
            yield from blobs.pieces(session, sha256)

    headers = {**_named(name), "X-SHA256": sha256}
    if size is not None:
        headers["Content-Length"] = str(size)
    return StreamingResponse(body(), media_type=media_type, headers=headers)


def _named(name: str) -> dict[str, str]:
    return {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
