"""Take the pictures of docs/screenshots from the demo jobs. Run as ``python -m demo.pictures``."""

from __future__ import annotations

import random

from playwright.sync_api import FilePayload, Page, sync_playwright

from aimtrue.cli.system import CHROMIUM_FLAGS, chromium
from aimtrue.cli.trial import trial
from aimtrue.settings import ROOT

OUT = ROOT / "docs" / "screenshots"


def main() -> None:
    """Start an application with the demo, walk through it, and write a picture of each main view."""
    OUT.mkdir(parents=True, exist_ok=True)
    with trial(empty=False) as now, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=chromium(), args=CHROMIUM_FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        _stock(page, now.address)
        _truing(page, now.address)
        _intake(page, now.address)
        _fit(page, now.address)
        _division(page, now.address)
        _seating(page, now.address)
        _release(page, now.address)
        page.goto(now.address)
        _take(page, "jobs")
        browser.close()


def _seating(page: Page, address: str) -> None:
    """The rack and its collars arranged, one tilted by a typed angle."""
    _open(page, address, "Eyepiece rack")
    _go(page, "Seating")
    page.get_by_role("radiogroup", name="Bodies of the kit").get_by_text("each by itself").click()
    page.get_by_test_id("seat-2").wait_for()
    _typed(page, "Copies", "2")
    page.get_by_test_id("seat-7").wait_for()
    page.get_by_role("button", name="Arrange plate").click()
    _typed(page, "Seconds to try", "0")
    page.get_by_role("button", name="Arrange all plates").click()
    page.get_by_role("button", name="Undo: arrange").wait_for()
    _typed(page, "Turn about Y, degrees", "0.4")
    page.get_by_test_id("finding-tilted").wait_for()
    page.get_by_role("main", name="Seating").evaluate("sheet => sheet.scrollTo(0, 0)")
    page.wait_for_timeout(800)
    _take(page, "seating")
    _takes(page, address)


def _takes(page: Page, address: str) -> None:
    """The clamp shells along their paths, a layer of them, and ways under a budget."""
    _open(page, address, "Clamp shells")
    _go(page, "Seating")
    part = page.get_by_role("region", name="What it takes")
    part.get_by_role("button", name="Work out along its paths").click()
    page.get_by_text("plate 1, along its paths").wait_for()
    part.get_by_role("button", name="Budgets").click()
    _typed(page, "Budget, with its unit", "80 g")
    part.get_by_role("button", name="Try").first.wait_for()
    page.get_by_label("as paths").check()
    _typed(page, "Layer, by number or height", "5")
    part.get_by_role("heading", name="What it takes").evaluate("heading => heading.scrollIntoView()")
    page.wait_for_timeout(1500)
    _take(page, "paths")


def _fit(page: Page, address: str) -> None:
    """The focus knob on its shaft, meant to be snug, and what would free it."""
    _open(page, address, "Focus drive")
    _go(page, "Fit")
    for _ in range(3):
        page.get_by_role("button", name="Keep").first.click()
        page.wait_for_timeout(800)
    _chosen(page, "What pair 1 is to do", "snug")
    page.get_by_role("button", name="Measure them").click()
    page.get_by_role("radio", name="1 shaft in focus knob").press("Space")
    page.get_by_test_id("detail-clearance").wait_for()
    _take(page, "fit")
    _measured_parts(page)
    _open(page, address, "Clamp shells")
    _go(page, "Fit")
    page.get_by_role("button", name="Measure them").click()
    _typed(page, "Thin is under", "9")
    page.get_by_role("button", name="Draw the walls of").first.click()
    page.get_by_role("region", name="Legend").wait_for()
    page.get_by_role("heading", name="Walls").scroll_into_view_if_needed()
    _take(page, "walls")


def _measured_parts(page: Page) -> None:
    """Three printed focus drives, a little small, and their holes smaller: as a table that was filled."""
    table = page.request.get(
        f"{page.url.rsplit('/', 1)[0]}/inspection/table.csv".replace("/jobs/", "/api/jobs/")
    )
    chance, rows = random.Random(11), []
    for line in table.text().splitlines()[1:9]:
        key, _, what, aim, *_ = line.split(",")
        off = -0.2 if what.startswith("bore") else 0.0
        rows.append([key, *(f"{0.996 * float(aim) + off + chance.gauss(0, 0.03):.2f}" for _ in range(3))])
    text = "\n".join(",".join(row) for row in [["key", "part 1", "part 2", "part 3"], *rows])
    filled: FilePayload = {"name": "measured.csv", "mimeType": "text/csv", "buffer": text.encode()}
    page.locator('input[aria-label="Measured parts as CSV"]').set_input_files(filled)
    page.get_by_role("button", name="Inspection sheet").click()
    page.get_by_role("region", name="Measured parts").scroll_into_view_if_needed()
    page.wait_for_timeout(600)
    _take(page, "inspection")


def _stock(page: Page, address: str) -> None:
    """An M5 bolt tried in an ear of the clamp shells, made with its nut, and seen in line."""
    _open(page, address, "Clamp shells")
    _go(page, "Fit")
    page.get_by_role("button", name="Does it go through?").click()
    page.get_by_role("button", name="List the bores").click()
    _typed(page, "Bolt", "M5x35 socket")
    told = page.get_by_role("region", name="Whether it goes through")
    told.get_by_text("It goes through").wait_for()
    for part in ("bolt", "nut"):
        name = "Make the bolt here" if part == "bolt" else "Nut here"
        told.get_by_role("button", name=name).click()
        page.get_by_role("button", name=f"Undo: make {part} M5").wait_for()
    told.evaluate("part => part.scrollIntoView()")
    page.get_by_role("button", name="top").click()
    page.wait_for_timeout(1500)
    _take(page, "stock")
    for part in ("nut", "bolt"):  # The other pictures are of the clamp shells alone.
        page.get_by_role("button", name=f"Undo: make {part} M5").click()
        page.get_by_role("button", name=f"Redo: make {part} M5").wait_for()


