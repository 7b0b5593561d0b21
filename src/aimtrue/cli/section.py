"""aimtrue section: areas, outlines and islands of flat sections through the corrected bodies of files."""

from __future__ import annotations

import argparse
import json
import time
from typing import Any

import numpy as np

from aimtrue.cli.files import (
    ExitCode,
    LoadedFile,
    complaining,
    every_file,
    load_together,
    write_new,
)
from aimtrue.cli.inspect import finding_fields
from aimtrue.cli.seat import only
from aimtrue.cli.sizing import axis_length, sized
from aimtrue.core.division.sections.outlines import SectionOutlines, as_released, cut_across, dxf_of, svg_of
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.sections import layers_of
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length, parse_offset
from aimtrue.core.survey.survey import survey


@complaining
def section(asked: argparse.Namespace) -> int:
    """Cut the bodies of all files by planes, and say what the sections come to."""
    started = time.perf_counter()
    loaded, job = corrected_bodies(asked)
    cuts = _cuts(job, loaded, asked)
    drawn(cuts, asked)
    facts = survey(job, loaded)
    answer = {
        "sections": [fields_of(cut) for cut in cuts],
        "findings": [finding_fields(finding) for finding in facts.findings if finding.sheet != "seating"],
        "seconds": round(time.perf_counter() - started, 3),
    }
    print(json.dumps(answer, indent=2) if asked.json else _as_text(answer))
    return ExitCode.DONE


def corrected_bodies(asked: argparse.Namespace) -> tuple[LoadedFile, Job]:
    """Read the files, and return the bodies that are asked for as large as they are to be.

    Raises:
        Failure: a file cannot be read, a unit is open, or there is no body of a name.
        Refused: a size makes no sense.
    """
    loaded = load_together(every_file(asked.files), asked)
    job = only(sized(loaded, asked), asked)
    for body in job.bodies:
        job.settled_unit(body)
    return loaded, job


def corrected_meshes(job: Job, loaded: LoadedFile) -> list[Mesh]:
    """Return the bodies of a job in mm, corrected, with their allowances."""
    return [as_released(job, body, loaded) for body in job.bodies]


def _cuts(job: Job, loaded: LoadedFile, asked: argparse.Namespace) -> list[SectionOutlines]:
    meshes = corrected_meshes(job, loaded)
    drawn = bool(asked.svg or asked.dxf)
    if asked.layers:
        ends = np.stack([mesh.bounds()[:, 2] for mesh in meshes])
        heights = layers_of(ends[:, 0].min(), ends[:, 1].max(), parse_length(asked.layers))
        return cut_across(meshes, "z", heights, drawn=drawn)
    cuts: list[SectionOutlines] = []
    for text in asked.at:
        axis, typed = axis_length(text)
        cuts += cut_across(meshes, axis, np.array([parse_offset(typed)]), drawn=drawn)
    return cuts


def fields_of(cut: SectionOutlines) -> dict[str, Any]:
    """Return what is told of a section."""
    return {
        "axis": cut.axis,
        "at_mm": cut.at_mm,
        "area_mm2": cut.area_mm2,
        "outline_mm": cut.outline_mm,
        "islands": cut.islands,
        "holes": cut.holes,
    }


def drawn(cuts: list[SectionOutlines], asked: argparse.Namespace) -> None:
    """Write sections as the drawings that are asked for.

    Raises:
        Failure: a file is there already, or cannot be written.
    """
    for name, written_as in ((asked.svg, svg_of), (asked.dxf, dxf_of)):
        if not name:
            continue
        write_new(name, written_as(cuts).encode(), replace=asked.replace)


def _as_text(answer: dict[str, Any]) -> str:
    lines = [f"{'':>2}{'at':>10}{'area':>12}{'outline':>12}  islands  holes"]
    for row in answer["sections"]:
        lines.append(
            f"{row['axis'].upper():>2}{row['at_mm']:>10.3f}{row['area_mm2']:>12.3f}{row['outline_mm']:>12.3f}"
            f"{row['islands']:>9}{row['holes']:>7}"
        )
    return "\n".join(lines)
