"""This module gives the flat and round faces of a body in mm, in one of the states that a fit is told for.

A correction may be unequal: then a round face is oval. So a face keeps its corners, and its diameters are
measured on these. Which faces a body has is told in :mod:`aimtrue.core.mesh.features`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from itertools import pairwise
from typing import Literal

import numpy as np

from aimtrue.core.chain.allowance import allowed_points
from aimtrue.core.chain.transforms import drawn_points, true_points
from aimtrue.core.mesh.directions import plane_axes
from aimtrue.core.mesh.features.listed import Feature, Kind
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3

State = Literal["drawn", "corrected", "released"]
"""As the file has it, with its correction, and with its allowances, too."""

STATES: tuple[State, ...] = ("drawn", "corrected", "released")
_ON_CIRCLE, _ENOUGH = 1e-5, 6
"""How far within the outermost of its corners one is still on a circle, as a share; and how many tell it."""
_LEAST_TURN = 80.0
"""Degrees of a round face that are enough to tell what goes into it or around it."""


@dataclass(frozen=True, eq=False)
class FitFace:
    """A flat or round face of a body, in mm.

    Attributes:
        body: whose it is.
        feature: its number among the features of the body.
        kind: as features have it.
        point: (3,) the middle of a flat face, or of the axis of a round one.
        way: (3,) outward normal, or axis; of length 1.
        most, least: the greatest and the least diameter of a round face.
        across: (3,) the direction of the greatest; zeros where it has no one direction.
        depth: of a round face, along its axis.
        pitch, hand: of a thread, as features have them.
        corners: (k, 3) of a flat face all its corners, of a round one up to 24.
    """

    body: BodyId
    feature: int
    kind: Kind
    point: Floats
    way: Floats
    most: float
    least: float
    across: Floats
    depth: float
    pitch: float
    hand: int
    corners: Floats

    @property
    def hollow(self) -> bool:
        """Whether something goes into it, not around it."""
        return self.kind in ("bore", "hollow arc", "hollow thread")

    @property
    def oval(self) -> bool:
        """Whether it is round no more: the two diameters differ by more than a file could tell."""
        return self.most - self.least > 1e-4 * max(self.most, 1.0)


def points_in(state: State, job: Job, body: Body, points: Floats) -> Floats:
    """Bring (n, 3) points of a body's file into mm and the axes of the job, in a state."""
    move = {"drawn": drawn_points, "corrected": true_points, "released": allowed_points}[state]
    return move(job, body, points)


def mesh_in(state: State, job: Job, body: Body, store: GeometryStore) -> Mesh:
    """Return a body as a mesh in mm, in a state."""
    mesh = store.mesh(body.geometry)
    things = (mesh, *job.in_force(body))
    return _MESHES.get(things, (state,), lambda: Mesh(points_in(state, job, body, mesh.vertices), mesh.faces))


def numbers_at(state: State, job: Job, body: Body, at: Vec3) -> Vec3:
    """Return a place of a state, in mm, in numbers of the body's file, as if no bore of it were kept."""
    start, *ends = points_in(state, job, body, np.vstack([np.zeros(3), np.eye(3)]))
    linear = np.stack(ends, axis=1) - start[:, None]
    return as_vec3(np.linalg.solve(linear, np.asarray(at) - start))


_MESHES: Memo[Mesh] = Memo(64)
_FACES: Memo[tuple[FitFace, ...]] = Memo(4096)


def faces_of(state: State, job: Job, body: Body, store: GeometryStore) -> tuple[FitFace, ...]:
    """Return the flat faces of a body, and the round ones that are enough of a turn, in a state."""
    if state == "released" and not job.allowed(body):
        state = "corrected"
    if state == "drawn":
        # No correction changes how it is drawn, so it is not worked out anew with each.
        source = job.source_of(body)
        geometry = (body.geometry, body.features, body.low, body.high, body.volume, body.area)
        drawn = (state, body.id, *geometry, source.unit, source.up, job.home_of(body))
        return _FACES.get((), drawn, lambda: _faces(state, job, body, store))
    return _FACES.get(job.in_force(body), (state,), lambda: _faces(state, job, body, store))


def some_faces_of(
    state: State, job: Job, body: Body, store: GeometryStore, numbers: tuple[int, ...]
) -> tuple[FitFace, ...]:
    """Return some faces of a body in a state, by the numbers of their features.

    A pair is measured at a few faces of its bodies; of many pairs all faces took longer than the rest.
    """
    if state == "drawn":
        return tuple(face for face in faces_of(state, job, body, store) if face.feature in numbers)
    if state == "released" and not job.allowed(body):
        state = "corrected"
    return _FACES.get(
        job.in_force(body),
        (state, numbers),
        lambda: faces_by(partial(points_in, state), job, body, store, numbers),
    )


def _faces(state: State, job: Job, body: Body, store: GeometryStore) -> tuple[FitFace, ...]:
    return faces_by(partial(points_in, state), job, body, store)


