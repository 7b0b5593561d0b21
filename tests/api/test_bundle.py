"""Bundles: a job out of one Aim True and into another, to the same state and the same bytes."""

import io
import json
import time
import zipfile
from collections import Counter
from typing import Any

import numpy as np
import pytest

from aimtrue.core.errors import AimTrueError
from aimtrue.core.formats.contents import UnpackingLimits
from aimtrue.core.release.bundle import Bundle, is_bundle, open_bundle
from aimtrue.settings import ROOT, settings
from aimtrue.store import bundles
from aimtrue.store.database import sessions
from tests.api.conftest import Client
from tests.core.test_release_files import TWO
from tests.shapes import binary_stl, box, corners_of

DAY = {"pattern": "{body}", "shape": "each", "format": "stl", "place": "own"}


@pytest.fixture
def job(client: Client) -> dict[str, Any]:
    """A job that was corrected, released, and changed since."""
    view = client.opened("rest.stl", binary_stl(TWO))
    view = client.act(view, do="settle-unit", source=view["job"]["sources"][0]["id"], unit="mm")
    view = client.act(view, do="set-factor", body=view["job"]["bodies"][0]["id"], typed="1.25")
    client.post(view, "releases", **DAY)
    view = client.read(view["id"])
    return client.act(view, do="rename", body=view["job"]["bodies"][1]["id"], name="pin")


def bundled(client: Client, view: dict[str, Any]) -> bytes:
    return client.http.get(f"/jobs/{view['id']}/bundle").raise_for_status().content


