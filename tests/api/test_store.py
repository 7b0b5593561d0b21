"""The store by itself: blobs, and the description the front end's types come from."""

import os
import sys
from itertools import count

import pytest

from aimtrue.api.schema import described
from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.memo import Recent
from aimtrue.settings import ROOT
from aimtrue.store import at_rest, blobs
from aimtrue.store.database import migrate, sessions
from aimtrue.store.shelf import StoreShelf, on_disk
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
    values: Recent[str, str] = Recent(2)
    values.keep("a", "made")
    at_rest.let_go(StoreShelf(), at_start)
    assert values.get("a") == kept


def test_migrating_again_changes_nothing(house: House) -> None:
    migrate()


def test_the_committed_description_is_that_of_the_routes() -> None:
    committed = (ROOT / "web" / "src" / "api" / "openapi.json").read_text()
    assert described() == committed, (
        "run: python -m aimtrue.api.schema > web/src/api/openapi.json; npm run api"
    )
