"""Releasing on the command line in bulk, as STEP, with a sheet; watching a folder; sending; workers
elsewhere.
"""

import csv
import json
import re
from pathlib import Path

import pytest

from tests.cli.running import run
from tests.core.test_release_files import TWO
from tests.shapes import binary_stl, box, corners_of


@pytest.fixture
def inbox(tmp_path: Path, demo: Path) -> Path:
    folder = tmp_path / "inbox"
    folder.mkdir()
    (folder / "a.stl").write_bytes(binary_stl(TWO))
    (folder / "shim.stl").write_bytes((demo / "shim-plate.stl").read_bytes())  # its unit cannot be told
    (folder / "broken.stl").write_text("junk")
    return folder


def test_in_bulk_a_bad_file_does_not_stop_the_others(
    capsys: pytest.CaptureFixture[str], inbox: Path, tmp_path: Path
) -> None:
    report = tmp_path / "how.csv"
    code, out, err = run(
        capsys, "release", inbox, "--out", tmp_path / "out", "--unit", "mm", "--go-on", "--report", report,
        "--name", "{file}-{number}", "--proof-record",
    )  # fmt: skip
    assert code == 3
    assert "2 of 3 files released" in out
    assert "broken.stl" in err
    rows = list(csv.DictReader(report.open()))
    assert [row["released"] for row in rows] == ["2", "0", "1"]
    names = sorted(path.name for path in (tmp_path / "out").iterdir())
    assert names == ["a-1.3mf", "a-2.3mf", "a.stl.PROOF.json", "shim-1.3mf", "shim.stl.PROOF.json"]


def test_cad_goes_out_as_step_and_is_verified_from_its_record(
    capsys: pytest.CaptureFixture[str], demo: Path, tmp_path: Path
) -> None:
    out, sheet = tmp_path / "out", tmp_path / "sheet.pdf"
    code, told, _ = run(
        capsys, "release", demo / "clamp-shells.step", "--out", out, "--format", "step", "--factor", "1.02",
        "--bodies", "together", "--proof-record", "--sheet", sheet, "--json",
    )  # fmt: skip
    assert code == 0
    (file,) = json.loads(told)["files"]
    assert file["size_mm"][0] == pytest.approx(212 * 1.02, abs=1e-3)
    assert sheet.read_bytes().startswith(b"%PDF")
    path = Path(file["path"])
    assert run(capsys, "verify", path, "--proof", out / "PROOF.json")[0] == 0
    path.write_bytes(path.read_bytes().replace(b"SI_UNIT(.MILLI.,.METRE.)", b"SI_UNIT(.CENTI.,.METRE.)"))
    code, text, _ = run(capsys, "verify", path, "--proof", out / "PROOF.json")
    assert code == 5
    assert "unit declared" in text
    code, _, err = run(
        capsys, "release", demo / "clamp-shells.step", "--out", tmp_path / "no", "--format", "step",
        "--stretch", "x=200",
    )  # fmt: skip
    assert (code, "not exact CAD any more" in err) == (5, True)


def test_a_watched_folder_releases_what_is_clear_once_and_leaves_the_rest_open(
    capsys: pytest.CaptureFixture[str], inbox: Path, demo: Path, tmp_path: Path
) -> None:
    (inbox / "dial.3mf").write_bytes((demo / "setting-dial.3mf").read_bytes())
    out = tmp_path / "out"

    def watched() -> dict[str, str]:
        code, told, _ = run(capsys, "watch", inbox, "--out", out, "--release", "--once", "--json")
        assert code == 0
        return {row["file"]: row["state"] for row in json.loads(told)["files"]}

    assert watched() == {
        "a.stl": "released",
        "shim.stl": "open",
        "broken.stl": "failed",
        "dial.3mf": "released",
    }
    assert sorted(path.name for path in out.glob("*.3mf")) == [
        "a_a-1.3mf",
        "a_a-2.3mf",
        "dial_marks.3mf",
        "dial_ring.3mf",
    ]
    assert watched() == {}
    (inbox / "new.stl").write_bytes((inbox / "shim.stl").read_bytes())
    assert watched() == {"new.stl": "open"}
    (out / ".aimtrue-watch.json").write_text("rubbish")
    assert set(watched()) == {"a.stl", "shim.stl", "broken.stl", "dial.3mf", "new.stl"}


def test_files_are_sent_proven_and_taken_once(
    capsys: pytest.CaptureFixture[str], inbox: Path, program: str
) -> None:
    code, told, _ = run(capsys, "send", inbox / "a.stl", "--unit", "mm", "--to", f"{program}/take", "--json")
    first = json.loads(told)
    assert (code, first["already"], len(first["files"])) == (0, False, 2)
    again = json.loads(
        run(capsys, "send", inbox / "a.stl", "--unit", "mm", "--to", f"{program}/take", "--json")[1]
    )
    assert (again["already"], again["key"]) == (True, first["key"])
    assert run(capsys, "send", inbox / "shim.stl", "--to", f"{program}/take")[0] == 4
    assert run(capsys, "send", inbox / "a.stl", "--unit", "mm", "--to", "http://93.184.215.14/x")[0] == 2


def test_workers_want_a_database_that_is_there_and_ours(capsys: pytest.CaptureFixture[str]) -> None:
    code, _, err = run(capsys, "work", "--database", "postgresql://aimtrue@127.0.0.1:9/aimtrue")
    assert (code, "cannot be reached" in err) == (3, True)
    assert run(capsys, "work", "--workers", "0")[0] == 2


def test_only_the_bodies_that_are_named_are_released(
    capsys: pytest.CaptureFixture[str], demo: Path, tmp_path: Path
) -> None:
    dial = demo / "setting-dial.3mf"
    assert run(capsys, "release", dial, "--out", tmp_path, "--body", "ring")[0] == 0
    assert [path.name for path in tmp_path.iterdir()] == ["setting-dial.3mf"]
    code, _, err = run(capsys, "release", dial, "--out", tmp_path, "--body", "rung")
    assert (code, "there are ring, marks" in err) == (2, True)


def test_one_sheet_tells_of_all_files(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    files = [tmp_path / "a.stl", tmp_path / "b.stl"]
    for number, file in enumerate(files, 1):
        file.write_bytes(binary_stl(corners_of(box(40 * number, 30, 20))))
    sheet, both = tmp_path / "one.pdf", tmp_path / "both.pdf"
    for out, given, path in (("o1", files[:1], sheet), ("o2", files, both)):
        code, _, err = run(
            capsys, "release", *given, "--unit", "mm", "--out", tmp_path / out, "--sheet", path
        )
        assert code == 0, err
    pages = [len(re.findall(rb"/Type\s*/Page\b(?!s)", path.read_bytes())) for path in (sheet, both)]
    assert pages[0] >= 2  # of the release, and of its body
    assert pages[1] == 2 * pages[0]
    assert b"a and 1 more" in both.read_bytes()
    code, _, err = run(capsys, "release", *files, "--unit", "mm", "--out", tmp_path / "o3", "--sheet", both)
    assert (code, "exists already" in err, (tmp_path / "o3").exists()) == (6, True, False)
