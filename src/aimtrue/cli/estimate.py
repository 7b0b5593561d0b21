"""aimtrue estimate: what it takes to print files, in full and quickly, with budgets and tool paths."""

from __future__ import annotations

import argparse
import csv
import io
import json
import time
from pathlib import Path
from typing import Any

from aimtrue.cli.failures import complain
from aimtrue.cli.files import (
    CommandFailure,
    ExitCode,
    LoadedFile,
    complaining,
    every_file,
    load_together,
    write_new,
)
from aimtrue.cli.inspect import finding_fields
from aimtrue.cli.seat import seat_bodies
from aimtrue.core.cost.budgets import amount_words, budget_of, over, time_words
from aimtrue.core.cost.estimate import estimate_plate
from aimtrue.core.cost.quick import quick_estimate
from aimtrue.core.cost.settings import set_named, settings_from_json
from aimtrue.core.cost.ways import least_words, ways_under
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.model.budget import Budget
from aimtrue.core.model.estimate import Estimate
from aimtrue.core.model.ids import PlateId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length
from aimtrue.core.model.materials import MATERIALS, Material
from aimtrue.core.model.numbers import parse_number
from aimtrue.core.model.printing import PrintSettings, Rates
from aimtrue.core.model.seats import Plate
from aimtrue.core.release.tool_paths import write_tool_paths
from aimtrue.core.survey.survey import survey


@complaining
def estimate(asked: argparse.Namespace) -> int:
    """Estimate files together as they are seated; of a folder, each file by itself."""
    if len(asked.files) == 1 and Path(asked.files[0]).is_dir():
        return _of_folder(asked)
    answer, code = _answer(every_file(asked.files), asked)
    print(json.dumps(answer, indent=1) if asked.json else _as_text(answer))
    return code


def _of_folder(asked: argparse.Namespace) -> int:
    rows, worst = [], ExitCode.DONE
    for path in every_file(asked.files):
        try:
            answer, code = _answer([path], asked)
            rows.append({"path": path, **answer})
        except CommandFailure as failure:
            complain(failure.says)
            rows.append({"path": path, "says": failure.says})
            code = failure.code
        except AimTrueError as error:
            complain(f"{path}: {error.line()}")
            rows.append({"path": path, "says": error.line()})
            code = ExitCode.USAGE
        worst = max(worst, code)
    text = _table(rows)
    if asked.csv:
        write_new(asked.csv, _csv(rows).encode(), replace=asked.replace)
    print(json.dumps({"files": rows}, indent=1) if asked.json else text)
    return worst


def _answer(paths: list[str], asked: argparse.Namespace) -> tuple[dict[str, Any], ExitCode]:
    started = time.perf_counter()
    settings, material = _settings(asked), _material(asked)
    budgets = [budget_of(typed) for typed in asked.budget]
    loaded, unplaced = seat_bodies(load_together(paths, asked), asked)
    job = loaded.job.model_copy(update={"material": material, "printing": settings, "rates": _rates(asked)})
    job = _with_unplaced(job)
    for row in unplaced:
        complain(f"{loaded.path}: {row['says']}; it is estimated on a plate of its own")
    used = {seat.plate for seat in job.seats if seat.plate} or {job.plates[0].id}
    plates = [plate.id for plate in job.plates if plate.id in used]
    full, written = [], []
    for number, plate in enumerate(plates, start=1):
        name = _numbered(asked.paths, number, len(plates)) if asked.paths else ""
        one, paths_written = _of_plate(job, plate, loaded, name, asked)
        full.append(one)
        written += [paths_written] if paths_written else []
    quick = [quick_estimate(job, plate, loaded) for plate in plates]
    answer = _fields(full, quick)
    answer["over"] = [row for budget in budgets for row in _over(job, plates, loaded, budget, full)]
    answer["paths"] = written[0] if len(written) == 1 else written or None
    answer["unplaced"] = unplaced
    answer["findings"] = [
        finding_fields(finding) for finding in survey(job, loaded).findings if finding.sheet != "seating"
    ]
    answer["findings"] += _findings(full)
    answer["worked_seconds"] = round(time.perf_counter() - started, 3)
    return answer, ExitCode.UNPROVEN if answer["over"] or unplaced else ExitCode.DONE


def _with_unplaced(job: Job) -> Job:
    """Return the job with what fits on no plate on plates of its own: what it would take can be told all
    the same.
    """
    seats, plates = [], list(job.plates)
    for seat in job.seats:
        if not seat.plate:
            plates.append(Plate(id=PlateId(f"over-{len(plates)}"), machine=job.machine))
            seat = seat.model_copy(update={"plate": plates[-1].id, "x": None, "y": None})
        seats.append(seat)
    return job.model_copy(update={"seats": tuple(seats), "plates": tuple(plates)})


