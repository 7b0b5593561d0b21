"""aimtrue verify: files held against a proof record, without the job that they are from."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict
from pathlib import Path

from pydantic import ValidationError

from aimtrue.cli.failures import complain
from aimtrue.cli.files import CommandFailure, ExitCode
from aimtrue.core.errors import AimTrueError
from aimtrue.core.formats import READ_ENDINGS, ending_of
from aimtrue.core.proof.record import HeldNumber, Record
from aimtrue.core.proof.verification import not_given, verified
from aimtrue.core.release.manifest import RECORD


def verify(asked: argparse.Namespace) -> int:
    """Read every file anew and say of each number whether it holds, or by how much not."""
    try:
        record_path, paths = _given(asked)
        record = _record(record_path)
        rows = [row for path in paths for row in _told(path, record)]
        if not asked.some:
            rows += not_given([row.asked for row in rows if row.what == "name"], record)
    except CommandFailure as failure:
        complain(failure.says)
        return failure.code
    holds = all(row.holds for row in rows)
    if asked.json:
        print(json.dumps({"holds": holds, "checks": [asdict(row) for row in rows]}, indent=1))
    else:
        print(_as_text(rows, paths))
    return ExitCode.DONE if holds else ExitCode.UNPROVEN


def _given(asked: argparse.Namespace) -> tuple[str, list[str]]:
    """Return the record, and the files that are to be held against it, those of folders among them."""
    paths = []
    for given in map(Path, asked.files):
        inside = (path for path in sorted(given.rglob("*")) if path.is_file() and path.name != RECORD)
        models = (
            [path for path in inside if ending_of(path.name) in READ_ENDINGS] if given.is_dir() else [given]
        )
        if not models:
            raise CommandFailure(ExitCode.UNREADABLE, f"{given}: there is no model file in this folder")
        paths += [str(path) for path in models]
    if asked.proof:
        return asked.proof, paths
    records = [path / RECORD for path in map(Path, asked.files) if (path / RECORD).is_file()]
    if len(records) != 1:
        says = f"{asked.files[0]}: there is no {RECORD} in this folder; tell the record with --proof"
        raise CommandFailure(ExitCode.USAGE, says)
    return str(records[0]), paths


def _record(path: str) -> Record:
    try:
        text = Path(path).read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise CommandFailure(ExitCode.UNREADABLE, f"{path}: cannot be read: {error}") from None
    try:
        content = json.loads(text)
        if isinstance(content, dict) and content.get("version", 1) != 1:
            raise CommandFailure(
                ExitCode.UNREADABLE,
                f"{path}: this record is of version {content['version']}; a newer Aim True reads it",
            )
        return Record.model_validate(content)
    except json.JSONDecodeError as error:
        raise CommandFailure(
            ExitCode.UNREADABLE, f"{path}: is no JSON: line {error.lineno}: {error.msg}"
        ) from None
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"])) or "the record"
        raise CommandFailure(
            ExitCode.UNREADABLE, f"{path}: is no proof record: {where}: {first['msg']}"
        ) from None


def _told(path: str, record: Record) -> list[HeldNumber]:
    try:
        data = Path(path).read_bytes()
    except OSError as error:
        raise CommandFailure(ExitCode.UNREADABLE, f"{path}: cannot be opened: {error.strerror}") from None
    name = Path(path).name
    try:
        return verified(name, data, record)
    except AimTrueError as error:
        return [HeldNumber(name, "readable", "yes", error.line(), 1.0, False)]


def _as_text(rows: list[HeldNumber], files: list[str]) -> str:
    lines = []
    for path in files:
        mine = [row for row in rows if row.file == Path(path).name]
        broken = [row for row in mine if not row.holds]
        lines.append(
            f"{path}: {len(mine)} checks, all hold"
            if not broken
            else f"{path}: {len(broken)} of {len(mine)} checks do not hold"
        )
        lines += [f"  {row.what}: asked {row.asked}, found {row.found}" for row in broken]
    lines += [f"{row.file}: was not given" for row in rows if row.what == "file of the record"]
    renamed = [row for row in rows if row.what == "name" and row.asked != row.found]
    lines += [f"{row.file} is {row.asked} of the record, under another name" for row in renamed]
    return "\n".join(lines)
