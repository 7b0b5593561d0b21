"""What it takes over HTTP: quick after every action, full in the background, settings, budgets, paths."""

from __future__ import annotations

import io
import json
import zipfile
from typing import Any

import pytest
from manifold3d import Manifold

from aimtrue.core.mesh.solids import mesh_of
from tests.api.conftest import Client
from tests.shapes import binary_stl, corners_of

BLOCK = binary_stl(corners_of(mesh_of(Manifold.cube((20, 20, 20)))))


@pytest.fixture
def seated(client: Client) -> dict[str, Any]:
    view = client.opened("block.stl", BLOCK)
    return client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")


def cost(client: Client, view: dict[str, Any]) -> dict[str, Any]:
    told: dict[str, Any] = client.http.get(f"/jobs/{view['id']}/cost").raise_for_status().json()
    return told


def test_it_is_told_quickly_after_an_action_and_in_full_when_asked(
    client: Client, seated: dict[str, Any]
) -> None:
    (plate,) = cost(client, seated)["plates"]
    assert plate["full"] is None
    assert plate["quick"]["assumed"] is False
    task = {"do": "estimate-plate", "plate": plate["plate"]}
    assert client.post(seated, "tasks", task=task).status_code == 202
    view = client.read(seated["id"])
    (plate,) = cost(client, view)["plates"]
    assert plate["full"]["grams"] == pytest.approx(plate["quick"]["grams"], rel=0.05)
    assert len(plate["full"]["layer_seconds"]) == plate["full"]["layers"] == 100
    assert view["undo"] == seated["undo"]  # what was worked out is no step of the user
    # It holds until something that it depends on is changed, and again when that is taken back.
    view = client.act(view, do="set-printing", setting="infill", typed="12,5 %")
    assert cost(client, view)["plates"][0]["full"] is None
    assert view["job"]["printing"]["infill"] == 12.5
    client.post(view, "undo").raise_for_status()
    assert cost(client, client.view(view["id"]))["plates"][0]["full"] is not None


def test_settings_speeds_and_prices_are_typed_and_odd_ones_told(
    client: Client, seated: dict[str, Any]
) -> None:
    plate = cost(client, seated)["plates"][0]
    before = plate["quick"]["seconds"]
    view = client.act(seated, do="set-speed", plate=plate["plate"], speed="outline", typed="20")
    assert cost(client, view)["plates"][0]["quick"]["seconds"] > before
    view = client.act(view, do="set-price", of="material", typed="25")
    view = client.act(view, do="set-price", of="hour", typed="0,50")
    assert cost(client, view)["cost"] == pytest.approx(
        cost(client, view)["grams"] * 0.025 + cost(client, view)["seconds"] / 7200, rel=1e-6
    )
    for odd in (
        {"do": "set-printing", "setting": "infill", "typed": "120"},
        {"do": "set-printing", "setting": "layer", "typed": "0.5"},
        {"do": "set-printing", "setting": "shells", "typed": "2.5"},
        {"do": "set-printing", "setting": "pattern", "typed": "stars"},
        {"do": "set-speed", "plate": plate["plate"], "speed": "outline", "typed": "-3"},
        {"do": "set-speed", "plate": plate["plate"], "speed": "colour", "typed": "3"},
        {"do": "set-price", "of": "kwh", "typed": "-1"},
        {"do": "set-budget", "of": "", "typed": "40"},
        {"do": "set-budget", "of": "nobody", "typed": "40 g"},
    ):
        answer = client.post(view, "actions", action=odd)
        assert answer.status_code == 422, odd
        assert answer.json()["remedy"], odd
    view = client.act(view, do="set-printing", setting="layer", typed="")
    assert view["job"]["printing"]["layer"] is None


