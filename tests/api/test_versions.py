"""A database from before: every job, every revision and the list of jobs open, and show what they showed."""

from __future__ import annotations

import json
import lzma
import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from aimtrue.cli.postgres import temporary
from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.job import Job
from aimtrue.core.model.upgrades import JOBS
from aimtrue.core.model.versions import Ladder
from aimtrue.settings import ROOT
from tests.house import own_folder

KEPT = ROOT / "tests" / "kept" / "before_versions"


@pytest.fixture(scope="module")
def opened() -> Iterator[dict[str, Any]]:
    """What a database, kept before states had versions, shows now: the Larch Hill jobs with decisions
    made.
    """
    with own_folder() as folder:
        yield _opened(folder)


def _opened(folder: Path) -> dict[str, Any]:
    postgres = temporary(folder)
    postgres.start()
    try:
        for name in ("rows", "blobs"):
            _restored(postgres.address, lzma.decompress((KEPT / f"{name}.sql.xz").read_bytes()))
        environment = {
            **os.environ,
            "AIMTRUE_DATABASE_URL": postgres.address,
            "AIMTRUE_DATA": str(folder / "data"),
        }
        done = subprocess.run(
            [sys.executable, "-m", "tests.kept.opened"],
            cwd=ROOT,
            env=environment,
            capture_output=True,
            check=False,
        )
        assert done.returncode == 0, done.stderr.decode()[-3000:]
        shown: dict[str, Any] = json.loads(done.stdout)
    finally:
        postgres.stop()
    return shown


def _restored(address: str, sql: bytes) -> None:
    program = sorted(Path("/usr/lib/postgresql").glob("*/bin/psql"))[-1]
    command = [str(program), "-q", "-v", "ON_ERROR_STOP=1", address]
    done = subprocess.run(command, input=sql, capture_output=True, check=False)
    assert done.returncode == 0, done.stderr.decode()[-2000:]


@pytest.fixture(scope="module")
def before() -> dict[str, Any]:
    """What the same jobs showed then."""
    shown: dict[str, Any] = json.loads(lzma.decompress((KEPT / "expected.json.xz").read_bytes()))
    return shown


_TOLD_SINCE = ("nothing-flat", "tilted", "seats-overlap", "not-seated", "not-kept")
"""Findings that nobody looked for then."""


def _told(job: dict[str, Any]) -> list[tuple[Any, ...]]:
    """The findings of a job; what is outside its machine is told with amounts since."""
    return sorted(
        (
            one["code"],
            one["severity"],
            one["says"].partition(" Garden bench M: ")[0].partition("; ")[0]
            if one["code"] == "outside-machine"
            else one["says"],
            one["accepted"],
        )
        for one in job["survey"]["findings"]
        if one["code"] not in _TOLD_SINCE
    )


def _as_told_now(body: dict[str, Any]) -> dict[str, Any]:
    """What a body showed, in today's form: the chain by columns; of its place where it is, since whether that
    is inside its machine is told of its seat.
    """
    rows, room = body["chain"], body["room"]
    chain = rows and {
        key: rows[0][key] if key == "mm_per_unit" else [row[key] for row in rows]
        for key in rows[0]
        if key != "axis"
    }
    return {**body, "chain": chain, "room": room and {end: room[end] for end in ("low", "high")}}


def test_every_job_shows_the_sizes_places_and_findings_that_it_showed(
    opened: dict[str, Any], before: dict[str, Any]
) -> None:
    assert set(opened["jobs"]) == set(before)
    for name, then in before.items():
        now = opened["jobs"][name]
        assert (now["undo"], now["redo"]) == (then["undo"], then["redo"]), name
        assert [[one["number"], one["current"]] for one in now["releases"]] == then["releases"], name
        for one, kept in zip(now["survey"]["bodies"], then["survey"]["bodies"], strict=True):
            old = _as_told_now(kept)
            for field in ("id", "chain", "room", "placement", "readings", "volume_mm3", "oval", "reshaped"):
                assert _near(one[field], old[field]), (name, old["id"], field)
        assert _told(now) == _told(then), name
        # Sheets 3 and 4 were not there then.
        sheets = [
            [one for one in view["survey"]["sheets"] if one["name"] not in ("fit", "division")]
            for view in (now, then)
        ]
        assert sheets[0] == sheets[1], name


