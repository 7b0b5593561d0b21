"""The start command itself: up on free ports, again beside itself, and down."""

from __future__ import annotations

import os
import re
import signal
import socket
import subprocess
import time
from argparse import Namespace
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path

import httpx
import pytest

from aimtrue.cli import check, system
from aimtrue.cli.postgres import Postgres, free_port, temporary
from aimtrue.cli.system import SetupError
from aimtrue.cli.up import SupervisedProcess
from aimtrue.settings import OWN_HEADER, ROOT
from tests.core.test_release_files import TWO
from tests.house import own_folder
from tests.shapes import binary_stl


class Up:
    """`./aimtrue up` in a process group of its own."""

    def __init__(self, folder: Path, *options: str, like: Up | None = None) -> None:
        self.environment: dict[str, str] = (
            like.environment
            if like
            else {
                **os.environ,
                "AIMTRUE_DATA": str(folder),
                "AIMTRUE_PORT": str(free_port()),
                "AIMTRUE_DATABASE_PORT": str(free_port()),
                "AIMTRUE_NEXT_PORT": str(free_port()),
                "AIMTRUE_DATABASE_URL": "",
            }
        )
        self.address = f"http://127.0.0.1:{self.environment['AIMTRUE_PORT']}"
        self.log = folder / "up.log"
        with self.log.open("wb") as out:
            self.process = subprocess.Popen(
                [ROOT / "aimtrue", "up", *options],
                env=self.environment,
                stdout=out,
                stderr=out,
                cwd="/",
                start_new_session=True,
            )

    def wait_for(self, pattern: str, seconds: float = 90) -> str:
        ends = time.monotonic() + seconds
        while time.monotonic() < ends:
            if match_ := re.search(pattern, self.log.read_text()):
                return match_[0]
            time.sleep(0.1)
        raise TimeoutError(f"no {pattern!r} in:\n{self.log.read_text()}")

    def stop(self) -> int:
        if self.process.poll() is None:
            os.killpg(self.process.pid, signal.SIGINT)  # as a terminal does on Ctrl-C
        return self.process.wait(timeout=40)


@pytest.fixture
def folder() -> Iterator[Path]:
    with own_folder() as folder:
        yield folder


@pytest.fixture
def up(folder: Path) -> Iterator[Up]:
    up = Up(folder, "--empty")
    yield up
    up.stop()


def children(of: int) -> dict[str, int]:
    """The worker and the server started by a process."""
    found = {}
    for path in Path("/proc").glob("[0-9]*"):
        try:
            parent = int((path / "stat").read_text().rsplit(")", 1)[1].split()[1])
            command = (path / "cmdline").read_text().split("\0")
        except (OSError, IndexError):
            continue
        if parent == of and "aimtrue.cli.serve" in command:
            found[command[command.index("aimtrue.cli.serve") + 1]] = int(path.name)
    return found


def test_up_prints_the_address_minds_its_processes_and_stops(up: Up, folder: Path) -> None:
    assert up.address in up.wait_for(r"Aim True is at \S+")
    page = httpx.get(f"{up.address}/jobs/any/intake")
    assert page.status_code == 200
    assert '<div id="root">' in page.text
    assert httpx.get(f"{up.address}/mark.svg").headers["content-type"].startswith("image/svg")
    assert httpx.get(f"{up.address}/api/jobs").json() == []
    assert not re.findall(r"https?://(?!127\.0\.0\.1)", page.text), "a page must not reach out"

    again = subprocess.run(
        [ROOT / "aimtrue", "up", "--empty"], env=up.environment, capture_output=True, text=True, check=False
    )
    assert again.returncode != 0
    assert "is taken" in again.stderr

    os.kill(children(up.process.pid)["worker"], signal.SIGKILL)
    up.wait_for("the worker ended by itself")
    assert set(children(up.process.pid)) == {"worker", "server", "next"}

    assert up.stop() == 0
    assert "Traceback" not in up.log.read_text()
    with pytest.raises(httpx.ConnectError):
        httpx.get(up.address)
    status = Postgres(folder / "postgres", int(up.environment["AIMTRUE_DATABASE_PORT"]))
    assert not status.running()


def test_up_starts_its_database_again_and_work_goes_on(up: Up, folder: Path) -> None:
    up.wait_for(r"Aim True is at \S+")
    pid = int((folder / "postgres" / "postmaster.pid").read_text().split()[0])
    os.kill(pid, signal.SIGKILL)
    up.wait_for("the database ended by itself")
    ends = time.monotonic() + 60
    answers = set()
    while time.monotonic() < ends:
        answers.add(httpx.get(f"{up.address}/api/jobs", timeout=40).status_code)
        if 200 in answers and int((folder / "postgres" / "postmaster.pid").read_text().split()[0]) != pid:
            break
        time.sleep(0.2)
    assert 200 in answers
    assert answers <= {200, 503, 500}
    to, named = f"{up.address}/api/jobs", {"name": "part.stl"}
    sent = httpx.post(to, params=named, content=binary_stl(TWO), headers={OWN_HEADER: "1"}, timeout=40)
    assert sent.status_code == 201


