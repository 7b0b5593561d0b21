"""This module says what tells a mirrored part from what it was mirrored from: threads, and what does not
lie on itself again.

A part that has a plane of symmetry is its own mirror image. So its features are mirrored, turned every way
that brings its box onto itself, and the way is taken in which the most of them find their like; what has no
like then tells. Threads always tell: they turn the other way.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import permutations, product

import numpy as np

from aimtrue.core.mesh.features.listed import Feature, Features
from aimtrue.core.mesh.mesh import Floats, Mesh

_NEAR = 2e-3
"""Places, and lengths, are the same when they differ by less than this share of the size."""
_FEW, _LOOKED = 100, 20_000
_OFF = 2e-3
"""Mirrored round faces may differ by this share of the size, since facets of the mirror image lie between
those of the face.
"""
_PATTERNS, _SWAPS, _TRIED = 40, 200, 12
_SMALL = 2e-3
"""Flat faces with a smaller share of the surface are marks or text."""


@dataclass(frozen=True)
class Handedness:
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


def handed(mesh: Mesh, features: Features) -> Handedness:
    """Return what of a mesh tells that it was mirrored."""
    low, high = mesh.bounds()
    size = float((high - low).max()) or 1.0
    middle = _middle(mesh)
    threads = _threads(features, size)
    known = [feature for feature in features.listed if not feature.screw]
    laid = _Laid(mesh, middle)
    # What a few places rule out is not asked of all.
    ways = _mirrorings(mesh, middle, size, known)
    ranked = sorted((laid.away(way, _FEW), i) for i, way in enumerate(ways))
    near = [ways[i] for away, i in ranked if away < _OFF * size]
    if not threads and any(laid.away(way, _LOOKED) < _OFF * size for way in near):
        return Handedness(0, (), 0, 0, True)
    ways = [ways[i] for _, i in ranked[:_TRIED]]
    rows = _rows(known, middle)
    lost = min((_unlike(rows, known, way, size) for way in ways), key=len, default=known)
    small = _SMALL * mesh.area()
    bores = tuple(round(feature.diameter, 6) for feature in lost if feature.kind == "bore")
    others = [feature for feature in lost if feature.kind != "bore"]
    marks = sum(feature.flat and feature.area < small for feature in others)
    return Handedness(threads, bores, marks, len(others) - marks, False)


def _threads(features: Features, size: float) -> int:
    """How many threads there are; the flanks of one are features each, about one axis."""
    axes: list[tuple[Floats, Floats]] = []
    for feature in features.listed:
        point, way = np.asarray(feature.point), np.asarray(feature.direction)
        if feature.screw and not any(
            abs(float(way @ other)) > 0.999 and np.linalg.norm(np.cross(point - there, other)) < 0.02 * size
            for there, other in axes
        ):
            axes.append((point, way))
    return len(axes)


def _middle(mesh: Mesh) -> Floats:
    """(3,): the middle of the surface, which every symmetry leaves where it is."""
    middles = mesh.vertices[mesh.faces].mean(axis=1)
    return np.asarray((middles * mesh.areas[:, None]).sum(axis=0) / mesh.area())


def _frame(mesh: Mesh, middle: Floats) -> Floats:
    """(3, 3): principal axes of the surface, by rows."""
    points = mesh.vertices[mesh.faces].mean(axis=1) - middle
    spread = (points * mesh.areas[:, None]).T @ points
    return np.asarray(np.linalg.eigh(spread)[1].T)


def _mirrorings(mesh: Mesh, middle: Floats, size: float, features: list[Feature]) -> list[Floats]:
    """(3, 3) mirrorings about the middle that may bring a mesh onto itself: those of its box, in its axes and
    its principal ones, and those that bring one feature to another that is like it.
    """
    mirrored = []
    for axes in (np.eye(3), _frame(mesh, middle)):
        along = (mesh.vertices - middle) @ axes.T
        reach = np.ptp(along, axis=0)
        for order in permutations(range(3)):
            if np.abs(reach[list(order)] - reach).max() > _NEAR * size:
                continue
            for signs in product((1.0, -1.0), repeat=3):
                turn = np.eye(3)[list(order)] * np.asarray(signs)[:, None]
                if np.linalg.det(turn) < 0:
                    mirrored.append(axes.T @ turn @ axes)
    return mirrored + _swaps(features, middle, size)


def _swaps(features: list[Feature], middle: Floats, size: float) -> list[Floats]:
    """Mirrorings in planes through the middle, each of which swaps the first feature of a pattern with one of
    the others.
    """
    if not features:
        return []
    places = np.array([feature.point for feature in features]) - middle
    reach, near = np.linalg.norm(places, axis=1), 2 * _NEAR * size
    areas, kinds = (
        np.array([feature.area for feature in features]),
        np.array([feature.kind for feature in features]),
    )
    normals = [np.empty((0, 3))]
    for first in range(min(_PATTERNS, len(features))):
        apart = places - places[first]
        far = np.linalg.norm(apart, axis=1)
        like = (kinds == kinds[first]) & (abs(areas - areas[first]) <= 0.01 * areas[first])
        some = like & (far > near) & (abs(reach - reach[first]) <= near)
        normals.append(apart[some] / far[some, None])
    every = np.concatenate(normals)
    some = np.unique(np.round(every * np.where(every @ [1, 1e-3, 1e-6] < 0, -1, 1)[:, None], 4), axis=0)[
        :_SWAPS
    ]
    return [np.eye(3) - 2 * np.outer(normal, normal) / (normal @ normal) for normal in some]


def _rows(features: list[Feature], middle: Floats) -> Floats:
    """(n, 8): place about the middle, direction, and what tells a feature from others."""
    rows = [
        (*np.subtract(feature.point, middle), *feature.direction, feature.diameter, feature.area**0.5)
        for feature in features
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
    matched = (near & along & alike).any(axis=1)
    return [feature for feature, ok in zip(features, matched, strict=True) if not ok]


class _Laid:
    """A surface that its own corners and middles of faces are laid on, mirrored.

    Args:
        mesh: the surface.
        middle: (3,) that it is mirrored about.
    """

    def __init__(self, mesh: Mesh, middle: Floats) -> None:
        import igl

        self._mesh, self._middle, self._faces = mesh, middle, mesh.faces.astype(np.int64)
        self._tree = igl.AABB()
        self._tree.init(mesh.vertices, self._faces)
        corners = mesh.vertices[np.unique(mesh.faces)]
        self._points = np.concatenate([corners, mesh.vertices[self._faces].mean(axis=1)]) - middle

    def away(self, way: Floats, count: int) -> float:
        """Return how far the farthest of so many places lies from the surface, mirrored by (3, 3)."""
        some = self._points[:: max(1, len(self._points) // count)]
        there = np.ascontiguousarray(some @ way.T + self._middle)
        squared = self._tree.squared_distance(self._mesh.vertices, self._faces, there)[0]
        return float(np.sqrt(np.max(squared)))
