"""Usual settings are kept from a job, listed, taken into another as one step, and taken away."""

from __future__ import annotations

from tests.api.conftest import Client
from tests.shapes import binary_stl, box, corners_of


def test_a_set_is_kept_taken_undone_and_removed(client: Client) -> None:
    part = binary_stl(corners_of(box(20, 30, 50)))
    first = client.opened("first.stl", part)
    first = client.act(first, do="settle-unit", source=first["job"]["sources"][0]["id"], unit="mm")
    first = client.act(first, do="set-least-wall", typed="1.4")
    at = f"/jobs/{first['id']}/usual"
    (kept,) = client.http.post(at, json={"name": "lab PLA"}).raise_for_status().json()
    assert (kept["name"], kept["least_wall_mm"]) == ("lab PLA", 1.4)
    # The same name again is the same set.
    first = client.act(first, do="set-least-wall", typed="1.6")
    (kept,) = client.http.post(at, json={"name": "Lab PLA"}).raise_for_status().json()
    assert kept["least_wall_mm"] == 1.6
    assert client.http.post(at, json={"name": " "}).status_code == 422
    assert client.http.get("/usual").json() == [kept]

    second = client.opened("second.stl", part)
    taken = client.act(second, do="take-usual", settings=kept)
    assert taken["job"]["least_wall_mm"] == 1.6
    assert (taken["undo"], taken["undo_on"]) == ("usual settings Lab PLA", "intake")
    undone = client.post(taken, "undo").json()["job"]
    assert undone["job"]["least_wall_mm"] is None
    assert client.http.post("/usual/remove", json={"name": "LAB PLA"}).json() == []
