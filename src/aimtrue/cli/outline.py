"""aimtrue outline: a flat section or the silhouette of bodies as a drawing of true size."""

from __future__ import annotations

import argparse
import json
import time
from typing import Any

import numpy as np

from aimtrue.cli.files import Exit, Failure, complain, every_file, load_together
from aimtrue.cli.inspect import finding_fields
from aimtrue.cli.seat import only
from aimtrue.cli.section import drawn, fields_of
from aimtrue.cli.sizing import sized
from aimtrue.core.chain.allowance import allowed_points
from aimtrue.core.division.outline import Cut, cut_across, silhouette_along
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.lengths import parse_offset
from aimtrue.core.model.value import AXES, Axis
from aimtrue.core.survey.survey import survey


def outline(asked: argparse.Namespace) -> int:
    """Draw the section on a plane, or the silhouette along an axis."""
    started = time.perf_counter()
    try:
        loaded = load_together(every_file(asked.files), asked)
        job = only(sized(loaded, asked), asked)
        for body in job.bodies:
            job.settled_unit(body)
        meshes = [
            Mesh(allowed_points(job, body, mesh.vertices), mesh.faces)
            for body in job.bodies
            for mesh in [loaded.mesh(body.geometry)]
        ]
        cut = _cut(meshes, asked)
        drawn([cut], asked)
    except Failure as failure:
        complain(failure.says)
        return failure.code
    except Refused as error:
        complain(f"{asked.files[0]}: {error.line()}")
        return Exit.USAGE
    answer: dict[str, Any] = {
        "outline": fields_of(cut),
        "paths": [path for path in (asked.svg, asked.dxf) if path],
        "findings": [finding_fields(one) for one in survey(job, loaded).findings if one.sheet != "seating"],
        "seconds": round(time.perf_counter() - started, 3),
    }
    one = answer["outline"]
    text = f"{one['area_mm2']:.3f} mm², outline {one['outline_mm']:.3f} mm, {one['islands']} islands"
    print(json.dumps(answer, indent=1) if asked.json else f"{', '.join(answer['paths'])}: {text}")
    return Exit.DONE


def _cut(meshes: list[Mesh], asked: argparse.Namespace) -> Cut:
    if asked.silhouette:
        return silhouette_along(meshes, _axis(asked.silhouette))
    axis, equals, typed = asked.plane.partition("=")
    if not equals:
        raise Refused("usage", f"“{asked.plane}” is not AXIS=LENGTH", remedy="write for example z=12.5")
    (cut,) = cut_across(meshes, _axis(axis), np.array([parse_offset(typed)]), drawn=True)
    if not cut.rings:
        raise Refused("plane-misses", f"there is nothing at {asked.plane}", remedy="move the plane")
    return cut


def _axis(text: str) -> Axis:
    axis = text.strip().lower()
    if axis not in AXES:
        raise Refused("usage", f"“{text}” is no axis", remedy="use x, y or z")
    return axis
