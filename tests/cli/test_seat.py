"""aimtrue seat and aimtrue section, called as a script calls them."""

import json
from pathlib import Path

import ezdxf
import manifold3d
import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from aimtrue.core.formats import read_model
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import mesh_of
from tests.cli.running import run
from tests.shapes import binary_stl, box, corners_of

Told = pytest.CaptureFixture[str]


def written(path: Path, mesh: Mesh) -> Path:
    path.write_bytes(binary_stl(corners_of(mesh)))
    return path


def tilted(degrees: float) -> Mesh:
    matrix = Rotation.from_euler("y", degrees, degrees=True).as_matrix()
    return box(40, 25, 10).mapped(lambda v: v @ matrix.T)


def seated(told: Told, *arguments: object) -> dict:  # type: ignore[type-arg]
    code, out, err = run(told, "seat", *arguments, "--json")
    answer = json.loads(out)
    assert code == (5 if answer["unplaced"] else 0), err
    return answer  # type: ignore[no-any-return]


def test_a_tilted_part_is_told_and_levelled(tmp_path: Path, capsys: Told) -> None:
    path = written(tmp_path / "part.stl", tilted(0.3))
    (plate,) = seated(capsys, path, "--unit", "mm")["plates"]
    (seat,) = plate["seats"]
    assert seat["tilt_deg"] == pytest.approx(0.3, abs=1e-4)
    assert seat["gap_mm"] == pytest.approx(40 * np.sin(np.radians(0.3)), abs=1e-4)
    (level,) = seated(capsys, path, "--unit", "mm", "--level")["plates"][0]["seats"]
    assert (level["tilt_deg"], level["gap_mm"], level["islands"]) == (0, 0, 1)
    assert level["contact_mm2"] == pytest.approx(1000, rel=1e-4)
    # The matrix brings numbers of the file to where they are told to be.
    points = read_model("part.stl", path.read_bytes()).whole().vertices
    there = points @ np.array(level["matrix"])[:3, :3].T + np.array(level["matrix"])[:3, 3]
    np.testing.assert_allclose(there.min(axis=0), level["low_mm"], atol=1e-9)
    np.testing.assert_allclose(there.max(axis=0), level["high_mm"], atol=1e-9)


def test_the_best_way_to_stand_and_all_others_are_told(tmp_path: Path, capsys: Told) -> None:
    arch = manifold3d.Manifold.cube((40, 30, 20)) - manifold3d.Manifold.cube((20, 40, 15)).translate(
        (10, -5, 0)
    )
    answer = seated(capsys, written(tmp_path / "arch.stl", mesh_of(arch)), "--unit", "mm", "--rest", "best")
    down = next(one for one in answer["rests"]["arch"] if one["down"] == [0, 0, -1])
    assert (down["contact_mm2"], down["overhang_mm2"]) == pytest.approx((600, 600))
    assert answer["plates"][0]["seats"][0]["overhang_mm2"] == 0
    (given,) = seated(capsys, tmp_path / "arch.stl", "--unit", "mm", "--rest", "0,0,-1")["plates"][0]["seats"]
    assert (given["islands"], given["overhang_mm2"]) == (2, pytest.approx(600))


def test_copies_of_several_files_go_on_as_many_plates_as_they_take(tmp_path: Path, capsys: Told) -> None:
    path = written(tmp_path / "one.stl", box(80, 70, 10))
    two = written(tmp_path / "two.stl", box(30, 20, 130))
    out = tmp_path / "out"
    arguments = ("--unit", "mm", "--machine", "Garden bench S", "--copies", "2", "--gap", "5", "--out", out)
    answer = seated(capsys, path, two, *arguments)
    assert answer["machine"] == {"name": "Garden bench S", "shape": "box", "size_mm": [120, 120, 120]}
    assert [len(plate["seats"]) for plate in answer["plates"]] == [1, 1]
    assert [one["body"] for one in answer["unplaced"]] == ["two", "two"]
    assert answer["unplaced"][0]["over_mm"] == [0, 0, 10]
    assert "Z by 10.00 mm" in answer["unplaced"][0]["says"]
    assert "files" not in answer  # a plate without a part that was asked for is not written
    assert not out.exists()
    answer = seated(capsys, path, *arguments)
    assert [Path(one["path"]).name for one in answer["files"]] == ["one_plate-1.3mf", "one_plate-2.3mf"]
    (seat,) = answer["plates"][0]["seats"]
    mesh = read_model("a.3mf", (out / "one_plate-1.3mf").read_bytes()).whole()
    np.testing.assert_allclose(mesh.bounds(), [seat["low_mm"], seat["high_mm"]], atol=1e-5)


