"""Jobs over the API: the way through, undo, staleness, and what survives a crash."""

import hashlib
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx
import pytest

from aimtrue.core.formats import read_model
from aimtrue.core.intake.actions import LookOver
from aimtrue.settings import settings
from aimtrue.store import jobs
from aimtrue.store.database import sessions
from aimtrue.store.geometry_store import CachedGeometryStore
from aimtrue.work import tasks
from tests.api.conftest import Client
from tests.house import House
from tests.shapes import ascii_stl, binary_stl, box, corners_of

BOX = binary_stl(corners_of(box(2, 3, 5)))
B = "bodies"


def sizes(view: dict) -> list[float]:  # type: ignore[type-arg]
    return list(view["survey"]["bodies"][0]["chain"]["size_mm"])


def ids(view: dict) -> tuple[str, str]:  # type: ignore[type-arg]
    return view["job"]["sources"][0]["id"], view["job"]["bodies"][0]["id"]


def test_from_a_file_to_a_proven_release(client: Client, demo: Path) -> None:
    data = (demo / "shim-plate.stl").read_bytes()
    view = client.opened("shim plate.stl", data)
    source, body = ids(view)
    assert view["survey"]["settled"] is False
    assert client.post(view, "releases", format="3mf").status_code == 422

    view = client.act(view, do="settle-unit", source=source, unit="in")
    assert sizes(view) == pytest.approx([50.8, 25.4, 12.7])
    view = client.act(view, do="size-axis", body=body, axis="x", typed="17.15cm")
    assert sizes(view)[0] == pytest.approx(171.5, abs=1e-10)

    assert client.post(view, "releases", format="3mf").status_code == 202
    view = client.read(view["id"])
    (release,) = view["releases"]
    (made,) = client.files(view)
    assert made["proof"]["holds"]
    assert release["current"]
    file = client.http.get(f"/jobs/{view['id']}/releases/1/file")
    assert hashlib.sha256(file.content).hexdigest() == made["sha256"]
    assert "shim-plate_r1.3mf" in file.headers["content-disposition"]
    contents = read_model("a.3mf", file.content)
    assert contents.unit == "mm"
    assert contents.whole().extents()[0] == pytest.approx(171.5, abs=1e-3)

    view = client.act(view, do="size-axis", body=body, axis="x", typed="100")
    assert not view["releases"][0]["current"]
    back = client.http.get(f"/jobs/{view['id']}/originals/{hashlib.sha256(data).hexdigest()}")
    assert back.content == data


def test_undo_and_redo_walk_through_everything(client: Client) -> None:
    view = client.opened("part.stl", BOX)
    source, body = ids(view)
    assert view["undo"] is None
    states = [view["job"]]
    for action in (
        {"do": "settle-unit", "source": source, "unit": "cm"},
        {"do": "size-axis", "body": body, "axis": "x", "typed": "30"},
        {"do": "turn-seat", "body": body, "axis": "x", "typed": "90"},
    ):
        view = client.act(view, **action)
        states.append(view["job"])
    assert view["undo"] == "turn 90 about X"
    for state in reversed(states[:-1]):
        view = client.post(view, "undo").raise_for_status().json()["job"]
        assert view["job"] == state
    assert client.post(view, "undo").json()["code"] == "nothing-to-undo"
    assert view["redo"] == "settle unit: centimetre"
    for state in states[1:]:
        view = client.post(view, "redo").raise_for_status().json()["job"]
        assert view["job"] == state
    assert client.post(view, "redo").status_code == 422


def test_an_action_after_undo_ends_what_could_be_redone(client: Client) -> None:
    view = client.opened("part.stl", BOX)
    source, _ = ids(view)
    view = client.act(view, do="settle-unit", source=source, unit="cm")
    view = client.post(view, "undo").json()["job"]
    view = client.act(view, do="settle-unit", source=source, unit="in")
    assert view["redo"] is None
    assert client.post(view, "undo").json()["job"]["job"]["sources"][0]["unit"] is None


