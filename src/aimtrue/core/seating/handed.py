"""What tells a mirrored part from what it was mirrored from: threads, and what does not lie on itself again.

A part that has a plane of symmetry is its own mirror image. So its features are mirrored, turned every way
that brings its box onto itself, and the way is taken in which the most of them find their like; what has no
like then tells. Threads always tell: they turn the other way.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import permutations, product

import igl
import numpy as np

from aimtrue.core.mesh.features.listed import Feature, Features
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.reduced import REDUCED_FROM, reduced

_NEAR = 2e-3
"""Of the size: so near is the same place, and the same length."""
_LOOKED = 4_000
_OFF = 1e-2
"""Of the size: a round face is made of facets, and those of its mirror image lie between them."""
_SMALL = 2e-3
"""Of the surface: flat faces smaller than this are marks or text."""


@dataclass(frozen=True)
class Handed:
    """What tells that a part is mirrored.

    Attributes:
        threads: how many threads turn the other way.
        bores: diameters, in numbers of the file, of bores that come to lie elsewhere.
        marks: small flat faces, such as text has, that come to lie elsewhere.
        faces: other faces that do.
        same: whether nothing tells: it is its own mirror image.
    """

    threads: int
    bores: tuple[float, ...]
    marks: int
    faces: int
    same: bool


def handed(mesh: Mesh, features: Features) -> Handed:
    """Return what of a mesh tells that it was mirrored."""
    low, high = mesh.bounds()
    middle, size = (low + high) / 2, float((high - low).max()) or 1.0
    frame = _frame(mesh, middle)
    threads = _threads(features, size)
    known = [one for one in features.listed if not one.screw]
    rows, best = _rows(known, middle), None
    for turn in _mirrorings(mesh, middle, size, frame):
        lost = _unlike(rows, known, turn, size)
        if best is None or len(lost) < len(best[1]):
            best = (turn, lost)
    if best is None:
        lost, same = known, False
    else:
        turn, lost = best
        same = not lost and not threads and _onto_itself(mesh, middle, turn, size)
    small = _SMALL * mesh.area()
    bores = tuple(round(one.diameter, 6) for one in lost if one.kind in ("bore", "hollow arc"))
    flats = [one for one in lost if one.kind not in ("bore", "hollow arc")]
    marks = sum(one.flat and one.area < small for one in flats)
    return Handed(threads, bores, marks, len(flats) - marks, same)


def _threads(features: Features, size: float) -> int:
    """How many threads there are; the flanks of one are features each, about one axis."""
    axes: list[tuple[Floats, Floats]] = []
    for one in features.listed:
        point, way = np.asarray(one.point), np.asarray(one.direction)
        if one.screw and not any(
            abs(float(way @ other)) > 0.999 and np.linalg.norm(np.cross(point - there, other)) < 0.02 * size
            for there, other in axes
        ):
            axes.append((point, way))
    return len(axes)


def _frame(mesh: Mesh, middle: Floats) -> Floats:
    """(3, 3): principal axes of the surface, by rows."""
    points = mesh.vertices[mesh.faces].mean(axis=1) - middle
    spread = (points * mesh.areas[:, None]).T @ points
    return np.asarray(np.linalg.eigh(spread)[1].T)


def _mirrorings(mesh: Mesh, middle: Floats, size: float, frame: Floats) -> list[Floats]:
    """(3, 3) mirrorings about the middle that bring the box of a mesh onto itself, in its axes and its
    principal ones.
    """
    found = []
    for axes in (np.eye(3), frame):
        along = (mesh.vertices - middle) @ axes.T
        reach = np.ptp(along, axis=0)
        for order in permutations(range(3)):
            if np.abs(reach[list(order)] - reach).max() > _NEAR * size:
                continue
            for signs in product((1.0, -1.0), repeat=3):
                turn = np.eye(3)[list(order)] * np.asarray(signs)[:, None]
                if np.linalg.det(turn) < 0:
                    found.append(axes.T @ turn @ axes)
    return found


def _rows(features: list[Feature], middle: Floats) -> Floats:
    """(n, 8): place about the middle, direction, and what tells a feature from others."""
    rows = [
        (*np.subtract(one.point, middle), *one.direction, one.diameter, one.area**0.5) for one in features
    ]
    return np.asarray(rows, np.float64).reshape(-1, 8)


def _unlike(rows: Floats, features: list[Feature], turn: Floats, size: float) -> list[Feature]:
    """The features that find no like of theirs when mirrored."""
    if not len(rows):
        return []
    place, way = rows[:, :3] @ turn.T, rows[:, 3:6] @ turn.T
    near = np.abs(place[:, None] - rows[None, :, :3]).max(axis=2) < _NEAR * size
    along = np.abs(np.einsum("ij,kj->ik", way, rows[:, 3:6])) > 0.9999
    alike = np.abs(rows[:, None, 6:] - rows[None, :, 6:]).max(axis=2) < 2 * _NEAR * size
    found = (near & along & alike).any(axis=1)
    return [one for one, ok in zip(features, found, strict=True) if not ok]


def _onto_itself(mesh: Mesh, middle: Floats, turn: Floats, size: float) -> bool:
    """Whether the corners come to lie on the surface again, of a fine mesh a spread of them."""
    mesh = mesh if mesh.triangles < REDUCED_FROM else reduced(mesh)
    points = mesh.vertices[:: max(1, len(mesh.vertices) // _LOOKED)]
    there = np.ascontiguousarray((points - middle) @ turn.T + middle)
    squared, _, _ = igl.point_mesh_squared_distance(there, mesh.vertices, mesh.faces.astype(np.int64))
    return bool(np.sqrt(np.max(squared)) < _OFF * size)
