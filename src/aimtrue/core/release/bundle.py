"""A bundle: a whole job as one ZIP of open formats, that another machine takes in to the same state.

``bundle.json`` says what is in it (its schema is published, docs/bundle.schema.json): the job's decisions
at every state that counts, and of every file its path, kind, size and SHA-256. Originals lie there as they
were given, releases as they were handed over, geometry as the app keeps it
(``core/mesh/serialization.py`` states its layout).
"""

from __future__ import annotations

import hashlib
import itertools
import json
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import PurePosixPath
from typing import IO, Any, Literal

from pydantic import Field, ValidationError, field_validator, model_validator

from aimtrue.core.errors import AimTrueError, UnreadableFile
from aimtrue.core.formats.contents import UnpackingLimits
from aimtrue.core.formats.packing import pack
from aimtrue.core.model.text import Sha256, refuse_odd
from aimtrue.core.model.value import Value

BUNDLE = "bundle.json"
NEWEST = 1
"""Version that is written, and the newest that is read."""
_MOST_RELEASES = 1_000_000
_MOST_ENTRIES, _MOST_TOLD = 100_000, 256_000_000
"""Files of a bundle, and bytes of what it says of them: both are in memory at once."""
_RATIO_FROM = 64_000_000
_AGAIN = "export it again; nothing was taken in"

Kind = Literal["original", "geometry", "release", "record"]


class BundledFile(Value):
    """A file of a bundle; ``name`` is what it was called."""

    path: str
    kind: Kind
    name: str
    sha256: Sha256
    bytes: int = Field(ge=0)


class BundledState(Value):
    """The job at one revision, as it is kept; ``version`` says how that is written."""

    number: int
    version: int
    state: dict[str, Any]


class BundledRelease(Value):
    """A release: of which state, when, what was asked for, and its files with their proofs."""

    number: int = Field(ge=1, le=_MOST_RELEASES)
    state: int
    at: str
    version: int
    order: dict[str, Any] | None
    record: Sha256 | None
    files: list[dict[str, Any]] = Field(min_length=1)

    @field_validator("at")
    @classmethod
    def _is_a_time(cls, at: str) -> str:
        datetime.fromisoformat(at)
        return at


class Bundle(Value):
    """What a bundle holds. The last state is the job as it stood."""

    bundle: Literal["Aim True bundle"] = "Aim True bundle"
    version: int = NEWEST
    name: str
    files: tuple[BundledFile, ...]
    states: tuple[BundledState, ...] = Field(min_length=1)
    releases: tuple[BundledRelease, ...] = ()

    @model_validator(mode="after")
    def _hangs_together(self) -> Bundle:
        known = {file.sha256 for file in self.files}
        if len(known) < len(self.files) or len({file.path for file in self.files}) < len(self.files):
            raise ValueError("a file is in it twice")
        if len({release.number for release in self.releases}) < len(self.releases):
            raise ValueError("a release is in it twice")
        for release in self.releases:
            if not 1 <= release.state <= len(self.states):
                raise ValueError(f"release {release.number} is of a state that is not there")
            if any(file.get("sha256") not in known for file in release.files):
                raise ValueError(f"release {release.number} names a file that is not there")
            names = [str(file.get("name", "")).casefold() for file in release.files]
            if len(set(names)) < len(names):
                raise ValueError(f"release {release.number} has two files of one name")
        return self


def pack_bundle(bundle: Bundle, read: Callable[[str], bytes], out: IO[bytes]) -> None:
    """Pack a bundle into a ZIP, one file of it after the other.

    Args:
        bundle: what is in it.
        read: gives a file's bytes by its hash.
        out: where the ZIP is written.
    """
    text = json.dumps(bundle.model_dump(mode="json"), ensure_ascii=False, indent=1).encode()
    files = ((file.path, read(file.sha256)) for file in bundle.files)
    pack(itertools.chain([(BUNDLE, text)], files), out)


