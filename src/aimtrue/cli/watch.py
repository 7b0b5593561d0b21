"""aimtrue watch: take in files as they come to a folder, and release those whose unit is clear.

What was looked at is remembered beside the released files, by content, so that starting again does nothing
twice. A file that is still being written is left until it stays as it is.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import os
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx

from aimtrue.cli.bulk import FileOutcome
from aimtrue.cli.failures import complain
from aimtrue.cli.files import CommandFailure, ExitCode, load
from aimtrue.cli.release import release_some
from aimtrue.core.formats import READ_ENDINGS, ending_of
from aimtrue.settings import OWN_HEADER, settings

_LOOK_SECONDS = 0.5
_KNOWN = ".aimtrue-watch.json"
OPEN = "open"


def watch(asked: argparse.Namespace) -> int:
    """Look at a folder until Ctrl-C, or with ``--once`` until nothing in it is left to be looked at."""
    folder, out = Path(asked.folder), Path(asked.out)
    asked.name = asked.name or "{file}_{body}"  # Bodies of different files may be called the same.
    if not folder.is_dir():
        complain(f"{folder}: there is no such folder")
        return ExitCode.UNREADABLE
    try:
        out.mkdir(parents=True, exist_ok=True)
        known = _known(out)
        rows = _watched(folder, out, asked, known)
    except OSError as error:
        complain(f"{out}: cannot be written: {error.strerror}")
        return ExitCode.UNWRITABLE
    except KeyboardInterrupt:
        return ExitCode.DONE
    if asked.json:
        print(json.dumps({"files": rows}, indent=1))
    return ExitCode.DONE


def _watched(
    folder: Path, out: Path, asked: argparse.Namespace, known: dict[str, dict[str, Any]]
) -> list[dict[str, Any]]:
    sizes: dict[Path, tuple[int, int]] = {}
    rows: list[dict[str, Any]] = []
    while True:
        waiting = False
        for path in _models(folder):
            stat = path.stat()
            now = (stat.st_size, stat.st_mtime_ns)
            if sizes.get(path) != now:  # For all that is known, the file is still being written.
                sizes[path], waiting = now, True
                continue
            row = _looked_at(path, folder, asked, known)
            if row is not None:
                rows.append(row)
                _remember(out, known)
        if asked.once and not waiting:
            return rows
        time.sleep(_LOOK_SECONDS)


def _models(folder: Path) -> Iterator[Path]:
    for path in sorted(folder.rglob("*")):
        if path.is_file() and not path.name.startswith(".") and ending_of(path.name) in READ_ENDINGS:
            yield path


def _looked_at(
    path: Path, folder: Path, asked: argparse.Namespace, known: dict[str, dict[str, Any]]
) -> dict[str, Any] | None:
    """Look at a file that was not looked at yet, and say what became of it."""
    name = str(path.relative_to(folder))
    sha256 = hashlib.sha256(path.read_bytes()).hexdigest()
    if known.get(name, {}).get("sha256") == sha256:
        return None
    went = _released(str(path), asked) if asked.release else _inspected(str(path), asked)
    row = {"file": name, "sha256": sha256, "state": _state(went), "says": went.says, "names": went.names}
    if row["state"] == OPEN and asked.jobs:
        row["job"] = _job_for(path, asked.jobs)
    known[name] = row
    if not asked.json:
        print(f"{name}: {row['state']}: {went.says}{', ' + row['job'] if row.get('job') else ''}", flush=True)
    return row


def _job_for(path: Path, address: str) -> str:
    """Open a job for a file whose user has to decide something, and return its address; empty if that
    fails.
    """
    try:
        headers = {OWN_HEADER: "1"}
        if settings().key:
            headers["Authorization"] = f"Bearer {settings().key}"
        answer = httpx.post(
            f"{address}/api/jobs",
            params={"name": path.name},
            content=path.read_bytes(),
            headers=headers,
            timeout=60,
        )
        return f"{address}/jobs/{answer.raise_for_status().json()['id']}"
    except (httpx.HTTPError, ValueError, KeyError) as error:
        complain(f"{path}: no job could be opened at {address}: {error}")
        return ""


def _state(went: FileOutcome) -> str:
    if went.code == ExitCode.DONE:
        return "released" if went.released else "ready"
    return OPEN if went.code in (ExitCode.UNSETTLED, ExitCode.UNPROVEN) else "failed"


def _released(path: str, asked: argparse.Namespace) -> FileOutcome:
    try:
        _, files = release_some([path], asked)
    except CommandFailure as failure:
        return FileOutcome(path, 0, failure.code, failure.says.removeprefix(f"{path}: "))
    return FileOutcome(
        path, len(files), ExitCode.DONE, "proof holds", "; ".join(Path(file["path"]).name for file in files)
    )


def _inspected(path: str, asked: argparse.Namespace) -> FileOutcome:
    try:
        loaded = load(path, asked)
    except CommandFailure as failure:
        return FileOutcome(path, 0, failure.code, failure.says.removeprefix(f"{path}: "))
    if any(source.unit is None for source in loaded.job.sources):
        return FileOutcome(path, 0, ExitCode.UNSETTLED, "the unit is not settled; tell it with --unit")
    return FileOutcome(path, 0, ExitCode.DONE, f"{len(loaded.job.bodies)} bodies, its unit is settled")


def _known(out: Path) -> dict[str, dict[str, Any]]:
    path = out / _KNOWN
    try:
        return {row["file"]: row for row in json.loads(path.read_text(encoding="utf-8"))}
    except FileNotFoundError:
        return {}
    except (ValueError, KeyError, TypeError):
        complain(f"{path}: is not understood; every file is looked at anew")
        return {}


def _remember(out: Path, known: dict[str, dict[str, Any]]) -> None:
    aside = out / f"{_KNOWN}.{os.getpid()}"
    aside.write_text(json.dumps(list(known.values()), indent=1), encoding="utf-8")
    aside.replace(out / _KNOWN)
