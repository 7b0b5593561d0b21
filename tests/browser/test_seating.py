"""Sheet 5 in the browser: by mouse and by keyboard, from a tilted part to a released plate."""

from pathlib import Path

from playwright.sync_api import Locator, Page, Route, expect

from aimtrue.core.formats import read_model
from tests.browser.conftest import Desk
from tests.browser.controls import chosen


def centre_of(target: Locator) -> tuple[float, float]:
    """Where its middle is, once it does not move any more: what is laid out anew moves all of it."""
    box = target.bounding_box()
    for _ in range(100):
        target.page.wait_for_timeout(60)
        before, box = box, target.bounding_box()
        if box is not None and box == before:
            break
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def drag(page: Page, target: Locator, dx: float, dy: float) -> None:
    """Take hold of the middle of the left edge of a drawn shape and move it, without letting go."""
    box = target.locator("path").first.bounding_box()
    assert box
    x, y = box["x"] + 3, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + dx / 2, y + dy / 2)
    page.mouse.move(x + dx, y + dy)


def test_a_tilted_part_is_levelled_copied_arranged_and_released(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "counterweight.stl", "millimetre")
    desk.sheet("Seating")
    expect(page.get_by_test_id("plan")).to_have_attribute("data-ready", "yes")
    desk.typed("Turn about X, degrees", "90")  # its file is Y-up
    first = page.get_by_test_id("first-layer")
    expect(first).to_contain_text("in 1 island")

    # A third of a degree cannot be seen; it is caught, drawn, and levelled.
    desk.typed("Turn about Y, degrees", "0.3")
    expect(page.get_by_test_id("finding-tilted")).to_contain_text("tilted by 0.30°, down to the right")
    expect(first).to_contain_text("level it would be")
    expect(page.get_by_role("img", name="tilted by 0.30 degrees")).to_be_visible()
    page.get_by_role("region", name="Level").get_by_role("button", name="Level it").click()
    expect(page.get_by_test_id("finding-tilted")).to_have_count(0)
    expect(page.get_by_role("region", name="Level")).to_contain_text("It lies flat.")

    # Copies are arranged; moved by hand into each other, that is told while they move.
    desk.typed("Copies", "3")
    expect(page.get_by_test_id("seat-3")).to_be_visible()
    page.get_by_role("button", name="Arrange plate").click()
    desk.typed("Seconds to try", "0")
    page.get_by_role("button", name="Arrange all plates").click()
    expect(page.get_by_role("button", name="Undo: arrange")).to_be_enabled(timeout=30_000)
    expect(page.get_by_test_id("plan")).to_have_attribute("data-ready", "yes")
    second, third = page.get_by_test_id("plan-seat-2"), page.get_by_test_id("plan-seat-3")
    (ax, ay), (bx, by) = centre_of(second), centre_of(third)
    drag(page, second, (bx - ax) * 0.6, (by - ay) * 0.6)
    expect(second).to_have_attribute("data-marks", "overlap")
    page.mouse.up()
    expect(page.get_by_test_id("finding-seats-overlap")).to_contain_text("overlap by")
    page.keyboard.press("Control+z")
    expect(page.get_by_test_id("finding-seats-overlap")).to_have_count(0)

    # By keyboard: arrows move what is chosen; one that is held down, however long, is one step back.
    at = page.get_by_label("Middle at X", exact=True)
    before = float(at.input_value())
    page.get_by_role("application").focus()
    page.keyboard.down("Shift")
    page.keyboard.down("ArrowRight")
    page.wait_for_timeout(600)  # Longer than presses rest, as before a key repeats.
    page.keyboard.down("ArrowRight")
    page.keyboard.down("ArrowRight")
    page.keyboard.up("ArrowRight")
    page.keyboard.up("Shift")
    expect(at).to_have_value(f"{before + 30:.2f}")
    page.keyboard.press("Control+z")
    expect(at).to_have_value(f"{before:.2f}")

    # Layers are scrubbed along their curve, by keys as well.
    page.get_by_role("button", name="first", exact=True).click()
    expect(page.get_by_test_id("layer")).to_contain_text("layer 1 of")
    page.get_by_role("slider", name="Layer").press("ArrowRight")
    expect(page.get_by_test_id("layer")).to_contain_text("layer 2 of")
    desk.typed("Layer, by number or height", "1.1 mm")
    expect(page.get_by_test_id("layer")).to_contain_text("1.10 mm")
    page.get_by_role("button", name="whole", exact=True).click()

    page.get_by_role("link", name="Go on to Release").click()
    page.get_by_role("button", name="Write, read back, compare").click()
    expect(page.get_by_test_id("release-1")).to_contain_text("counterweight_r1.3mf", timeout=30_000)
    with page.expect_download() as download:
        page.get_by_test_id("release-1").get_by_role("link", name="Download the file").click()
    parts = read_model("a.3mf", download.value.path().read_bytes()).parts
    assert len(parts) == 3
    assert all(abs(part.mesh.bounds()[0, 2]) < 1e-5 for part in parts)


