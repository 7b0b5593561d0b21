"""Kill what works on releases, again and again, and count what was lost.

While releases are made and handed over, one of worker, server, a database connection or all of PostgreSQL is
ended without a chance to tidy up, or a card is pulled out. Afterwards every release must be there whole or
not at all, and every task must have come to an end or said that it failed.
"""

from __future__ import annotations

import hashlib
import os
import random
import signal
import statistics
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any

import httpx
import psycopg

from aimtrue.cli.trial import OURS, trial
from aimtrue.cli.up import Running
from aimtrue.core.formats import stl
from aimtrue.settings import settings
from benchmarks.run import two_bodies

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
    tally = {name: _Tally() for name in _KINDS}
    with trial(empty=True) as now:
        minding = _Minding(now)
        minding.start()
        desk = _Desk(now.address)
        for number in range(count):
            kind = chance.choices(list(_KINDS), weights=[4, 3, 4, 1, 2])[0]
            desk.ask()
            time.sleep(chance.uniform(0.0, 1.6))
            _KINDS[kind](now, desk, chance)
            seconds, lost = desk.settled()
            tally[kind].seconds.append(seconds)
            tally[kind].lost += lost
            if lost:
                print(f"{number}: {kind}: {'; '.join(lost)}", flush=True)
        print(f"{desk.releases} releases stand, {desk.failed} tasks said that they failed\n")
        minding.stop()
    print(f"{'killed':<22}{'times':>7}{'median s':>10}{'longest s':>11}{'lost':>6}")
    for kind, one in tally.items():
        if one.seconds:
            middle, most = statistics.median(one.seconds), max(one.seconds)
            print(f"{kind:<22}{len(one.seconds):>7}{middle:>10.1f}{most:>11.1f}{len(one.lost):>6}")
    return int(any(one.lost for one in tally.values()))


class _Minding(threading.Thread):
    """Starts processes again that ended, as `up` does."""

    def __init__(self, now: Running) -> None:
        super().__init__(daemon=True)
        self._now, self._going = now, True

    def run(self) -> None:
        while self._going:
            for one in self._now.kept:
                one.ends.clear()
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
        self.releases = self.failed = 0
        self._known: dict[tuple[int, str], str] = {}

    def _view(self) -> dict[str, Any]:
        found: dict[str, Any] = self._http.get(f"/jobs/{self.key}").raise_for_status().json()["job"]
        return found

    def ask(self) -> None:
        """Ask for a release, and for the last one to be sent; what is not taken now is asked for next
        time.
        """
        with suppress(httpx.HTTPError, KeyError):
            view = self._view()
            order = {"on": view["number"], "format": random.choice(("3mf", "stl")), "shape": "each"}
            self._http.post(f"/jobs/{self.key}/releases", json=order)
            if view["releases"]:
                number = view["releases"][0]["number"]
                target = {"target": "Next program, simulated"}
                self._http.post(f"/jobs/{self.key}/releases/{number}/send", json=target)

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
            return all(one["state"] in ("done", "failed") for one in view["errands"])

        seconds = self._wait(over)
        if seconds == float("inf"):
            return _LONGEST_SECONDS, ["a task never came to an end"]
        view = self._view()
        self.releases = len(view["releases"])
        self.failed = sum(one["state"] == "failed" for one in view["errands"])
        numbers = sorted(one["number"] for one in view["releases"])
        lost = [] if numbers == list(range(1, len(numbers) + 1)) else [f"releases are {numbers[-5:]}"]
        for number in numbers[-3:]:
            lost += self._looked_at(number)
        return seconds, lost + self._card() + self._sent()

    def _looked_at(self, number: int) -> list[str]:
        files = self._http.get(f"/jobs/{self.key}/releases/{number}").json()["files"]
        lost = []
        for at, one in enumerate(files):
            data = self._http.get(f"/jobs/{self.key}/releases/{number}/file", params={"file": at}).content
            if hashlib.sha256(data).hexdigest() != one["sha256"]:
                lost.append(f"{one['name']} of release {number} is not whole")
            self._known[(len(data), one["name"])] = one["sha256"]
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


def _end(now: Running, role: str) -> None:
    process = next(one.process for one in now.kept if one.role == role)
    if process is not None:
        with suppress(ProcessLookupError):
            process.send_signal(signal.SIGKILL)


def _worker(now: Running, desk: _Desk, chance: random.Random) -> None:
    _end(now, "worker")


def _server(now: Running, desk: _Desk, chance: random.Random) -> None:
    _end(now, "server")


def _connection(now: Running, desk: _Desk, chance: random.Random) -> None:
    with suppress(psycopg.Error), psycopg.connect(settings().database, autocommit=True) as own:
        rows = own.execute(
            "select pid from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()"
        ).fetchall()
        for (pid,) in chance.sample(rows, k=min(len(rows), chance.randint(1, 6))):
            own.execute("select pg_terminate_backend(%s)", (pid,))


def _database(now: Running, desk: _Desk, chance: random.Random) -> None:
    folder = settings().data / "postgres"
    pid = int((folder / "postmaster.pid").read_text().split()[0])
    os.kill(pid, signal.SIGKILL)


def _card(now: Running, desk: _Desk, chance: random.Random) -> None:
    desk.put(chance.randint(0, 3_000_000))


_KINDS: dict[str, Callable[[Running, _Desk, random.Random], None]] = {
    "worker": _worker,
    "server": _server,
    "database connections": _connection,
    "all of PostgreSQL": _database,
    "card pulled out": _card,
}
