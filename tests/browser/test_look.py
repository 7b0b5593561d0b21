"""What holds for every screen: contrast, names, sizes, the keys of the bench, and nothing from outside."""

from __future__ import annotations

import re
import shutil
from itertools import product
from pathlib import Path
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import expect

from aimtrue.settings import OWN_HEADER, ROOT
from tests.browser.conftest import Desk
from tests.browser.controls import chosen

SHEETS = ("Intake", "Truing", "Fit", "Division", "Seating", "Release")
COLOURS = dict(
    re.findall(r"--([a-z-]+): (#[0-9a-f]{6});", (ROOT / "web/src/theme/paper.css").read_text().lower())
)


def luminance(colour: str) -> float:
    """Relative luminance as WCAG 2.2 defines it."""
    channels = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    red, green, blue = (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


@pytest.mark.parametrize(
    ("text", "ground"),
    list(
        product(
            ["ink", "ink-soft", "settled", "look", "stop"], ["paper", "paper-raised", "paper-sunk", "white"]
        )
    ),
)
def test_text_can_be_read(text: str, ground: str) -> None:
    light, dark = luminance({**COLOURS, "white": "#ffffff"}[ground]), luminance(COLOURS[text])
    assert (light + 0.05) / (dark + 0.05) >= 4.5


def test_everything_that_can_be_used_has_a_name_and_a_size(desk: Desk, demo: Path) -> None:
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    for sheet in SHEETS:
        desk.sheet(sheet)
        found = desk.page.evaluate(
            """() => [...document.querySelectorAll(
                "button, input:not([hidden]):not([type=hidden]), a[href]"
            )].map((one) => {
                const frame = one.getBoundingClientRect();
                return {
                    name: one.getAttribute("aria-label") || one.textContent || one.title
                        || one.labels?.[0]?.textContent || "",
                    inline: one.matches(".link, [data-term]"),
                    size: Math.min(frame.width, frame.height),
                    html: one.outerHTML.slice(0, 120),
                };
            })"""
        )
        assert len(found) > 10
        for one in found:
            assert one["name"].strip(), one
            # WCAG 2.2 asks for 24 px, except for links within text.
            assert one["inline"] or one["size"] >= 24 or one["html"].startswith("<input"), one


def test_the_keys_turn_the_bench_but_not_while_typing(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    dimension = {axis: page.locator(f"[data-dimension={axis}]") for axis in "xyz"}
    for key, hidden in (("t", "z"), ("f", "y"), ("r", "x")):
        page.keyboard.press(key)
        expect(dimension[hidden]).to_have_count(0)
        for axis in set("xyz") - {hidden}:
            expect(dimension[axis]).to_have_count(1)
    page.keyboard.press("o")
    for axis in "xyz":
        expect(dimension[axis]).to_have_count(1)
    field = page.get_by_label("Size along X", exact=True)
    field.focus()
    page.keyboard.type("2 ft")
    expect(field).to_have_value("2 ft")
    expect(dimension["z"]).to_have_count(1)
    page.keyboard.press("Escape")


def test_the_sheets_that_have_nothing_to_do_say_so_and_let_one_pass(desk: Desk, demo: Path) -> None:
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Fit")
    expect(desk.page.get_by_text("No pair is kept yet.")).to_be_visible()
    # What fits need not be divided: the sheet is passed by, and says so where one looks at it.
    desk.page.get_by_role("link", name="Go on to Seating").click()
    expect(desk.page.get_by_text("Everything stands on its plate, inside the machine.")).to_be_visible()
    desk.sheet("Division")
    expect(desk.page.get_by_text("A body that fits need not be divided.")).to_be_visible()


def test_nothing_is_asked_of_any_other_server(desk: Desk, demo: Path) -> None:
    asked: list[str] = []
    desk.page.on("request", lambda request: asked.append(request.url))
    desk.opened(demo / "setting-dial.3mf")
    for sheet in SHEETS:
        desk.sheet(sheet)
    hosts = {urlsplit(url).netloc for url in asked if not url.startswith(("data:", "blob:"))}
    assert hosts == {urlsplit(desk.address).netloc}
    fonts = desk.page.evaluate(
        "() => [...document.fonts].filter((f) => f.status === 'loaded').map((f) => f.family)"
    )
    assert {"Barlow", "Barlow Condensed", "IBM Plex Mono"} <= {font.strip('"') for font in fonts}


def test_a_hidden_page_catches_up_when_it_is_shown(desk: Desk, demo: Path) -> None:
    """The page stops listening while hidden, and looks at the job again once shown."""
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    hide = """(hidden) => {
        Object.defineProperty(document, "hidden", { configurable: true, get: () => hidden });
        document.dispatchEvent(new Event("visibilitychange"));
    }"""
    page.evaluate(hide, True)
    key = page.url.split("/jobs/")[1].split("/")[0]
    seen = page.request.get(f"{desk.address}/api/jobs/{key}").json()["job"]
    body = seen["job"]["bodies"][0]["id"]
    action = {"do": "size-axis", "body": body, "axis": "x", "typed": "100"}
    answer = page.request.post(
        f"{desk.address}/api/jobs/{key}/actions",
        data={"on": seen["number"], "action": action},
        headers={OWN_HEADER: "1"},
    )
    assert answer.ok
    page.wait_for_timeout(800)
    desk.overall("212.00 × 158.81 × 44.00")
    page.evaluate(hide, False)
    desk.overall("100.00 × 74.91 × 20.75")
    expect(page.get_by_text("Changed elsewhere")).to_be_visible()


def test_jobs_are_found_renamed_copied_and_go_into_the_bin_and_back(
    desk: Desk, demo: Path, tmp_path: Path
) -> None:
    page = desk.page
    desk.opened(shutil.copy(demo / "shim-plate.stl", tmp_path / "spare-shim.stl"))  # type: ignore[arg-type]
    expect(page).to_have_title("spare-shim, Intake: Aim True")
    key = page.url.split("/jobs/")[1].split("/")[0]
    page.goto(desk.address)
    expect(page).to_have_title("Jobs: Aim True")
    expect(page.get_by_role("link", name="spare-shim", exact=True)).to_be_visible()
    page.keyboard.press("/")
    expect(page.get_by_role("searchbox", name="Search jobs")).to_be_focused()
    page.keyboard.type("SPARE shim.stl")
    row = page.get_by_role("link", name="spare-shim", exact=True)
    expect(page.get_by_role("row")).to_have_count(2)
    page.get_by_label("more to do with spare-shim").click()
    page.get_by_role("menuitem", name="Rename").click()
    desk.typed("Name of spare-shim", "odd shim")
    renamed = page.get_by_role("link", name="odd shim", exact=True)
    expect(renamed).to_be_visible()
    page.get_by_label("more to do with odd shim").press("Enter")
    page.get_by_role("menuitem", name="Copy").click()
    expect(page.get_by_role("link", name="odd shim copy")).to_be_visible()
    page.get_by_role("link", name="odd shim copy").focus()
    page.keyboard.press("ArrowDown")
    expect(renamed).to_be_focused()
    page.keyboard.press("Delete")
    expect(renamed).to_have_count(0)
    expect(row).to_have_count(0)

    # In the bin it can be opened, put back, or removed for good when that is meant.
    page.get_by_role("button", name="bin").click()
    page.get_by_label("more to do with odd shim", exact=True).click()
    page.get_by_role("menuitem", name="Put back").click()
    expect(renamed).to_have_count(0)
    page.get_by_role("button", name="all").click()
    expect(renamed).to_be_visible()
    page.get_by_label("more to do with odd shim", exact=True).click()
    page.get_by_role("menuitem", name="Into the bin").click()
    page.get_by_role("button", name="bin").click()
    page.get_by_label("more to do with odd shim", exact=True).click()
    page.get_by_role("menuitem", name="Remove for good").click()
    page.get_by_role("button", name="Keep").click()
    expect(renamed).to_have_count(1)
    page.get_by_label("more to do with odd shim", exact=True).click()
    page.get_by_role("menuitem", name="Remove for good").click()
    expect(page.get_by_role("dialog")).to_contain_text("its file and all that was decided")
    page.get_by_role("button", name="Remove", exact=True).click()
    expect(renamed).to_have_count(0)
    page.goto(f"{desk.address}/jobs/{key}/intake")
    expect(page.get_by_text("There is no such job here")).to_be_visible()


def test_the_kit_that_sheets_are_built_from(desk: Desk) -> None:
    """One of each control, worked by keyboard; a fold remembers how it was left."""
    page = desk.page
    page.goto(f"{desk.address}/examples")
    chosen(page, "Taken with", "tape")
    expect(page.get_by_role("combobox", name="Taken with")).to_have_value("tape")
    page.get_by_role("radiogroup", name="Written as").get_by_role("radio", name="3MF").press("ArrowRight")
    expect(page.get_by_role("radio", name="STL")).to_be_checked()
    fine = page.get_by_role("radio", name="fine")
    fine.press("ArrowDown")
    expect(fine).to_be_checked()  # arrows only go there, where choosing does something
    expect(page.get_by_role("radio", name="coarse")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("radio", name="coarse")).to_be_checked()
    page.get_by_role("checkbox", name="keep as drawn").press("Space")
    expect(page.get_by_role("checkbox", name="keep as drawn")).not_to_be_checked()
    page.get_by_role("button", name="why").focus()
    expect(page.get_by_role("tooltip")).to_be_visible()
    page.get_by_role("button", name="A section that folds").click()
    page.reload()
    expect(page.get_by_text("It remembers how it was left")).to_be_visible()


def test_a_fault_of_the_page_keeps_the_job_and_offers_to_reload(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    body = "a survey that no page could show"
    page.route("**/api/jobs/*", lambda route: route.fulfill(json={"name": body, "since": "", "job": {}}))
    page.reload()
    expect(page.get_by_role("alert")).to_contain_text("Your job is kept")
    page.unroute("**/api/jobs/*")
    page.get_by_role("button", name="Reload the page").click()
    desk.overall("212.00 × 158.81 × 44.00")
    desk.slips.clear()  # that one was meant