def test_a_round_machine_and_a_margin(tmp_path: Path, capsys: Told) -> None:
    path = written(tmp_path / "part.stl", box(70, 70, 10))
    answer = seated(capsys, path, "--unit", "mm", "--machine", "round 100 x 50")
    assert answer["machine"]["size_mm"] == [100, 50]
    assert answer["plates"][0]["seats"][0]["inside"]
    assert (
        seated(capsys, path, "--unit", "mm", "--machine", "round 100 x 50", "--margin", "2")["plates"] == []
    )


@pytest.mark.parametrize(
    "wrong",
    [
        ("--machine", "nobody"),
        ("--machine", "0 x 10 x 10"),
        ("--margin", "-2"),
        ("--turn", "z=round"),
        ("--turn", "w=3"),
        ("--copies", "0"),
        ("--rest", "sideways"),
        ("--gap", "-1"),
        ("--body", "nothing"),
    ],
)
def test_what_makes_no_sense_is_a_usage_error(wrong: tuple[str, str], tmp_path: Path, capsys: Told) -> None:
    path = written(tmp_path / "part.stl", box(20, 20, 10))
    code, out, err = run(capsys, "seat", path, "--unit", "mm", *wrong)
    assert (code, out) == (2, "")
    assert len(err.strip().splitlines()) == 1


def test_an_open_unit_is_not_seated(tmp_path: Path, capsys: Told) -> None:
    code, _, err = run(capsys, "seat", written(tmp_path / "part.stl", box(2, 3, 5)))
    assert code == 4
    assert "part.stl" in err


def test_sections_at_places_and_in_layers(tmp_path: Path, capsys: Told) -> None:
    tube = manifold3d.Manifold.cylinder(20, 10, 10, 96) - manifold3d.Manifold.cylinder(20, 6, 6, 96)
    path = written(tmp_path / "tube.stl", mesh_of(tube))
    svg, dxf = tmp_path / "cut.svg", tmp_path / "cut.dxf"
    places = ("--factor", "2", "--at", "z=1 cm", "--at", "x=0", "--svg", svg, "--dxf", dxf)
    code, out, _ = run(capsys, "section", path, "--unit", "mm", *places, "--json")
    assert code == 0
    across, along = json.loads(out)["sections"]
    area = 4 * 48 * np.sin(2 * np.pi / 96) * (100 - 36)
    assert (across["axis"], across["at_mm"], across["islands"], across["holes"]) == ("z", 10, 1, 1)
    assert across["area_mm2"] == pytest.approx(area, rel=1e-6)
    assert (along["islands"], along["holes"]) == (2, 0)
    assert along["area_mm2"] == pytest.approx(2 * 8 * 40, rel=1e-6)
    assert 'width="' in svg.read_text()
    lines = list(ezdxf.readfile(dxf).modelspace())  # type: ignore[attr-defined]
    assert [line.dxf.layer for line in lines] == ["Z 10", "Z 10", "X 0", "X 0"]
    assert all(line.closed for line in lines)  # type: ignore[attr-defined]
    code, out, _ = run(capsys, "section", path, "--unit", "mm", "--layers", "0.5", "--json")
    layers = json.loads(out)["sections"]
    assert [layer["at_mm"] for layer in layers][:2] == [0.25, 0.75]
    assert len(layers) == 40
    code, _, err = run(capsys, "section", path, "--unit", "mm", "--at", "z=1", "--svg", svg)
    assert code == 6
    assert "exists already" in err