def _division(page: Page, address: str) -> None:
    """The dew shield with the planes that its machine asks for, and in pieces, drawn apart."""
    _open(page, address, "Dew shield")
    _go(page, "Division")
    page.get_by_role("button", name="Even", exact=True).click()
    page.get_by_role("button", name="Divide into 8 pieces").wait_for()
    _take(page, "division")
    page.get_by_role("button", name="Divide into 8 pieces").click()
    page.get_by_role("button", name="Put it back together").wait_for(timeout=60_000)
    for _ in range(8):
        page.get_by_role("slider", name="Drawn apart").press("ArrowRight")
    _take(page, "pieces")


def _truing(page: Page, address: str) -> None:
    """The clamp shells grip a tube read at 140.3; the bolt pitch as drawn excludes that; the drawing."""
    _open(page, address, "Clamp shells")
    _go(page, "Truing")
    _gauge(page, "diameter", "hollow arc", typed="140.3")
    page.get_by_label("Details of reading 1").click()
    _typed(page, "Clearance added to reading 1", "0.3")
    page.get_by_label("Details of reading 1").click()
    _typed(page, "Name of reading 1", "tube seat")
    _chosen(page, "What to measure", "overall extent")
    _chosen(page, "Axis", "along X")
    page.get_by_role("button", name="Add", exact=True).click()
    page.wait_for_timeout(400)
    _typed(page, "Real length of reading 2", "208.5 ±1")
    _typed(page, "Name of reading 2", "over the ears")
    page.get_by_role("heading", name="Readings").click()
    _take(page, "truing")
    page.get_by_role("button", name="Drawing in three views").click()
    page.keyboard.press("Escape")
    _gauge(page, "between two centres", "at 92", "at -92", typed="188")
    _typed(page, "Name of reading 3", "bolt pitch")
    page.get_by_role("main", name="Truing").evaluate("sheet => sheet.scrollTo(0, 0)")
    page.emulate_media(color_scheme="dark")  # The blueprint, where the system is dark.
    page.wait_for_timeout(1500)
    _take(page, "conflict")
    page.emulate_media(color_scheme="light")
    page.get_by_test_id("conflict").locator("div", has_text="bolt pitch").get_by_role("button").click()
    page.get_by_role("button", name="Allowance").click()
    _typed(page, "Shrinkage along X", "0.4")
    _typed(page, "Shrinkage along Y", "0.4")
    page.get_by_role("button", name="Before and after").click()
    page.get_by_test_id("compare").wait_for()
    page.get_by_role("main", name="Truing").evaluate("sheet => sheet.scrollTo(0, 9999)")
    _take(page, "before-after")


def _chosen(page: Page, label: str, option: str) -> None:
    page.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option, exact=True).click()


def _gauge(page: Page, what: str, *features: str, typed: str) -> None:
    _chosen(page, "What to measure", what)
    page.get_by_role("button", name="From list").click()
    for name in features:
        page.get_by_role("group", name="Features").get_by_role("button", name=name).first.click()
    page.get_by_role("group", name="Features").wait_for(state="detached")
    page.wait_for_timeout(300)
    page.keyboard.type(typed)
    page.keyboard.press("Enter")
    page.wait_for_timeout(400)


def _typed(page: Page, label: str, text: str) -> None:
    field = page.get_by_label(label, exact=True)
    field.fill(text)
    field.press("Enter")
    page.wait_for_timeout(300)


def _intake(page: Page, address: str) -> None:
    """A unit that cannot be told, bodies, remedies, fineness, and several files."""
    _open(page, address, "Shim plate")
    _take(page, "intake")
    _open(page, address, "Eyepiece rack")
    page.get_by_role("button", name="eyepiece rack 2 and 3 alike").click()
    page.get_by_label("Select eyepiece rack 2", exact=True).check()
    _take(page, "bodies")
    _open(page, address, "Finder shoe, from a site")
    page.get_by_test_id("finding-open-edges").get_by_role("button", name="open edges").click()
    page.get_by_role("main", name="Intake").evaluate("sheet => sheet.scrollTo(0, 9999)")
    _take(page, "dirt")
    _open(page, address, "Hand grip, scanned")
    page.get_by_role("button", name="Close holes").click()
    page.get_by_test_id("mended").wait_for(timeout=60_000)
    page.get_by_role("main", name="Intake").evaluate("sheet => sheet.scrollTo(0, 9999)")
    _take(page, "mending")


def _release(page: Page, address: str) -> None:
    _open(page, address, "Setting dial")
    _go(page, "Release")
    page.get_by_text("each its own file", exact=True).click()
    page.get_by_role("button", name="Names").click()
    page.get_by_role("button", name="Write, read back, compare").click()
    page.get_by_test_id("release-1").wait_for(timeout=60_000)
    _take(page, "release")
    page.get_by_role("button", name="As it arrives").click()
    _chosen(page, "Takes bare numbers for", "inches")
    page.get_by_label("heeds a unit that the file says").uncheck()
    page.get_by_text("25.4 times too large").first.wait_for(timeout=60_000)
    page.get_by_test_id("release-1").scroll_into_view_if_needed()
    page.get_by_role("main", name="Release").evaluate("sheet => sheet.scrollTo(0, 690)")
    _take(page, "handover")
    page.get_by_role("button", name="Proof sheet").click()
    page.get_by_role("dialog").locator("img").first.wait_for()
    _take(page, "proof-sheet")
    page.keyboard.press("Escape")


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
