"""The way through, in a real browser, from a dropped file to a released one."""

from __future__ import annotations

import zipfile
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Browser, Route, expect

from aimtrue.core.formats import read_model, stl
from aimtrue.core.model.lengths import Unit
from aimtrue.core.proof.released import read_back
from tests.browser.conftest import Desk
from tests.browser.controls import chosen
from tests.house import House


def test_a_dropped_inch_file_becomes_a_proven_release(desk: Desk, demo: Path, tmp_path: Path) -> None:
    page = desk.page
    desk.drop(demo / "shim-plate.stl")
    desk.drawn()
    expect(page.get_by_label("Title block")).to_contain_text("not settled")
    expect(page.get_by_text("50.80 × 25.40 × 12.70 mm")).to_be_visible()
    page.get_by_role("radio", name="inch").click()
    desk.overall("50.80 × 25.40 × 12.70")
    page.get_by_role("link", name="Go on to Truing").click()

    # Type a size at its numeral in the bench.
    page.get_by_role("button", name="Size along X, in the bench").click()
    page.keyboard.type("6 3/4 in")
    page.keyboard.press("Enter")
    desk.overall("171.45 × 85.73 × 42.86")

    # Pick the two ends of the front lower edge: their caliper reading is 6.1 in.
    page.get_by_role("button", name="Pick", exact=True).click()
    for x, y in desk.ends_of("x"):
        page.mouse.move(x, y - 6)
        expect(page.get_by_test_id("snap")).to_have_text("vertex")
        page.mouse.click(x, y - 6)
    real = page.get_by_label("Real length of reading 1")
    expect(real).to_be_focused()
    page.keyboard.type("6.1 in")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("reading-1")).to_contain_text("154.94")
    desk.overall("154.94 × 77.47 × 38.74")
    expect(page.get_by_test_id("chain-x")).to_contain_text("3.05")

    desk.sheet("Release")
    page.get_by_role("button", name="Write, read back, compare").click()
    card = page.get_by_test_id("release-1")
    expect(card).to_contain_text("PROVEN", timeout=30_000)
    expect(card).to_contain_text("reading span 1")
    with page.expect_download() as coming:
        card.get_by_role("link", name="Download the file").click()
    path = tmp_path / coming.value.suggested_filename
    coming.value.save_as(path)
    assert path.name == "shim-plate_r1.3mf"

    size = read_model(path.name, path.read_bytes()).whole().extents()
    assert size == pytest.approx([154.94, 154.94 / 2, 154.94 / 4], abs=1e-3)
    back = read_back("3mf", path.read_bytes())
    unit, (again,) = back.unit, back.objects
    assert unit is Unit.MM
    assert np.ptp(again.corners.reshape(-1, 3), axis=0) == pytest.approx(size, abs=1e-4)


def test_nothing_downstream_runs_on_an_open_unit(desk: Desk, demo: Path) -> None:
    desk.opened(demo / "shim-plate.stl")
    for sheet in ("Truing", "Seating", "Release"):
        desk.sheet(sheet)
        expect(desk.page.get_by_text("The unit is not settled")).to_be_visible()
    expect(desk.page.get_by_role("button", name="Write, read back, compare")).to_have_count(0)
    desk.page.get_by_role("link", name="Settle the unit").click()
    expect(desk.page.get_by_text("The evidence points to")).to_contain_text("inch")
    expect(desk.page.get_by_label("The candidates to scale, seen from the front")).to_be_visible()


def test_clear_evidence_settles_a_unit_and_says_why(desk: Desk, demo: Path) -> None:
    desk.opened(demo / "focus-knob.stl")
    expect(desk.page.get_by_text("Settled by itself, since no other unit is within reach")).to_be_visible()
    desk.overall("38.00 × 38.00 × 22.00")
    desk.page.get_by_role("button", name="Other units").click()
    desk.page.get_by_role("radio", name="centimetre").click()
    expect(desk.page.get_by_test_id("finding-size-unlikely")).to_be_visible()


