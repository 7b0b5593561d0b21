"""Every format through the browser, and what is done with bodies there that no other test clicks."""

import gzip
import io
import zipfile
from pathlib import Path

import numpy as np
from playwright.sync_api import expect

from aimtrue.core.formats import obj
from aimtrue.core.mesh.mesh import Mesh
from tests.browser.conftest import Desk
from tests.shapes import bar, binary_stl, box, corners_of


def block(number: int) -> Mesh:
    """A block of 20 x 30 x 50, beside those of lower numbers."""
    return box(20, 30, 50).mapped(lambda v: v + np.array([30.0 * number, 0.0, 0.0]))


def as_ply(mesh: Mesh) -> bytes:
    head = ["ply", "format ascii 1.0", "element vertex 8"]
    head += [f"property float {axis}" for axis in "xyz"]
    head += ["element face 12", "property list uchar int vertex_indices", "end_header"]
    rows = [" ".join(map(str, row)) for row in mesh.vertices.tolist()]
    rows += ["3 " + " ".join(map(str, row)) for row in mesh.faces.tolist()]
    return "\n".join([*head, *rows, ""]).encode()


def as_zip(mesh: Mesh) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as package:
        package.writestr("parts/zipped.stl", binary_stl(corners_of(mesh)))
        package.writestr("notes.txt", "hello")
    return out.getvalue()


def as_cad(path: Path, number: int) -> None:
    from demo.solids import box, write_brep, write_iges

    low = block(number).bounds()[0]
    solid = box(20, 30, 50).at(low[0] + 10, low[1] + 15, low[2])
    (write_brep if path.suffix == ".brep" else write_iges)(solid, path)


def test_every_format_is_dropped_sized_and_released(desk: Desk, tmp_path: Path) -> None:
    made = {
        "block.obj": obj.write(block(0), [("block", 12)], "Larch Hill"),
        "flat.ply": as_ply(block(1)),
        "packed.stl.gz": gzip.compress(binary_stl(corners_of(block(2)))),
        "kit.zip": as_zip(block(3)),
    }
    for name, data in made.items():
        (tmp_path / name).write_bytes(data)
    for number, name in enumerate(("solid.igs", "solid.brep"), len(made)):
        as_cad(tmp_path / name, number)
    first, *others = [*made, "solid.igs", "solid.brep"]
    page = desk.page
    desk.opened(tmp_path / first)  # type: ignore[operator]
    for name in others:
        desk.drop_here(tmp_path / name, "[data-testid=bench]")
    expect(page.get_by_role("heading", name="Bodies (6)")).to_be_visible(timeout=60_000)
    page.get_by_text("files without a unit alike").get_by_role("button", name="millimetre").click()
    expect(page.get_by_role("button", name="block and 5 alike")).to_be_visible()
    expect(page.get_by_text("20.00 × 30.00 × 50.00, 30.00 cm³, 12 tri")).to_be_visible()
    desk.sheet("Release")
    page.get_by_role("button", name="Write, read back, compare").click()
    expect(page.get_by_test_id("release-1")).to_be_visible(timeout=60_000)


def test_bodies_are_taken_as_one_separated_duplicated_and_joined(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "clamp-shells.stl", "millimetre")
    page.get_by_role("button", name="Select all").click()
    page.get_by_role("button", name="Join into one solid").click()
    expect(page.get_by_text("neither touch nor overlap")).to_be_visible(timeout=30_000)
    page.get_by_role("button", name="Take as one").click()
    expect(page.get_by_role("heading", name="Body", exact=True)).to_be_visible(timeout=30_000)
    page.get_by_role("toolbar", name="Selected bodies").get_by_role("button", name="Separate").click()
    expect(page.get_by_role("heading", name="Bodies (2)")).to_be_visible(timeout=30_000)
    page.get_by_role("button", name="Select all").click()
    desk.typed("Name of all selected", "half")
    expect(page.get_by_test_id("body-half 1")).to_be_visible()
    expect(page.get_by_test_id("body-half 2")).to_be_visible()
    page.get_by_role("button", name="Take out of the kit").click()
    expect(page.get_by_role("button", name="Make a kit")).to_be_visible()
    # What has no common size is decided together all the same.
    desk.sheet("Truing")
    desk.typed("Factor of all selected", "1.1")
    page.get_by_role("button", name="Undo: factor 1.1 for 2 bodies").click()
    desk.sheet("Intake")
    page.get_by_role("button", name="Make a kit").click()
    expect(page.get_by_role("button", name="Take out of the kit")).to_be_visible()
    page.get_by_role("button", name="Duplicate").click()
    expect(page.get_by_role("heading", name="Bodies (4)")).to_be_visible()


def test_a_lost_model_comes_home_and_stands_up(desk: Desk, demo: Path) -> None:
    page = desk.page
    desk.opened(demo / "counterweight.stl", "millimetre")
    page.get_by_role("button", name="Bring home").click()
    expect(page.get_by_test_id("finding-far-from-origin")).to_have_count(0)
    up = page.get_by_role("group", name="Up axis")
    for axis, size in (("Y", "80.00 × 79.98 × 60.00"), ("X", "60.00 × 79.98 × 80.00")):
        up.get_by_role("button", name=axis, exact=True).click()
        desk.overall(size)


def test_a_bar_that_runs_through_itself_is_resolved(desk: Desk, tmp_path: Path) -> None:
    path = tmp_path / "bracket.stl"
    path.write_bytes(binary_stl(corners_of(bar([(0, 0), (20, 0), (20, 10), (10, 10), (10, -8)], 2, 3, 1.5))))
    page = desk.page
    desk.opened(path, "millimetre")
    finding = page.get_by_test_id("finding-crossings")
    expect(finding).to_contain_text("faces cut through each other")
    finding.get_by_role("button", name="Resolve").click()
    report = page.get_by_test_id("mended")
    expect(report).to_contain_text("crossings resolved", timeout=30_000)
    expect(page.get_by_test_id("finding-crossings")).to_have_count(0)
