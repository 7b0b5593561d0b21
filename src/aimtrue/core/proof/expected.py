"""What a body that was made of others is to be: a region of space, stated anew from what was decided.

Source: docs/architecture.md, "Division". A region tells of points whether they are in it, and how far they
are from the nearest place where it may end. Everything is in mm of the corrected body, Z up.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from aimtrue.core.model.shaping import (
    Above,
    DowelOf,
    Drain,
    Hollow,
    InPieces,
    Inside,
    Pin,
    Pins,
    Prism,
    Raised,
    Slice,
    Together,
)
from aimtrue.core.proof import distance
from aimtrue.core.proof.surface import Points, Surface

Bools = NDArray[np.bool_]
_ROUND = 2.5e-3
"""Of a radius: facets of a pin or its hole may be so far from its circle."""
_FLAT = 0.7
"""Of a pin's radius: so far from its middle is the flat of one that is keyed."""
_HAIR_MM = 2e-4
_BETWEEN = 1.25
"""Times what a wall was measured to be off at places on its facets: elsewhere on them it may be more."""


class Region(ABC):
    """A region of space."""

    @abstractmethod
    def inside(self, points: Points) -> Bools:
        """Tell which of (n, 3) points are in it."""

    @abstractmethod
    def ends(self, points: Points) -> Points:
        """Return (n,): how far points are from the nearest place where it may end, at least."""

    def loose(self, points: Points) -> Points:
        """Return (n,): by how much that may be off, since facets stand for something round."""
        return np.zeros(len(points))

    def telling(self) -> Points:
        """Return (n, 3) places in small parts of it, which points spread all over would hardly meet."""
        return np.empty((0, 3))


@dataclass(frozen=True, eq=False)
class Solid(Region):
    """What a closed surface bounds; ``slack`` is how far the surface itself may be off."""

    surface: Surface
    slack: float = 0.0

    def inside(self, points: Points) -> Bools:
        """By the winding number."""
        return np.asarray(distance.inside(points, self.surface))

    def ends(self, points: Points) -> Points:
        """To the nearest triangle."""
        return distance.away(points, self.surface)

    def loose(self, points: Points) -> Points:
        """As far as its facets, or a remedy, may have moved it."""
        return np.full(len(points), self.slack)


@dataclass(frozen=True, eq=False)
class Planes:
    """Cutting planes; ``only`` are the sides of earlier ones that each is limited to."""

    normals: Points
    heights: Points
    only: tuple[tuple[tuple[int, bool], ...], ...]

    def over(self, points: Points) -> Points:
        """Return (n, p): how far points are over each plane."""
        return np.asarray(points @ self.normals.T - self.heights)

    def sides(self, points: Points) -> NDArray[np.int8]:
        """Return (n, p): 1 above a plane, 0 below, -1 where it does not cut."""
        found = (self.over(points) > 0).astype(np.int8)
        for number, limits in enumerate(self.only):
            for other, above in limits:
                found[found[:, other] != above, number] = -1
        return found


