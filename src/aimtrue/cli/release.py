"""aimtrue release: files of a proven size, without a server."""

from __future__ import annotations

import argparse
import json
import os
import re
import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Any

from aimtrue.cli.files import Exit, Failure, Loaded, complain, every_file, load
from aimtrue.cli.inspect import finding_fields
from aimtrue.core.actions import Action, apply
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.gauges.make import Spot
from aimtrue.core.intake.actions import Accept
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import AXES, Job
from aimtrue.core.release.make import Order, Release
from aimtrue.core.release.make import release as make
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import AddReading, FreeAxis, SetFactor, SizeAxis
from aimtrue.core.truing.truth import truth_of

_NUMBER = r"\s*[-+]?[\d.]+(?:e[-+]?\d+)?\s*"
_READING = re.compile(
    rf"(?P<a>{_NUMBER},{_NUMBER},{_NUMBER}):(?P<b>{_NUMBER},{_NUMBER},{_NUMBER})="
    r"(?P<real>[^\[\]]+)(?:\[(?P<low>[^\[\]]+?)\.\.(?P<high>[^\[\]]+)\])?\s*",
    re.IGNORECASE,
)


def release(asked: argparse.Namespace) -> int:
    """Release every file; nothing appears in the folder unless all of them hold."""
    try:
        made = [_make(path, asked) for path in every_file(asked.files)]
        names = _names(made, asked)
        _put_down(made, names, asked)
    except Failure as failure:
        complain(failure.says)
        return failure.code
    _say(made, names, asked)
    return Exit.DONE


def _make(path: str, asked: argparse.Namespace) -> tuple[Loaded, Release]:
    loaded = load(path, asked)
    open_ones = [source.name for source in loaded.job.sources if source.unit is None]
    if open_ones:
        raise Failure(Exit.UNSETTLED, f"{path}: the unit is not settled; tell it with --unit")
    try:
        job = _sized(loaded, asked)
    except Refused as error:
        raise Failure(Exit.USAGE, f"{path}: {error.line()}") from None
    sized = replace(loaded, job=job)
    several = asked.bodies == "each" and len(job.bodies) > 1
    order = Order(
        format=asked.format,
        unit=asked.written,
        place="own",
        shape=asked.bodies,
        pattern=asked.name or ("{body}" if several else "{file}"),
    )
    try:
        made = make(job, sized, order)
    except AimTrueError as error:
        code = Exit.USAGE if error.code.startswith(("pattern", "name")) else Exit.UNPROVEN
        raise Failure(code, f"{path}: {error.line()}") from None
    return sized, made


def _sized(loaded: Loaded, asked: argparse.Namespace) -> Job:
    job = loaded.job
    for code in asked.accept:
        job = apply(job, Accept(body=None, code=code), loaded)
    # Bodies of one file keep their common origin, so what sizes one of them sizes all.
    for key in [group[0].kit or group[0].id for group in job.groups()]:
        for action in _sizing(key, asked):
            job = apply(job, action, loaded)
    return _read_true(job, loaded, asked.reading) if asked.reading else job


def _sizing(key: str, asked: argparse.Namespace) -> list[Action]:
    actions: list[Action] = []
    if asked.factor:
        actions.append(SetFactor(body=key, typed=asked.factor))
    if asked.extent:
        axis, typed = _axis_length(asked.extent)
        actions.append(SizeAxis(body=key, axis=axis, typed=typed))
    for stretch in asked.stretch or ():
        axis, typed = _axis_length(stretch)
        actions += [FreeAxis(body=key, axis=axis, free=True), SizeAxis(body=key, axis=axis, typed=typed)]
    return actions


def _axis_length(text: str) -> tuple[Any, str]:
    axis, equals, typed = text.partition("=")
    if axis.strip().lower() not in AXES or not equals:
        raise Refused("usage", f"“{text}” is not AXIS=LENGTH", remedy="write for example x=171.5")
    return axis.strip().lower(), typed


