"""The list of jobs: searched, sorted and paged by the server; jobs renamed, copied, put away and had back."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from sqlalchemy import func, update

from aimtrue.core.model.job import Job
from aimtrue.examples import example
from aimtrue.store import job_list, jobs
from aimtrue.store.database import sessions
from aimtrue.store.tables import JobRow
from tests.api.conftest import Client
from tests.core.test_release_files import TWO
from tests.shapes import binary_stl


def page(client: Client, **query: Any) -> dict[str, Any]:
    answer = client.http.get("/job-list", params=query).raise_for_status().json()
    assert len(answer["rows"]) == min(answer["count"], answer["page_size"]) or query.get("page")
    return answer  # type: ignore[no-any-return]


def names(client: Client, **query: Any) -> list[str]:
    return [row["name"] for row in page(client, **query)["rows"]]


def put(client: Client, place: str, *keys: str) -> int:
    answer = client.http.post("/job-list/place", json={"jobs": list(keys), "place": place})
    return int(answer.raise_for_status().json()["count"])


def test_jobs_are_found_by_name_file_body_material_and_machine(client: Client, demo: Path) -> None:
    view = client.opened("quarry-bracket.stl", (demo / "shim-plate.stl").read_bytes())
    body = view["job"]["bodies"][0]
    client.act(view, do="rename", body=body["id"], name="left hinge 100%")
    for text in ("quarry", "BRACKET.stl", "hinge left", "100%", "garden quarry"):
        assert names(client, text=text) == ["quarry-bracket"], text
    for text in ("hinge right", "100_", "1%0"):
        assert names(client, text=text) == [], text
    assert page(client, text="quarry", wanted="open")["count"] == 1
    view = client.view(view["id"])
    client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    found = page(client, text="quarry")
    assert found["counts"] == {"all": 1, "open": 0, "stop": 0, "released": 0, "archive": 0, "bin": 0}


def test_many_jobs_are_paged_and_sorted(client: Client) -> None:
    with sessions().begin() as session:
        keys = [jobs.create(session, f"heap {number:03d}") for number in range(120)]
    first, last = page(client, text="heap", order="name"), page(client, text="heap", order="name", page=2)
    assert (first["count"], len(first["rows"]), len(last["rows"])) == (120, 50, 20)
    assert [row["name"] for row in first["rows"][:2]] == ["heap 000", "heap 001"]
    assert last["rows"][-1]["name"] == "heap 119"
    # A page beyond the last is the last.
    assert page(client, text="heap", order="name", page=9)["rows"] == last["rows"]
    client.http.post(f"/jobs/{keys[3]}/name", json={"name": "heap renamed"}).raise_for_status()
    assert names(client, text="heap", order="changed")[0] == "heap renamed"
    assert put(client, "bin", *keys) == 120
    assert page(client, text="heap")["count"] == 0


def test_a_job_is_renamed_copied_and_each_goes_its_own_way(client: Client) -> None:
    view = client.opened("crate.stl", binary_stl(TWO))
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    assert client.http.post(f"/jobs/{view['id']}/name", json={"name": "  "}).status_code == 422
    client.http.post(f"/jobs/{view['id']}/name", json={"name": "fruit  crate"}).raise_for_status()
    view = client.view(view["id"])
    assert view["job"]["name"] == "fruit crate"
    assert view["undo"] == "call the job fruit crate"
    client.post(view, "undo").raise_for_status()
    assert client.view(view["id"])["job"]["name"] == "crate"
    key = client.http.post(f"/jobs/{view['id']}/copy").raise_for_status().json()["id"]
    twin = client.view(key)
    assert twin["job"]["name"] == "crate copy"
    assert [body["geometry"] for body in twin["job"]["bodies"]] == [
        body["geometry"] for body in view["job"]["bodies"]
    ]
    twin = client.act(twin, do="set-factor", body=twin["job"]["bodies"][0]["id"], typed="1.5")
    assert client.view(view["id"])["survey"] != twin["survey"]
    client.http.delete(f"/jobs/{view['id']}").raise_for_status()
    assert client.post(twin, "releases").status_code == 202
    assert client.read(key)["releases"]


def test_what_is_put_away_is_had_back_and_the_bin_is_emptied_after_a_month(client: Client) -> None:
    key = client.opened("mothballed.stl", binary_stl(TWO))["id"]
    assert put(client, "archive", key) == 1
    assert (names(client, text="mothballed"), names(client, text="mothballed", wanted="archive")) == (
        [],
        ["mothballed"],
    )
    assert put(client, "bin", key, "no such job") == 1
    assert names(client, text="mothballed", wanted="archive") == []
    assert names(client, text="mothballed", wanted="bin") == ["mothballed"]
    assert key not in {row["id"] for row in client.http.get("/jobs").json()}
    assert client.view(key)["job"]["name"] == "mothballed"
    assert put(client, "list", key) == 1
    assert names(client, text="mothballed") == ["mothballed"]
    put(client, "bin", key)
    with sessions().begin() as session:
        assert job_list.empty_bin(session) == 0
        late = func.now() - func.make_interval(0, 0, 0, job_list.BIN_DAYS + 1)
        session.execute(update(JobRow).where(JobRow.id == key).values(removed=late))
        assert job_list.empty_bin(session) == 1
    assert client.http.get(f"/jobs/{key}").status_code == 404


def test_jobs_have_labels_and_are_filtered_by_them_and_by_what_stops_them(client: Client, demo: Path) -> None:
    one = client.opened("labelled-grip.stl", (demo / "hand-grip-scan.stl").read_bytes())["id"]
    other = client.opened("labelled-crate.stl", binary_stl(TWO))["id"]
    for key, label in ((one, " club  night "), (other, "club night"), (one, "loan")):
        asked = {"jobs": [key], "label": label}
        assert client.http.post("/job-list/label", json=asked).raise_for_status().json()["count"] == 1
    listed = page(client, text="labelled", label="club night")
    assert {row["id"]: row["labels"] for row in listed["rows"]} == {
        one: ["club night", "loan"],
        other: ["club night"],
    }
    assert (listed["labels"]["club night"], listed["labels"]["loan"]) == (2, 1)
    # A scan with holes in it stops a release, and is told to; a crate does not.
    assert names(client, text="labelled", wanted="stop") == ["labelled-grip"]
    client.http.post("/job-list/label", json={"jobs": [one], "label": "loan", "on": False}).raise_for_status()
    assert names(client, label="loan") == []
    for bad in ("", "  ", "x" * 41):
        answer = client.http.post("/job-list/label", json={"jobs": [one], "label": bad})
        assert answer.status_code == 422
        assert answer.json()["code"] == "label-size"


def test_a_list_that_is_held_already_is_not_sent_again(client: Client) -> None:
    key = client.opened("held-crate.stl", binary_stl(TWO))["id"]
    asked = {"text": "held-crate"}
    first = client.http.get("/job-list", params=asked)
    held = {"If-None-Match": first.headers["etag"]}
    assert client.http.get("/job-list", params=asked, headers=held).status_code == 304
    assert client.http.get("/job-list", params={"text": "held"}, headers=held).status_code == 200
    changes = (("label", {"label": "kept"}), ("place", {"place": "archive"}))
    for where, change in changes:
        client.http.post(f"/job-list/{where}", json={"jobs": [key], **change}).raise_for_status()
        again = client.http.get("/job-list", params=asked, headers=held)
        assert again.status_code == 200, where
        held = {"If-None-Match": again.headers["etag"]}


def test_a_job_is_drawn_at_a_glance(client: Client, demo: Path) -> None:
    view = client.opened("drawn-knob.stl", (demo / "focus-knob.stl").read_bytes())
    drawn = client.http.get(f"/jobs/{view['id']}/thumbnail/{view['number']}").raise_for_status()
    assert drawn.headers["content-type"].startswith("image/svg+xml")
    assert "immutable" in drawn.headers["cache-control"]
    assert drawn.text.count("M") > 5
    later = client.http.get(f"/jobs/{view['id']}/thumbnail/{view['number'] + 7}").raise_for_status()
    assert (later.text, later.headers["cache-control"]) == (drawn.text, "no-store")
    key = client.http.post("/jobs", params={"name": "none.stl"}, content=b"solid none").json()["id"]
    empty = client.http.get(f"/jobs/{key}/thumbnail/1").raise_for_status()
    assert 'd=""' in empty.text


def test_examples_come_with_the_app_and_open_jobs(client: Client, demo: Path) -> None:
    listed = client.http.get("/examples").json()
    assert [row["name"] for row in listed] == ["shim-plate.stl", "clamp-shells.stl", "setting-dial.3mf"]
    for row in listed:
        # Each is the very file that the demo's scripts make.
        assert example(row["name"]).path.read_bytes() == (demo / row["name"]).read_bytes(), row["name"]
        key = client.http.post(f"/examples/{row['name']}").raise_for_status().json()["id"]
        assert client.read(key)["job"]["bodies"]
    missing = client.http.post("/examples/cube.stl")
    assert (missing.status_code, missing.json()["code"]) == (404, "example-unknown")


def test_words_of_a_job_are_bounded() -> None:
    from aimtrue.core.survey.job_summary import words_of

    assert words_of(Job(name="Tower")).startswith("tower\n")
    assert len(words_of(Job(name="x" * 50_000))) == 20_000
