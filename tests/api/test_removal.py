"""What is removed goes with its bytes, and nothing else does."""

import asyncio
import os
import time
import tracemalloc
from pathlib import Path

import pytest
from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from aimtrue.core.formats import stl
from aimtrue.store import blobs, jobs, removal
from aimtrue.store.database import sessions
from aimtrue.store.removal import WHOLE_REVISIONS, sweep
from aimtrue.store.tables import BlobRow, ChunkRow, RemovalRow, RevisionRow
from aimtrue.store.tidy import IN_USE_SECONDS, LEFT_SECONDS, tidy
from aimtrue.work import worker
from benchmarks.shapes import wavy_sphere
from tests.api.conftest import Client
from tests.shapes import binary_stl, box, corners_of


def a_box(x: float) -> bytes:
    return binary_stl(corners_of(box(x, 30, 50)))


def names() -> set[str]:
    with sessions()() as session:
        return set(session.scalars(select(BlobRow.sha256)))


def swept() -> int:
    with sessions().begin() as session:
        return sweep(session, quiet=0)


def test_a_removed_job_is_gone_with_the_bytes_that_no_other_has(client: Client) -> None:
    swept()
    shared = client.opened("shared.stl", a_box(21))
    own = client.opened("own.stl", a_box(22))
    client.http.post(f"/jobs/{own['id']}/sources", params={"name": "shared.stl"}, content=a_box(21))
    own = client.read(own["id"])
    sources = {source["name"]: source["sha256"] for source in own["job"]["sources"]}
    geometry = {body["geometry"] for body in own["job"]["bodies"]}
    assert {*sources.values(), *geometry} <= names()
    assert client.http.delete(f"/jobs/{own['id']}").status_code == 204
    assert client.http.get(f"/jobs/{own['id']}").status_code == 404
    assert own["id"] not in {row["id"] for row in client.http.get("/jobs").json()}
    assert client.http.delete(f"/jobs/{own['id']}").status_code == 404
    assert swept() > 0
    left = names()
    assert sources["own.stl"] not in left
    assert sources["shared.stl"] in left
    assert {body["geometry"] for body in shared["job"]["bodies"]} <= left
    assert client.view(shared["id"])["job"] == shared["job"]
    assert swept() == 0  # nothing was removed since


@pytest.mark.usefixtures("client")
def test_bytes_are_packed_where_that_makes_them_smaller() -> None:
    mesh, noise = stl.write_binary(wavy_sphere(20_000), "packed"), os.urandom(500_000)
    with sessions().begin() as session:
        for data, share in ((mesh, 0.85), (noise, 1.0)):
            name = blobs.put(session, data)
            size = select(func.sum(func.pg_column_size(ChunkRow.data))).join(BlobRow)
            taken = session.scalar(size.where(BlobRow.sha256 == name))
            assert taken is not None
            assert taken <= share * len(data) + 100
            assert blobs.read(session, name) == data


def test_bytes_that_were_put_in_a_moment_ago_stay(client: Client) -> None:
    view = client.opened("young.stl", a_box(23))
    client.http.delete(f"/jobs/{view['id']}")
    with sessions().begin() as session:
        assert sweep(session, quiet=900) == 0
    assert view["job"]["sources"][0]["sha256"] in names()
    assert swept() > 0  # once they are old enough, it is not forgotten
    assert view["job"]["sources"][0]["sha256"] not in names()


def test_bytes_that_somebody_is_putting_in_again_stay(client: Client) -> None:
    view = client.opened("again.stl", a_box(24))
    sha256 = view["job"]["sources"][0]["sha256"]
    client.http.delete(f"/jobs/{view['id']}")
    with sessions().begin() as session:
        assert blobs.put(session, a_box(24)) == sha256
        swept()  # meanwhile, in a transaction of its own
    assert sha256 in names()


