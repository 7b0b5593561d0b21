"""aimtrue outline: a flat section or the silhouette of bodies as a drawing of true size."""

from __future__ import annotations

import argparse
import json
import time
from typing import Any

from aimtrue.cli.files import ExitCode, LoadedFile, complaining
from aimtrue.cli.inspect import finding_fields
from aimtrue.cli.section import corrected_bodies, corrected_meshes, drawn, fields_of
from aimtrue.cli.sizing import an_axis, axis_length
from aimtrue.core.division.sections.kernel_sections import section_of
from aimtrue.core.division.sections.outlines import SectionOutlines, silhouette_along
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_offset
from aimtrue.core.survey.survey import survey


@complaining
def outline(asked: argparse.Namespace) -> int:
    """Draw the section on a plane, or the silhouette along an axis."""
    started = time.perf_counter()
    loaded, job = corrected_bodies(asked)
    cut = _cut(job, loaded, asked)
    drawn([cut], asked)
    answer: dict[str, Any] = {
        "outline": fields_of(cut),
        "paths": [path for path in (asked.svg, asked.dxf) if path],
        "findings": [
            finding_fields(finding) for finding in survey(job, loaded).findings if finding.sheet != "seating"
        ],
        "seconds": round(time.perf_counter() - started, 3),
    }
    one = answer["outline"]
    text = f"{one['area_mm2']:.3f} mm², outline {one['outline_mm']:.3f} mm, {one['islands']} islands"
    print(json.dumps(answer, indent=1) if asked.json else f"{', '.join(answer['paths'])}: {text}")
    return ExitCode.DONE


def _cut(job: Job, loaded: LoadedFile, asked: argparse.Namespace) -> SectionOutlines:
    if asked.silhouette:
        return silhouette_along(corrected_meshes(job, loaded), an_axis(asked.silhouette))
    axis, typed = axis_length(asked.plane)
    return section_of(job, job.bodies, axis, parse_offset(typed), loaded)
