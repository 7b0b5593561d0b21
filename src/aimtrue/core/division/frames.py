"""From numbers of a file to mm of the corrected body, and back."""

from __future__ import annotations

import numpy as np

from aimtrue.core.chain.allowance import cleared
from aimtrue.core.chain.kept_bores import with_kept_bores
from aimtrue.core.chain.transforms import true_linear
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER
from aimtrue.core.model.shaping import Frame
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3


def frame_of(job: Job, body: Body) -> Frame:
    """Return how a body comes into mm: corrected, with its clearance, before what its material will shrink.

    Raises:
        Unsettled: the unit of its source is not settled.
    """
    linear, shift = true_linear(job, body)
    stretch, move = cleared(job, body)
    return Frame(
        linear=(as_vec3(linear[0]), as_vec3(linear[1]), as_vec3(linear[2])),
        shift=as_vec3(shift),
        stretch=as_vec3(stretch),
        move=as_vec3(move),
        kept=body.kept,
        per=MM_PER[job.settled_unit(body)],
    )


def in_mm(frame: Frame, mesh: Mesh) -> Mesh:
    """Return a mesh in numbers of its file in mm of the corrected body."""
    stretch = np.asarray(frame.stretch)
    linear = stretch[:, None] * np.asarray(frame.linear)
    shift = stretch * np.asarray(frame.shift) + np.asarray(frame.move)
    points = mesh.vertices @ linear.T + shift
    return Mesh(
        with_kept_bores(points, mesh.vertices, frame.kept, linear, shift, frame.per),
        mesh.faces,
    )


def in_numbers(frame: Frame, mesh: Mesh) -> Mesh:
    """Return a mesh in mm in numbers of the file; clearance and kept bores stay in it as they are."""
    return Mesh(points_in_numbers(frame, mesh.vertices), mesh.faces)


def points_in_numbers(frame: Frame, points: Floats) -> Floats:
    """Return (n, 3) points in mm in numbers of the file."""
    return np.ascontiguousarray(np.linalg.solve(np.asarray(frame.linear), (points - frame.shift).T).T)


def moved_with(before: Frame, after: Frame, point: Vec3) -> Vec3:
    """Return where a place in mm is once its body is in another frame: it stays where it is on the body."""
    number = np.linalg.solve(
        np.asarray(before.linear),
        (np.asarray(point) - before.move) / np.asarray(before.stretch) - np.asarray(before.shift),
    )
    there = np.asarray(after.linear) @ number + np.asarray(after.shift)
    return as_vec3(np.asarray(after.stretch) * there + np.asarray(after.move))
