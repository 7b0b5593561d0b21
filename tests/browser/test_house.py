"""What is on every page: finding, settings, help, themes; and that everybody can use all of it."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from aimtrue.settings import ROOT
from tests.browser.conftest import Desk
from tests.browser.controls import measured

AXE = ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
SHEETS = ("intake", "truing", "fit", "division", "seating", "release")


def faults_of(page: Page) -> list[str]:
    """What axe finds on a page: the rule, the element, and what is wrong with it."""
    page.evaluate(AXE.read_text())
    answer: dict[str, Any] = page.evaluate(f"axe.run(document, {{runOnly: {json.dumps(RULES)}}})")
    return [
        f"{rule['id']}: {node['html'][:160]} {node['failureSummary']}"
        for rule in answer["violations"]
        for node in rule["nodes"]
    ]


def settled(page: Page, **settings: str) -> None:
    page.evaluate("kept => localStorage.setItem('aimtrue-settings', kept)", json.dumps(settings))
    page.reload()


@pytest.mark.parametrize("theme", ["paper", "blueprint"])
def test_every_sheet_and_dialog_can_be_used_by_everybody(desk: Desk, demo: Path, theme: str) -> None:
    page = desk.page
    desk.opened(demo / "focus-drive.3mf", "millimetre")
    job = page.url.rsplit("/", 1)[0]
    settled(page, theme=theme)
    for width in (1280, 390):
        page.set_viewport_size({"width": width, "height": 800})
        page.goto(desk.address)
        expect(page.get_by_role("link", name="focus-drive").first).to_be_visible()
        assert faults_of(page) == [], "jobs"
        for dialog in ("Find", "Settings", "Help"):
            opener = page.get_by_role("button", name=dialog, exact=True)
            opener.click()
            expect(page.get_by_role("dialog")).to_be_visible()
            assert faults_of(page) == [], dialog
            page.keyboard.press("Escape")
            expect(opener).to_be_focused()
        for sheet in SHEETS:
            page.goto(f"{job}/{sheet}")
            page.locator("[data-testid=bench][data-drawn]").wait_for(state="attached")
            folds = page.locator("main section > [aria-expanded=false]")
            while folds.count():
                folds.first.click()
            # What lies under the foot of the sheet at this moment is scrolled from under it.
            page.add_style_tag(content="main > footer { position: static !important }")
            assert faults_of(page) == [], (sheet, width)
            assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), (sheet, width)


def test_anything_is_found_by_words_and_settings_are_kept(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")

    def find(words: str) -> None:
        page.keyboard.press("Control+k")
        page.get_by_role("combobox", name="What to find").fill(words)

    # A sheet by what is done there, a body, a control of the sheet, a job, one that is not to be had now.
    find("shrinkage")
    page.keyboard.press("Enter")
    expect(page.get_by_role("main", name="Truing")).to_be_visible()
    find("longest side")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Longest side", exact=True)).to_be_focused()
    find("redo")
    expect(page.get_by_role("option", name="Nothing to redo")).to_contain_text("not now")
    page.keyboard.press("Escape")
    find("body clamp shells 2")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_have_count(0)
    find("no such word anywhere")
    expect(page.get_by_text("Nothing is called so")).to_be_visible()
    page.keyboard.press("Escape")

    # Settings take hold at once, and are there after the page was loaded anew.
    desk.overall("212.00 × 78.81 × 44.00")
    page.get_by_role("button", name="Settings", exact=True).click()
    page.get_by_role("radio", name="blueprint, for the night").check()
    expect(page.locator("html")).to_have_attribute("data-mantine-color-scheme", "dark")
    page.get_by_role("radio", name="12.700").check()
    page.get_by_role("radio", name="inches").check()
    page.get_by_role("switch", name="Single letters are keys").uncheck()
    page.get_by_role("radio", name="widest").check()
    page.keyboard.press("Escape")
    page.reload()
    desk.drawn()
    desk.overall("212.000 × 78.805 × 44.000 mm")
    expect(page.get_by_role("region", name="Title block")).to_contain_text("8.346 × 3.103 × 1.732")
    assert page.get_by_role("main", name="Truing").bounding_box()["width"] == 660  # type: ignore[index]
    page.keyboard.press("t")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.locator("[data-dimension=z]")).to_have_count(1)
    # The bench by keyboard: turned up until it is seen from the top, where its height cannot be told.
    page.get_by_role("application").focus()
    for _ in range(9):
        page.keyboard.press("ArrowUp")
    expect(page.locator("[data-dimension=z]")).to_have_count(0)
    page.keyboard.press("n")
    expect(page.get_by_role("region", name="Title block")).to_contain_text("clamp shells 1")
    # The list leads back to where one was.
    page.get_by_role("link", name="Aim True, all jobs").click()
    page.get_by_role("link", name="clamp-shells").first.click()
    expect(page.get_by_role("main", name="Truing")).to_be_visible()
    expect(page.get_by_role("region", name="Title block")).to_contain_text("clamp shells 1")


COUNTED = """
async (wanted) => {
  const list = await (await fetch("/api/job-list")).json();
  return list.count === wanted && list.rows.every((row) => row.bodies > 0 || row.failed);
}
"""
"""Whether there are so many jobs, and all of them are read, so that their order stays."""


def test_several_files_are_one_job_or_one_each_as_it_is_settled(desk: Desk, demo: Path) -> None:
    page = desk.page
    page.goto(desk.address)
    files = [demo / "shim-plate.stl", demo / "clamp-shells.stl"]
    chosen = page.get_by_label("Pick files", exact=True)
    chosen.set_input_files(files)
    dialog = page.get_by_role("dialog", name="2 files: one job, or one each?")
    dialog.get_by_label("Always do so").check()
    dialog.get_by_role("button", name="A job for each").click()
    expect(page.get_by_role("link", name="shim-plate", exact=True).first).to_be_visible()
    expect(page.get_by_role("link", name="clamp-shells", exact=True).first).to_be_visible()
    expect(page.get_by_role("heading", name="Drop files here")).to_be_visible()
    # The page of the list may be full, so that the count of all is asked for.
    before = page.request.get(f"{desk.address}/api/job-list").json()["count"]
    chosen.set_input_files(files)
    page.wait_for_function(COUNTED, arg=before + 2)
    page.reload()

    # Several are chosen, labelled, put away together, and had back by the press that says so.
    for name in ("shim-plate", "clamp-shells"):
        page.get_by_label(f"Choose {name}", exact=True).first.check()
    desk.typed("Label for the chosen jobs", "two of an evening")
    page.get_by_role("combobox", name="Label", exact=True).select_option("two of an evening (2)")
    expect(page.get_by_role("row")).to_have_count(3)
    page.get_by_role("region", name="Chosen jobs").get_by_role("button", name="Into the bin").click()
    expect(page.get_by_text("2 jobs are in the bin")).to_be_visible()
    expect(page.get_by_text("No job is like that.")).to_be_visible()
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(page.get_by_role("row")).to_have_count(3)


NO_WEBGL = """
const own = HTMLCanvasElement.prototype.getContext;
HTMLCanvasElement.prototype.getContext = function (kind, ...more) {
  return kind.startsWith("webgl") ? null : own.call(this, kind, ...more);
};
"""
LOSE = """
document.querySelector("[data-testid=bench] canvas").getContext("webgl2")
  .getExtension("WEBGL_lose_context").loseContext()
