"""aimtrue inspect: what is in model files, in which unit, how large, and in what health."""

from __future__ import annotations

import argparse
import json
import time
from dataclasses import replace
from typing import Any

from aimtrue.cli.failures import complain
from aimtrue.cli.files import CommandFailure, ExitCode, LoadedFile, every_file, load
from aimtrue.cli.remedies import COMMAND_OF_REMEDY, as_commands
from aimtrue.core.chain.sizes import group_sizes, true_area, true_bounds, true_sizes, true_volume
from aimtrue.core.intake.actions import LookOver
from aimtrue.core.intake.bodies.congruence import identical
from aimtrue.core.intake.finding_kinds import KINDS
from aimtrue.core.intake.findings import intake_findings
from aimtrue.core.intake.health import health_of
from aimtrue.core.intake.units.inference import verdict_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.source import Source
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.survey.gathering import gathered


def inspect(asked: argparse.Namespace) -> int:
    """Inspect every file; those that cannot be read are told and the others still shown."""
    reports, code = [], ExitCode.DONE
    try:
        files = every_file(asked.files)
    except CommandFailure as failure:
        complain(failure.says)
        return failure.code
    for path in files:
        started = time.perf_counter()
        try:
            loaded = load(path, asked)
            report = _report(_looked_over(loaded) if asked.thorough else loaded)
        except CommandFailure as failure:
            complain(failure.says)
            code = failure.code
            failed = {"exit": int(failure.code), "says": [failure.says]}
            reports.append({"path": path, "failure": failed})
            continue
        report["seconds"] = round(time.perf_counter() - started, 3)
        reports.append(report)
    if asked.json:
        print(json.dumps(reports, indent=1))
    elif good := [report for report in reports if "failure" not in report]:
        print("\n\n".join(_as_text(report) for report in good))
    return code


def _looked_over(loaded: LoadedFile) -> LoadedFile:
    """Look for crossing faces where a mesh was too large to do so as a matter of course."""
    healths = {
        body.geometry: health_of(loaded.mesh(body.geometry), thorough=True)
        for body in loaded.job.bodies
        if body.health.crossings is None
    }
    from aimtrue.core.actions import apply

    return replace(loaded, job=apply(loaded.job, LookOver(found=healths), loaded))


def _report(loaded: LoadedFile) -> dict[str, Any]:
    """What the contract tells of a file, from the rooms that know of it: what nobody decided needs no others,
    and loading these would take longer than most files.
    """
    job = loaded.job
    judged = {source.id: verdict_of(job, source) for source in job.sources}
    source, same = job.sources[0], identical(job)
    units = {source.unit for source in job.sources}
    settled = source.unit if len(units) == 1 else None
    findings = gathered(job, intake_findings(job, judged), {kind.code: kind for kind in KINDS})
    return {
        "path": loaded.path,
        "format": source.format,
        "triangles": sum(body.triangles for body in job.bodies),
        "unit": {
            "declared": source.declared,
            "settled": settled,
            "how": (source.how if settled else None) or "unsettled",
            "candidates": [row.model_dump(mode="json") for row in judged[source.id].candidates],
        },
        "up": source.up,
        "up_guess": source.up_guess.model_dump() if source.up_guess else None,
        "size_mm": list(group_sizes(job, job.bodies)) if settled else None,
        "bodies": [_body(job, body, same.get(body.id, ())) for body in job.bodies],
        "sources": [_source(source) for source in job.sources],
        "findings": [finding_fields(finding) for finding in findings],
    }


def _source(source: Source) -> dict[str, Any]:
    return {
        "name": source.name,
        "format": source.format,
        "unit": source.unit,
        "how": source.how or "unsettled",
        "sha256": source.sha256,
        "fineness": source.fineness.model_dump() if source.fineness else None,
    }


def finding_fields(finding: Finding) -> dict[str, Any]:
    """Return a finding as the contract has it."""
    row = finding.model_dump(
        mode="json", include={"code", "severity", "count", "body", "says", "remedy", "accepted"}
    )
    return {
        **row,
        "says": as_commands(row["says"]),
        "remedy": as_commands(row["remedy"]),
        "command": COMMAND_OF_REMEDY.get(row["remedy"]),
        "bodies": list(finding.names) or ([finding.body] if finding.body else []),
    }


def _body(job: Job, body: Body, identical: tuple[BodyId, ...]) -> dict[str, Any]:
    settled = job.source_of(body).unit is not None
    twins = [job.body(key).name for key in identical]
    return {
        "name": body.name,
        "triangles": body.triangles,
        "size_mm": list(true_sizes(job, body)) if settled else None,
        "centre_mm": as_vec3(true_bounds(job, body).mean(axis=0)) if settled else None,
        "volume_mm3": true_volume(job, body) if settled and body.health.closed else None,
        "area_mm2": true_area(job, body) if settled else None,
        "closed": body.health.closed,
        "voids": body.voids,
        "same_as": twins[0] if twins and twins[0] != body.name else None,
        "colour": body.colour,
        "material": body.material or None,
        "shells": body.health.shells,
        "stray": body.stray,
        "deviation": body.facets.deviation if body.facets else None,
    }


_MOST_NAMED = 4


def _finding_line(finding: dict[str, Any]) -> str:
    """A finding with the bodies it concerns, as far as its words do not name them."""
    names = [name for name in finding["bodies"] if name not in finding["says"]]
    more = f" and {len(names) - _MOST_NAMED} more" if len(names) > _MOST_NAMED else ""
    who = f" ({', '.join(names[:_MOST_NAMED])}{more})" if names else ""
    how = f"; {finding['command']}" if finding["command"] else ""
    return f"  {finding['severity']:<5} {finding['says']}{who}{how}"


def _as_text(report: dict[str, Any]) -> str:
    unit = report["unit"]
    lines = [f"{report['path']}: {report['format']}, {report['triangles']} triangles"]
    if unit["settled"]:
        lines.append(f"  unit  {unit['settled']}, {unit['how']}")
        lines.append("  size  " + " x ".join(f"{size:.4f}" for size in report["size_mm"]) + " mm")
    else:
        lines.append("  unit  not settled; tell it with --unit. It would be:")
        for row in unit["candidates"]:
            size = " x ".join(f"{size:.6g}" for size in row["size_mm"])
            lines.append(f"    {row['unit']:>2}  {size} mm  ({'; '.join(row['reasons'])})")
    guess = report["up_guess"]
    if guess and guess["up"] != report["up"]:
        lines.append(f"  up    {report['up']}; it seems to be {guess['up']}: {guess['reason']}")
    for body in report["bodies"]:
        if body["same_as"]:
            lines.append(f"  body  {body['name']}: the same as {body['same_as']}")
            continue
        volume = f", {body['volume_mm3'] / 1000:.4g} cm³" if body["volume_mm3"] is not None else ""
        lines.append(f"  body  {body['name']}: {'closed' if body['closed'] else 'not closed'}{volume}")
    lines += [_finding_line(finding) for finding in report["findings"]]
    return "\n".join(lines)
