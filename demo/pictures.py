"""Take the pictures of docs/screenshots from the demo jobs. Run as ``python -m demo.pictures``."""

from __future__ import annotations

from playwright.sync_api import Page, sync_playwright

from aimtrue.cli.system import CHROMIUM_FLAGS, chromium
from aimtrue.cli.trial import trial
from aimtrue.settings import ROOT
from demo.parts import built

OUT = ROOT / "docs" / "screenshots"


def main() -> None:
    """Start an application with the demo, walk through it, and write a picture of each main view."""
    OUT.mkdir(parents=True, exist_ok=True)
    with trial(empty=False) as now, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=chromium(), args=CHROMIUM_FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        _truing(page, now.address)
        _intake(page, now.address)
        _open(page, now.address, "Dew shield")
        _go(page, "Seating")
        _take(page, "seating")
        _release(page, now.address)
        page.goto(now.address)
        _take(page, "jobs")
        browser.close()


def _truing(page: Page, address: str) -> None:
    """The clamp shells: across the ears a caliper says 208.5."""
    _open(page, address, "Clamp shells")
    _go(page, "Truing")
    page.keyboard.press("f")  # from the front the ears' ends are the ends of the overall dimension
    page.wait_for_timeout(500)
    page.get_by_role("button", name="Pick", exact=True).click()
    frame = page.get_by_test_id("bench").bounding_box() or {"x": 0.0, "y": 0.0}
    lines = page.locator("[data-dimension=x] .extension")
    for i in range(2):
        start = (lines.nth(i).get_attribute("d") or "M0 0L").removeprefix("M").split("L")[0].split()
        inward = 3 if i == 0 else -3
        x, y = frame["x"] + float(start[0]) + inward, frame["y"] + float(start[1]) - 8
        page.mouse.move(x, y)
        page.mouse.click(x, y)
    real = page.get_by_label("Real length of reading 1")
    real.fill("208.5")
    real.press("Enter")
    name = page.get_by_label("Name of reading 1")
    name.fill("over the ears")
    name.press("Enter")
    page.get_by_role("heading", name="Overall size").click()
    page.get_by_role("button", name="O oblique").click()
    _take(page, "truing")


def _intake(page: Page, address: str) -> None:
    """A unit that cannot be told, bodies, remedies, fineness, and several files."""
    _open(page, address, "Shim plate")
    _take(page, "intake")
    _open(page, address, "Eyepiece rack")
    page.get_by_label("Select eyepiece rack 2", exact=True).check()
    _take(page, "bodies")
    _open(page, address, "Hand grip, scanned")
    page.get_by_role("button", name="Close holes").click()
    page.get_by_test_id("mended").wait_for(timeout=60_000)
    _take(page, "mending")
    _open(page, address, "Clamp shells, from CAD")
    page.get_by_role("radiogroup", name="Fineness").get_by_role("radio").first.click()
    page.get_by_role("button", name="Undo: fineness 0.1 mm, 20°").wait_for(timeout=60_000)
    page.get_by_role("button", name="facets").click()
    page.get_by_role("main", name="Intake").evaluate("sheet => sheet.scrollTo(0, 9999)")
    _take(page, "fineness")
    _open(page, address, "Counterweight")
    page.set_input_files(
        "input[type=file] >> nth=0", [built() / "shim-plate.stl", built() / "focus-knob.stl"]
    )
    page.get_by_role("heading", name="Files (3)").wait_for(timeout=60_000)
    page.locator("[data-testid=bench][data-drawn]").wait_for(timeout=60_000)
    _take(page, "files")


def _release(page: Page, address: str) -> None:
    _open(page, address, "Setting dial")
    _go(page, "Release")
    page.get_by_role("radio", name="each its own file").click()
    page.get_by_role("button", name="Write, read back, compare").click()
    page.get_by_test_id("release-1").wait_for(timeout=60_000)
    _take(page, "release")


def _open(page: Page, address: str, job: str) -> None:
    page.goto(address)
    page.get_by_role("link", name=job, exact=True).click()
    page.locator("[data-testid=bench][data-drawn]").wait_for(timeout=60_000)


def _go(page: Page, sheet: str) -> None:
    page.get_by_role("navigation", name="Sheets").get_by_role("link", name=sheet).click()
    page.get_by_role("main", name=sheet).wait_for()


def _take(page: Page, name: str) -> None:
    page.wait_for_timeout(1200)  # the drawing settles; nothing is asserted here
    page.screenshot(path=OUT / f"{name}.png")


if __name__ == "__main__":
    main()
