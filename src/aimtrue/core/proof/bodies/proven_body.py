"""One released body beside its original: where its points should be, and where they are."""

from __future__ import annotations

from dataclasses import dataclass, field

import igl
import numpy as np

from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import ReadingId
from aimtrue.core.model.pairs import PairSide
from aimtrue.core.model.readings import Gauge
from aimtrue.core.model.seats import Seat
from aimtrue.core.proof.bodies.matching import TriangleMatch
from aimtrue.core.proof.bodies.point_transform import PointTransform
from aimtrue.core.proof.lazy_value import once
from aimtrue.core.proof.originals.proof_original import ProofOriginal
from aimtrue.core.proof.regions.region import Region
from aimtrue.core.proof.surface import Numbers, Points, Surface, bounds

_ON_SURFACE = 1e-6
"""A place is on the surface when it is nearer than this share of the body's size."""


@dataclass(frozen=True, eq=False)
class Claim:
    """What the sheets say of a body, which the proof does not take for granted.

    Attributes:
        place: (3,) where its kit stands: the move from its own place to the plate, in mm.
        seat: how it stands there; None where it is released in its own place.
        sizes: released sizes along its own axes, in mm.
        lengths: per reading how long its gauge is, in mm.
        met: per reading whether it is within its band.
        triangles: how many it was written with; None for as many as it has.
        sides: of pairs that are on it, and how wide these are.
    """

    place: Points
    seat: Seat | None
    sizes: tuple[float, float, float]
    lengths: dict[ReadingId, tuple[float, ...]]
    met: dict[str, bool] = field(default_factory=dict)
    triangles: int | None = None
    sides: tuple[PairSide, ...] = ()

    def count(self, body: Body) -> int:
        """Return how many triangles a body of this claim has in the file."""
        return body.triangles if self.triangles is None else self.triangles


