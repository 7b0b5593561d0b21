"""aimtrue fit, walls, offset, must-hold and inspection, called as a script calls them."""

import json
from pathlib import Path

import numpy as np
import pytest
from manifold3d import Manifold

from aimtrue.core.mesh.solids import mesh_of
from tests.cli.running import run
from tests.cli.test_shape import Told, made, read
from tests.shapes import binary_stl, corners_of


def rod(diameter: float, length: float) -> Manifold:
    return Manifold.cylinder(length, diameter / 2, diameter / 2, 96)


def written(path: Path, solid: Manifold) -> Path:
    path.write_bytes(binary_stl(corners_of(mesh_of(solid))))
    return path


@pytest.fixture
def collar(tmp_path: Path) -> Path:
    return written(tmp_path / "collar.stl", Manifold.cube((40, 30, 8)) - rod(5.3, 20).translate((12, 15, -5)))


@pytest.fixture
def knob(tmp_path: Path) -> Path:
    return written(tmp_path / "knob shaft.stl", rod(5, 20).translate((12, 15, -6)))


def test_a_fit_is_told_as_the_files_lie_and_axis_to_axis(
    collar: Path, knob: Path, tmp_path: Path, capsys: Told
) -> None:
    answer = made(capsys, "fit", collar, knob, "--intent", "slides")
    (pair,) = answer["pairs"]
    assert (pair["kind"], pair["a"], pair["b"]) == ("bore and shaft", "collar", "knob shaft")
    assert pair["diameter_mm"] == pytest.approx([5.3, 5], abs=1e-5)
    assert (pair["clearance_mm"], pair["engaged_mm"]) == (pytest.approx(0.3, abs=1e-5), 8)
    assert pair["verdict"] == "holds"
    assert answer["least_mm"] == pytest.approx(0.15, abs=1e-3)
    assert answer["overlap_mm3"] == 0
    aside = written(tmp_path / "aside.stl", rod(5, 20).rotate((90, 0, 0)).translate((90, 0, 0)))
    assert made(capsys, "fit", collar, aside)["pairs"] == []
    tried = made(capsys, "fit", collar, aside, "--place", "axis", "--intent", "press")
    assert tried["pairs"][0]["verdict"] == "does not hold"
    assert tried["least_mm"] == pytest.approx(0.15, abs=1e-3)
    assert tried["overlap_mm3"] == 0


def test_a_factor_is_told_in_what_it_does_to_a_fit(collar: Path, knob: Path, capsys: Told) -> None:
    answer = made(capsys, "fit", collar, knob, "--factor", "0.6", "--intent", "slides")
    assert answer["pairs"][0]["clearance_mm"] == pytest.approx(0.18, abs=1e-5)
    assert answer["pairs"][0]["verdict"] == "does not hold"


def test_what_fills_the_same_place_is_told_by_its_volume(collar: Path, tmp_path: Path, capsys: Told) -> None:
    post = written(tmp_path / "post.stl", Manifold.cube((4, 4, 4)).translate((30, 20, 6)))
    answer = made(capsys, "fit", collar, post)
    assert (answer["least_mm"], answer["overlap_mm3"]) == (0, pytest.approx(32, rel=1e-6))


def test_a_fit_of_other_than_two_bodies_is_refused(collar: Path, capsys: Told) -> None:
    code, _, err = run(capsys, "fit", collar, "--unit", "mm")
    assert (code, "between two bodies" in err) == (2, True)


def test_walls_are_told_with_the_least_and_the_share(tmp_path: Path, capsys: Told) -> None:
    solid = Manifold.cube((20, 20, 10)) - Manifold.cube((18.8, 15, 20)).translate((0.6, 2.5, -1))
    frame = written(tmp_path / "frame.stl", solid)
    answer = made(capsys, "walls", frame, "--under", "0.7")
    assert answer["least_mm"] == pytest.approx(0.6, abs=1e-5)
    assert min(answer["at"][0], 20 - answer["at"][0]) == pytest.approx(0.3, abs=1e-5)
    assert answer["share_under"] == pytest.approx(600 / mesh_of(solid).area(), rel=5e-3)
    assert made(capsys, "walls", frame, "--factor", "2")["least_mm"] == pytest.approx(1.2, abs=1e-5)
    code, out, _ = run(capsys, "walls", frame, "--unit", "mm")
    assert (code, "least wall 0.600 mm, 1.5 beads" in out) == (0, True)


