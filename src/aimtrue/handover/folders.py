"""Putting files down in a folder so that each is there whole or not at all.

Every file is written under a name of its own, flushed to the disk, read back, and only then given its
name. What goes wrong on the way leaves the files that are down, nothing half, and says which are which.
"""

from __future__ import annotations

import contextlib
import errno
import os
import secrets
import shutil
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Literal

from aimtrue.core.errors import Refused
from aimtrue.core.model.text import one_part

_AT_ONCE = 1 << 20
ASIDE = ".aimtrue-{}.part"
"""What a file is called while it is written; the braces are for what tells it from others."""


@dataclass(frozen=True)
class PutFile:
    """One file and what became of it."""

    name: str
    state: Literal["down", "not"]
    says: str


@dataclass(frozen=True)
class PutReport:
    """What became of all of them; ``whole`` when every one is down, so that a drive may be taken out."""

    files: tuple[PutFile, ...]
    whole: bool
    says: str


class Folder:
    """A folder on this machine."""

    longest_name = 255
    largest_file: int | None = None

    def __init__(self, path: Path) -> None:
        self.path = path

    def room(self) -> int:
        """Return how many bytes there is room for."""
        return shutil.disk_usage(self.path).free

    def refuse(self) -> None:
        """Refuse to be written to at all.

        Raises:
            Refused: it is not there, or write-protected.
        """
        if not self.path.is_dir():
            raise Refused("drive-gone", f"{self.path.name} is not there", remedy="put it in, and try again")
        if not os.access(self.path, os.W_OK):
            raise Refused("drive-protected", f"{self.path.name} is write-protected", remedy="unlock it")

    def pour(self, file: IO[bytes], piece: bytes) -> None:
        """Write a piece of a file."""
        file.write(piece)

    def read(self, path: Path) -> bytes:
        """Read back what was written."""
        return path.read_bytes()


def put_down(files: Sequence[tuple[str, bytes]], folder: Folder, *, replace: bool = False) -> PutReport:
    """Put files down in a folder.

    Args:
        files: names and bytes.
        folder: where.
        replace: whether files of the same name are replaced; else they are refused, before any is written.

    Returns:
        What became of each. When something breaks on the way, those that are down stay.

    Raises:
        Refused: it could not have gone well: no room, a name that is taken or too long, a drive that is
            not there.
    """
    _refuse(files, folder, replace=replace)
    done: list[PutFile] = []
    for name, data in files:
        try:
            _put(name, data, folder, replace=replace)
        except OSError as error:
            says = _broken(error)
            rest = [PutFile(name, "not", "not begun") for name, _ in files[len(done) + 1 :]]
            reason = f"{len(done)} of {len(files)} files arrived; {name} broke off: {says}"
            return PutReport((*done, PutFile(name, "not", says), *rest), False, reason)
        done.append(PutFile(name, "down", "written, flushed, read back"))
    _flush(folder.path)
    return PutReport(tuple(done), True, f"{len(done)} of {len(files)} files are down and read back")


def _refuse(files: Sequence[tuple[str, bytes]], folder: Folder, *, replace: bool) -> None:
    folder.refuse()
    for name, _ in files:
        try:
            one_part(name)
        except ValueError:
            raise Refused(
                "drive-name", f"{name[:80]!r} names no file of a folder", remedy="release it anew"
            ) from None
    if not files:
        raise Refused("nothing-to-put", "there is nothing to put down", remedy="choose a release")
    long = next((name for name, _ in files if len(name.encode()) > folder.longest_name), None)
    if long is not None:
        raise Refused(
            "drive-name",
            f"{long} has {len(long.encode())} characters; the drive takes {folder.longest_name}",
            remedy="release it with a shorter pattern, or shortened to the machine's display",
        )
    largest = folder.largest_file
    large = next((name for name, data in files if largest is not None and len(data) > largest), None)
    if large is not None:
        raise Refused(
            "drive-file", f"{large} is larger than a file on the drive may be", remedy="release it in parts"
        )
    there = [name for name, _ in files if (folder.path / name).exists()]
    if there and not replace:
        raise Refused(
            "drive-taken",
            f"already there: {', '.join(there[:4])}{' and more' if len(there) > 4 else ''}",
            remedy="say that they are to be replaced, or release under other names",
        )
    need = sum(len(data) for _, data in files)
    if need > folder.room():
        raise Refused(
            "drive-full",
            f"the files have {need / 1e6:.2f} MB; there is room for {folder.room() / 1e6:.2f} MB",
            remedy="make room on the drive, or release fewer bodies",
        )


def _put(name: str, data: bytes, folder: Folder, *, replace: bool) -> None:
    # A name that nobody can foresee, and never a link to elsewhere.
    aside = folder.path / ASIDE.format(secrets.token_hex(8))
    own = os.open(aside, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW, 0o644)
    try:
        with open(own, "wb") as file:
            for at in range(0, len(data), _AT_ONCE):
                folder.pour(file, data[at : at + _AT_ONCE])
            file.flush()
            os.fsync(file.fileno())
        if folder.read(aside) != data:
            raise OSError(errno.EIO, "what was read back is not what was written")
        if replace:
            aside.replace(folder.path / name)
        else:
            _take_name(aside, folder.path / name)
    except OSError:
        with contextlib.suppress(OSError):
            aside.unlink(missing_ok=True)
        raise
    _flush(folder.path)


def _take_name(aside: Path, final: Path) -> None:
    """Give a file its name, unless it was taken meanwhile; file systems of cards have no links."""
    try:
        os.link(aside, final)
    except FileExistsError:
        raise
    except OSError:
        if final.exists():
            raise FileExistsError(errno.EEXIST, "the name was taken meanwhile") from None
        aside.rename(final)
    else:
        aside.unlink()


def _flush(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _broken(error: OSError) -> str:
    return {
        errno.ENOSPC: "the drive is full",
        errno.EROFS: "the drive is write-protected",
        errno.ENODEV: "the drive was pulled out",
        errno.EIO: "the drive gave back something else",
        errno.EEXIST: "the name was taken meanwhile",
    }.get(error.errno or 0, error.strerror or "it cannot be written")
