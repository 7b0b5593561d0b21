"""Sheet 1 in the browser: whole folders, and meshes too large to be drawn whole."""

from __future__ import annotations

import re
import shutil
from pathlib import Path

import manifold3d
from playwright.sync_api import Route, expect

from aimtrue.core.formats import stl
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.reduced import REDUCED_FROM, reduced
from aimtrue.core.mesh.solids import mesh_of
from tests.browser.conftest import Desk


def folder_of(demo: Path, at: Path) -> Path:
    """A folder as people keep them: models, one of them deeper in, and what is no model."""
    inner = at / "larch hill" / "rack"
    inner.mkdir(parents=True)
    shutil.copy(demo / "clamp-shells.stl", inner.parent)
    shutil.copy(demo / "eyepiece-rack.stl", inner)
    (inner.parent / "notes.txt").write_text("ask for the tube again")
    (inner.parent / ".thumbnails").write_bytes(b"\0")
    return inner.parent


def test_a_folder_is_picked_whole_even_before_the_page_knows_what_models_are(
    desk: Desk, demo: Path, tmp_path: Path
) -> None:
    page = desk.page
    asked: list[Route] = []
    page.route("**/api/limits", lambda route: asked.append(route))
    page.goto(desk.address)
    with page.expect_file_chooser() as choosing:
        page.get_by_role("button", name="Pick a folder").click()
    choosing.value.set_files(folder_of(demo, tmp_path))
    page.wait_for_timeout(300)  # what was picked is with the page; only then comes the answer
    for route in asked:
        route.continue_()
    page.get_by_role("button", name="One job for all").click()
    expect(page.get_by_role("heading", name="Files (2)")).to_be_visible(timeout=30_000)
    expect(page.get_by_text("notes.txt")).to_have_count(0)


def test_a_folder_is_dropped_with_what_lies_deeper_in_it(desk: Desk, demo: Path, tmp_path: Path) -> None:
    page = desk.page
    page.goto(desk.address)
    zone = page.get_by_test_id("drop")
    zone.wait_for()
    frame = zone.bounding_box()
    assert frame
    at = {"x": frame["x"] + frame["width"] / 2, "y": frame["y"] + 20}
    data = {"items": [], "files": [str(folder_of(demo, tmp_path))], "dragOperationsMask": 1}
    hand = page.context.new_cdp_session(page)  # only so does the page get a true folder
    for step in ("dragEnter", "dragOver", "drop"):
        hand.send("Input.dispatchDragEvent", {"type": step, **at, "data": data})
    page.get_by_role("button", name="One job for all").click()
    expect(page.get_by_role("heading", name="Files (2)")).to_be_visible(timeout=30_000)
    expect(page.get_by_label("Title block")).to_contain_text("8 bodies of 2 files")
    expect(page.get_by_text("notes.txt was not taken")).to_be_visible()


def test_dirt_is_told_in_a_few_rows_flown_to_accepted_and_released(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "finder-shoe.stl")
    rows = page.get_by_test_id(re.compile("^finding-"))
    expect(rows).to_have_count(3)
    open_edges = page.get_by_test_id("finding-open-edges")
    expect(open_edges).to_contain_text("16 open edges around 4 holes in 4 bodies")
    fly = open_edges.get_by_role("button", name="open edges")
    fly.click()
    expect(open_edges).to_contain_text("place 1 of")
    fly.click()
    expect(open_edges).to_contain_text("place 2 of")
    expect(page.get_by_role("main", name="Intake")).to_contain_text("17 triangles were set aside")
    open_edges.get_by_role("button", name="Accept as it is").click()
    open_edges.get_by_placeholder("why it is right here").fill("a grip that is glued on")
    page.keyboard.press("Enter")
    expect(open_edges.get_by_role("button", name="Accept as it is")).to_have_count(0)
    desk.sheet("Release")
    page.get_by_role("button", name="Write, read back, compare").click()
    locator = page.get_by_test_id("release-1")
    expect(locator).to_contain_text("proven", ignore_case=True, timeout=30_000)
    expect(locator).to_contain_text("Accepted on purpose: finder shoe speck 1, finder shoe speck 8")
    expect(locator).to_contain_text(
        "16 open edges around 4 holes in 4 bodies, accepted: a grip that is glued on."
    )
    expect(locator).to_contain_text("set aside since they bound nothing or are there twice")
    # Each number of the proof is seen whole within its card.
    card, table = locator.bounding_box(), locator.get_by_role("table").bounding_box()
    assert card
    assert table
    assert table["x"] + table["width"] <= card["x"] + card["width"]


def finely_cut_block() -> Mesh:
    """A block of 80 x 40 x 30 of so many triangles that it is drawn reduced."""
    return mesh_of(manifold3d.Manifold.cube((80, 40, 30)).refine_to_length(0.31))


def test_places_are_picked_on_the_mesh_itself_when_a_reduced_one_is_drawn(desk: Desk, tmp_path: Path) -> None:
    page = desk.page
    path = tmp_path / "counterweight block.stl"
    path.write_bytes(stl.write_binary(finely_cut_block(), "block"))
    mesh = stl.read(path.read_bytes()).parts[0].mesh
    assert mesh.triangles >= REDUCED_FROM

    desk.opened(path, "millimetre")
    desk.sheet("Truing")
    page.get_by_role("button", name="Pick", exact=True).click()
    expect(page.get_by_text("fetching every triangle")).to_have_count(0, timeout=30_000)
    for x, y in desk.ends_of("x"):
        page.mouse.move(x, y - 6)
        expect(page.get_by_test_id("snap")).to_have_text("vertex")
        page.mouse.click(x, y - 6)
    expect(page.get_by_test_id("reading-1")).to_contain_text(re.compile(r"(79|80)\.\d\d"))

    job = page.request.get(f"{desk.address}/api/jobs/{page.url.split('/')[-2]}").json()["job"]["job"]
    places = job["readings"][0]["gauge"]["points"]
    assert [_has(mesh, place) for place in places] == [True, True]
    assert not all(_has(reduced(mesh), place) for place in places)


def _has(mesh: Mesh, place: list[float]) -> bool:
    return bool((mesh.vertices == place).all(axis=1).any())