def _read_true(job: Job, loaded: Loaded, texts: list[str]) -> Job:
    """Meet readings given as two points of the file and a length, all together, as the sheet would."""
    for key in [group[0].kit or group[0].id for group in job.groups()]:
        body = job.corrected_with(key)[0]
        for text in texts:
            job = apply(job, _reading(body, text), loaded)
        bodies = job.corrected_with(key)
        truth = truth_of(job, key, bodies)
        if truth is not None and truth.conflict:
            told = {reading.id: reading.typed for reading in job.readings}
            names = " and ".join(f"“{_asked_as(texts, told[one])}”" for one in truth.conflict)
            raise Failure(
                Exit.UNPROVEN,
                f"{loaded.path}: the readings cannot all be met: {names} exclude each other; widen a band",
            )
    return job


def _asked_as(texts: list[str], typed: str) -> str:
    """The reading as it was given, by the length that was typed."""
    found = next((text for text in texts if " ".join(_length_of(_parts_of(text)).split()) == typed), typed)
    return " ".join(found.split())


def _parts_of(text: str) -> re.Match[str]:
    match = _READING.fullmatch(text.strip())
    if match is None:
        raise Refused(
            "usage", f"“{text}” is not a reading", remedy='write "x,y,z : x,y,z = LENGTH [LOW..HIGH]"'
        )
    return match


def _length_of(match: re.Match[str]) -> str:
    band = f" [{match['low']}..{match['high']}]" if match["low"] else ""
    return f"{match['real'].strip()}{band}"


def _reading(body: Body, text: str) -> AddReading:
    match = _parts_of(text)
    ends = [tuple(float(number) for number in match[end].split(",")) for end in "ab"]
    spots = tuple(Spot(point=(x, y, z)) for x, y, z in ends)
    return AddReading(body=body.id, kind="points", spots=spots, typed=_length_of(match), sure=True)


def _names(made: list[tuple[Loaded, Release]], asked: argparse.Namespace) -> list[str]:
    names = [file.file.name for _, release in made for file in release.files]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice:
        raise Failure(
            Exit.USAGE, f"two files would both be called {twice}; use --name with {{file}} and {{body}}"
        )
    for name in names:
        if not asked.replace and (Path(asked.out) / name).exists():
            raise Failure(
                Exit.UNWRITABLE, f"{Path(asked.out) / name} exists already; use --replace to replace it"
            )
    return names


def _put_down(made: list[tuple[Loaded, Release]], names: list[str], asked: argparse.Namespace) -> None:
    """Write all files aside first, then give them their names; a name that fails takes back the others."""
    out = Path(asked.out)
    done: list[Path] = []
    try:
        out.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(prefix=".aimtrue-", dir=out) as aside:
            files = [file for _, release in made for file in release.files]
            for file, name in zip(files, names, strict=True):
                (Path(aside) / name).write_bytes(file.data)
            for name in names:
                _take_name(Path(aside) / name, out / name, replace=asked.replace)
                done.append(out / name)
    except OSError as error:
        for path in done if not asked.replace else ():
            path.unlink(missing_ok=True)
        raise Failure(Exit.UNWRITABLE, f"{out}: cannot be written: {error.strerror or error}") from None


def _take_name(aside: Path, final: Path, *, replace: bool) -> None:
    if replace:
        aside.replace(final)
    else:
        os.link(aside, final)  # unlike a rename, fails when the name was taken meanwhile


def _say(made: list[tuple[Loaded, Release]], names: list[str], asked: argparse.Namespace) -> None:
    released = [file.file for _, release in made for file in release.files]
    files = [
        {
            "path": str(Path(asked.out) / name),
            "format": file.format,
            "unit": file.unit,
            "bodies": list(file.bodies),
            "size_mm": list(file.size_mm),
            "factor": list(file.factor),
            "sha256": file.sha256,
        }
        for file, name in zip(released, names, strict=True)
    ]
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
        for loaded, _ in made
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
    for one in accepted:
        print(f"{one['file']}: accepted on purpose: {one['says']}")
