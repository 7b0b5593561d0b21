"""aimtrue inspect: what is in model files, in which unit, how large, and in what health."""

from __future__ import annotations

import argparse
import json
import time
from typing import Any

from aimtrue.cli.files import Exit, Failure, Loaded, complain, load
from aimtrue.core.findings import Finding
from aimtrue.core.frames import as_vec3, true_points
from aimtrue.core.survey import Survey, survey


def inspect(asked: argparse.Namespace) -> int:
    """Inspect every file; those that cannot be read are told and the others still shown."""
    reports, code = [], Exit.DONE
    for path in asked.files:
        started = time.perf_counter()
        try:
            report = _report(load(path, asked))
        except Failure as failure:
            complain(failure.says)
            code = failure.code
            continue
        report["seconds"] = round(time.perf_counter() - started, 3)
        reports.append(report)
    if asked.json:
        print(json.dumps(reports, indent=1))
    else:
        print("\n\n".join(_as_text(report) for report in reports))
    return code


def _report(loaded: Loaded) -> dict[str, Any]:
    found = survey(loaded.job, loaded)
    source, facts = loaded.job.sources[0], found.bodies[0]
    how = source.how or "unsettled"
    return {
        "path": loaded.path,
        "format": source.format,
        "triangles": sum(body.triangles for body in loaded.job.bodies),
        "unit": {
            "declared": source.declared,
            "settled": source.unit,
            "how": how,
            "candidates": [row.model_dump(mode="json") for row in facts.candidates],
        },
        "up": source.up,
        "size_mm": _sizes(found),
        "bodies": [_body(loaded, found)],
        "findings": [finding_fields(finding) for finding in found.findings if finding.sheet != "seating"],
    }


def finding_fields(finding: Finding) -> dict[str, Any]:
    """Return a finding as the contract has it."""
    return finding.model_dump(
        mode="json", include={"code", "severity", "count", "body", "says", "remedy", "accepted"}
    )


def _sizes(found: Survey) -> list[float] | None:
    chain = found.bodies[0].chain
    return [link.size_mm for link in chain] if chain else None


def _body(loaded: Loaded, found: Survey) -> dict[str, Any]:
    body, facts = loaded.job.bodies[0], found.bodies[0]
    settled = facts.chain is not None
    centre = None
    if settled:
        low, high = true_points(loaded.job, body, loaded.whole.bounds())
        centre = as_vec3((low + high) / 2)
    return {
        "name": body.name,
        "triangles": body.triangles,
        "size_mm": _sizes(found),
        "centre_mm": centre,
        "volume_mm3": facts.volume_mm3,
        "area_mm2": facts.area_mm2,
        "closed": body.health.closed,
        "voids": 0,
        "same_as": None,
        "colour": None,
        "shells": body.health.shells,
        "objects": list(body.parts),
    }


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
    for body in report["bodies"]:
        volume = f", {body['volume_mm3'] / 1000:.4g} cm³" if body["volume_mm3"] is not None else ""
        lines.append(f"  body  {body['name']}: {'closed' if body['closed'] else 'not closed'}{volume}")
    lines += [f"  {finding['severity']:<5} {finding['says']}" for finding in report["findings"]]
    return "\n".join(lines)
