"""Seconds until many files dropped on one job are all read into it."""

from __future__ import annotations

import time

import httpx

from aimtrue.cli.trial import OURS, trial
from aimtrue.core.formats import stl
from benchmarks.actions import bored_plate

COUNTS = (40, 200)


def many(counts: tuple[int, ...] = COUNTS) -> int:
    """Print how long it takes to send so many files, until the first can be seen, and until all are there."""
    with trial(empty=True) as now, httpx.Client(base_url=now.address, timeout=60, headers=OURS) as client:
        print(f"{'files':>6}{'sent':>10}{'first':>10}{'all':>10}")
        for count in counts:
            sent, first, last = _dropped(client, count)
            print(f"{count:>6}{sent:>8.1f} s{first:>8.1f} s{last:>8.1f} s", flush=True)
    return 0


def _dropped(client: httpx.Client, count: int) -> tuple[float, float, float]:
    files = [(f"plate {n}.stl", stl.write_binary(bored_plate(80 + n, 9.0), "plate")) for n in range(count)]
    started = time.perf_counter()
    name, data = files[0]
    job = client.post("/api/jobs", params={"name": name}, content=data).json()["id"]
    for name, data in files[1:]:
        client.post(f"/api/jobs/{job}/sources", params={"name": name}, content=data).raise_for_status()
    sent = time.perf_counter() - started
    first = None
    while True:
        # Asked for seldom, so that the asking is not what is measured.
        bodies = len(client.get(f"/api/jobs/{job}").json()["job"]["job"]["bodies"])
        took = time.perf_counter() - started
        first = took if bodies and first is None else first
        if bodies >= count:
            return sent, first or took, took
        time.sleep(0.25)