def test_a_stale_page_is_told_and_changes_nothing(client: Client) -> None:
    old = client.opened("part.stl", BOX)
    source, _ = ids(old)
    new = client.act(old, do="settle-unit", source=source, unit="cm")
    for path, fields in (
        ("actions", {"action": {"do": "settle-unit", "source": source, "unit": "in"}}),
        ("undo", {}),
        ("releases", {"format": "stl"}),
    ):
        answer = client.post(old, path, **fields)
        assert answer.status_code == 409
        assert answer.json()["code"] == "stale"
    assert client.view(new["id"])["job"] == new["job"]


def test_what_the_system_adds_makes_no_page_stale(client: Client) -> None:
    """Faces that were listed, and a file that was read, between what is seen and what is done."""
    seen = client.opened("part.stl", BOX)
    _, body = ids(seen)
    with sessions().begin() as session:
        jobs.act(session, CachedGeometryStore(), seen["id"], None, LookOver())
    view = client.act(seen, do="rename", body=body, name="foot")
    assert view["number"] == seen["number"] + 2
    assert client.post(view, "undo").json()["job"]["job"]["bodies"][0]["name"] != "foot"

    seen = client.view(seen["id"])
    client.http.post(f"/jobs/{seen['id']}/sources", params={"name": "more.stl"}, content=BOX)
    assert len(client.read(seen["id"])["job"]["bodies"]) == 2
    # Of all open units the one that came meanwhile was not meant, and an undo would be of another step.
    for path, fields in (
        ("actions", {"action": {"do": "settle-unit", "source": None, "unit": "mm"}}),
        ("undo", {}),
    ):
        assert client.post(seen, path, **fields).status_code == 409
    view = client.act(seen, do="settle-unit", source=seen["job"]["sources"][0]["id"], unit="mm")
    assert [one["unit"] for one in view["job"]["sources"]] == ["mm", None]
    assert client.post(seen, "actions", action={"do": "rename", "body": body, "name": "x"}).status_code == 409


def test_of_two_at_once_only_one_is_taken(client: Client) -> None:
    view = client.opened("part.stl", BOX)
    source, _ = ids(view)
    with ThreadPoolExecutor(8) as pool:
        answers = list(
            pool.map(
                lambda unit: (
                    client.post(
                        view, "actions", action={"do": "settle-unit", "source": source, "unit": unit}
                    ).status_code
                ),
                ["mm", "cm", "in", "m"] * 2,
            )
        )
    assert sorted(answers) == [200] + [409] * 7


@pytest.mark.parametrize("typed", ["", "0", "-3", "wide", "101 m", "1,500"])
def test_a_refused_length_is_told_and_the_old_one_stays(client: Client, typed: str) -> None:
    view = client.opened("part.stl", BOX)
    source, body = ids(view)
    view = client.act(view, do="settle-unit", source=source, unit="mm")
    answer = client.post(
        view, "actions", action={"do": "size-axis", "body": body, "axis": "x", "typed": typed}
    )
    assert answer.status_code == 422
    assert answer.json()["says"]
    assert answer.json()["remedy"]
    assert client.view(view["id"])["number"] == view["number"]


def test_picked_places_make_a_reading(client: Client) -> None:
    view = client.opened("part.stl", BOX)
    source, body = ids(view)
    view = client.act(view, do="settle-unit", source=source, unit="cm")
    a = {"anchor": {"face": 0, "weights": [0.999999, 1e-6, 0], "on": "vertex"}}
    b = {"anchor": {"face": 0, "weights": [0, 0, 1], "on": "vertex"}}
    same = client.post(view, "actions", action={"do": "add-reading", "body": body, "spots": [a, a]})
    assert same.json()["code"] == "gauge-no-length"
    view = client.act(view, do="add-reading", body=body, spots=[a, b])
    assert view["job"]["readings"][0]["gauge"]["points"][0] == [0, 0, 0]
    view = client.act(view, do="set-reading", reading="r1", typed="6 3/4 in")
    assert view["survey"]["bodies"][0]["readings"][0]["model_mm"] == pytest.approx(171.45)


