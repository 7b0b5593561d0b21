"""The store by itself: blobs, and the description the front end's types come from."""

import asyncio
import json
import os
import sys
import time
from itertools import count
from pathlib import Path

import pytest
from sqlalchemy import text
from sqlalchemy.exc import OperationalError

from aimtrue.api import server
from aimtrue.api.schema import described
from aimtrue.cli import postgres
from aimtrue.cli.system import SetupError
from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.memo import RecentValues
from aimtrue.settings import ROOT, settings
from aimtrue.store import blobs, geometry_store, idle_release
from aimtrue.store.database import migrate, sessions
from aimtrue.store.geometry_store import CachedGeometryStore, on_disk
from aimtrue.store.tables import BlobRow
from tests.house import House


def test_a_blob_comes_back_byte_for_byte_and_is_kept_once(house: House) -> None:
    data = os.urandom(2 * blobs.CHUNK + 17)
    with sessions().begin() as session:
        name = blobs.put(session, data)
    with sessions().begin() as session:
        assert blobs.put(session, data) == name
    with sessions()() as session:
        assert blobs.read(session, name) == data
        assert session.query(BlobRow).filter_by(sha256=name).count() == 1
        assert session.query(BlobRow).filter(BlobRow.sha256.startswith("unfinished")).count() == 0
    assert on_disk(name).read_bytes() == data


def test_an_empty_blob_is_a_blob(house: House) -> None:
    with sessions().begin() as session:
        assert blobs.read(session, blobs.put(session, b"")) == b""


def test_an_unknown_blob_is_told(house: House) -> None:
    with sessions()() as session, pytest.raises(AimTrueError):
        blobs.read(session, "0" * 64)


@pytest.mark.parametrize(("at_start", "kept"), [(0, None), (10**9, "made")])
def test_what_holds_much_keeps_results_for_a_shorter_time(
    monkeypatch: pytest.MonkeyPatch, at_start: int, kept: str | None
) -> None:
    clock = count(100.0, 100.0)  # another hundred seconds whenever it is looked at
    monkeypatch.setattr("aimtrue.core.model.memo.monotonic", lambda: next(clock))
    monkeypatch.setattr(sys, "getallocatedblocks", lambda: 1_000_000)
    values: RecentValues[str, str] = RecentValues(2)
    values.keep("a", "made")
    idle_release.let_go(CachedGeometryStore(), at_start)
    assert values.get("a") == kept


def test_migrating_again_changes_nothing(house: House) -> None:
    migrate()


def test_the_committed_description_is_that_of_the_routes() -> None:
    committed = (ROOT / "web" / "src" / "api" / "openapi.json").read_text()
    assert described() == committed, (
        "run: python -m aimtrue.api.schema > web/src/api/openapi.json; npm run api"
    )


def test_after_a_power_cut_the_cache_is_held_against_its_hashes(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    with sessions().begin() as session:
        name = blobs.put(session, b"as it was kept" * 1000)
    path = geometry_store.on_disk(name)
    path.write_bytes(b"\0" * path.stat().st_size)
    assert geometry_store.on_disk(name).read_bytes()[:1] == b"\0"  # what was made since is not looked at
    monkeypatch.setattr(geometry_store, "_booted", lambda: time.time() + 5)
    assert geometry_store.on_disk(name).read_bytes() == b"as it was kept" * 1000
    drawn = geometry_store.keep_drawn(b"to be drawn")
    (settings().cache / drawn).write_bytes(b"to be")
    assert (settings().cache / geometry_store.keep_drawn(b"to be drawn")).read_bytes() == b"to be drawn"
    assert not geometry_store.made_since_boot(path)


def test_bytes_that_the_database_lost_are_told(house: House) -> None:
    with sessions().begin() as session:
        name = blobs.put(session, b"a sound blob")
        session.execute(text("update blob_chunk set data = 'another' where data = 'a sound blob'"))
    with pytest.raises(blobs.UnknownBlob, match="damaged"):
        geometry_store.on_disk(name)
    with sessions().begin() as session:
        session.execute(text("delete from blob where sha256 = :name").bindparams(name=name))


def test_data_of_another_version_of_the_database_is_not_touched(tmp_path: Path) -> None:
    (tmp_path / "PG_VERSION").write_text("9\n")
    with pytest.raises(SetupError, match=r"made by PostgreSQL 9; here is \d"):
        postgres._programs(tmp_path)


def test_pages_of_the_database_have_checksums(house: House) -> None:
    with sessions()() as session:
        assert session.scalar(text("show data_checksums")) == "on"


@pytest.mark.parametrize(
    ("state", "status"), [("40P01", 503), ("53100", 507), ("53300", 503), ("08006", 503)]
)
def test_what_the_database_says_is_said(state: str, status: int) -> None:
    class Said(Exception):
        sqlstate = state

    error = OperationalError("select", {}, Said("as it is"))
    answer = asyncio.run(server._as_away(None, error))  # type: ignore[arg-type]
    assert answer.status_code == status
    told = json.loads(bytes(answer.body))
    assert ("does not answer" in told["says"]) is (state == "08006")
