"""The command line as a tool of its own: help, failures as JSON, completion, mending, allowances."""

from __future__ import annotations

import argparse
import json
import re
import shlex
import shutil
import subprocess
from pathlib import Path

import numpy as np
import pytest

from aimtrue.cli.__main__ import commands_of_all
from aimtrue.cli.help import EXAMPLES
from aimtrue.cli.remedies import COMMAND_OF_REMEDY, as_commands
from aimtrue.core.formats import stl, threemf
from aimtrue.core.formats.contents import UnpackingLimits
from aimtrue.settings import ROOT
from tests.cli.running import run
from tests.shapes import binary_stl, box, corners_of


@pytest.fixture
def block(tmp_path: Path) -> Path:
    path = tmp_path / "block.stl"
    path.write_bytes(binary_stl(corners_of(box(20, 30, 50))))
    return path


@pytest.fixture
def holed(tmp_path: Path) -> Path:
    """A block of 20 x 30 x 50 without the two triangles of its top."""
    corners = corners_of(box(20, 30, 50)).reshape(-1, 3, 3)
    path = tmp_path / "holed.stl"
    path.write_bytes(binary_stl(corners[~(corners[:, :, 2] == 50).all(axis=1)]))
    return path


def points_of(path: str) -> np.ndarray:
    model = threemf.read(Path(path).read_bytes(), UnpackingLimits())
    return np.concatenate([part.mesh.vertices for part in model.parts])


def sizes_of(path: str) -> np.ndarray:
    return np.asarray(np.ptp(points_of(path), axis=0))


def test_every_command_says_what_it_does_every_option_what_it_means_with_examples_that_can_be_typed() -> None:
    commands = commands_of_all()
    assert set(EXAMPLES) == set(commands)
    for name, (says, parser) in commands.items():
        assert len(says) > 15, name
        assert f"aimtrue {name}" in parser.format_help()
        for action in parser._actions:
            assert action.help or isinstance(action, argparse._HelpAction), (name, action.dest)
    for name, examples in EXAMPLES.items():
        for example in examples:
            typed = re.search(r"aimtrue ([^|>)\"]*(?:\"[^\"]*\"[^|>)\"]*)*)", example)
            assert typed
            words = shlex.split(typed[1])
            assert words[0] == name
            commands[name][1].parse_args(words[1:])


def test_help_speaks_to_who_uses_it(capsys: pytest.CaptureFixture[str]) -> None:
    code, out, _ = run(capsys, "--help")
    assert code == 0
    assert out.index("Model files of a provably right size") < out.index("inspect")
    assert "import" not in out.replace("imported", "")
    code, out, _ = run(capsys, "mend", "--help")
    assert "aimtrue mend scan.stl --out mended" in out


def test_what_fails_is_told_as_json_too(
    capsys: pytest.CaptureFixture[str], block: Path, tmp_path: Path
) -> None:
    missing = tmp_path / "none.stl"
    for arguments, exit_code, says in (
        (("section", missing, "--at", "z=1"), 3, "cannot be opened"),
        (("release", block, "--factor", "x", "--unit", "mm", "--out", tmp_path / "out"), 2, "block.stl"),
        (("release", block, "--fctor", "2", "--unit", "mm", "--out", tmp_path / "out"), 2, "fctor"),
        (("seat", block, "--unit", "mm", "--machine", "10 x 10 x 10"), 5, None),
    ):
        code, out, err = run(capsys, *arguments, "--json")
        assert code == exit_code, arguments
        answer = json.loads(out)
        if says is None:  # It answers by itself what found no room.
            assert answer["unplaced"]
            continue
        assert answer["failure"]["exit"] == exit_code
        assert says in " ".join(answer["failure"]["says"])
        assert says in err
        code, out, _ = run(capsys, *arguments)
        assert out == ""


def test_inspect_has_an_object_for_each_file_also_for_one_that_cannot_be_read(
    capsys: pytest.CaptureFixture[str], block: Path, tmp_path: Path
) -> None:
    code, out, _ = run(capsys, "inspect", block, tmp_path / "none.stl", "--unit", "mm", "--json")
    good, bad = json.loads(out)
    assert (code, good["size_mm"]) == (3, [20, 30, 50])
    assert bad["path"].endswith("none.stl")
    assert bad["failure"]["exit"] == 3
    assert "cannot be opened" in bad["failure"]["says"][0]


@pytest.mark.parametrize("shell", ["bash", "zsh"])
def test_completion_is_read_by_its_shell(capsys: pytest.CaptureFixture[str], shell: str) -> None:
    code, out, _ = run(capsys, "completion", shell)
    assert code == 0
    for word in ("release", "face-outward", "walls", "--proof-record", "--under"):
        assert word in out
    if program := shutil.which(shell):
        subprocess.run([program, "-n"], input=out.encode(), check=True)


