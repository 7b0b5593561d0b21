"""Releases over HTTP: previews, names, records, sheets, files held against them, and where they are handed
over.
"""

import hashlib
import io
import json
import threading
import time
import zipfile
from pathlib import Path
from typing import Any

import httpx
import psycopg
import pytest

from aimtrue.cli.__main__ import main
from aimtrue.core.intake.actions import LookOver
from aimtrue.settings import settings
from aimtrue.store import jobs
from aimtrue.store.database import sessions
from aimtrue.store.geometry_store import CachedGeometryStore
from tests.api.conftest import Client
from tests.core.test_release_files import TWO
from tests.shapes import binary_stl


@pytest.fixture
def rest(client: Client) -> dict[str, Any]:
    """A job of two bodies whose unit is settled."""
    view = client.opened("rest.stl", binary_stl(TWO))
    return client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")


def made(client: Client, view: dict[str, Any], **asked: Any) -> dict[str, Any]:
    answer = client.post(view, "releases", **asked)
    assert answer.status_code == 202, answer.text
    return client.read(view["id"])


def at(view: dict[str, Any], path: str, number: int = 1) -> str:
    return f"/jobs/{view['id']}/releases/{number}/{path}"


def test_a_release_is_of_the_job_as_it_is_also_when_more_is_known_of_it(
    client: Client, rest: dict[str, Any]
) -> None:
    view = made(client, rest)
    assert view["releases"][0]["current"]
    with sessions().begin() as session:
        body = jobs.load(session, view["id"]).job.bodies[0]
        health = body.health.model_copy(update={"crossings": 0 if body.health.crossings is None else None})
        jobs.act(session, CachedGeometryStore(), view["id"], None, LookOver(found={body.geometry: health}))
    after = client.view(view["id"])
    assert after["number"] == view["number"] + 1
    assert after["releases"][0]["current"]
    after = client.act(after, do="set-factor", body=body.id, typed="1.1")
    assert not after["releases"][0]["current"]


def test_what_a_preview_says_is_what_is_released(client: Client, rest: dict[str, Any]) -> None:
    asked = {"shape": "each", "format": "stl", "pattern": "{number}-{size}", "place": "own"}
    told = client.http.post(f"/jobs/{rest['id']}/releases/preview", json=asked).json()
    view = made(client, rest, **asked)
    assert [file["name"] for file in client.files(view)] == [one["name"] for one in told["files"]]
    assert told["files"][0]["name"] == "1-20x30x5.stl"
    assert client.http.get("/patterns").json()["used"][0] == "{number}-{size}"
    again = client.http.post(f"/jobs/{rest['id']}/releases/preview", json=asked).json()
    assert again["files"][0]["name"] == "1-20x30x5_r2.stl"
    wrong = client.http.post(
        f"/jobs/{rest['id']}/releases/preview", json={**asked, "pattern": "{who}"}
    ).json()
    assert "{who}" in wrong["problem"]
    left = client.http.post("/patterns/forget", json={"pattern": "{number}-{size}"}).json()["used"]
    assert "{number}-{size}" not in left


def test_a_release_is_taken_as_a_zip_with_manifest_and_record_and_is_the_same_each_time(
    client: Client, rest: dict[str, Any]
) -> None:
    view = made(client, rest, shape="each", place="own")
    first = client.http.get(at(view, "zip")).content
    assert client.http.get(at(view, "zip")).content == first
    package = zipfile.ZipFile(io.BytesIO(first))
    names = [file["name"] for file in client.files(view)]
    assert package.namelist() == [*names, "MANIFEST.json", "MANIFEST.csv", "PROOF.json"]
    assert package.read("PROOF.json") == client.http.get(at(view, "record")).content
    for one in client.files(view):
        assert hashlib.sha256(package.read(one["name"])).hexdigest() == one["sha256"]
    assert client.http.get(at(view, "manifest.csv")).text.startswith("file,full_name,bodies")


def test_a_file_is_held_against_the_release_it_came_from(client: Client, rest: dict[str, Any]) -> None:
    view = made(client, rest, format="stl", place="own", shape="merged")
    name = client.files(view)[0]["name"]
    data = client.http.get(at(view, "file")).content

    def held(data: bytes) -> dict[str, Any]:
        return client.http.post(at(view, "verify"), params={"name": name}, content=data).json()  # type: ignore[no-any-return]

    assert held(data)["holds"]
    shrunk = binary_stl(TWO * (1 - 0.02 / 44))
    off = [one["what"] for one in held(shrunk)["checks"] if not one["holds"]]
    assert "SHA-256" in off
    assert any(one.startswith("size X") for one in off)
    answer = client.http.post(at(view, "verify"), params={"name": "a.txt"}, content=data)
    assert answer.status_code == 422