@dataclass(frozen=True, eq=False)
class Cell(Region):
    """What of a whole is on certain sides of planes, with the holes of its pins and the pins fixed to it.

    ``sides`` are (k, p): the cells it may be in, each a side of every plane, as :meth:`Planes.sides` tells.
    A whole that is ``open`` has no inside; what is ``alone`` in its cells has all of the surface there.
    """

    whole: Region
    planes: Planes
    sides: NDArray[np.int8]
    pins: Pins | None
    open: bool = False
    alone: bool = True

    def inside(self, points: Points) -> Bools:
        """In the whole, in one of the cells, in no hole; or in a pin that is fixed to it."""
        found = self.whole.inside(points) & self._mine(points)
        for pin in self.pins.places if self.pins else ():
            assert self.pins is not None
            height, aside, flat = _about(points, pin, self.normals[pin.plane])
            hole = _in_hole(self.pins, height, aside, flat)
            if self.pins.kind == "dowel":
                found &= ~hole
                continue
            if (self.sides[:, pin.plane] == 1).any():
                found &= ~(hole & (height > 0))
            if (self.sides[:, pin.plane] == 0).any() and self._holds(pin):
                stem = (height > 0) & (height < self.pins.depth) & _in_pin(self.pins, aside, flat)
                found |= stem
        return np.asarray(found)

    def among(self, points: Points) -> Bools:
        """Tell which points are in one of its cells, whether there is material or not."""
        return self._mine(points)

    def telling(self) -> Points:
        """In the middle of every pin and hole, on both sides of its plane."""
        found = [self.whole.telling()]
        for pin in self.pins.places if self.pins else ():
            assert self.pins is not None
            away = np.array([[-1.0], [1.0]]) * (self.pins.depth / 2) * self.normals[pin.plane]
            found.append(np.asarray(pin.point) + away)
        return np.concatenate(found)

    def _holds(self, pin: Pin) -> bool:
        """Whether a fixed pin stands on this piece: what lies right under it is in it."""
        under = np.asarray(pin.point)[None] - 1e-3 * self.normals[pin.plane]
        return bool((self.whole.inside(under) & self._mine(under))[0])

    def _mine(self, points: Points) -> Bools:
        """Which points are in one of its cells."""
        sides = self.planes.sides(points)
        return np.asarray((sides[:, None] == self.sides[None]).all(axis=2).any(axis=1))

    @property
    def normals(self) -> Points:
        """(p, 3): those of its planes."""
        return self.planes.normals

    def ends(self, points: Points) -> Points:
        """To the whole's surface, the planes, and the walls, bottoms and flats of pins and holes."""
        near = np.minimum(self.whole.ends(points), np.abs(self.planes.over(points)).min(axis=1))
        for pin in self.pins.places if self.pins else ():
            assert self.pins is not None
            height, aside, flat = _about(points, pin, self.normals[pin.plane])
            near = np.minimum(near, _from_pin(self.pins, height, aside, flat))
        return np.asarray(near)

    def loose(self, points: Points) -> Points:
        """What facets of pins lose, near them."""
        found = self.whole.loose(points)
        for pin in self.pins.places if self.pins else ():
            assert self.pins is not None
            height, aside, _ = _about(points, pin, self.normals[pin.plane])
            reach = (self.pins.diameter + self.pins.clearance) / 2
            close = (np.abs(height) < self.pins.depth + self.pins.clearance + 1) & (aside < 1.5 * reach)
            found = np.where(close, np.maximum(found, _ROUND * reach + _HAIR_MM), found)
        return np.asarray(found)


def _about(points: Points, pin: Pin, normal: Points) -> tuple[Points, Points, Points]:
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


def _in_hole(pins: Pins, height: Points, aside: Points, flat: Points) -> Bools:
    deep, radius = pins.depth + pins.clearance, (pins.diameter + pins.clearance) / 2
    found = (np.abs(height) < deep) & (aside < radius)
    if pins.keyed:
        found &= flat < _FLAT * pins.diameter / 2 + pins.clearance / 2
    return np.asarray(found)


def _in_pin(pins: Pins, aside: Points, flat: Points) -> Bools:
    found = aside < pins.diameter / 2
    return np.asarray(found & (flat < _FLAT * pins.diameter / 2) if pins.keyed else found)


def _from_pin(pins: Pins, height: Points, aside: Points, flat: Points) -> Points:
    """To the nearest place where a pin or its hole may end."""
    deep, hole, stem = pins.depth + pins.clearance, (pins.diameter + pins.clearance) / 2, pins.diameter / 2
    tall = np.maximum(np.abs(height) - deep, 0)
    wide = np.maximum(aside - hole * (1 + _ROUND), 0)
    walls = [np.abs(aside - hole)]
    bottoms = [np.abs(np.abs(height) - deep)]
    if pins.kind == "fixed":
        walls.append(np.abs(aside - stem))
        bottoms.append(np.abs(height - pins.depth))
    if pins.keyed:
        edges = (_FLAT * stem + pins.clearance / 2, _FLAT * stem)
        walls += [np.abs(flat - edge) for edge in (edges if pins.kind == "fixed" else edges[:1])]
    wall = np.hypot(np.min(walls, axis=0), tall)
    return np.asarray(np.minimum(wall, np.hypot(np.min(bottoms, axis=0), wide)))