@pytest.mark.parametrize(
    ("name", "data", "status", "code"),
    [
        ("notes.txt", b"hello", 422, "format-unknown"),
        ("part.dwg", b"ISO-10303-21;", 422, "format-unknown"),
        ("part.stl", b"x" * 20_000_001, 413, "file-too-large"),
    ],
)
def test_what_is_refused_at_the_door(client: Client, name: str, data: bytes, status: int, code: str) -> None:
    before = len(client.http.get("/jobs").json())
    answer = client.send(name, data)
    assert answer.status_code == status
    assert answer.json()["code"] == code
    assert len(client.http.get("/jobs").json()) == before


def test_a_stream_without_a_length_is_bounded_too(client: Client) -> None:
    pieces = (b"x" * 500_000 for _ in range(60))
    answer = client.http.post("/jobs", params={"name": "part.stl"}, content=pieces)
    assert answer.status_code == 413


@pytest.mark.parametrize(
    ("name", "data", "code"),
    [
        ("empty.stl", b"", "file-empty"),
        ("text.stl", b"Dear Wren, the rack is in the post.", "stl-not"),
        ("short.stl", BOX[:-60], "stl-count"),
        ("cut.stl", ascii_stl(corners_of(box(1, 1, 1)))[:-90], "stl-cut-off"),
        ("zip.3mf", b"not a zip", "3mf-not-zip"),
    ],
)
def test_an_unreadable_file_is_told_kept_and_replaceable(
    client: Client, name: str, data: bytes, code: str
) -> None:
    view = client.opened(name, data)
    (task,) = view["tasks"]
    assert task["state"] == "failed"
    assert task["error"]["code"] == code
    assert task["error"]["remedy"]
    assert client.http.get(f"/jobs/{view['id']}/originals/{task['sha256']}").content == data
    line = next(row for row in client.http.get("/jobs").json() if row["id"] == view["id"])
    assert line["failed"]
    assert client.send("good.stl", BOX, into=view["id"]).status_code == 201
    view = client.read(view["id"])
    assert view["job"]["bodies"]
    assert client.send("more.stl", BOX, into=view["id"]).status_code == 201
    view = client.read(view["id"])
    assert [source["name"] for source in view["job"]["sources"]] == ["good.stl", "more.stl"]
    assert "same-file" in {finding["code"] for finding in view["survey"]["findings"]}


def test_a_broken_request_is_told_without_a_trace(client: Client) -> None:
    view = client.opened("part.stl", BOX)
    answer = client.post(view, "actions", action={"do": "grow"})
    assert answer.status_code == 422
    assert "Traceback" not in answer.text
    assert client.http.get("/jobs/none").status_code == 404
    assert client.http.get("/bench/none").status_code == 404
    kept = sorted(settings().cache.iterdir())
    for unknown in (f"/bench/{'0' * 64}", f"/bench/{'0' * 64}/full"):
        answer = client.http.get(unknown)
        assert (answer.status_code, answer.json()["code"]) == (404, "blob-unknown")
    assert sorted(settings().cache.iterdir()) == kept
    assert client.http.get(f"/jobs/{view['id']}/releases/9/file").status_code == 404


def test_a_foreign_host_name_is_not_served(client: Client) -> None:
    assert client.http.get("/jobs", headers={"Host": "evil.example"}).status_code == 400


def test_the_bench_gets_a_compact_mesh(client: Client) -> None:
    view = client.opened("part.stl", BOX)
    answer = client.http.get(f"/bench/{view['job']['bodies'][0]['bench']}")
    assert answer.content[:4] == b"ATB1"
    assert len(answer.content) == 40 + 8 * 12 + 12 * 12 + 12 * 8
    assert "immutable" in answer.headers["cache-control"]


def test_a_page_is_told_of_every_change(client: Client, house: House) -> None:
    view = client.opened("part.stl", BOX)
    source, _ = ids(view)
    told: list[str] = []
    listening = threading.Event()

    def listen() -> None:
        with httpx.stream("GET", f"{house.address}/api/jobs/{view['id']}/events", timeout=20) as stream:
            for line in stream.iter_lines():
                told.append(line)
                listening.set()
                if "event: changed" in told:
                    return

    thread = threading.Thread(target=listen)
    thread.start()
    assert listening.wait(10)
    client.act(view, do="settle-unit", source=source, unit="cm")
    thread.join(15)
    assert "event: changed" in told


