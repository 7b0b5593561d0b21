"""Sheet 4 in the browser: too large for the machine, in pieces that fit it, released and read back."""

import zipfile
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, Response, expect

from aimtrue.core.formats import read_model
from tests.browser.conftest import Desk
from tests.browser.test_truing import trued


def test_a_shield_is_divided_to_fit_made_again_and_released(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "dew-shield.3mf", None)
    desk.sheet("Division")
    expect(page.get_by_text("goes into Garden bench M in 2 × 2 × 2")).to_be_visible()

    # A plane by hand: typed, refused where it misses, taken away again.
    page.get_by_role("button", name="Z", exact=True).click()
    desk.typed("Plane A, at", "500")
    expect(page.get_by_text("misses the body")).to_be_visible()
    desk.typed("Plane A, at", "100")
    planes = page.get_by_role("table", name="Planes")
    expect(planes).to_contain_text("across Z")
    expect(planes).to_contain_text("402 mm²")

    # Dragged by its end in the bench, its distance from the low end is a dimension, and can be typed there.
    # What the old place came to may still be drawn, and has the same section.
    expect(page.get_by_role("button", name="Plane A, from the low end", exact=False)).to_contain_text(
        "100.00"
    )
    x, y = end_of(page, "A")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 60, steps=5)
    page.mouse.up()
    expect(page.get_by_label("Plane A, at")).not_to_have_value("100")
    dragged = float(page.get_by_label("Plane A, at").input_value())
    assert 120 < dragged < 240
    page.get_by_role("button", name="Plane A, from the low end", exact=False).click()
    desk.typed("Plane A, from the low end", "60")
    expect(page.get_by_label("Plane A, at")).to_have_value("60 from low")
    # A second plane that cuts what is above it alone, tilted.
    page.get_by_role("button", name="X", exact=True).first.click()
    page.locator("input[aria-label='Plane B cuts']").click()
    page.get_by_role("option", name="upper").click()
    desk.typed("Plane B, degrees about Z", "20")
    pieces = page.get_by_role("table", name="Pieces")
    expect(pieces.get_by_role("row")).to_have_count(4)
    expect(pieces).to_contain_text("upper above B")
    expect(page.get_by_role("region", name="Volumes")).to_contain_text("off by nothing")
    page.get_by_role("button", name="Remove plane B").click()
    page.get_by_role("button", name="Remove plane A").click()
    expect(planes).to_have_count(0)

    # As many as the machine asks for, with loose dowels that have room.
    page.get_by_role("button", name="Even", exact=True).click()
    expect(pieces.get_by_role("row")).to_have_count(9)
    expect(pieces).to_contain_text("upper right back")
    expect(page.get_by_text("nothing is divided yet")).to_be_visible()
    page.get_by_role("button", name="Pins", exact=False).first.click()
    page.get_by_text("loose dowels").click()
    desk.typed("Pin diameter", "1.2")
    desk.typed("Pin wall", "0.7")
    # One of them is taken away by hand; the others stay where they were placed.
    places = page.get_by_role("list", name="Places of pins").get_by_role("listitem")
    expect(places.nth(8)).to_be_visible(timeout=20_000)
    many = places.count()
    page.get_by_role("button", name="Remove pin 1", exact=True).click()
    expect(places).to_have_count(many - 1)
    page.get_by_role("button", name="Divide into 8 pieces").click()
    expect(page.get_by_role("button", name="Put it back together")).to_be_visible(timeout=60_000)
    expect(page.get_by_text("clearance across the pins, as made")).to_be_visible()
    expect(pieces).to_contain_text("of it")
    expect(page.get_by_role("region", name="Volumes")).to_contain_text("770.85")
    page.get_by_role("slider", name="Drawn apart").press("End")

    # Another size: the pieces are made again, and one step back finds the ones before.
    desk.sheet("Truing")
    desk.typed("Common factor", "0.95")
    desk.sheet("Division")
    expect(page.get_by_role("region", name="Volumes")).to_contain_text("660.9", timeout=60_000)
    expect(page.get_by_text("it is made again")).to_have_count(0, timeout=60_000)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("region", name="Volumes")).to_contain_text("770.85")

    desk.sheet("Release")
    page.get_by_text("each its own file").click()
    page.get_by_role("button", name="Write, read back, compare").click()
    expect(page.get_by_test_id("release-1")).to_be_visible(timeout=300_000)
    with page.expect_download(timeout=120_000) as download:  # Nine files are packed, maybe beside much else.
        page.get_by_test_id("release-1").get_by_role("link", name="Download").first.click()
    with zipfile.ZipFile(download.value.path()) as package:
        names = sorted(package.namelist())
        assert sum("dowel" in name for name in names) >= 1
        first = next(name for name in names if "lower-left-front" in name)
        low, high = read_model(first, package.read(first)).whole().bounds()
    assert (high - low).round(2).tolist() == [131.0, 130.96, 155.0]