def test_completion_offers_commands_and_options(capsys: pytest.CaptureFixture[str]) -> None:
    script = run(capsys, "completion", "bash")[1]
    for words, offered in (
        ("aimtrue rel", ["release"]),
        ("aimtrue walls --un", ["--under", "--unit"]),
        ("aimtrue seat --mar", ["--margin"]),
    ):
        asked = f"{script}\nCOMP_WORDS=({words}); COMP_CWORD={len(words.split()) - 1}; _aimtrue; "
        asked += 'printf "%s\\n" "${COMPREPLY[@]}"'
        told = subprocess.run(
            ["bash", "-c", asked], capture_output=True, text=True, check=True
        ).stdout.split()
        assert sorted(told) == offered


def test_a_holed_block_is_mended_and_proven(
    capsys: pytest.CaptureFixture[str], holed: Path, tmp_path: Path
) -> None:
    out_folder = tmp_path / "mended"
    code, out, _ = run(capsys, "mend", holed, "--unit", "mm", "--out", out_folder, "--proof-record", "--json")
    assert code == 0
    answer = json.loads(out)
    (body,) = answer["bodies"]
    assert body["closed"]
    assert body["volume_mm3"] == pytest.approx(20 * 30 * 50, rel=1e-6)
    assert [step["remedy"] for step in answer["mended"]] == ["close-holes"]
    # The folder is held against its own record, and a file that was changed since is told.
    assert run(capsys, "verify", out_folder)[0] == 0
    path = Path(body["path"])
    path.write_bytes(path.read_bytes().replace(b"PK", b"PX", 1))
    assert run(capsys, "verify", out_folder)[0] == 5
    # What is sound has nothing to mend, and nothing is written.
    sound = tmp_path / "sound.stl"
    sound.write_bytes(binary_stl(corners_of(box(20, 30, 50))))
    code, _, err = run(capsys, "mend", sound, "--unit", "mm", "--out", tmp_path / "no")
    assert (code, (tmp_path / "no").exists()) == (2, False)
    assert "nothing to mend" in err


def test_faces_are_turned_outward_and_edges_sewn(
    capsys: pytest.CaptureFixture[str], tmp_path: Path, demo: Path
) -> None:
    inside_out = tmp_path / "inside-out.stl"
    corners = corners_of(box(20, 30, 50)).reshape(-1, 3, 3)
    corners[3] = corners[3][::-1]
    inside_out.write_bytes(binary_stl(corners))
    code, out, _ = run(
        capsys,
        "face-outward",
        inside_out,
        "--unit",
        "mm",
        "--out",
        tmp_path / "a",
        "--format",
        "stl",
        "--json",
    )
    assert code == 0
    (body,) = json.loads(out)["bodies"]
    assert stl.read(Path(body["path"]).read_bytes()).parts[0].mesh.volume() == pytest.approx(30_000)
    torn = tmp_path / "torn.stl"
    corners = corners_of(box(20, 30, 50)).reshape(-1, 3, 3).copy()
    corners[0, 0] += 1e-4
    torn.write_bytes(binary_stl(corners))
    code, out, err = run(capsys, "sew", torn, "--unit", "mm", "--out", tmp_path / "b", "--json")
    assert code == 0, err
    assert json.loads(out)["bodies"][0]["closed"]


def test_allowances_are_added_as_on_sheet_2(
    capsys: pytest.CaptureFixture[str], block: Path, tmp_path: Path
) -> None:
    def released(*options: str) -> np.ndarray:
        out_folder = tmp_path / f"out{len(list(tmp_path.iterdir()))}"
        code, out, err = run(
            capsys, "release", block, "--unit", "mm", "--out", out_folder, "--json", *options
        )
        assert code == 0, err
        return sizes_of(json.loads(out)["files"][0]["path"])

    assert released("--clearance", "0.2") == pytest.approx([20.2, 30.2, 50.2], abs=1e-4)
    assert released("--clearance", "z=-0.1") == pytest.approx([20, 30, 49.9], abs=1e-4)
    shrunk = np.array([20, 30, 50]) / (1 - 0.004)
    assert released("--shrinkage", "0.4") == pytest.approx(shrunk, abs=1e-4)
    assert released("--shrinkage", "x=0.4", "--factor", "2") == pytest.approx(
        [shrunk[0] * 2, 60, 100], abs=1e-4
    )
    assert released("--material", "abs") == pytest.approx(np.array([20, 30, 50]) / (1 - 0.008), abs=1e-4)
    code, _, err = run(
        capsys, "release", block, "--unit", "mm", "--material", "lead", "--out", tmp_path / "no"
    )
    assert code == 2
    assert "PETG" in err