def test_nothing_committed_is_lost_when_processes_are_killed(client: Client, house: House) -> None:
    view = client.opened("part.stl", BOX)
    source, body = ids(view)
    view = client.act(view, do="settle-unit", source=source, unit="cm")
    view = client.act(view, do="size-axis", body=body, axis="x", typed="171.5")
    house.end("server")
    house.run("server")
    again = client.view(view["id"])
    assert again["job"] == view["job"]
    assert again["undo"] == "size X 171.5"

    house.end("worker")
    waiting = client.send("late.stl", BOX).json()["id"]
    client.post(again, "releases", format="stl").raise_for_status()
    time.sleep(0.5)
    assert client.view(waiting)["tasks"][0]["state"] == "waiting"
    house.run("worker")
    assert client.read(waiting)["job"]["bodies"]
    assert client.read(view["id"])["releases"]


@pytest.fixture
def no_worker(house: House) -> Iterator[None]:
    house.end("worker")
    yield
    house.run("worker")


@pytest.mark.usefixtures("no_worker")
def test_a_task_that_two_workers_do_at_once_counts_once(client: Client) -> None:
    view = client.view(client.send("part.stl", BOX).json()["id"])
    (task,) = view["tasks"]
    with ThreadPoolExecutor(2) as workers:
        list(workers.map(tasks.read, [task["id"]] * 2))
    view = client.view(view["id"])
    assert len(view["job"]["sources"]) == 1
    assert view["tasks"][0]["state"] == "done"
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    client.post(view, "releases", format="stl").raise_for_status()
    task = next(one for one in client.view(view["id"])["tasks"] if one["state"] == "waiting")
    with ThreadPoolExecutor(2) as workers:
        list(workers.map(tasks.release, [task["id"]] * 2))
    assert [one["number"] for one in client.view(view["id"])["releases"]] == [1]


def test_the_same_bytes_sent_at_once_open_a_job_each(client: Client) -> None:
    data = binary_stl(corners_of(box(7, 11, 13)))
    with ThreadPoolExecutor(4) as senders:
        answers = list(senders.map(lambda n: client.send(f"part {n}.stl", data), range(4)))
    assert [answer.status_code for answer in answers] == [201] * 4
    views = [client.read(answer.json()["id"]) for answer in answers]
    assert {len(view["job"]["bodies"]) for view in views} == {1}
    assert len({view["job"]["sources"][0]["sha256"] for view in views}) == 1


def test_a_task_whose_worker_was_killed_is_done_again(client: Client, house: House) -> None:
    large = ascii_stl(corners_of(box(2, 3, 5)).repeat(900, axis=0))
    key = client.send("large.stl", large).json()["id"]
    time.sleep(0.15)
    house.end("worker")
    house.run("worker")
    view = client.read(key, seconds=60)
    assert view["tasks"][0]["state"] == "done"
    assert len(view["job"]["bodies"]) == 1


def test_many_files_sent_to_one_job_at_once_all_join_it(client: Client) -> None:
    key = client.send("plate 0.stl", BOX).json()["id"]
    with ThreadPoolExecutor(4) as senders:
        list(senders.map(lambda n: client.send(f"plate {n}.stl", BOX, into=key), range(1, 9)))
    view = client.read(key)
    assert sorted(one["name"] for one in view["job"]["sources"]) == [f"plate {n}.stl" for n in range(9)]
    assert len({body["name"] for body in view["job"]["bodies"]}) == 9
    assert len({body["id"] for body in view["job"]["bodies"]}) == 9


def test_a_list_that_is_as_it_was_is_not_sent_again(client: Client) -> None:
    view = client.opened("part.stl", BOX)
    first = client.http.get("/jobs")
    name = {"If-None-Match": first.headers["etag"]}
    again = client.http.get("/jobs", headers=name)
    assert (again.status_code, again.content) == (304, b"")
    client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="cm")
    changed = client.http.get("/jobs", headers=name)
    assert changed.status_code == 200
    client.http.delete(f"/jobs/{view['id']}")
    gone = client.http.get("/jobs", headers={"If-None-Match": changed.headers["etag"]})
    assert gone.status_code == 200
    assert view["id"] not in {row["id"] for row in gone.json()}