def test_the_sheet_says_the_release_and_prints(client: Client, rest: dict[str, Any]) -> None:
    view = made(client, rest)
    sheet = client.http.get(at(view, "sheet")).json()
    assert (sheet["letter"], sheet["holds"], len(sheet["bodies"]), len(sheet["plates"])) == ("A", True, 2, 1)
    pdf = client.http.get(at(view, "sheet.pdf"), params={"kind": "letter"})
    assert pdf.headers["content-type"] == "application/pdf"
    assert pdf.content.startswith(b"%PDF")
    drawing = client.http.get(at(view, f"drawing/{view['job']['bodies'][0]['id']}"))
    assert drawing.text.startswith("<svg")


def test_what_changed_is_told_and_the_job_opens_as_it_was(client: Client, rest: dict[str, Any]) -> None:
    view = made(client, rest)
    body = view["job"]["bodies"][0]["id"]
    view = client.act(view, do="set-factor", body=body, typed="1.1")
    view = made(client, view)
    told = client.http.get(at(view, "changes", 2)).json()
    assert {one["what"] for one in told} == {"correction", "size"}
    back = client.http.post(at(view, "back"), json={"on": view["number"]}).json()["job"]
    assert back["job"]["kits"][0]["shared"]["correction"]["factors"] == [1, 1, 1]
    assert [one["current"] for one in back["releases"]] == [False, True]
    again = client.post(back, "undo").json()["job"]
    assert again["job"]["kits"][0]["shared"]["correction"]["factors"] == [1.1, 1.1, 1.1]


