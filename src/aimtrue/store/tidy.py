"""The disk cache, kept within its size: what was unused for longest goes; it can be had anew at any time."""

from __future__ import annotations

import shutil
import time
from dataclasses import dataclass
from pathlib import Path

IN_USE_SECONDS = 600.0
"""What was used so short a while ago may be about to be read by name."""
LEFT_SECONDS = 3600.0
"""What was begun so long ago, and never got its name, was left by something that was killed."""


@dataclass(frozen=True)
class TidyResult:
    """What went: how many bytes, and how many are left."""

    gone: int
    left: int


def tidy(folder: Path, most: int, now: float | None = None) -> TidyResult:
    """Bring a cache within its size.

    Args:
        folder: of files that are named by hash, and of what is only being made.
        most: bytes that may stay.
        now: seconds since 1970; the time of day unless told.
    """
    now = time.time() if now is None else now
    gone, files = 0, []
    for path in folder.iterdir():
        try:
            about = path.stat()
        except FileNotFoundError:  # Another worker tidies, or the file just got its name.
            continue
        if not _has_name(path):
            if about.st_mtime < now - LEFT_SECONDS:
                gone += _size_of(path)
                _remove(path)
            continue
        files.append((about.st_mtime, about.st_size, path))
    total = sum(size for _, size, _ in files)
    for used, size, path in sorted(files):
        if total <= most or used > now - IN_USE_SECONDS:
            break
        _remove(path)
        total, gone = total - size, gone + size
    return TidyResult(gone, total)


def _has_name(path: Path) -> bool:
    return len(path.stem) == 64 and path.suffix in ("", ".full", ".thumbnail")


def _size_of(path: Path) -> int:
    every = path.rglob("*") if path.is_dir() else [path]
    return sum(file.stat().st_size for file in every if file.is_file())


def _remove(path: Path) -> None:
    if path.is_dir():
        shutil.rmtree(path, ignore_errors=True)
    else:
        path.unlink(missing_ok=True)
