"""aimtrue mend, sew, face-outward: bodies made sound, as proven files."""

from __future__ import annotations

import argparse
import json
import time
from dataclasses import replace
from typing import Any

from aimtrue.cli.files import CommandFailure, ExitCode, LoadedFile, complaining, every_file, load_together
from aimtrue.cli.inspect import finding_fields
from aimtrue.cli.progress import told
from aimtrue.cli.release import put_down, recorded
from aimtrue.cli.seat import only
from aimtrue.cli.sizing import sized
from aimtrue.core.actions import apply
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.formats import CAD_ENDINGS, ending_of
from aimtrue.core.intake.mending.remedies import REMEDY_NAMES, MendingRemedy
from aimtrue.core.intake.remedies import ways_of
from aimtrue.core.intake.tasks import MendTask, RefineTask
from aimtrue.core.mesh.serialization import from_bytes
from aimtrue.core.model.job import Job
from aimtrue.core.model.source import Source
from aimtrue.core.progress import Progress
from aimtrue.core.proof.record import as_json
from aimtrue.core.release.making import release as make
from aimtrue.core.release.manifest import RECORD
from aimtrue.core.release.order import Order
from aimtrue.core.room import TaskInputs, TaskResult
from aimtrue.core.survey.survey import survey
from aimtrue.core.tasks import do
from aimtrue.settings import settings

_MOST_ROUNDS = 12
"""So many remedies are done one after another where findings choose them."""


@complaining
def mend(asked: argparse.Namespace) -> int:
    """Mend bodies by the remedies that were told, or by those that their findings name."""
    return _mended(asked, tuple(asked.remedy))


@complaining
def face_outward(asked: argparse.Namespace) -> int:
    """Turn the faces of bodies outward."""
    return _mended(asked, ("face-outward",))


@complaining
def sew(asked: argparse.Namespace) -> int:
    """Sew the loose surfaces of CAD files, and join the open edges of meshes where they meet."""
    return _mended(asked, ("weld",), sewn=True)


def _mended(asked: argparse.Namespace, remedies: tuple[MendingRemedy, ...], *, sewn: bool = False) -> int:
    started = time.perf_counter()
    loaded = load_together(every_file(asked.files), asked)
    steps: list[dict[str, str]] = []
    with told(loaded.path) as progress:
        for source in loaded.job.sources:
            if sewn and ending_of(source.name) in CAD_ENDINGS:
                loaded = _sewn(loaded, source, steps, progress)
        loaded = replace(loaded, job=only(sized(loaded, asked), asked))
        loaded = (_by_told if remedies else _by_findings)(loaded, remedies, steps, progress)
    if not steps:
        what = " or ".join(REMEDY_NAMES[remedy] for remedy in remedies) or "mend"
        raise CommandFailure(
            ExitCode.USAGE, f"{loaded.path}: there is nothing to {what}; nothing was written"
        )
    files = _written(loaded, asked)
    shown_findings = [row for row in survey(loaded.job, loaded).findings if row.sheet != "seating"]
    answer = {
        "bodies": _rows(loaded, files),
        "mended": steps,
        "findings": [finding_fields(finding) for finding in shown_findings],
        "seconds": round(time.perf_counter() - started, 3),
    }
    print(json.dumps(answer, indent=1) if asked.json else _as_text(answer))
    return ExitCode.DONE


def _by_told(
    loaded: LoadedFile, remedies: tuple[MendingRemedy, ...], steps: list[dict[str, str]], progress: Progress
) -> LoadedFile:
    """Do each remedy on all bodies; one that finds nothing to do on any is left out."""
    for remedy in remedies:
        task = MendTask(bodies=tuple(body.id for body in loaded.job.bodies), remedy=remedy)
        try:
            loaded = _done(loaded, task, steps, progress)
        except Refused as error:
            if len(remedies) == 1 and not steps:
                raise CommandFailure(ExitCode.UNPROVEN, f"{loaded.path}: {error.line()}") from None
    return loaded


