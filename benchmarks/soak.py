"""Mixed load for a while: files of 1 kB to 79 MB, actions, releases, removals, stalled clients, and kills.

In the end nothing may be under way any more, every file that was taken must be there, and server and worker
must have no more memory than at their start. Kills stop when two thirds of the time are over, so that what is
measured last is of processes that have lived for a while.
"""

from __future__ import annotations

import hashlib
import random
import socket
import statistics
import threading
import time
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import httpx

from aimtrue.cli.trial import OURS, trial
from aimtrue.cli.up import RunningSystem
from aimtrue.core.formats import stl
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.settings import settings
from benchmarks import kills
from benchmarks.run import two_bodies
from benchmarks.shapes import wavy_sphere
from demo.parts import built

_KEPT_JOBS = 25
_LARGE_EVERY_SECONDS = 90.0
_KILL_SECONDS = (40.0, 80.0)
_SETTLE_SECONDS = 120.0
_REST_SECONDS = 400.0
_MORE_MB = 100.0
_KINDS = (
    "worker",
    "a reader",
    "what readers fork from",
    "server",
    "database connections",
    "all of PostgreSQL",
)


@dataclass
class _Seen:
    """What was seen meanwhile."""

    files: int = 0
    actions: int = 0
    releases: int = 0
    removed: int = 0
    stalled: int = 0
    kills: int = 0
    refused: int = 0
    answers: list[float] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)
    jobs: dict[str, tuple[str, str]] = field(default_factory=dict)


def soak(minutes: float) -> int:
    """Load an application of its own for so long, print what came of it, return 1 if anything was lost."""
    ends = time.monotonic() + 60 * minutes
    seen = _Seen()
    with trial(empty=True) as now:
        minding = kills.Minding(now)
        minding.start()
        large = stl.write_binary(two_bodies(1_500_000), "large")
        _one_of(now.address, seen, "warm.stl", stl.write_binary(wavy_sphere(2000), "warm"), random.Random(0))
        del large
        time.sleep(20)
        start = _memory(now)
        going = [
            threading.Thread(target=_work, args=(now.address, seen, ends, seed), daemon=True)
            for seed in (1, 2)
        ]
        going.append(threading.Thread(target=_stall, args=(now.address, seen, ends), daemon=True))
        going.append(threading.Thread(target=_large, args=(now.address, seen, ends), daemon=True))
        kill_until = time.monotonic() + 40 * minutes
        going.append(threading.Thread(target=_kill, args=(now, seen, kill_until), daemon=True))
        for thread in going:
            thread.start()
        most = _watched(now, seen, ends)
        for thread in going:
            thread.join(timeout=_SETTLE_SECONDS)
        stuck = _settled(now.address, seen)
        end, rest = _at_rest(now, start)
        folder = sum(path.stat().st_size for path in settings().data.rglob("*") if path.is_file())
        minding.stop()
    print(f"\nmemory was measured {rest:.0f} s after the last of it was over", end="")
    return _report(seen, start, most, end, stuck, folder)


def _work(address: str, seen: _Seen, ends: float, seed: int) -> None:
    """What people do, one thing after the other."""
    chance = random.Random(seed)
    demo = [path for path in sorted(built().iterdir()) if path.name[0] != "."]
    while time.monotonic() < ends:
        kind = chance.random()
        if kind < 0.5:
            at = 1 + chance.random()
            ball = wavy_sphere(int(10 ** chance.uniform(1.3, 4.7)))
            data = stl.write_binary(Mesh(ball.vertices * at, ball.faces), f"{chance.random()}")
            name = f"ball-{chance.randrange(10**9)}.stl"
        else:
            path = chance.choice(demo)
            name, data = path.name, path.read_bytes()
        _one_of(address, seen, name, data, chance)
        _thin_out(address, seen)


