"""This module holds what a second reader finds: triangles or polygons, and the unit that a file declares."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.model.lengths import Unit
from aimtrue.core.proof.lazy_value import once
from aimtrue.core.proof.surface import Numbers, Points, Surface, crosses, point_numbers

MOST_TRIED = 8
"""Corners of a polygon up to which every way of cutting it into triangles is tried."""


_NO_AREA = 4.0
"""Spacings of float32 that a triangle is high at most when it has no area that a file could carry."""


@dataclass(frozen=True, eq=False)
class ProofOriginal:
    """A source as the second reader finds it.

    Attributes:
        unit: that the file declares, or None.
        surface: its triangles; of a polygon every triangle that its corners can make.
        polygon: (m,) the polygon each triangle is of.
        loops: the corners of all polygons, one after the other.
        corners: (p,) how many corners each polygon has.
        piece: (p,) what the file itself sets apart: an object, a group, a solid.
    """

    unit: Unit | None
    surface: Surface
    polygon: Numbers
    loops: Numbers
    corners: Numbers
    piece: Numbers

    @property
    def count(self) -> int:
        """Triangles that its polygons come to when they are cut."""
        return int((self.corners - 2).sum())

    @property
    def plain(self) -> bool:
        """Whether the file has triangles only."""
        return len(self.polygon) == len(self.corners)

    def loop(self, polygon: int) -> Numbers:
        """Return the corners of a polygon, in order around."""
        end = int(self._ends[polygon])
        return self.loops[end - int(self.corners[polygon]) : end]

    @once
    def _ends(self) -> Numbers:
        return np.cumsum(self.corners)

    @once
    def vector_areas(self) -> Points:
        """(p, 3): twice the area of each polygon, along its normal (Newell); the same however it is cut."""
        if self.plain:
            return np.stack(crosses(self.surface.corners), axis=1)
        at = self.surface.points[self.loops]
        near = np.repeat(at[self._ends - self.corners], self.corners, axis=0)
        sides = np.cross(at - near, at[self._after] - near)
        return np.stack([np.add.reduceat(sides[:, k], self._ends - self.corners) for k in range(3)], axis=1)

    @once
    def _after(self) -> Numbers:
        """Where in ``loops`` the next corner of each is."""
        after = np.arange(1, len(self.loops) + 1)
        after[self._ends - 1] = self._ends - self.corners
        return after

    @once
    def simple(self) -> NDArray[np.bool_]:
        """(p,): which polygons have every corner once; those that run over themselves have no right cut."""
        owner = np.repeat(np.arange(len(self.corners)), self.corners)
        pairs = np.unique(np.stack([owner, self.loops]), axis=1)
        return np.asarray(np.bincount(pairs[0], minlength=len(self.corners)) == self.corners)

    def has_a_right_cut(self, polygon: int) -> bool:
        """Whether a polygon, seen along its normal, does not cross itself: then no triangle of it faces
        against it.
        """
        from shapely.geometry import Polygon

        at = self.surface.points[self.loop(polygon)]
        drop = int(abs(self.vector_areas[polygon]).argmax())
        return len(at) > 3 and bool(Polygon(np.delete(at, drop, axis=1)).is_valid)

    def pieces_within(self, low: Points, high: Points, grain: float) -> list[int]:
        """Return the pieces whose bounds are just these."""
        lows, highs = self._piece_bounds
        near = (abs(lows - low) <= grain).all(axis=1) & (abs(highs - high) <= grain).all(axis=1)
        return list(np.flatnonzero(near).tolist())

    @once
    def _piece_bounds(self) -> tuple[Points, Points]:
        many = int(self.piece.max(initial=0)) + 1
        lows, highs = np.full((many, 3), np.inf), np.full((many, 3), -np.inf)
        owner = np.repeat(self.piece, self.corners)
        np.minimum.at(lows, owner, self.surface.points[self.loops])
        np.maximum.at(highs, owner, self.surface.points[self.loops])
        return lows, highs

    @once
    def neighbours(self) -> Numbers:
        """(k, 2): polygons that share an edge with one other and no more, within a piece of the file.

        Those without area bound nothing and are passed over; those there twice share with more than one.
        """
        numbers = point_numbers(self.surface.points)[self.loops]
        owner = np.repeat(np.arange(len(self.corners)), self.corners)
        many = int(numbers.max(initial=0)) + 1
        ends = numbers[self._after]
        key = np.minimum(numbers, ends) * many + np.maximum(numbers, ends)
        good = (self.vector_areas != 0).any(axis=1)[owner]
        key, owner = key[good], owner[good]
        if self.piece.any():
            _, key = np.unique(np.stack([key, self.piece[owner]]), axis=1, return_inverse=True)
            key = key.ravel()
        order = np.argsort(key, kind="stable")
        key, owner = key[order], owner[order]
        first = np.flatnonzero(np.r_[True, key[1:] != key[:-1]])
        two = first[np.diff(np.r_[first, len(key)]) == 2]
        return np.stack([owner[two], owner[two + 1]], axis=1)

    def idle(self) -> int:
        """Return how many triangles at most bind nothing: those without area, and those there twice."""
        numbers = point_numbers(self.surface.points)
        corners = self.surface.corners
        a, b, c = (corners[:, k] for k in range(3))
        sides = np.linalg.norm(np.cross(b - a, c - a), axis=1)
        longest = np.linalg.norm([b - a, c - b, a - c], axis=2).max(axis=0)
        grain = np.spacing(np.abs(corners).max(axis=(1, 2), initial=0.0).astype(np.float32)).astype(
            np.float64
        )
        empty = np.unique(self.polygon[sides <= _NO_AREA * grain * longest])
        good = np.setdiff1d(np.arange(len(self.corners)), empty)
        seen: dict[tuple[int, ...], int] = {}
        if self.plain:
            faces = np.sort(numbers[self.surface.faces[good]], axis=1)
            return len(empty) + len(faces) - len(np.unique(faces, axis=0))
        double = 0
        for polygon in good.tolist():
            key = tuple(sorted(numbers[self.loop(polygon)].tolist()))
            double += int(self.corners[polygon]) - 2 if key in seen else 0
            seen[key] = polygon
        return int((self.corners[empty] - 2).sum()) + double


def of_corners(corners: Points, piece: Numbers | None = None) -> ProofOriginal:
    """Return an original of triangles that each have corners of their own."""
    faces = np.arange(3 * len(corners)).reshape(-1, 3)
    return of_triangles(None, Surface(corners.reshape(-1, 3), faces), piece)


def of_triangles(unit: Unit | None, surface: Surface, piece: Numbers | None) -> ProofOriginal:
    """Return an original of triangles."""
    count = len(surface.faces)
    apart = np.zeros(count, np.int64) if piece is None else piece
    return ProofOriginal(unit, surface, np.arange(count), surface.faces.ravel(), np.full(count, 3), apart)


def text_of(data: bytes) -> str:
    """Return text in the encoding its first bytes tell, else UTF-8."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", "replace")
    return data.decode("utf-8-sig", "replace")


