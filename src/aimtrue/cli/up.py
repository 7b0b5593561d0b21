"""aimtrue up: from a fresh machine to an address, and down again with Ctrl-C."""

from __future__ import annotations

import contextlib
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

from aimtrue.cli import pages
from aimtrue.cli.files import Exit
from aimtrue.cli.postgres import Postgres
from aimtrue.cli.system import SetupError, say, until_told
from aimtrue.settings import ROOT, settings

_MOST_RESTARTS = 5
"""How often a process that ends by itself is started again before that is called a failure."""


@dataclass
class Kept:
    """A process that is started again when it ends by itself; one that is not ``needed`` may stay away."""

    role: str
    needed: bool = True
    process: subprocess.Popen[bytes] | None = None
    restarts: int = 0

    def start(self) -> None:
        """Start the process."""
        # A session of its own: Ctrl-C is for `up`, which then stops its processes in order.
        self.process = subprocess.Popen(
            [sys.executable, "-m", "aimtrue.cli.serve", self.role], cwd=ROOT, start_new_session=True
        )

    def mind(self) -> None:
        """Start the process again if it ended.

        Raises:
            SetupError: it has ended too often.
        """
        if self.process is None or self.process.poll() is None:
            return
        self.restarts += 1
        if self.restarts > _MOST_RESTARTS and not self.needed:
            say(f"the {self.role} program keeps ending and is left out; all else goes on")
            self.process = None
            return
        if self.restarts > _MOST_RESTARTS:
            raise SetupError(f"the {self.role} keeps ending; its messages are above")
        say(f"the {self.role} ended by itself (code {self.process.returncode}); starting it again")
        self.start()

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
class Running:
    """Everything that runs."""

    address: str
    kept: list[Kept]
    postgres: Postgres | None = None

    def mind(self) -> None:
        """Start again what ended by itself, the database first."""
        if self.postgres is not None:
            self.postgres.mind()
        for one in self.kept:
            one.mind()


def up(*, empty: bool) -> int:
    """Set up what is missing, start everything, and stay until told to stop."""
    try:
        with running(empty=empty) as now:
            print(f"Aim True is at {now.address}  (stop with Ctrl-C)", flush=True)
            until_told(now.mind)
    except SetupError as error:
        say(str(error))
        return Exit.UNWRITABLE
    return Exit.DONE


@contextlib.contextmanager
def running(*, empty: bool) -> Iterator[Running]:
    """Run database, worker and server; yield them; stop them all at the end."""
    here = settings()
    _refuse_taken_port()
    here.data.mkdir(parents=True, exist_ok=True)
    postgres = None if here.database_url else Postgres(here.data / "postgres", here.database_port)
    if postgres:
        postgres.start()
    kept = [Kept("next", needed=False), Kept("worker"), Kept("server")]
    try:
        with ThreadPoolExecutor(1) as aside:
            built = aside.submit(pages.build)
            _prepare(empty)
            built.result()
        for one in kept:
            one.start()
        now = Running(f"http://{here.host}:{here.port}", kept, postgres)
        _wait_for(now.address)
        yield now
    finally:
        for one in reversed(kept):
            one.stop()
        if postgres:
            postgres.stop()


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


def _wait_for(address: str) -> None:
    ends = time.monotonic() + 60
    while time.monotonic() < ends:
        try:
            with urllib.request.urlopen(f"{address}/api/health", timeout=2):
                return
        except (urllib.error.URLError, OSError):
            time.sleep(0.1)
    raise SetupError("the server did not answer within a minute; its messages are above")
