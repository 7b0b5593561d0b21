"""Requests that no page of ours sends: they are told what is wrong, and never break anything."""

import time
from collections.abc import Iterator
from contextlib import ExitStack
from typing import Any
from urllib.parse import urlsplit

import httpx
import pytest

from aimtrue.settings import OWN_HEADER, settings
from tests.api.conftest import Client
from tests.shapes import binary_stl, box, corners_of

BOX = binary_stl(corners_of(box(2, 3, 5)))
UNSEEN = ("\\u0000", "a\\u0000b", "\\ud800", "a\\udfffb")
LONG = "y" * 20_000
JSON = {"Content-Type": "application/json"}


@pytest.fixture(scope="module")
def view(house: Any) -> Iterator[dict[str, Any]]:
    client = Client(house.address)
    yield client.opened("part.stl", BOX)
    client.http.close()


@pytest.mark.parametrize("name", ["\x00.stl", "a\x00b.stl", "a\nb.stl", "\t.stl", "x" * 20_000 + ".stl"])
def test_no_file_comes_in_under_a_name_that_is_none(client: Client, view: dict[str, Any], name: str) -> None:
    source = view["job"]["sources"][0]["id"]
    for path, more in (
        ("/jobs", {}),
        (f"/jobs/{view['id']}/sources", {}),
        (f"/jobs/{view['id']}/sources/{source}/revision", {"on": view["number"]}),
    ):
        answer = client.http.post(path, params={"name": name, **more}, content=BOX)
        assert answer.status_code == 422
        assert answer.json()["code"] in ("name-odd", "name-long")


@pytest.mark.parametrize("text", [*UNSEEN, LONG])
def test_text_that_is_none_is_told(client: Client, view: dict[str, Any], text: str) -> None:
    body, on = view["job"]["bodies"][0]["id"], view["number"]
    rename = f'{{"do": "rename", "body": "{body}", "name": "@"}}'
    pair = '{"axis": "x", "nominal": "10", "measured": "10"}'
    for path, asked in {
        f"/jobs/{view['id']}/actions": f'{{"on": {on}, "action": {rename}}}',
        f"/jobs/{view['id']}/releases": f'{{"on": {on}, "pattern": "@"}}',
        f"/jobs/{view['id']}/releases/preview": f'{{"on": {on}, "pattern": "@"}}',
        "/calibrations": f'{{"machine": "@", "material": "PLA", "pairs": [{pair}]}}',
        "/machines": '{"name": "@", "volume": {"shape": "box", "room": [100, 100, 100]}}',
        "/jobs/@/undo": f'{{"on": {on}}}',
    }.items():
        to = path.replace("@", "%00" if "u" in text else text[:200])
        answer = client.http.post(
            to, content=asked.replace("@", text), headers={"Content-Type": "application/json"}
        )
        assert answer.status_code in (404, 422), (path, answer.text)
        assert answer.json()["says"]
    assert client.view(view["id"])["number"] == on


@pytest.mark.parametrize(
    "path",
    [
        "/jobs/%00", "/jobs/%00/bundle", "/jobs/x/originals/%00", "/bench/%00", "/bench/%00/full",
        "/jobs/{job}/releases/99999999999999999999999", "/jobs/{job}/releases/-1",
        "/jobs/{job}/bodies/%00/features", "/jobs/{job}/plates/%00/plan",
    ],
)  # fmt: skip
def test_what_is_not_there_is_told(client: Client, view: dict[str, Any], path: str) -> None:
    answer = client.http.get(path.replace("{job}", view["id"]))
    assert answer.status_code in (404, 422)
    assert answer.json()["says"]


def test_a_number_that_nothing_has_is_told(client: Client) -> None:
    for path in ("/calibrations/99999999999999999999999", "/machines/99999999999999999999999"):
        answer = client.http.delete(path)
        assert answer.status_code in (404, 422), answer.text
        assert answer.json()["says"]


@pytest.mark.parametrize("path", ["/" + "x" * 300, "/" + "x" * 5000, "/%00", "/..%2f..%2fREADME.md"])
def test_a_page_that_is_not_there_is_the_first_page(client: Client, path: str) -> None:
    answer = httpx.get(str(client.http.base_url).removesuffix("/api/") + path)
    assert answer.status_code == 200
    assert '<div id="root">' in answer.text


def test_an_original_is_not_handed_out_by_its_hash_alone(client: Client, view: dict[str, Any]) -> None:
    sha256 = view["job"]["sources"][0]["sha256"]
    body = view["job"]["bodies"][0]
    assert client.http.get(f"/bench/{body['bench']}").content[:4] == b"ATB1"
    assert client.http.get(f"/bench/{body['geometry']}/full").content[:4] == b"ATB1"
    before = {path.name for path in settings().cache.iterdir()}
    for name in (sha256, "0" * 64):
        for path in (f"/bench/{name}", f"/bench/{name}/full"):
            assert client.http.get(path).status_code == 404
    assert {path.name for path in settings().cache.iterdir()} - before <= {sha256}
    assert client.http.get(f"/jobs/{view['id']}/originals/{sha256}").content == BOX


def test_stalled_downloads_hold_nobody_up(client: Client) -> None:
    """More than there are connections to the database, each read no farther than its head."""
    large = binary_stl(corners_of(box(2, 3, 5)).repeat(15_000, axis=0))
    view = client.opened("large.stl", large)
    sha256 = client.view(view["id"])["tasks"][-1]["sha256"]
    path = f"{client.http.base_url}jobs/{view['id']}/originals/{sha256}"
    with ExitStack() as open_ones:
        for _ in range(48):
            stalled = open_ones.enter_context(httpx.Client(headers={OWN_HEADER: "1"}))
            answer = open_ones.enter_context(stalled.stream("GET", path, timeout=30))
            assert answer.status_code == 200
        time.sleep(0.5)
        fresh = open_ones.enter_context(httpx.Client(base_url=f"http://{urlsplit(path).netloc}", timeout=10))
        assert fresh.get("/api/jobs").status_code == 200
        sent = fresh.post("/api/jobs", params={"name": "b.stl"}, content=BOX, headers={OWN_HEADER: "1"})
        assert sent.status_code == 201
