"""aimtrue estimate, called as a script calls it."""

from __future__ import annotations

import csv
import json
from pathlib import Path
from typing import Any

import pytest
from manifold3d import Manifold

from tests.cli.running import run
from tests.cli.test_fit import written
from tests.cli.test_shape import Told

FIELDS = {
    *("seconds", "grams", "strand_m", "cost", "layers", "support_g"),
    *("by_body", "quick", "over", "paths", "findings"),
}


@pytest.fixture
def block(tmp_path: Path) -> Path:
    return written(tmp_path / "block.stl", Manifold.cube((20, 20, 20)))


def estimated(told: Told, *arguments: object) -> tuple[int, dict[str, Any]]:
    code, out, err = run(told, "estimate", *arguments, "--unit", "mm", "--json")
    assert out, err
    return code, json.loads(out)


def test_it_says_what_printing_takes(block: Path, capsys: Told) -> None:
    code, answer = estimated(capsys, block, "--infill", "100%", "--price", "25", "--hour", "0.5")
    assert code == 0
    assert set(answer) >= FIELDS
    assert answer["grams"] == pytest.approx(8 * 1.24, rel=5e-3)
    assert answer["quick"]["grams"] == pytest.approx(answer["grams"], rel=0.03)
    assert answer["quick"]["seconds"] == pytest.approx(answer["seconds"], rel=0.1)
    assert answer["cost"] == pytest.approx(answer["grams"] * 0.025 + answer["seconds"] / 7200)
    (body,) = answer["by_body"]
    assert body["body"] == "block"
    assert (answer["layers"], answer["over"], answer["paths"]) == (100, [], None)


def test_settings_change_what_it_takes(block: Path, tmp_path: Path, capsys: Told) -> None:
    plain = estimated(capsys, block)[1]["grams"]
    sets = tmp_path / "mine.json"
    sets.write_text('{"infill": 60, "shells": 3, "supports": false}')
    mine = estimated(capsys, block, "--settings", sets)[1]["grams"]
    assert mine > plain
    assert (
        estimated(capsys, block, "--settings", sets, "--infill", "15", "--shells", "2")[1]["grams"] == plain
    )
    assert estimated(capsys, block, "--settings", "strong")[1]["grams"] != plain
    fine = estimated(capsys, block, "--layer", "0.1")[1]
    assert fine["layers"] == 200
    assert estimated(capsys, block, "--copies", "3")[1]["grams"] == pytest.approx(3 * plain, rel=2e-3)


def test_a_budget_that_is_not_met_is_told_with_ways(block: Path, capsys: Told) -> None:
    assert estimated(capsys, block, "--budget", "40 g", "--budget", "3 h")[0] == 0
    code, answer = estimated(capsys, block, "--budget", "2.5 g")
    (row,) = answer["over"]
    assert code == 5
    assert row["budget"] == "2.5 g"
    assert any(way["meets"] and way["saves"].startswith("−") for way in row["ways"])
    code, out, _ = run(capsys, "estimate", block, "--unit", "mm", "--budget", "0.01 g")
    assert code == 5
    assert "is not to be had" in out


def test_paths_are_written_once_and_proven(block: Path, tmp_path: Path, capsys: Told) -> None:
    paths = tmp_path / "block.gcode"
    code, answer = estimated(capsys, block, "--paths", paths)
    assert code == 0
    told = answer["paths"]
    assert told["path"] == str(paths)
    assert told["strand_mm3"] == pytest.approx(answer["grams"] / 1.24e-3, rel=1e-6)
    assert told["travel_mm"] > 0
    assert all(check["holds"] for check in told["proof"]["checks"])
    assert run(capsys, "estimate", block, "--unit", "mm", "--paths", paths)[0] == 6
    assert run(capsys, "estimate", block, "--unit", "mm", "--paths", paths, "--replace")[0] == 0
    assert run(capsys, "estimate", block, "--unit", "mm", "--paths", tmp_path / "no" / "a.gcode")[0] == 6
    assert sorted(path.name for path in tmp_path.iterdir()) == ["block.gcode", "block.stl"]


def test_a_folder_is_a_table(block: Path, tmp_path: Path, capsys: Told) -> None:
    written(tmp_path / "rod.stl", Manifold.cylinder(20, 4, 4, 64))
    (tmp_path / "broken.stl").write_text("junk")
    table = tmp_path / "out.csv"
    code, out, err = run(capsys, "estimate", tmp_path, "--unit", "mm", "--csv", table)
    assert code == 3
    assert "broken.stl" in err
    assert "all of them" in out
    rows = list(csv.DictReader(table.read_text().splitlines()))
    assert [bool(row["grams"]) for row in rows] == [True, False, True]


def test_what_fits_on_no_plate_is_estimated_all_the_same(block: Path, capsys: Told) -> None:
    code, answer = estimated(capsys, block, "--machine", "15 x 15 x 15")
    assert code == 5
    assert answer["grams"] > 1
    (row,) = answer["unplaced"]
    assert row["body"] == "block"
    assert answer["assumed"] is True
    assert "speeds-assumed" in {finding["code"] for finding in answer["findings"]}


def test_a_bead_wider_than_the_part_lays_nothing_and_says_so(block: Path, capsys: Told) -> None:
    answer = estimated(capsys, block, "--bead", "30")[1]
    assert answer["grams"] == 0
    assert "no-bead" in {finding["code"] for finding in answer["findings"]}


@pytest.mark.parametrize(
    ("options", "code", "says"),
    [
        (("--infill", "120"), 2, "an infill of 120 %"),
        (("--infill", "some"), 2, "some"),
        (("--layer", "0.5"), 2, "higher than the bead"),
        (("--shells", "0"), 2, "0 shells"),
        (("--budget", "40"), 2, "no amount"),
        (("--settings", "none"), 2, "there is no set"),
        (("--settings", "none.json"), 3, "cannot be read"),
        (("--material", "oak"), 2, "there is no material"),
        (("--price", "-3"), 2, "price"),
        (("--machine", "Vat 7", "--paths", "a.gcode"), 2, "no paths"),
    ],
)
def test_what_makes_no_sense_is_told(
    options: tuple[str, ...], code: int, says: str, block: Path, capsys: Told
) -> None:
    found, out, err = run(capsys, "estimate", block, "--unit", "mm", *options)
    assert (found, says in err, out) == (code, True, "")
