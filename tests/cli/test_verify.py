"""Released files held against their record anywhere: what was changed since is named, by how much."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from manifold3d import Manifold

from aimtrue.core.formats import read_model, stl, threemf
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.lengths import Unit
from aimtrue.core.proof.record import Record
from aimtrue.settings import ROOT
from tests.cli.running import run
from tests.shapes import box

Held = pytest.CaptureFixture[str]


@pytest.fixture
def released(tmp_path: Path, capsys: Held) -> Path:
    """A plate with a bore, made larger by a reading, and a block, as STL and as 3MF, with records."""
    plate = Manifold.cube((60, 40, 8)) - Manifold.cylinder(20, 5, 5, 64, True).translate((20, 20, 0))
    parts = [
        threemf.BuildObject("plate", mesh_of(plate)),
        threemf.BuildObject("block", box(5, 6, 7, at=(70, 0, 2))),
    ]
    kit = tmp_path / "kit.3mf"
    kit.write_bytes(threemf.write(parts, Unit.MM, "kit", ""))
    for kind in ("stl", "3mf"):
        reading = ("--reading", "0,0,0 : 60,0,0 = 61.5", "--proof-record", "--bodies", "together")
        out = tmp_path / kind
        code, _, err = run(capsys, "release", kit, "--out", out, "--format", kind, *reading)
        assert code == 0, err
    return tmp_path


def verified(told: Held, file: Path, proof: Path) -> tuple[int, dict[str, Any]]:
    code, out, err = run(told, "verify", file, "--proof", proof, "--json")
    assert not err
    answer = json.loads(out)
    return code, {row["what"]: row for row in answer["checks"] if not row["holds"]}


@pytest.mark.parametrize("kind", ["stl", "3mf"])
def test_what_was_released_holds_every_number(released: Path, kind: str, capsys: Held) -> None:
    folder = released / kind
    code, out, _ = run(capsys, "verify", folder / f"kit.{kind}", "--proof", folder / "PROOF.json", "--json")
    answer = json.loads(out)
    assert (code, answer["holds"]) == (0, True)
    assert all(set(row) == {"file", "what", "asked", "found", "off", "holds"} for row in answer["checks"])
    reading = next(row for row in answer["checks"] if row["what"].startswith("reading"))
    assert reading["found"] == "61.50000 mm"
    told = run(capsys, "verify", folder / f"kit.{kind}", "--proof", folder / "PROOF.json")[1]
    assert "checks, all hold" in told
    # Under another name it is found by its bytes.
    other = released / "other.stl"
    other.write_bytes((folder / f"kit.{kind}").read_bytes())
    assert verified(capsys, other, folder / "PROOF.json") == (0, {})


def test_a_changed_byte_is_named(released: Path, capsys: Held) -> None:
    file = released / "stl" / "kit.stl"
    data = bytearray(file.read_bytes())
    data[84 + 50 * 3 + 14] ^= 0x40  # in a coordinate
    file.write_bytes(bytes(data))
    code, broken = verified(capsys, file, released / "stl" / "PROOF.json")
    assert code == 5
    assert "SHA-256" in broken
    assert any(what.startswith(("size", "low end", "volume", "plate closed")) for what in broken)


def test_another_unit_a_missing_body_and_a_shrunk_copy_are_named(released: Path, capsys: Held) -> None:
    file, proof = released / "3mf" / "kit.3mf", released / "3mf" / "PROOF.json"
    parts = read_model("kit.3mf", file.read_bytes()).parts
    meshes = [(part.name, part.mesh) for part in parts]

    def written(*items: tuple[str, Mesh], unit: Unit = Unit.MM) -> dict[str, Any]:
        file.write_bytes(threemf.write([threemf.BuildObject(*item) for item in items], unit, "kit", ""))
        code, broken = verified(capsys, file, proof)
        assert code == 5
        return broken

    inches = written(*meshes, unit=Unit.IN)
    assert inches["unit declared"]["found"] == "in"
    assert "25.4, as inch in place of millimetre" in inches["scale of plate"]["found"]
    missing = written(meshes[0])
    assert missing["body block"]["found"] == "missing"
    shrunk = written((meshes[0][0], meshes[0][1].mapped(lambda v: v * (1 - 0.02 / 61.5))), meshes[1])
    assert shrunk["size X of plate"]["off"] == pytest.approx(0.02, abs=1e-5)
    assert "size X of block" not in shrunk
    moved = written(meshes[0], (meshes[1][0], meshes[1][1].mapped(lambda v: v + np.array([0, 0, 0.5]))))
    assert set(moved) - {"bytes", "SHA-256"} == {"low end Z of block"}
    file.write_bytes(b"PK nothing")
    (told,) = (row["found"] for what, row in verified(capsys, file, proof)[1].items() if what == "readable")
    assert "cannot read this 3MF" in told
    assert "written" not in told


def test_records_that_are_none_are_told(released: Path, tmp_path: Path, capsys: Held) -> None:
    file, proof = released / "stl" / "kit.stl", released / "stl" / "PROOF.json"
    told = json.loads(proof.read_text())
    for text, says in (
        ("{", "is no JSON"),
        ("[]", "is no proof record"),
        (json.dumps({**told, "version": 2}), "version 2"),
        (json.dumps({**told, "files": []}), "files"),
    ):
        wrong = tmp_path / "wrong.json"
        wrong.write_text(text)
        code, out, err = run(capsys, "verify", file, "--proof", wrong)
        assert (code, out, says in err) == (3, "", True), err
    edited = json.loads(proof.read_text())
    edited["files"][0]["bodies"][0]["high_mm"][0] += 0.01
    wrong.write_text(json.dumps(edited))
    assert "size X of plate" in verified(capsys, file, wrong)[1]
    other = tmp_path / "part.stl"
    other.write_bytes(stl.write_binary(box(1, 2, 3), "part") if hasattr(stl, "write_binary") else b"")
    assert "file that the record tells of" in verified(capsys, other, proof)[1]
    code, _, err = run(capsys, "release", released / "kit.3mf", "--out", released / "stl", "--proof-record")
    assert (code, "PROOF.json exists already" in err) == (6, True)


def test_the_schema_that_is_published_is_that_of_the_record() -> None:
    published = json.loads((ROOT / "docs" / "proof-record.schema.json").read_text())
    assert published == Record.model_json_schema()


def test_a_merged_3mf_holds_its_own_record(released: Path, capsys: Held) -> None:
    """All bodies of a kit are one object of such a file; the record tells of one, and of two bodies."""
    out = released / "merged"
    merged = ("--bodies", "merged", "--proof-record", "--format", "3mf")
    code, _, err = run(capsys, "release", released / "kit.3mf", "--out", out, *merged)
    assert code == 0, err
    assert verified(capsys, out / "kit.3mf", out / "PROOF.json") == (0, {})


def test_files_are_known_by_what_is_in_them(released: Path, capsys: Held) -> None:
    """Exchanged or new names are told and do no harm, and a file that was not given is missed."""
    out = released / "each"
    each = ("--bodies", "each", "--proof-record", "--format", "stl")
    code, _, err = run(capsys, "release", released / "kit.3mf", "--out", out, *each)
    assert code == 0, err
    plate, block = sorted(out.glob("*.stl"), key=lambda path: -path.stat().st_size)
    proof = out / "PROOF.json"

    def rows(*given: Path, some: bool = False) -> tuple[int, list[dict[str, Any]]]:
        more = ["--some"] if some else []
        code, told, _ = run(capsys, "verify", *given, "--proof", proof, "--json", *more)
        return code, json.loads(told)["checks"]

    code, alone = rows(block)
    missed = [(row["file"], row["what"]) for row in alone if not row["holds"]]
    assert (code, missed) == (5, [(plate.name, "file of the record")])
    assert rows(block, some=True)[0] == 0
    one, two = block.read_bytes(), plate.read_bytes()
    plate.write_bytes(one)
    block.write_bytes(two)
    code, exchanged = rows(block, plate)
    names = [(row["asked"], row["found"]) for row in exchanged if row["what"] == "name"]
    assert (code, names) == (0, [(plate.name, block.name), (block.name, plate.name)])
    # Saved anew under another name and a little off, it is measured against what it was.
    off = np.frombuffer(two, np.uint8).copy()
    record = off[84:].reshape(-1, 50)
    record[:, 12:48] = (np.ascontiguousarray(record[:, 12:48]).view("<f4") * np.float32(1.001)).view(np.uint8)
    (out / "other.stl").write_bytes(off.tobytes())
    code, other = rows(out / "other.stl", some=True)
    broken = {row["what"] for row in other if not row["holds"]}
    assert code == 5
    assert any(what.startswith("size X") for what in broken)


def test_the_area_of_a_record_is_held_and_makes_no_room(released: Path, capsys: Held) -> None:
    file, proof = released / "stl" / "kit.stl", released / "stl" / "PROOF.json"
    told = json.loads(proof.read_text())
    told["files"][0]["bodies"][0]["area_mm2"] = 1e12
    told["files"][0]["bodies"][0]["volume_mm3"] *= 1.5
    proof.write_text(json.dumps(told))
    code, broken = verified(capsys, file, proof)
    assert (code, set(broken)) == (5, {"area of plate", "volume of plate"})
