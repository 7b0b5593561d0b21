"""Sheet 4 over HTTP: seams, what a division would come to, made in the background and made again."""

import time
from typing import Any

from tests.api.conftest import Client
from tests.shapes import binary_stl, box, corners_of

BLOCK = binary_stl(corners_of(box(80, 70, 30)))
PIECES = {"by": "planes", "planes": ["x=30", "z=12"], "pins": {"diameter": "3", "depth": "5"}}


def settled(client: Client) -> dict[str, Any]:
    view = client.opened("block.stl", BLOCK)
    return client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")


def shaped(client: Client, view: dict[str, Any], asked: dict[str, Any], instead: str = "") -> dict[str, Any]:
    work = {"do": "shape", "bodies": [view["job"]["bodies"][0]["id"]], "asked": asked, "instead": instead}
    answer = client.post(view, "work", work=work)
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
    failed = next(one for one in view["errands"] if one["state"] == "failed")
    assert failed["error"]["code"] == "plane-misses"
    view = client.act(view, do="set-factor", body=view["job"]["bodies"][0]["id"], typed="1.2")
    view = client.read(view["id"])
    assert not any(body["stale"] for body in view["survey"]["bodies"])


def test_work_that_makes_no_sense_is_refused_at_once_or_told(client: Client) -> None:
    view = client.opened("block.stl", BLOCK)
    body = view["job"]["bodies"][0]["id"]
    work = {"do": "shape", "bodies": [body], "asked": {"by": "hollow", "wall": "2"}}
    if view["job"]["sources"][0]["unit"] is None:
        assert client.post(view, "work", work=work).json()["code"] == "unit-unsettled"
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    two = {"do": "shape", "bodies": [body], "asked": {"by": "solids", "how": "join"}}
    assert client.post(view, "work", work=two).json()["code"] == "bodies"
    assert client.post(view, "work", work={**work, "asked": {"by": "magic"}}).status_code == 422
    thick = shaped(client, view, {"by": "hollow", "wall": "40"})
    assert thick["errands"][0]["error"]["code"] == "wall-thick"
    assert made(thick) == []