def test_two_releases_at_once_both_come_about(client: Client, rest: dict[str, Any]) -> None:
    answers: list[httpx.Response] = []
    threads = [
        threading.Thread(target=lambda: answers.append(client.post(rest, "releases", format="stl")))
        for _ in range(4)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert [answer.status_code for answer in answers] == [202] * 4
    view = client.read(rest["id"])
    assert [one["number"] for one in view["releases"]] == [4, 3, 2, 1]
    assert len({one["name"] for one in view["releases"]}) == 4


def test_a_release_is_seen_as_it_arrives_put_on_a_card_and_sent_once(
    client: Client, rest: dict[str, Any]
) -> None:
    view = made(client, rest, format="stl", place="own", shape="merged")
    told = client.http.post(at(view, "receive"), json={"takes_for": "in"}).json()
    assert any("25.4 times too large" in one["says"] for one in told["surprises"])
    assert told["simulated"]

    client.http.post("/standins/card/put-in")
    client.http.post("/standins/card/empty")
    usual = {"capacity": 64_000_000}
    client.http.put("/standins/card", json={**usual, "pull_after": 200})
    pulled = client.http.post(at(view, "put"), json={"drive": "card"}).json()
    assert not pulled["whole"]
    assert "pulled out" in pulled["says"]
    gone = client.http.post(at(view, "put"), json={"drive": "card"})
    assert (gone.status_code, gone.json()["code"]) == (422, "drive-gone")
    client.http.post("/standins/card/put-in")
    assert client.http.post(at(view, "put"), json={"drive": "card"}).json()["whole"]
    taken = client.http.post(at(view, "put"), json={"drive": "card"})
    assert taken.json()["code"] == "drive-taken"
    assert client.http.post(at(view, "put"), json={"drive": "card", "replace": True}).json()["whole"]
    assert client.http.get("/standins/card").json()["simulated"]

    (target, *_) = client.http.get("/targets").json()
    assert target["simulated"]
    for _ in range(2):
        client.http.post(at(view, "send"), json={"target": target["name"]})
    client.read(view["id"])
    again = client.http.post(at(view, "send"), json={"target": target["name"]})
    assert again.json()["code"] == "sent-already"
    program = httpx.get(f"http://127.0.0.1:{settings().next_port}/").json()
    mine = [one for one in program["taken"] if one["name"] == f"rest_r{1}.zip"]
    keys = [one["key"] for one in mine]
    assert len(keys) == len(set(keys))
    rows = client.http.get(at(view, "handovers")).json()
    assert {(row["way"], row["whole"]) for row in rows} == {("put", False), ("put", True), ("send", True)}


def test_a_target_that_refuses_is_said_at_the_job(client: Client, rest: dict[str, Any]) -> None:
    view = made(client, rest)
    httpx.post(f"http://127.0.0.1:{settings().next_port}/mood/refuses")
    client.http.post(at(view, "send"), json={"target": "Next program, simulated"})
    view = client.read(view["id"])
    (failed,) = [one for one in view["tasks"] if one["kind"] == "send"]
    assert failed["state"] == "failed"
    assert "no room for it" in failed["error"]["says"]
    unknown = client.http.post(at(view, "send"), json={"target": "nowhere"})
    assert unknown.json()["code"] == "target-unknown"


def test_a_stop_is_accepted_for_a_reason_that_stays_with_the_release(client: Client) -> None:
    view = client.opened("bowl.stl", binary_stl(TWO[1:12]))
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    (body,) = view["job"]["bodies"]
    action = {"do": "accept", "bodies": [body["id"]], "code": "open-edges"}
    refused = client.post(view, "actions", action=action)
    assert (refused.status_code, refused.json()["code"]) == (422, "reason-missing")
    view = client.act(view, **action, reason="it is a bowl")
    view = made(client, view)
    assert client.files(view)[0]["proof"]["accepted"][0].endswith("accepted: it is a bowl")


def test_work_goes_on_when_its_database_connections_are_cut(client: Client, rest: dict[str, Any]) -> None:
    """Again and again while releases are made: each comes about once, or says that it failed."""
    for _ in range(3):
        client.post(rest, "releases", format="stl")
    ends = time.monotonic() + 4
    with psycopg.connect(settings().database, autocommit=True) as own:
        while time.monotonic() < ends:
            own.execute(
                "select pg_terminate_backend(pid) from pg_stat_activity"
                " where datname = current_database() and pid <> pg_backend_pid()"
            )
            time.sleep(0.4)
    view = _settled(client, rest["id"])
    assert all(one["state"] in ("done", "failed") for one in view["tasks"])
    numbers = [one["number"] for one in view["releases"]]
    assert numbers == list(range(len(numbers), 0, -1))
    for number in numbers:
        files = client.files(view, number)
        data = client.http.get(at(view, "file", number)).content
        assert hashlib.sha256(data).hexdigest() == files[0]["sha256"]


def test_what_the_queue_has_lost_is_found_and_done(client: Client, rest: dict[str, Any]) -> None:
    with psycopg.connect(settings().database, autocommit=True) as own:
        (task,) = own.execute(
            "insert into task (job, kind, state, share, says, request, changed) values"
            " (%s, 'release', 'doing', 0.5, 'writing', %s, now() - interval '1 minute') returning id",
            (rest["id"], psycopg.types.json.Jsonb({"revision": rest["number"], "order": {"format": "stl"}})),
        ).fetchone()  # type: ignore[misc]
    view = _settled(client, rest["id"])
    (found,) = [one for one in view["tasks"] if one["id"] == task]
    assert found["state"] == "done"
    assert len(view["releases"]) == 1


def _settled(client: Client, key: str, seconds: float = 90) -> dict[str, Any]:
    ends = time.monotonic() + seconds
    while time.monotonic() < ends:
        try:
            return client.read(key, ends - time.monotonic())
        except httpx.HTTPError:
            time.sleep(0.5)
    raise TimeoutError("the job does not settle")


def test_many_jobs_are_released_alike_and_one_that_cannot_stops_no_other(client: Client) -> None:
    good = client.opened("rest.stl", binary_stl(TWO))
    good = client.act(good, do="settle-unit", source=good["job"]["sources"][0]["id"], unit="mm")
    bowl = client.opened("bowl.stl", binary_stl(TWO[1:12]))
    asked = {
        "jobs": [good["id"], bowl["id"], "nowhere"],
        "format": "stl",
        "shape": "each",
        "pattern": "{body}",
    }
    rows = client.http.post("/bulk/releases", json=asked).json()
    assert [row["state"] for row in rows] == ["waiting", "failed", "failed"]
    client.read(good["id"])
    told = client.http.post("/bulk/state", json={"rows": rows}).json()
    assert [row["state"] for row in told] == ["done", "failed", "failed"]
    assert len(told[0]["files"]) == 2
    assert "open edges" in told[1]["says"] or "unit" in told[1]["says"]


def test_a_watched_folder_opens_a_job_for_what_its_user_has_to_decide(
    client: Client, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    inbox = tmp_path / "inbox"
    inbox.mkdir()
    (inbox / "bowl.stl").write_bytes(binary_stl(TWO[1:12]))
    address = str(client.http.base_url).removesuffix("/api/")
    code = main(
        [
            "watch",
            str(inbox),
            "--out",
            str(tmp_path / "out"),
            "--release",
            "--once",
            "--jobs",
            address,
            "--json",
        ]
    )
    assert code == 0
    (row,) = json.loads(capsys.readouterr().out)["files"]
    assert row["state"] == "open"
    view = client.read(row["job"].rpartition("/")[2])
    assert [one["name"] for one in view["job"]["sources"]] == ["bowl.stl"]
