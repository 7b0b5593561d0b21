"""Sheet 4 over HTTP: seams, what a division would come to, made in the background and made again."""

import time
from typing import Any

from manifold3d import Manifold

from aimtrue.core.mesh.solids import mesh_of
from tests.api.conftest import Client
from tests.house import House
from tests.shapes import binary_stl, box, corners_of

BLOCK = binary_stl(corners_of(box(80, 70, 30)))
PIECES = {"by": "planes", "planes": ["x=30", "z=12"], "pins": {"diameter": "3", "depth": "5"}}


def settled(client: Client) -> dict[str, Any]:
    view = client.opened("block.stl", BLOCK)
    return client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")


def shaped(client: Client, view: dict[str, Any], asked: dict[str, Any], instead: str = "") -> dict[str, Any]:
    work = {"do": "shape", "bodies": [view["job"]["bodies"][0]["id"]], "asked": asked, "instead": instead}
    answer = client.post(view, "tasks", task=work)
    assert answer.status_code == 202, answer.text
    return client.read(view["id"])


def made(view: dict[str, Any]) -> list[str]:
    return [body["id"] for body in view["job"]["bodies"] if body["division"]]


def test_what_a_division_would_come_to_is_told_before(client: Client) -> None:
    view = settled(client)
    path = f"/jobs/{view['id']}/division/{view['job']['bodies'][0]['id']}"
    told = client.http.post(f"{path}/try", json={"asked": PIECES}).raise_for_status().json()
    assert [plane["letter"] for plane in told["planes"]] == ["A", "B"]
    assert [round(plane["area_mm2"]) for plane in told["planes"]] == [70 * 30, 80 * 70]
    assert [piece["place"] for piece in told["pieces"]] == [
        "lower left",
        "lower right",
        "upper left",
        "upper right",
    ]
    assert told["difference"] < 1e-12
    seams = client.http.get(f"{path}/seams/z").raise_for_status().json()
    assert (seams["low"], seams["high"], seams["seams"]) == (0, 30, [])
    wrong = client.http.post(f"{path}/try", json={"asked": {"by": "planes", "planes": ["z=99"]}})
    assert (wrong.status_code, wrong.json()["code"]) == (422, "plane-misses")


def test_a_plane_is_put_through_a_face_and_a_slice_around_a_reading(client: Client) -> None:
    view = settled(client)
    body = view["job"]["bodies"][0]["id"]
    path = f"/jobs/{view['id']}/division"
    tops = [
        one
        for one in client.http.get(f"/jobs/{view['id']}/bodies/{body}/features").json()
        if one["kind"] == "flat" and one["place"][2] == 30
    ]
    told = client.http.get(f"{path}/{body}/face/{tops[0]['face']}").raise_for_status().json()
    assert told["typed"] == "z=30"
    assert client.http.get(f"{path}/{body}/face/9999").json()["code"] == "face-unknown"
    view = client.act(
        view,
        do="add-reading",
        body=body,
        kind="points",
        spots=[{"point": [0, 0, 10]}, {"point": [80, 0, 10]}],
        typed="80",
    )
    around = client.http.get(f"{path}/around/{view['job']['readings'][0]['id']}").raise_for_status().json()
    assert around in (
        {"axis": "y", "low": "-3.00", "high": "3.00"},
        {"axis": "z", "low": "7.00", "high": "13.00"},
    )


def test_pieces_are_made_and_made_again_when_their_whole_changes(client: Client) -> None:
    view = shaped(client, settled(client), PIECES)
    first = made(view)
    assert len(first) == 5
    assert view["undo"] == "divide block into 4 pieces"
    assert [body["divided"] for body in view["survey"]["bodies"]] == [True, *[False] * 5]
    whole = view["job"]["bodies"][0]["id"]
    changed = client.act(view, do="set-factor", body=whole, typed="1.1")
    assert {body["id"] for body in changed["survey"]["bodies"] if body["stale"]} == set(first)
    assert client.post(changed, "releases").json()["code"] == "stale"
    view = client.read(view["id"])
    assert not any(body["stale"] for body in view["survey"]["bodies"])
    assert not set(made(view)) & set(first)
    # What the system made again is no step: undo goes back to before the factor, and finds its pieces there.
    assert view["undo"] == changed["undo"]
    back = client.post(view, "undo").json()["job"]
    assert made(back) == first
    assert not any(body["stale"] for body in back["survey"]["bodies"])
    # Nothing of it is stale, so nothing is made again.
    time.sleep(0.3)
    assert made(client.view(view["id"])) == first


