"""aimtrue divide, trial, split, hollow, join, cut, common and outline, called as a script calls them."""

import json
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pytest
from manifold3d import Manifold

from aimtrue.core.formats import read_model, threemf
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.lengths import Unit
from tests.cli.running import run
from tests.shapes import binary_stl, box, corners_of

Told = pytest.CaptureFixture[str]
BLOCK = Manifold.cube((60, 40, 30))


@pytest.fixture
def block(tmp_path: Path) -> Path:
    path = tmp_path / "block.stl"
    path.write_bytes(binary_stl(corners_of(mesh_of(BLOCK))))
    return path


def made(told: Told, *arguments: object) -> dict[str, Any]:
    code, out, err = run(told, *arguments, "--unit", "mm", "--json")
    assert code == 0, err
    answer = json.loads(out)
    assert {"findings", "seconds"} <= set(answer)
    return answer  # type: ignore[no-any-return]


def read(path: str) -> Mesh:
    return read_model(Path(path).name, Path(path).read_bytes()).whole()


def test_pieces_are_written_proven_and_add_up(block: Path, tmp_path: Path, capsys: Told) -> None:
    planes = ("--plane", "z=10", "--plane", "x=2cm")
    answer = made(capsys, "divide", block, *planes, "--pins", "3,6,0.2,2", "--out", tmp_path / "out")
    assert answer["whole"] == {"volume_mm3": pytest.approx(72000), "closed": True}
    assert answer["difference"] < 1e-9
    places = [piece["place"] for piece in answer["pieces"]]
    assert places == ["lower left", "lower right", "upper left", "upper right"]
    assert all(piece["closed"] and piece["fits"] for piece in answer["pieces"])
    assert answer["pieces"][0]["size_mm"] == pytest.approx([20, 40, 10], abs=1e-6)
    for piece in answer["pieces"]:
        assert read(piece["path"]).volume() == pytest.approx(piece["volume_mm3"], rel=1e-5)
    assert answer["dowels"]["count"] == 8
    dowel = read(answer["dowels"]["path"])
    assert dowel.volume() == pytest.approx(answer["dowels"]["volume_mm3"], rel=1e-5)
    assert np.ptp(dowel.vertices, axis=0) == pytest.approx([3, 3, 12], abs=1e-4)
    again = run(capsys, "divide", block, "--unit", "mm", *planes, "--out", tmp_path / "out")
    assert (again[0], "exists already" in again[2]) == (6, True)


def test_positions_are_on_the_corrected_body(block: Path, tmp_path: Path, capsys: Told) -> None:
    answer = made(capsys, "divide", block, "--factor", "1.5", "--plane", "z=9", "--out", tmp_path / "out")
    assert [piece["size_mm"] for piece in answer["pieces"]] == [
        pytest.approx([90, 60, 9], abs=1e-5),
        pytest.approx([90, 60, 36], abs=1e-5),
    ]
    assert read(answer["pieces"][0]["path"]).bounds()[1] == pytest.approx([90, 60, 9], abs=1e-5)


def test_pieces_to_fit_a_machine_and_one_side_kept(block: Path, tmp_path: Path, capsys: Told) -> None:
    fitted = made(capsys, "divide", block, "--fit", "35 x 50 x 50", "--margin", "2", "--out", tmp_path / "a")
    assert [piece["fits"] for piece in fitted["pieces"]] == [True, True]
    tilted = made(
        capsys, "divide", block, "--plane", "0,0.6,0.8 @ 30", "--keep", "below", "--out", tmp_path / "b"
    )
    (kept,) = tilted["pieces"]
    assert kept["place"] == "below A"
    assert (read(kept["path"]).vertices @ [0, 0.6, 0.8]).max() == pytest.approx(30, abs=1e-5)


