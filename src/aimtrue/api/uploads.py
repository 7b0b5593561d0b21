"""Taking a file from the browser: streamed to disk, bounded, then kept in the store."""

from __future__ import annotations

import mmap
import os
import shutil
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from typing import IO

from fastapi import Request
from sqlalchemy.orm import Session
from starlette.concurrency import run_in_threadpool

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats import ending_of, refuse_unreadable_ending, stl
from aimtrue.core.mesh.reduced import REDUCED_FROM, reduced
from aimtrue.core.mesh.serialization import bench_bytes
from aimtrue.core.model.text import refuse_odd
from aimtrue.readers import let_read
from aimtrue.settings import settings
from aimtrue.store import blobs, jobs
from aimtrue.store.geometry_store import keep_drawn, written_aside
from aimtrue.work.queue import ask_reading

_WRITTEN_AT_ONCE = 2 * 1024 * 1024
_LOOKED_AHEAD = 50 * REDUCED_FROM
"""Bytes of a binary STL that the bench would draw reduced: worth a first look while it is kept."""
_FIRST_CELLS = 100
"""The first look is divided into this many cells along its longest side: coarse, but there at once."""
_LOOKING = ThreadPoolExecutor(1, "first look")


@contextmanager
def at_a_path(file: IO[bytes]) -> Iterator[Path]:
    """Copy a spooled file to where readers can open it by its name, for as long as they need it."""
    with tempfile.NamedTemporaryFile() as copy:
        let_read(copy.fileno())
        file.seek(0)
        shutil.copyfileobj(file, copy)
        copy.flush()
        yield Path(copy.name)


class TooLarge(UnreadableFile):
    """A file over the upload limit."""


async def spool(request: Request, name: str) -> IO[bytes]:
    """Stream a request's body to a file on disk.

    Raises:
        UnreadableFile: the name's ending is not taken, or the file is over the limit.
    """
    refuse_odd(name, "the name of a file")
    refuse_unreadable_ending(name)
    limit = settings().upload_bytes
    declared = int(request.headers.get("content-length", "0") or 0)
    if declared > limit:
        raise _too_large(declared, limit)
    file: IO[bytes] = tempfile.TemporaryFile()  # noqa: SIM115 - closed by the caller
    total, waiting = 0, bytearray()
    async for piece in request.stream():
        total += len(piece)
        if total > limit:
            file.close()
            raise _too_large(total, limit)
        waiting += piece
        # Pieces are small; a thread for each would cost more than the disk.
        if len(waiting) >= _WRITTEN_AT_ONCE:
            await run_in_threadpool(file.write, bytes(waiting))
            waiting.clear()
    await run_in_threadpool(file.write, bytes(waiting))
    file.seek(0)
    return file


def keep(session: Session, file: IO[bytes]) -> str:
    """Keep a spooled file in the store, byte for byte, and return its hash.

    A copy is left in the disk cache, where the worker looks first.
    """
    with written_aside() as (copy, path):

        def pieces() -> Iterator[bytes]:
            while piece := file.read(blobs.CHUNK):
                copy.write(piece)
                yield piece

        name = blobs.put_pieces(session, pieces())
    path.replace(settings().cache / name)
    return name


def opened_with(session: Session, file: IO[bytes], name: str) -> str:
    """Make a job, ask for a file to be read into it, and return the job's id."""
    key = jobs.create(session, PurePosixPath(name.replace("\\", "/")).stem or name)
    ask_reading(session, key, name, *kept_with_preview(session, file, name))
    return key


def kept_with_preview(session: Session, file: IO[bytes], name: str) -> tuple[str, str | None]:
    """Keep a file, and meanwhile take a first look at it; return its hash, and the preview's name if any."""
    looking = _LOOKING.submit(look_ahead, file, name)
    sha256 = keep(session, file)
    return sha256, looking.result()


def look_ahead(file: IO[bytes], name: str) -> str | None:
    """Leave a first look at a large binary STL in the disk cache, and return its name; None for other files.

    A bounded pass over numbers, so it may run here; the reader in the sandbox still judges the file.
    """
    size = os.fstat(file.fileno()).st_size
    if ending_of(name) != ".stl" or size < _LOOKED_AHEAD:
        return None
    # Mapped, so that keeping the file may read it at the same time.
    with mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as whole:
        mesh = stl.first_look(bytes(whole))
    if mesh is None:
        return None
    data = bench_bytes(reduced(mesh, _FIRST_CELLS), inked=False)
    return keep_drawn(data)


def _too_large(size: int, limit: int) -> TooLarge:
    return TooLarge(
        "file-too-large",
        f"the file has over {size / 1e6:.0f} MB; the limit is {limit / 1e6:.0f} MB",
        remedy="export it coarser, or raise AIMTRUE_UPLOAD_MB and start again",
    )
