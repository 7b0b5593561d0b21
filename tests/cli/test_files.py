"""The command line contract, called as a script calls it."""

import json
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest

from aimtrue.core.formats import read_model
from aimtrue.settings import ROOT, settings
from tests.cli.running import run
from tests.shapes import binary_stl, box, corners_of, eight


@pytest.fixture
def part(tmp_path: Path) -> Path:
    path = tmp_path / "part.stl"
    path.write_bytes(binary_stl(corners_of(box(2, 3, 5))))
    return path


def test_the_entry_point_is_a_command() -> None:
    done = subprocess.run(
        [ROOT / "aimtrue", "inspect", "--help"], capture_output=True, text=True, check=False
    )
    assert done.returncode == 0
    assert "--unit" in done.stdout


def test_inspect_says_candidates_while_the_unit_is_open(
    part: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    code, out, _ = run(capsys, "inspect", part, "--json")
    (report,) = json.loads(out)
    assert code == 0
    assert report["format"] == "stl-binary"
    assert report["triangles"] == 12
    assert report["unit"]["settled"] is None
    assert report["unit"]["how"] == "unsettled"
    assert {row["unit"] for row in report["unit"]["candidates"]} == {"um", "mm", "cm", "m", "in", "ft"}
    assert report["size_mm"] is None
    assert report["bodies"][0]["volume_mm3"] is None
    assert report["findings"][0]["code"] == "unit-unsettled"


def test_inspect_with_a_told_unit(part: Path, capsys: pytest.CaptureFixture[str]) -> None:
    code, out, _ = run(capsys, "inspect", part, "--unit", "cm", "--up", "y", "--json")
    (report,) = json.loads(out)
    assert code == 0
    assert report["unit"]["how"] == "told"
    assert report["size_mm"] == [20, 50, 30]
    assert report["bodies"][0]["volume_mm3"] == pytest.approx(30000)
    assert report["bodies"][0]["area_mm2"] == pytest.approx(6200)
    assert report["bodies"][0]["closed"]
    assert report["bodies"][0]["centre_mm"] == [10, -25, 15]
    assert run(capsys, "inspect", part)[1].startswith(str(part))


def test_inspect_goes_on_after_a_bad_file(
    part: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    bad = tmp_path / "bad.stl"
    bad.write_bytes(b"")
    code, out, err = run(capsys, "inspect", bad, tmp_path / "none.stl", part, "--json")
    assert code == 3
    assert ["failure" in report for report in json.loads(out)] == [True, True, False]
    assert len(err.strip().splitlines()) == 2
    assert "bad.stl" in err
    assert "none.stl" in err


@pytest.mark.parametrize(
    ("options", "size"),
    [
        ([], (50.8, 76.2, 127.0)),
        (["--factor", "50 %"], (25.4, 38.1, 63.5)),
        (["--extent", "x=6 3/4 in"], (171.45, 257.175, 428.625)),
        (["--stretch", "x=10", "--stretch", "z=17.15cm"], (10, 76.2, 171.5)),
        (["--reading", "0,0,0 : 2,0,0 = 171.5"], (171.5, 257.25, 428.75)),
        (["--reading", "0,0,0:0,3,0=76.2 [76..77]"], (50.8, 76.2, 127.0)),
    ],
)
def test_release_sizes(
    part: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], options: list[str], size: object
) -> None:
    code, out, _ = run(capsys, "release", part, "--out", tmp_path / "out", "--unit", "in", "--json", *options)
    assert code == 0
    told = json.loads(out)
    assert told["proof"]["holds"]
    (file,) = told["files"]
    assert file["size_mm"] == pytest.approx(size, rel=1e-6)
    assert file["bodies"] == ["part"]
    back = read_model("a.3mf", Path(file["path"]).read_bytes())
    assert back.unit == "mm"
    assert tuple(back.whole().extents()) == pytest.approx(size, rel=1e-6)


@pytest.mark.parametrize("kind", ["3mf", "stl", "stl-ascii"])
def test_release_in_another_unit(
    part: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], kind: str
) -> None:
    arguments = [
        "release",
        part,
        "--out",
        tmp_path,
        "--unit",
        "cm",
        "--in",
        "in",
        "--format",
        kind,
        "--name",
        "{file}-{unit}",
    ]
    code, out, _ = run(capsys, *arguments, "--json")
    assert code == 0
    path = Path(json.loads(out)["files"][0]["path"])
    assert path.name == ("part-in.3mf" if kind == "3mf" else "part-in.stl")
    assert read_model(path.name, path.read_bytes()).whole().extents() * 25.4 == pytest.approx(
        [20, 30, 50], rel=1e-6
    )
    assert run(capsys, *arguments)[0] == 6
    assert run(capsys, *arguments, "--replace")[0] == 0