def test_files_dropped_on_a_job_join_it(desk: Desk, demo: Path, tmp_path: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl")
    before = page.url
    desk.drop_here(demo / "focus-knob.stl", "[data-testid=bench]")
    expect(page.get_by_role("heading", name="Files (2)")).to_be_visible(timeout=20_000)
    assert page.url == before
    expect(page.get_by_label("Title block")).to_contain_text("3 bodies of 2 files")
    notes = tmp_path / "notes.txt"
    notes.write_text("hello")
    desk.drop_here(notes, "[data-testid=bench]")
    note = page.get_by_text("notes.txt was not taken")
    expect(note).to_be_visible()
    note.hover()  # once it stands still
    over, head = note.bounding_box(), page.get_by_role("navigation", name="Sheets").bounding_box()
    assert over
    assert head
    assert over["y"] > head["y"] + head["height"], "sheets can be clicked while a note stands"
    desk.sheet("Truing")
    page.get_by_role("button", name="focus knob").click()
    desk.overall("38.00 × 38.00 × 22.00")
    page.keyboard.press("Control+z")  # nothing was decided yet: files that came are not the user's to undo
    desk.overall("38.00 × 38.00 × 22.00")


def test_bodies_are_selected_named_hidden_and_dropped(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "eyepiece-rack.stl")
    expect(page.get_by_role("heading", name="Bodies (6)")).to_be_visible()
    alike = page.get_by_test_id("like-eyepiece rack 2")
    expect(alike).to_contain_text("×4")
    expect(page.locator("[data-testid^=body-]")).to_have_count(2)  # the plate and the speck
    page.get_by_label("Select all 4 like eyepiece rack 2").check()
    expect(page.locator("[data-testid^=body-]")).to_have_count(2)
    page.get_by_label("Select all 4 like eyepiece rack 2").uncheck()
    alike.get_by_role("button", name="eyepiece rack 2 and 3 alike").click()
    page.get_by_label("Select eyepiece rack 2", exact=True).check()
    desk.overall("28.58 × 28.57 × 12.70")
    desk.typed("Name of eyepiece rack 2", "collar, left")
    expect(page.get_by_label("Title block")).to_contain_text("collar, left")
    page.get_by_role("button", name="Show alone").click()
    expect(page.get_by_role("application", name="drawn: collar, left", exact=True)).to_be_visible()
    page.get_by_role("button", name="Show all").click()
    page.get_by_test_id("finding-stray").get_by_role("button", name="Remove", exact=True).click()
    expect(page.get_by_role("heading", name="Bodies (5)")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("heading", name="Bodies (6)")).to_be_visible()
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_test_id("finding-stray")).to_contain_text("accepted on purpose")


