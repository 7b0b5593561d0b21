"""aimtrue release: files of a proven size, without a server."""

from __future__ import annotations

import argparse
import json
import os
import tempfile
from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from aimtrue.cli import bulk
from aimtrue.cli.failures import complain
from aimtrue.cli.files import CommandFailure, ExitCode, LoadedFile, every_file, load
from aimtrue.cli.inspect import finding_fields
from aimtrue.cli.progress import told
from aimtrue.cli.sizing import sized
from aimtrue.core.drawing.compare import drawn_of
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.model.job import Job
from aimtrue.core.proof.record import Record, as_json
from aimtrue.core.release.making import Release
from aimtrue.core.release.making import release as make
from aimtrue.core.release.manifest import RECORD
from aimtrue.core.release.order import Order
from aimtrue.core.release.record import record_of
from aimtrue.core.release.sheet import ProofSheet, sheet_of
from aimtrue.core.survey.survey import survey

if TYPE_CHECKING:  # The library that writes PDF is large, so it is loaded where it is used.
    from aimtrue.core.release.sheet.pages import Drawn


def release(asked: argparse.Namespace) -> int:
    """Release every file; nothing appears in the folder unless all of them hold, or each by itself."""
    if asked.go_on and asked.sheet:
        complain("--sheet is of files that are released all or none; leave out --go-on")
        return ExitCode.USAGE
    if asked.go_on:
        return bulk.release_each(asked, release_some)
    try:
        releases, files = release_some(asked.files, asked)
    except CommandFailure as failure:
        complain(failure.says)
        return failure.code
    _say(releases, files, asked)
    return ExitCode.DONE


def _chosen(path: str, job: Job, names: list[str]) -> tuple[str, ...] | None:
    """The ids of the bodies that are asked for by name; None for all."""
    unknown = next((name for name in names if name not in {body.name for body in job.bodies}), None)
    if unknown is not None:
        known = ", ".join(body.name for body in job.bodies)
        raise CommandFailure(ExitCode.USAGE, f"{path}: there is no body {unknown}; there are {known}")
    return tuple(body.id for body in job.bodies if body.name in names) if names else None


Made = list[tuple[LoadedFile, Release]]


def release_some(paths: list[str], asked: argparse.Namespace) -> tuple[Made, list[dict[str, Any]]]:
    """Release some files, all or none, and return what was made and what is told of each file written.

    Raises:
        Failure: one cannot be released, or written.
    """
    releases = make_some(paths, asked)
    # Of many files, each by itself, each has a record of its own.
    record = f"{Path(paths[0]).name}.{RECORD}" if asked.go_on else RECORD
    beside = {record: as_json(recorded(releases))} if asked.proof_record else {}
    sheet = _sheet(releases, asked) if asked.sheet else None
    files = put_down([release for _, release in releases], asked, beside)
    if sheet is not None:
        _put_sheet(Path(asked.sheet), sheet)
    return releases, files


def make_some(paths: list[str], asked: argparse.Namespace) -> Made:
    """Make the releases of some files, all or none; nothing is written.

    Raises:
        Failure: one cannot be released.
    """
    files = every_file(paths)
    made = []
    with told("release") as progress:
        for number, path in enumerate(files):
            progress(number / len(files), path)
            made.append(_make(path, asked))
    return made


def _make(path: str, asked: argparse.Namespace) -> tuple[LoadedFile, Release]:
    loaded = load(path, asked)
    open_ones = [source.name for source in loaded.job.sources if source.unit is None]
    if open_ones:
        raise CommandFailure(ExitCode.UNSETTLED, f"{path}: the unit is not settled; tell it with --unit")
    try:
        job = sized(loaded, asked)
    except Refused as error:
        raise CommandFailure(ExitCode.USAGE, f"{path}: {error.line()}") from None
    corrected = replace(loaded, job=job)
    now = datetime.now().astimezone()
    chosen = _chosen(path, job, asked.body)
    several = asked.bodies == "each" and len(chosen or job.bodies) > 1
    order = Order(
        format=asked.format,
        unit=asked.written,
        place=asked.place,
        shape=asked.bodies,
        bodies=chosen,
        alike="once" if asked.count_alike else "every",
        pattern=asked.name or ("{body}" if several else "{file}"),
        day=f"{now:%Y-%m-%d}",
        time=f"{now:%H%M}",
    )
    try:
        contents = make(job, corrected, order)
    except AimTrueError as error:
        code = ExitCode.USAGE if error.code.startswith(("pattern", "name")) else ExitCode.UNPROVEN
        raise CommandFailure(code, f"{path}: {error.line()}") from None
    return corrected, contents


def _sheet(releases: Made, asked: argparse.Namespace) -> bytes:
    """The proof sheets of all files' releases in one document, to be printed."""
    path = asked.sheet
    if Path(path).exists() and not asked.replace:
        raise CommandFailure(ExitCode.UNWRITABLE, f"{path} exists already; use --replace to replace it")
    from aimtrue.core.release.sheet.pages import all_as_pdf

    return all_as_pdf([_sheet_of(loaded, release, asked) for loaded, release in releases], "a4")


