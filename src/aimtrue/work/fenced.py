"""What runs behind the fence: files in, files out, small values between."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from aimtrue.core.formats.contents import Limits
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.job import Body, Job, Source
from aimtrue.core.progress import Progress
from aimtrue.core.release.make import Order, Released, release
from aimtrue.core.release.proof import Proof
from aimtrue.store.shelf import DiskShelf


@dataclass(frozen=True)
class Read:
    """A file that was read; ``blobs`` are paths named by hash."""

    source: Source
    body: Body
    blobs: list[Path]


def read_file(path: Path, key: str, name: str, limits: Limits, out: Path, progress: Progress) -> Read:
    """Read a model file and leave its geometry in a folder."""
    taken = take_in(key, name, path.read_bytes(), limits=limits, progress=progress)
    blobs = []
    for blob, data in taken.blobs.items():
        (out / blob).write_bytes(data)
        blobs.append(out / blob)
    return Read(taken.source, taken.body, blobs)


def make_release(
    job: Job, shelf: Path, order: Order, out: Path, progress: Progress
) -> tuple[Released, Proof]:
    """Make a release from a folder of geometry and leave the file in another."""
    made = release(job, DiskShelf(shelf), order, progress)
    (out / made.file.sha256).write_bytes(made.data)
    return made.file, made.proof