def test_a_click_in_the_bench_selects_and_hovering_names(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.step")
    frame = page.get_by_test_id("bench").bounding_box()
    assert frame
    x, y = frame["x"] + frame["width"] * 0.47, frame["y"] + 395
    page.mouse.move(x, y)
    expect(page.get_by_test_id("under")).to_have_text("shell, front")
    page.mouse.click(x, y)
    expect(page.get_by_label("Select shell, front", exact=True)).to_be_checked()
    expect(page.get_by_label("Title block")).to_contain_text("shell, front")
    page.mouse.click(frame["x"] + 30, frame["y"] + 300)
    expect(page.get_by_label("Title block")).to_contain_text("kit of 2 bodies")


def test_each_body_its_own_file_in_a_zip(desk: Desk, demo: Path, tmp_path: Path) -> None:
    page = desk.page
    desk.opened(demo / "setting-dial.3mf")
    desk.sheet("Release")
    page.get_by_text("each its own file", exact=True).click()
    page.get_by_role("button", name="Write, read back, compare").click()
    card = page.get_by_test_id("release-1")
    expect(card).to_contain_text("2 files", timeout=30_000)
    with page.expect_download() as coming:
        card.get_by_role("link", name="Download all, as ZIP").click()
    path = tmp_path / coming.value.suggested_filename
    coming.value.save_as(path)
    with zipfile.ZipFile(path) as package:
        assert package.namelist()[:2] == ["ring_r1.3mf", "marks_r1.3mf"]
        marks = read_model("marks.3mf", package.read("marks_r1.3mf"))
    # Registered: the marks lie on the ring, whose upper face is 4 mm over the plate.
    assert marks.whole().bounds()[0][2] == pytest.approx(4, abs=1e-4)
    assert marks.parts[0].colour == "#e9e2cf"


def test_holes_are_shown_closed_and_put_back(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "hand-grip-scan.stl")
    page.get_by_role("button", name="88 open edges around 2 holes").click()
    expect(page.get_by_test_id("marks").locator("circle")).to_have_count(2)
    page.get_by_role("button", name="Close holes").click()
    expect(page.get_by_test_id("mended")).to_contain_text("holes closed", timeout=30_000)
    expect(page.get_by_test_id("mended")).to_contain_text("88 → 0")
    expect(page.get_by_test_id("finding-open-edges")).to_have_count(0)
    expect(page.get_by_text("Changed elsewhere")).to_have_count(0)
    # Before and after are drawn in the bench, and go with what they are about.
    page.get_by_role("button", name="Draw what moved on hand grip scan").click()
    legend = page.get_by_role("region", name="Legend")
    expect(legend).to_contain_text("held against itself before it was mended")
    expect(legend).to_contain_text("material added")
    legend.get_by_role("button", name="Show it as it was").click()
    legend.get_by_role("button", name="Show it as it is now").click()
    page.get_by_role("button", name="Put the last one back").click()
    expect(page.get_by_test_id("finding-open-edges")).to_be_visible()
    expect(legend).to_have_count(0)


def test_any_remedy_by_hand_with_a_distance(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "hand-grip-scan.stl")
    chosen(page, "Remedy", "rebuild as a solid")
    desk.typed("Distance, grid, mm", "0")
    expect(page.get_by_role("alert")).to_contain_text("cannot be zero")
    desk.typed("Distance, grid, mm", "2 m")
    expect(page.get_by_role("alert")).to_contain_text("over 100 mm")
    page.keyboard.press("Escape")
    desk.typed("Distance, grid, mm", "2")
    page.get_by_role("button", name="Mend", exact=True).click()
    report = page.get_by_test_id("mended")
    expect(report).to_contain_text("rebuilt as a solid", timeout=60_000)
    expect(report).to_contain_text("surface moved by up to")
    expect(page.get_by_test_id("body-hand grip scan")).to_contain_text("closed")


def test_the_fineness_of_cad_is_chosen_knowingly(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.step")
    desk.sheet("Truing")
    desk.typed("Size along X", "210")
    desk.sheet("Intake")
    rows = page.get_by_role("radiogroup", name="Fineness").get_by_role("radio")
    expect(rows).to_have_count(3)
    expect(rows.nth(2)).to_be_checked()
    expect(
        page.get_by_role("group", name="Facets along the widest bore").get_by_role("figure")
    ).to_have_count(3)
    rows.nth(0).click()
    expect(rows.nth(0)).to_be_checked(timeout=30_000)
    expect(page.get_by_test_id("overall")).to_contain_text("210.00 × 157.3")
    desk.typed("Chord deviation, mm", "many")
    expect(page.get_by_role("alert")).to_contain_text("not a length")
    desk.typed("Chord deviation, mm", "3 cm")
    expect(page.get_by_role("alert")).to_contain_text("not between 0.0005 and 10 mm")


def test_a_new_revision_is_swapped_in(desk: Desk, demo: Path, tmp_path: Path) -> None:
    page = desk.page
    newer = tmp_path / "eyepiece-rack-b.stl"
    rack = stl.read((demo / "eyepiece-rack.stl").read_bytes()).parts[0].mesh
    stretched = rack.mapped(lambda v: v * [1, 1, 1.25])
    newer.write_bytes(stl.write_binary(stretched, "later"))
    desk.opened(demo / "eyepiece-rack.stl")
    held: list[Route] = []
    page.route("**/actions", lambda route: held.append(route))
    desk.typed("Name of eyepiece rack 1", "base")
    with page.expect_file_chooser() as choosing:
        page.get_by_role("button", name="New revision").click()
    choosing.value.set_files(newer)
    held[0].continue_()  # the file waits for the change that was made before
    page.unroute("**/actions")
    expect(page.get_by_text(", revision 2")).to_be_visible(timeout=30_000)
    expect(page.get_by_test_id("body-base")).to_be_visible()
    desk.overall("139.70 × 44.45 × 23.81")
    # What it changed is told before and after, and framed in the bench.
    changed = page.get_by_role("region", name="What revision 2 changed").get_by_role("row")
    row = changed.filter(has_text="base, Z")
    expect(row).to_contain_text("+")
    low, high = (float(cell) for cell in row.get_by_role("cell").all_inner_texts()[1:3])
    assert high / low == pytest.approx(1.25, abs=2e-3)
    expect(changed.filter(has_text="base, X")).to_have_count(0)
    row.hover()
    expect(page.get_by_test_id("lit").locator("path")).to_have_count(1)
    page.get_by_role("button", name="Draw where base moved").click()
    legend = page.get_by_role("region", name="Legend")
    expect(legend).to_contain_text("held against itself in revision 1")
    expect(legend).to_contain_text("material added, up to")
    # Its lengths are of the unit that it was drawn in, and go with it.
    page.get_by_role("button", name="Other units").click()
    page.get_by_role("radio", name="centimetre", exact=True).click()
    expect(legend).to_have_count(0)


def test_open_files_are_settled_alike_in_one_action(desk: Desk, demo: Path, tmp_path: Path) -> None:
    page = desk.page
    second = tmp_path / "second.stl"
    second.write_bytes(
        (demo / "shim-plate.stl").read_bytes()[:84] + (demo / "shim-plate.stl").read_bytes()[84:]
    )
    desk.opened(demo / "shim-plate.stl")
    desk.drop_here(second, "[data-testid=bench]")
    expect(page.get_by_role("heading", name="Files (2)")).to_be_visible(timeout=20_000)
    expect(page.get_by_test_id("finding-same-file")).to_be_visible()
    page.get_by_text("Settle all 2 files without a unit alike").get_by_role("button", name="inch").click()
    expect(page.get_by_text("unit not settled")).to_have_count(0)
    page.get_by_role("button", name="Take further files of this job as inch, too").click()
    expect(page.get_by_text("are taken as inch")).to_be_visible()


def test_a_declared_unit_is_taken(desk: Desk, demo: Path) -> None:
    desk.opened(demo / "dew-shield.3mf")
    expect(desk.page.get_by_text("The file declares its unit: millimetre.")).to_be_visible()
    desk.sheet("Seating")
    expect(desk.page.get_by_test_id("finding-outside-machine")).to_contain_text("Z by 90.00 mm")


def test_the_keyboard_is_enough_to_true_a_size(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    page.get_by_label("Size along X", exact=True).focus()
    page.keyboard.type("17.15cm")
    page.keyboard.press("Enter")
    desk.overall("171.50 × 128.47 × 35.59")
    page.keyboard.type("999")
    page.keyboard.press("Escape")
    size = page.get_by_label("Size along X", exact=True)
    expect(size).to_have_value("171.5")
    expect(size).to_be_focused()
    page.get_by_label("Z is linked to the others; free it").press("Enter")
    expect(page.get_by_label("Z is free; link it to the others")).to_be_visible()
    desk.typed("Size along Z", "44")
    desk.overall("171.50 × 128.47 × 44.00")
    expect(page.get_by_text("round bores and bosses become oval")).to_be_visible()
    desk.typed("Common factor", "100 %")
    desk.overall("212.00 × 158.81 × 44.00")

    page.keyboard.press("Control+z")
    desk.overall("171.50 × 128.47 × 44.00")
    page.keyboard.press("Control+Shift+z")
    desk.overall("212.00 × 158.81 × 44.00")
    page.get_by_role("button", name="Undo: factor 100 %").click()
    desk.overall("171.50 × 128.47 × 44.00")


def test_a_bad_length_is_refused_in_place(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    for typed, reason in (
        ("", "nothing was typed"),
        ("0", "a size cannot be zero"),
        ("-4", "a size cannot be negative"),
        ("wide", "is not a length"),
        ("101 m", "is over 100 m"),
    ):
        desk.typed("Size along Y", typed)
        expect(page.get_by_role("alert")).to_contain_text(reason, ignore_case=True)
        desk.overall("212.00 × 158.81 × 44.00")
        page.keyboard.press("Escape")
        expect(page.get_by_role("alert")).to_have_count(0)
        expect(page.get_by_label("Size along Y", exact=True)).to_have_value("158.810760498")
    numeral = page.get_by_role("button", name="Size along X, in the bench")
    numeral.click()
    page.keyboard.type("wide")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("is not a length")
    page.keyboard.press("Escape")
    expect(numeral).to_have_text("X 212.00")


def test_an_equal_pair_is_refused_and_the_first_place_stands(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "eyepiece-rack.stl", "inch")
    desk.sheet("Truing")
    page.get_by_role("button", name="Pick", exact=True).click()
    (ax, ay), (bx, by) = desk.ends_of("x")
    for x, y in ((ax, ay - 6), (ax, ay - 5)):
        page.mouse.move(x, y)
        expect(page.get_by_test_id("snap")).to_have_text("vertex")
        page.mouse.click(x, y)
    expect(page.get_by_text("The two places are the same point")).to_be_visible()
    page.mouse.move(bx, by - 6)
    expect(page.get_by_test_id("snap")).to_have_text("vertex")
    page.mouse.click(bx, by - 6)
    expect(page.get_by_test_id("reading-1")).to_contain_text("139.70")
    page.get_by_role("button", name="Remove reading 1").click()
    expect(page.get_by_test_id("reading-1")).to_have_count(0)


def test_turning_puts_the_body_down_again(desk: Desk, demo: Path) -> None:
    desk.opened(demo / "hand-grip-scan.stl", "millimetre")
    desk.sheet("Seating")
    desk.typed("Turn about X, degrees", "90")
    desk.overall("45.90 × 118.00 × 38.09")
    desk.typed("Turn about X, degrees", "north")
    expect(desk.page.get_by_role("alert")).to_contain_text("is not an angle")
    desk.page.keyboard.press("Escape")
    desk.page.get_by_role("button", name="As it came").click()
    desk.overall("45.90 × 38.09 × 118.00")


def test_holes_stop_a_release_until_they_are_accepted(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "hand-grip-scan.stl", "millimetre")
    desk.sheet("Release")
    expect(page.get_by_role("button", name="Write, read back, compare")).to_be_disabled()
    desk.sheet("Intake")
    page.get_by_role("button", name="Accept as it is").click()
    page.get_by_placeholder("why it is right here").fill("the grip is glued to a plate")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("finding-open-edges")).to_contain_text("accepted on purpose")
    desk.sheet("Release")
    chosen(page, "Format", "STL, binary")
    page.get_by_role("button", name="Write, read back, compare").click()
    expect(page.get_by_test_id("release-1")).to_contain_text("hand-grip-scan_r1.stl", timeout=30_000)


def test_an_unreadable_file_is_told_and_can_be_replaced(desk: Desk, demo: Path, tmp_path: Path) -> None:
    page = desk.page
    short = tmp_path / "rack.stl"
    short.write_bytes((demo / "eyepiece-rack.stl").read_bytes()[:-500])
    desk.drop(short)
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text("6088 triangles were promised, 6078 were found")
    page.set_input_files("input[type=file]", demo / "eyepiece-rack.stl")
    desk.drawn()
    desk.overall("139.70 × 44.45 × 19.05")


def test_a_file_that_is_not_taken_is_told_at_once(desk: Desk, tmp_path: Path) -> None:
    for name, size, reason in (
        ("notes.txt", 10, "is not known here"),
        ("clamp.dwg", 10, "is not known here"),
        ("big.stl", 20_100_000, "the limit is"),
    ):
        path = tmp_path / name
        path.write_bytes(b"x" * size)
        desk.drop(path)
        expect(desk.page.get_by_role("alert")).to_contain_text(reason, ignore_case=True)


def test_a_caliper_types_faster_than_the_server_answers(desk: Desk, demo: Path) -> None:
    """Number, Enter, number, Enter without a pause, as a device that types does."""
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    page.route("**/actions", lambda route: (page.wait_for_timeout(400), route.continue_()))  # type: ignore[func-returns-value]
    page.get_by_label("Size along X", exact=True).focus()
    page.keyboard.type("171.5")
    page.keyboard.press("Enter")
    page.keyboard.type("208.5")
    page.keyboard.press("Enter")
    page.keyboard.type("100")
    desk.overall("208.50 × 156.19 × 43.27")
    expect(page.get_by_label("Size along X", exact=True)).to_have_value("100")
    page.keyboard.press("Tab")
    desk.overall("100.00 × 74.91 × 20.75")


def test_another_page_is_told_and_refreshed(desk: Desk, demo: Path, browser: Browser) -> None:
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    other = browser.new_page(viewport={"width": 1280, "height": 800})
    other.goto(desk.page.url)
    second = Desk(other, desk.address, [])
    second.drawn()
    desk.typed("Size along X", "100")
    desk.overall("100.00 × 74.91 × 20.75")
    second.overall("100.00 × 74.91 × 20.75")
    expect(other.get_by_text("Changed elsewhere")).to_be_visible()
    expect(desk.page.get_by_text("Changed elsewhere")).to_have_count(0)
    other.close()


def test_closing_the_page_or_the_server_loses_nothing(desk: Desk, demo: Path, house: House) -> None:
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    desk.typed("Size along X", "100")
    desk.overall("100.00 × 74.91 × 20.75")
    house.end("server")
    house.run("server")
    desk.page.reload()
    desk.overall("100.00 × 74.91 × 20.75")
    desk.page.keyboard.press("Control+z")
    desk.overall("212.00 × 158.81 × 44.00")


def test_every_sheet_fits_without_page_scroll(desk: Desk, demo: Path) -> None:
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    for sheet in ("Intake", "Truing", "Fit", "Division", "Seating", "Release"):
        desk.sheet(sheet)
        over = desk.page.evaluate(
            """() => {
                const page = document.documentElement;
                return [page.scrollWidth - innerWidth, page.scrollHeight - innerHeight];
            }"""
        )
        assert max(over) <= 0, (sheet, over)


def test_a_release_is_named_held_against_a_file_and_handed_over(
    desk: Desk, demo: Path, tmp_path: Path
) -> None:
    page = desk.page
    desk.opened(demo / "setting-dial.3mf")
    desk.sheet("Release")
    page.get_by_text("each its own file", exact=True).click()
    page.get_by_text("as in their file", exact=True).click()
    chosen(page, "Format", "STL, binary")
    page.get_by_role("button", name="Names").click()
    field = page.get_by_label("Pattern of names")
    field.fill("{body}-{size}")
    field.press("Enter")
    expect(page.get_by_label("Names of the files")).to_contain_text("ring-124x124x4.stl")
    expect(page.get_by_label("What the file will hold")).to_contain_text("nothing is turned or moved")
    page.get_by_role("button", name="Write, read back, compare").click()
    card = page.get_by_test_id("release-1")
    expect(card).to_contain_text("2 files", timeout=30_000)

    with page.expect_download() as coming:
        card.get_by_role("link", name="ring-124x124x4.stl").click()
    ring = tmp_path / "ring-124x124x4.stl"
    coming.value.save_as(ring)
    page.set_input_files("[data-testid=release-1] input[type=file]", ring)
    expect(card).to_contain_text("all hold")
    data = bytearray(ring.read_bytes())
    data[2000] ^= 1
    ring.write_bytes(data)
    page.set_input_files("[data-testid=release-1] input[type=file]", ring)
    expect(card).to_contain_text("do not hold")

    card.get_by_role("button", name="As it arrives").click()
    expect(card).to_contain_text("It arrives as it was meant", timeout=30_000)
    chosen(page, "Takes bare numbers for", "inches")
    expect(card).to_contain_text("25.4 times too large")
    card.get_by_role("button", name="Onto a drive").click()
    card.get_by_role("button", name="Put it down").click()
    expect(card).to_contain_text("2 of 2 files are down and read back")
    card.get_by_role("button", name="To a program").click()
    card.get_by_role("button", name="Send", exact=True).click()
    expect(card.get_by_label("Handed over")).to_contain_text("Next program, simulated: taken")

    card.get_by_role("button", name="Proof sheet").click()
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text("PROVEN")
    expect(sheet).to_contain_text("123.9615")
    page.keyboard.press("Escape")
    expect(sheet).to_have_count(0)