def test_bytes_that_were_put_in_again_while_names_were_looked_for_stay(
    client: Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    view = client.opened("meanwhile.stl", a_box(29))
    sha256 = view["job"]["sources"][0]["sha256"]
    client.http.delete(f"/jobs/{view['id']}")
    look = removal._all_that_is_kept

    def while_looking(session: Session) -> list[bytes]:
        found = list(look(session))
        with sessions().begin() as another:
            blobs.put(another, a_box(29))
        return found

    monkeypatch.setattr(removal, "_all_that_is_kept", while_looking)
    swept()
    assert sha256 in names()


def test_a_release_under_way_ends_quietly_when_its_job_is_removed(client: Client) -> None:
    other = client.opened("other.stl", a_box(25))
    other = client.act(other, do="settle-unit", source=other["job"]["sources"][0]["id"], unit="mm")
    view = client.opened("same.stl", a_box(25))
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    for one in (view, other):
        assert client.post(one, "releases", format="3mf").status_code == 202
    assert client.http.delete(f"/jobs/{view['id']}").status_code == 204
    swept()
    done = client.read(other["id"])
    assert [one["state"] for one in done["tasks"] if one["kind"] == "release"] == ["done"]
    assert client.http.get(f"/jobs/{other['id']}/releases/1/file").content[:2] == b"PK"


def test_old_revisions_are_thinned_and_released_ones_are_not(client: Client) -> None:
    view = client.opened("long.stl", a_box(26))
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    assert client.post(view, "releases").status_code == 202
    released = client.read(view["id"])
    body = released["job"]["bodies"][0]["id"]
    view = released
    for number in range(WHOLE_REVISIONS + 30):
        view = client.act(view, do="rename", body=body, name=f"name {number}")
    with sessions()() as session:
        whole = session.scalars(
            select(RevisionRow.number).where(RevisionRow.job == view["id"], RevisionRow.packed.is_not(None))
        ).all()
        rows = session.scalar(select(func.count()).where(RevisionRow.job == view["id"]))
    assert rows == view["number"]  # what was done stays told
    assert WHOLE_REVISIONS <= len(whole) <= WHOLE_REVISIONS + 22
    undone = 0
    while view["undo"]:
        view = client.post(view, "undo").json()["job"]
        undone += 1
    assert undone >= WHOLE_REVISIONS // 2  # each undo is a revision, too
    back = client.post(view, "releases/1/back").json()["job"]
    assert back["job"]["bodies"][0]["name"] == released["job"]["bodies"][0]["name"]


def test_a_file_that_nothing_is_left_of_goes_and_comes_back(client: Client) -> None:
    view = client.opened("one.stl", a_box(27))
    client.http.post(f"/jobs/{view['id']}/sources", params={"name": "two.stl"}, content=a_box(28))
    view = client.read(view["id"])
    gone = view["job"]["bodies"][1]
    after = client.act(view, do="delete", bodies=[gone["id"]])
    assert [source["name"] for source in after["job"]["sources"]] == ["one.stl"]
    back = client.post(after, "undo").json()["job"]
    assert back["job"] == view["job"]
    with pytest.raises(jobs.UnknownJob), sessions().begin() as session:
        jobs.remove(session, "none")


def test_a_cache_is_kept_within_its_size(tmp_path: Path) -> None:
    now = time.time()

    def put(name: str, size: int, used: float) -> Path:
        path = tmp_path / name
        path.write_bytes(bytes(size))
        os.utime(path, (used, used))
        return path

    old = [put(f"{n:064d}", 1000, now - IN_USE_SECONDS - 100 + n) for n in range(5)]
    fresh = put("a" * 64, 9000, now)
    full = put("b" * 64 + ".full", 1000, now - IN_USE_SECONDS - 1000)
    left, begun = put("tmpleft", 500, now - LEFT_SECONDS - 1), put("tmpbegun", 500, now)
    folder = tmp_path / "tmpfolder"
    folder.mkdir()
    (folder / "part").write_bytes(bytes(300))
    os.utime(folder, (now - LEFT_SECONDS - 1,) * 2)
    done = tidy(tmp_path, 12_000, now)
    assert [path.exists() for path in old] == [False, False, True, True, True]
    assert fresh.exists()
    assert begun.exists()
    assert not full.exists()
    assert not left.exists()
    assert not folder.exists()
    assert (done.gone, done.left) == (3000 + 800, 12_000)
    assert tidy(tmp_path, 0, now).left == 9000  # what is in use stays, however little room there is


@pytest.mark.usefixtures("client")
def test_a_hundred_thousand_blobs_are_swept_in_bounded_memory() -> None:
    many = 100_000
    with sessions().begin() as session:
        session.execute(
            text(
                "insert into blob (sha256, bytes, touched) select encode(sha256(n::text::bytea), 'hex'), 7, "
                "now() - interval '1 day' from generate_series(1, :many) as n"
            ).bindparams(many=many)
        )
        session.add(RemovalRow(says="a test"))
    tracemalloc.start()
    try:
        assert swept() >= 7 * many
        _, peak = tracemalloc.get_traced_memory()
    finally:
        tracemalloc.stop()
    assert peak < 60_000_000
    with sessions()() as session:
        assert not session.scalar(select(func.count()).where(BlobRow.bytes == 7))


def test_where_the_sweep_fails_the_cache_is_tidied_all_the_same(monkeypatch: pytest.MonkeyPatch) -> None:
    tidied: list[bool] = []

    def fails(session: Session) -> int:
        raise RuntimeError("a test")

    async def once() -> None:
        task = asyncio.create_task(worker._tidy())
        while not tidied:
            await asyncio.sleep(0.01)
        task.cancel()

    monkeypatch.setattr(worker, "sweep", fails)
    monkeypatch.setattr(worker, "_tidy_once", lambda: tidied.append(True))
    asyncio.run(asyncio.wait_for(once(), 10))
