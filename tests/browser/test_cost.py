"""What it takes, on sheet 5: quick and along its paths, settings, a budget with its ways, layers as paths."""

from pathlib import Path

from playwright.sync_api import expect

from tests.browser.conftest import Desk


def test_what_a_plate_takes_is_told_changed_and_kept_within_a_budget(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "focus-knob.stl", "metre")
    desk.sheet("Seating")
    expect(page.get_by_test_id("plan")).to_have_attribute("data-ready", "yes")
    part = page.get_by_role("region", name="What it takes")
    table = part.get_by_role("table", name="What the plate takes")
    expect(table).to_contain_text("plate 1, quick")
    expect(page.get_by_test_id("takes")).to_contain_text("≈")

    # Along its paths it is worked out in the background, and holds until something changes.
    part.get_by_role("button", name="Work out along its paths").click()
    expect(table).to_contain_text("plate 1, along its paths", timeout=60_000)
    expect(page.get_by_test_id("takes")).not_to_contain_text("≈")
    expect(part.get_by_role("figure")).to_contain_text("outline")
    expect(part.get_by_role("link", name="G-code, a stand-in")).to_be_visible()
    part.get_by_role("button", name="Print settings").click()
    desk.typed("Print setting: infill", "40 %")
    expect(table).to_contain_text("before “infill 40 %”, quick")
    expect(page.get_by_test_id("takes")).to_contain_text("≈")
    desk.typed("Print setting: layer", "0.9")
    expect(part).to_contain_text("higher than the bead")
    page.keyboard.press("Escape")

    # A budget that is exceeded is a finding; a way under it is one press, and one undo.
    part.get_by_role("button", name="Budgets").click()
    desk.typed("Budget, with its unit", "9 g")
    expect(page.get_by_test_id("finding-over-budget")).to_contain_text("over 9 g")
    way = part.get_by_role("listitem").filter(has_text="Infill")
    way.get_by_role("button", name="Try").click()
    expect(page.get_by_test_id("finding-over-budget")).to_have_count(0)
    expect(part).to_contain_text("Plate 1: within 9 g")

    # Layers are drawn as the paths that make them, from above and in the bench.
    page.get_by_label("as paths").check()
    desk.typed("Layer, by number or height", "60")
    paths = page.get_by_test_id("paths")
    for kind in ("outline", "shell", "infill", "travel"):
        expect(paths.locator(f"path[data-kind={kind}]")).to_have_count(1)
    expect(page.get_by_test_id("layer")).to_contain_text("layer 60 of 110")
    expect(paths.get_by_test_id("path-head")).to_have_count(0)
    page.get_by_role("slider", name="How far along the layer").press("ArrowLeft")
    expect(paths.get_by_test_id("path-head")).to_have_count(1)
    page.get_by_role("button", name="O bench").click()
    expect(page.get_by_test_id("paths-bench").locator("path[data-kind=outline]")).to_have_count(1)

    # What a print really took corrects what comes.
    part.get_by_role("button", name="All plates").click()
    expect(part.get_by_role("table", name="When plates are done")).to_contain_text("Garden bench M")
    part.get_by_role("button", name="After printing").click()
    desk.typed("What the plate weighs, in grams", "10")
    part.get_by_role("button", name="Learn from it").click()
    expect(part).to_contain_text("of 1 print")