def _sheet_of(loaded: LoadedFile, release: Release, asked: argparse.Namespace) -> tuple[ProofSheet, Drawn]:
    files = [file.file for file in release.files]
    day = f"{datetime.now().astimezone():%Y-%m-%d}"
    sheet = sheet_of(loaded.job, 1, day, files, loaded, seated=asked.place == "seated")
    return sheet, lambda key: drawn_of(loaded.job, (loaded.job.body(key),), loaded)


def _put_sheet(path: Path, data: bytes) -> None:
    try:
        path.write_bytes(data)
    except OSError as error:
        raise CommandFailure(ExitCode.UNWRITABLE, f"{path}: cannot be written: {error.strerror}") from None


def recorded(releases: Made) -> Record:
    """Return the proof record of all that was made."""
    each = [
        record_of(loaded.job, [release], [file.file.name for file in release.files])
        for loaded, release in releases
    ]
    names = ", ".join(dict.fromkeys(record.job for record in each))
    return Record(job=names, files=tuple(file for record in each for file in record.files))


def put_down(
    releases: list[Release], asked: argparse.Namespace, beside: Mapping[str, bytes] = MappingProxyType({})
) -> list[dict[str, Any]]:
    """Write the files of releases, and others beside them, all or none, and return what is told of each.

    Raises:
        Failure: a name is taken, or the folder cannot be written.
    """
    names = _names(releases, asked, beside)
    data = [file.data for release in releases for file in release.files]
    _write({**dict(zip(names, data, strict=True)), **beside}, asked)
    files = [file.file for release in releases for file in release.files]
    return [
        {
            "path": str(Path(asked.out) / name),
            "format": file.format,
            "unit": file.unit,
            "bodies": list(file.bodies),
            "size_mm": list(file.size_mm),
            "factor": list(file.factor),
            "sha256": file.sha256,
        }
        for file, name in zip(files, names, strict=True)
    ]


def _names(releases: list[Release], asked: argparse.Namespace, beside: Mapping[str, bytes]) -> list[str]:
    names = [file.file.name for release in releases for file in release.files]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice:
        raise CommandFailure(
            ExitCode.USAGE, f"two files would both be called {twice}; use --name with {{file}} and {{body}}"
        )
    for name in (*names, *beside):
        if not asked.replace and (Path(asked.out) / name).exists():
            raise CommandFailure(
                ExitCode.UNWRITABLE, f"{Path(asked.out) / name} exists already; use --replace to replace it"
            )
    return names


def _write(files: Mapping[str, bytes], asked: argparse.Namespace) -> None:
    """Write all files aside first, then give them their names; a name that fails takes back the others."""
    out = Path(asked.out)
    done: list[Path] = []
    try:
        out.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(prefix=".aimtrue-", dir=out) as aside:
            for name, data in files.items():
                (Path(aside) / name).write_bytes(data)
            for name in files:
                _take_name(Path(aside) / name, out / name, replace=asked.replace)
                done.append(out / name)
    except OSError as error:
        for path in done if not asked.replace else ():
            path.unlink(missing_ok=True)
        raise CommandFailure(
            ExitCode.UNWRITABLE, f"{out}: cannot be written: {error.strerror or error}"
        ) from None


def _take_name(aside: Path, final: Path, *, replace: bool) -> None:
    if replace:
        aside.replace(final)
    else:
        os.link(aside, final)  # Unlike a rename, a link fails when the name was taken meanwhile.


def _say(releases: Made, files: list[dict[str, Any]], asked: argparse.Namespace) -> None:
    released = [file.file for _, release in releases for file in release.files]
    names = [Path(file["path"]).name for file in files]
    checks = [
        {"file": name, **check.model_dump(mode="json")}
        for file, name in zip(released, names, strict=True)
        for check in file.proof.checks
    ]
    accepted = [
        {"file": name, "says": says}
        for file, name in zip(released, names, strict=True)
        for says in file.proof.accepted
    ]
    worst = max((file.proof.worst_mm for file in released), default=0.0)
    findings = [
        finding_fields(finding)
        for loaded, _ in releases
        for finding in survey(loaded.job, loaded).findings
        if finding.sheet != "seating"
    ]
    if asked.json:
        proof = {"holds": True, "worst_mm": worst, "checks": checks, "accepted": accepted}
        print(json.dumps({"files": files, "proof": proof, "findings": findings}, indent=1))
        return
    for file in files:
        size = " x ".join(f"{size:.4f}" for size in file["size_mm"])
        print(f"{file['path']}: {size} mm, written in {file['unit']}, read back, proof holds")
    for acceptance in accepted:
        print(f"{acceptance['file']}: accepted on purpose: {acceptance['says']}")
