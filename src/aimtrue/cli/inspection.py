"""aimtrue must-hold, aimtrue inspection: what has to hold of bodies, and printed parts held against them."""

from __future__ import annotations

import argparse
import json
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from aimtrue.cli.files import CommandFailure, ExitCode, LoadedFile, complaining, write_new
from aimtrue.cli.inspect import finding_fields
from aimtrue.cli.seat import machine_named
from aimtrue.cli.section import corrected_bodies
from aimtrue.core.actions import apply
from aimtrue.core.fit.handlers import paired_as_offered
from aimtrue.core.fit.inspection.actions import SetInspectionTolerance, TakeMeasurements
from aimtrue.core.fit.inspection.results import InspectionView, inspection_view
from aimtrue.core.fit.inspection.table import as_csv
from aimtrue.core.fit.must_hold import Requirement, requirements
from aimtrue.core.model.job import Job
from aimtrue.core.seating.actions import SetMachine
from aimtrue.core.survey.survey import survey

Answer = Callable[[LoadedFile, Job, argparse.Namespace], tuple[dict[str, Any], str, bool]]
"""What is answered, as fields and as text, and whether all holds."""


@complaining
def must_hold(asked: argparse.Namespace) -> int:
    """Say what must hold of the bodies of files, before and after their correction."""
    return _answered(asked, _requirements)


@complaining
def inspection(asked: argparse.Namespace) -> int:
    """Hold what was measured on printed parts against what the bodies of files are to measure."""
    return _answered(asked, _inspection)


def _answered(asked: argparse.Namespace, answer: Answer) -> int:
    started = time.perf_counter()
    loaded, job = corrected_bodies(asked)
    job = apply(job, SetMachine(machine=machine_named(asked.machine, asked.margin)), loaded)
    if asked.pairs:
        job = paired_as_offered(job, loaded)
    fields, text, holds = answer(loaded, job, asked)
    shown_findings = [row for row in survey(job, loaded).findings if row.sheet != "seating"]
    fields["findings"] = [finding_fields(finding) for finding in shown_findings]
    fields["seconds"] = round(time.perf_counter() - started, 3)
    print(json.dumps(fields, indent=1) if asked.json else text)
    return ExitCode.DONE if holds else ExitCode.UNPROVEN


def _requirements(
    loaded: LoadedFile, job: Job, asked: argparse.Namespace
) -> tuple[dict[str, Any], str, bool]:
    # The store lists faces as they are asked for; walls are only told of bodies whose faces were listed.
    listed = tuple(body.model_copy(update={"features": body.features or "listed"}) for body in job.bodies)
    rows = requirements(job.model_copy(update={"bodies": listed}), loaded)
    holding = sum(row.verdict == "holds" for row in rows)
    lines = [f"{holding} of {len(rows)} hold", *map(_requirement_line, rows)]
    fields = {
        "hold": holding,
        "of": len(rows),
        "rows": [row.model_dump(mode="json", exclude={"pair"}) for row in rows],
    }
    return fields, "\n".join(lines), all(row.verdict != "does not hold" for row in rows)


def _requirement_line(row: Requirement) -> str:
    says = f"  {row.verdict:<13} {row.kind:<11} {row.what}: {row.before} before, {row.after} after"
    return f"{says}; {row.remedy}" if row.remedy else says


def _inspection(loaded: LoadedFile, job: Job, asked: argparse.Namespace) -> tuple[dict[str, Any], str, bool]:
    if asked.tolerance:
        job = apply(job, SetInspectionTolerance(typed=asked.tolerance), loaded)
    if asked.measured:
        job = apply(job, TakeMeasurements(text=_text_of(asked.measured)), loaded)
    view = inspection_view(job, loaded)
    if asked.table:
        write_new(asked.table, as_csv(view).encode(), replace=asked.replace)
    if asked.sheet:
        # The pages take a while to import, and few who inspect print them.
        from aimtrue.core.release.sheet.inspection_pages import inspection_pdf

        day = datetime.now(UTC).strftime("%Y-%m-%d")
        name = Path(asked.files[0]).stem
        pages = inspection_pdf(view, name, job.machine.name, day, "a4")
        write_new(asked.sheet, pages, replace=asked.replace)
    fields = {**view.model_dump(mode="json"), "paths": [path for path in (asked.table, asked.sheet) if path]}
    return fields, _inspection_text(view), not any(row.out for row in view.rows)


def _inspection_text(view: InspectionView) -> str:
    lines = []
    for row in view.rows:
        limits = f"{_mm(row.low_mm)} to {_mm(row.high_mm)}"
        says = f"{row.body}, {row.what}: {row.aim_mm:.3f} mm, good from {limits}"
        if row.values:
            says += (
                f"; measured {', '.join(f'{value.mm:.3f}' for value in row.values)}, mean {row.mean_mm:.3f}"
            )
            says += f": {row.out} of {len(row.values)} out" if row.out else ": all in"
        lines.append(says)
    lines += [f"{pair.what}: {_clearances(pair.values)}" for pair in view.pairs if pair.values]
    lines += [
        f"{line.form} along {line.axis.upper()}: {line.offset_mm:+.3f} mm and {100 * line.share:+.2f} %, "
        f"give or take {line.uncertainty_mm:.3f} mm"
        for line in view.lines
    ]
    return "\n".join([*lines, view.lacks] if view.lacks and view.parts else lines)


def _mm(length: float | None) -> str:
    return "any" if length is None else f"{length:.3f}"


def _clearances(values: tuple[Any, ...]) -> str:
    return ", ".join(f"{row.clearance_mm:+.3f}{'' if row.within else ' (not as wanted)'}" for row in values)


def _text_of(name: str) -> str:
    try:
        return Path(name).read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise CommandFailure(ExitCode.UNREADABLE, f"{name}: cannot be read as a table: {error}") from None
