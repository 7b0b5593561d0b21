"""aimtrue release: files of a proven size, without a server."""

from __future__ import annotations

import argparse
import json
import os
import re
import tempfile
from pathlib import Path
from typing import Any

import numpy as np

from aimtrue.cli.files import Exit, Failure, Loaded, complain, load
from aimtrue.cli.inspect import finding_fields
from aimtrue.core.actions import Accept, Action, FreeAxis, SetFactor, SizeAxis, apply
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.frames import as_vec3, true_points
from aimtrue.core.job import AXES, Job
from aimtrue.core.lengths import parse_length
from aimtrue.core.release.make import Order, Release
from aimtrue.core.release.make import release as make
from aimtrue.core.survey import survey
from aimtrue.core.truing.correction import scaled_to_reading

_BODY = "s1-1"
_NUMBER = r"\s*[-+]?[\d.]+(?:e[-+]?\d+)?\s*"
_READING = re.compile(
    rf"(?P<a>{_NUMBER},{_NUMBER},{_NUMBER}):(?P<b>{_NUMBER},{_NUMBER},{_NUMBER})="
    r"(?P<real>[^\[\]]+)(?:\[(?P<low>[^\[\]]+?)\.\.(?P<high>[^\[\]]+)\])?\s*",
    re.IGNORECASE,
)


def release(asked: argparse.Namespace) -> int:
    """Release every file; nothing appears in the folder unless all of them hold."""
    try:
        _refuse_later(asked)
        made = [_make(path, asked) for path in asked.files]
        names = _names(made, asked)
        _put_down(made, names, asked)
    except Failure as failure:
        complain(failure.says)
        return failure.code
    _say(made, names, asked)
    return Exit.DONE


def _refuse_later(asked: argparse.Namespace) -> None:
    if asked.format == "obj":
        raise Failure(Exit.UNREADABLE, "OBJ files cannot be written yet; use 3mf, stl or stl-ascii")
    if asked.reading and len(asked.reading) > 1:
        raise Failure(Exit.USAGE, "several readings cannot be solved together yet; give one --reading")


def _make(path: str, asked: argparse.Namespace) -> tuple[Loaded, Release]:
    loaded = load(path, asked)
    _refuse_several(loaded, asked)
    if loaded.job.sources[0].unit is None:
        raise Failure(Exit.UNSETTLED, f"{path}: the unit is not settled; tell it with --unit")
    try:
        job = _sized(loaded, asked)
    except Refused as error:
        raise Failure(Exit.USAGE, f"{path}: {error.line()}") from None
    sized = Loaded(path, job, loaded.whole)
    order = Order(format=asked.format, unit=asked.written, place="own", pattern=asked.name)
    try:
        made = make(job, sized, order)
    except AimTrueError as error:
        code = Exit.USAGE if error.code.startswith(("pattern", "name")) else Exit.UNPROVEN
        raise Failure(code, f"{path}: {error.line()}") from None
    if not made.proof.holds:
        broken = "; ".join(
            f"{check.says} {check.found}, asked {check.asked}"
            for check in made.proof.checks
            if not check.holds
        )
        raise Failure(Exit.UNPROVEN, f"{path}: the proof does not hold: {broken}")
    return sized, made


def _refuse_several(loaded: Loaded, asked: argparse.Namespace) -> None:
    body = loaded.job.bodies[0]
    pieces = max(len(body.parts), body.health.shells)
    if asked.bodies == "each" and pieces > 1:
        raise Failure(
            Exit.UNREADABLE,
            f"{loaded.path}: the file holds {pieces} bodies, which cannot be "
            "separated yet; use --bodies together to release them as one",
        )


def _sized(loaded: Loaded, asked: argparse.Namespace) -> Job:
    actions: list[Action] = [Accept(body=_BODY, code=code) for code in asked.accept]
    if asked.factor:
        actions.append(SetFactor(body=_BODY, typed=asked.factor))
    if asked.extent:
        axis, typed = _axis_length(asked.extent)
        actions.append(SizeAxis(body=_BODY, axis=axis, typed=typed))
    for stretch in asked.stretch or ():
        axis, typed = _axis_length(stretch)
        actions += [FreeAxis(body=_BODY, axis=axis, free=True), SizeAxis(body=_BODY, axis=axis, typed=typed)]
    job = loaded.job
    for action in actions:
        job = apply(job, action, loaded)
    return _read_true(job, asked.reading[0]) if asked.reading else job


