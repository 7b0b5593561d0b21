"""What is typed stays, and nothing else is ever sent: fields entered and left, by keyboard, under undo, on
two pages.
"""

import re
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
from playwright.sync_api import Page, expect

from tests.browser.conftest import Desk
from tests.browser.controls import measured

FIELDS = "main input[data-typed]"
FOLDS: dict[str, tuple[str, ...]] = {
    "Intake": (),
    "Truing": ("Allowance",),
    "Division": ("Pins", "Trial", "Hollow"),
    "Seating": ("Machine", "Arrange", "Turn", "Position on the plate"),
    "Release": (),
}
"""Folds of each sheet that hold fields."""


@contextmanager
def nothing_is_sent(page: Page) -> Iterator[None]:
    """Hold that nothing that changes anything is sent meanwhile."""
    sent: list[str] = []

    def note(request) -> None:  # type: ignore[no-untyped-def]
        told = request.url.rsplit("/", 1)[-1]
        if request.method != "GET" and told not in ("preview", "try", "apart", "placed", "receive", "state"):
            sent.append(f"{request.method} {request.url}")

    page.on("request", note)
    yield
    page.wait_for_timeout(150)
    page.remove_listener("request", note)
    assert not sent, sent


def number(page: Page) -> str:
    """The overall size and what may be undone: these tell whether the job was changed."""
    overall = page.get_by_test_id("overall").text_content() or ""
    undo = page.get_by_role("button", name=re.compile("^(Undo|Nothing to undo)")).get_attribute("aria-label")
    return f"{overall} | {undo}"