def _by_findings(
    loaded: LoadedFile, remedies: tuple[MendingRemedy, ...], steps: list[dict[str, str]], progress: Progress
) -> LoadedFile:
    """Do what the findings name, the first remedy of each that helps, until none of them names one."""
    tried: set[str] = set()
    for _ in range(_MOST_ROUNDS):
        tasks = [
            way.does
            for finding in survey(loaded.job, loaded).findings
            for way in ways_of(finding)
            if isinstance(way.does, MendTask) and way.does.model_dump_json() not in tried
        ]
        if not tasks:
            break
        tried.add(tasks[0].model_dump_json())
        try:
            loaded = _done(loaded, tasks[0], steps, progress)
        except Refused:
            continue  # The next way, if there is one.
    return loaded


def _done(loaded: LoadedFile, task: MendTask, steps: list[dict[str, str]], progress: Progress) -> LoadedFile:
    names = {body.id: body.name for body in loaded.job.bodies}
    result = do(TaskInputs(f"m{len(steps) + 1}", loaded.job, loaded, b"", progress), task)
    after = _put(loaded, result)
    gone = set(names) - {body.id for body in after.job.bodies}
    steps += [{"body": names[key], "remedy": task.remedy, "says": REMEDY_NAMES[task.remedy]} for key in gone]
    return after


def _sewn(loaded: LoadedFile, source: Source, steps: list[dict[str, str]], progress: Progress) -> LoadedFile:
    from aimtrue.work import sandbox

    # The CAD kernel is native code: what a bad file does to it must not end this process.
    bounds = sandbox.TaskLimits(seconds=settings().task_seconds, memory_bytes=settings().task_memory_bytes)
    data = loaded.original(source.sha256)
    result = sandbox.run(_isolated, loaded.job, dict(loaded.meshes), source, data, limits=bounds)
    steps.append({"body": source.name, "remedy": "sew", "says": "sew loose surfaces"})
    return _put(loaded, result)


def _isolated(
    job: Job, meshes: dict[str, Any], source: Source, data: bytes, progress: Progress
) -> TaskResult:
    loaded = LoadedFile(source.name, job, meshes, {source.sha256: data})
    return do(TaskInputs("m0", job, loaded, data, progress), RefineTask(source=source.id, sew=True))


def _put(loaded: LoadedFile, result: TaskResult) -> LoadedFile:
    """Put what was made into the job, and its geometry beside the other."""
    made = getattr(result.action, "come", ())
    meshes = {
        body.geometry: from_bytes(result.blobs[body.geometry])
        for body in made
        if body.geometry in result.blobs
    }
    loaded = replace(loaded, meshes={**loaded.meshes, **meshes})
    return replace(loaded, job=apply(loaded.job, result.action, loaded))


def _written(loaded: LoadedFile, asked: argparse.Namespace) -> list[dict[str, Any]]:
    order = Order(format=asked.format, place=asked.place, shape="each", pattern="{body}")
    try:
        release = make(loaded.job, loaded, order)
    except AimTrueError as error:
        raise CommandFailure(ExitCode.UNPROVEN, f"{loaded.path}: {error.line()}") from None
    beside = {RECORD: as_json(recorded([(loaded, release)]))} if asked.proof_record else {}
    return put_down([release], asked, beside)


def _rows(loaded: LoadedFile, files: list[dict[str, Any]]) -> list[dict[str, Any]]:
    facts = {body.id: body for body in survey(loaded.job, loaded).bodies}
    return [
        {
            "name": body.name,
            "path": file["path"],
            "volume_mm3": facts[body.id].volume_mm3,
            "size_mm": file["size_mm"],
            "closed": body.health.closed,
        }
        for body, file in zip(loaded.job.bodies, files, strict=True)
    ]


def _as_text(answer: dict[str, Any]) -> str:
    lines = [f"{step['body']}: {step['says']}" for step in answer["mended"]]
    for body in answer["bodies"]:
        size = " x ".join(f"{size:.3f}" for size in body["size_mm"])
        state = "closed" if body["closed"] else "open"
        lines.append(f"{body['path']}: {body['name']}, {size} mm, {state}, read back, proof holds")
    lines += [f"  {finding['severity']:<5} {finding['says']}" for finding in answer["findings"]]
    return "\n".join(lines)