def test_every_revision_can_be_read_and_every_job_is_listed(
    opened: dict[str, Any], before: dict[str, Any]
) -> None:
    assert opened["revisions"] > 3 * len(before)
    rack = next(line for line in opened["lines"] if line["name"] == "Eyepiece rack")
    assert (rack["bodies"], rack["unit"]) == (7, "in")
    clamp = next(line for line in opened["lines"] if line["name"] == "Clamp shells")
    assert clamp["size_mm"] == pytest.approx([208.5, 156.2, 43.3], abs=0.1)


def test_what_a_kit_shares_is_the_kits(opened: dict[str, Any]) -> None:
    rack = opened["jobs"]["Eyepiece rack"]["job"]
    [kit] = rack["kits"]
    alone = [body for body in rack["bodies"] if body["alone"]]
    assert [body["own"]["correction"]["factors"] for body in alone] == [[1.01] * 3]
    assert kit["shared"]["correction"]["factors"] == pytest.approx([5.5 * 25.4 / 139.7] * 3, rel=1e-3)
    turns = [[(turn["axis"], turn["degrees"]) for turn in seat["turns"]] for seat in rack["seats"]]
    assert turns == [[("y", 90.0)]] * 2


def _near(now: Any, then: Any) -> bool:
    """Numbers travel with twelve figures now."""
    if isinstance(then, float) and isinstance(now, float):
        return now == pytest.approx(then, rel=1e-11, abs=1e-12)
    if isinstance(then, dict):
        return all(_near(now[key], value) for key, value in then.items())
    if isinstance(then, list):
        return len(now) == len(then) and all(map(_near, now, then))
    return bool(now == then)


def test_a_job_of_the_oldest_kind_is_brought_up() -> None:
    correction = {"factors": [2, 2, 2], "reading": "r1"}
    anchors = {"a": {"face": 0, "weights": [1, 0, 0]}, "b": {"face": 0, "weights": [0, 1, 0]}}
    reading = {
        "id": "r1",
        "name": "span",
        "body": "s1-1",
        **anchors,
        "a_point": [0, 0, 0],
        "b_point": [1, 0, 0],
    }
    bore = {"point": [0, 0, 0], "direction": [0, 0, 1], "diameter": 5.5, "depth": 8, "diameter_mm": 5.5}
    zero = {"low": [0, 0, 0], "high": [1, 1, 1], "volume": 1, "area": 6, "health": {"closed": True}}
    body = {
        "id": "d4",
        "name": "b",
        "source": "s1",
        "geometry": "g",
        "bench": "h",
        "triangles": 12,
        "vertices": 8,
    }
    body |= {**zero, "correction": correction, "kept": [bore]}
    source = {"id": "s1", "name": "b.stl", "sha256": "0", "bytes": 1, "format": "stl", "home": [0, 0, 4]}
    job = Job.model_validate(
        JOBS.up({"name": "b", "sources": [source], "bodies": [body], "readings": [reading]}, 1)
    )
    one = job.bodies[0]
    assert one.copied
    assert one.kept[0].diameter == 5.5
    assert job.correction_of(one).readings == ("r1",)
    assert job.home_of(one) == (0, 0, 4)
    assert job.readings[0].gauge.points == ((0, 0, 0), (1, 0, 0))


def test_what_a_newer_version_kept_is_refused_and_left_alone() -> None:
    with pytest.raises(AimTrueError) as told:
        Ladder("this job", [lambda kept: kept]).up({}, 3)
    assert told.value.code == "kept-newer"