def _one_of(address: str, seen: _Seen, name: str, data: bytes, chance: random.Random) -> None:
    """Open a job, settle, act, release, fetch; what is refused for a moment is asked for again by nobody."""
    with (
        suppress(httpx.HTTPError, KeyError, IndexError),
        httpx.Client(base_url=f"{address}/api", headers=OURS, timeout=60) as client,
    ):
        started = time.monotonic()
        answer = client.post("/jobs", params={"name": name}, content=data)
        if answer.status_code != 201:
            seen.refused += 1
            return
        key = answer.json()["id"]
        seen.jobs[key] = (hashlib.sha256(data).hexdigest(), name)
        seen.files += 1
        view = _until_idle(client, key)
        for source in view["job"]["sources"]:
            if source["unit"] is None:
                action = {"do": "settle-unit", "source": source["id"], "unit": "mm"}
                view = _acted(client, seen, view, action) or view
        body = view["job"]["bodies"][0]["id"]
        for typed in ("100", "101.5 mm"):
            action = {"do": "size-axis", "body": body, "axis": "x", "typed": typed}
            view = _acted(client, seen, view, action) or view
        if chance.random() < 0.6:
            order = {"on": view["number"], "format": chance.choice(("3mf", "stl"))}
            if client.post(f"/jobs/{key}/releases", json=order).status_code == 202:
                view = _until_idle(client, key)
                for release in view["releases"]:
                    client.get(f"/jobs/{key}/releases/{release['number']}/file").raise_for_status()
                    seen.releases += 1
        client.get(f"/jobs/{key}/compare/{body}")
        seen.answers.append(time.monotonic() - started)


def _acted(
    client: httpx.Client, seen: _Seen, view: dict[str, Any], action: dict[str, Any]
) -> dict[str, Any] | None:
    asked = {"on": view["number"], "action": action}
    answer = client.post(f"/jobs/{view['id']}/actions", json=asked)
    if answer.status_code != 200:
        seen.refused += 1
        return None
    seen.actions += 1
    found: dict[str, Any] = answer.json()["job"]
    return found


def _until_idle(client: httpx.Client, key: str) -> dict[str, Any]:
    ends = time.monotonic() + _SETTLE_SECONDS
    while True:
        with suppress(httpx.HTTPError):
            view: dict[str, Any] = client.get(f"/jobs/{key}").raise_for_status().json()["job"]
            if all(one["state"] in ("done", "failed") for one in view["tasks"] if one["kind"] != "list"):
                return view
        if time.monotonic() > ends:
            raise KeyError(key)
        time.sleep(0.15)


def _large(address: str, seen: _Seen, ends: float) -> None:
    """Now and then one of 75 MB."""
    for number in range(10**6):
        if time.monotonic() > ends:
            return
        mesh = two_bodies(1_500_000)
        data = stl.write_binary(Mesh(mesh.vertices * (1 + number / 100), mesh.faces), f"large {number}")
        del mesh
        _one_of(address, seen, f"large-{number}.stl", data, random.Random(number))
        del data
        time.sleep(max(0.0, min(_LARGE_EVERY_SECONDS, ends - time.monotonic())))


def _thin_out(address: str, seen: _Seen) -> None:
    while len(seen.jobs) > _KEPT_JOBS:
        key = next(iter(seen.jobs))
        with suppress(httpx.HTTPError):
            if httpx.delete(f"{address}/api/jobs/{key}", headers=OURS, timeout=60).status_code in (204, 404):
                seen.jobs.pop(key, None)
                seen.removed += 1
                continue
        return


def _stall(address: str, seen: _Seen, ends: float) -> None:
    """Clients that ask for something large and read nothing of it, and such that send half a file."""
    where = urlsplit(address)
    held: list[socket.socket] = []
    while time.monotonic() < ends:
        with suppress(OSError):
            one = socket.create_connection((where.hostname or "", where.port or 0), timeout=5)
            held.append(one)
            if len(held) % 2 and seen.jobs:
                key, (sha256, _) = next(reversed(seen.jobs.items()))
                path = f"/api/jobs/{key}/originals/{sha256}"
                one.sendall(f"GET {path} HTTP/1.1\r\nHost: {where.netloc}\r\n\r\n".encode())
            else:
                head = f"POST /api/jobs?name=half.stl HTTP/1.1\r\nHost: {where.netloc}\r\nX-Aim-True: 1\r\n"
                one.sendall(f"{head}Content-Length: 50000000\r\n\r\n".encode() + bytes(200_000))
            seen.stalled += 1
        while len(held) > 40:
            held.pop(0).close()
        time.sleep(0.7)
    for one in held:
        one.close()


