"""Kill what works, again and again, and count what was lost.

While files are read, bodies looked over, releases made and handed over, something is ended without a chance
to tidy up: a worker, a reader in the sandbox, what readers are forked from, the server, connections of the
database, all of PostgreSQL, everything at once; or a card is pulled out. Afterwards every file that was taken
must be there byte for byte and read, every release there whole or not at all, every change that was answered
kept, and every task must have come to an end.
"""

from __future__ import annotations

import hashlib
import os
import random
import signal
import statistics
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx
import psycopg

from aimtrue.cli.trial import OURS, trial
from aimtrue.cli.up import RunningSystem
from aimtrue.core.formats import stl
from aimtrue.settings import settings
from benchmarks.run import two_bodies
from benchmarks.shapes import wavy_sphere

_TRIANGLES = 30_000
_LONGEST_SECONDS = 120.0


@dataclass
class _Tally:
    """What came of one kind of kill."""

    seconds: list[float] = field(default_factory=list)
    lost: list[str] = field(default_factory=list)


def kills(count: int, seed: int = 1) -> int:
    """Kill so many times, print a table, and return 1 when anything was lost."""
    chance = random.Random(seed)
    tally = {name: _Tally() for name in KINDS}
    with trial(empty=True) as now:
        minding = Minding(now)
        minding.start()
        desk = _Desk(now.address)
        for number, kind in zip(range(count), _drawn(chance), strict=False):
            desk.ask()
            time.sleep(chance.uniform(0.0, 1.6))
            KINDS[kind](now, desk, chance)
            seconds, lost = desk.settled()
            tally[kind].seconds.append(seconds)
            tally[kind].lost += lost
            if lost:
                print(f"{number}: {kind}: {'; '.join(lost)}", flush=True)
        told = f"{desk.files} files and {desk.changes} changes were taken, {desk.releases} releases stand"
        print(f"{told}, {desk.failed} tasks said that they failed{desk.reasons}\n")
        minding.stop()
    print(f"{'killed':<24}{'times':>7}{'median s':>10}{'longest s':>11}{'lost':>6}")
    for kind, one in tally.items():
        if one.seconds:
            middle, most = statistics.median(one.seconds), max(one.seconds)
            print(f"{kind:<24}{len(one.seconds):>7}{middle:>10.1f}{most:>11.1f}{len(one.lost):>6}")
    return int(any(one.lost for one in tally.values()))


def _drawn(chance: random.Random) -> Iterator[str]:
    """Draw kinds as from a deck of cards, so that each comes as often as it should, also the rare ones."""
    while True:
        deck = [kind for kind, weight in zip(KINDS, _WEIGHTS, strict=True) for _ in range(weight)]
        chance.shuffle(deck)
        yield from deck


class Minding(threading.Thread):
    """Starts processes again that ended, as `up` does."""

    def __init__(self, now: RunningSystem) -> None:
        super().__init__(daemon=True)
        self._now, self._going = now, True

    def run(self) -> None:
        while self._going:
            for supervised in self._now.kept:
                supervised.ends.clear()
            self._now.mind()
            time.sleep(0.2)

    def stop(self) -> None:
        self._going = False
        self.join()