def test_several_changes_at_once_end_with_what_was_changed_last(client: Client) -> None:
    view = shaped(client, settled(client), {"by": "planes", "planes": ["x=30"]})
    whole = view["job"]["bodies"][0]["id"]
    for factor in ("1.1", "1.2", "1.3"):
        answer = client.post(view, "actions", action={"do": "set-factor", "body": whole, "typed": factor})
        while answer.status_code == 409:  # it was made again meanwhile
            view = client.view(view["id"])
            answer = client.post(view, "actions", action={"do": "set-factor", "body": whole, "typed": factor})
        view = answer.json()["job"]
    ends = time.monotonic() + 30
    view = client.read(view["id"])
    while any(body["stale"] for body in view["survey"]["bodies"]):
        assert time.monotonic() < ends
        view = client.read(view["id"])
    left = view["survey"]["bodies"][1]["chain"]["size_mm"][0]
    assert abs(left - 30) < 1e-9
    gone = client.act(view, do="undivide", division=view["job"]["divisions"][0]["id"])
    assert len(gone["job"]["bodies"]) == 1


def test_what_cannot_be_made_again_says_so_and_leaves_the_job_as_it_was(client: Client) -> None:
    view = shaped(client, settled(client), {"by": "planes", "planes": ["x=60"]})
    pieces = made(view)
    view = client.act(view, do="set-factor", body=view["job"]["bodies"][0]["id"], typed="0.5")
    view = client.read(view["id"])
    assert made(view) == pieces
    assert all(body["stale"] for body in view["survey"]["bodies"][1:])
    failed = next(one for one in view["tasks"] if one["state"] == "failed")
    assert failed["error"]["code"] == "plane-misses"
    bundle = client.http.get(f"/jobs/{view['id']}/bundle").raise_for_status().content
    elsewhere = client.read(client.send("block_bundle.zip", bundle).json()["id"])
    assert [one["error"]["code"] for one in elsewhere["tasks"] if one["state"] == "failed"] == [
        "plane-misses"
    ]
    view = client.act(view, do="set-factor", body=view["job"]["bodies"][0]["id"], typed="1.2")
    view = client.read(view["id"])
    assert not any(body["stale"] for body in view["survey"]["bodies"])


def test_work_that_makes_no_sense_is_refused_at_once_or_told(client: Client) -> None:
    view = client.opened("block.stl", BLOCK)
    body = view["job"]["bodies"][0]["id"]
    work = {"do": "shape", "bodies": [body], "asked": {"by": "hollow", "wall": "2"}}
    if view["job"]["sources"][0]["unit"] is None:
        assert client.post(view, "tasks", task=work).json()["code"] == "unit-unsettled"
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    two = {"do": "shape", "bodies": [body], "asked": {"by": "solids", "how": "join"}}
    assert client.post(view, "tasks", task=two).json()["code"] == "bodies"
    assert client.post(view, "tasks", task={**work, "asked": {"by": "magic"}}).status_code == 422
    thick = shaped(client, view, {"by": "hollow", "wall": "40"})
    assert thick["tasks"][0]["error"]["code"] == "wall-thick"
    assert made(thick) == []


def ball(sides: int) -> bytes:
    return binary_stl(corners_of(mesh_of(Manifold.sphere(30, sides))))