def test_faces_are_moved_and_written_proven(collar: Path, tmp_path: Path, capsys: Told) -> None:
    out = tmp_path / "out"
    answer = made(capsys, "offset", collar, "--face", "12,17.65,4", "--by=-0.1", "--out", out)
    assert answer["moved_mm"] == {
        key: pytest.approx(-0.1, abs=1e-6) for key in ("asked", "least", "greatest")
    }
    (body,) = answer["bodies"]
    ring = 96 / 8 * np.sin(2 * np.pi / 96)
    assert body["volume_mm3"] == pytest.approx(9600 - 8 * ring * 5.5**2, rel=1e-6)
    assert read(body["path"]).volume() == pytest.approx(body["volume_mm3"], rel=1e-5)
    grown = made(capsys, "offset", collar, "--all", "--by", "0.02in", "--out", tmp_path / "grown")
    assert grown["bodies"][0]["size_mm"] == pytest.approx([41.016, 31.016, 9.016], abs=1e-5)
    code, _, err = run(
        capsys,
        "offset",
        collar,
        "--unit",
        "mm",
        "--face",
        "12,17.65,4",
        "--by",
        "3",
        "--out",
        tmp_path / "no",
    )
    assert (code, "would pass its axis" in err) == (2, True)
    assert not list((tmp_path / "no").glob("*"))


def test_the_help_lists_what_rooms_answer(capsys: Told) -> None:
    _, out, _ = run(capsys, "--help")
    assert "how two bodies go together" in out


def test_what_must_hold_is_told_before_and_after_a_factor(collar: Path, knob: Path, capsys: Told) -> None:
    files = (collar, knob, "--unit", "mm", "--pairs")
    answer = made(capsys, "must-hold", collar, knob, "--pairs")
    assert (answer["hold"], answer["of"]) == (3, 3)
    code, out, _ = run(capsys, "must-hold", *files, "--factor", "0.6", "--json")
    rows = {row["kind"]: row for row in json.loads(out)["rows"]}
    assert code == 5
    assert (rows["pair"]["before"], rows["pair"]["after"]) == ("0.300", "0.180")
    assert "Close collar" in rows["pair"]["remedy"] or "Open collar" in rows["pair"]["remedy"]
    assert rows["machine"]["verdict"] == "holds"
    code, out, _ = run(capsys, "must-hold", *files, "--factor", "0.6", "--keep-bores")
    assert "holds         kept bore   a bore of collar: ø 5.300 before, ø 5.300 after" in out
    assert run(capsys, "must-hold", collar, "--unit", "mm", "--machine", "30 x 30 x 30")[0] == 5


def test_printed_parts_are_held_against_what_they_are_to_measure(
    collar: Path, knob: Path, tmp_path: Path, capsys: Told
) -> None:
    table, sheet = tmp_path / "table.csv", tmp_path / "sheet.pdf"
    files = ("inspection", collar, knob, "--pairs")
    answer = made(capsys, *files, "--table", table, "--sheet", sheet)
    assert answer["paths"] == [str(table), str(sheet)]
    assert sheet.read_bytes().startswith(b"%PDF")
    lines = table.read_text().splitlines()
    bore = next(line for line in lines if ",bore of bore and shaft," in line)
    table.write_text(f"{lines[0]},ours,theirs\n{bore},5.32,5.61\n")
    code, out, _ = run(capsys, *files, "--unit", "mm", "--measured", table, "--json")
    (row,) = [row for row in json.loads(out)["rows"] if row["values"]]
    assert (code, row["out"], row["mean_mm"]) == (5, 1, pytest.approx(5.465))
    code, out, _ = run(capsys, *files, "--unit", "mm", "--measured", table, "--tolerance", "0.4")
    assert code == 0
    assert "measured 5.320, 5.610, mean 5.465: all in" in out
    assert run(capsys, *files, "--unit", "mm", "--sheet", sheet)[0] == 6
    assert run(capsys, *files, "--unit", "mm", "--measured", tmp_path / "none.csv")[0] == 3
    table.write_text("what,ours\nbore,5.32\n")
    code, _, err = run(capsys, *files, "--unit", "mm", "--measured", table)
    assert (code, "no column “key”" in err) == (2, True)