def _kill(now: RunningSystem, seen: _Seen, ends: float) -> None:
    chance = random.Random(5)
    while True:
        time.sleep(chance.uniform(*_KILL_SECONDS))
        if time.monotonic() > ends:
            return
        with suppress(OSError):
            kills.KINDS[chance.choice(_KINDS)](now, None, chance)  # type: ignore[arg-type]
            seen.kills += 1


def _memory(now: RunningSystem) -> dict[str, float]:
    """Megabytes of server and worker themselves; readers in the sandbox come and go."""
    found = {}
    for supervised_process in now.kept:
        if supervised_process.role in ("server", "worker") and supervised_process.process is not None:
            with suppress(OSError, StopIteration):
                lines = Path(f"/proc/{supervised_process.process.pid}/status").read_text().splitlines()
                line = next(line for line in lines if line.startswith("VmRSS:"))
                found[supervised_process.role] = int(line.split()[1]) / 1000
    return found


def _at_rest(now: RunningSystem, start: dict[str, float]) -> tuple[dict[str, float], float]:
    """Wait until memory is as at the start, as long as what nobody asks for may be kept; tell how long."""
    begun = time.monotonic()
    while True:
        time.sleep(15)
        end, seconds = _memory(now), time.monotonic() - begun
        if not _grown(start, end) or seconds > _REST_SECONDS:
            return end, seconds


def _grown(start: dict[str, float], end: dict[str, float]) -> bool:
    return any(end[role] > start[role] + _MORE_MB for role in start)


def _watched(now: RunningSystem, seen: _Seen, ends: float) -> dict[str, float]:
    most: dict[str, float] = {}
    while time.monotonic() < ends:
        time.sleep(10)
        for role, megabytes in _memory(now).items():
            most[role] = max(most.get(role, 0.0), megabytes)
        print(f"{time.strftime('%H:%M:%S')} {seen.files} files, {_memory(now)}", flush=True)
    return most


def _settled(address: str, seen: _Seen) -> list[str]:
    """Wait until nothing is under way; return what still is, and note what is not as it should be."""
    with httpx.Client(base_url=f"{address}/api", headers=OURS, timeout=60) as client:
        ends, stuck = time.monotonic() + _SETTLE_SECONDS, ["?"]
        while stuck and time.monotonic() < ends:
            time.sleep(1)
            with suppress(httpx.HTTPError):
                keys = [row["id"] for row in client.get("/jobs").raise_for_status().json()]
                stuck = [line for key in keys for line in _under_way(client, key)]
        for key, (sha256, name) in seen.jobs.items():
            data = client.get(f"/jobs/{key}/originals/{sha256}")
            if data.status_code != 200 or hashlib.sha256(data.content).hexdigest() != sha256:
                seen.wrong.append(f"{name} of job {key} is not there")
        return stuck


def _under_way(client: httpx.Client, key: str) -> list[str]:
    view = client.get(f"/jobs/{key}").raise_for_status().json()["job"]
    return [
        f"{key}: {one['kind']} is {one['state']}"
        for one in view["tasks"]
        if one["state"] not in ("done", "failed")
    ]


def _report(
    seen: _Seen,
    start: dict[str, float],
    most: dict[str, float],
    end: dict[str, float],
    stuck: list[str],
    folder: int,
) -> int:
    print(f"\n{seen.files} files, {seen.actions} actions, {seen.releases} releases fetched", end=", ")
    print(f"{seen.removed} jobs removed, {seen.stalled} stalled clients, {seen.kills} kills")
    print(f"{seen.refused} answers that said to try again")
    if seen.answers:
        middle, longest = statistics.median(seen.answers), max(seen.answers)
        print(f"a job from file to end: median {middle:.1f} s, longest {longest:.1f} s")
    for role in ("server", "worker"):
        print(
            f"{role}: {start[role]:.0f} MB at the start, {most[role]:.0f} at most, {end[role]:.0f} at the end"
        )
    print(f"data folder {folder / 1e6:.0f} MB, cache included")
    for line in [*stuck, *seen.wrong]:
        print(line)
    return int(bool(stuck or seen.wrong or _grown(start, end)))
