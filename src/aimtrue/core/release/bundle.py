"""A bundle: a whole job as one ZIP of open formats, that another machine takes in to the same state.

``bundle.json`` says what is in it (its schema is published, docs/bundle.schema.json): the job's decisions
at every state that counts, and of every file its path, kind, size and SHA-256. Originals lie there as they
were given, releases as they were handed over, geometry as the app keeps it (``core/mesh/stored.py`` states
its layout).
"""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
from collections.abc import Callable
from pathlib import PurePosixPath
from typing import Any, Literal

from pydantic import Field, ValidationError

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats.contents import Limits
from aimtrue.core.formats.packing import packed
from aimtrue.core.model.value import Value

BUNDLE = "bundle.json"
NEWEST = 1
"""Version that is written, and the newest that is read."""
_RATIO_FROM = 64_000_000

Kind = Literal["original", "geometry", "release", "record"]


class BundledFile(Value):
    """A file of a bundle; ``name`` is what it was called."""

    path: str
    kind: Kind
    name: str
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    bytes: int = Field(ge=0)


class BundledState(Value):
    """The job at one revision, as it is kept; ``version`` says how that is written."""

    number: int
    version: int
    state: dict[str, Any]


class BundledRelease(Value):
    """A release: of which state, when, what was asked for, and its files with their proofs."""

    number: int
    state: int
    at: str
    version: int
    order: dict[str, Any] | None
    record: str | None
    files: list[dict[str, Any]]


class Bundle(Value):
    """What a bundle holds. The last state is the job as it stood."""

    bundle: Literal["Aim True bundle"] = "Aim True bundle"
    version: int = NEWEST
    name: str
    files: tuple[BundledFile, ...]
    states: tuple[BundledState, ...] = Field(min_length=1)
    releases: tuple[BundledRelease, ...] = ()


def packed_bundle(bundle: Bundle, read: Callable[[str], bytes]) -> bytes:
    """Return a bundle as a ZIP.

    Args:
        bundle: what is in it.
        read: gives a file's bytes by its hash.
    """
    entries = [(BUNDLE, json.dumps(bundle.model_dump(mode="json"), ensure_ascii=False, indent=1).encode())]
    return packed([*entries, *((one.path, read(one.sha256)) for one in bundle.files)])


def is_bundle(data: bytes) -> bool:
    """Whether a ZIP is a bundle."""
    try:
        return BUNDLE in zipfile.ZipFile(io.BytesIO(data)).namelist()
    except (zipfile.BadZipFile, OSError, ValueError):
        return False


def read_bundle(data: bytes, limits: Limits) -> tuple[Bundle, dict[str, bytes]]:
    """Read a bundle, and hold every file in it against what it says.

    Returns:
        What it says, and its files by hash.

    Raises:
        UnreadableFile: it is none, of a newer version, has a path that climbs, or a file is missing or
            changed.
    """
    try:
        package = zipfile.ZipFile(io.BytesIO(data))
        climbing = next((one.filename for one in package.infolist() if _climbs(one.filename)), None)
        if climbing is not None:
            raise _bad(
                "bundle-path",
                f"it has a path that leads out of it: {climbing[:80]}",
                "do not trust this file",
            )
        unpacked = sum(one.file_size for one in package.infolist())
        if unpacked > limits.unpacked_bytes or (
            unpacked > _RATIO_FROM and unpacked > limits.ratio * len(data)
        ):
            raise _bad("bundle-large", f"it unpacks to {unpacked / 1e6:.0f} MB", "raise AIMTRUE_UNPACKED_MB")
        bundle = _told(package.read(BUNDLE))
        found = {one.sha256: _file(package, one) for one in bundle.files}
    except (zipfile.BadZipFile, KeyError, EOFError, NotImplementedError, OSError) as error:
        raise _bad("bundle-damaged", f"it is damaged: {error}", "export it again") from None
    return bundle, found


def _told(text: bytes) -> Bundle:
    try:
        told = json.loads(text)
        version = told.get("version") if isinstance(told, dict) else None
        if isinstance(version, int) and version > NEWEST:
            says = f"it was made by a newer Aim True (version {version}, here {NEWEST})"
            raise _bad("bundle-newer", says, "take it in there, or start the newer version here")
        return Bundle.model_validate(told)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"])) or "the whole"
        raise _bad(
            "bundle-odd", f"{BUNDLE} is not as it should be: {where}: {first['msg']}", "export it again"
        ) from None
    except (ValueError, UnicodeDecodeError):
        raise _bad("bundle-odd", f"{BUNDLE} is not understood", "export it again") from None


def _file(package: zipfile.ZipFile, one: BundledFile) -> bytes:
    if _climbs(one.path):
        raise _bad(
            "bundle-path", f"it names a path that leads out of it: {one.path[:80]}", "do not trust this file"
        )
    try:
        data = package.read(one.path)
    except KeyError:
        raise _bad(
            "bundle-missing", f"{one.kind} {one.name} is missing", "export it again; nothing was taken in"
        ) from None
    if hashlib.sha256(data).hexdigest() != one.sha256:
        raise _bad(
            "bundle-changed",
            f"{one.kind} {one.name} was changed since",
            "export it again; nothing was taken in",
        )
    return data


def _climbs(path: str) -> bool:
    parts = PurePosixPath(path.replace("\\", "/"))
    return parts.is_absolute() or ".." in parts.parts or ":" in path


def _bad(code: str, says: str, remedy: str) -> UnreadableFile:
    return UnreadableFile(code, f"the bundle cannot be taken in: {says}", remedy=remedy)
