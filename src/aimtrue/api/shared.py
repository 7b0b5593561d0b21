"""What the addresses of all sheets share: the shelf, and how files are handed over."""

from __future__ import annotations

from urllib.parse import quote

from fastapi import Response
from fastapi.responses import FileResponse

from aimtrue.core.release.order import MEDIA_TYPES
from aimtrue.store.shelf import StoreShelf, on_disk

shelf = StoreShelf()


def whole(data: bytes, name: str, kind: str) -> Response:
    """Hand over bytes as a file of some kind, by a key of :data:`MEDIA_TYPES`."""
    return Response(data, media_type=MEDIA_TYPES[kind], headers=_named(name))


def downloaded(sha256: str, name: str, media_type: str) -> FileResponse:
    """Hand over a blob under a name, from the disk cache.

    Whoever fetches it may take as long as they like: meanwhile it holds nothing that others wait for.
    """
    return FileResponse(on_disk(sha256), media_type=media_type, headers={**_named(name), "X-SHA256": sha256})


def _named(name: str) -> dict[str, str]:
    return {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