def test_a_trial_a_split_and_a_hollow(block: Path, tmp_path: Path, capsys: Told) -> None:
    trial = made(capsys, "trial", block, "--between", "x=10..14", "--out", tmp_path / "a")
    assert trial["bodies"][0]["volume_mm3"] == pytest.approx(4 * 40 * 30)
    assert (trial["before_mm3"], trial["difference"]) == (pytest.approx(72000), pytest.approx(0, abs=1e-12))
    split = made(capsys, "split", block, "--above", "z=28", "--out", tmp_path / "b")
    assert [body["volume_mm3"] for body in split["bodies"]] == pytest.approx([4800, 67200])
    drawing = tmp_path / "ring.svg"
    drawing.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'
        '<rect x="10" y="5" width="20" height="10"/></svg>'
    )
    inside = made(capsys, "split", block, "--inside", drawing, "--depth", "3", "--out", tmp_path / "c")
    first = inside["bodies"][0]
    assert first["volume_mm3"] == pytest.approx(600)
    assert read(first["path"]).bounds() == pytest.approx(np.array([[10, 25, 27], [30, 35, 30]]), abs=1e-5)
    hollow = made(capsys, "hollow", block, "--wall", "2", "--drain", "4", "--out", tmp_path / "d")
    assert hollow["wall_mm"] == pytest.approx({"asked": 2, "least": 2, "greatest": 2})
    drain = 2 * 48 / 2 * 4 * np.sin(2 * np.pi / 48)
    assert hollow["bodies"][0]["volume_mm3"] == pytest.approx(72000 - 56 * 36 * 26 - drain, rel=1e-6)
    assert read(hollow["bodies"][0]["path"]).topology.closed


def test_raised_faces_two_colours_and_a_drain_where_it_is_told(tmp_path: Path, capsys: Told) -> None:
    bars = [Manifold.cube((6, 2, 1)).translate((x, 8, 10)) for x in (5, 20)]
    dial = tmp_path / "dial.stl"
    dial.write_bytes(binary_stl(corners_of(mesh_of(Manifold.cube((40, 30, 10)) + bars[0] + bars[1]))))
    one = made(capsys, "split", dial, "--face", "8,9,11", "--factor", "1", "--out", tmp_path / "a")
    assert [body["volume_mm3"] for body in one["bodies"]] == pytest.approx([12, 12012])
    both = made(
        capsys, "split", dial, "--face", "8,9,11", "--alike", "--depth", "0.5", "--out", tmp_path / "b"
    )
    assert [body["volume_mm3"] for body in both["bodies"]] == pytest.approx([36, 11988])
    assert both["difference"] < 1e-9
    hollow = made(capsys, "hollow", dial, "--wall", "2", "--drain", "3 @ 40,15,5", "--out", tmp_path / "c")
    holed = read(hollow["bodies"][0]["path"])
    assert np.hypot(*(holed.vertices[holed.vertices[:, 0] > 39.9][:, 1:] - [15, 5]).T).min() == pytest.approx(
        1.5, abs=1e-3
    )


def test_several_bodies_are_cut_by_the_same_planes_and_none_is_lost(tmp_path: Path, capsys: Told) -> None:
    items = [threemf.BuildObject("a", mesh_of(BLOCK)), threemf.BuildObject("b", box(5, 5, 8, at=(70, 0, 0)))]
    kit = tmp_path / "kit.3mf"
    kit.write_bytes(threemf.write(items, Unit.MM, "kit", ""))
    answer = made(capsys, "divide", kit, "--plane", "z=20", "--out", tmp_path / "out")
    assert [piece["name"] for piece in answer["pieces"]] == ["a 1, lower", "a 2, upper", "b"]
    assert answer["whole"]["volume_mm3"] == pytest.approx(72000 + 200)
    limited = ("--plane", "z=20", "--plane", "x=30 tilted 20 about z where above A")
    parted = made(capsys, "divide", kit, "--body", "a", *limited, "--out", tmp_path / "b")
    assert [piece["volume_mm3"] for piece in parted["pieces"]] == pytest.approx([48000, 12000, 12000])
    planes = [word for at in range(1, 30) for word in ("--plane", f"z={at}", "--plane", f"x={2 * at}")]
    code, _, err = run(capsys, "divide", kit, "--body", "a", *planes, "--out", tmp_path / "c")
    assert (code, "say that so many are meant" in err) == (2, True)


def test_an_open_body_is_cut_on_purpose(tmp_path: Path, capsys: Told) -> None:
    whole = mesh_of(BLOCK)
    lid = (whole.vertices[whole.faces][:, :, 2] > 29.9).all(axis=1)
    gaping = tmp_path / "open.stl"
    gaping.write_bytes(binary_stl(whole.vertices[whole.faces[~lid]]))
    answer = made(capsys, "divide", gaping, "--plane", "z=20", "--open", "--out", tmp_path / "out")
    assert answer["whole"] == {"volume_mm3": None, "closed": False}
    assert [piece["closed"] for piece in answer["pieces"]] == [True, False]
    assert answer["stays_open"] == ["4 edges stay open of 2, upper"]
    assert read(answer["pieces"][0]["path"]).volume() == pytest.approx(48000)


