"""Geometry by hash: from memory, else from disk, else from the database."""

from __future__ import annotations

import hashlib
import logging
import os
import tempfile
import time
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from functools import lru_cache
from pathlib import Path
from threading import Lock
from typing import IO

from aimtrue.core.mesh import serialization as geometry
from aimtrue.core.mesh.features import listed
from aimtrue.core.mesh.features.listed import Features
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.body import Body
from aimtrue.core.model.text import is_sha256
from aimtrue.readers import keep_to_readers, let_read, readers_user
from aimtrue.settings import settings
from aimtrue.store import blobs
from aimtrue.store.database import sessions

log = logging.getLogger("aimtrue.store")
_USED_ANEW_SECONDS = 60
_LISTS = 512
"""How many lists of features are kept in memory."""


class DiskGeometryStore:
    """Meshes from files named by hash; what is not there cannot be had."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def mesh(self, name: str) -> Mesh:
        """Return a mesh in numbers of its file."""
        return geometry.from_bytes(self._path(name).read_bytes())

    def _path(self, name: str) -> Path:
        if not is_sha256(name):
            raise blobs.UnknownBlob("blob-unknown", "these bytes are not stored here")
        return self.folder / name

    def features(self, body: Body) -> Features:
        """Return the flat and round faces of a body's mesh."""
        path = self._path(body.features) if body.features else self.folder
        if body.features and path.exists():
            return listed.from_bytes(path.read_bytes())
        return listed.features_of(self.mesh(body.geometry))

    def original(self, sha256: str) -> bytes:
        """Return the bytes of a source, as they were given."""
        return self._path(sha256).read_bytes()


class CachedGeometryStore:
    """Meshes from the store, the last few kept in memory.

    Args:
        keep: how many triangles to keep in memory at most (about 40 bytes each).
    """

    def __init__(self, keep: int = 2_500_000) -> None:
        self._keep = keep
        self._meshes: OrderedDict[str, Mesh] = OrderedDict()
        self._features: OrderedDict[str, Features] = OrderedDict()
        self._used: dict[str, float] = {}
        self._lock = Lock()

    def let_go(self, seconds: float) -> None:
        """Let go of meshes and lists of faces that nobody asked for so long; they are on disk."""
        before = time.monotonic() - seconds
        with self._lock:
            for name in [name for name, used in self._used.items() if used < before]:
                self._meshes.pop(name, None)
                self._features.pop(name, None)
                del self._used[name]

    def mesh(self, name: str) -> Mesh:
        """Return a mesh in numbers of its file."""
        with self._lock:
            self._used[name] = time.monotonic()
            if name in self._meshes:
                self._meshes.move_to_end(name)
                return self._meshes[name]
        mesh = geometry.from_bytes(on_disk(name).read_bytes())
        with self._lock:
            self._meshes[name] = mesh
            while len(self._meshes) > 1 and sum(m.triangles for m in self._meshes.values()) > self._keep:
                self._meshes.popitem(last=False)
        return mesh

    def features(self, body: Body) -> Features:
        """Return the flat and round faces of a body's mesh; listed now when they were not at intake."""
        name = body.features or body.geometry
        with self._lock:
            self._used[name] = time.monotonic()
            if name in self._features:
                self._features.move_to_end(name)
                return self._features[name]
        if body.features:
            features = listed.from_bytes(on_disk(name).read_bytes())
        else:
            features = listed.features_of(self.mesh(body.geometry))
        with self._lock:
            self._features[name] = features
            while len(self._features) > _LISTS:
                self._features.popitem(last=False)
        return features

    def original(self, sha256: str) -> bytes:
        """Return the bytes of a source, as they were given."""
        return on_disk(sha256).read_bytes()


@contextmanager
def written_aside() -> Iterator[tuple[IO[bytes], Path]]:
    """Make a file in the disk cache that has no name there yet; it goes if what writes it fails."""
    make_cache()
    handle, path = tempfile.mkstemp(dir=settings().cache)
    let_read(handle)
    try:
        with os.fdopen(handle, "wb") as out:
            yield out, Path(path)
    except BaseException:
        Path(path).unlink(missing_ok=True)
        raise


def make_cache() -> None:
    """Make the disk cache, which is nobody else's to look into."""
    settings().cache.mkdir(parents=True, exist_ok=True, mode=0o700)
    keep_to_readers(settings().cache)


def in_cache(name: str) -> Path:
    """Return where a blob is in the disk cache, or would be.

    Raises:
        UnknownBlob: it is not named by a hash, and so might lead anywhere.
    """
    if not is_sha256(name):
        raise blobs.UnknownBlob("blob-unknown", "these bytes are not stored here")
    return settings().cache / name


def keep_drawn(data: bytes) -> str:
    """Put a mesh that is only to be drawn into the disk cache, and return its name."""
    return keep_at_hand(data)


def keep_at_hand(data: bytes) -> str:
    """Put bytes into the disk cache, and return their name."""
    name = geometry.name_of(data)
    path = settings().cache / name
    if made_since_boot(path):
        with suppress(FileNotFoundError):
            os.utime(path)
            _let_readers_in(path, path.stat())
            return name
    with written_aside() as (out, aside):
        out.write(data)
    aside.replace(path)
    return name


def _let_readers_in(path: Path, about: os.stat_result) -> None:
    """Let readers read a blob that was kept before they had a user of their own, or had another."""
    user = readers_user()
    if user is not None and (about.st_gid != user.gid or not about.st_mode & 0o040):
        with path.open("rb") as file:
            let_read(file.fileno())


def on_disk(name: str) -> Path:
    """Return the path of a blob in the disk cache, fetching it from the store when needed."""
    path = in_cache(name)
    try:
        about = path.stat()
        if about.st_ctime < _booted() and _hash_of(path) != name:
            log.warning("%s in the disk cache is not whole; it is fetched anew", name)
            raise FileNotFoundError
        if about.st_mtime < time.time() - _USED_ANEW_SECONDS or about.st_ctime < _booted():
            os.utime(path)  # What is used stays (see ``tidy``), and a whole blob is not checked again.
        _let_readers_in(path, about)
    except FileNotFoundError:
        # Written aside and renamed, so that nobody ever reads half a blob.
        digest = hashlib.sha256()
        with written_aside() as (out, aside), sessions()() as session:
            for piece in blobs.pieces(session, name):
                digest.update(piece)
                out.write(piece)
            if digest.hexdigest() != name:
                raise blobs.UnknownBlob(
                    "blob-damaged", "these bytes are not what was kept: the database's disk is damaged"
                ) from None
        aside.replace(path)
    return path


def made_since_boot(path: Path) -> bool:
    """Whether a file of the disk cache that is not named by its own hash is there and can be trusted."""
    try:
        return path.stat().st_ctime >= _booted()
    except FileNotFoundError:
        return False


def _hash_of(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


@lru_cache(maxsize=1)
def _booted() -> float:
    """When this machine was started, in seconds since 1970.

    What is in the disk cache is not waited for until it is on the disk, since it can be had anew: after a
    power cut it may be anything. So what is older than that is held against its hash once.
    """
    try:
        lines = Path("/proc/stat").read_text().splitlines()
        return float(next(line.split()[1] for line in lines if line.startswith("btime ")))
    except (OSError, StopIteration, ValueError):
        return time.time()