class _Desk:
    """A user who asks for releases, hands them over, and looks whether all of it is there."""

    def __init__(self, address: str) -> None:
        self._http = httpx.Client(base_url=f"{address}/api", timeout=20, headers=OURS)
        data = stl.write_binary(two_bodies(_TRIANGLES), "kills")
        self.key = self._http.post("/jobs", params={"name": "kills.stl"}, content=data).json()["id"]
        self._wait(lambda view: bool(view["job"]["bodies"]))
        view = self._view()
        source = view["job"]["sources"][0]["id"]
        action = {"do": "settle-unit", "source": source, "unit": "mm"}
        self._http.post(f"/jobs/{self.key}/actions", json={"on": view["number"], "action": action})
        self.releases = self.failed = self.files = self.changes = 0
        self.reasons = ""
        self._sent_in: dict[str, tuple[str, bytes]] = {}
        self._name = ""
        self._known: dict[tuple[int, str], str] = {}

    def _view(self) -> dict[str, Any]:
        found: dict[str, Any] = self._http.get(f"/jobs/{self.key}").raise_for_status().json()["job"]
        return found

    def ask(self) -> None:
        """Ask for a release, and for the last one to be sent; what is not taken now is asked for next
        time.
        """
        self._send_file()
        self._change()
        with suppress(httpx.HTTPError, KeyError):
            view = self._view()
            work = {"do": "look", "bodies": [view["job"]["bodies"][0]["id"]]}
            self._http.post(f"/jobs/{self.key}/tasks", json={"on": view["number"], "task": work})
            order = {"on": view["number"], "format": random.choice(("3mf", "stl")), "shape": "each"}
            self._http.post(f"/jobs/{self.key}/releases", json=order)
            if view["releases"]:
                number = view["releases"][0]["number"]
                target = {"target": "Next program, simulated"}
                self._http.post(f"/jobs/{self.key}/releases/{number}/send", json=target)

    def _send_file(self) -> None:
        """Open a job with a file of its own; once it is answered, it must be there for good."""
        at = 1.0 + self.files / 1000
        data = stl.write_binary(wavy_sphere(400).mapped(lambda vertices: vertices * at), f"part {self.files}")
        with suppress(httpx.HTTPError, KeyError):
            answer = self._http.post("/jobs", params={"name": f"part-{self.files}.stl"}, content=data)
            if answer.status_code == 201:
                self._sent_in[answer.json()["id"]] = (hashlib.sha256(data).hexdigest(), data)
                self.files += 1

    def _change(self) -> None:
        """Rename a body; once it is answered, the name must stay."""
        with suppress(httpx.HTTPError, KeyError):
            view, name = self._view(), f"name {self.changes}"
            action = {"do": "rename", "body": view["job"]["bodies"][0]["id"], "name": name}
            asked = {"on": view["number"], "action": action}
            if self._http.post(f"/jobs/{self.key}/actions", json=asked).status_code == 200:
                self._name = name
                self.changes += 1

    def _files(self) -> list[str]:
        """Every file that was taken is there as it was given, and was read."""
        lost = []
        for key, (sha256, data) in list(self._sent_in.items()):
            view = self._until_read(key)
            if len(view["job"]["bodies"]) != 1:
                lost.append(f"job {key} was not read: {[one['says'] for one in view['tasks']]}")
            elif self._http.get(f"/jobs/{key}/originals/{sha256}").content != data:
                lost.append(f"the file of job {key} is not as it was given")
            del self._sent_in[key]
        return lost

    def _until_read(self, key: str) -> dict[str, Any]:
        ends = time.monotonic() + _LONGEST_SECONDS
        while True:
            view: dict[str, Any] = self._http.get(f"/jobs/{key}").raise_for_status().json()["job"]
            if all(one["state"] in ("done", "failed") for one in view["tasks"]) or time.monotonic() > ends:
                return view
            time.sleep(0.1)

    def put(self, after: int) -> None:
        """Put the newest release on a card that is pulled out after so many bytes."""
        with suppress(httpx.HTTPError, IndexError):
            number = self._view()["releases"][0]["number"]
            self._http.post("/standins/card/put-in")
            self._http.post("/standins/card/empty")
            self._http.put("/standins/card", json={"pull_after": after})
            self._http.post(f"/jobs/{self.key}/releases/{number}/put", json={"drive": "card"})
            self._http.post("/standins/card/put-in")

    def _wait(self, good: Callable[[dict[str, Any]], bool]) -> float:
        started = time.monotonic()
        while time.monotonic() - started < _LONGEST_SECONDS:
            with suppress(httpx.HTTPError, KeyError):
                if good(self._view()):
                    return time.monotonic() - started
            time.sleep(0.1)
        return float("inf")

    def settled(self) -> tuple[float, list[str]]:
        """Wait until nothing is under way, and return how long that took and what is not as it should be."""

        def over(view: dict[str, Any]) -> bool:
            return all(one["state"] in ("done", "failed") for one in view["tasks"])

        seconds = self._wait(over)
        if seconds == float("inf"):
            return _LONGEST_SECONDS, ["a task never came to an end"]
        view = self._view()
        self.releases = len(view["releases"])
        failed = [one for one in view["tasks"] if one["state"] == "failed"]
        self.failed = len(failed)
        self.reasons = ": " + "; ".join(sorted({one["says"] for one in failed})) if failed else ""
        numbers = sorted(one["number"] for one in view["releases"])
        lost = [] if numbers == list(range(1, len(numbers) + 1)) else [f"releases are {numbers[-5:]}"]
        for number in numbers[-3:]:
            lost += self._looked_at(number)
        if self._name and view["job"]["bodies"][0]["name"] != self._name:
            lost.append(f"a change that was answered is gone: {self._name}")
        return seconds, lost + self._files() + self._card() + self._sent()

    def _looked_at(self, number: int) -> list[str]:
        files = self._http.get(f"/jobs/{self.key}/releases/{number}").json()["files"]
        lost = []
        for at, file in enumerate(files):
            data = self._http.get(f"/jobs/{self.key}/releases/{number}/file", params={"file": at}).content
            if hashlib.sha256(data).hexdigest() != file["sha256"]:
                lost.append(f"{file['name']} of release {number} is not whole")
            self._known[(len(data), file["name"])] = file["sha256"]
        return lost

    def _card(self) -> list[str]:
        """What is on the card has the names, and is as large, as files that were released."""
        files = self._http.get("/standins/card").json()["files"]
        names = {name for _, name in self._known}
        folder = settings().data / "card"
        lost = []
        for name, size in files:
            whole = self._known.get((size, name))
            if name in names and (
                whole is None or hashlib.sha256((folder / name).read_bytes()).hexdigest() != whole
            ):
                lost.append(f"{name} on the card is not whole")
        return lost

    def _sent(self) -> list[str]:
        with suppress(httpx.HTTPError):
            taken = httpx.get(f"http://127.0.0.1:{settings().next_port}/").json()["taken"]
            keys = [one["key"] for one in taken]
            return [] if len(keys) == len(set(keys)) else ["a release was taken twice"]
        return []


