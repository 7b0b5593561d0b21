"""Run a function in a process of its own, with limits.

A reader that crashes, hangs or eats memory on a bad file ends that process and gives
a clear message; the worker and every other task go on.
"""

from __future__ import annotations

import contextlib
import multiprocessing
import os
import resource
import signal
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing.connection import Connection
from multiprocessing.forkserver import _forkserver
from pathlib import Path
from typing import Any, TypeVar

from aimtrue.core.errors import AimTrueError
from aimtrue.processes import end_with_parent, leave_the_network
from aimtrue.readers import ReadersUser, add_readers_user, become, readers_user
from aimtrue.settings import settings
from aimtrue.work.isolated_answers import UntrustedAnswer, packed, unpacked

T = TypeVar("T")
_HOME = multiprocessing.get_context("forkserver")
# Loaded once in the server all isolated processes are forked from, so each starts in milliseconds.
_HOME.set_forkserver_preload(["aimtrue.work.sandboxed", "aimtrue.work.preloaded"])


@dataclass(frozen=True)
class TaskLimits:
    """How long a isolated function may run, how much memory it may take, and whether all else goes first."""

    seconds: float
    memory_bytes: int
    last: bool = False


def warm() -> None:
    """Start the process that isolated ones are forked from, so that the first task need not wait for it."""
    add_readers_user()
    run(_nothing, limits=TaskLimits(seconds=60, memory_bytes=4_000_000_000))


def _nothing(progress: Callable[[float, str], None]) -> None:
    """Do nothing, in the sandbox."""


def run(
    function: Callable[..., T],
    *arguments: Any,  # noqa: ANN401 - of any type, or of none that is known
    limits: TaskLimits,
    progress: Callable[[float, str], None] = lambda share, says: None,
    blamed: str = "",
) -> T:
    """Call ``function(*arguments, progress)`` in a process of its own.

    Args:
        function: importable by name; what it returns is a value of ours, see ``isolated_answers``.
        arguments: passed on.
        limits: ends the process when crossed.
        progress: told what the function reports; from the beginning again where it had to be begun twice.
        blamed: what to say of a crash; empty for that the file made a reader crash.

    Raises:
        AimTrueError: what the function raised, or that it crashed, hung, or ran out of memory.
    """
    for _ in range(_TIMES):
        kind, value = _once(function, arguments, limits, progress)
        if kind != "ended":
            break
    if kind == "done":
        return value  # type: ignore[no-any-return]
    if kind == "ended":
        raise AimTrueError(
            "task-ended",
            "the task was ended from outside, twice; the machine may be short of memory",
            remedy="try again; nothing was lost",
        )
    raise _blamed(value, blamed)


def _once(
    function: Callable[..., Any],
    arguments: tuple[Any, ...],
    limits: TaskLimits,
    progress: Callable[[float, str], None],
) -> tuple[str, Any]:
    """Call it once.

    Returns:
        ``done`` and what it returned, ``failed`` and an error, or ``ended`` where something from outside
        ended the process, which says nothing of the file that it was about.
    """
    ours, theirs = _HOME.Pipe(duplex=False)
    user = readers_user(settings().cache)
    process = _HOME.Process(target=_child, args=(theirs, function, arguments, limits, user), daemon=True)
    end: int | None = None
    try:
        _start_fork_server()
        process.start()
        theirs.close()
        kind, value = _listen(ours, limits, progress, process.pid or 0)
        if kind == "silent":
            process.join(_ENDING_SECONDS)
            end = process.exitcode
    except (ConnectionError, EOFError):  # The process that others are forked from was just ended.
        return "ended", None
    finally:
        if process.pid is not None:
            if process.is_alive():
                process.kill()
            process.join()
        ours.close()
    if kind != "silent":
        return kind, value
    return ("ended", None) if end in _FROM_OUTSIDE else ("failed", value)


def _start_fork_server() -> None:
    """Start the process that isolated ones are forked from, unless it runs, with a bare environment.

    The environment of this process would be handed on: the key of the server, the address of the database.
    """
    with _starting:
        pid: int | None = _forkserver._forkserver_pid  # type: ignore[attr-defined]
        # The state is only looked at: the process is left for the library to collect.
        if pid is not None and os.waitid(os.P_PID, pid, os.WEXITED | os.WNOHANG | os.WNOWAIT) is None:
            return
        before = dict(os.environ)
        for name in before:
            if name not in _NEEDED and not name.startswith("LC_"):
                del os.environ[name]
        try:
            _forkserver.ensure_running()
        finally:
            os.environ.update(before)


_starting = threading.Lock()
_NEEDED = {"PATH", "HOME", "LANG", "TMPDIR", "TZ", "PYTHONPATH", "LD_LIBRARY_PATH", "OPENBLAS_NUM_THREADS"}


