"""aimtrue up: from a fresh machine to an address, and down again with Ctrl-C."""

from __future__ import annotations

import argparse
import contextlib
import fcntl
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections import deque
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from math import inf
from pathlib import Path

from aimtrue.cli import pages
from aimtrue.cli.files import ExitCode
from aimtrue.cli.postgres import Postgres
from aimtrue.cli.system import SetupError, refuse_unguarded, say, until_told
from aimtrue.settings import ROOT, Settings, settings

_COUNTED_SECONDS = 600.0
"""How long the end of a process counts."""
_LONGEST_PAUSE = 60.0


@dataclass
class SupervisedProcess:
    """A process that is started again whenever it ends by itself: at once, or later if it keeps ending."""

    role: str
    process: subprocess.Popen[bytes] | None = None
    ends: deque[float] = field(default_factory=deque)
    due: float = inf

    def start(self) -> None:
        """Start the process."""
        # A session of its own: Ctrl-C is for `up`, which then stops its processes in order.
        self.process = subprocess.Popen(
            [sys.executable, "-m", "aimtrue.cli.serve", self.role],
            cwd=ROOT,
            start_new_session=True,
            # One heap for all threads: of any other the C library keeps what is free at its end, once a large
            # file was there.
            env={"MALLOC_ARENA_MAX": "1", **os.environ},
        )

    def mind(self, now: float) -> None:
        """See whether the process ended, and start it again when its time has come.

        Args:
            now: seconds of a clock that only goes forward.
        """
        if self.process is not None and self.process.poll() is not None:
            pause = self._pause(now)
            when = f"in {pause:.0f} s; its messages are above" if pause else "again"
            say(f"the {self.role} ended by itself (code {self.process.returncode}); starting it {when}")
            self.process, self.due = None, now + pause
        if self.process is None and now >= self.due:
            self.due = inf
            self.start()

    def _pause(self, now: float) -> float:
        """How long to wait: nothing after a single end, twice as long after each more within ten minutes."""
        self.ends.append(now)
        while self.ends[0] < now - _COUNTED_SECONDS:
            self.ends.popleft()
        return 0.0 if len(self.ends) == 1 else min(_LONGEST_PAUSE, 2.0 ** (len(self.ends) - 2))

    def stop(self) -> None:
        """Ask the process to stop, and end it when it does not."""
        if self.process is None:
            return
        self.process.send_signal(signal.SIGTERM)
        try:
            self.process.wait(timeout=15)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()


@dataclass
class RunningSystem:
    """Everything that runs."""

    address: str
    kept: list[SupervisedProcess]
    postgres: Postgres | None = None

    def mind(self) -> None:
        """Start again what ended by itself, the database first."""
        if self.postgres is not None:
            self.postgres.mind()
        for supervised in self.kept:
            supervised.mind(time.monotonic())


def up(asked: argparse.Namespace) -> int:
    """Set up what is missing, start everything, and stay until told to stop."""
    try:
        with running(empty=asked.empty) as now:
            print(f"Aim True is at {now.address}  (stop with Ctrl-C)", flush=True)
            until_told(now.mind)
    except SetupError as error:
        say(str(error))
        return ExitCode.UNWRITABLE
    return ExitCode.DONE


@contextlib.contextmanager
def running(*, empty: bool) -> Iterator[RunningSystem]:
    """Run database, worker and server; yield them; stop them all at the end."""
    here = settings()
    refuse_unguarded(here)
    _refuse_taken_port()
    here.data.mkdir(parents=True, exist_ok=True)
    with _alone(here.data):
        yield from _running(here, empty=empty)


def _running(here: Settings, *, empty: bool) -> Iterator[RunningSystem]:
    postgres = None if here.database_url else Postgres(here.data / "postgres", here.database_port)
    if postgres:
        postgres.start()
    kept = [SupervisedProcess("next"), SupervisedProcess("worker"), SupervisedProcess("server")]
    try:
        with ThreadPoolExecutor(1) as aside:
            built = aside.submit(pages.build)
            _prepare(empty)
            built.result()
        for supervised_process in kept:
            supervised_process.start()
        now = RunningSystem(f"http://{here.host}:{here.port}", kept, postgres)
        _wait_for(now.address, kept[-1])
        yield now
    finally:
        for supervised_process in reversed(kept):
            supervised_process.stop()
        if postgres:
            postgres.stop()


@contextlib.contextmanager
def _alone(data: Path) -> Iterator[None]:
    """Keep a second one from the same data: it would stop the database of the first at its own end."""
    with (data / ".up").open("a+") as lock:
        try:
            # The kernel lets go of the lock, however this process ends.
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            lock.seek(0)
            raise SetupError(
                f"Aim True runs already, or is just starting, with the data in {data} "
                f"(process {lock.read().strip() or 'unknown'})"
            ) from None
        lock.truncate(0)
        lock.write(str(os.getpid()))
        lock.flush()
        yield


def _prepare(empty: bool) -> None:
    from aimtrue.store.database import migrate

    migrate()
    if not empty:
        from demo.load import load_demo

        load_demo()


def _refuse_taken_port() -> None:
    here = settings()
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((here.host, here.port))
        except OSError:
            raise SetupError(
                f"port {here.port} on {here.host} is taken: either Aim True runs there already, or "
                "choose another with AIMTRUE_PORT"
            ) from None


def _wait_for(address: str, server: SupervisedProcess) -> None:
    ends = time.monotonic() + 60
    while time.monotonic() < ends and server.process is not None and server.process.poll() is None:
        try:
            with urllib.request.urlopen(f"{address}/api/health", timeout=2):
                return
        except (urllib.error.URLError, OSError):
            time.sleep(0.1)
    raise SetupError("the server ended, or did not answer within a minute; its messages are above")