def _end(now: RunningSystem, role: str) -> None:
    process = next(supervised.process for supervised in now.kept if supervised.role == role)
    if process is not None:
        with suppress(ProcessLookupError):
            process.send_signal(signal.SIGKILL)


def _worker(now: RunningSystem, desk: _Desk, chance: random.Random) -> None:
    _end(now, "worker")


def _server(now: RunningSystem, desk: _Desk, chance: random.Random) -> None:
    _end(now, "server")


def _children(of: int) -> list[int]:
    """The processes that a process started, and those that these did."""
    children = []
    for path in Path("/proc").glob("[0-9]*"):
        with suppress(OSError, IndexError):
            if int((path / "stat").read_text().rpartition(")")[2].split()[1]) == of:
                children += [int(path.name), *_children(int(path.name))]
    return children


def _below_worker(now: RunningSystem, what: Callable[[list[int]], int | None]) -> None:
    worker = next(supervised.process for supervised in now.kept if supervised.role == "worker")
    pid = what(_children(worker.pid)) if worker is not None else None
    if pid is not None:
        with suppress(ProcessLookupError):
            os.kill(pid, signal.SIGKILL)


def _reader(now: RunningSystem, desk: _Desk, chance: random.Random) -> None:
    """The youngest process below the worker: a reader, where one is at work just then."""
    _below_worker(now, lambda pids: max(pids) if len(pids) > 2 else None)


def _fork_server(now: RunningSystem, desk: _Desk, chance: random.Random) -> None:
    def forks(pids: list[int]) -> int | None:
        having = [pid for pid in pids if b"forkserver" in Path(f"/proc/{pid}/cmdline").read_bytes()]
        return min(having, default=None)

    with suppress(OSError):
        _below_worker(now, forks)


def _everything(now: RunningSystem, desk: _Desk, chance: random.Random) -> None:
    for role in ("next", "worker", "server"):
        _end(now, role)
    _database(now, desk, chance)


def _connection(now: RunningSystem, desk: _Desk, chance: random.Random) -> None:
    with suppress(psycopg.Error), psycopg.connect(settings().database, autocommit=True) as own:
        rows = own.execute(
            "select pid from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()"
        ).fetchall()
        for (pid,) in chance.sample(rows, k=min(len(rows), chance.randint(1, 6))):
            own.execute("select pg_terminate_backend(%s)", (pid,))


def _database(now: RunningSystem, desk: _Desk, chance: random.Random) -> None:
    folder = settings().data / "postgres"
    pid = int((folder / "postmaster.pid").read_text().split()[0])
    os.kill(pid, signal.SIGKILL)


def _card(now: RunningSystem, desk: _Desk, chance: random.Random) -> None:
    desk.put(chance.randint(0, 3_000_000))


KINDS: dict[str, Callable[[RunningSystem, _Desk, random.Random], None]] = {
    "worker": _worker,
    "a reader": _reader,
    "what readers fork from": _fork_server,
    "server": _server,
    "database connections": _connection,
    "all of PostgreSQL": _database,
    "everything at once": _everything,
    "card pulled out": _card,
}
_WEIGHTS = (4, 4, 2, 3, 4, 2, 1, 2)
