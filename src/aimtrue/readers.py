"""The user that readers of strangers' files run as, and the little of the machine that this user reaches.

Where root starts the server, a reader that a file has taken over must not have root's rights. So it goes on
as a system user of its own, which reaches blobs of the disk cache by their hash, a folder to leave answers
in, and what everybody on this machine may read. Where anybody else starts the server, readers run as that
user, in a user namespace (see :mod:`aimtrue.processes`), and everything here does nothing.
"""

from __future__ import annotations

import ctypes
import os
import pwd
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from aimtrue.processes import leave_the_network

NAME = "aimtrue-readers"
_NEW_NAMESPACES = 0x0002_0000 | 0x4000_0000  # These are CLONE_NEWNS and CLONE_NEWNET of Linux.
_BIND, _PRIVATE, _ALL_BELOW = 0x1000, 0x4_0000, 0x4000  # These are MS_BIND, MS_PRIVATE and MS_REC.
_NO_NEW_PRIVILEGES = 38  # This is PR_SET_NO_NEW_PRIVS.


@dataclass(frozen=True)
class ReadersUser:
    """A user that readers run as.

    Attributes:
        uid: its number.
        gid: the number of its group, which blobs are readable for.
        folders: what it must reach: Python, what is installed, our own code, and the disk cache.
    """

    uid: int
    gid: int
    folders: tuple[str, ...]


def readers_user(cache: Path | None = None) -> ReadersUser | None:
    """Return the user that readers run as; None where they run as the user that started this process."""
    try:
        entry = pwd.getpwnam(NAME) if os.geteuid() == 0 else None
    except KeyError:
        entry = None
    if entry is None:
        return None
    wanted = [sys.base_prefix, sys.prefix, *sys.path, tempfile.gettempdir()]
    wanted += [str(cache)] if cache is not None else []
    folders = dict.fromkeys(os.path.realpath(name) for name in wanted if name and Path(name).is_dir())
    return ReadersUser(entry.pw_uid, entry.pw_gid, tuple(folders))


def add_readers_user() -> None:
    """Add the system user, where root starts this process and it is not there yet."""
    program = shutil.which("useradd", path="/usr/sbin:/sbin:/usr/bin")
    if os.geteuid() != 0 or program is None or readers_user() is not None:
        return
    command = [program, "--system", "--user-group", "--no-create-home", "--shell", "/bin/false", NAME]
    for _ in range(_TRIES):
        subprocess.run(command, capture_output=True, check=False)
        if readers_user() is not None:
            return
        time.sleep(_PAUSE_SECONDS)  # Another process adds it just now, and has locked the list of users.


_TRIES, _PAUSE_SECONDS = 12, 0.25


def let_read(file: int) -> None:
    """Let readers read an open file, given by its descriptor."""
    user = readers_user()
    if user is not None:
        os.fchown(file, -1, user.gid)
        os.fchmod(file, 0o640)


def keep_to_readers(folder: Path) -> None:
    """Close a folder to all others; readers may open what is in it by name, but not list it."""
    user = readers_user()
    if user is not None:
        os.chown(folder, -1, user.gid)
    folder.chmod(0o700 if user is None else 0o710)


@contextmanager
def answers_folder(within: Path) -> Iterator[Path]:
    """Make a folder for readers to leave what they make in; it goes at the end."""
    with tempfile.TemporaryDirectory(dir=within) as name:
        user = readers_user()
        if user is not None:
            os.chown(name, user.uid, user.gid)
        yield Path(name)


def open_left(folder: Path, name: str) -> IO[bytes]:
    """Open a file that a reader left; a link to elsewhere is not followed.

    Raises:
        OSError: there is no such file, or it is a link.
        ValueError: the name is not one of the folder's own.
    """
    if Path(name).name != name:
        raise ValueError(f"{name!r} is not in the folder of answers")
    return os.fdopen(os.open(folder / name, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK), "rb")


def left_in(folder: Path, name: str) -> bytes:
    """Return the bytes of a file that a reader left, see :func:`open_left`."""
    with open_left(folder, name) as file:
        return file.read()


def become(user: ReadersUser) -> bool:
    """Go on as the readers' user, without a network; tell whether the machine let us.

    Folders that are closed to others on the way to what a reader must reach (the home of root, say) are
    covered, for this process alone, by empty ones in which just that is to be found.
    """
    library = ctypes.CDLL(None, use_errno=True)
    covered = _closed_above(user)
    alone = library.unshare(_NEW_NAMESPACES) == 0
    if covered and not (alone and _cover(library, covered)):
        return False
    library.prctl(_NO_NEW_PRIVILEGES, 1, 0, 0, 0)
    os.setgroups([])
    os.setresgid(user.gid, user.gid, user.gid)
    os.setresuid(user.uid, user.uid, user.uid)
    if not alone:  # Where root itself may not, a user namespace of its own may.
        leave_the_network()
    if not os.access(tempfile.gettempdir(), os.W_OK | os.X_OK):
        tempfile.tempdir = "/tmp"
    return True


def _closed_above(user: ReadersUser) -> dict[Path, list[Path]]:
    """Return the topmost folders that the user cannot go through, and what it must reach below each."""
    closed: dict[Path, list[Path]] = {}
    for name in user.folders:
        folder = Path(name)
        for above in (*reversed(folder.parents), folder):
            if not _passes(above, user):
                if above != folder:
                    closed.setdefault(above, []).append(folder)
                break
    return closed


def _passes(folder: Path, user: ReadersUser) -> bool:
    about = folder.stat()
    return bool(about.st_mode & 0o001 or (about.st_gid == user.gid and about.st_mode & 0o010))


def _cover(library: ctypes.CDLL, covered: dict[Path, list[Path]]) -> bool:
    """Cover closed folders by empty ones with what must be reached below; tell whether that went well."""

    def mount(source: str, target: Path, kind: str, flags: int, options: str = "") -> bool:
        words = (source, str(target), kind)
        return bool(library.mount(*(word.encode() for word in words), flags, options.encode()) == 0)

    if not mount("none", Path("/"), "none", _PRIVATE | _ALL_BELOW):
        return False
    for closed, folders in covered.items():
        # Held open, since by its path a folder can no longer be had once the one above is covered.
        held = {folder: os.open(folder, os.O_PATH | os.O_DIRECTORY) for folder in folders}
        if not mount("tmpfs", closed, "tmpfs", 0, "mode=755,size=1m"):
            return False
        for folder, handle in held.items():
            folder.mkdir(parents=True, exist_ok=True)
            if not mount(f"/proc/self/fd/{handle}", folder, "none", _BIND | _ALL_BELOW):
                return False
            os.close(handle)
    return True