def test_two_bodies_of_one_file_or_of_two(block: Path, tmp_path: Path, capsys: Told) -> None:
    rod = tmp_path / "rod.stl"
    rod.write_bytes(binary_stl(corners_of(mesh_of(Manifold.cube((10, 10, 50)).translate((5, 5, 0))))))
    volumes = {
        how: made(capsys, how, block, rod, "--out", tmp_path / how)["bodies"][0]["volume_mm3"]
        for how in ("join", "cut", "common")
    }
    assert volumes == pytest.approx({"join": 74000, "cut": 69000, "common": 3000})
    apart = made(capsys, "split-by", block, rod, "--out", tmp_path / "apart")["bodies"]
    assert [body["volume_mm3"] for body in apart] == pytest.approx([69000, 3000])
    items = [
        threemf.BuildObject("a", mesh_of(BLOCK)),
        threemf.BuildObject("b", box(5, 5, 40)),
        threemf.BuildObject("c", box(1, 1, 1)),
    ]
    kit = tmp_path / "kit.3mf"
    kit.write_bytes(threemf.write(items, Unit.MM, "kit", ""))
    turned = made(capsys, "cut", kit, "--body", "b", "--body", "a", "--out", tmp_path / "turned")
    assert turned["bodies"][0]["volume_mm3"] == pytest.approx(250)
    code, _, err = run(capsys, "join", kit, "--out", tmp_path / "no", "--json")
    assert (code, "two are wanted" in err) == (2, True)


def test_an_outline_of_true_size(block: Path, tmp_path: Path, capsys: Told) -> None:
    dxf = tmp_path / "o.dxf"
    answer = made(capsys, "outline", block, "--plane", "z=5", "--dxf", dxf)
    assert (answer["outline"]["area_mm2"], answer["outline"]["outline_mm"]) == pytest.approx((2400, 200))
    (line,) = ezdxf.readfile(dxf).modelspace().query("LWPOLYLINE")  # type: ignore[attr-defined]
    assert np.ptp(np.array(line.get_points("xy")), axis=0) == pytest.approx([60, 40])  # type: ignore[attr-defined]
    seen = made(capsys, "outline", block, "--silhouette", "x", "--svg", tmp_path / "o.svg")
    assert seen["outline"]["area_mm2"] == pytest.approx(1200, rel=1e-6)


@pytest.mark.parametrize(
    ("arguments", "code", "says"),
    [
        (("divide", "--plane", "z=90"), 2, "misses the body"),
        (("divide", "--plane", "z=5", "--plane", "z=5"), 2, "one and the same"),
        (("divide", "--plane", "q=5"), 2, "is no plane"),
        (("divide",), 2, "no plane was told"),
        (("divide", "--plane", "z=5", "--pins", "3,8"), 2, "diameter,depth,clearance"),
        (("divide", "--plane", "z=5", "--pins", "3,8,0.2,25"), 2, "25 pins on a cut face are not made"),
        (("trial", "--between", "z=5"), 2, "AXIS=LOW..HIGH"),
        (("trial", "--between", "z=50..60"), 2, "nothing between"),
        (("hollow", "--wall", "30"), 2, "no room left"),
        (("split", "--above", "z=30"), 2, "nothing of the body"),
        (("split", "--inside", "missing.svg"), 3, "cannot be opened"),
    ],
)
def test_what_makes_no_sense_is_said_and_nothing_is_written(
    block: Path, tmp_path: Path, capsys: Told, arguments: tuple[str, ...], code: int, says: str
) -> None:
    out = tmp_path / "out"
    got, _, err = run(capsys, arguments[0], block, *arguments[1:], "--unit", "mm", "--out", out)
    assert (got, says in err) == (code, True), err
    assert not out.exists() or not list(out.iterdir())


def test_an_open_body_is_refused_with_its_remedy(tmp_path: Path, capsys: Told) -> None:
    path = tmp_path / "lid.stl"
    path.write_bytes(binary_stl(corners_of(Mesh(box(9, 9, 9).vertices, box(9, 9, 9).faces[2:]))))
    code, _, err = run(capsys, "divide", path, "--unit", "mm", "--plane", "z=4", "--out", tmp_path / "out")
    assert code == 5
    assert "close its holes" in err