def _settings(asked: argparse.Namespace) -> PrintSettings:
    named = asked.settings or ""
    if named.endswith(".json"):
        try:
            settings = settings_from_json(Path(named).read_text(encoding="utf-8"))
        except (OSError, UnicodeDecodeError) as error:
            raise CommandFailure(ExitCode.UNREADABLE, f"{named}: cannot be read: {error}") from None
        except Refused as error:
            raise CommandFailure(ExitCode.UNREADABLE, f"{named}: {error.line()}") from None
    else:
        settings = set_named(named) if named else PrintSettings()
        settings = settings.model_copy(update={"supports": False})
    change: dict[str, Any] = {}
    for name in ("layer", "bead"):
        if getattr(asked, name) is not None:
            change[name] = parse_length(getattr(asked, name))
    if asked.shells is not None:
        change["shells"] = asked.shells
    if asked.infill is not None:
        change["infill"] = parse_number(asked.infill.strip().removesuffix("%"))
    if asked.supports:
        change["supports"] = True
    return settings.model_copy(update=change)


def _material(asked: argparse.Namespace) -> Material:
    named = asked.material
    material = next((m for m in MATERIALS if named and m.name.lower() == named.lower()), None)
    if named and material is None:
        names = ", ".join(m.name for m in MATERIALS)
        raise Refused("material", f"there is no material “{named}”", remedy=f"use {names}")
    price = parse_number(asked.price) if asked.price else None
    if price is not None and price < 0:
        raise Refused("price", f"a price of {asked.price} is none", remedy="type 0 or more for a kg")
    return (material or Material()).model_copy(update={"price": price})


def _rates(asked: argparse.Namespace) -> Rates:
    amounts = {
        name: parse_number(getattr(asked, name))
        for name in ("hour", "kwh")
        if getattr(asked, name) is not None
    }
    for name, much in amounts.items():
        if not 0 <= much <= 1e6:
            raise Refused("price", f"--{name} {much:g} is no price", remedy="type 0 or more")
    return Rates(**amounts)


def _numbered(name: str, number: int, count: int) -> str:
    path = Path(name)
    return name if count == 1 else str(path.with_name(f"{path.stem}-{number}{path.suffix}"))


def _of_plate(
    job: Job, plate: PlateId, loaded: LoadedFile, name: str, asked: argparse.Namespace
) -> tuple[Estimate, dict[str, Any] | None]:
    if not name:
        return estimate_plate(job, plate, loaded), None
    path = Path(name)
    if path.exists() and not asked.replace:
        raise CommandFailure(ExitCode.UNWRITABLE, f"{path} exists already; use --replace to replace it")
    try:
        written = write_tool_paths(job, plate, loaded, path)
    except OSError as error:
        says = f"{path}: cannot be written: {error.strerror or error}"
        raise CommandFailure(ExitCode.UNWRITABLE, says) from None
    return written.estimate, {
        "path": name,
        "strand_mm3": written.laid_mm3,
        "travel_mm": written.estimate.travel_mm,
        "proof": {"holds": True, "checks": [check.model_dump() for check in written.checks]},
    }


def _fields(full: list[Estimate], quick: list[Estimate]) -> dict[str, Any]:
    def total(name: str, plates: list[Estimate]) -> float:
        return float(sum(getattr(plate, name) for plate in plates))

    by_body: dict[str, dict[str, Any]] = {}
    for plate in full:
        for row in plate.by_body:
            sums = by_body.setdefault(
                str(row.id), {"body": row.body, "seconds": 0.0, "grams": 0.0, "support_g": 0.0}
            )
            for name in ("seconds", "grams", "support_g"):
                sums[name] += getattr(row, name)
    return {
        "seconds": total("seconds", full),
        "grams": total("grams", full),
        "strand_m": total("strand_m", full),
        "cost": total("cost", full),
        "layers": int(total("layers", full)),
        "support_g": total("support_g", full),
        "by_body": list(by_body.values()),
        "by_kind": [row.model_dump() for plate in full for row in plate.by_kind],
        "plates": [
            {
                "number": number,
                "seconds": plate.seconds,
                "grams": plate.grams,
                "cost": plate.cost,
                "layers": plate.layers,
                "height_mm": plate.height_mm,
            }
            for number, plate in enumerate(full, start=1)
        ],
        "quick": {name: total(name, quick) for name in ("seconds", "grams", "cost", "strand_m")},
        "assumed": full[0].assumed,
    }


