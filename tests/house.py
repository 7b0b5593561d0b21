"""The whole application for tests: PostgreSQL, worker and server, each a real process."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import httpx

from aimtrue.cli import pages
from aimtrue.cli.postgres import Postgres, free_port, temporary
from aimtrue.settings import ROOT, settings


@contextlib.contextmanager
def own_folder() -> Iterator[Path]:
    """Give a folder that the database's user can reach, gone afterwards.

    Not one of pytest's: those are closed to others again whenever another run of tests begins beside it.
    """
    with tempfile.TemporaryDirectory(prefix="aimtrue-") as name:
        folder = Path(name)
        folder.chmod(0o755)
        yield folder


class House:
    """Starts and stops the processes; any of them can be killed to see what is lost.

    Attributes:
        address: of the server.
    """

    def __init__(self, folder: Path, **environment: str) -> None:
        self._folder = folder
        self._port = free_port()
        self.address = f"http://127.0.0.1:{self._port}"
        self._environment = environment
        self._postgres: Postgres | None = None
        self._processes: dict[str, subprocess.Popen[bytes]] = {}

    def start(self) -> None:
        """Start everything, with an empty database."""
        self._postgres = temporary(self._folder)
        self._postgres.start()
        os.environ.update(
            AIMTRUE_DATABASE_URL=self._postgres.address,
            AIMTRUE_DATA=str(self._folder / "data"),
            AIMTRUE_PORT=str(self._port),
            AIMTRUE_UPLOAD_MB="20",
            AIMTRUE_NEXT_PORT=str(free_port()),
            **self._environment,
        )
        settings.cache_clear()
        pages.build()
        from aimtrue.store.database import migrate

        migrate()
        self.run("next")
        self.run("worker")
        self.run("server")

    def stop(self) -> None:
        """Stop everything."""
        for role in list(self._processes):
            self.end(role, signal.SIGTERM)
        if self._postgres:
            self._postgres.stop()

    def run(self, role: str) -> None:
        """Start the worker or the server, and wait for the server to answer."""
        self._processes[role] = subprocess.Popen(
            [sys.executable, "-m", "aimtrue.cli.serve", role],
            cwd=ROOT,
            env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
        )
        if role == "server":
            self._wait()

    def end(self, role: str, how: signal.Signals = signal.SIGKILL) -> None:
        """End a process, by default without a chance to tidy up."""
        process = self._processes.pop(role)
        process.send_signal(how)
        process.wait(timeout=20)

    def pid_of(self, role: str) -> int:
        """Return the number of a process."""
        return self._processes[role].pid

    def has_ended(self, role: str) -> bool:
        """Tell whether a process ended by itself."""
        return self._processes[role].poll() is not None

    def _wait(self) -> None:
        # A machine that is busy with other work may need a minute for what takes a free one three seconds.
        for _ in range(1200):
            if self.has_ended("server"):
                raise RuntimeError("the server ended before it answered")
            try:
                httpx.get(f"{self.address}/api/health").raise_for_status()
                return
            except httpx.HTTPError:
                time.sleep(0.1)
        raise TimeoutError("the server does not answer")