@dataclass(frozen=True, eq=False)
class ProvenBody:
    """A released body and what it is to be.

    Attributes:
        body, chain, claim: whose, by which chain, and what the sheets say.
        original: triangles of its source that may be its own, in numbers of the file.
        found: (r, 3, 3) its triangles as read back, in mm.
        limit: how far float32 may take a coordinate in the file, in mm.
        matched: which triangles of ``original`` it has; None when it was made anew, or comes from CAD.
        polygon: of each triangle of ``original``, the polygon of ``mesh`` that it is of.
        mesh: the whole source.
        slack: how far its surface may be from the original's, in mm; 0 when it is matched.
        patch: how far new surface may be from it besides, where holes were closed, in mm.
        expected: what one that was made of others is to fill, in mm of the corrected body; then ``original``
            is the surface of what it was made of, in these, too.
    """

    body: Body
    chain: PointTransform
    claim: Claim
    original: Surface
    found: Points
    limit: float
    matched: TriangleMatch | None = None
    polygon: Numbers = field(default_factory=lambda: np.empty(0, np.int64))
    mesh: ProofOriginal | None = None
    slack: float = 0.0
    patch: float = 0.0
    expected: Region | None = None

    @property
    def strange(self) -> bool:
        """Whether it has triangles that are not of the original."""
        return self.matched is not None and len(self.matched.strangers) > 0

    def mine(self) -> Numbers:
        """(k, 3): the original's triangles it is to have: those it has, or all that may be its own."""
        assert self.matched is not None
        return np.asarray(self.original.faces if self.strange else self.original.faces[self.matched.source])

    def in_order(self) -> Points:
        """(3 r, 3): corner by corner as they were released, where the original has them, in numbers of its
        file.
        """
        assert self.matched is not None
        faces = self.mine()
        order = (np.arange(3) + self.matched.turned[:, None]) % 3
        return np.asarray(self.original.points[np.take_along_axis(faces, order, axis=1)].reshape(-1, 3))

    def in_file(self, numbers: Points) -> Points:
        """Bring (n, 3) numbers of the source to where they should be in the released file."""
        return self.chain.points(numbers) + self.claim.place

    def true(self, points: Points) -> Points:
        """Bring (n, 3) points of the released file to the body's own axes at its true size: allowance
        taken off.
        """
        own = self.chain.unturned(points - self.claim.place)
        return np.asarray((own - self.chain.offset) / self.chain.stretch)

    @once
    def asked_corners(self) -> Points:
        """(k, 3, 3): the original's triangles that are this body's, where they should be, in mm."""
        if self.matched is None or not len(self.original.faces):
            return self.found
        return np.asarray(self.in_file(self.original.points)[self.mine()])

    def sizes(self, corners: Points) -> Points:
        """(3,): the extents of (k, 3, 3) triangles along the body's own axes."""
        # A move changes no size, and where nothing is turned neither does the rest.
        own = corners if self.chain.upright else (corners - self.claim.place) @ self.chain.turn
        low, high = bounds(own)
        return np.asarray(high - low)

    def carried(self, gauge: Gauge, points: Points) -> Points | None:
        """Return where (n, 3) places of the source are on the released points, in the released file.

        A place on the surface goes with its triangle; a centre with the corners around it, by the affine
        map that brings those to where they are now. None where neither tells.
        """
        if self.matched is None:
            return self._projected(points)
        if self.strange:
            return None  # This was told already.
        faces = self.mine()
        source = self.original.points
        size = float(np.ptp(source[faces].reshape(-1, 3), axis=0).max())
        squared, near, feet = igl.point_mesh_squared_distance(np.ascontiguousarray(points), source, faces)
        on = np.sqrt(np.maximum(squared, 0)) <= _ON_SURFACE * size
        result = np.empty_like(points)
        free = [anchor.on == "free" for anchor in gauge.anchors] if len(gauge.anchors) == len(points) else []
        for i, point in enumerate(points):
            if free and free[i]:
                result[i] = self._beside(point)
                continue
            if on[i]:
                corners = source[faces[near[i]]]
                there = np.roll(self.found[near[i]], self.matched.turned[near[i]], axis=0)
                result[i] = _weights(corners, feet.reshape(-1, 3)[i]) @ there
                continue
            here = self._around(gauge, points, point, source[faces])
            if here is None:
                return None
            which, corner = here
            turned = (corner - self.matched.turned[which]) % 3
            result[i] = _affine(source[faces[which, corner]], self.found[which, turned], point)
        return result

    def _beside(self, point: Points) -> Points:
        """Where a place beside the surface is: it goes with the body as a whole, kept bores left out."""
        assert self.matched is not None
        before, after = self.in_order(), self.found.reshape(-1, 3)
        plain = np.ones(len(before), dtype=bool)
        for bore in self.body.kept:
            plain &= ~self.chain.on_wall(before, bore)
        step = max(1, int(plain.sum()) // 3000)
        return _affine(before[plain][::step], after[plain][::step], point)

    def _around(
        self, gauge: Gauge, points: Points, point: Points, corners: Points
    ) -> tuple[np.ndarray[tuple[int], np.dtype[np.int64]], np.ndarray[tuple[int], np.dtype[np.int64]]] | None:
        """Find the corners around a centre: on the circle of a round gauge, else the nearest ring."""
        flat = corners.reshape(-1, 3)
        if gauge.kind in ("diameter", "radius"):
            u, v = points[1] - points[0], points[2] - points[0]
            axis, radius = np.cross(u, v), np.linalg.norm(u)
            axis = axis / np.linalg.norm(axis)
            from_centre = flat - points[0]
            aside = np.linalg.norm(from_centre - np.outer(from_centre @ axis, axis), axis=1)
            near = abs(aside - radius) <= 1e-3 * radius + 2 * (gauge.off or 0.0)
            high = abs(from_centre @ axis)
            near &= high <= high[near].min(initial=np.inf) + 2 * radius
        else:
            away = np.linalg.norm(flat - point, axis=1)
            near = away <= away.min() * (1 + 3e-3)
        if near.sum() < 3:
            return None
        candidates = np.flatnonzero(near)
        return candidates // 3, candidates % 3

    def _projected(self, points: Points) -> Points | None:
        """Places of a body made anew: the nearest on its surface, where that is near enough."""
        asked = self.in_file(points)
        surface = Surface(self.found.reshape(-1, 3), np.arange(self.found.size // 3).reshape(-1, 3))
        squared, _, feet = igl.point_mesh_squared_distance(
            np.ascontiguousarray(asked), np.ascontiguousarray(surface.points), surface.faces
        )
        good = np.sqrt(np.maximum(squared, 0.0)) <= self.slack + 2 * self.limit
        return np.asarray(feet.reshape(-1, 3)) if good.all() else None


def _weights(corners: Points, point: Points) -> Points:
    """Return (3,): barycentric weights of a point on a triangle; least squares, so that needles do no
    harm.
    """
    matrix = np.vstack(
        [corners.T - corners.mean(axis=0)[:, None], np.full(3, np.ptp(corners, axis=0).max() or 1.0)]
    )
    right = np.append(point - corners.mean(axis=0), matrix[3, 0])
    return np.asarray(np.linalg.lstsq(matrix, right, rcond=None)[0])


def _affine(before: Points, after: Points, point: Points) -> Points:
    """Apply the affine map that brings (k, 3) points to others to one more; in their plane when they are
    flat.
    """
    middle = before.mean(axis=0)
    linear = np.linalg.lstsq(before - middle, after - after.mean(axis=0), rcond=1e-9)[0]
    return np.asarray((point - middle) @ linear + after.mean(axis=0))
