"""aimtrue work: workers for a database elsewhere; queue, progress and files all go through it."""

from __future__ import annotations

import argparse
import os
import signal
import subprocess
import sys
import time

from aimtrue.cli.failures import complain
from aimtrue.cli.files import ExitCode
from aimtrue.cli.system import until_told
from aimtrue.settings import ROOT, settings


def work(asked: argparse.Namespace) -> int:
    """Run workers until Ctrl-C; one that ends by itself is started again."""
    if asked.workers < 1:
        complain("--workers: one at least is needed")
        return ExitCode.USAGE
    environment = {**os.environ}
    if asked.database:
        environment["AIMTRUE_DATABASE_URL"] = asked.database
    address = _reached(asked.database or settings().database)
    if address:
        complain(address)
        return ExitCode.UNREADABLE
    take = "worker takes" if asked.workers == 1 else "workers take"
    print(f"{asked.workers} {take} tasks  (stop with Ctrl-C)", flush=True)
    _keep(asked.workers, environment)
    return ExitCode.DONE


def _reached(address: str) -> str:
    """Say what is wrong with a database; nothing where it answers and is ours."""
    import psycopg

    try:
        with psycopg.connect(address, connect_timeout=5) as connection:
            connection.execute("select 1 from procrastinate_jobs limit 1")
    except psycopg.errors.UndefinedTable:
        return "the database has no Aim True in it; start the server with it first"
    except psycopg.Error as error:
        return f"the database cannot be reached: {' '.join(str(error).split())}"
    return ""


def _keep(count: int, environment: dict[str, str]) -> None:
    workers = [_start(environment) for _ in range(count)]
    wait = 0.5

    def mind() -> None:
        nonlocal wait
        for number, worker in enumerate(workers):
            if worker.poll() is not None:
                time.sleep(wait)
                wait = min(30.0, 2 * wait)  # A database that is away for long is not asked ever faster.
                workers[number] = _start(environment)

    until_told(mind)
    for worker in workers:
        worker.send_signal(signal.SIGTERM)
    for worker in workers:
        try:
            worker.wait(timeout=20)
        except subprocess.TimeoutExpired:
            worker.kill()


def _start(environment: dict[str, str]) -> subprocess.Popen[bytes]:
    command = [sys.executable, "-m", "aimtrue.cli.serve", "worker"]
    return subprocess.Popen(command, cwd=ROOT, env=environment, start_new_session=True)
