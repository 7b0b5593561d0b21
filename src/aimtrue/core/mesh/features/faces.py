"""This module says what the faces of a mesh are that a gauge can be taken on.

They are found in :mod:`aimtrue.core.mesh.features.surfaces`.
"""

from __future__ import annotations

from dataclasses import dataclass

from aimtrue.core.mesh.features.circle_fit import Indices
from aimtrue.core.mesh.mesh import Floats


@dataclass(frozen=True, eq=False)
class FlatFace:
    """A flat face.

    Attributes:
        faces: its triangles.
        normal: (3,) unit vector, outward.
        point: (3,) the middle of its area.
        area: of it.
        off: how far its corners are from the plane at most.
        corners: (3,) vertices that are far from each other, which span the plane.
    """

    faces: Indices
    normal: Floats
    point: Floats
    area: float
    off: float
    corners: Indices


@dataclass(frozen=True, eq=False)
class RoundFace:
    """A cylinder, or a part of one.

    Attributes:
        faces: its triangles.
        axis: (3,) unit vector.
        centre: (3,) on the axis, halfway along.
        radius: of the circle fitted to the corners.
        depth: along the axis.
        turn: how much of the full turn it covers, in radians.
        hollow: whether material is outside of it: a bore, not a boss.
        off: how far corners are from the fitted cylinder at most.
        area: of its facets.
        corners: up to 24 vertices spread over it.
    """

    faces: Indices
    axis: Floats
    centre: Floats
    radius: float
    depth: float
    turn: float
    hollow: bool
    off: float
    area: float
    corners: Indices


@dataclass(frozen=True, eq=False)
class Thread:
    """One flank of a screw thread: a strip that climbs steadily about an axis.

    Attributes:
        faces, axis, centre, depth, hollow, off, area, corners: as of :class:`RoundFace`.
        radius: of its outermost corners.
        pitch: how far it climbs in a full turn.
        turns: how many of those there are.
        hand: 1 of one that climbs as it turns counter-clockwise, seen against its axis: right-hand; -1 of the
            other.
    """

    faces: Indices
    axis: Floats
    centre: Floats
    radius: float
    depth: float
    hollow: bool
    off: float
    area: float
    corners: Indices
    pitch: float
    turns: float
    hand: int
