"""This module makes threads as meshes, and puts them on the walls of bores and bosses.

A threaded rod is a grid: along the profile only its four corners, since a flank is straight there, and
along the
helix as many steps as keep the chords within a few micrometres. Past its ends it fades to a plain core,
which closes it simply; then two planes trim it square.
"""

from __future__ import annotations

import math

import manifold3d
import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.shaping import ThreadCut
from aimtrue.core.model.threads import profile_of

_CHORD_MM = 0.004
_LEAST_STEPS = 48
_FADE = 2
"""Pitches past either end over which the profile goes over into the core."""
_PAST = 1e-4
"""A filling, or what is cut off a boss, goes past its wall by this share: facets lie within the true
circle."""


def threaded(solid: manifold3d.Manifold, cut: ThreadCut) -> manifold3d.Manifold:
    """Return a body with a thread on the wall of a bore or a boss.

    Raises:
        Refused: the body would fall apart, or nothing of it would change.
    """
    rod = _in_place(_rod(cut), cut)
    if cut.internal:
        whole = solid + _in_place(_core(cut), cut) if cut.add else solid
        made = whole - rod
    elif cut.add:
        made = solid + rod
    else:
        made = solid - (_in_place(_core(cut), cut) - rod)
    if len(made.decompose()) != len(solid.decompose()):
        raise Refused(
            "thread-apart",
            "with this thread the body would fall apart",
            remedy="choose a smaller thread, or a shorter one",
        )
    if abs(made.volume() - solid.volume()) < 1e-9 * abs(solid.volume()):
        raise Refused("thread-nothing", "this thread changes nothing here", remedy="choose another size")
    return made


def _core(cut: ThreadCut) -> manifold3d.Manifold:
    """The plain cylinder of the wall between the ends of the thread, a hair past the wall."""
    radius = cut.wall / 2 * (1 + _PAST)
    return manifold3d.Manifold.cylinder(cut.high - cut.low, radius, radius, 2 * _steps(radius)).translate(
        (0, 0, cut.low)
    )


def _in_place(made: manifold3d.Manifold, cut: ThreadCut) -> manifold3d.Manifold:
    """Bring what is about Z onto the axis, its X onto the start."""
    way, start = np.asarray(cut.way), np.asarray(cut.start)
    columns = [start, np.cross(way, start), way, np.asarray(cut.point)]
    return made.transform(np.column_stack(columns).tolist())


def _steps(radius: float) -> int:
    """How many steps a turn keep chords within reach of the true circle."""
    return max(_LEAST_STEPS, math.ceil(math.pi / math.acos(1 - _CHORD_MM / max(radius, 0.01))))


def _rod(cut: ThreadCut) -> manifold3d.Manifold:
    """The threaded rod about Z between the ends of the thread."""
    pieces = profile_of(cut.diameter, cut.pitch, internal=cut.internal, play=cut.play)
    heights = np.array([piece.heights[0] for piece in pieces] + [pieces[-1].heights[1]])
    radii = np.array([piece.radii[0] for piece in pieces] + [pieces[-1].radii[1]])
    steps = _steps(float(radii.max()))
    first = math.floor((cut.low / cut.pitch - _FADE - 2) * steps)
    last = math.ceil((cut.high / cut.pitch + _FADE + 1) * steps)
    turns = np.arange(first, last + 1) / steps
    z = heights[None, :] + cut.pitch * turns[:, None]
    radius = _faded(radii[None, :], z, cut)
    angle = 2 * np.pi * turns[:, None] * (-1 if cut.left else 1)
    points = np.stack([radius * np.cos(angle), radius * np.sin(angle), z], axis=2)
    made = _closed(points, steps, left=cut.left)
    return made.trim_by_plane((0, 0, 1), cut.low).trim_by_plane((0, 0, -1), -cut.high)


def _faded(radii: Floats, z: Floats, cut: ThreadCut) -> Floats:
    """The profile between the ends, going over into a plain core past them."""
    beyond = np.maximum(cut.low - z, z - cut.high) / cut.pitch
    share = np.clip(_FADE - 0.5 - beyond, 0.0, 1.0)
    core = radii.min()
    return np.asarray(core + share * (radii - core))


def _closed(points: Floats, steps: int, *, left: bool) -> manifold3d.Manifold:
    """Close a grid of (rows along the helix, 5 corners of the profile, 3).

    The last column is the first one a turn later, so that those rows are the same corners.
    """
    rows, columns = points.shape[:2]
    number = np.arange(rows * (columns - 1)).reshape(rows, columns - 1)
    # Of the last column of the last turn there is no later row: those corners are its own.
    top = number.size + np.arange(steps)
    wrapped = np.concatenate([number[steps:, 0], top])
    grid = np.column_stack([number, wrapped])
    vertices = np.concatenate([points[:, :-1].reshape(-1, 3), points[rows - steps :, -1]])
    a, b, c, d = grid[:-1, :-1], grid[:-1, 1:], grid[1:, 1:], grid[1:, :-1]
    faces = np.concatenate([np.stack([a, d, c], axis=2), np.stack([a, c, b], axis=2)]).reshape(-1, 3)
    low, high = points[:, :, 2].min() - 1.0, points[:, :, 2].max() + 1.0
    foot, head = len(vertices), len(vertices) + 1
    vertices = np.concatenate([vertices, [[0, 0, low], [0, 0, high]]])
    # Below, the rim goes along the first column for a turn and back down the first row.
    below = np.concatenate([grid[: steps + 1, 0], grid[0, -2:0:-1]])
    above = np.concatenate([grid[rows - steps - 1 :, -1], grid[-1, -2:0:-1]])
    faces = np.concatenate([faces, _fan(below, foot)[:, ::-1], _fan(above, head)])
    if left:
        faces = faces[:, ::-1]
    mesh = manifold3d.Mesh64(vert_properties=vertices, tri_verts=faces.astype(np.uint64))
    made = manifold3d.Manifold(mesh)
    return made if made.volume() > 0 else manifold3d.Manifold(
        manifold3d.Mesh64(vert_properties=vertices, tri_verts=faces[:, ::-1].astype(np.uint64))
    )  # fmt: skip


def _fan(
    rim: np.ndarray[tuple[int], np.dtype[np.int64]], apex: int
) -> np.ndarray[tuple[int, int], np.dtype[np.int64]]:
    return np.stack([rim, np.roll(rim, -1), np.full(len(rim), apex)], axis=1)