@dataclass(frozen=True, eq=False)
class Between(Region):
    """What of a whole lies between two heights on an axis; ``wall`` of it, if it is thinned from inside."""

    whole: Region
    axis: int
    low: float
    high: float
    wall: float | None = None

    def inside(self, points: Points) -> Bools:
        """In the whole, between the heights, and within the wall."""
        along = points[:, self.axis]
        found = self.whole.inside(points) & (along > self.low) & (along < self.high)
        return found & (self.whole.ends(points) < self.wall) if self.wall is not None else found

    def ends(self, points: Points) -> Points:
        """To the whole's surface, the planes, and the inside of the wall."""
        along, near = points[:, self.axis], self.whole.ends(points)
        found = np.minimum(near, np.minimum(abs(along - self.low), abs(along - self.high)))
        return np.asarray(found if self.wall is None else np.minimum(found, abs(near - self.wall)))

    def loose(self, points: Points) -> Points:
        """A thinned wall is as thick as its grid was fine."""
        found = self.whole.loose(points)
        if self.wall is None:
            return found
        return np.where(self.whole.ends(points) > self.wall / 2, np.maximum(found, self.wall / 2), found)


@dataclass(frozen=True, eq=False)
class Split(Region):
    """One of two parts of a whole: above a height, for a depth, or within outlines; or the rest."""

    whole: Region
    shaping: Above | Inside
    rest: bool
    top: float

    @property
    def _axis(self) -> int:
        return "xyz".index(self.shaping.axis)

    def _spans(self) -> tuple[float, float]:
        if isinstance(self.shaping, Above):
            low = self.shaping.at
            return low, math.inf if self.shaping.depth is None else low + self.shaping.depth
        low = -math.inf if self.shaping.depth is None else self.top - self.shaping.depth
        return low, math.inf

    def _shape(self) -> shapely.Geometry | None:
        if isinstance(self.shaping, Above):
            return None
        shape = shapely.Polygon()
        for ring in self.shaping.rings:  # even and odd: what is within one more outline changes sides
            shape = shapely.symmetric_difference(shape, shapely.Polygon(ring))
        shapely.prepare(shape)
        return shape

    def _plan(self, points: Points) -> Points:
        return np.column_stack([points[:, (self._axis + 1) % 3], points[:, (self._axis + 2) % 3]])

    def inside(self, points: Points) -> Bools:
        """In the whole, and in the part."""
        along, (low, high), shape = points[:, self._axis], self._spans(), self._shape()
        part = (along > low) & (along < high)
        if shape is not None:
            plan = self._plan(points)
            part &= shapely.contains_xy(shape, plan[:, 0], plan[:, 1])
        return np.asarray(self.whole.inside(points) & (~part if self.rest else part))

    def ends(self, points: Points) -> Points:
        """To the whole's surface, the planes, and the walls under the outlines."""
        near, along, shape = self.whole.ends(points), points[:, self._axis], self._shape()
        for height in self._spans():
            if math.isfinite(height):
                near = np.minimum(near, abs(along - height))
        if shape is not None:
            plan = shapely.points(self._plan(points))
            near = np.minimum(near, shapely.distance(shape.boundary, plan))
        return np.asarray(near)

    def loose(self, points: Points) -> Points:
        """As the whole."""
        return self.whole.loose(points)


