"""Many files, each by itself: going on past a bad one, and telling at the end how each went."""

from __future__ import annotations

import argparse
import csv
import json
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from aimtrue.cli.failures import complain
from aimtrue.cli.files import CommandFailure, ExitCode, every_file

Release = Callable[[list[str], argparse.Namespace], tuple[Any, list[dict[str, Any]]]]


@dataclass(frozen=True)
class FileOutcome:
    """How one file went: released into so many files, or why not, by an exit code."""

    file: str
    released: int
    code: int
    says: str
    names: str = ""


def release_each(asked: argparse.Namespace, release: Release) -> int:
    """Release files one by one, and return 0 when all could be, else the code of the first that could not."""
    try:
        paths = every_file(asked.files)
    except CommandFailure as failure:
        complain(failure.says)
        return failure.code
    rows = [_went(path, asked, release) for path in paths]
    for row in rows:
        if row.code != ExitCode.DONE:
            complain(row.says)
    try:
        report(rows, asked)
    except OSError as error:
        complain(f"{asked.report}: cannot be written: {error.strerror}")
        return ExitCode.UNWRITABLE
    return next((row.code for row in rows if row.code != ExitCode.DONE), ExitCode.DONE)


def _went(path: str, asked: argparse.Namespace, release: Release) -> FileOutcome:
    try:
        _, files = release([path], asked)
    except CommandFailure as failure:
        return FileOutcome(path, 0, failure.code, failure.says)
    names = "; ".join(Path(file["path"]).name for file in files)
    return FileOutcome(path, len(files), ExitCode.DONE, "released, read back, proof holds", names)


def report(rows: list[FileOutcome], asked: argparse.Namespace) -> None:
    """Print how each file went as a table or as JSON, and write it as CSV where that is asked for."""
    if getattr(asked, "report", None):
        with Path(asked.report).open("w", newline="", encoding="utf-8") as out:
            table = csv.DictWriter(out, ["file", "released", "code", "says", "names"])
            table.writeheader()
            table.writerows(map(asdict, rows))
    if asked.json:
        print(json.dumps({"files": [asdict(row) for row in rows]}, indent=1))
        return
    wide = max((len(row.file) for row in rows), default=4)
    for row in rows:
        print(f"{row.file:<{wide}}  {row.released:>3}  {row.says}")
    good = sum(row.code == ExitCode.DONE for row in rows)
    print(f"{good} of {len(rows)} files released")