def faces_by(
    move: Callable[[Job, Body, Floats], Floats],
    job: Job,
    body: Body,
    store: GeometryStore,
    numbers: tuple[int, ...] | None = None,
) -> tuple[FitFace, ...]:
    """Return faces of a body where something brings points of its file; all, or those of some features."""
    features, mesh = store.features(body), store.mesh(body.geometry)
    used = [
        feature
        for feature in features.listed
        if (feature.flat or feature.screw or feature.turn >= _LEAST_TURN)
        and (numbers is None or feature.id in numbers)
    ]
    corners = [_corners(feature, features.of_face, mesh) for feature in used]
    ends = np.cumsum([0, *(len(corner) for corner in corners)])
    # All points of a body are moved at once: it is asked of every body of a job.
    points = np.array([feature.point for feature in used]).reshape(-1, 3)
    ways = np.array([feature.direction for feature in used]).reshape(-1, 3)
    size = float(mesh.extents().max()) or 1.0
    all_corners = mesh.vertices[np.concatenate(corners)] if corners else np.empty((0, 3))
    moved = move(job, body, np.concatenate([points, points + size * ways, all_corners]))
    start, far, placed = np.split(moved, [len(used), 2 * len(used)])
    spans = [placed[a:b] for a, b in pairwise(ends)]
    return tuple(
        (_flat if feature.flat else _round)(body, feature, at, (end - at) / size, span)
        for feature, at, end, span in zip(used, start, far, spans, strict=True)
    )


def _corners(feature: Feature, of_face: np.ndarray[tuple[int], np.dtype[np.int16]], mesh: Mesh) -> Floats:
    """The corners that a face is measured by: of a round one those on its circle.

    Where a plane has cut its facets there are others, on the chords between.
    """
    if feature.flat:
        return np.unique(mesh.faces[of_face == feature.id])
    corners = np.asarray(feature.corners)
    away = mesh.vertices[corners] - np.asarray(feature.point)
    axis = np.asarray(feature.direction)
    radius = np.linalg.norm(away - (away @ axis)[:, None] * axis, axis=1)
    outer = corners[radius >= radius.max() * (1 - _ON_CIRCLE)]
    return outer if len(outer) >= _ENOUGH else corners


def _flat(body: Body, feature: Feature, at: Floats, way: Floats, corners: Floats) -> FitFace:
    """A flat face in a state. Its normal is told by its corners, since a correction may turn it.

    No correction turns it by a right angle, so where its normal in the file came to tells which side is
    outside.
    """
    some = corners[:: max(1, len(corners) // 200)]
    normal = np.linalg.svd(np.vstack([some - at, np.zeros((2, 3))]), full_matrices=False)[2][2]
    outward = normal if float(normal @ way) >= 0 else -normal
    return FitFace(body.id, feature.id, "flat", at, outward, 0.0, 0.0, np.zeros(3), 0.0, 0.0, 0, corners)


def _round(body: Body, feature: Feature, at: Floats, way: Floats, corners: Floats) -> FitFace:
    """A round face in a state; ``way`` is how long a number of the file along its axis has become."""
    scale = float(np.linalg.norm(way))
    axis = way / scale
    most, least, across = _diameters(feature, corners - at, axis, scale)
    depth, pitch = scale * feature.depth, scale * feature.pitch
    return FitFace(
        body.id, feature.id, feature.kind, at, axis, most, least, across, depth, pitch, feature.hand, corners
    )


def _diameters(feature: Feature, away: Floats, axis: Floats, scale: float) -> tuple[float, float, Floats]:
    """Return the greatest and the least diameter of a round face, and the direction of the greatest.

    They are those of the ellipse through its corners.

    An ellipse about a known middle is three numbers, linear in what ``q = x², 2xy, y²`` are multiplied by:
    ``q · w = 1`` (least squares over the corners ``away`` from its axis). Its half axes are the roots of the
    inverse eigenvalues. Of a thread the outermost corners alone are on its diameter.
    """
    u, v = plane_axes(axis)
    x, y = away @ u, away @ v
    if feature.screw:
        return feature.diameter * scale, feature.diameter * scale, np.zeros(3)
    rows = np.stack([x * x, 2 * x * y, y * y], axis=1)
    middle = float(rows[:, [0, 2]].sum(axis=1).mean()) or 1.0
    w, _, rank, _ = np.linalg.lstsq(rows / middle, np.ones(len(rows)), rcond=1e-9)
    shares, ways = np.linalg.eigh([[w[0], w[1]], [w[1], w[2]]])
    if rank < 3 or shares[0] <= 0:
        diameter = 2 * float(np.sqrt(middle))
        return diameter, diameter, np.zeros(3)
    most, least = (2 * float(np.sqrt(middle / share)) for share in shares)
    return most, least, ways[0, 0] * u + ways[1, 0] * v