@dataclass(frozen=True, eq=False)
class Swept(Region):
    """What of a whole is in one of some prisms; or the rest."""

    whole: Region
    prisms: tuple[Prism, ...]
    rest: bool

    def inside(self, points: Points) -> Bools:
        """In the whole, and in a prism."""
        part = np.zeros(len(points), bool)
        for prism in self.prisms:
            along, plan, shape = _under(points, prism)
            part |= (along > prism.low) & (along < prism.high) & shapely.contains_xy(shape, *plan.T)
        return np.asarray(self.whole.inside(points) & (~part if self.rest else part))

    def ends(self, points: Points) -> Points:
        """To the whole's surface, and the walls and ends of prisms."""
        near = self.whole.ends(points)
        for prism in self.prisms:
            along, plan, shape = _under(points, prism)
            wall = shapely.distance(shape.boundary, shapely.points(plan))
            over = np.maximum(np.maximum(prism.low - along, along - prism.high), 0)
            end = np.minimum(abs(along - prism.low), abs(along - prism.high))
            beside = np.where(shapely.contains_xy(shape, *plan.T), 0, wall)
            near = np.minimum(near, np.minimum(np.hypot(wall, over), np.hypot(end, beside)))
        return np.asarray(near)

    def loose(self, points: Points) -> Points:
        """As the whole."""
        return self.whole.loose(points)

    def telling(self) -> Points:
        """Over and under the middle of every prism's rings."""
        found = [self.whole.telling()]
        for prism in self.prisms:
            middle = np.mean(np.asarray(prism.rings[0]), axis=0)
            found.append(middle + np.array([[-0.2], [0.2]]) * np.asarray(prism.normal))
        return np.concatenate(found)


def _under(points: Points, prism: Prism) -> tuple[Points, Points, shapely.Geometry]:
    """How far points are along a prism, where they are across it, and the shape of what it sweeps."""
    normal = np.asarray(prism.normal)
    first = first_across(normal)
    ways = np.column_stack([first, np.cross(normal, first)])
    shape = shapely.Polygon()
    for ring in prism.rings:  # even and odd: what is within one more outline changes sides
        shape = shapely.symmetric_difference(shape, shapely.Polygon(np.asarray(ring) @ ways))
    shapely.prepare(shape)
    return points @ normal, points @ ways, shape


@dataclass(frozen=True, eq=False)
class Hollowed(Region):
    """A whole with a hollow a wall's thickness inside it, and drains into that.

    ``thick`` is how much thicker the wall may be where the hollow has an edge.
    """

    whole: Region
    shaping: Hollow
    thick: float

    def inside(self, points: Points) -> Bools:
        """In the whole and in its wall, and in no drain."""
        found = self.whole.inside(points) & (self.whole.ends(points) < self.shaping.wall)
        for drain in self.shaping.drains:
            height, aside = _along(points, drain)
            low, high = -self.shaping.wall, drain.depth + drain.diameter / 2
            found &= ~((aside < drain.diameter / 2) & (height > low) & (height < high))
        return np.asarray(found)

    def ends(self, points: Points) -> Points:
        """To the surface, to where the wall ends, and to the walls of drains."""
        deep = self.whole.ends(points)
        found = np.minimum(deep, abs(deep - self.shaping.wall))
        for drain in self.shaping.drains:
            height, aside = _along(points, drain)
            found = np.minimum(found, abs(aside - drain.diameter / 2))
            beside = np.maximum(aside - drain.diameter / 2, 0)
            found = np.minimum(found, np.hypot(beside, height - drain.depth - drain.diameter / 2))
        return np.asarray(found)

    def loose(self, points: Points) -> Points:
        """The wall is as even as it was measured to be; a drain's facets are near its circle."""
        deep, found = self.whole.ends(points), self.whole.loose(points)
        found = np.where(deep > self.shaping.wall / 2, np.maximum(found, self.thick), found)
        for drain in self.shaping.drains:
            _, aside = _along(points, drain)
            near = aside < drain.diameter
            found = np.where(near, np.maximum(found, 2 * _ROUND * drain.diameter), found)
        return found

    def telling(self) -> Points:
        """In the middle of every drain."""
        found = [self.whole.telling()]
        for drain in self.shaping.drains:
            found.append((np.asarray(drain.point) + drain.depth / 2 * np.asarray(drain.direction))[None])
        return np.concatenate(found)

    def depths(self, points: Points) -> Points:
        """Return how deep those of (n, 3) places are that are on the hollow's own surface."""
        deep = self.whole.ends(points)
        own = deep > self.shaping.wall / 2
        for drain in self.shaping.drains:
            _, aside = _along(points, drain)
            own &= aside > drain.diameter
        return np.asarray(deep[own])


