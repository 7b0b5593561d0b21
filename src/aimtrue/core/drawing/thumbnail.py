"""A job at a glance, for the list of jobs: the lines of its bodies seen from above the front left, as SVG."""

from __future__ import annotations

import numpy as np

from aimtrue.core.chain.transforms import true_points
from aimtrue.core.drawing.views import PreparedView, ViewDirection, strokes
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh, merged
from aimtrue.core.mesh.reduced import reduced
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import to_print

WIDE, HIGH = 72.0, 48.0
"""Its size, in the units of its own lines."""
VERSION = 1
"""Counts how it is drawn; kept drawings of another number are made anew."""
_MARGIN = 2.0
_SLACK = 0.15
"""Corners nearer to straight than this cannot be told apart at its size."""
_MOST_TRIANGLES = 150_000
"""Of jobs with more the reduced form is drawn: nobody sees the difference, and it is there in no time."""
_EYE = np.array([-0.55, -0.72, 0.42]) / np.linalg.norm([-0.55, -0.72, 0.42])
_RIGHT = np.array([-_EYE[1], _EYE[0], 0.0]) / np.hypot(_EYE[0], _EYE[1])
_ABOVE_FRONT_LEFT = ViewDirection("from above the front left", tuple(_RIGHT), tuple(np.cross(_EYE, _RIGHT)))


def thumbnail(job: Job, store: GeometryStore) -> str:
    """Draw what a job is about.

    Args:
        job: its bodies are drawn where they lie, corrected where their units are settled; those that are
            only checked against are left out, unless there are no others.
        store: gives their meshes.

    Returns:
        An SVG of :data:`WIDE` x :data:`HIGH` that takes the colour of the text about it; empty of lines where
        there is no body.
    """
    bodies = to_print(job, job.bodies) or job.bodies
    settled = all(job.source(body.source).unit for body in bodies)
    meshes = []
    for body in bodies:
        mesh = store.mesh(body.geometry)
        meshes.append(Mesh(true_points(job, body, mesh.vertices), mesh.faces) if settled else mesh)
    lines = PreparedView(_light(merged(meshes))).lines(_ABOVE_FRONT_LEFT) if meshes else np.empty((0, 2, 2))
    path = "".join(map(_stroke, strokes(_placed(lines), _SLACK)))
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDE:g} {HIGH:g}" fill="none" '
        f'stroke="currentColor" stroke-width="0.7" stroke-linejoin="round"><path d="{path}"/></svg>'
    )


def _light(mesh: Mesh) -> Mesh:
    return reduced(mesh) if mesh.triangles > _MOST_TRIANGLES else mesh


def _placed(lines: Floats) -> Floats:
    """Return (k, 2, 2): lines in the middle of the drawing, y downward, as large as they can be there."""
    if not len(lines):
        return lines
    low, high = lines.min(axis=(0, 1)), lines.max(axis=(0, 1))
    room = np.array([WIDE, HIGH]) - 2 * _MARGIN
    scale = float((room / np.maximum(high - low, 1e-12)).min())
    flat = (lines - (low + high) / 2) * [scale, -scale]
    return np.asarray(flat + np.array([WIDE, HIGH]) / 2)


def _stroke(points: Floats) -> str:
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points)
