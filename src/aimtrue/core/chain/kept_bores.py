"""Bores that keep their diameter while the body around them is scaled.

A kept bore is made anew where the correction has put its axis: every corner on its wall is moved straight
out from the axis to the diameter it had. Its ends slide in the faces it opens into, so those stay flat and
the body stays closed. A stretch that would make it oval does not: it stays round.
"""

from __future__ import annotations

import numpy as np

from aimtrue.core.mesh.features.listed import Feature, Features
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.bolts import suits
from aimtrue.core.model.decisions import KeptBore
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER

_ON_WALL = 3e-3
"""How far from the wall, of the radius, a corner of it may be; its facets come from the true circle."""


def kept_bore(feature: Feature) -> KeptBore:
    """Return what keeps a bore at the diameter it has in the file."""
    return KeptBore(
        point=feature.point,
        direction=feature.direction,
        diameter=feature.diameter,
        depth=feature.depth,
    )


def kept_mm(job: Job, body: Body, bore: KeptBore) -> float:
    """Return the diameter of a kept bore in mm: the one it has in the file, in the unit that is in force."""
    return bore.diameter * MM_PER[job.settled_unit(body)]


def bolt_bores(job: Job, body: Body, features: Features) -> list[Feature]:
    """Return the bores of a body that, as drawn, suit a standard bolt."""
    per = MM_PER[job.settled_unit(body)]
    return [
        feature for feature in features.listed if feature.kind == "bore" and suits(feature.diameter * per)
    ]


def with_kept_bores(
    points: Floats,
    file_points: Floats,
    bores: tuple[KeptBore, ...],
    linear: Floats,
    shift: Floats,
    per: float,
) -> Floats:
    """Move the points on kept bores back to their diameter.

    Args:
        points: (n, 3) in mm, corrected.
        file_points: the same in numbers of the file.
        bores: those kept.
        linear, shift: (3, 3) and (3,), what brings file points to ``points``.
        per: mm per number of the file, which their diameters are in.
    """
    if not bores:
        return points
    moved = points.copy()
    for bore in bores:
        axis = np.asarray(bore.direction)
        away = file_points - np.asarray(bore.point)
        along = away @ axis
        across = away - along[:, None] * axis
        radius = bore.diameter / 2
        here = np.abs(np.linalg.norm(across, axis=1) - radius) <= _ON_WALL * radius
        here &= np.abs(along) <= bore.depth / 2 * (1 + 1e-6) + _ON_WALL * radius
        new_axis = linear @ axis
        new_axis = new_axis / np.linalg.norm(new_axis)
        start = linear @ np.asarray(bore.point) + shift
        out = moved[here] - start
        height = out @ new_axis
        out = out - height[:, None] * new_axis
        out *= (radius * per / np.linalg.norm(out, axis=1))[:, None]
        moved[here] = start + height[:, None] * new_axis + out
    return moved
