"""Pins and the holes they go into: where they are, and where they end."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from aimtrue.core.model.shaping import Pin, Pins
from aimtrue.core.proof.regions.region import ROUND, Bools, Region
from aimtrue.core.proof.surface import Numbers, Points

_FLAT = 0.7
"""The flat of a keyed pin is this share of the radius away from its axis."""


def beside(pins: Pins | None, points: Points, far: Points | float = 0.0) -> Iterator[tuple[Pin, Numbers]]:
    """Go over pins, with the numbers of the points that each may matter to.

    Those are all that are no farther from where a pin or its hole may be than ``far``: a distance, or one for
    each point. Of many points few are near to a pin, and the others need not be looked at one by one.
    """
    if pins is None or not len(points):
        return
    most = np.hypot(pins.depth + pins.clearance, (pins.diameter + pins.clearance) / 2 * (1 + ROUND))
    reach = np.square((most + np.asarray(far)) * (1 + 1e-9))
    middle = points.mean(axis=0)  # As few digits as possible are lost to where the body is.
    away = points - middle
    squares = np.einsum("ij,ij->i", away, away)
    for pin in pins.places:
        at = np.asarray(pin.point) - middle
        near = squares - 2 * (away @ at) + at @ at <= reach + 1e-9 * (squares + at @ at)
        yield pin, np.flatnonzero(near)


def about(points: Points, pin: Pin, normal: Points) -> tuple[Points, Points, Points]:
    """Height over the plane, distance from the pin's axis, and how far out towards its flat."""
    away = points - np.asarray(pin.point)
    height = away @ normal
    across = away - height[:, None] * normal
    return height, np.linalg.norm(across, axis=1), across @ first_across(normal)


def first_across(normal: Points) -> Points:
    """Return the direction that flats of keyed pins face: the next axis in turn, of a plane square to one.

    Across any other, the part of the axis least along its normal that is square to both.
    """
    axis = int(np.argmax(np.abs(normal)))
    if abs(normal[axis]) == 1.0:
        return np.asarray(np.eye(3)[(axis + 1) % 3])
    way = np.cross(np.eye(3)[int(np.argmin(np.abs(normal)))], normal)
    return np.asarray(way / np.sqrt(way @ way))


def in_hole(pins: Pins, height: Points, aside: Points, flat: Points) -> Bools:
    """Tell which points are in the hole of a pin, by their height over the cut and distance from the axis."""
    deep, radius = pins.depth + pins.clearance, (pins.diameter + pins.clearance) / 2
    within = (np.abs(height) < deep) & (aside < radius)
    if pins.keyed:
        within &= flat < _FLAT * pins.diameter / 2 + pins.clearance / 2
    return np.asarray(within)


def in_pin(pins: Pins, aside: Points, flat: Points) -> Bools:
    """Tell which points are in a pin, by their distance from its axis."""
    within = aside < pins.diameter / 2
    return np.asarray(within & (flat < _FLAT * pins.diameter / 2) if pins.keyed else within)


def from_pin(pins: Pins, height: Points, aside: Points, flat: Points) -> Points:
    """To the nearest place where a pin or its hole may end."""
    deep, hole, stem = pins.depth + pins.clearance, (pins.diameter + pins.clearance) / 2, pins.diameter / 2
    tall = np.maximum(np.abs(height) - deep, 0)
    wide = np.maximum(aside - hole * (1 + ROUND), 0)
    walls = [np.abs(aside - hole)]
    bottoms = [np.abs(np.abs(height) - deep)]
    if pins.kind == "fixed":
        walls.append(np.abs(aside - stem))
        bottoms.append(np.abs(height - pins.depth))
    if pins.keyed:
        # A flat reaches as far as the circle that it is of.
        flats = [(_FLAT * stem + pins.clearance / 2, hole), (_FLAT * stem, stem)]
        along = np.sqrt(np.maximum(aside**2 - flat**2, 0))
        for edge, circle in flats if pins.kind == "fixed" else flats[:1]:
            half = np.sqrt(circle**2 - edge**2) * (1 + ROUND)
            walls.append(np.hypot(flat - edge, np.maximum(along - half, 0)))
    wall = np.hypot(np.min(walls, axis=0), tall)
    return np.asarray(np.minimum(wall, np.hypot(np.min(bottoms, axis=0), wide)))


@dataclass(frozen=True, eq=False)
class DowelRegion(Region):
    """A loose pin along Z, its middle at the origin."""

    pins: Pins

    def inside(self, points: Points) -> Bools:
        """Within its circle, its flat and its ends."""
        aside = np.hypot(points[:, 0], points[:, 1])
        within = in_pin(self.pins, aside, points[:, 0])
        return np.asarray(within & (abs(points[:, 2]) < self.pins.depth))

    def ends(self, points: Points) -> Points:
        """To its wall, its flat and its ends."""
        radius = self.pins.diameter / 2
        near = np.minimum(
            abs(np.hypot(points[:, 0], points[:, 1]) - radius), abs(abs(points[:, 2]) - self.pins.depth)
        )
        flat = abs(points[:, 0] - _FLAT * radius) if self.pins.keyed else near
        return np.asarray(np.minimum(near, flat))

    def loose(self, points: Points) -> Points:
        """What its facets lose."""
        return np.full(len(points), ROUND * self.pins.diameter / 2)