def of_polygons(
    points: Points, loops: list[list[int]] | Numbers, piece: list[int] | None = None
) -> ProofOriginal:
    """Return an original of polygons, given by their corners; of three columns they are triangles."""
    if isinstance(loops, np.ndarray):
        return of_triangles(None, Surface(points, loops), None)
    faces: list[tuple[int, int, int]] = []
    polygon: list[int] = []
    for number, loop in enumerate(loops):
        n = len(loop)
        if n == 3:
            faces.append((loop[0], loop[1], loop[2]))
        elif n <= MOST_TRIED:
            faces += [
                (loop[i], loop[j], loop[k])
                for i in range(n)
                for j in range(i + 1, n)
                for k in range(j + 1, n)
            ]
        else:  # These triangles are completed by what the released body has of them.
            faces += [(loop[0], loop[j], loop[j + 1]) for j in range(1, n - 1)]
        polygon += [number] * (len(faces) - len(polygon))
    return ProofOriginal(
        None,
        Surface(points, np.array(faces, dtype=np.int64).reshape(-1, 3)),
        np.array(polygon, dtype=np.int64),
        np.array([corner for loop in loops for corner in loop], dtype=np.int64),
        np.array([len(loop) for loop in loops], dtype=np.int64),
        np.array(piece if piece is not None else [0] * len(loops), dtype=np.int64),
    )
