"""Seconds from dropping a large STL on the page to its first picture, in the real browser."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from aimtrue.cli.system import CHROMIUM_FLAGS, chromium
from aimtrue.cli.trial import trial
from aimtrue.core.formats import stl
from benchmarks.run import two_bodies


def first_picture(triangles: int) -> int:
    """Print how long each stage takes, three times, on an application started for the purpose."""
    with tempfile.TemporaryDirectory() as folder, trial(empty=True) as now, sync_playwright() as playwright:
        part = Path(folder) / "large.stl"
        part.write_bytes(stl.write_binary(two_bodies(triangles), "bench"))
        print(f"binary STL of {part.stat().st_size / 1e6:.0f} MB")
        browser = playwright.chromium.launch(executable_path=chromium(), args=CHROMIUM_FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        for run in range(3):
            print(f"run {run + 1}: {_drop(page, now.address, part)}", end=", ", flush=True)
            print(f"its faces listed {_idle(page, now.address):.2f} s later")
        browser.close()
    return 0


def _drop(page: Page, address: str, part: Path) -> str:
    page.goto(address)
    page.get_by_role("heading", name="Drop files here").wait_for()
    started = time.perf_counter()
    page.set_input_files("input[type=file] >> nth=0", part)
    page.wait_for_url("**/intake", timeout=120_000)
    sent = time.perf_counter() - started
    page.locator("[data-drawn]").first.wait_for(timeout=120_000)
    _painted(page)
    first = time.perf_counter() - started
    page.locator("[data-testid=bench][data-drawn]").wait_for(timeout=120_000)
    _painted(page)
    ready = time.perf_counter() - started
    return f"sent {sent:.2f} s, first picture {first:.2f} s, ready to work {ready:.2f} s"


def _idle(page: Page, address: str) -> float:
    """Wait until nothing is under way at the job any more; the next run is to have the machine for itself."""
    key, started = page.url.split("/jobs/")[1].split("/")[0], time.perf_counter()
    while time.perf_counter() - started < 60:
        view = page.request.get(f"{address}/api/jobs/{key}").json()["job"]
        if all(one["state"] in ("done", "failed") for one in view["tasks"]):
            break
        time.sleep(0.1)
    return time.perf_counter() - started


def _painted(page: Page) -> None:
    """Two frames later a picture is on the screen, not only asked for."""
    page.evaluate("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
