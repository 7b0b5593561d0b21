"""Stock in the browser: a bolt for the clamp found by its bore, a nut beside it, a box printed, a thread
cut.
"""

from pathlib import Path

from playwright.sync_api import expect

from tests.browser.conftest import Desk


def test_bolts_are_tried_in_the_clamp_and_made_to_check_against(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", None)
    desk.sheet("Fit")
    page.get_by_role("button", name="Does it go through?").press("Enter")
    page.get_by_role("button", name="List the bores").press("Enter")
    told = page.get_by_role("region", name="Whether it goes through")
    expect(told).to_contain_text("It does not go through")
    told.get_by_role("button", name="Take M5x35 hex").press("Enter")
    expect(told).to_contain_text("It goes through")
    expect(told).to_contain_text("medium hole")
    told.get_by_role("button", name="Make the bolt here").press("Enter")
    desk.drawn()
    expect(page.get_by_label("drawn: clamp shells 1, clamp shells 2, M5x35 hex")).to_be_attached()

    # On Intake by typing: a wrong one says what there is, a right one is drawn before it is made.
    desk.sheet("Intake")
    expect(page.get_by_test_id("body-M5x35 hex")).to_contain_text("to check")
    page.get_by_role("button", name="Make a standard part").click()
    desk.typed("Standard part", "M7x20")
    expect(page.get_by_text("The nearest are M6 and M8")).to_be_visible()
    page.keyboard.press("Escape")
    desk.typed("Standard part", "nut m5")
    expect(page.get_by_role("img", name="drawing of nut M5 hex")).to_be_visible()
    expect(page.get_by_text("ISO 4032:2012")).to_be_visible()
    page.get_by_label("cut the thread").check()
    desk.typed("Clearance of the thread", "3")
    expect(page.get_by_text("is over 2 mm")).to_be_visible()
    desk.typed("Clearance of the thread", "0.3")
    page.get_by_role("button", name="Make it").click()
    nut = page.get_by_test_id("body-M5 hex nut threaded")
    expect(nut).to_contain_text("to check", timeout=30_000)

    # Marked to print it stands on a plate; the bolt does not.
    nut.get_by_role("checkbox").check()
    page.get_by_role("button", name="To print").click()
    expect(nut).to_contain_text("closed")
    desk.sheet("Seating")
    expect(page.get_by_test_id("seat-2")).to_be_visible()
    expect(page.get_by_test_id("seat-3")).not_to_be_attached()


def test_a_thread_is_cut_into_the_bore_of_the_knob(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "focus-knob.stl", None)
    desk.sheet("Division")
    page.get_by_role("button", name="Thread on a bore or a boss").click()
    part = page.get_by_role("region", name="Thread")
    expect(part.get_by_label("Wall of the thread")).to_have_value("bore ø 6.00 at 0.00, 0.00, 8.00")
    desk.typed("Size of the thread", "M12")
    part.get_by_role("button", name="Cut the thread").click()
    expect(page.get_by_text("M12 is cut into a bore of about 10.11 mm")).to_be_visible()
    desk.typed("Size of the thread", "M6")
    part.get_by_label("added to the wall").check()
    part.get_by_role("button", name="Add the thread").click()
    desk.drawn()
    expect(page.get_by_label("drawn: focus knob threaded")).to_be_attached(timeout=20_000)
