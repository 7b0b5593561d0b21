"""Tells whether a pin's holes and the wall around them stay within the material, clear of cuts and of each
other.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.division.cutting.planes import letter_of
from aimtrue.core.division.cutting.solids import basis_of, distances, is_inside
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats, Mesh, compacted
from aimtrue.core.model.lengths import written
from aimtrue.core.model.shaping import Pin, Pins, Plane

Checked = NDArray[np.bool_]


def cuts(planes: Sequence[Plane], number: int, point: Floats) -> bool:
    """Tell whether a plane cuts at a place on it, or is limited to others."""
    sides = [(planes[plane_side.plane], plane_side.above) for plane_side in planes[number].only]
    return all(bool(point @ np.asarray(plane.normal) > plane.at) is above for plane, above in sides)


def may_be_clear(
    near: Mesh, planes: Sequence[Plane], number: int, points: Floats, pins: Pins, wall: float
) -> Checked:
    """Tell which of (n, 3) places on a plane are worth a closer look, by places along their axis."""
    normal, deep = np.asarray(planes[number].normal), pins.depth + pins.clearance
    hole = (pins.diameter + pins.clearance) / 2
    # A ball about a place so far from the ends lies within the hole and its wall.
    ends, ball = max(deep - hole, 0.0), min(hole, deep) + wall
    heights = np.linspace(-ends, ends, max(3, 2 * math.ceil(ends / max(ball, 0.5)) + 1))
    along = points[:, None] + heights[:, None] * normal
    away = distances(along.reshape(-1, 3), near).reshape(len(points), -1)
    good = (away >= ball * (1 - 1e-6)).all(axis=1)
    return np.asarray(good & _clear_of_cuts(planes, number, points, deep + wall, hole + wall))


def _clear_of_cuts(
    planes: Sequence[Plane], number: int, points: Floats, half: float, radius: float
) -> Checked:
    """Tell of (n, 3) places on a plane whether round posts across it meet no other plane."""
    good = np.ones(len(points), dtype=bool)
    for other, plane in enumerate(planes):
        if other != number:
            normal = np.asarray(plane.normal)
            lean = min(abs(float(normal @ np.asarray(planes[number].normal))), 1.0)
            reach = half * lean + radius * math.sqrt(1 - lean * lean)
            good &= np.abs(points @ normal - plane.at) >= reach * (1 - 1e-6)
    return good


def is_clear(  # noqa: PLR0913 - told apart by their names
    mesh: Mesh,
    near: Mesh,
    planes: Sequence[Plane],
    pin: Pin,
    pins: Pins,
    wall: float,
    others: Sequence[Pin],
) -> bool:
    """Tell whether a pin's holes and the wall around them stay within the material, exactly.

    Args:
        mesh: the whole, in mm.
        near: the triangles of it near the pin's plane.
        planes: that it is cut by.
        pin: that is looked at.
        pins: how large all of them are.
        wall: that is to be left around a hole, in mm.
        others: pins whose holes have to stay apart from its own by as much.
    """
    normal, point = np.asarray(planes[pin.plane].normal), np.asarray(pin.point)
    hole, deep = (pins.diameter + pins.clearance) / 2, pins.depth + pins.clearance
    if not cuts(planes, pin.plane, point) or not is_inside(mesh, point[None])[0]:
        return False
    if not _clear_of_cuts(planes, pin.plane, point[None], deep + wall, hole + wall)[0]:
        return False
    corners = ((near.vertices - point) @ basis_of(normal).T)[near.faces]
    if _meets_post(corners, (hole + wall) * (1 - 1e-6), (deep + wall) * (1 - 1e-6)):
        return False
    return all(
        _apart(point, normal, np.asarray(other.point), np.asarray(planes[other.plane].normal), deep)
        >= (2 * hole + wall) * (1 - 1e-6)
        for other in others
    )


def _meets_post(corners: Floats, radius: float, half: float) -> bool:
    """Tell whether triangles come into a round post about Z, from -half to half.

    Each is cut off at the ends of the post; what is left of it comes in where its outline does, or where the
    axis goes through it.

    Args:
        corners: (m, 3, 3) of the triangles.
        radius, half: of the post.
    """
    low, high = corners.min(axis=1), corners.max(axis=1)
    near = (high[:, 2] > -half) & (low[:, 2] < half)
    near &= (high[:, :2] > -radius).all(axis=1) & (low[:, :2] < radius).all(axis=1)
    corners = corners[near]
    if not len(corners):
        return False
    start = corners.reshape(-1, 3)
    run = np.roll(corners, -1, axis=1).reshape(-1, 3) - start
    rise = np.where(run[:, 2] == 0, 1e-300, run[:, 2])
    ends = np.sort(np.stack([(-half - start[:, 2]) / rise, (half - start[:, 2]) / rise]), axis=0)
    first, last = np.maximum(ends[0], 0.0), np.minimum(ends[1], 1.0)
    level = (run[:, 2] == 0) & (np.abs(start[:, 2]) < half)
    first, last = np.where(level, 0.0, first), np.where(level, 1.0, last)
    inner = (first <= last) & ((run[:, 2] != 0) | level)
    flat, way = start[inner, :2], run[inner, :2]
    if _from_middle(flat + first[inner, None] * way, flat + last[inner, None] * way) < radius:
        return True
    if any(_from_middle(*_at_height(corners, height)) < radius for height in (-half, half)):
        return True
    a, b, c = (corners[:, k] for k in range(3))
    normal = np.cross(b - a, c - a)
    turn = [p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0] for p, q in ((a, b), (b, c), (c, a))]
    around = np.logical_or(np.all(np.array(turn) > 0, axis=0), np.all(np.array(turn) < 0, axis=0))
    height = (normal[around] * a[around]).sum(axis=1) / normal[around, 2]
    return bool((np.abs(height) < half).any())


def _at_height(corners: Floats, height: float) -> tuple[Floats, Floats]:
    """Return the ends, each (k, 2), of the sections of triangles at a height."""
    over = corners[:, :, 2] > height
    crossed = corners[over.any(axis=1) & ~over.all(axis=1)]
    over = crossed[:, :, 2] > height
    lone = np.where(over.sum(axis=1) == 1, over.argmax(axis=1), (~over).argmax(axis=1))
    row = np.arange(len(crossed))
    top = crossed[row, lone]
    touching = []
    for k in (1, 2):
        other = crossed[row, (lone + k) % 3]
        share = (height - top[:, 2]) / (other[:, 2] - top[:, 2])
        touching.append(top[:, :2] + share[:, None] * (other[:, :2] - top[:, :2]))
    return touching[0], touching[1]


def _from_middle(start: Floats, end: Floats) -> float:
    """Return how near runs between (k, 2) places come to the origin; infinite where there is none."""
    way = end - start
    square = np.maximum((way * way).sum(axis=1), 1e-300)
    share = np.clip(-(start * way).sum(axis=1) / square, 0.0, 1.0)
    return float(np.linalg.norm(start + share[:, None] * way, axis=1).min(initial=math.inf))


def _apart(a: Floats, along_a: Floats, b: Floats, along_b: Floats, half: float) -> float:
    """Return how far the axes of two holes are apart that reach ``half`` to both sides of their places.

    The distance of two runs, Ch. Ericson, "Real-Time Collision Detection", 2005, 5.1.9, by turns: the nearest
    place on one for the other's, which comes to rest since both are straight.
    """
    lean = float(along_a @ along_b)
    off = a - b
    down, up = float(along_a @ off), float(along_b @ off)
    away = 1 - lean * lean
    s = float(np.clip((lean * up - down) / away, -half, half)) if away > 1e-12 else 0.0
    for _ in range(3):
        t = float(np.clip(lean * s + up, -half, half))
        s = float(np.clip(lean * t - down, -half, half))
    return float(np.linalg.norm(off + s * along_a - t * along_b))


def near_plane(mesh: Mesh, plane: Plane, reach: float) -> Mesh:
    """The triangles that come near a plane: of a large mesh the others need not be searched."""
    along = (mesh.vertices @ np.asarray(plane.normal))[mesh.faces] - plane.at
    near = (along.min(axis=1) <= reach) & (along.max(axis=1) >= -reach)
    return compacted(mesh.vertices, np.ascontiguousarray(mesh.faces[near]))


def have_room(mesh: Mesh, planes: Sequence[Plane], pins: Pins) -> tuple[bool, ...]:
    """Tell of each pin whether its holes stay within the pieces, and meet no other pin and no other cut."""
    close = []
    for number, pin in enumerate(pins.places):
        near = near_plane(mesh, planes[pin.plane], pins.depth + pins.clearance)
        close.append(is_clear(mesh, near, planes, pin, pins, 0.0, pins.places[:number]))
    return tuple(close)


def refuse_in_the_way(mesh: Mesh, planes: Sequence[Plane], pins: Pins) -> None:
    """Refuse places where a hole would come out of a piece, meet another, or cross another cut."""
    for pin, good in zip(pins.places, have_room(mesh, planes, pins), strict=True):
        if not good:
            where = ", ".join(written(number) for number in pin.point)
            raise Refused(
                "pin-out",
                f"the pin on cut {letter_of(pin.plane)} at {where} comes out of its piece, or meets another",
                remedy="move it, or make it smaller",
            )
