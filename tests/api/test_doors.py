"""Doors: what comes from elsewhere names nothing outside of its own, and is written nowhere else."""

from __future__ import annotations

import json
import zipfile
from io import BytesIO
from pathlib import Path
from typing import Any

import pytest

from aimtrue.settings import settings
from tests.api.conftest import Client
from tests.api.test_bundle import DAY, bundled, changed
from tests.core.test_release_files import TWO
from tests.shapes import binary_stl


@pytest.fixture
def released(client: Client) -> dict[str, Any]:
    """A job with a release."""
    view = client.opened("rest.stl", binary_stl(TWO))
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    client.post(view, "releases", **DAY)
    return client.read(view["id"])


def everything(folder: Path) -> set[str]:
    return {str(path) for path in folder.rglob("*")}


NAMES = [
    "../../escaped.stl",
    "/tmp/aimtrue-escaped.stl",
    "a/b.stl",
    "a\\b.stl",
    "..",
    ".",
    "",
    "a\0.stl",
    "C:escaped.stl",
    "x" * 300,
]


@pytest.mark.parametrize("name", NAMES)
def test_a_release_in_a_bundle_is_named_by_one_part_of_a_path(
    client: Client, released: dict[str, Any], name: str
) -> None:
    data = bundled(client, released)
    told = json.loads(zipfile.ZipFile(BytesIO(data)).read("bundle.json"))
    told["releases"][0]["files"][0]["name"] = name
    before = everything(settings().data.parent)
    answer = client.send("rest_bundle.zip", changed(data, bundle_json=json.dumps(told).encode()))
    if answer.status_code == 201:  # it was taken in: then it can be put down, and be seen where it goes
        path = f"/jobs/{answer.json()['id']}/releases/1/put"
        client.http.post(path, json={"drive": "card"})
        assert not {one for one in everything(settings().data.parent) - before if "escaped" in one}
        assert not Path("/tmp/aimtrue-escaped.stl").exists()
    assert answer.status_code == 422, answer.text
    assert answer.json()["code"] == "bundle-odd"


def test_hashes_and_lists_in_a_bundle_are_what_they_say(client: Client, released: dict[str, Any]) -> None:
    data = bundled(client, released)
    plain = zipfile.ZipFile(BytesIO(data)).read("bundle.json")

    def refused(change: Any) -> str:
        told = json.loads(plain)
        change(told)
        answer = client.send("rest_bundle.zip", changed(data, bundle_json=json.dumps(told).encode()))
        assert answer.status_code == 422, answer.text
        return str(answer.json()["code"])

    files = json.loads(plain)["releases"][0]["files"]
    assert refused(lambda told: told["releases"][0].update(files=[])) == "bundle-odd"
    assert refused(lambda told: told["releases"][0].update(files=[files[0], files[0]])) == "bundle-odd"
    assert refused(lambda told: told["releases"][0].update(record="../../x")) == "bundle-odd"
    assert refused(lambda told: told["releases"].append(told["releases"][0])) == "bundle-odd"
    assert refused(lambda told: told["releases"][0].update(number=-1)) == "bundle-odd"
    assert refused(lambda told: told["files"].append(told["files"][0])) == "bundle-odd"
    for field in ("geometry", "bench", "features"):
        for name in ("../../../etc/passwd", "0" * 63, "A" * 64):

            def climb(told: Any, field: str = field, name: str = name) -> None:
                told["states"][-1]["state"]["bodies"][0][field] = name

            assert refused(climb) == "bundle-odd"


def test_nothing_but_a_hash_is_looked_up(client: Client) -> None:
    for name in ("..%2F..%2Fetc%2Fpasswd", "0" * 63, "A" * 64, "g" * 64, "%00"):
        for path in (f"/bench/{name}", f"/bench/{name}/full"):
            answer = client.http.get(path)  # a path of more parts is no such address, and gets the page
            assert answer.status_code in (404, 422) or answer.text.lower().startswith("<!doctype html>")
