"""Stock over HTTP: drawn before it is made, made by a worker, tried in a bore, undone, and on through a
bundle.
"""

from __future__ import annotations

import io
import zipfile
from typing import Any

import numpy as np
import pytest

from tests.api.conftest import Client
from tests.core.test_through import drill, plate
from tests.shapes import binary_stl


def opened(client: Client) -> dict[str, Any]:
    solid = (plate() - drill(5.5, -1, 11)).to_mesh64()
    corners = np.asarray(solid.vert_properties)[:, :3][np.asarray(solid.tri_verts)]
    view = client.opened("plate.stl", binary_stl(corners))
    return client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")


def made(client: Client, view: dict[str, Any], text: str, **more: Any) -> dict[str, Any]:
    task = {"do": "make-stock", "text": text, "threaded": False, "clearance": "", **more}
    answer = client.post(view, "tasks", task=task)
    assert answer.status_code == 202, answer.text
    return client.read(view["id"])


def released(client: Client, view: dict[str, Any]) -> list[list[str]]:
    """Release all that is to be printed, and return what is in each file."""
    answer = client.post(view, "releases", place="own", shape="each", pattern="{body}")
    assert answer.status_code == 202, answer.text
    view = client.read(view["id"])
    return [file["bodies"] for file in client.files(view, len(view["releases"]))]


def test_a_part_is_drawn_before_it_is_made_and_a_wrong_one_says_what_there_is(client: Client) -> None:
    view = opened(client)
    part = (
        client.http.get(f"/jobs/{view['id']}/stock", params={"text": "m5x20 socket"})
        .raise_for_status()
        .json()
    )
    assert part["name"] == "bolt M5x20 socket"
    assert part["table"].startswith("ISO 4762:2004")
    assert {row["letter"] for row in part["section"]["dimensions"]} == {"d", "dk", "k", "l"}
    assert part["plan"]["areas"]
    wrong = client.http.get(f"/jobs/{view['id']}/stock", params={"text": "M7x20"})
    assert wrong.status_code == 422
    assert "M6 and M8" in wrong.text
    rows = client.http.get("/stock", params={"search": "bearing 608"}).json()
    assert [row["text"] for row in rows["rows"]] == ["bearing 608"]
    gear = client.http.get(f"/jobs/{view['id']}/stock", params={"text": "gear m1 z20 w8"}).json()
    assert gear["pairs"] == ["with another of its like: 20 mm between centres, 20 : 20"]


def test_a_bolt_is_tried_made_where_it_goes_and_not_released(client: Client) -> None:
    view = opened(client)
    (bore,) = client.http.get(f"/jobs/{view['id']}/stock/bores").raise_for_status().json()
    assert bore["bolt"] == "M5x20 hex"
    spot = {"body": bore["id"], "feature": bore["feature"]}
    answer = client.http.get(f"/jobs/{view['id']}/stock/through", params={"text": "M5x16", **spot}).json()
    assert (answer["goes"], answer["right"]) == (True, "M5x20 hex")
    view = made(client, view, "M5x20", spot=spot)
    bolt = view["job"]["bodies"][1]
    assert bolt["for_checking"]
    source = next(one for one in view["job"]["sources"] if one["id"] == bolt["source"])
    assert source["made"]["text"] == "bolt M5x20 hex"
    assert source["made"]["point"] == pytest.approx([0, 0, 10], abs=1e-6)
    assert view["survey"]["releasable"]
    assert released(client, view) == [["plate"]]
    original = client.http.get(f"/jobs/{view['id']}/originals/{source['sha256']}")
    assert original.content.startswith(b"ISO-10303-21")

    # Taken back it is gone, done again it is there, marked to print it is released, too.
    client.post(view, "undo").raise_for_status()
    assert len(client.view(view["id"])["job"]["bodies"]) == 1
    client.post(client.view(view["id"]), "redo").raise_for_status()
    view = client.view(view["id"])
    view = client.act(view, do="set-purpose", bodies=[bolt["id"]], for_checking=False)
    assert released(client, view) == [["plate"], ["M5x20 hex"]]


def test_a_part_that_cannot_be_made_is_refused_before_its_making_is_begun(client: Client) -> None:
    view = opened(client)
    task = {"do": "make-stock", "text": "gear m1 z4 w8", "threaded": False, "clearance": ""}
    answer = client.post(view, "tasks", task=task)
    assert answer.status_code == 422
    assert "z5" in answer.text
    assert client.view(view["id"])["tasks"][0]["kind"] == "read"


def test_stock_goes_on_through_a_bundle_with_its_recipe_and_its_purpose(client: Client) -> None:
    view = made(client, opened(client), "nut M5", threaded=True, clearance="0.2")
    bundle = client.http.get(f"/jobs/{view['id']}/bundle").raise_for_status().content
    assert zipfile.is_zipfile(io.BytesIO(bundle))
    answer = client.send("plate.aimtrue.zip", bundle)
    assert answer.status_code == 201, answer.text
    other = client.view(answer.json()["id"])
    nut = other["job"]["bodies"][1]
    assert (nut["name"], nut["for_checking"]) == ("M5 hex nut threaded", True)
    recipe = next(one for one in other["job"]["sources"] if one["id"] == nut["source"])["made"]
    assert (recipe["text"], recipe["threaded"], recipe["clearance_mm"]) == ("nut M5 hex", True, 0.2)


def test_a_thread_is_cut_into_a_bore_of_a_body(client: Client) -> None:
    solid = (plate() - drill(4.2, -1, 11)).to_mesh64()
    corners = np.asarray(solid.vert_properties)[:, :3][np.asarray(solid.tri_verts)]
    view = client.opened("plate.stl", binary_stl(corners))
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    body = view["job"]["bodies"][0]
    (wall,) = client.http.get(f"/jobs/{view['id']}/division/{body['id']}/walls").raise_for_status().json()
    assert (wall["kind"], wall["cut"]) == ("bore", "M5")
    asked = {"by": "thread", "picks": [{"face": wall["face"], "point": [0, 0, 0]}], "clearance": "0.2"}
    task = {"do": "shape", "bodies": [body["id"]], "asked": asked, "instead": ""}
    assert client.post(view, "tasks", task=task).status_code == 202
    view = client.read(view["id"])
    assert [one["name"] for one in view["job"]["bodies"]] == ["plate", "plate threaded"]
    assert released(client, view) == [["plate threaded"]]
