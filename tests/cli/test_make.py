"""aimtrue make and thread, called as a script calls them."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from tests.cli.running import run
from tests.cli.test_fit import written
from tests.cli.test_shape import Told, read
from tests.core.test_through import drill, plate


def made(told: Told, *arguments: object) -> dict[str, Any]:
    code, out, err = run(told, *arguments, "--json")
    assert code == 0, err
    answer: dict[str, Any] = json.loads(out)
    assert {"findings", "seconds", "bodies"} <= set(answer)
    return answer


def test_a_bolt_is_made_as_step_and_read_back_with_its_size(tmp_path: Path, capsys: Told) -> None:
    answer = made(capsys, "make", "bolt", "M5x20", "--out", tmp_path / "out")
    (body,) = answer["bodies"]
    assert answer["table"].startswith("ISO 4017:2022")
    assert body["closed"]
    assert body["size_mm"] == pytest.approx([9.2376, 8, 23.5], abs=1e-3)
    assert Path(body["path"]).name == "M5x20-hex.step"
    code, out, _ = run(capsys, "inspect", body["path"], "--json")
    assert code == 0
    (report,) = json.loads(out)
    assert report["unit"]["declared"] == "mm"
    assert report["size_mm"] == pytest.approx([9.2376, 8, 23.5], abs=1e-3)


@pytest.mark.parametrize("file_format", ["3mf", "stl"])
def test_box_and_lid_are_two_files_that_are_never_overwritten(
    file_format: str, tmp_path: Path, capsys: Told
) -> None:
    asked = ("make", "box", "30x20x10,1.5", "--out", tmp_path / "out", "--format", file_format)
    answer = made(capsys, *asked)
    assert [body["name"] for body in answer["bodies"]] == ["box", "lid"]
    box = read(answer["bodies"][0]["path"])
    assert box.volume() == pytest.approx(33 * 23 * 11.5 - 30 * 20 * 10, rel=1e-6)
    assert run(capsys, *asked)[0] == 6
    assert run(capsys, *asked, "--replace")[0] == 0


def test_a_thread_is_cut_with_its_clearance_and_told_where_a_machine_cannot_make_it(
    tmp_path: Path, capsys: Told
) -> None:
    plain = made(capsys, "make", "nut", "M5", "--out", tmp_path / "plain", "--format", "stl")
    cut = made(capsys, "make", "nut", "M5", "--thread", "--out", tmp_path / "cut", "--format", "stl")
    wide = made(
        capsys, "make", "nut", "M5", "--thread", "--clearance", "0.3", "--out", tmp_path / "wide",
        "--format", "stl",
    )  # fmt: skip
    volumes = [answer["bodies"][0]["volume_mm3"] for answer in (plain, cut, wide)]
    assert volumes[0] > volumes[1] > volumes[2]
    small = made(
        capsys, "make", "bolt", "M3x8", "--thread", "--machine", "200x200x200", "--out", tmp_path / "small"
    )
    assert any("the smallest that it can is M4" in note for note in small["notes"])


@pytest.mark.parametrize(
    ("asked", "says"),
    [
        (("bolt", "M5x21"), "the nearest are 20 and 25 mm"),
        (("nut", "M7"), "the nearest are M6 and M8"),
        (("gear", "m1,z4,w8"), "z5 or more"),
        (("nut", "M5", "--clearance", "0.2"), "add --thread"),
        (("tube", "20x22x5"), "below the outer one"),
        (("bolt", "M5x20", "--deflection", "99"), "--deflection 99"),
        ((), "nothing was typed"),
    ],
)
def test_what_cannot_be_made_is_said_in_a_line(
    asked: tuple[str, ...], says: str, tmp_path: Path, capsys: Told
) -> None:
    code, out, told = run(capsys, "make", *asked, "--out", tmp_path / "out")
    assert (code, out) == (2, "")
    assert says in told
    assert not (tmp_path / "out").exists()


def test_what_there_is_is_listed_and_searched(capsys: Told) -> None:
    code, out, _ = run(capsys, "make", "--list", "608")
    assert (code, out.split()[:2]) == (0, ["bearing", "608"])
    code, out, _ = run(capsys, "make", "--list", "socket", "M5", "--json")
    assert {row["kind"] for row in json.loads(out)} == {"bolt"}
    assert "more: narrow the list" in run(capsys, "make", "--list")[1]
    assert run(capsys, "make", "--list", "sprocket")[0] == 2
    assert run(capsys, "make", "nut", "M5")[0] == 2


def test_a_thread_is_put_on_a_bore_of_a_file(tmp_path: Path, capsys: Told) -> None:
    path = written(tmp_path / "plate.stl", plate() - drill(4.2, -1, 11))
    answer = made(capsys, "thread", path, "--unit", "mm", "--face", "2.1,0,5", "--out", tmp_path / "out")
    (body,) = answer["bodies"]
    assert body["name"] == "plate threaded"
    assert body["volume_mm3"] < answer["before_mm3"]
    assert answer["difference"] < 1e-9
    code, _, told = run(
        capsys, "thread", path, "--unit", "mm", "--face", "2.1,0,5", "--size", "M12", "--out", tmp_path / "no"
    )
    assert code == 2
    assert "M12 is cut into a bore" in told


def test_bores_are_listed_and_a_bolt_is_tried_in_them(tmp_path: Path, capsys: Told) -> None:
    path = written(tmp_path / "plate.stl", plate() - drill(5.5, -1, 11) - drill(4.2, -1, 11, x=12))
    code, out, _ = run(capsys, "through", path, "--unit", "mm")
    assert code == 0
    assert "ø 5.500 in plate at 0.0, 0.0, 5.0, for M5x20 hex" in out
    answer = json.loads(run(capsys, "through", path, "--unit", "mm", "--bolt", "M5x20", "--json")[1])
    assert [told["ending"] for told in answer["answers"]] == ["nut", "tapped"]
    code, out, _ = run(capsys, "through", path, "--unit", "mm", "--bolt", "M6x20", "--at", "1,0,0")
    assert code == 0
    assert "does not go through" in out
    assert "M6 with ø 6 mm does not pass the bore of plate" in out
    code, _, told = run(capsys, "through", path, "--unit", "mm", "--bolt", "nut M6")
    assert code == 2
    assert "is no bolt" in told
    assert run(capsys, "through", path, "--unit", "mm", "--bolt", "M5x20", "--at", "1,0")[0] == 2
    assert "goes through" in run(capsys, "through", path, "--unit", "mm", "--bolt", "M5x20", "--washers")[1]