def _axis_length(text: str) -> tuple[Any, str]:
    axis, equals, typed = text.partition("=")
    if axis.strip().lower() not in AXES or not equals:
        raise Refused("usage", f"“{text}” is not AXIS=LENGTH", remedy="write for example x=171.5")
    return axis.strip().lower(), typed


def _read_true(job: Job, text: str) -> Job:
    """Meet one reading given as two points of the file and a length."""
    match = _READING.fullmatch(text.strip())
    if match is None:
        raise Refused(
            "usage", f"“{text}” is not a reading", remedy='write "x,y,z : x,y,z = LENGTH [LOW..HIGH]"'
        )
    body = job.bodies[0]
    ends = np.array([[float(number) for number in match[end].split(",")] for end in "ab"])
    a, b = true_points(job, body, ends)
    real = parse_length(match["real"])
    if match["low"] and not parse_length(match["low"]) <= real <= parse_length(match["high"]):
        raise Refused("band", f"{match['real'].strip()} is outside its own band", remedy="mend the reading")
    said = f"reading = {' '.join(match['real'].split())}"
    correction = scaled_to_reading(body.correction, as_vec3(b - a), real, said, "told")
    return job.with_body(
        body.model_copy(update={"correction": correction.model_copy(update={"reading": None})})
    )


def _names(made: list[tuple[Loaded, Release]], asked: argparse.Namespace) -> list[str]:
    names = [release.file.name for _, release in made]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice:
        raise Failure(Exit.USAGE, f"two files would both be called {twice}; use --name with {{file}}")
    for name in names:
        if not asked.replace and (Path(asked.out) / name).exists():
            raise Failure(
                Exit.UNWRITABLE, f"{Path(asked.out) / name} exists already; use --replace to replace it"
            )
    return names


def _put_down(made: list[tuple[Loaded, Release]], names: list[str], asked: argparse.Namespace) -> None:
    """Write all files aside first, then give them their names."""
    out = Path(asked.out)
    try:
        out.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(prefix=".aimtrue-", dir=out) as aside:
            for (_, release), name in zip(made, names, strict=True):
                (Path(aside) / name).write_bytes(release.data)
            for name in names:
                _take_name(Path(aside) / name, out / name, replace=asked.replace)
    except OSError as error:
        raise Failure(Exit.UNWRITABLE, f"{out}: cannot be written: {error.strerror or error}") from None


def _take_name(aside: Path, final: Path, *, replace: bool) -> None:
    if replace:
        aside.replace(final)
    else:
        os.link(aside, final)  # unlike a rename, fails when the name was taken meanwhile


def _say(made: list[tuple[Loaded, Release]], names: list[str], asked: argparse.Namespace) -> None:
    files = [
        {
            "path": str(Path(asked.out) / name),
            "format": release.file.format,
            "unit": release.file.unit,
            "bodies": list(release.file.bodies),
            "size_mm": list(release.file.size_mm),
            "factor": list(release.file.factor),
            "sha256": release.file.sha256,
        }
        for (_, release), name in zip(made, names, strict=True)
    ]
    checks = [
        {"file": name, **check.model_dump(mode="json")}
        for (_, release), name in zip(made, names, strict=True)
        for check in release.proof.checks
    ]
    worst = max((release.proof.worst_mm for _, release in made), default=0.0)
    findings = [
        finding_fields(finding)
        for loaded, _ in made
        for finding in survey(loaded.job, loaded).findings
        if finding.sheet != "seating"
    ]
    if asked.json:
        print(
            json.dumps(
                {
                    "files": files,
                    "proof": {"holds": True, "worst_mm": worst, "checks": checks},
                    "findings": findings,
                },
                indent=1,
            )
        )
        return
    for file in files:
        size = " x ".join(f"{size:.4f}" for size in file["size_mm"])
        print(f"{file['path']}: {size} mm, written in {file['unit']}, read back, proof holds")