def test_stopping_a_hollow_leaves_the_job_as_it_was(client: Client) -> None:
    view = client.opened("ball.stl", ball(200))
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    work = {"do": "shape", "bodies": [view["job"]["bodies"][0]["id"]], "asked": {"by": "hollow", "wall": "1"}}
    task = client.post(view, "tasks", task=work).raise_for_status().json()["job"]["tasks"][0]["id"]
    assert client.http.post(f"/jobs/{view['id']}/tasks/{task}/stop").status_code == 204
    after = client.read(view["id"])
    stopped = next(one for one in after["tasks"] if one["id"] == task)
    assert (stopped["state"], stopped["error"]["code"]) == ("failed", "stopped")
    assert (after["number"], after["job"]["bodies"]) == (view["number"], view["job"]["bodies"])


def test_a_division_whose_worker_was_killed_is_made_once(client: Client, house: House) -> None:
    view = client.opened("ball.stl", ball(160))
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    work = {"do": "shape", "bodies": [view["job"]["bodies"][0]["id"]], "asked": {"by": "hollow", "wall": "2"}}
    client.post(view, "tasks", task=work).raise_for_status()
    time.sleep(0.4)
    house.end("worker")
    house.run("worker")
    after = client.read(view["id"], seconds=90)
    assert len(made(after)) == 1
    assert after["number"] == view["number"] + 1
    assert after["undo"].startswith("hollow")


def test_outlines_pieces_apart_and_a_drawing_are_shown_before_anything_is_made(client: Client) -> None:
    view = settled(client)
    path = f"/jobs/{view['id']}/division/{view['job']['bodies'][0]['id']}"
    drawn = client.http.get(f"{path}/outline/z", params={"at": "1 cm"}).raise_for_status().json()
    assert (round(drawn["area_mm2"], 6), drawn["at_mm"], drawn["arcs"]) == (5600, 10, 0)
    assert drawn["svg"].startswith("<svg")
    assert "LWPOLYLINE" in drawn["dxf"]
    assert round(client.http.get(f"{path}/outline/x").json()["area_mm2"], 3) == 2100
    assert client.http.get(f"{path}/outline/z", params={"at": "99"}).json()["code"] == "plane-misses"
    pieces = client.http.post(f"{path}/apart", json={"by": "planes", "planes": ["z=12"]}).json()
    assert [piece["high"][2] for piece in pieces] == [12, 30]
    assert client.http.get(f"/bench/{pieces[0]['bench']}").content.startswith(b"ATB1")
    square = (
        '<svg xmlns="http://www.w3.org/2000/svg" width="9mm" height="9mm" viewBox="0 0 9 9">'
        '<rect width="9" height="9"/></svg>'
    )
    asked = {"by": "outline", "drawing": square, "name": "a.svg", "size": "18", "move": ["2", "3"]}
    (ring,) = client.http.post(f"{path}/placed", json=asked).raise_for_status().json()
    assert sorted(map(tuple, ring)) == [(2, 3, 30), (2, 21, 30), (20, 3, 30), (20, 21, 30)]
    bare = asked | {"drawing": square.replace("mm", "")}
    assert client.http.post(f"{path}/placed", json=bare).status_code == 422
    three = [{"face": 0, "weights": weights} for weights in ([1, 0, 0], [0, 1, 0], [0, 0, 1])]
    assert "=" in client.http.post(f"{path}/places", json={"places": three}).json()["typed"]
    assert client.http.post(f"{path}/places", json={"places": three[:2]}).status_code == 422


def test_a_trial_is_measured_and_calibrates(client: Client) -> None:
    view = settled(client)
    body = view["job"]["bodies"][0]["id"]
    ends = [{"point": [0, 0, 10]}, {"point": [80, 0, 10]}]
    view = client.act(view, do="add-reading", body=body, kind="points", spots=ends, typed="80")
    work = {"do": "shape", "bodies": [body], "asked": {"by": "slice", "axis": "z", "low": "5", "high": "15"}}
    client.post(view, "tasks", task=work).raise_for_status()
    view = client.read(view["id"])
    path = f"/jobs/{view['id']}/division/{view['job']['divisions'][0]['id']}"
    (told,) = client.http.get(f"{path}/printed").raise_for_status().json()
    assert (told["released_mm"], told["measured_mm"], told["axes"]) == (80, None, ["x"])
    assert client.http.post(f"{path}/calibration").json()["code"] == "no-pairs"
    view = client.act(view, do="set-printed", reading=told["reading"], typed="79.6")
    found = client.http.post(f"{path}/calibration").raise_for_status().json()["found"]
    assert abs(found["shrinkage"][0] - 0.005) < 1e-12
    assert (found["machine"], found["assumed"]) == ("Garden bench M", ["y", "z"])
    view = client.act(view, do="take-printed", reading=told["reading"])
    assert view["job"]["readings"][0]["real_mm"] == 79.6