def _along(points: Points, drain: Drain) -> tuple[Points, Points]:
    way = np.asarray(drain.direction)
    away = points - np.asarray(drain.point)
    height = away @ way
    return height, np.linalg.norm(away - height[:, None] * way, axis=1)


@dataclass(frozen=True, eq=False)
class Both(Region):
    """Two solids joined, the second cut from the first, or what they have in common; of a split, either."""

    one: Region
    other: Region
    how: str

    def inside(self, points: Points) -> Bools:
        """As the word says."""
        a, b = self.one.inside(points), self.other.inside(points)
        return np.asarray({"join": a | b, "cut": a & ~b, "common": a & b}[self.how])

    def ends(self, points: Points) -> Points:
        """To either surface."""
        return np.minimum(self.one.ends(points), self.other.ends(points))

    def loose(self, points: Points) -> Points:
        """As the looser of them."""
        return np.maximum(self.one.loose(points), self.other.loose(points))


@dataclass(frozen=True, eq=False)
class Rod(Region):
    """A loose pin along Z, its middle at the origin."""

    pins: Pins

    def inside(self, points: Points) -> Bools:
        """Within its circle, its flat and its ends."""
        aside = np.hypot(points[:, 0], points[:, 1])
        found = _in_pin(self.pins, aside, points[:, 0])
        return np.asarray(found & (abs(points[:, 2]) < self.pins.depth))

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
        return np.full(len(points), _ROUND * self.pins.diameter / 2)


_MOSTLY = 0.05
"""Of the places within a piece: so few may be in cells besides its own, where slivers were given to it."""


def region(
    shaping: InPieces | Slice | Above | Inside | Raised | Hollow | Together | DowelOf,
    number: int,
    wholes: list[Region],
    within: Points,
    top: tuple[float, float, float],
    wall_mm: tuple[float, float, float] | None,
    alone: bool = True,
) -> Region:
    """Return the region that a body is to fill.

    Args:
        shaping, number: what was done, and which of the bodies it is that came of it.
        wholes: what it was done to.
        within: (n, 3) places within the released body, which tell the cell that it is in.
        top: the highest places of the whole along the axes.
        wall_mm: of a hollow, the wall asked for, and its least and greatest as made.
        alone: whether no other piece is in the same cell.
    """
    match shaping:
        case InPieces():
            normals = np.array([plane.normal for plane in shaping.planes])
            heights = np.array([plane.at for plane in shaping.planes])
            only = tuple(tuple((one.plane, one.above) for one in plane.only) for plane in shaping.planes)
            planes = Planes(normals, heights, only)
            sides = planes.sides(within)
            if not len(sides):  # faces inward, so there is no place within it
                sides = np.zeros((1, len(heights)), np.int8)
            cells, counts = np.unique(sides, axis=0, return_counts=True)
            most = int(counts.argmax())
            keep = counts >= (1 if shaping.slivers == "give" else counts[most])
            keep &= (counts <= _MOSTLY * counts.sum()) | (np.arange(len(counts)) == most)
            return Cell(wholes[0], planes, cells[keep], shaping.pins, shaping.open, alone)
        case Slice():
            axis = "xyz".index(shaping.axis)
            return Between(wholes[0], axis, shaping.low, shaping.high, shaping.wall)
        case Above() | Inside():
            return Split(wholes[0], shaping, number == 1, top["xyz".index(shaping.axis)])
        case Raised():
            return Swept(wholes[0], shaping.prisms, number == 1)
        case Hollow():
            asked, least, greatest = wall_mm or (shaping.wall, shaping.wall, shaping.wall)
            thick = max(greatest - asked, asked - least, 0.0)
            return Hollowed(wholes[0], shaping, _BETWEEN * thick + 1e-6)
        case Together():
            how = ("cut", "common")[number] if shaping.how == "split" else shaping.how
            return Both(wholes[0], wholes[1], how)
        case DowelOf():
            return Rod(shaping.pins)