def _over(
    job: Job, plates: list[PlateId], loaded: LoadedFile, budget: Budget, full: list[Estimate]
) -> list[dict[str, Any]]:
    """What a budget is exceeded by on a plate, with ways under it."""
    rows = []
    for plate, now in zip(plates, full, strict=True):
        by = over(now, budget)
        if by <= 0:
            continue
        ways = ways_under(job, plate, loaded, budget, now)
        rows.append(
            {
                "budget": budget.typed,
                "by": amount_words(budget.kind, by),
                "over": by,
                "kind": budget.kind,
                "ways": [{"says": way.says, "saves": way.saves, "meets": way.meets} for way in ways],
                "least": least_words(ways, budget, now),
            }
        )
    return rows


def _findings(full: list[Estimate]) -> list[dict[str, Any]]:
    rows = [
        {
            "code": "no-bead",
            "severity": "look",
            "count": wall.layers,
            "body": wall.body,
            "says": f"walls of {wall.body} hold no whole bead in {wall.layers} layers, the largest in layer "
            f"{wall.layer} at {wall.at[0]:.1f}, {wall.at[1]:.1f}: they are not laid",
            "remedy": "a narrower bead, or a thicker wall",
        }
        for plate in full
        for wall in plate.thin
    ]
    rows += [
        {
            "code": "not-laid",
            "severity": "look",
            "count": gaping.layers,
            "body": gaping.body,
            "says": f"in {gaping.layers} layers outlines of {gaping.body} do not close: these are not laid",
            "remedy": "mend it first",
        }
        for plate in full
        for gaping in plate.gaping
    ]
    if full[0].assumed:
        rows.append(
            {
                "code": "speeds-assumed",
                "severity": "note",
                "count": 1,
                "body": None,
                "says": "the machine has no speeds of its own: the estimate takes those to start with",
                "remedy": "use a machine that has them",
            }
        )
    return rows


def _as_text(answer: dict[str, Any]) -> str:
    lines = [
        f"{time_words(answer['seconds'])}, {answer['grams']:.1f} g, {answer['strand_m']:.2f} m of strand, "
        f"{answer['layers']} layers, cost {answer['cost']:.2f}; of it {answer['support_g']:.1f} g support",
        f"quick: ≈ {time_words(answer['quick']['seconds'])}, ≈ {answer['quick']['grams']:.1f} g",
    ]
    lines += [
        f"  {row['body']}: {time_words(row['seconds'])}, {row['grams']:.1f} g" for row in answer["by_body"]
    ]
    for row in answer["over"]:
        lines.append(f"over {row['budget']} by {row['by']}")
        lines += [
            f"  {way['says']}: {way['saves']}{'' if way['meets'] else ' (not enough)'}" for way in row["ways"]
        ]
        lines += [f"  {row['least']}"] if row["least"] else []
    lines += [f"  {row['severity']:<5} {row['says']}" for row in answer["findings"]]
    written = answer["paths"] or []
    for paths in written if isinstance(written, list) else [written]:
        lines.append(
            f"wrote {paths['path']}, a stand-in: not for a real machine until its owner has looked it over"
        )
    return "\n".join(lines)


_COLUMNS = ("path", "seconds", "grams", "strand_m", "cost", "layers", "support_g", "says")


def _csv(rows: list[dict[str, Any]]) -> str:
    out = io.StringIO()
    table = csv.DictWriter(out, _COLUMNS, extrasaction="ignore", restval="", lineterminator="\n")
    table.writeheader()
    table.writerows(rows)
    return out.getvalue()


def _table(rows: list[dict[str, Any]]) -> str:
    lines = [f"{'time':>14}{'grams':>9}{'strand, m':>11}{'cost':>8}  file"]
    good = [row for row in rows if "seconds" in row]
    lines += [
        f"{time_words(row['seconds']):>14}{row['grams']:>9.1f}{row['strand_m']:>11.2f}{row['cost']:>8.2f}"
        f"  {row['path']}"
        for row in good
    ]
    lines += [f"{'':>42}  {row['path']}: {row['says']}" for row in rows if "seconds" not in row]
    sums = [sum(row[name] for row in good) for name in ("seconds", "grams", "strand_m", "cost")]
    lines.append(f"{time_words(sums[0]):>14}{sums[1]:>9.1f}{sums[2]:>11.2f}{sums[3]:>8.2f}  all of them")
    return "\n".join(lines)