def test_a_second_up_with_the_same_data_leaves_the_first_alone(up: Up, folder: Path) -> None:
    up.wait_for("making a database")  # it is only starting, and its port is free yet
    ports = {"AIMTRUE_PORT": str(free_port()), "AIMTRUE_DATABASE_PORT": str(free_port())}
    second = subprocess.run(
        [ROOT / "aimtrue", "up", "--empty"],
        env={**up.environment, **ports},
        capture_output=True,
        text=True,
        check=False,
        timeout=60,
    )
    assert second.returncode == 6
    assert "runs already, or is just starting" in second.stderr
    up.wait_for(r"Aim True is at \S+")
    assert httpx.get(f"{up.address}/api/jobs").json() == []


class Ending(SupervisedProcess):
    """A process that ends as soon as it is started."""

    started = 0

    def start(self) -> None:
        self.started += 1
        self.process = subprocess.Popen(["true"])
        self.process.wait()


def test_what_keeps_ending_is_started_again_later_each_time_and_never_given_up() -> None:
    ending = Ending("worker")
    ending.start()
    times = []
    for tenth in range(20_000):
        before = ending.started
        ending.mind(tenth / 10)
        times += [tenth / 10] * (ending.started - before)
    pauses = [later - earlier for earlier, later in pairwise(times)]
    assert times[0] == 0  # the first time at once
    assert pauses[:5] == pytest.approx([1.1, 2.1, 4.1, 8.1, 16.1], abs=0.2)
    assert max(pauses) < 61
    assert len(times) > 30  # half an hour later it is still tried


def test_ends_that_are_long_ago_do_not_count() -> None:
    ending = Ending("worker")
    ending.start()
    for week in range(10):
        ending.mind(week * 604_800.0)
    assert ending.started == 11  # each time at once


def test_processes_do_not_outlive_a_killed_up(folder: Path) -> None:
    up = Up(folder, "--empty")
    up.wait_for(r"Aim True is at \S+")
    kept = children(up.process.pid)
    up.process.kill()
    up.process.wait()
    for _ in range(100):
        if not any(Path(f"/proc/{pid}").exists() for pid in kept.values()):
            break
        time.sleep(0.1)
    assert not any(Path(f"/proc/{pid}").exists() for pid in kept.values())
    # The database goes on, and the next start takes it over and stops it in the end.
    assert Postgres(folder / "postgres", int(up.environment["AIMTRUE_DATABASE_PORT"])).running()
    again = Up(folder, "--empty", like=up)
    again.wait_for(r"Aim True is at \S+")
    assert again.stop() == 0
    assert not Postgres(folder / "postgres", int(up.environment["AIMTRUE_DATABASE_PORT"])).running()


def test_a_database_is_made_once_and_keeps_what_it_holds(folder: Path) -> None:
    import psycopg

    postgres = temporary(folder)
    postgres.start()
    with psycopg.connect(postgres.address, autocommit=True) as connection:
        connection.execute("create table kept as select 42 as answer")
    postgres.start()
    postgres.stop()
    postgres.start()
    with psycopg.connect(postgres.address) as connection:
        assert connection.execute("select answer from kept").fetchone() == (42,)
        listening = connection.execute("show listen_addresses").fetchone()
    assert listening == ("127.0.0.1",)
    postgres.stop()
    assert not postgres.running()
    postgres.stop()


def test_a_taken_database_port_is_told(folder: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        postgres = Postgres(folder / "postgres", taken.getsockname()[1], lasting=False)
        with pytest.raises(SetupError, match="AIMTRUE_DATABASE_PORT"):
            postgres.start()


def test_an_installation_waits_for_another_one_and_says_so(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    answers = ["E: Could not get lock /var/lib/dpkg/lock-frontend"] * 2 + [""]
    pauses: list[float] = []

    def answered(command: list[str], **_: object) -> subprocess.CompletedProcess[str]:
        says = answers.pop(0)
        return subprocess.CompletedProcess(command, 100 if says else 0, "", says)

    monkeypatch.setattr(system.os, "geteuid", lambda: 0)  # type: ignore[attr-defined]
    monkeypatch.setattr(system.shutil, "which", lambda name: name)  # type: ignore[attr-defined]
    monkeypatch.setattr(system.subprocess, "run", answered)  # type: ignore[attr-defined]
    monkeypatch.setattr(system.time, "sleep", pauses.append)  # type: ignore[attr-defined]
    system.install("a-package")
    assert not answers
    assert len(pauses) == 2
    assert capsys.readouterr().err.count("another installation is under way") == 1


def test_check_knows_its_steps(capsys: pytest.CaptureFixture[str]) -> None:
    assert check.check(Namespace(only=["polish"])) == 2
    assert "tests" in capsys.readouterr().err
