"""Sheet 5 over HTTP: machines on a shelf, plates and seats, what is drawn of them, arranging."""

import time

import pytest

from tests.api.conftest import Client
from tests.shapes import binary_stl, box, corners_of

BLOCK = binary_stl(corners_of(box(80, 70, 10)))


def settled(client: Client, data: bytes = BLOCK) -> dict:  # type: ignore[type-arg]
    view = client.opened("block.stl", data)
    return client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")


def test_the_shelf_comes_with_four_machines_and_keeps_more(client: Client) -> None:
    store = client.http.get("/machines").json()
    assert [one["machine"]["name"] for one in store][:4] == [
        "Garden bench M",
        "Garden bench S",
        "Tower round",
        "Vat 7",
    ]
    own = {
        **store[1]["machine"],
        "name": "Bench by the window",
        "volume": {"shape": "box", "size": [180, 180, 180]},
    }
    kept = client.http.post("/machines", json=own)
    assert kept.status_code == 201, kept.text
    number = kept.json()["id"]
    taken = client.http.post("/machines", json={**own, "name": "bench by the WINDOW"})
    assert (taken.status_code, taken.json()["code"]) == (422, "machine-taken")
    changed = client.http.put(
        f"/machines/{number}", json={**own, "volume": {"shape": "round", "diameter": 200, "height": 150}}
    )
    assert changed.json()["machine"]["volume"]["shape"] == "round"
    # The one that is the same in all is told, whatever order its fields come in.
    turned = dict(reversed(changed.json()["machine"].items()))
    assert client.http.post("/machines/which", json=turned).json() == number
    assert client.http.post("/machines/which", json={**turned, "start": "back left"}).json() is None
    # A job takes a machine by value: one that is gone from the shelf is still the job's.
    view = client.act(settled(client), do="set-machine", machine=changed.json()["machine"])
    assert number not in [one["id"] for one in client.http.delete(f"/machines/{number}").json()]
    assert client.view(view["id"])["survey"]["plates"][0]["machine"]["name"] == "Bench by the window"
    gone = client.http.put(f"/machines/{number}", json=own)
    assert (gone.status_code, gone.json()["code"]) == (422, "machine-unknown")


@pytest.mark.parametrize(
    "wrong",
    [
        {"volume": {"shape": "box", "size": [0, 10, 10]}},
        {"volume": {"shape": "box", "size": [-1, 10, 10]}},
        {"volume": {"shape": "round", "diameter": 1e12, "height": 5}},
        {"margins": {"left": 200, "right": 200}},
        {"margins": {"left": -1}},
        {"process": {"bead": 0}},
        {"process": {"layer": -0.2}},
        {"name": ""},
    ],
)
def test_machines_that_are_none_are_refused_and_nothing_is_kept(client: Client, wrong: dict) -> None:  # type: ignore[type-arg]
    before = client.http.get("/machines").json()
    answer = client.http.post("/machines", json={"name": "Odd one", **wrong})
    assert answer.status_code == 422
    assert answer.json()["says"]
    assert client.http.get("/machines").json() == before


def test_a_seat_is_turned_placed_copied_and_all_of_it_undone(client: Client) -> None:
    view = settled(client)
    body = view["job"]["bodies"][0]["id"]
    before = view["survey"]["seats"]
    view = client.act(view, do="turn-seat", body=body, axis="y", typed="0.3")
    (tilted,) = (one for one in view["survey"]["findings"] if one["code"] == "tilted")
    assert tilted["ways"][0]["says"] == "Level it"
    view = client.act(view, **tilted["ways"][0]["action"])
    assert view["survey"]["seats"][0]["tilt_deg"] == 0
    view = client.act(view, do="set-copies", body=body, typed="3")
    view = client.act(view, do="move-seat", body=body, copy_number=2, x="60", y="50")
    room = view["survey"]["seats"][1]["room"]
    assert (room["low"][0] + room["high"][0]) / 2 == pytest.approx(60)
    for _ in range(4):
        view = client.post(view, "undo").raise_for_status().json()["job"]
    assert view["survey"]["seats"] == before


def test_what_is_drawn_of_a_plate(client: Client) -> None:
    view = settled(client)
    body, at = view["job"]["bodies"][0]["id"], f"/jobs/{view['id']}"
    plan = client.http.get(f"{at}/plates/p1/plan").json()
    assert plan["fill"] == pytest.approx(80 * 70 / (250 * 210))
    ways = client.http.get(f"{at}/seats/{body}/1/ways", params={"wish": "height"}).json()
    assert [way["height_mm"] for way in ways] == pytest.approx([10, 10, 70, 70, 80, 80])
    first = client.http.get(f"{at}/seats/{body}/1/first-layer").json()
    assert (first["area_mm2"], first["islands"]) == (pytest.approx(5600), 1)
    layers = client.http.get(f"{at}/plates/p1/layers").json()
    assert len(layers["heights"]) == 50
    assert client.http.get(f"{at}/plates/p1/layers/50").json()["height_mm"] == pytest.approx(9.9)
    tried = client.http.get(f"{at}/seats/{body}/1/try", params={"dx": 100, "dy": 0}).json()
    assert tried["says"] == ["15.00 mm outside along X"]
    for wrong in (
        f"{at}/plates/p9/plan",
        f"{at}/plates/p1/layers/51",
        f"{at}/seats/{body}/7/ways",
        f"{at}/seats/{body}/1/ways?wish=luck",
    ):
        assert client.http.get(wrong).status_code == 422


def test_copies_are_arranged_in_the_background_and_released_plate_by_plate(client: Client) -> None:
    view = settled(client)
    body = view["job"]["bodies"][0]["id"]
    view = client.act(view, do="set-copies", body=body, typed="8")
    work = {"do": "arrange-seats", "gap": "4", "turns": "quarters", "seconds": 0.5}
    assert client.post(view, "tasks", task={**work, "gap": "wide"}).status_code == 422
    client.post(view, "tasks", task=work).raise_for_status()
    view = client.read(view["id"])
    assert [plate["id"] for plate in view["survey"]["plates"]] == ["p1", "p2"]
    assert not [one for one in view["survey"]["findings"] if one["sheet"] == "seating"]
    client.post(view, "releases", format="stl").raise_for_status()
    files = client.files(client.read(view["id"]))
    assert [file["name"] for file in files] == ["block_plate-1_r1.stl", "block_plate-2_r1.stl"]
    assert all(file["proof"]["holds"] for file in files)
    assert sum(len(file["bodies"]) for file in files) == 8


def test_arranging_stops_when_it_is_asked_to_and_keeps_what_it_has(client: Client) -> None:
    view = settled(client)
    view = client.act(view, do="set-copies", body=view["job"]["bodies"][0]["id"], typed="5")
    work = {"do": "arrange-seats", "turns": "any", "seconds": 120}
    task = client.post(view, "tasks", task=work).raise_for_status().json()["job"]["tasks"][0]["id"]
    started = time.monotonic()
    assert client.http.post(f"/jobs/{view['id']}/tasks/{task}/stop").status_code == 204
    view = client.read(view["id"], seconds=60)
    assert time.monotonic() - started < 60
    assert view["tasks"][0]["state"] == "done"
    assert view["undo"] == "arrange"
    assert client.http.post(f"/jobs/{view['id']}/tasks/999999/stop").status_code == 404