def test_whatever_changes_a_whole_asks_for_its_pieces_again(client: Client) -> None:
    """Readings that are imported, and going back to a release, change a whole as an action does."""
    view = settled(client)
    body = view["job"]["bodies"][0]["id"]
    view = client.act(view, do="add-reading", body=body, kind="extent", axis="x")
    view = shaped(client, view, {"by": "planes", "planes": ["x=30"]})
    view = client.post(view, "releases", format="stl", place="own").json()["job"]
    view = client.read(view["id"])
    assert view["releases"][0]["number"] == 1
    name = view["job"]["readings"][0]["name"]
    rows = client.post(view, "readings", body=body, text=f"name,real\n{name},84\n")
    assert rows.json()["taken"] == 1
    view = client.read(view["id"])
    assert not any(one["stale"] for one in view["survey"]["bodies"])
    wide = sum(one["chain"]["size_mm"][0] for one in view["survey"]["bodies"] if one["id"] in made(view))
    assert round(wide, 6) == 84
    view = client.http.post(f"/jobs/{view['id']}/releases/1/back", json={"on": view["number"]}).json()["job"]
    view = client.read(view["id"])
    assert not any(one["stale"] for one in view["survey"]["bodies"])
    wide = sum(one["chain"]["size_mm"][0] for one in view["survey"]["bodies"] if one["id"] in made(view))
    assert round(wide, 6) == 80


def test_planes_that_are_laid_out_are_read_and_changed_by_the_core(client: Client) -> None:
    view = settled(client)
    path = f"/jobs/{view['id']}/division"
    body = view["job"]["bodies"][0]["id"]

    def laid_out(planes: list[str], edit: dict[str, Any] | None = None) -> list[dict[str, Any]]:
        answer = client.http.post(f"{path}/{body}/planes", json={"planes": planes, "edit": edit})
        return list(answer.raise_for_status().json())

    planes = laid_out(["x=30"], {"do": "add-middle", "axis": "z"})
    assert [(plane["letter"], plane["text"], plane["says"]) for plane in planes] == [
        ("A", "x=30", "across X"),
        ("B", "z=15", "across Z"),
    ]
    texts = [plane["text"] for plane in laid_out(["x=30", "z=15"], {"do": "drag", "number": 1, "by_mm": -3})]
    assert texts == ["x=30", "z=12"]
    wrong = client.http.post(
        f"{path}/{body}/planes", json={"planes": texts, "edit": {"do": "place", "number": 1, "text": "deep"}}
    )
    assert (wrong.status_code, wrong.json()["code"]) == (422, "length-not-a-number")
    fitted = {"by": "planes", "fit": {"name": "small", "volume": {"shape": "box", "size": [50, 50, 50]}}}
    machine = client.http.post(f"{path}/{body}/try", json={"asked": fitted}).raise_for_status().json()
    assert [plane["typed"]["text"] for plane in machine["planes"]] == ["x=40", "y=35"]
    view = shaped(client, view, PIECES | {"pins": None})
    division = view["job"]["divisions"][0]["id"]
    planes = client.http.get(f"{path}/{division}/planes").raise_for_status().json()
    assert [plane["text"] for plane in planes] == ["x=30", "z=12"]
    view = shaped(client, settled(client), fitted)
    division = view["job"]["divisions"][0]["id"]
    planes = client.http.get(f"/jobs/{view['id']}/division/{division}/planes").raise_for_status().json()
    assert [plane["text"] for plane in planes] == ["x=40", "y=35"]
