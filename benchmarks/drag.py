"""Pictures a second while the factor is dragged, beside turning the same bench, and the slowest picture.

Turning is the drawing library's work alone; dragging goes through the page as well: lanes, sizes, numerals.
"""

from __future__ import annotations

import tempfile
import time
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from aimtrue.cli.system import CHROMIUM_FLAGS, chromium
from aimtrue.cli.trial import trial
from aimtrue.core.formats import stl
from benchmarks.actions import plates
from benchmarks.run import two_bodies
from demo.parts import built
from tests.browser.controls import GAUGES, chosen

_MOVES = 90
_BODIES = 150
_COUNT = """
(() => {
    const kind = WebGL2RenderingContext.prototype;
    const draw = kind.drawElements;
    let drawn = false;
    window.pictures = [];
    kind.drawElements = function (...given) {
        drawn = true;
        return draw.apply(this, given);
    };
    const tick = () => {
        if (drawn) window.pictures.push(performance.now());
        drawn = false;
        requestAnimationFrame(tick);
    };
    tick();
})();
"""


def dragged(triangles: int) -> int:
    """Print pictures a second for a small and a large model, dragging and turning, and their ratio."""
    heads = f"{'dragged':>12}{'turned':>12}{'ratio':>8}{'slowest':>12}{'turned':>12}"
    print(f"{'while dragging the factor of':<40}{heads}")
    with tempfile.TemporaryDirectory() as folder, trial(empty=True) as now, sync_playwright() as playwright:
        large = Path(folder) / "large.stl"
        large.write_bytes(stl.write_binary(two_bodies(triangles), "bench"))
        many = Path(folder) / "many.3mf"
        many.write_bytes(plates(_BODIES))
        browser = playwright.chromium.launch(executable_path=chromium(), args=CHROMIUM_FLAGS)
        for part, words in (
            (built() / "clamp-shells.stl", "the clamp shells"),
            (many, f"{_BODIES} bodies"),
            (large, f"{triangles} triangles"),
        ):
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.add_init_script(_COUNT)
            _opened(page, now.address, part)
            slider = page.get_by_role("slider", name="Factor in force").bounding_box()
            bench = page.get_by_test_id("bench").bounding_box()
            assert slider
            assert bench
            drag = _pictures(page, slider["x"] + slider["width"] / 2, slider["y"] + 14, 0.6)
            turn = _pictures(page, bench["x"] + 430, bench["y"] + 200, 0.6)
            rates = f"{drag.rate:>10.1f}/s{turn.rate:>10.1f}/s{drag.rate / turn.rate:>8.2f}"
            print(f"{words:<40}{rates}{drag.slowest:>10.0f}ms{turn.slowest:>10.0f}ms")
            page.close()
        browser.close()
    return 0


def _opened(page: Page, address: str, part: Path) -> None:
    """Drop a file, and true it to one overall reading."""
    page.goto(address)
    page.get_by_role("heading", name="Drop files here").wait_for()
    page.set_input_files("input[type=file] >> nth=0", part)
    page.locator("[data-testid=bench][data-drawn]").wait_for(timeout=120_000)
    if page.get_by_text("not settled").count():
        page.get_by_role("radio", name="millimetre", exact=True).click()
    page.get_by_role("navigation", name="Sheets").get_by_role("link", name="Truing").click()
    chosen(page, "What to measure", GAUGES["extent"])
    page.get_by_role("button", name="Add", exact=True).click()
    real = page.get_by_label("Real length of reading 1")
    real.fill("50 ±1")
    real.press("Enter")
    page.get_by_test_id("lanes").wait_for()
    page.wait_for_timeout(1500)


@dataclass(frozen=True)
class _Pictures:
    """How many pictures a second were drawn, and the longest time between two, in ms."""

    rate: float
    slowest: float


def _pictures(page: Page, x: float, y: float, step: float) -> _Pictures:
    """Drag from a point, and return what pictures were drawn meanwhile."""
    page.mouse.move(x, y)
    page.mouse.down()
    page.evaluate("window.pictures = []")
    started = time.perf_counter()
    for number in range(_MOVES):
        page.mouse.move(x + step * number, y)
    drawn, seconds = page.evaluate("window.pictures"), time.perf_counter() - started
    page.keyboard.press("Escape")
    page.mouse.up()
    page.wait_for_timeout(600)
    gaps = [after - before for before, after in pairwise(drawn)]
    return _Pictures(len(drawn) / seconds, max(gaps, default=0.0))