def _blamed(error: AimTrueError, says: str) -> AimTrueError:
    """Return an error with who is to be blamed for a crash, where that is known better than here."""
    if error.code != "task-crashed" or not says:
        return error
    return AimTrueError(error.code, says, where=error.where, remedy=error.remedy)


def _listen(
    ours: Connection, limits: TaskLimits, progress: Callable[[float, str], None], pid: int
) -> tuple[str, Any]:
    ends, peak = time.monotonic() + limits.seconds, 0
    while True:
        # Looked at now and then, since a process that is gone no longer says what it took.
        peak = max(peak, _peak_bytes(pid))
        if not ours.poll(max(0.0, min(_LOOK_SECONDS, ends - time.monotonic()))):
            if time.monotonic() < ends:
                continue
            return "failed", AimTrueError(
                "task-too-long",
                f"the task was ended: it took over {limits.seconds:g} s",
                remedy=_INSTEAD.format("AIMTRUE_TASK_SECONDS"),
            )
        try:
            kind, value = unpacked(ours.recv_bytes())
        except UntrustedAnswer as error:
            return "failed", AimTrueError(
                "task-odd",
                f"the task answered with what is no answer: {error}",
                remedy="do not trust this file; the original is kept",
            )
        except (EOFError, OSError):  # The process ended before it said anything, or in the middle of it.
            if peak > _NEARLY * limits.memory_bytes:
                return "failed", _out_of_memory(limits)
            return "silent", AimTrueError(
                "task-crashed",
                "the task ended without an answer: the file made a reader crash",
                remedy="export the file again; the original is kept",
            )
        if kind != "progress":
            return kind, value
        progress(*value)


_TIMES = 2
"""A process that was ended from outside is begun once more."""
_FROM_OUTSIDE = (-signal.SIGKILL, -signal.SIGTERM, -signal.SIGINT, -signal.SIGHUP, 255)
"""Ends that no reader brings about. 255 is told where the process that knew the end is gone itself."""
_ENDING_SECONDS = 5.0
_LOOK_SECONDS = 0.25
_LAST = 10
"""Niceness of what nobody waits for."""
_NEARLY = 0.8
"""A process that had this share of its memory and ended without an answer wanted more."""
_DENIED = ("OutOfMemory", "bad_alloc")
"""How libraries in other languages say that memory was denied to them."""
_INSTEAD = "of CAD choose a coarser fineness; else give a smaller file, or raise {}"


def _peak_bytes(pid: int) -> int:
    """Return the most address space that a process has had, which its limit is of; 0 when it is gone."""
    try:
        lines = Path(f"/proc/{pid}/status").read_text().splitlines()
    except OSError:
        return 0
    return next((1024 * int(line.split()[1]) for line in lines if line.startswith("VmPeak:")), 0)


def _out_of_memory(limits: TaskLimits) -> AimTrueError:
    return AimTrueError(
        "task-memory",
        f"the task was ended: it needs over {limits.memory_bytes / 1e9:.3g} GB of memory",
        remedy=_INSTEAD.format("AIMTRUE_TASK_MEMORY_MB"),
    )


def _child(
    pipe: Connection,
    function: Callable[..., Any],
    arguments: tuple[Any, ...],
    limits: TaskLimits,
    user: ReadersUser | None,
) -> None:
    if limits.last:
        os.nice(_LAST)
    if user is None or not become(user):
        leave_the_network()
    end_with_parent(signal.SIGKILL)  # The kernel forgets the setting when a process becomes another user's.
    resource.setrlimit(resource.RLIMIT_AS, (limits.memory_bytes, limits.memory_bytes))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    # Nobody left to answer to: the worker was killed, and its task will be done again.
    with contextlib.suppress(BrokenPipeError):
        pipe.send_bytes(packed(_outcome(function, arguments, limits, pipe)))


def _telling(pipe: Connection) -> Callable[[float, str], None]:
    return lambda share, says: pipe.send_bytes(packed(("progress", (float(share), str(says)))))


def _outcome(
    function: Callable[..., Any], arguments: tuple[Any, ...], limits: TaskLimits, pipe: Connection
) -> tuple[str, Any]:
    try:
        return "done", function(*arguments, _telling(pipe))
    except AimTrueError as error:
        return "failed", error
    except MemoryError:
        return "failed", _out_of_memory(limits)
    except BrokenPipeError:
        raise
    except Exception as error:  # noqa: BLE001 - whatever it is, it is told
        if any(word in f"{type(error).__name__} {error}" for word in _DENIED):
            return "failed", _out_of_memory(limits)
        return "failed", AimTrueError(
            "task-failed",
            f"the task failed: {type(error).__name__}: {error}"[:300],
            remedy="the original is kept; report this with the file",
        )