def keeps_a_plane_at(distance: float) -> Callable[[Response], bool]:
    """Tell the answer to keeping a draft that has a plane there from those of the steps before it."""

    def tells(answer: Response) -> bool:
        if "/drafts/division" not in answer.url or not answer.ok:
            return False
        return f'={distance:g}"' in (answer.request.post_data or "")

    return tells


def test_what_is_laid_out_survives_a_reload_and_is_taken_back_step_by_step(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "counterweight.stl", "millimetre")
    desk.sheet("Truing")
    desk.typed("Common factor", "1.1")
    desk.sheet("Division")
    planes = page.get_by_role("table", name="Planes").get_by_role("row")
    for number, axis in enumerate("ZX", start=2):
        page.get_by_role("button", name=axis, exact=True).first.click()
        expect(planes).to_have_count(number)
    with page.expect_response(keeps_a_plane_at(9)):
        desk.typed("Plane A, at", "9")
    page.reload()
    desk.drawn()
    expect(page.get_by_label("Plane A, at")).to_have_value("9")
    expect(planes).to_have_count(3)
    # The steps before the reload are taken back one by one, and no step of the job is.
    page.get_by_role("main", name="Division").focus()
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Plane A, at")).not_to_have_value("9")
    page.keyboard.press("Control+z")
    expect(planes).to_have_count(2)
    page.keyboard.press("Control+z")
    expect(planes).to_have_count(0)
    expect(page.get_by_role("button", name="Undo: factor 1.1")).to_be_visible()


def end_of(page: Page, letter: str) -> tuple[float, float]:
    """Where in the page a cutting plane is taken by its end."""
    return tuple(
        page.evaluate(
            """letter => {
              const paths = [...document.querySelectorAll(`[data-plane='${letter}'] path`)];
              const handle = paths.filter((one) => one.querySelector("title"))[1];
              const at = handle.getPointAtLength(18), to = handle.getScreenCTM();
              return [at.x * to.a + to.e, at.y * to.d + to.f];
            }""",
            letter,
        )
    )


def test_a_dial_made_one_is_two_colours_again_by_a_face(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "setting-dial.3mf", None)
    desk.sheet("Division")
    page.get_by_role("button", name="With another body", exact=False).first.click()
    page.get_by_role("button", name="Do it").click()
    expect(page.get_by_role("button", name="Put it back together")).to_be_visible(timeout=60_000)
    page.locator("input[aria-label='Body']").click()
    page.get_by_role("option", name="with").click()
    page.get_by_role("button", name="Two colours", exact=False).first.click()
    page.get_by_role("button", name="Pick them in the bench").first.click()
    # The ring's own face is neither raised nor sunk, which is said; of the marks one stands for all.
    faces = page.get_by_role("group", name="Faces that are raised or sunk").get_by_role("button")
    faces.first.click()
    page.get_by_role("button", name="Split by the faces").click()
    expect(page.get_by_text("a picked face is", exact=False)).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="none", exact=True).click()
    page.get_by_role("button", name="Pick them in the bench").first.click()
    faces.last.click()
    page.get_by_role("button", name="Split by the faces").click()
    pieces = page.get_by_role("table", name="Pieces")
    expect(pieces).to_contain_text("marks", timeout=60_000)
    expect(pieces).to_contain_text("rest")
    expect(page.get_by_role("region", name="Volumes")).to_contain_text("28.53")


def test_a_trial_of_a_clamp_shell_is_measured_and_calibrates(desk: Desk, demo: Path) -> None:
    page = trued(desk, demo)
    desk.sheet("Division")
    page.get_by_role("button", name="Trial", exact=False).first.click()
    page.get_by_role("button", name="diameter 1").click()
    page.get_by_role("button", name="Make the trial").click()
    expect(page.get_by_role("table", name="Readings on", exact=False)).to_contain_text(
        "140.60", timeout=60_000
    )
    desk.typed("diameter 1 on the print", "140.2")
    page.get_by_text("calibrate by it").click()
    expect(page.get_by_role("table", name="Readings on", exact=False)).to_contain_text("141.00")
    expect(page.get_by_role("table", name="Readings on", exact=False)).to_contain_text("−0.40")
    page.get_by_role("button", name="It fits: want this").click()
    desk.sheet("Truing")
    expect(page.get_by_label("Real length of reading 1")).to_have_value("139.9")


def test_a_counterweight_is_hollowed_with_a_drain(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "counterweight.stl", "millimetre")
    desk.sheet("Division")
    page.get_by_role("button", name="Hollow", exact=False).first.click()
    desk.typed("Hollow wall", "3")
    page.get_by_role("button", name="Hollow it").click()
    expect(page.get_by_text("wall, as made")).to_be_visible(timeout=60_000)
    expect(page.get_by_role("region", name="Volumes")).to_contain_text("saves")
    page.get_by_role("button", name="Put it back together").click()
    expect(page.get_by_role("button", name="Hollow it")).to_be_visible()
    # The section's seams are taken by keyboard.
    page.get_by_role("radiogroup", name="Axis of the section").get_by_text("Y").click()  # its file is Y-up
    seam = page.get_by_role("button", name="on a ledge", exact=False).first
    seam.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("table", name="Pieces").get_by_role("row")).to_have_count(3)