def test_a_budget_is_a_finding_with_ways_of_one_press(client: Client, seated: dict[str, Any]) -> None:
    plate = cost(client, seated)["plates"][0]["plate"]
    sets = client.http.get(f"/jobs/{seated['id']}/plates/{plate}/print-sets").raise_for_status().json()
    assert {row["settings"]["name"] for row in sets} >= {"draft", "strong", "solid"}
    view = client.act(seated, do="set-budget", of=plate, typed="3.5 g")
    assert cost(client, view)["budgets"][0]["over"] == 0
    view = client.act(view, do="set-budget", of=plate, typed="2.8 g")
    assert len(cost(client, view)["budgets"]) == 1
    (finding,) = [row for row in view["survey"]["findings"] if row["code"] == "over-budget"]
    assert "over 2.8 g" in finding["says"]
    (row,) = client.http.get(f"/jobs/{view['id']}/plates/{plate}/budget-ways").raise_for_status().json()
    infill = next(way for way in row["ways"] if way["settings"])
    scaled = next(way for way in row["ways"] if way["factor"])
    assert infill["meets"]
    assert scaled["meets"]
    view = client.act(view, do="use-print-settings", settings=infill["settings"])
    assert cost(client, view)["budgets"][0]["over"] == 0
    client.post(view, "undo").raise_for_status()
    view = client.act(client.view(view["id"]), do="scale-plate", plate=plate, factor=scaled["factor"])
    assert cost(client, view)["budgets"][0]["over"] == 0
    assert view["survey"]["bodies"][0]["chain"]["size_mm"][0] == pytest.approx(20 * scaled["factor"])
    view = client.act(view, do="set-budget", of=plate, kind="grams", typed="")
    assert cost(client, view)["budgets"] == []


def test_paths_of_a_layer_are_drawn_and_the_file_is_proven(client: Client, seated: dict[str, Any]) -> None:
    plate = cost(client, seated)["plates"][0]["plate"]
    here = f"/jobs/{seated['id']}/plates/{plate}"
    layer = client.http.get(f"{here}/paths/50").raise_for_status().json()
    assert (layer["number"], layer["layers"], layer["top_mm"]) == (50, 100, 10.0)
    kinds = [run["kind"] for run in layer["runs"]]
    assert {"outline", "shell", "infill", "travel"} <= set(kinds)
    outline = next(run for run in layer["runs"] if run["kind"] == "outline")
    assert outline["points"][0] == outline["points"][-1]
    assert client.http.get(f"{here}/paths/101").status_code == 422
    answer = client.http.get(f"{here}/paths.gcode").raise_for_status()
    assert answer.text.startswith("; Aim True tool paths: a stand-in")
    assert "block_plate-1.gcode" in answer.headers["content-disposition"]


def test_what_was_worked_out_goes_into_the_list_of_jobs_and_the_manifest(
    client: Client, seated: dict[str, Any]
) -> None:
    plate = cost(client, seated)["plates"][0]["plate"]
    client.post(seated, "tasks", task={"do": "estimate-plate", "plate": plate}).raise_for_status()
    view = client.read(seated["id"])
    full = cost(client, view)["plates"][0]["full"]
    (line,) = [row for row in client.http.get("/jobs").json() if row["id"] == view["id"]]
    assert line["takes"].endswith(f"{full['grams']:.1f} g")
    client.post(view, "releases", shape="each", place="seated").raise_for_status()
    view = client.read(view["id"])
    packed = client.http.get(f"/jobs/{view['id']}/releases/1/zip").raise_for_status().content
    with zipfile.ZipFile(io.BytesIO(packed)) as package:
        manifest = json.loads(package.read("MANIFEST.json"))
    (printing,) = manifest["printing"]
    assert printing["plate"] == 1
    assert printing["grams"] == pytest.approx(full["grams"], abs=1e-3)
    view = client.act(view, do="set-price", of="spool", typed="3 g")
    assert "lacks" in cost(client, view)["spool"]
    view = client.act(view, do="set-price", of="spool", typed="1000")
    assert "are left" in cost(client, view)["spool"]
    # What is left on the spool and what is paid are told anew; what was worked out along the paths is not.
    sheet = client.http.get(f"/jobs/{view['id']}/releases/1/sheet").raise_for_status().text
    assert "printing takes" in sheet
    several = client.http.post("/bulk/tally", json={"jobs": [view["id"], "gone"]}).raise_for_status().json()
    (row,) = several["jobs"]
    assert row["grams"] == pytest.approx(several["grams"])