"""


def test_the_sheets_go_on_without_a_drawing_and_without_a_server_for_a_while(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    page.evaluate(LOSE)
    expect(page.get_by_text("The browser took back what it draws with")).to_be_visible()
    desk.typed("Size along X", "171.5")
    desk.overall("171.50 × 128.47 × 35.59")
    page.get_by_role("button", name="Draw again").click()
    expect(page.locator("[data-testid=bench] canvas")).to_be_visible()
    expect(page.locator("[data-dimension=x]")).to_have_count(1)

    # No answer for a while: what was typed stays, and is taken when there is one again.
    page.route("**/api/**", lambda route: route.abort())
    desk.typed("Size along X", "180")
    bar = page.get_by_text("The server does not answer. It is asked again")
    expect(bar).to_be_visible()
    expect(page.get_by_label("Size along X", exact=True)).to_have_value("180")
    page.unroute("**/api/**")
    expect(bar).to_have_count(0)
    page.get_by_label("Size along X", exact=True).press("Enter")
    desk.overall("180.00 × 134.84 × 37.36")

    # A part of the page that cannot be had is told, and can be asked for again.
    page.route("**/fit/offers", lambda route: route.fulfill(status=500, body="{}"))
    desk.sheet("Fit")
    missing = page.get_by_text("Something on this page is missing")
    expect(missing).to_be_visible(timeout=30_000)
    page.unroute("**/fit/offers")
    page.get_by_role("button", name="Try again").first.click()
    expect(missing).to_have_count(0)

    # A browser that cannot draw at all trues a size and releases as any other.
    page.add_init_script(NO_WEBGL)
    page.reload()
    expect(page.get_by_text("This browser has no WebGL 2")).to_be_visible()
    desk.sheet("Truing")
    desk.typed("Size along X", "171.5")
    desk.overall("171.50 × 128.47 × 35.59")
    desk.sheet("Release")
    page.get_by_role("button", name="Write, read back, compare").click()
    expect(page.get_by_text("read back").first).to_be_visible(timeout=30_000)


def test_the_list_is_there_with_little_script(desk: Desk) -> None:
    page = desk.page
    page.goto(desk.address)
    page.get_by_role("heading", name="Drop files here").wait_for()
    page.wait_for_load_state("networkidle")
    script = page.evaluate(
        """performance.getEntriesByType("resource").filter((entry) => entry.name.endsWith(".js"))
            .reduce((sum, entry) => sum + entry.encodedBodySize, 0)"""
    )
    assert 50_000 < script < 150_000


ANNOUNCED = "What has just happened"


def test_the_focus_stays_on_the_sheet_and_what_happens_is_announced(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    announced = page.get_by_role("status", name=ANNOUNCED)

    def held() -> str:
        """The name of what has the focus, once it has settled; the page itself never does."""
        page.wait_for_timeout(250)
        return str(
            page.evaluate(
                "(document.activeElement === document.body) ? 'PAGE' :"
                " document.activeElement.getAttribute('aria-label') ?? document.activeElement.textContent"
            )
        )

    # What a press takes away leaves the focus beside it; two that exclude each other stop, which is said.
    for number, (axis, real) in enumerate((("X", "208.5"), ("Y", "170")), 1):
        measured(page, "extent", axis)
        page.get_by_role("button", name="Add", exact=True).press("Enter")
        desk.typed(f"Real length of reading {number}", real)
    expect(announced).to_contain_text("Done: reading 170")
    expect(announced).to_contain_text("findings stop a release")
    page.get_by_role("button", name="Remove reading 2").press("Enter")
    expect(page.get_by_role("button", name="Remove reading 2")).to_have_count(0)
    assert held() not in ("PAGE", "")
    expect(announced).to_contain_text("1 finding stops a release")

    # A step taken back on another sheet says so, and leads there; after the last the focus is beside it.
    page.get_by_role("link", name="Release", exact=False).press("Enter")
    undo = page.get_by_role("button", name="Undo: ", exact=False)
    undo.press("Enter")
    expect(announced).to_contain_text("Undone: ")
    taken = page.get_by_test_id("taken")
    expect(taken).to_contain_text(", on Truing.")
    taken.get_by_role("link", name="Go there").press("Enter")
    expect(page.get_by_role("main", name="Truing")).to_be_visible()
    assert held() != "PAGE"
    while undo.count():
        said = undo.get_attribute("aria-label")
        undo.press("Enter")
        expect(page.get_by_role("button", name=said or "", exact=True)).to_have_count(0)
    assert held().startswith("Redo: ")

    # Ways to stand are looked through by arrows, and taken by Space alone.
    for _ in range(2):
        page.get_by_role("button", name="Redo: ", exact=False).press("Enter")
        page.wait_for_timeout(500)
    desk.sheet("Seating")
    ways = page.get_by_role("radiogroup", name="Ways to stand").get_by_role("radio")
    expect(ways.nth(1)).to_be_visible()
    chosen = next(i for i in range(ways.count()) if ways.nth(i).is_checked())
    ways.nth(chosen).focus()
    page.keyboard.press("ArrowRight")
    page.wait_for_timeout(300)
    expect(ways.nth(chosen)).to_be_checked()
    page.keyboard.press("Space")
    expect(announced).to_contain_text("Done: ")
    expect(ways.nth(chosen)).not_to_be_checked()
    assert held() != "PAGE"


def test_what_is_pointed_at_is_lit_on_the_sheet_and_in_the_bench(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.drawn()
    rows = page.get_by_role("main").locator("[data-body]")
    frames = page.get_by_test_id("lit").locator("path")
    page.get_by_test_id("body-clamp shells 1").hover()
    expect(frames).to_have_count(1)
    expect(rows.first).to_have_attribute("data-lit", "")
    page.get_by_role("link", name="Aim True, all jobs").hover()
    expect(frames).to_have_count(0)
    # By keyboard, too.
    page.get_by_label("Select clamp shells 2").focus()
    expect(frames).to_have_count(1)
    # From the bench to the sheet: a place at the front of the drawing that is on a body.
    box = page.get_by_role("application").bounding_box()
    assert box
    for share in range(3, 20):
        page.mouse.move(box["x"] + box["width"] * share / 22, box["y"] + box["height"] * 0.5)
        page.wait_for_timeout(60)
        if page.get_by_test_id("under").count():
            break
    name = page.get_by_test_id("under").inner_text()
    expect(page.get_by_test_id(f"body-{name}")).to_have_attribute("data-lit", "")
    expect(page.locator("main [data-lit]")).to_have_count(1)