def changed(bundle: bytes, **files: bytes | None) -> bytes:
    """A bundle with files replaced, or (None) left out, by the ends of their paths."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(bundle)) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            ending = next((key for key in files if name.endswith(key.replace("_", "."))), None)
            data = old.read(name) if ending is None else files[ending]
            if data is not None:
                new.writestr(name, data)
    return out.getvalue()


def test_a_job_is_the_same_after_it_was_taken_in_again(client: Client, job: dict[str, Any]) -> None:
    data = bundled(client, job)
    assert bundled(client, job) == data
    answer = client.send("rest_bundle.zip", data)
    assert answer.status_code == 201, answer.text
    again = client.view(answer.json()["id"])
    assert again["job"] == job["job"]
    assert again["survey"]["bodies"] == job["survey"]["bodies"]
    assert [one["current"] for one in again["releases"]] == [False]
    for path in ("zip", "record", "sheet"):
        first, second = (client.http.get(f"/jobs/{one['id']}/releases/1/{path}") for one in (job, again))
        assert first.content == second.content
    source = job["job"]["sources"][0]["sha256"]
    assert client.http.get(f"/jobs/{again['id']}/originals/{source}").content == binary_stl(TWO)

    for view in (job, again):
        client.post(view, "releases", **DAY)
    both = [client.read(view["id"]) for view in (job, again)]
    assert [client.files(both[0], 2)[n]["sha256"] for n in (0, 1)] == [
        client.files(both[1], 2)[n]["sha256"] for n in (0, 1)
    ]


def test_what_a_body_was_in_the_revision_before_comes_along(client: Client) -> None:
    view = client.opened("part.stl", binary_stl(corners_of(box(20, 30, 50))))
    source = view["job"]["sources"][0]["id"]
    view = client.act(view, do="settle-unit", source=source, unit="mm")
    client.http.post(
        f"/jobs/{view['id']}/sources/{source}/revision",
        params={"name": "part.stl", "on": view["number"]},
        content=binary_stl(corners_of(box(20, 30, 51.5))),
    ).raise_for_status()
    view = client.read(view["id"])
    body = view["job"]["bodies"][0]["id"]
    data = bundled(client, view)
    (was,) = view["job"]["sources"][0]["was"]
    assert f"geometry/{was['geometry']}" in zipfile.ZipFile(io.BytesIO(data)).namelist()
    again = client.view(client.send("part_bundle.zip", data).json()["id"])
    for job in (view["id"], again["id"]):
        at = f"/jobs/{job}/bodies/{body}/changed"
        change = client.http.get(at, params={"since": "revised"}).raise_for_status().json()
        assert change["most_mm"] == pytest.approx(1.5, abs=1e-4)
        assert [band["says"] for band in change["strokes"]["bands"] if band["kind"] == "hatch"] == [
            "material added, up to 1.50 mm"
        ]
        refused = client.http.get(at, params={"since": "mended"})
        assert (refused.status_code, refused.json()["code"]) == (422, "not-mended")


def test_what_is_made_to_be_fetched_is_gone_afterwards(client: Client, job: dict[str, Any]) -> None:
    before = nameless()
    for path in ("bundle", "releases/1/zip", "releases/1/file"):
        answer = client.http.get(f"/jobs/{job['id']}/{path}").raise_for_status()
        assert int(answer.headers["content-length"]) == len(answer.content)
        assert zipfile.ZipFile(io.BytesIO(answer.content)).testzip() is None
    ends = time.monotonic() + 20
    while nameless() - before:  # it goes when the last of it was sent, which is after it came
        assert time.monotonic() < ends
        time.sleep(0.05)


def nameless() -> set[str]:
    return {path.name for path in settings().cache.iterdir() if len(path.stem) != 64}


def test_a_bundle_that_is_not_whole_is_refused_and_says_why(client: Client, job: dict[str, Any]) -> None:
    data = bundled(client, job)
    told = json.loads(zipfile.ZipFile(io.BytesIO(data)).read("bundle.json"))

    def refused(data: bytes) -> str:
        before = len(client.http.get("/jobs").json())
        answer = client.send("rest_bundle.zip", data)
        assert answer.status_code == 422, answer.text
        assert len(client.http.get("/jobs").json()) == before
        return str(answer.json()["code"])

    def with_told(**fields: Any) -> bytes:
        return changed(data, bundle_json=json.dumps({**told, **fields}).encode())

    assert refused(with_told(version=99)) == "bundle-newer"
    assert refused(with_told(states=[])) == "bundle-odd"
    assert refused(changed(data, bundle_json=b"{")) == "bundle-odd"
    assert refused(changed(data, rest_stl=None)) == "bundle-missing"
    assert refused(changed(data, rest_stl=b"solid other")) == "bundle-changed"
    climbing = [{**told["files"][0], "path": "../../etc/passwd"}, *told["files"][1:]]
    assert refused(with_told(files=climbing)) == "bundle-path"
    assert refused(with_told(name="rest\0")) == "name-odd"
    for odd in ({"at": "yesterday"}, {"state": 9}, {"files": [{"sha256": "0" * 64}]}):
        assert refused(with_told(releases=[{**told["releases"][0], **odd}])) == "bundle-odd"
    scratched = bytearray(data)
    with zipfile.ZipFile(io.BytesIO(data)) as package:
        longest = max(package.infolist(), key=lambda one: one.compress_size)
    scratched[longest.header_offset + 80 : longest.header_offset + 90] = bytes(10)
    assert refused(bytes(scratched)) == "bundle-damaged"
    newer = [{**told["states"][0], "version": 99}]
    assert refused(with_told(states=newer, releases=[])) == "bundle-newer"
    odd = [{**told["states"][0], "state": {"name": 7}}]  # type: ignore[assignment]
    assert refused(with_told(states=odd, releases=[])) == "bundle-odd"


def test_a_bundle_damaged_anywhere_is_read_or_told(client: Client, job: dict[str, Any]) -> None:
    data = bundled(client, job)
    random = np.random.default_rng(3)
    ends: Counter[str] = Counter()
    for _ in range(1500):
        damaged = bytearray(data)
        for at in (len(damaged) - 1 - random.integers(1500, size=2)).tolist():
            damaged[at] = int(random.integers(256))
        ends[read(bytes(damaged))] += 1
    assert ends["bundle-damaged"] > 100
    assert ends["whole"] > 0


def read(data: bytes) -> str:
    """How a file is taken that may be a bundle."""
    if not is_bundle(io.BytesIO(data)):
        return "none"
    try:
        bundle = open_bundle(io.BytesIO(data), UnpackingLimits())
        for file in bundle.told.files:
            b"".join(bundle.pieces(file, 100))
    except AimTrueError as error:
        return error.code
    return "whole"


def test_what_comes_from_the_sandbox_is_held_against_its_hash(client: Client, job: dict[str, Any]) -> None:
    """A bundle that takes over what unpacks it may leave other bytes than it says."""
    opened = open_bundle(io.BytesIO(bundled(client, job)), UnpackingLimits())
    with pytest.raises(AimTrueError) as told, sessions().begin() as session:
        bundles.take_in(session, opened.told, lambda file: [b"other bytes"])
    assert told.value.code == "bundle-changed"


def test_the_schema_that_is_published_is_that_of_the_bundle() -> None:
    published = json.loads((ROOT / "docs" / "bundle.schema.json").read_text())
    assert published == Bundle.model_json_schema()
