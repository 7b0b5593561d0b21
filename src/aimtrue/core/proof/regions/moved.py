"""A whole with some of its faces moved along their normals, for a clearance."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from aimtrue.core.model.shaping import DescribedFace, SurfaceMove
from aimtrue.core.proof import distance
from aimtrue.core.proof.lazy_value import once
from aimtrue.core.proof.regions.region import Bools, Region
from aimtrue.core.proof.surface import Points, Surface

_REACH = 3.0
"""How far from an edge, in amounts, the place of the new edge may be: it depends on what meets there."""
_SHARP = np.cos(np.radians(8.0))
_FACETS = 0.01
"""Facets of a round face that is moved lie this share of the amount off, at most, from its facets before."""
_NEAR = 1e-4
"""Corners are on a face when they are no farther from it than this share of the whole's size."""


@dataclass(frozen=True, eq=False)
class MovedRegion(Region):
    """What a whole bounds once some of its faces were moved.

    Away from edges the new surface is where the old one was, or the amount away from it. Where it is beside
    an edge is told of each face by itself (:func:`offsets`), since all corners of a face are on it.
    """

    whole: Region
    surface: Surface
    shaping: SurfaceMove

    @once
    def _chosen(self) -> Bools:
        """Which triangles of the whole are moved."""
        if not self.shaping.faces:
            return np.ones(len(self.surface.faces), bool)
        on_faces = np.zeros(len(self.surface.faces), bool)
        for face in self.shaping.faces:
            on_faces |= on_face(self.surface, face, 0.0)
        return on_faces

    @once
    def _sets(self) -> tuple[Surface, Surface]:
        chosen = np.asarray(self._chosen)
        return self.surface.some(np.flatnonzero(chosen)), self.surface.some(np.flatnonzero(~chosen))

    @once
    def _edges(self) -> cKDTree:
        """Places along the edges at which moved faces end, or bend sharply; a step of an amount apart."""
        corners, chosen = self.surface.corners, np.asarray(self._chosen)
        normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        size = np.linalg.norm(normals, axis=1)
        normals = normals / np.maximum(size, 1e-300)[:, None]
        number = np.unique(self.surface.points, axis=0, return_inverse=True)[1].ravel()[self.surface.faces]
        ends = np.stack([number, np.roll(number, -1, axis=1)], axis=2).reshape(-1, 2)
        owner = np.repeat(np.arange(len(corners)), 3)
        line = np.stack([corners, np.roll(corners, -1, axis=1)], axis=2).reshape(-1, 2, 3)
        order = np.lexsort(np.sort(ends, axis=1).T)
        keys, owner, line = np.sort(ends, axis=1)[order], owner[order], line[order]
        pair = np.flatnonzero((keys[1:] == keys[:-1]).all(axis=1))
        a, b = owner[pair], owner[pair + 1]
        bends = (np.einsum("ij,ij->i", normals[a], normals[b]) < _SHARP) | (chosen[a] != chosen[b])
        sharp = line[pair[(chosen[a] | chosen[b]) & bends]]
        step = abs(self.shaping.amount)
        count = np.clip(np.ceil(np.linalg.norm(sharp[:, 1] - sharp[:, 0], axis=1) / step), 1, 2000).astype(
            int
        )
        which = np.repeat(np.arange(len(sharp)), count)
        share = (np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count) + 0.5) / count[which]
        return cKDTree(sharp[which, 0] + share[:, None] * (sharp[which, 1] - sharp[which, 0]))

    def _offset(self, points: Points) -> Points:
        """How far out from the new surface points are, by the whole's nearest triangle."""
        moved, still = (distance.away(points, some) for some in self._sets)
        out = np.where(self.whole.inside(points), -1.0, 1.0) * np.minimum(moved, still)
        return np.asarray(np.where(moved <= still, out - self.shaping.amount, out))

    def inside(self, points: Points) -> Bools:
        """Below the new surface."""
        return np.asarray(self._offset(points) < 0)

    def ends(self, points: Points) -> Points:
        """To the new surface; beside an edge it may end anywhere near."""
        beside = self._beside(points)
        return np.where(beside, 0.0, abs(self._offset(points)))

    def loose(self, points: Points) -> Points:
        """As the whole, and what facets of a round face turn by."""
        return self.whole.loose(points) + _FACETS * abs(self.shaping.amount)

    def _beside(self, points: Points) -> Bools:
        edges: cKDTree = self._edges
        if not edges.n:
            return np.zeros(len(points), bool)
        return np.asarray(edges.query(points)[0] < (_REACH + 1) * abs(self.shaping.amount))


def on_face(surface: Surface, face: DescribedFace, amount: float) -> Bools:
    """Tell which triangles of a surface are on a flat or round face that was moved by an amount.

    Args:
        surface: in mm.
        face: as it was before.
        amount: outward.
    """
    corners = surface.corners
    size = float(np.ptp(surface.points, axis=0).max())
    near, wide = _NEAR * size, _NEAR * size + 4 * abs(amount)
    off = abs(offsets(corners.reshape(-1, 3), face) - amount).reshape(-1, 3)
    low, high = np.asarray(face.low) - wide, np.asarray(face.high) + wide
    boxed = ((corners >= low) & (corners <= high)).all(axis=(1, 2))
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    along = normals @ np.asarray(face.way)
    length = np.linalg.norm(normals, axis=1)
    looks = along > 0.99 * length if face.kind == "flat" else abs(along) < 0.2 * length
    return np.asarray(boxed & looks & (off <= near).all(axis=1) & (length > 0))


def offsets(points: Points, face: DescribedFace) -> Points:
    """Return (n,): how far out of a flat or round face points are, away from its material."""
    away, way = points - np.asarray(face.point), np.asarray(face.way)
    height = away @ way
    if face.kind == "flat":
        return np.asarray(height)
    radial = np.linalg.norm(away - height[:, None] * way, axis=1)
    return np.asarray((face.diameter / 2 - radial) * (1 if face.hollow else -1))


def reached(found: Surface, face: DescribedFace, amount: float) -> tuple[float, float] | None:
    """Return how far out of where a face was its corners are now, from least to most; None if it is gone.

    Of a round one the corners farthest from the axis tell: where facets were cut there are others, on chords.
    """
    mine = np.flatnonzero(on_face(found, face, amount))
    if not len(mine):
        return None
    out = offsets(found.corners[mine].reshape(-1, 3), face)
    least, most = float(out.min()), float(out.max())
    if face.kind == "flat":
        return least, most
    return (least, least) if face.hollow else (most, most)
