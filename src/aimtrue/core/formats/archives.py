"""Packed files: gzip and ZIP, unpacked in memory and bounded.

Nothing is ever written to a path that an archive names.
"""

from __future__ import annotations

import gzip
import io
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import PurePosixPath

from aimtrue.core.errors import AimTrueError, UnreadableFile
from aimtrue.core.formats.contents import UnpackingLimits

ENDINGS = (".gz", ".zip")
MOST_MEMBERS = 1000


@dataclass(frozen=True, eq=False)
class ArchivedFile:
    """One model file out of an archive."""

    name: str
    data: bytes


def unpack(name: str, data: bytes, limits: UnpackingLimits, readable: tuple[str, ...]) -> list[ArchivedFile]:
    """Return the model files of an archive, in its order.

    Args:
        name: of the archive; its ending tells its kind.
        data: the whole archive.
        limits: how far it may unpack.
        readable: endings of files that can be taken; others are left where they are.

    Raises:
        UnreadableFile: damaged, unpacks too far, holds paths that climb out, archives or too many
            members, or nothing that can be read.
    """
    try:
        if name.lower().endswith(".gz"):
            return [ArchivedFile(name[:-3], _gunzipped(data, limits))]
        return _unzipped(data, limits, readable)
    except (AimTrueError, MemoryError):
        raise
    except Exception as error:  # noqa: BLE001 - whatever it is, it is told
        # An archive can be damaged in more ways than its library has names for.
        raise UnreadableFile(
            "archive-damaged",
            "the archive cannot be unpacked",
            where=str(error)[:120],
            remedy="pack it again without a password, or give the files themselves",
        ) from None


def _gunzipped(data: bytes, limits: UnpackingLimits) -> bytes:
    with gzip.GzipFile(fileobj=io.BytesIO(data)) as stream:
        return b"".join(_bounded(stream, len(data), limits))


def _bounded(
    stream: gzip.GzipFile | zipfile.ZipExtFile, packed: int, limits: UnpackingLimits
) -> Iterator[bytes]:
    total = 0
    while chunk := stream.read(1 << 20):
        total += len(chunk)
        if total > limits.unpacked_bytes or (total > 64 * 1024**2 and total > limits.ratio * packed):
            raise UnreadableFile(
                "archive-unpacks-too-far",
                f"the archive of {packed / 1e6:.3g} MB unpacks to over {total / 1e6:.3g} MB",
                remedy="this is not a usual model; have the file checked, or give the files themselves",
            )
        yield chunk


def _unzipped(data: bytes, limits: UnpackingLimits, readable: tuple[str, ...]) -> list[ArchivedFile]:
    with zipfile.ZipFile(io.BytesIO(data)) as package:
        entries = [entry for entry in package.infolist() if entry.filename and not entry.is_dir()]
        if len(entries) > MOST_MEMBERS:
            raise UnreadableFile(
                "archive-too-many",
                f"the archive holds {len(entries)} files; the limit is {MOST_MEMBERS}",
                remedy="pack the parts you need on their own",
            )
        for entry in entries:
            _refuse_climbing(entry.filename)
        wanted = [entry for entry in entries if _is_wanted(entry.filename, readable)]
        nested = [entry.filename for entry in entries if entry.filename.lower().endswith(ENDINGS)]
        if not wanted:
            raise UnreadableFile(
                "archive-nothing",
                "the archive holds no model file" + (", only further archives" if nested else ""),
                where=", ".join(entry.filename for entry in entries[:4]),
                remedy="unpack it and give the model files" if nested else "give " + ", ".join(readable),
            )
        left, members = limits.unpacked_bytes, []
        for entry in wanted:
            with package.open(entry) as member:
                share = UnpackingLimits(unpacked_bytes=left, ratio=limits.ratio)
                content = b"".join(_bounded(member, max(entry.compress_size, 1), share))  # type: ignore[arg-type]
            left -= len(content)
            members.append(ArchivedFile(entry.filename.replace("\\", "/"), content))
        return members


def _refuse_climbing(name: str) -> None:
    path = PurePosixPath(name.replace("\\", "/"))
    if path.is_absolute() or ".." in path.parts or ":" in "".join(path.parts[:1]):
        raise UnreadableFile(
            "archive-climbs",
            "the archive holds a path that climbs out of it",
            where=name[:80],
            remedy="do not trust this file; give the models themselves",
        )


def _is_wanted(name: str, readable: tuple[str, ...]) -> bool:
    path = PurePosixPath(name.replace("\\", "/"))
    hidden = any(part.startswith((".", "__MACOSX")) for part in path.parts)
    return not hidden and path.suffix.lower() in readable
