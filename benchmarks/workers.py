"""Files a minute with one worker and with two, each with a data folder of its own: what more machines
would do.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time

import httpx

from aimtrue.cli.trial import OURS, trial
from aimtrue.core.formats import stl
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.settings import ROOT, settings
from benchmarks.actions import bored_plate
from benchmarks.run import two_bodies
from demo.parts import built

COUNT = 200


def workers(count: int = COUNT) -> int:
    """Print how long so many mixed files take to be read, each into a job of its own, by one worker and by
    two.
    """
    files = _files(count)
    size = sum(len(data) for _, data in files)
    print(f"{count} files, {size / 1e6:.0f} MB: plates, the demo's parts, balls of up to 200 000 triangles\n")
    print(f"{'workers':>8}{'seconds':>10}{'files a minute':>16}{'slowest answer':>17}")
    for many in (1, 2):
        with trial(empty=True) as now, tempfile.TemporaryDirectory() as other:
            more = [_another(other, number) for number in range(1, many)]
            seconds, slowest = _read(now.address, files)
            for process in more:
                process.terminate()
                process.wait()
            print(
                f"{many:>8}{seconds:>10.1f}{60 * count / seconds:>16.0f}{1000 * slowest:>14.0f} ms",
                flush=True,
            )
    return 0


def _another(folder: str, number: int) -> subprocess.Popen[bytes]:
    """A worker of the same database with another data folder, as on another machine."""
    environment = {
        **os.environ,
        "AIMTRUE_DATABASE_URL": settings().database,
        "AIMTRUE_DATA": f"{folder}/{number}",
        "PYTHONPATH": str(ROOT / "src"),
    }
    command = [sys.executable, "-m", "aimtrue.cli.serve", "worker"]
    return subprocess.Popen(command, cwd=ROOT, env=environment)


def _files(count: int) -> list[tuple[str, bytes]]:
    demo = [(path.name, path.read_bytes()) for path in sorted(built().iterdir()) if path.name[0] != "."]
    large: list[Mesh] = [two_bodies(triangles) for triangles in (20_000, 60_000, 200_000)]
    files = []
    for number in range(count):
        if number % 10 == 9:
            files.append((f"ball {number}.stl", stl.write_binary(large[number // 10 % 3], "ball")))
        elif number % 10 >= 7:
            name, data = demo[number % len(demo)]
            files.append((f"{number} {name}", data))
        else:
            files.append((f"plate {number}.stl", stl.write_binary(bored_plate(60 + number, 9.0), "plate")))
    return files


def _read(address: str, files: list[tuple[str, bytes]]) -> tuple[float, float]:
    """Seconds until all are read, and the longest that the list of jobs took to answer meanwhile."""
    slowest = 0.0
    with httpx.Client(base_url=f"{address}/api", timeout=120, headers=OURS) as client:
        started = time.perf_counter()
        for name, data in files:
            client.post("/jobs", params={"name": name}, content=data).raise_for_status()
        while True:
            asked = time.perf_counter()
            rows = client.get("/jobs").json()
            slowest = max(slowest, time.perf_counter() - asked)
            if sum(bool(row["bodies"] or row["failed"]) for row in rows) >= len(files):
                return time.perf_counter() - started, slowest
            time.sleep(0.3)