@pytest.mark.parametrize(
    ("options", "code"),
    [
        ([], 4),
        (["--unit", "mm", "--factor", "0"], 2),
        (["--unit", "mm", "--extent", "w=3"], 2),
        (["--unit", "mm", "--extent", "x=-3"], 2),
        (["--unit", "mm", "--factor", "2", "--extent", "x=3"], 2),
        (["--unit", "furlong"], 2),
        (["--unit", "mm", "--reading", "0,0,0 - 1,1,1"], 2),
        (["--unit", "mm", "--reading", "0,0,0:0,0,0=3"], 2),
        (["--unit", "mm", "--reading", "0,0,0:0,3,0=9 [3..4]"], 2),
        (["--unit", "mm", "--reading", "0,0,0:1,0,0=9", "--reading", "0,0,0:0,1,0=8"], 5),
        (["--unit", "mm", "--name", "{owner}"], 2),
    ],
)
def test_release_exit_codes(
    part: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], options: list[str], code: int
) -> None:
    out = tmp_path / "out"
    assert run(capsys, "release", part, "--out", out, *options)[0] == code
    assert not out.exists() or not list(out.iterdir())


def test_a_stop_leaves_nothing_behind(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    holed = tmp_path / "holed.stl"
    holed.write_bytes(binary_stl(corners_of(box(2, 3, 5))[1:]))
    out = tmp_path / "out"
    code, _, err = run(capsys, "release", holed, "--out", out, "--unit", "cm")
    assert code == 5
    assert "open edges" in err
    assert not out.exists()
    code, text, _ = run(
        capsys, "release", holed, "--out", out, "--unit", "cm", "--accept", "open-edges", "--json"
    )
    assert code == 0
    assert "open edges" in json.loads(text)["proof"]["accepted"][0]["says"]


def test_bodies_each_or_together(demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    rack = demo / "eyepiece-rack.stl"
    code, out, _ = run(capsys, "release", rack, "--out", tmp_path, "--extent", "x=6 3/4 in", "--json")
    assert code == 0
    files = json.loads(out)["files"]
    assert [file["bodies"] for file in files] == [[f"eyepiece rack {n}"] for n in (1, 2, 3, 4, 5)] + [
        ["eyepiece rack speck 1"]
    ]
    assert files[0]["size_mm"][0] == pytest.approx(171.45, abs=1e-3)
    # The collars keep their place over the base: the common origin is kept.
    collar = read_model("a.3mf", (tmp_path / "eyepiece-rack-2.3mf").read_bytes()).whole()
    base = read_model("a.3mf", (tmp_path / "eyepiece-rack-1.3mf").read_bytes()).whole()
    assert collar.bounds()[0][2] == pytest.approx(base.bounds()[1][2], abs=1e-4)
    assert run(capsys, "release", rack, "--out", tmp_path, "--bodies", "together")[0] == 0
    whole = read_model("a.3mf", (tmp_path / "eyepiece-rack.3mf").read_bytes())
    assert [part.name for part in whole.parts] == [body for file in files for body in file["bodies"]]


@pytest.mark.parametrize("kind", ["3mf", "stl", "stl-ascii", "obj"])
def test_every_format_out_of_cad(
    demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str], kind: str
) -> None:
    options = ["--format", kind, "--bodies", "together", "--in", "in"]
    assert run(capsys, "release", demo / "clamp-shells.step", "--out", tmp_path, *options)[0] == 0
    ending = kind[:3]
    size = read_model(f"a.{ending}", (tmp_path / f"clamp-shells.{ending}").read_bytes()).whole().extents()
    assert size[[0, 2]] * 25.4 == pytest.approx([212, 44], abs=1e-3)


def test_inspect_of_cad_and_of_several_files(demo: Path, capsys: pytest.CaptureFixture[str]) -> None:
    code, out, _ = run(
        capsys,
        "inspect",
        demo / "clamp-shells.step",
        demo / "eyepiece-rack.stl",
        "--json",
        "--deflection",
        "0.1",
    )
    assert code == 0
    clamp, rack = json.loads(out)
    assert (clamp["format"], clamp["unit"]["declared"], clamp["unit"]["how"]) == ("step", "mm", "declared")
    assert [body["name"] for body in clamp["bodies"]] == ["shell, front", "shell, back"]
    assert clamp["bodies"][1]["same_as"] == "shell, front"
    assert all(body["colour"] and body["closed"] for body in clamp["bodies"])
    assert clamp["sources"][0]["fineness"]["chord_mm"] == 0.1
    assert rack["unit"]["settled"] == "in"
    assert rack["unit"]["how"] == "inferred"
    assert [finding["code"] for finding in rack["findings"]] == ["stray"]
    assert run(capsys, "inspect", demo / "clamp-shells.step", "--deflection", "99")[0] == 2


def test_an_archive_is_looked_into(demo: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    packed = tmp_path / "parts.zip"
    with zipfile.ZipFile(packed, "w") as package:
        for name in ("clamp-shells.stl", "counterweight.stl"):
            package.write(demo / name, f"club/{name}")
    (report,) = json.loads(run(capsys, "inspect", packed, "--json")[1])
    assert [source["name"] for source in report["sources"]] == [
        "club/clamp-shells.stl",
        "club/counterweight.stl",
    ]
    assert len(report["bodies"]) == 3


def test_broken_cad_is_told(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    step = tmp_path / "clamp.step"
    step.write_bytes(b"ISO-10303-21;")
    code, _, err = run(capsys, "inspect", step)
    assert code == 3
    assert "cut off" in err
    step.write_bytes(b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=NONSENSE(;\nENDSEC;\nEND-ISO-10303-21;\n")
    assert run(capsys, "inspect", step)[0] == 3


def test_a_folder_that_cannot_be_written(part: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert run(capsys, "release", part, "--out", "/proc/nowhere", "--unit", "mm")[0] == 6


def test_several_readings_are_met_together_or_the_conflict_is_named(
    part: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    across, along = "0,0,0 : 1,0,0 = 2 [1.9..2.1]", "0,0,0 : 0,1,0 = 2.05 [2..2.1]"
    options = ["--unit", "mm", "--json", "--reading", across]
    code, text, _ = run(capsys, "release", part, "--out", tmp_path / "out", *options, "--reading", along)
    assert code == 0
    told = json.loads(text)
    factor = told["files"][0]["factor"]
    assert factor[0] == factor[1] == factor[2]
    assert 2 <= factor[0] <= 2.1
    checks = [one for one in told["proof"]["checks"] if one["code"] == "reading"]
    lengths = [float(check["found"].split()[0]) for check in checks]
    assert lengths == pytest.approx([factor[0], factor[1]], abs=1e-5)
    against = "0,0,0 : 0,1,0 = 3 [2.9..3.1]"
    code, _, told = run(capsys, "release", part, "--out", tmp_path / "no", *options, "--reading", against)
    assert code == 5
    assert across in told
    assert against in told
    assert not (tmp_path / "no").exists()


def test_a_folder_is_all_model_files_in_it(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    inner = tmp_path / "parts" / "more"
    inner.mkdir(parents=True)
    (inner / "b.stl").write_bytes(binary_stl(corners_of(box(2, 3, 5))))
    (tmp_path / "parts" / "a.stl").write_bytes(binary_stl(corners_of(box(20, 30, 50))))
    (tmp_path / "parts" / "notes.txt").write_text("hello")
    code, out, _ = run(capsys, "inspect", tmp_path / "parts", "--unit", "mm", "--json")
    assert code == 0
    assert [Path(load["path"]).name for load in json.loads(out)] == ["a.stl", "b.stl"]
    code, out, _ = run(capsys, "release", tmp_path / "parts", "--unit", "mm", "--out", tmp_path / "out")
    assert code == 0
    assert sorted(path.name for path in (tmp_path / "out").iterdir()) == ["a.3mf", "b.3mf"]
    (tmp_path / "empty").mkdir()
    code, out, told = run(capsys, "inspect", tmp_path / "empty")
    assert (code, out) == (3, "")
    assert "no model file" in told


def test_what_was_not_looked_for_in_a_large_mesh_is_said_and_looked_for_when_asked(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "coil.stl"
    path.write_bytes(binary_stl(corners_of(eight(around=240, along=240, lift=1.0))))
    found = []
    for more in ((), ("--thorough",)):
        code, out, _ = run(capsys, "inspect", path, "--unit", "mm", "--json", *more)
        assert code == 0
        found.append({one["code"] for one in json.loads(out)[0]["findings"]})
    assert "crossings-unknown" in found[0]
    assert "crossings" in found[1] - found[0]


def test_a_small_file_is_told_without_loading_what_it_does_not_need(demo: Path) -> None:
    looked = f"""
import sys
from aimtrue.cli.__main__ import main
main(["inspect", {str(demo / "shim-plate.stl")!r}])
print([name for name in sys.modules if name.startswith({NOT_NEEDED!r})], file=sys.stderr)
"""
    done = subprocess.run([sys.executable, "-c", looked], capture_output=True, text=True, check=True)
    assert "shim plate" in done.stdout
    assert done.stderr.strip() == "[]"


NOT_NEEDED = (
    "OCP", "fastapi", "sqlalchemy", "trimesh", "reportlab", "ezdxf", "shapely", "scipy", "igl", "manifold3d",
    "urllib.request",
    "aimtrue.core.truing.", "aimtrue.core.seating.", "aimtrue.core.division.", "aimtrue.core.proof",
)  # fmt: skip


def test_who_reads_may_have_had_enough(part: Path) -> None:
    running = subprocess.Popen(
        [ROOT / "aimtrue", "inspect", "--json", part], stdout=subprocess.PIPE, stderr=subprocess.PIPE
    )
    assert running.stdout is not None
    running.stdout.close()
    _, told = running.communicate()
    assert (running.returncode, told) == (6, b"")


def test_a_setting_that_cannot_be_is_told_by_its_name(
    part: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    settings.cache_clear()
    monkeypatch.setenv("AIMTRUE_UPLOAD_MB", "much")
    code, _, told = run(capsys, "inspect", part)
    assert code == 2
    assert "AIMTRUE_UPLOAD_MB is “much”: it should be a valid integer" in told
    monkeypatch.undo()
    assert run(capsys, "inspect", part)[0] == 0
