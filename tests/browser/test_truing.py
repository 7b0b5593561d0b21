"""Sheet 2 in the browser: by mouse and by keyboard alone, with many readings at once."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.conftest import Desk
from tests.browser.controls import chosen, measured


def trued(desk: Desk, demo: Path) -> Page:
    """The clamp shells with their tube seat read at 140.3 and 0.3 clearance, chosen from the list."""
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    choose(page, "diameter", "hollow arc")
    page.keyboard.type("140.3")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("reading-1")).to_contain_text("ø 140.30")
    page.get_by_label("Details of reading 1").click()
    desk.typed("Clearance added to reading 1", "0.3")
    expect(page.get_by_test_id("reading-1")).to_contain_text("ø 140.60")
    page.get_by_label("Details of reading 1").click()
    return page


def choose(page: Page, what: str, *features: str) -> None:
    number = page.locator("[data-testid^=reading-]").count() + 1
    measured(page, what)
    page.get_by_role("button", name="From list").click()
    for name in features:
        page.get_by_role("group", name="Features").get_by_role("button", name=name).first.click()
    expect(page.get_by_label(f"Real length of reading {number}")).to_be_focused()


def test_the_clamp_by_mouse(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    measured(page, "diameter")
    page.get_by_role("button", name="Pick", exact=True).click()
    page.mouse.click(830, 270)  # inside the seat
    real = page.get_by_label("Real length of reading 1")
    expect(real).to_be_focused()
    real.fill("140.6")
    real.press("Enter")
    measured(page, "extent")
    chosen(page, "Axis", "along X")
    page.get_by_role("button", name="Add", exact=True).click()
    real = page.get_by_label("Real length of reading 2")
    expect(real).to_be_focused()
    real.fill("208.5 ±1")
    real.press("Enter")
    expect(page.get_by_test_id("window")).to_be_visible()
    expect(page.get_by_test_id("way-uniform")).to_contain_text("all hold")
    expect(page.get_by_test_id("overall")).to_contain_text("208.65")


def test_the_clamp_by_keyboard_alone(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.step", "millimetre")
    desk.sheet("Truing")
    page.get_by_role("combobox", name="What to measure").focus()
    page.keyboard.type("diam")
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    first = page.get_by_role("group", name="Features").get_by_role("button").first
    expect(first).to_be_focused()
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Real length of reading 1")).to_be_focused()
    page.keyboard.type("140.6")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("reading-1")).to_contain_text("140.60")
    slider = page.get_by_role("slider", name="Factor in force")
    before = slider.get_attribute("aria-valuetext")
    slider.focus()
    page.keyboard.press("ArrowRight")
    expect(slider).not_to_have_attribute("aria-valuetext", before or "")
    page.keyboard.press("Escape")
    expect(slider).to_have_attribute("aria-valuetext", before or "")
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="True to the readings")).to_be_visible()
    page.get_by_role("button", name="True to the readings").press("Enter")
    expect(slider).to_have_attribute("aria-valuetext", before or "")


def test_readings_that_exclude_each_other_and_what_frees_them(desk: Desk, demo: Path) -> None:
    page = trued(desk, demo)
    choose(page, "centres", "at 92", "at -92")
    page.keyboard.type("188")
    page.keyboard.press("Enter")
    conflict = page.get_by_test_id("conflict")
    expect(conflict).to_contain_text("Readings 1 and 2 exclude each other")
    expect(page.get_by_test_id("finding-reading-missed")).to_have_count(2)
    conflict.locator("div", has_text="let span 2 go down").get_by_role("button", name="Do").click()
    expect(conflict).to_have_count(0)
    expect(page.get_by_test_id("finding-reading-missed")).to_have_count(0)
    expect(page.get_by_test_id("reading-1")).to_contain_text("ø 140.60")


def test_bolt_holes_are_kept_and_the_file_has_them(desk: Desk, demo: Path) -> None:
    page = trued(desk, demo)
    expect(page.get_by_test_id("finding-bolt-holes")).to_have_count(2)
    for left in (1, 0):
        page.get_by_test_id("finding-bolt-holes").first.get_by_role("button", name="Keep bores").click()
        expect(page.get_by_test_id("finding-bolt-holes")).to_have_count(left)
    choose(page, "diameter", "kept")
    expect(page.get_by_test_id("reading-2")).to_contain_text("ø 5.50")
    desk.sheet("Release")
    page.get_by_role("button", name="Write, read back, compare").click()
    expect(page.get_by_test_id("release-1")).to_be_visible(timeout=60_000)


def test_the_factor_is_dragged_and_the_bench_follows(desk: Desk, demo: Path) -> None:
    page = trued(desk, demo)
    box = page.get_by_role("slider", name="Factor in force").bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + 20
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 60, y, steps=4)
    numeral = page.get_by_role("button", name=re.compile("Size along X, in the bench"))
    expect(numeral).not_to_contain_text("208.65")
    expect(page.get_by_test_id("overall")).to_contain_text("208.65")  # nothing is decided yet
    page.mouse.up()
    expect(page.get_by_test_id("overall")).not_to_contain_text("208.65")
    page.get_by_role("button", name="True to the readings").click()
    expect(page.get_by_test_id("overall")).to_contain_text("208.65")


def test_a_ratio_beyond_reason_is_asked_about(desk: Desk, demo: Path) -> None:
    page = trued(desk, demo)
    desk.typed("Real length of reading 1", "0.1")
    expect(page.get_by_role("alert")).to_contain_text("the unit may be wrong; is it meant")
    desk.overall("208.65 × 156.30 × 43.30")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("overall")).not_to_contain_text("208.65")


def test_readings_come_in_from_a_file_and_from_the_caliper(desk: Desk, demo: Path, tmp_path: Path) -> None:
    page = trued(desk, demo)
    rows = tmp_path / "readings.csv"
    rows.write_text("name;real;unit\ndiameter 1;14,05;cm\nlid;3;mm\n")
    page.get_by_label("Readings as CSV").set_input_files(rows)
    expect(page.get_by_text("There is no reading called lid here")).to_be_visible()
    expect(page.get_by_test_id("reading-1")).to_contain_text("ø 140.50")
    page.get_by_text("Caliper, simulated").click()
    desk.typed("Jaws of the simulated caliper", "140.2")
    page.get_by_role("button", name="Data → diameter 1").click()
    expect(page.get_by_label("Real length of reading 1")).to_have_value(re.compile(r"140\.[12]\d"))


def test_allowance_and_calibration(desk: Desk, demo: Path) -> None:
    page = trued(desk, demo)
    page.get_by_role("button", name="Allowance").click()
    desk.typed("Shrinkage along X", "0.5")
    expect(page.get_by_test_id("chain-x")).to_contain_text("209.69")
    chosen(page, "Material", "ABS")
    expect(page.get_by_label("Usual shrinkage along X")).to_have_value("0.8")
    page.get_by_role("checkbox", name="allow for its shrinkage").click()
    expect(page.get_by_test_id("chain-x")).to_contain_text("210.33")  # 208.65 / (1 - 0.008)
    desk.typed("Usual shrinkage along X", "1")
    expect(page.get_by_test_id("chain-x")).to_contain_text("210.75")
    expect(page.get_by_role("checkbox", name="allow for its shrinkage")).to_be_checked()
    page.get_by_text("Calibrate from a printed test part").click()
    desk.typed("Nominal along X", "100")
    desk.typed("Measured along X", "99")
    page.get_by_role("button", name="Keep", exact=True).click()
    kept = page.get_by_test_id("calibration").first
    expect(kept).to_contain_text("X 1.00 ±0.05 %")
    kept.get_by_role("button", name="Take").click()
    expect(page.get_by_label("Shrinkage along Z", exact=True)).to_have_value("1")
    expect(page.get_by_role("checkbox", name="allow for its shrinkage")).not_to_be_checked()
    kept.get_by_role("button", name="Remove calibration").click()


def test_before_after_and_the_drawing(desk: Desk, demo: Path) -> None:
    page = trued(desk, demo)
    page.get_by_role("button", name="Before and after").click()
    table = page.get_by_test_id("compare")
    expect(table).to_contain_text("212.00")
    expect(table).to_contain_text("208.65")
    page.get_by_role("button", name="Drawing in three views").click()
    sheet = page.get_by_role("dialog", name=re.compile("Drawing of"))
    views = sheet.get_by_role("img", name="from the front")
    expect(views).to_be_visible()
    assert views.evaluate("one => one.decode().then(() => one.naturalWidth > 100)")
    with page.expect_download() as download:
        sheet.get_by_role("link", name="Download as SVG").click()
    assert "ø140.60" in Path(download.value.path()).read_text()
    page.keyboard.press("Escape")
    expect(sheet).to_have_count(0)


def test_the_dew_shield_and_the_scanned_grip(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "dew-shield.3mf", "millimetre")
    desk.sheet("Truing")
    choose(page, "diameter", "bore ø 252")
    page.keyboard.type("250.5 ±0.3")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("reading-1")).to_contain_text("ø 250.50")
    desk.opened(demo / "hand-grip-scan.stl", "millimetre")
    desk.sheet("Truing")
    measured(page, "diameter")
    page.get_by_role("button", name="Pick", exact=True).click()
    page.mouse.click(830, 330)
    expect(page.get_by_text("not part of a cylinder")).to_be_visible()
    measured(page, "perimeter")
    page.get_by_role("button", name="Pick", exact=True).click()
    page.mouse.click(830, 330)
    real = page.get_by_label("Real length of reading 1")
    expect(real).to_be_focused()
    real.fill("13.5 cm")
    real.press("Enter")
    expect(page.get_by_test_id("reading-1")).to_contain_text("135.00")
    height = page.get_by_label("Height of the section")
    height.focus()
    page.keyboard.type("60")  # between the holes of the scan
    page.keyboard.press("Enter")
    expect(page.get_by_label("Real length of reading 2")).to_be_focused()


def test_a_body_as_drawn_refuses_and_one_alone_is_told(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    page.get_by_label("Select clamp shells 1", exact=True).check()
    desk.sheet("Truing")
    page.get_by_role("checkbox", name="keep as drawn").click()
    expect(page.get_by_role("checkbox", name="keep as drawn")).to_be_checked()
    desk.typed("Common factor", "0.98")
    expect(page.get_by_role("alert")).to_contain_text("kept as drawn")
    page.keyboard.press("Escape")
    page.get_by_role("checkbox", name="keep as drawn").click()
    expect(page.get_by_role("checkbox", name="keep as drawn")).not_to_be_checked()
    page.get_by_role("checkbox", name="correct alone").click()
    expect(page.get_by_role("checkbox", name="correct alone")).to_be_checked()
    desk.typed("Common factor", "0.98")
    expect(page.get_by_test_id("finding-kit-mixed")).to_be_visible()
    page.get_by_role("button", name="Follow the kit").click()
    expect(page.get_by_test_id("finding-kit-mixed")).to_have_count(0)


def by_keys(page: Page, what: str, *steps: int) -> None:
    """Make a gauge without a pointer: the kind by its first letters, then features so many Tabs on."""
    page.get_by_role("combobox", name="What to measure").focus()
    page.keyboard.type(what)
    page.keyboard.press("Tab")
    if page.get_by_label("Axis").count():
        page.keyboard.press("Tab")
    else:
        page.keyboard.press("Tab")
        page.keyboard.press("Enter")
        expect(page.get_by_role("group", name="Features").locator("li button").first).to_be_focused()
    number = page.locator("[data-testid^=reading-]").count() + 1
    for tabs in steps:
        for _ in range(tabs):
            page.keyboard.press("Tab")
        page.keyboard.press("Enter")
    if what == "angle":
        expect(page.get_by_test_id(f"reading-{number}")).to_be_visible()
    else:
        expect(page.get_by_label(f"Real length of reading {number}")).to_be_focused()


def test_flat_gauges_by_keyboard_alone(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "shim-plate.stl", "inch")
    desk.sheet("Truing")
    for number, (what, steps, shown) in enumerate(
        [
            ("two par", (0, 1), "12.70"),  # the two largest faces are top and bottom
            ("wall", (0,), "12.70"),
            ("angle", (0, 2), "90.00°"),
            ("two po", (0, 1), "12.70"),
        ],
        1,
    ):
        by_keys(page, what, *steps)
        expect(page.get_by_test_id(f"reading-{number}")).to_contain_text(shown)
    expect(page.get_by_test_id("reading-3")).to_contain_text("told only")
    page.get_by_label("Real length of reading 1").focus()
    page.keyboard.type("1/2 in")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("reading-1")).to_contain_text("drives")


def test_round_gauges_by_keyboard_alone(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.step", "millimetre")
    desk.sheet("Truing")
    for number, (what, shown) in enumerate(
        [("radius", "R 71.43"), ("depth", "44.00"), ("diam", "ø 142.86")], 1
    ):
        by_keys(page, what, 1)  # the boss outside is larger
        expect(page.get_by_test_id(f"reading-{number}")).to_contain_text(shown)


def test_an_axis_is_held_a_way_is_taken_and_a_gauge_is_stretched_along(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "shim-plate.stl", "inch")
    desk.sheet("Truing")
    by_keys(page, "wall", 0)
    page.keyboard.type("13")
    page.keyboard.press("Enter")
    desk.overall("52.00 × 26.00 × 13.00")
    for axis in "xy":
        measured(page, "extent")
        chosen(page, "Axis", f"along {axis.upper()}")
        page.get_by_role("button", name="Add", exact=True).click()
        number = 2 if axis == "x" else 3
        real = page.get_by_label(f"Real length of reading {number}")
        expect(real).to_be_focused()
        real.fill("52" if axis == "x" else "25.4")
        real.press("Enter")
    expect(page.get_by_test_id("conflict")).to_be_visible()
    expect(page.get_by_test_id("way-stretch-y")).to_contain_text("all hold")
    page.get_by_test_id("way-stretch-y").get_by_role("button", name="Take").click()
    desk.overall("52.00 × 25.40 × 13.00")
    page.get_by_label("X may change; hold it").click()
    expect(page.get_by_label("X is held; let it go")).to_have_attribute("aria-pressed", "true")
    desk.typed("Real length of reading 2", "60")
    expect(page.get_by_test_id("finding-reading-missed")).to_have_count(1)
    desk.overall("52.00 × 25.40 × 13.00")
    page.get_by_label("X is held; let it go").click()
    expect(page.get_by_label("X may change; hold it")).to_be_visible()
    for number in (3, 2):
        page.get_by_label(f"Remove reading {number}").click()
        expect(page.locator("[data-testid^=reading-]")).to_have_count(number - 1)
    page.get_by_role("button", name="Back to 100 %").click()
    desk.overall("50.80 × 25.40 × 12.70")
    page.get_by_label("Details of reading 1").click()
    page.get_by_role("button", name="Stretch along it").click()
    desk.overall("50.80 × 25.40 × 13.00")


def test_a_gauge_is_moved_and_walls_have_a_least(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "shim-plate.stl", "inch")
    desk.sheet("Truing")
    by_keys(page, "wall", 0)
    page.keyboard.type("12.7")
    page.keyboard.press("Enter")
    desk.typed("Least wall", "13")
    expect(page.get_by_test_id("finding-thin-wall")).to_be_visible()
    desk.typed("Least wall", "2")
    expect(page.get_by_test_id("finding-thin-wall")).to_have_count(0)
    desk.typed("Longest side", "2 in")
    desk.overall("50.80 × 25.40 × 12.70")
    desk.typed("Longest side", "100")
    desk.overall("100.00 × 50.00 × 25.00")
    page.get_by_label("Details of reading 1").click()
    page.get_by_role("button", name="Move gauge").click()
    page.mouse.click(830, 330)
    expect(page.get_by_test_id("reading-1")).to_contain_text("12.70")
    page.get_by_role("button", name=re.compile("Fit into")).click()
    desk.overall("250.00 × 125.00 × 62.50")
    page.keyboard.press("Control+z")
    expect(page.get_by_test_id("overall")).not_to_contain_text("250.00")


def test_the_opening_between_both_shells_is_measured_across_them(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.step", "millimetre")
    desk.sheet("Truing")
    measured(page, "centres")
    page.get_by_role("button", name="From list").click()
    features = page.get_by_role("group", name="Features")
    features.get_by_role("button", name="bore ø 5.50").first.click()
    chosen(features, "Body", "shell, back")
    features.get_by_role("button", name="bore ø 5.50").first.click()
    row = page.get_by_test_id("reading-1")
    expect(row).to_be_visible()
    page.keyboard.type("20")
    page.keyboard.press("Enter")
    expect(row).to_contain_text("20.00")
    expect(page.get_by_role("button", name="Reading 1, in the bench")).to_contain_text("20.00")


def test_kept_bores_are_drawn_as_they_will_be(desk: Desk, demo: Path) -> None:
    page = trued(desk, demo)
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    page.get_by_test_id("finding-bolt-holes").first.get_by_role("button", name="Keep bores").click()
    expect(page.get_by_test_id("finding-bolt-holes")).to_have_count(1)
    desk.drawn()
    page.wait_for_function("() => !document.body.textContent.includes('drawing …')")
    assert [url for url in asked if "/bodies/" in url and "/bench/" in url]


def test_a_corner_is_measured_to_a_centre(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.step", "millimetre")
    desk.sheet("Truing")
    page.get_by_role("button", name="Pick", exact=True).click()
    status = page.get_by_role("status").filter(has_text="Click a place")
    page.keyboard.press("c")
    expect(status.get_by_role("checkbox")).to_be_checked()
    page.mouse.click(830, 270)  # inside the seat: its axis
    expect(page.get_by_text("First place at a centre")).to_be_visible()
    # What was ticked holds for the second place, too, until it is unticked.
    expect(page.get_by_role("checkbox", name="take the centre of the bore or boss there")).to_be_checked()
    page.keyboard.press("c")
    page.mouse.click(650, 420)  # a place on the ear
    row = page.get_by_test_id("reading-1")
    expect(row).to_be_visible()
    page.get_by_label("Details of reading 1").click()
    expect(row).to_contain_text("centre of hollow arc")
    expect(row).to_contain_text(re.compile(r" to (corner|edge|surface|middle)"))
