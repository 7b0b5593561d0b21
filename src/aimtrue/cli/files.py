"""What inspect and release share: reading a file from disk into a job of its own."""

from __future__ import annotations

import argparse
import sys
from dataclasses import dataclass
from enum import IntEnum
from pathlib import Path

from aimtrue.core import geometry
from aimtrue.core.actions import SettleUnit, SetUp, TakeIn, apply
from aimtrue.core.errors import AimTrueError, UnreadableFile
from aimtrue.core.formats.contents import Limits
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.job import Job
from aimtrue.core.mesh import Mesh
from aimtrue.settings import settings


class Exit(IntEnum):
    """Exit codes; stable, scripts rely on them."""

    DONE = 0
    USAGE = 2
    UNREADABLE = 3
    UNSETTLED = 4
    UNPROVEN = 5
    UNWRITABLE = 6


class Failure(Exception):
    """Ends a command with a line on standard error and an exit code."""

    def __init__(self, code: Exit, says: str) -> None:
        super().__init__(says)
        self.code, self.says = code, says


@dataclass(frozen=True, eq=False)
class Loaded:
    """A file as a job of one body, with its mesh at hand; also the shelf the core fetches it from."""

    path: str
    job: Job
    whole: Mesh

    def mesh(self, name: str) -> Mesh:
        """Return the mesh of the only body."""
        return self.whole


def load(path: str, asked: argparse.Namespace) -> Loaded:
    """Read a file and settle what the options tell.

    Raises:
        Failure: the file cannot be read; the text says which, where and why.
    """
    try:
        data = _bytes_of(path)
        taken = take_in(
            "s1", Path(path).name, data, limits=Limits(unpacked_bytes=settings().unpacked_mb * 1_000_000)
        )
    except AimTrueError as error:
        raise Failure(Exit.UNREADABLE, f"{path}: {error.line()}") from None
    mesh = geometry.from_bytes(taken.blobs[taken.body.geometry])
    loaded = Loaded(path, Job(name=Path(path).stem), mesh)
    job = apply(loaded.job, TakeIn(source=taken.source, body=taken.body), loaded)
    job = apply(job, SetUp(source="s1", up=asked.up), loaded)
    if asked.unit is not None:
        job = apply(job, SettleUnit(source="s1", unit=asked.unit), loaded)
    return Loaded(path, job, mesh)


def _bytes_of(path: str) -> bytes:
    try:
        size = Path(path).stat().st_size
        if size > settings().upload_bytes:
            raise UnreadableFile(
                "file-too-large",
                f"the file has {size / 1e6:.0f} MB; the limit is {settings().upload_bytes / 1e6:.0f} MB",
                remedy="raise AIMTRUE_UPLOAD_MB",
            )
        return Path(path).read_bytes()
    except OSError as error:
        raise UnreadableFile("file-unreadable", f"the file cannot be opened: {error.strerror}") from None


def complain(says: str) -> None:
    """Write one line to standard error."""
    print(f"aimtrue: {' '.join(says.split())}", file=sys.stderr)
