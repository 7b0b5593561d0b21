"""Sheet 3 over HTTP: pairs that are offered and kept, their details, walls, and faces moved to free one."""

import io
import json
import zipfile
from typing import Any

import numpy as np
import pytest

from aimtrue.core.mesh.solids import mesh_of
from tests.api.conftest import Client
from tests.api.test_bundle import changed
from tests.core.test_fit import PIN, PLATE
from tests.shapes import binary_stl, corners_of

PAIR = binary_stl(np.concatenate([corners_of(mesh_of(PLATE)), corners_of(mesh_of(PIN))]))


def settled(client: Client) -> dict[str, Any]:
    view = client.opened("pair.stl", PAIR)
    return client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")


def kept(client: Client, view: dict[str, Any], intent: str = "slides") -> dict[str, Any]:
    (offer,) = client.http.get(f"/jobs/{view['id']}/fit/offers").raise_for_status().json()
    told = {key: offer[key] for key in ("kind", "a", "b", "a_feature", "b_feature")}
    return client.act(view, do="pair-up", intent=intent, **told)


def test_a_pair_is_offered_kept_drawn_and_broken_by_a_factor(client: Client) -> None:
    view = kept(client, settled(client))
    (pair,) = view["survey"]["rooms"]["fit"]["pairs"]
    assert pair["states"][-1]["verdict"] == "holds"
    assert client.http.get(f"/jobs/{view['id']}/fit").json() == view["survey"]["rooms"]["fit"]
    assert client.http.get(f"/jobs/{view['id']}/fit/offers").json() == []
    detail = client.http.get(f"/jobs/{view['id']}/fit/pairs/{pair['id']}").raise_for_status().json()
    assert detail["side_mm"] == pytest.approx(0.15, abs=1e-5)
    assert detail["a"]
    assert detail["b"]
    view = client.act(view, do="set-factor", body=pair["a"], typed="0.6")
    (finding,) = [one for one in view["survey"]["findings"] if one["code"] == "pair-broken"]
    assert "0.18 mm of clearance (was 0.3 as drawn)" in finding["says"]
    (pair,) = view["survey"]["rooms"]["fit"]["pairs"]
    way = pair["ways"][0]
    work = {"do": "shape", "bodies": [way["body"]], "asked": way["asked"], "instead": ""}
    answer = client.post(view, "tasks", task=work)
    assert answer.status_code == 202, answer.text
    view = client.read(view["id"])
    (pair,) = view["survey"]["rooms"]["fit"]["pairs"]
    assert [one["verdict"] for one in pair["states"]] == ["holds", "holds", "holds"]
    assert pair["states"][-1]["clearance_mm"] == pytest.approx(0.4, abs=1e-4)
    client.post(view, "undo").raise_for_status()
    (pair,) = client.view(view["id"])["survey"]["rooms"]["fit"]["pairs"]
    assert pair["states"][-1]["clearance_mm"] == pytest.approx(0.18, abs=1e-5)


def test_walls_are_measured_and_odd_answers_are_told(client: Client) -> None:
    view = settled(client)
    walls = client.http.get(f"/jobs/{view['id']}/fit/walls").raise_for_status().json()
    assert [round(row["least_mm"], 3) for row in walls] == [8.0, 4.997]
    thin = client.http.get(f"/jobs/{view['id']}/fit/walls", params={"under": "6"}).json()
    assert thin[0]["share_under"] == 0
    assert thin[1]["share_under"] > 0.5
    wrong = client.http.get(f"/jobs/{view['id']}/fit/walls", params={"under": "thin"})
    assert wrong.status_code == 422
    assert client.http.get(f"/jobs/{view['id']}/fit/pairs/f99").status_code == 422


def test_a_pair_goes_through_a_bundle(client: Client) -> None:
    view = kept(client, settled(client))
    bundle = client.http.get(f"/jobs/{view['id']}/bundle").raise_for_status().content
    again = client.view(client.send("pair_bundle.zip", bundle).raise_for_status().json()["id"])
    assert again["survey"]["rooms"]["fit"]["pairs"][0]["intent"] == "slides"
    odd = changed(bundle, **{"bundle.json": _with_a_lost_pair(bundle)})
    answer = client.send("odd_bundle.zip", odd)
    assert (answer.status_code, answer.json()["code"]) == (422, "bundle-odd")


def _with_a_lost_pair(bundle: bytes) -> bytes:
    with zipfile.ZipFile(io.BytesIO(bundle)) as packed:
        (name,) = [name for name in packed.namelist() if name.endswith("bundle.json")]
        told = json.loads(packed.read(name))
    for state in told["states"]:
        for pair in state["state"].get("pairs", ()):
            pair["a"] = "s9-9"
    return json.dumps(told).encode()
