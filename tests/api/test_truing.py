"""Sheet 2 over the wire: features, many readings, CSV, drawings, calibrations, the simulated caliper."""

import xml.etree.ElementTree as ET
from typing import Any

import pytest

from demo.parts import built
from tests.api.conftest import Client


@pytest.fixture
def shells(client: Client) -> dict[str, Any]:
    view = client.opened("clamp-shells.stl", (built() / "clamp-shells.stl").read_bytes())
    source = view["job"]["sources"][0]
    return view if source["unit"] else client.act(view, do="settle-unit", source=source["id"], unit="mm")


def get(client: Client, path: str):  # type: ignore[no-untyped-def]
    answer = client.http.get(path)
    answer.raise_for_status()
    return answer


def seat_of(client: Client, view: dict[str, Any]) -> tuple[str, int]:
    body = view["job"]["bodies"][0]["id"]
    lines = get(client, f"/jobs/{view['id']}/bodies/{body}/features").json()
    return body, next(line["id"] for line in lines if line["kind"] == "hollow arc")


def test_the_clamp_is_trued_from_the_list_alone(client: Client, shells: dict[str, Any]) -> None:
    body, seat = seat_of(client, shells)
    spots = [{"feature": seat}]
    view = client.act(shells, do="add-reading", body=body, kind="diameter", spots=spots, typed="140.3")
    view = client.act(view, do="adjust-reading", reading="r1", clearance="0.3")
    (truth,) = view["survey"]["truths"]
    assert truth["window"][0] < truth["factor"] < truth["window"][1]
    assert view["survey"]["kits"][0]["readings"][0]["model_mm"] == pytest.approx(140.6)
    lines = get(client, f"/jobs/{view['id']}/bodies/{body}/features").json()
    assert [line["bolt"] for line in lines if line["kind"] == "bore"] == ["M5", "M5"]
    asked = {"do": "set-reading", "reading": "r1", "typed": "140.3 m"}
    assert client.post(view, "actions", action=asked).json()["code"] == "length-absurd"
    asked["typed"] = "0.1"
    assert client.post(view, "actions", action=asked).json()["code"] == "ask-first"


def test_readings_go_out_and_in_as_csv(client: Client, shells: dict[str, Any]) -> None:
    body, seat = seat_of(client, shells)
    view = client.act(shells, do="add-reading", body=body, kind="diameter", spots=[{"feature": seat}])
    view = client.act(view, do="name-reading", reading="r1", name="tube seat")
    text = "name,real,unit\ntube seat,14.06,cm\nlid,3,mm\n"
    asked = {"on": view["number"], "body": body, "text": text}
    answer = client.http.post(f"/jobs/{view['id']}/readings", json=asked)
    done = answer.json()
    assert done["taken"] == 1
    assert "lid" in done["problems"][0]["says"]
    assert client.view(view["id"])["job"]["readings"][0]["real_mm"] == pytest.approx(140.6)
    rows = get(client, f"/jobs/{view['id']}/readings/{body}").text.splitlines()
    assert rows[1].startswith("tube seat,diameter,140.6")


def test_drawing_and_comparison(client: Client, shells: dict[str, Any]) -> None:
    kit = shells["job"]["kits"][0]["id"]
    view = client.act(shells, do="set-factor", body=kit, typed="0.98")
    drawing = get(client, f"/jobs/{view['id']}/drawing/{kit}")
    assert drawing.headers["content-type"] == "image/svg+xml"
    assert ET.fromstring(drawing.text).tag.endswith("svg")
    states = get(client, f"/jobs/{view['id']}/compare/{kit}").json()["states"]
    assert [state["name"] for state in states] == ["in the file", "corrected", "released"]
    assert states[1]["volume_mm3"] == pytest.approx(states[0]["volume_mm3"] * 0.98**3)


def test_a_drawing_of_an_open_unit_is_refused(client: Client) -> None:
    view = client.opened("shim.stl", (built() / "shim-plate.stl").read_bytes())
    if view["job"]["sources"][0]["unit"] is None:
        answer = client.http.get(f"/jobs/{view['id']}/drawing/{view['job']['bodies'][0]['id']}")
        assert answer.status_code == 422


def test_a_calibration_is_kept_for_the_next_job(client: Client) -> None:
    pairs = [
        {"axis": "x", "nominal": "100", "measured": "99.6"},
        {"axis": "z", "nominal": "2 in", "measured": "50.6"},
    ]
    asked = {"machine": "Garden bench M", "material": "PLA", "pairs": pairs}
    made = client.http.post("/calibrations", json=asked).json()
    assert made["found"]["shrinkage"][0] == pytest.approx(0.004)
    assert made["found"]["assumed"] == ["y"]
    assert made["id"] in [one["id"] for one in client.http.get("/calibrations").json()]
    left = client.http.delete(f"/calibrations/{made['id']}").json()
    assert made["id"] not in [one["id"] for one in left]
    assert client.http.post("/calibrations", json={**asked, "pairs": []}).status_code == 422


def test_the_caliper_is_simulated_and_says_so(client: Client) -> None:
    pressed = client.http.post("/standins/caliper", json={"jaws": "140.3"}).json()
    assert pressed["simulated"] is True
    assert abs(float(pressed["types"]) - 140.3) < 0.15
    assert len(pressed["types"].split(".")[1]) == 2
    coarse = {"jaws": "140.3", "resolution_mm": 0.5, "noise_mm": 0}
    assert client.http.post("/standins/caliper", json=coarse).json()["types"] == "140.5"
    assert client.http.post("/standins/caliper", json={"jaws": "2 m"}).status_code == 422
