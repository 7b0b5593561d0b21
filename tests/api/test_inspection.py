"""Printed parts over HTTP: measured, as a table, on paper, and as a calibration that says what comes next."""

from typing import Any

import pytest

from tests.api.conftest import Client
from tests.api.test_fit import kept, settled


def measured(client: Client, view: dict[str, Any], scale: float = 0.99) -> dict[str, Any]:
    """Three parts, all of whose sizes came out alike."""
    for _ in range(3):
        view = client.act(view, do="add-printed-part", name="")
        part = view["job"]["inspection"]["parts"][-1]["id"]
        for row in told(client, view)["rows"]:
            typed = f"{scale * row['file_mm'] - 0.1 * (row['form'] == 'hole'):.5f}"
            view = client.act(view, do="measure-part", part=part, target=row["target"], typed=typed)
    return view


def told(client: Client, view: dict[str, Any]) -> dict[str, Any]:
    return client.http.get(f"/jobs/{view['id']}/inspection").raise_for_status().json()  # type: ignore[no-any-return]


def test_parts_become_a_calibration_that_says_what_the_next_release_will_measure(client: Client) -> None:
    view = measured(client, kept(client, settled(client)))
    known = told(client, view)
    assert [part["measured"] for part in known["parts"]] == [8, 8, 8]
    response = client.http.post(f"/jobs/{view['id']}/inspection/calibration")
    assert response.status_code == 201, response.text
    found = response.json()["found"]
    assert found["shrinkage"] == pytest.approx([0.01, 0.01, 0.01], abs=1e-4)
    view = client.act(view, do="take-calibration", body=None, found=found, says="3 parts")
    rows = told(client, view)["rows"]
    wide = next(row for row in rows if row["what"] == "overall X")
    assert wide["file_mm"] == pytest.approx(40 / 0.99, abs=1e-3)
    assert wide["expected_mm"] == pytest.approx(40, abs=2e-3)
    (pair,) = view["survey"]["rooms"]["fit"]["pairs"]
    assert pair["printed"]["clearance_mm"] == pytest.approx(0.2, abs=2e-3)
    assert found in [one["found"] for one in client.http.get("/calibrations").json()]
    # The proof sheet of the next release says it, too.
    client.post(view, "releases", format="stl", bodies=None)
    view = client.read(view["id"])
    sheet = client.http.get(f"/jobs/{view['id']}/releases/1/sheet").raise_for_status().json()
    said = [
        line["text"] for body in sheet["bodies"] for line in body["says"] if line["label"] == "when printed"
    ]
    assert any(text.startswith("x 40.00 ±") for text in said)


def test_a_table_goes_out_and_comes_back_filled_and_the_sheet_is_printed(client: Client) -> None:
    view = kept(client, settled(client))
    at = f"/jobs/{view['id']}/inspection"
    table = client.http.get(f"{at}/table.csv")
    assert table.headers["content-type"].startswith("text/csv")
    lines = table.text.splitlines()
    filled = [
        f"{lines[0]},north,south",
        *(f"{line},{line.split(',')[3]},{line.split(',')[3]}" for line in lines[1:]),
    ]
    view = client.act(view, do="take-measurements", text="\n".join(filled))
    known = told(client, view)
    assert [(part["name"], part["measured"], part["out"]) for part in known["parts"]] == [
        ("north", 8, 0), ("south", 8, 0),
    ]  # fmt: skip
    for kind in ("a4", "letter"):
        sheet = client.http.get(f"{at}/sheet.pdf", params={"kind": kind})
        assert sheet.headers["content-type"] == "application/pdf"
        assert sheet.content.startswith(b"%PDF")
    refused = client.post(view, "actions", action={"do": "take-measurements", "text": "key,p\nnothing,4"})
    assert (refused.status_code, refused.json()["code"]) == (422, "csv-key")
    too_few = client.http.post(f"{at}/calibration")
    assert (too_few.status_code, too_few.json()["code"]) == (422, "no-lines")


def test_two_bodies_are_tried_sectioned_and_drawn(client: Client) -> None:
    view = settled(client)
    one, other = (body["id"] for body in view["job"]["bodies"])
    at = f"/jobs/{view['id']}/fit/between/{one}/{other}"
    near = client.http.get(at).raise_for_status().json()
    assert near["least_mm"] == pytest.approx(0.15, abs=1e-3)
    moved = client.http.get(at, params={"place": "0, 0, 100"}).raise_for_status().json()
    assert (moved["place"], moved["pairs"]) == ("0, 0, 100", [])
    assert moved["least_mm"] > 80
    section = client.http.get(f"{at}/section", params={"depth": 0.5}).raise_for_status().json()
    assert section["a"]
    assert section["reach_mm"] > 0.5
    gaps = client.http.get(f"{at}/gaps").raise_for_status().json()
    assert gaps["bands"][0]["count"] > 50
    walls = (
        client.http.get(f"/jobs/{view['id']}/fit/walls/{one}", params={"under": "10"})
        .raise_for_status()
        .json()
    )
    assert walls["bands"][0]["says"] == "under 10.00 mm"
    for params in ({"place": "beside"}, {"place": "face 99/1"}):
        assert client.http.get(at, params=params).status_code == 422
    assert client.http.get(f"/jobs/{view['id']}/fit/between/{one}/nobody").status_code in (404, 422)