def test_bores_keep_their_diameter_where_that_is_told(
    capsys: pytest.CaptureFixture[str], demo: Path, tmp_path: Path
) -> None:
    for number, options in enumerate((("--keep-bores",), ())):
        code, out, err = run(
            capsys, "release", demo / "clamp-shells.stl", "--factor", "1.1", *options, "--bodies", "together",
            "--out", tmp_path / f"{number}", "--json", "--unit", "mm",
        )  # fmt: skip
        assert code == 0, err
        points = points_of(json.loads(out)["files"][0]["path"])
        middle = points.mean(axis=0)
        side = points[points[:, 0] > middle[0] + 1.1 * 85]
        # The bore of 5.5 through the ear: how high the points are about its axis at half the height.
        ring = side[np.abs(side[:, 2] - middle[2]) < 4]
        across = np.ptp(ring[:, 2])
        assert across == pytest.approx(5.5 if options else 6.05, abs=0.02)


def test_a_part_that_fits_is_no_error_of_fit(
    capsys: pytest.CaptureFixture[str], block: Path, tmp_path: Path
) -> None:
    code, out, err = run(
        capsys,
        "divide",
        block,
        "--unit",
        "mm",
        "--fit",
        "250 x 210 x 220",
        "--out",
        tmp_path / "one",
        "--json",
    )
    assert code == 0, err
    answer = json.loads(out)
    (piece,) = answer["pieces"]
    assert (piece["fits"], answer["difference"]) == (True, 0.0)
    assert piece["volume_mm3"] == answer["whole"]["volume_mm3"] == pytest.approx(30_000)
    assert sizes_of(piece["path"]) == pytest.approx([20, 30, 50])


def test_pins_without_room_end_the_command_unless_pieces_without_are_good_too(
    capsys: pytest.CaptureFixture[str], block: Path, tmp_path: Path
) -> None:
    asked = ("divide", block, "--unit", "mm", "--plane", "z=25", "--pins", "30,10,0.2,2", "--json")
    code, out, err = run(capsys, *asked, "--out", tmp_path / "no")
    assert (code, (tmp_path / "no").exists()) == (5, False), out
    assert "--fewer-pins" in err
    code, out, _ = run(capsys, *asked, "--out", tmp_path / "yes", "--fewer-pins")
    assert code == 0
    assert json.loads(out)["without_pins"]


def test_shapes_are_placed_and_have_a_record(
    capsys: pytest.CaptureFixture[str], block: Path, tmp_path: Path
) -> None:
    out_folder = tmp_path / "pieces"
    code, out, err = run(
        capsys, "divide", block, "--unit", "mm", "--plane", "z=20", "--place", "origin", "--proof-record",
        "--out", out_folder, "--json",
    )  # fmt: skip
    assert code == 0, err
    for piece in json.loads(out)["pieces"]:
        vertices = points_of(piece["path"])
        assert vertices[:, 2].min() == pytest.approx(0, abs=1e-6)
    assert run(capsys, "verify", out_folder)[0] == 0
    code, _, err = run(capsys, "verify", block.parent)
    assert (code, "PROOF.json" in err) == (2, True)


def test_what_is_accepted_on_a_sheet_is_accepted_by_an_option_in_a_command() -> None:
    says = "settle it on the sheet named, or accept it there on purpose (open-edges, stray)"
    told = as_commands(says)
    assert told.endswith("or accept it on purpose with --accept open-edges --accept stray")


def test_remedies_name_commands_and_every_sheet_that_the_core_names_is_told_as_one() -> None:
    told = re.compile(
        r'"([^"\n]*\bon (?:sheet [1-6](?:, \w+)?|Intake|Truing|Fit|Division|Seating)\b[^"\n]*)"'
    )
    names = re.compile(r"\b(sheet [1-6]|on (?:Intake|Truing|Fit|Division|Seating))\b")
    for path in (ROOT / "src" / "aimtrue" / "core").rglob("*.py"):
        for text in told.findall(path.read_text()):
            if text.startswith(("This module", "Work of", "What is done", "What a user")):
                continue
            assert not names.search(as_commands(text)), (path.name, text)
    commands = commands_of_all()
    for command in COMMAND_OF_REMEDY.values():
        _, name, *options = command.split()
        commands[name][1].parse_args(["a.stl", "--out", "x", *options])
