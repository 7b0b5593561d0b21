"""Sheet 4 in the browser: too large for the machine, in pieces that fit it, released and read back."""

import zipfile
from pathlib import Path

from playwright.sync_api import expect

from aimtrue.core.formats import read_model
from tests.browser.conftest import Desk


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
    page.get_by_role("button", name="Remove plane A").click()
    expect(planes).to_have_count(0)

    # As many as the machine asks for, with loose dowels that have room.
    page.get_by_role("button", name="Even", exact=True).click()
    pieces = page.get_by_role("table", name="Pieces")
    expect(pieces.get_by_role("row")).to_have_count(9)
    expect(pieces).to_contain_text("upper right back")
    page.get_by_role("button", name="Pins", exact=False).first.click()
    page.get_by_text("loose dowels").click()
    desk.typed("Pin diameter", "1.2")
    desk.typed("Pin wall", "0.7")
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
    page.get_by_test_id("release-1").wait_for(timeout=120_000)
    with page.expect_download() as download:
        page.get_by_test_id("release-1").get_by_role("link", name="Take").first.click()
    with zipfile.ZipFile(download.value.path()) as package:
        names = sorted(package.namelist())
        assert sum("dowel" in name for name in names) >= 1
        first = next(name for name in names if "lower-left-front" in name)
        low, high = read_model(first, package.read(first)).whole().bounds()
    assert (high - low).round(2).tolist() == [131.0, 130.96, 155.0]


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