def test_fields_that_are_only_entered_send_nothing(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    desk.typed("Size along X", "200")
    desk.overall("200.00 × 149.82 × 41.51")
    before = number(page)
    seen = 0
    for sheet in ("Intake", "Truing", "Division", "Seating", "Release"):
        desk.sheet(sheet)
        for title in FOLDS[sheet]:
            fold = page.get_by_role("button", name=re.compile(rf"^[+−]?\s*{title}")).first
            if fold.get_attribute("aria-expanded") == "false":
                fold.click()
        with nothing_is_sent(page):
            for field in page.locator(FIELDS).all():
                if field.is_visible() and field.is_enabled():
                    seen += 1
                    field.focus()
                    page.keyboard.press("ArrowRight")
                    page.keyboard.press("Tab")
            # And what is typed and reverted is as if it had not been.
            for field in page.locator(FIELDS).all()[:3]:
                if field.is_visible() and field.is_enabled():
                    field.focus()
                    page.keyboard.type("7")
                    page.keyboard.press("Escape")
    assert seen > 30
    desk.sheet("Truing")
    assert number(page) == before


def test_a_typed_size_stays_while_the_keyboard_walks_on(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    page.get_by_label("Size along X", exact=True).focus()
    page.keyboard.type("90")
    page.keyboard.press("Tab")  # which commits; the field that is entered now holds the size from before
    desk.overall("90.00 × 67.42 × 18.68")
    with nothing_is_sent(page):
        for _ in range(8):
            page.keyboard.press("Tab")
    desk.overall("90.00 × 67.42 × 18.68")
    # By mouse: into one field, into the next, and away.
    with nothing_is_sent(page):
        page.get_by_label("Size along X", exact=True).click()
        page.get_by_label("Size along Y", exact=True).click()
        page.get_by_role("heading", name="Overall size").click()
    # Undone while a field is entered: undone it stays, and may be done again.
    page.get_by_label("Size along Z", exact=True).click()
    page.keyboard.press("Control+z")
    desk.overall("212.00 × 158.81 × 44.00")
    page.keyboard.press("Tab")
    page.wait_for_timeout(200)
    desk.overall("212.00 × 158.81 × 44.00")
    page.keyboard.press("Control+Shift+z")
    desk.overall("90.00 × 67.42 × 18.68")


def test_two_pages_do_not_undo_each_other(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.get_by_test_id("overall")).to_have_text("212.00 × 158.81 × 44.00")
    page.bring_to_front()
    entered = page.get_by_label("Size along Y", exact=True)
    entered.click()
    other.get_by_label("Size along X", exact=True).fill("104")
    other.get_by_label("Size along X", exact=True).press("Enter")
    desk.overall("104.00 × 77.91 × 21.58")
    expect(entered).to_have_value(re.compile("77.9"))  # it follows
    with nothing_is_sent(page):
        page.keyboard.press("Tab")
    desk.overall("104.00 × 77.91 × 21.58")
    # Typed here while it is changed there: it is said, and takes a second Enter.
    field = page.get_by_label("Size along X", exact=True)
    field.click()
    field.fill("150")
    other.get_by_label("Size along X", exact=True).fill("120")
    other.get_by_label("Size along X", exact=True).press("Enter")
    expect(page.get_by_test_id("overall")).to_contain_text("120.00")
    field.press("Enter")
    expect(page.get_by_text("This was changed to 120 while you typed")).to_be_visible()
    expect(page.get_by_test_id("overall")).to_contain_text("120.00")
    field.press("Enter")
    expect(page.get_by_test_id("overall")).to_contain_text("150.00")


def kept_as(desk: Desk, size: list[int]) -> None:
    """Wait until the server has the machine of the newest job in this size."""
    for _ in range(200):
        key = httpx.get(f"{desk.address}/api/jobs").json()[0]["id"]
        view = httpx.get(f"{desk.address}/api/jobs/{key}").json()["job"]
        if view["job"]["plates"][0]["machine"]["volume"]["size"] == size:
            return
        desk.page.wait_for_timeout(100)
    raise AssertionError(f"the machine is not {size}")


def test_fields_of_one_thing_do_not_overwrite_each_other(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Seating")
    page.get_by_role("button", name="Machine Garden bench M").click()
    page.get_by_label("Width", exact=True).focus()
    for text in ("301", "302", "303"):
        page.keyboard.type(text)
        page.keyboard.press("Tab")
    for label, text in (("Width", "301"), ("Depth", "302"), ("Height", "303")):
        expect(page.get_by_label(label, exact=True)).to_have_value(text)
    kept_as(desk, [301, 302, 303])
    page.reload()
    page.get_by_label("Width", exact=True).wait_for()
    for label, text in (("Width", "301"), ("Depth", "302"), ("Height", "303")):
        expect(page.get_by_label(label, exact=True)).to_have_value(text)
    desk.typed("Width", "1,000")
    expect(page.get_by_role("alert")).to_contain_text("can mean two things")
    page.keyboard.press("Escape")
    desk.sheet("Truing")
    page.get_by_role("button", name=re.compile("^Allowance|Allowance none")).first.click()
    page.get_by_label("Shrinkage along X", exact=True).focus()
    for text in ("0.4", "0.5", "0.6"):
        page.keyboard.type(text)
        page.keyboard.press("Tab")
        page.keyboard.press("Tab")  # past the clearance of the axis
    for axis, text in (("X", "0.4"), ("Y", "0.5"), ("Z", "0.6")):
        expect(page.get_by_label(f"Shrinkage along {axis}", exact=True)).to_have_value(text)
    desk.typed("Clearance added along X", "101")
    expect(page.get_by_role("alert")).to_contain_text("is it meant")
    page.keyboard.press("Escape")


def test_one_press_is_one_release_of_everything(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "eyepiece-rack.stl")
    page.get_by_test_id("finding-stray").get_by_role("button", name="Remove", exact=True).click()
    page.get_by_label("Select all 4 like eyepiece rack 2").check()
    desk.sheet("Release")
    expect(page.get_by_text(re.compile(r"^all \d bodies$")).first).to_be_visible()
    go = page.get_by_role("button", name="Write, read back, compare")
    expect(go).to_be_enabled()
    go.focus()
    for _ in range(3):
        page.keyboard.press("Enter")
    expect(page.get_by_text("release 1", exact=False).first).to_be_visible(timeout=60_000)
    page.wait_for_timeout(500)
    assert page.get_by_text(re.compile("release 2", re.IGNORECASE)).count() == 0


def test_readings_that_exclude_each_other_stop_a_release_until_they_are_accepted(
    desk: Desk, demo: Path
) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Truing")
    for number_of, (axis, text) in enumerate((("X", "208.5"), ("Y", "170")), start=1):
        measured(page, "extent", axis)
        page.get_by_role("button", name="Add", exact=True).click()
        real = page.get_by_label(f"Real length of reading {number_of}")
        expect(real).to_be_focused()
        real.fill(text)
        real.press("Enter")
    expect(page.get_by_text(re.compile("nearest to 2 readings, . of them missed"))).to_be_visible()
    stop = page.get_by_test_id("finding-reading-missed").first
    expect(stop).to_contain_text("nothing is released until this is settled")
    desk.sheet("Release")
    expect(page.get_by_role("button", name="Write, read back, compare")).to_be_disabled()
    desk.sheet("Truing")
    for finding in page.get_by_test_id("finding-reading-missed").all():
        if finding.get_by_role("button", name="Accept as it is").count():
            finding.get_by_role("button", name="Accept as it is").click()
            page.keyboard.type("a model to look at")
            page.keyboard.press("Enter")
            break
    expect(page.get_by_test_id("finding-reading-missed").first).to_contain_text("accepted on purpose")
    desk.sheet("Release")
    expect(page.get_by_role("button", name="Write, read back, compare")).to_be_enabled()
