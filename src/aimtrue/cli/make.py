"""aimtrue make: bolts, nuts, tubes, boxes, gears and more by their standards, as proven files."""

from __future__ import annotations

import argparse
import json
import time
from typing import Any

from aimtrue.cli.files import CommandFailure, ExitCode, LoadedFile, complaining
from aimtrue.cli.inspect import finding_fields
from aimtrue.cli.release import put_down
from aimtrue.core.chain.sizes import true_sizes, true_volume
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.mesh.serialization import from_bytes
from aimtrue.core.model.facets import CHORD_MM
from aimtrue.core.model.job import Job
from aimtrue.core.progress import Progress
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.room import TaskResult
from aimtrue.core.stock.actions import AddStock
from aimtrue.core.stock.handlers import add_stock
from aimtrue.core.stock.parts.catalogue import search
from aimtrue.core.stock.tasks import MakeStockTask, made_stock, part_asked
from aimtrue.settings import settings

_SHOWN_ROWS = 60


@complaining
def make(asked: argparse.Namespace) -> int:
    """Make a part and write it, or list what can be made."""
    asked.files = ["make"]  # What is said of a file is said of the command here.
    text = " ".join(asked.part)
    if asked.list:
        return _list(text, asked)
    if not asked.out:
        raise CommandFailure(ExitCode.USAGE, "no folder was told; write --out DIR")
    started = time.perf_counter()
    task = MakeStockTask(
        text=text, threaded=asked.thread, clearance=asked.clearance or "", for_checking=False,
        chord_mm=_chord(asked),
    )  # fmt: skip
    part = part_asked(_for_machine(asked), task)
    if asked.clearance and not (part.thread and asked.thread):
        raise CommandFailure(ExitCode.USAGE, "--clearance is of a thread that is cut; add --thread")
    loaded = _made(task)
    files = _written(loaded, asked)
    answer = {
        "name": part.name,
        "table": part.table,
        "dimensions": [{"letter": row.letter, "says": row.says, "mm": row.mm} for row in part.dimensions],
        "bodies": [
            {
                "name": body.name,
                "path": file["path"],
                "volume_mm3": true_volume(loaded.job, body),
                "size_mm": list(true_sizes(loaded.job, body)),
                "closed": body.health.closed,
            }
            for body, file in zip(loaded.job.bodies, files, strict=True)
        ],
        "notes": list(part.notes),
        "findings": _findings(loaded),
        "seconds": round(time.perf_counter() - started, 3),
    }
    print(json.dumps(answer, indent=1) if asked.json else _as_text(answer))
    return ExitCode.DONE


def _chord(asked: argparse.Namespace) -> float | None:
    if asked.deflection is not None and not CHORD_MM[0] <= asked.deflection <= CHORD_MM[1]:
        says = f"--deflection {asked.deflection:g} is not between {CHORD_MM[0]:g} and {CHORD_MM[1]:g} mm"
        raise CommandFailure(ExitCode.USAGE, says)
    chord: float | None = asked.deflection
    return chord


def _for_machine(asked: argparse.Namespace) -> Job | None:
    """A job on the machine that a thread is to be made by; none where no machine is told."""
    if not asked.machine:
        return None
    from aimtrue.cli.seat import machine_named

    job = Job(name="make")
    plate = job.plates[0].model_copy(update={"machine": machine_named(asked.machine, None)})
    return job.model_copy(update={"plates": (plate,)})


def _made(task: MakeStockTask) -> LoadedFile:
    """Make a part in the sandbox: the CAD kernel is native code, and may not end this process."""
    from aimtrue.work import sandbox

    bounds = sandbox.TaskLimits(seconds=settings().task_seconds, memory_bytes=settings().task_memory_bytes)
    result: TaskResult = sandbox.run(_isolated, task, limits=bounds)
    action = result.action
    assert isinstance(action, AddStock)
    meshes = {body.geometry: from_bytes(result.blobs[body.geometry]) for body in action.bodies}
    originals = {action.source.sha256: result.blobs[action.source.sha256]}
    loaded = LoadedFile(action.source.name, Job(name=task.text), meshes, originals)
    return LoadedFile(action.source.name, add_stock(loaded.job, action, loaded), meshes, originals)


def _isolated(task: MakeStockTask, progress: Progress) -> TaskResult:
    return made_stock("s1", None, task, progress)


def _written(loaded: LoadedFile, asked: argparse.Namespace) -> list[dict[str, Any]]:
    order = Order(
        format=asked.format,
        place="own",
        shape="each",
        bodies=tuple(body.id for body in loaded.job.bodies),
        pattern="{body}",
    )
    try:
        made = release(loaded.job, loaded, order)
    except Refused:
        raise
    except AimTrueError as error:
        raise CommandFailure(ExitCode.UNPROVEN, error.line()) from None
    return put_down([made], asked)


def _findings(loaded: LoadedFile) -> list[dict[str, Any]]:
    from aimtrue.core.survey.survey import survey

    findings = survey(loaded.job, loaded).findings
    return [finding_fields(finding) for finding in findings if finding.sheet != "seating"]


def _list(text: str, asked: argparse.Namespace) -> int:
    rows = search(text)
    if not rows:
        raise CommandFailure(ExitCode.USAGE, f"nothing is listed for “{text}”; --list alone lists all")
    if asked.json:
        print(json.dumps([row.model_dump() for row in rows], indent=1))
        return ExitCode.DONE
    wide = max(len(row.text) for row in rows)
    for row in rows if text else rows[:_SHOWN_ROWS]:
        print(f"{row.text:<{wide}}  {row.says}{f'; {row.table}' if row.table else ''}")
    if not text and len(rows) > _SHOWN_ROWS:
        print(f"and {len(rows) - _SHOWN_ROWS} more: narrow the list with words, as in make --list socket M5")
    return ExitCode.DONE


def _as_text(answer: dict[str, Any]) -> str:
    lines = [f"{answer['name']}, by {answer['table']}"]
    dimensions = (f"{row['letter'] or row['says']} {row['mm']:.4g}" for row in answer["dimensions"])
    lines.append("  " + ", ".join(dimensions) + " mm")
    for body in answer["bodies"]:
        size = " x ".join(f"{size:.3f}" for size in body["size_mm"])
        state = "closed" if body["closed"] else "open"
        lines.append(f"{body['path']}: {body['name']}, {size} mm, {body['volume_mm3']:.1f} mm³, {state}")
    lines += [f"  {note}" for note in answer["notes"]]
    lines += [f"  {finding['severity']:<5} {finding['says']}" for finding in answer["findings"]]
    return "\n".join(lines)
