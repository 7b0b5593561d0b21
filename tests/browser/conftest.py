"""A real Chromium, headless, at the size the product is made for."""

from __future__ import annotations

import base64
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from aimtrue.cli.system import CHROMIUM_FLAGS, chromium
from tests.house import House

UNSMOOTHED = "--webgl-msaa-sample-count=0"
"""Without a graphics card, smooth edges cost half of what the tests take, and no test looks at them."""


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    expect.set_options(timeout=20_000)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=chromium(), args=[*CHROMIUM_FLAGS, UNSMOOTHED])
        yield browser
        browser.close()


def _is_of_drawing(text: str) -> bool:
    return any(word in text for word in ("WebGL: INVALID", "WebGLProgram", "Shader Error"))


@pytest.fixture
def desk(browser: Browser, house: House) -> Iterator[Desk]:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    page = context.new_page()
    slips: list[str] = []
    page.on("pageerror", lambda error: slips.append(str(error)))
    # A bench whose shaders do not compile draws nothing, and all else of the page goes on.
    page.on("console", lambda said: slips.append(said.text) if _is_of_drawing(said.text) else None)
    yield Desk(page, house.address, slips)
    context.close()
    assert not slips, slips


class Desk:
    """A page, and what a user does on it."""

    def __init__(self, page: Page, address: str, slips: list[str]) -> None:
        self.page = page
        self.slips = slips
        self.address = address

    def drop(self, path: Path) -> None:
        """Drop a file on the first page, as from a folder; a large one through the file dialog."""
        self.page.goto(self.address)
        self.page.get_by_role("heading", name="Drop files here").wait_for()
        if path.stat().st_size > 5_000_000:  # too much to be handed over within a script
            self.page.set_input_files("input[type=file] >> nth=0", path)
        else:
            self.drop_here(path, "[data-testid=drop]")

    def drop_here(self, path: Path, on: str) -> None:
        """Drop a file on a part of the page that is open."""
        content = base64.b64encode(path.read_bytes()).decode()
        transfer = self.page.evaluate_handle(
            """([content, name]) => {
                const bytes = Uint8Array.from(atob(content), (char) => char.charCodeAt(0));
                const transfer = new DataTransfer();
                transfer.items.add(new File([bytes], name));
                return transfer;
            }""",
            [content, path.name],
        )
        self.page.dispatch_event(on, "drop", {"dataTransfer": transfer})

    def drawn(self) -> None:
        """Wait until the body is drawn."""
        self.page.locator("[data-testid=bench][data-drawn]").wait_for(timeout=30_000)

    def opened(self, path: Path, unit: str | None = None) -> None:
        """Drop a file, wait for the drawing, and settle the unit when one is given."""
        self.drop(path)
        self.drawn()
        if unit and self.page.get_by_text("not settled").count():
            self.page.get_by_role("radio", name=unit, exact=True).click()
        if unit:
            expect(self.page.get_by_role("radio", name=unit, exact=True)).to_be_checked()
            expect(self.page.get_by_role("link", name="Go on to Truing")).to_be_visible()

    def sheet(self, name: str) -> None:
        self.page.get_by_role("navigation", name="Sheets").get_by_role("link", name=name).click()
        expect(self.page.get_by_role("main", name=name)).to_be_visible()

    def typed(self, label: str, text: str, key: str = "Enter") -> None:
        """Type into a field of the sheet."""
        field = self.page.get_by_label(label, exact=True)
        field.click()
        field.fill(text)
        field.press(key)

    def overall(self, text: str) -> None:
        """Expect the overall size in the title block."""
        expect(self.page.get_by_test_id("overall")).to_have_text(text)

    def ends_of(self, dimension: str) -> list[tuple[float, float]]:
        """Where the extension lines of an overall dimension begin: by the corners of the body's box."""
        lines = self.page.locator(f"[data-dimension={dimension}] .extension")
        expect(lines).to_have_count(2)
        frame = self.page.get_by_test_id("bench").bounding_box()
        assert frame
        starts = []
        for i in range(2):
            x, y = (lines.nth(i).get_attribute("d") or "M0 0L").removeprefix("M").split("L")[0].split()
            starts.append((frame["x"] + float(x), frame["y"] + float(y)))
        return starts