def test_ways_to_stand_faces_machines_and_a_second_pass(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "setting-dial.3mf")
    desk.sheet("Seating")
    ways = page.get_by_role("radiogroup", name="Ways to stand").get_by_role("radio")
    expect(ways.first).to_be_checked()
    # What is drawn of the plate may still move the list away from under the pointer.
    expect(page.get_by_test_id("plan")).to_have_attribute("data-ready", "yes")
    ways.nth(1).click(force=True)  # upside down, on its marks
    expect(page.get_by_text("Turned, in order: face down (180°).")).to_be_visible()
    # What is told of the new way comes after the turn itself, and moves what is below it.
    expect(ways.nth(1)).to_be_checked()
    expect(page.get_by_test_id("plan")).to_have_attribute("data-ready", "yes")
    page.get_by_role("button", name="As it came").click()
    expect(page.get_by_text("Turned, in order")).to_have_count(0)
    expect(ways.first).to_be_checked()

    # A face is picked in the bench, and goes down: the rim, so that the dial stands on edge.
    page.get_by_role("button", name="Put a face down").click()
    expect(page.get_by_text("Click the face that is to lie on the plate, or choose it here.")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("p")
    expect(page.get_by_test_id("plan")).to_be_visible()

    # On another machine everything is judged anew, and the job keeps it.
    page.get_by_role("button", name="Machine Garden bench M").click()
    chosen(page, "Machine", "Garden bench S")
    expect(page.get_by_test_id("finding-outside-machine")).to_contain_text("larger than Garden bench S")
    chosen(page, "Machine", "Tower round")
    expect(page.get_by_test_id("finding-outside-machine")).to_have_count(0)
    desk.typed("Diameter", "0")
    expect(page.get_by_role("alert")).to_contain_text("a width of 0 mm", ignore_case=True)
    page.keyboard.press("Escape")

    # Printed in two passes, the marks stand on the ring: two plates that share their origin.
    desk.sheet("Intake")
    page.get_by_role("button", name="Select all").click()
    page.get_by_role("button", name="Take out of the kit").click()
    desk.sheet("Seating")
    expect(page.get_by_test_id("seat-2")).to_be_visible()
    page.get_by_test_id("seat-1").click()
    page.get_by_role("button", name="Centre").click()
    page.get_by_test_id("seat-2").click()
    chosen(page, "How to put it", "on top of")
    page.get_by_role("button", name="Put", exact=True).click()
    expect(page.get_by_test_id("finding-hanging-first-layer")).to_contain_text("the brim")
    page.get_by_role("button", name="Second pass", exact=True).click()
    page.get_by_test_id("seat-2").click()
    position = page.get_by_role("region", name="Position on the plate")
    position.get_by_role("button", name="2", exact=True).click()
    page.get_by_role("button", name="plate 2 on 1").click()
    expect(page.get_by_test_id("seat-1")).to_contain_text("lift 4.00")
    expect(page.get_by_test_id("finding-pass-gap")).to_have_count(0)


def test_bodies_of_a_kit_are_turned_by_hand_brought_to_plates_and_stood_by_keyboard(
    desk: Desk, demo: Path
) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    desk.sheet("Seating")
    plan = page.get_by_test_id("plan")
    expect(plan).to_have_attribute("data-ready", "yes")
    page.get_by_role("radiogroup", name="Bodies of the kit").get_by_text("each by itself").click()
    expect(page.get_by_test_id("seat-2")).to_contain_text("clamp shells 2")
    # The seats have moved apart; what is taken hold of has to be drawn where they are now.
    expect(plan).to_have_attribute("data-ready", "yes")
    expect(page.get_by_test_id("plan-seat-2")).to_be_visible()

    # Turned by its knob it holds every 15 degrees; the angle is drawn meanwhile.
    page.get_by_test_id("seat-1").click()
    knob = page.get_by_test_id("turning-arm").locator("circle")
    (x, y), (cx, cy) = centre_of(knob), centre_of(page.get_by_test_id("plan-seat-1"))
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(cx + (x - cx) * 0.9, cy - (x - cx) * 0.45, steps=4)  # 27 degrees up
    expect(page.get_by_test_id("turning-arm")).to_contain_text("30°")
    page.mouse.up()
    turn = page.get_by_test_id("seat-1").locator("td").nth(2)
    expect(turn).to_have_text("30°")
    page.get_by_role("application").focus()
    # The second press comes while the first is on its way, and counts all the same.
    held: list[Route] = []
    page.route("**/actions", lambda route: held.append(route))
    with page.expect_request("**/actions"):
        page.keyboard.press("-")
    page.keyboard.press("-")
    held[0].continue_()
    page.unroute("**/actions")
    expect(turn).to_have_text("0°")

    # To another plate by dropping it there, and back by a key.
    page.get_by_role("button", name="Add a plate").click()
    expect(page.get_by_role("button", name="plate 2")).to_be_visible()
    ear = page.get_by_test_id("plan-seat-2").locator("path").first.bounding_box()
    assert ear
    page.mouse.move(ear["x"] + 12, ear["y"] + 10)
    page.mouse.down()
    page.mouse.move(*centre_of(page.get_by_role("button", name="plate 2")), steps=3)
    page.mouse.up()
    expect(page.get_by_test_id("seat-2")).to_have_count(0)
    page.get_by_role("button", name="plate 2").click()
    expect(page.get_by_test_id("seat-1")).to_contain_text("clamp shells 2")
    page.get_by_role("application").focus()
    page.keyboard.press("PageUp")
    expect(page.get_by_role("button", name="plate 1", exact=True)).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_test_id("seat-2")).to_contain_text("clamp shells 2")

    # A face is marked to show and another put down, by keyboard alone.
    page.get_by_role("button", name="Mark faces that show").press("Enter")
    page.get_by_role("group", name="Faces that show").get_by_role("button").first.press("Enter")
    expect(page.get_by_text("1 face", exact=True)).to_be_visible()
    page.keyboard.press("Escape")
    chosen(page, "Wish", "marked faces up")
    expect(page.get_by_role("radiogroup", name="Ways to stand")).to_contain_text("% sees the sky")
    page.get_by_role("button", name="Put a face down").press("Enter")
    page.get_by_role("group", name="Faces to put down").get_by_role("button").nth(1).press("Enter")
    expect(page.get_by_text("Turned, in order:")).to_contain_text("face down")
    page.get_by_role("button", name="Mirror", exact=True).press("Enter")
    expect(page.get_by_test_id("mirrored")).to_contain_text("is its own mirror image, so nothing tells")