@dataclass(frozen=True)
class OpenBundle:
    """A bundle that is read as its files are asked for; what it was opened from stays open meanwhile.

    Attributes:
        told: what it says is in it.
    """

    told: Bundle
    _package: zipfile.ZipFile

    def pieces(self, file: BundledFile, at_most: int) -> Iterator[bytes]:
        """Yield a file in pieces of so many bytes, and hold it against its hash at the end.

        Raises:
            UnreadableFile: it is missing, damaged or was changed since.
        """
        digest = hashlib.sha256()
        with _in_our_words():
            if file.path not in self._package.namelist():
                raise _bad("bundle-missing", f"{file.kind} {file.name} is missing", _AGAIN)
            with self._package.open(file.path) as member:
                while piece := member.read(at_most):
                    digest.update(piece)
                    yield piece
            if digest.hexdigest() != file.sha256:
                raise _bad("bundle-changed", f"{file.kind} {file.name} was changed since", _AGAIN)


def is_bundle(file: IO[bytes]) -> bool:
    """Whether a ZIP is a bundle."""
    try:
        return BUNDLE in zipfile.ZipFile(file).namelist()
    except Exception:  # whatever is wrong with it, the reader of archives says it  # noqa: BLE001 - whatever it is, it is told
        return False


def open_bundle(file: IO[bytes], limits: UnpackingLimits) -> OpenBundle:
    """Open a bundle; its files are held against what it says as they are read.

    Raises:
        UnreadableFile: it is none, of a newer version, has a path that climbs, or unpacks to too much.
    """
    with _in_our_words():
        package = zipfile.ZipFile(file)
        if len(package.infolist()) > _MOST_ENTRIES:
            says = f"it has {len(package.infolist()):,} entries; {_MOST_ENTRIES:,} are taken"
            raise _bad("bundle-large", says, "do not trust this file")
        if package.getinfo(BUNDLE).file_size > _MOST_TOLD:
            says = f"{BUNDLE} is over {_MOST_TOLD / 1e6:.0f} MB"
            raise _bad("bundle-large", says, "do not trust this file")
        climbing = next(
            (zip_info.filename for zip_info in package.infolist() if _climbs(zip_info.filename)), None
        )
        if climbing is not None:
            raise _bad(
                "bundle-path",
                f"it has a path that leads out of it: {climbing[:80]}",
                "do not trust this file",
            )
        packed_bytes = sum(zip_info.compress_size for zip_info in package.infolist())
        unpacked = sum(zip_info.file_size for zip_info in package.infolist())
        if unpacked > limits.unpacked_bytes or (
            unpacked > _RATIO_FROM and unpacked > limits.ratio * packed_bytes
        ):
            raise _bad("bundle-large", f"it unpacks to {unpacked / 1e6:.0f} MB", "raise AIMTRUE_UNPACKED_MB")
        bundle = _told(package.read(BUNDLE))
        for name in (bundle.name, *(file.name for file in bundle.files)):
            refuse_odd(name, "a name in the bundle")
        leaving = next((file.path for file in bundle.files if _climbs(file.path)), None)
        if leaving is not None:
            says = f"it names a path that leads out of it: {leaving[:80]}"
            raise _bad("bundle-path", says, "do not trust this file")
        return OpenBundle(bundle, package)


@contextmanager
def _in_our_words() -> Iterator[None]:
    """Say of whatever the package trips over that the bundle is damaged: there are more ways than names."""
    try:
        yield
    except (AimTrueError, MemoryError):
        raise
    except Exception as error:  # noqa: BLE001 - whatever it is, it is told
        raise _bad("bundle-damaged", f"it is damaged: {str(error)[:120]}", "export it again") from None


def _told(text: bytes) -> Bundle:
    try:
        content = json.loads(text)
        version = content.get("version") if isinstance(content, dict) else None
        if isinstance(version, int) and version > NEWEST:
            says = f"it was made by a newer Aim True (version {version}, here {NEWEST})"
            raise _bad("bundle-newer", says, "take it in there, or start the newer version here")
        return Bundle.model_validate(content)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"])) or "the whole"
        raise _bad(
            "bundle-odd", f"{BUNDLE} is not as it should be: {where}: {first['msg']}", "export it again"
        ) from None
    except (ValueError, UnicodeDecodeError):
        raise _bad("bundle-odd", f"{BUNDLE} is not understood", "export it again") from None


def _climbs(path: str) -> bool:
    parts = PurePosixPath(path.replace("\\", "/"))
    return parts.is_absolute() or ".." in parts.parts or ":" in path


def _bad(code: str, says: str, remedy: str) -> UnreadableFile:
    return UnreadableFile(code, f"the bundle cannot be taken in: {says}", remedy=remedy)
