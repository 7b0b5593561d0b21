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

from aimtrue.cli import pages
from aimtrue.cli.files import Exit
from aimtrue.cli.postgres import Postgres
from aimtrue.cli.system import SetupError, say
from aimtrue.settings import ROOT, settings


def up(*, empty: bool) -> int:
    """Set up what is missing, start everything, and stay until told to stop."""
    try:
        with running(empty=empty) as address:
            print(f"Aim True is at {address}  (stop with Ctrl-C)", flush=True)
            _until_told()
    except SetupError as error:
        say(str(error))
        return Exit.UNWRITABLE
    return Exit.DONE


@contextlib.contextmanager
def running(*, empty: bool) -> Iterator[str]:
    """Run database, worker and server; yield the address; stop them all at the end."""
    here = settings()
    _refuse_taken_port()
    here.data.mkdir(parents=True, exist_ok=True)
    postgres = None if here.database_url else Postgres(here.data / "postgres", here.database_port)
    if postgres:
        postgres.start()
    try:
        pages.build()
        _prepare(empty)
        with _process("worker"), _process("server"):
            address = f"http://{here.host}:{here.port}"
            _wait_for(address)
            yield address
    finally:
        if postgres:
            postgres.stop()


def _prepare(empty: bool) -> None:
    from aimtrue.store.database import migrate

    migrate()
    if not empty:
        from demo.load import load_demo

        load_demo()


@contextlib.contextmanager
def _process(role: str) -> Iterator[None]:
    process = subprocess.Popen([sys.executable, "-m", "aimtrue.cli.serve", role], cwd=ROOT)
    try:
        yield
    finally:
        process.send_signal(signal.SIGTERM)
        try:
            process.wait(timeout=15)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


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


def _until_told() -> None:
    told = False

    def stop(*_: object) -> None:
        nonlocal told
        told = True

    signal.signal(signal.SIGINT, stop)
    signal.signal(signal.SIGTERM, stop)
    while not told:
        time.sleep(0.2)
