"""Rings of straight and round runs: (k, 3) corners, with the bulge of what goes on from each.

The bulge is the tangent of a quarter of the angle that an arc turns by, counter-clockwise; nothing of what
is straight: so drawings for machines keep arcs (DXF reference, LWPOLYLINE, group code 42).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from aimtrue.core.mesh.arrays import ring_area
from aimtrue.core.mesh.mesh import Floats

_PER_ARC = 24
"""Sides of the polygon that stands for an arc where only what lies in what is asked."""


def bulge_of(start: Floats, end: Floats, via: Floats | None) -> float:
    """Return the bulge of a run between two (2,) places through the middle of its arc; None is straight."""
    if via is None:
        return 0.0
    chord, middle = end - start, (start + end) / 2
    rise = float(np.linalg.norm(via - middle)) / (float(np.linalg.norm(chord)) / 2)
    # What turns counter-clockwise lies to the right of its chord.
    aside = chord[0] * (via[1] - start[1]) - chord[1] * (via[0] - start[0])
    return rise if aside < 0 else -rise


def angles_of(ring: Floats) -> Floats:
    """Return (k,): by how much each run turns, in radians, counter-clockwise."""
    return np.asarray(4 * np.arctan(ring[:, 2]))


def radii_of(ring: Floats) -> Floats:
    """Return (k,): the radius of each arc; nothing of what is straight."""
    half = np.abs(np.sin(angles_of(ring) / 2))
    return np.asarray(np.divide(_chords(ring) / 2, half, out=np.zeros(len(ring)), where=half > 0))


def area_of(ring: Floats) -> float:
    """Return what a ring bounds, below 0 of one that runs clockwise.

    By the shoelace formula, and of each arc the segment over its chord, r² (θ - sin θ) / 2.
    """
    angles = angles_of(ring)
    segments = radii_of(ring) ** 2 * (angles - np.sin(angles)) / 2
    return ring_area(ring[:, :2]) + float(segments.sum())


def length_of(ring: Floats) -> float:
    """Return how long a ring is."""
    angles = np.abs(angles_of(ring))
    return float(np.where(angles > 0, radii_of(ring) * angles, _chords(ring)).sum())


def oriented(rings: Sequence[Floats]) -> tuple[list[Floats], int]:
    """Return rings with material to their left, and how many of them are outer ones."""
    curved, outer = [], 0
    for number, ring in enumerate(rings):
        others = [shapely.Polygon(as_polygon(ring)) for k, ring in enumerate(rings) if k != number]
        place = shapely.Point(as_polygon(ring)[0])
        is_outer = sum(bool(other.contains(place)) for other in others) % 2 == 0
        outer += is_outer
        curved.append(ring if (area_of(ring) > 0) is is_outer else turned_round(ring))
    return curved, outer


def turned_round(ring: Floats) -> Floats:
    """Return a ring the other way round."""
    return np.column_stack([ring[::-1, :2], -np.roll(ring[::-1, 2], -1)])


def _chords(ring: Floats) -> Floats:
    return np.asarray(np.linalg.norm(np.roll(ring[:, :2], -1, axis=0) - ring[:, :2], axis=1))


def as_polygon(ring: Floats) -> Floats:
    """Return (n, 2): a polygon whose corners are on a ring, many on each arc."""
    points = []
    corners = ring[:, :2]
    for corner, following, angle in zip(corners, np.roll(corners, -1, axis=0), angles_of(ring), strict=True):
        points.append(corner[None])
        if angle:
            chord = following - corner
            middle = (corner + following) / 2 + np.array([-chord[1], chord[0]]) / 2 / np.tan(angle / 2)
            turns = angle * np.arange(1, _PER_ARC) / _PER_ARC
            away = corner - middle
            cos, sin = np.cos(turns), np.sin(turns)
            around = np.column_stack([cos * away[0] - sin * away[1], sin * away[0] + cos * away[1]])
            points.append(middle + around)
    return np.concatenate(points)
