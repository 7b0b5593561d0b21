"""Pins at the cuts: where they go well inside the section, their holes, and the clearance they have."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from aimtrue.core.division.pieces import Piece
from aimtrue.core.division.planes import letter_of
from aimtrue.core.division.solids import basis_of, distances, is_inside
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats, Mesh, compacted
from aimtrue.core.mesh.outlines import outline_from
from aimtrue.core.model.lengths import written
from aimtrue.core.model.shaping import Pin, Pins, Plane
from aimtrue.core.model.vectors import as_vec3

Checked = NDArray[np.bool_]
SIDES = 64
"""Of the polygon that a pin or its hole is made as."""
WALL_MM = 1.2
"""Material left around a hole, unless another is typed: three beads."""
_FLAT = 0.7
"""Of the radius: so far from the middle is the flat of one that is keyed."""
_HAIR = 1e-4
"""In mm: a section on a ledge is what lies on both sides of it."""
_TRIED = 1500
"""Places looked at on one face of a cut, at most."""
_ON_RIM = 160
_EVERY_MM = 60.0
"""One pin for so much of a face's length, when no count is told; two at least, four at most."""


@dataclass(frozen=True)
class Without:
    """A face of a cut that has no room for a pin: on which plane, and the widest that would go in, in mm."""

    plane: int
    widest_mm: float


def said(without: Sequence[Without], pins: Pins, wall: float) -> tuple[str, ...]:
    """Say which cuts have faces without room, and what would go in."""
    found = []
    for plane in sorted({one.plane for one in without}):
        mine = [one.widest_mm for one in without if one.plane == plane]
        many, have = ("a face", "has") if len(mine) == 1 else (f"{len(mine)} faces", "have")
        widest = min(mine)
        rest = f"at most {written(widest)} mm would go in" if widest > 0 else "there is room for none"
        if widest >= pins.diameter:  # the face has room, what is behind it has not
            rest = f"it would meet an outside, a cut or another pin within {written(pins.depth)} mm"
        found.append(
            f"{many} of cut {letter_of(plane)} {have} no room for a pin of {written(pins.diameter)} mm "
            f"with {written(wall)} mm around it; {rest}"
        )
    return tuple(found)


def refuse_odd(pins: Pins) -> None:
    """Refuse sizes that make no pin."""
    for name, value in (("diameter", pins.diameter), ("depth", pins.depth)):
        if not value > 0:
            raise Refused("pins", f"a {name} of {written(value)} mm makes no pin", remedy=f"type a {name}")
    if not 0 <= pins.clearance < pins.diameter:
        raise Refused(
            "pins",
            f"a clearance of {written(pins.clearance)} is none for a pin of {written(pins.diameter)} mm",
            remedy="type for example 0.2",
        )


def placed(
    mesh: Mesh,
    solid: manifold3d.Manifold,
    planes: Sequence[Plane],
    pins: Pins,
    count: int | None = None,
    wall: float = WALL_MM,
) -> tuple[Pins, tuple[Without, ...]]:
    """Place pins on the faces between pieces, well inside.

    Args:
        mesh: the whole, in mm.
        solid: the same.
        planes: that it is cut by.
        pins: how large they are; places that they have already are kept.
        count: of pins on each face; None for as many as its size asks for, two at least.
        wall: material left around each hole, in mm.

    Returns:
        The pins with their places, and the faces that have no room for one.
    """
    refuse_odd(pins)
    found, without = list(pins.places), list[Without]()
    for number, plane in enumerate(planes):
        rows = basis_of(np.asarray(plane.normal))
        for face in _faces(solid, planes, number, rows):
            if any(pin.plane == number and _on(face, rows, pin) for pin in pins.places):
                continue
            wanted = count or min(4, max(2, round(face.length / 2 / _EVERY_MM)))
            here = _on_face(mesh, planes, number, face, rows, pins, wall, found, wanted)
            found += here
            if not here:
                without.append(Without(number, _widest(face, pins, wall)))
    return pins.model_copy(update={"places": tuple(found)}), tuple(without)


def _faces(
    solid: manifold3d.Manifold, planes: Sequence[Plane], number: int, rows: Floats
) -> list[shapely.Polygon]:
    """The faces of a cut, each between two pieces, in the plane's own axes."""
    plane = planes[number]
    lying = solid.transform(np.concatenate([rows, np.zeros((3, 1))], axis=1))
    sides = [outline_from(lying.slice(plane.at + hair).to_polygons()) for hair in (-_HAIR, _HAIR)]
    shape = shapely.intersection_all(sides)
    reach = 2 * float(np.abs(np.array(lying.bounding_box())).max()) + 1
    for other, one in enumerate(planes):
        a, b, c = rows @ np.asarray(one.normal)
        if other == number or math.hypot(a, b) < 1e-9:
            continue
        # a u + b v = d is where the other plane crosses this one.
        d, size = one.at - c * plane.at, math.hypot(a, b)
        foot, way = np.array([a, b]) * d / size**2, np.array([-b, a]) / size
        line = shapely.LineString([foot - way * reach, foot + way * reach])
        shape = shapely.difference(shape, line.buffer(1e-6, cap_style="flat"))
    parts = shapely.get_parts(shape)
    faces = [one for one in parts if one.geom_type == "Polygon" and one.area > 1e-6]
    return [one for one in faces if cuts(planes, number, _within(one, plane, rows))]


def _within(face: shapely.Polygon, plane: Plane, rows: Floats) -> Floats:
    """A place in a face."""
    spot = shapely.get_coordinates(face.representative_point())[0]
    return np.asarray(np.array([*spot, plane.at]) @ rows)


def cuts(planes: Sequence[Plane], number: int, point: Floats) -> bool:
    """Tell whether a plane cuts at a place on it, or is limited to others."""
    sides = [(planes[one.plane], one.above) for one in planes[number].only]
    return all(bool(point @ np.asarray(plane.normal) > plane.at) is above for plane, above in sides)


def on_plane(pin: Pin, plane: Plane) -> Pin:
    """Return a pin moved straight onto its plane."""
    point, normal = np.asarray(pin.point), np.asarray(plane.normal)
    return pin.model_copy(update={"point": as_vec3(point + (plane.at - point @ normal) * normal)})


def _widest(face: shapely.Polygon, pins: Pins, wall: float) -> float:
    """The diameter of the widest pin that has room in the widest place of a face."""
    circle = shapely.maximum_inscribed_circle(face, tolerance=1e-3 * math.sqrt(face.area))
    widest = 2 * (float(circle.length) - wall) - pins.clearance
    return max(0.0, math.floor(100 * widest - 0.5) / 100)  # what is said to go in goes in


def _on(face: shapely.Polygon, rows: Floats, pin: Pin) -> bool:
    u, v, _ = rows @ np.asarray(pin.point)
    return bool(face.contains(shapely.Point(u, v)))


def _on_face(
    mesh: Mesh,
    planes: Sequence[Plane],
    number: int,
    face: shapely.Polygon,
    rows: Floats,
    pins: Pins,
    wall: float,
    others: Sequence[Pin],
    count: int,
) -> list[Pin]:
    """Choose places on one face: those farthest from each other of all that are well inside."""
    hole = (pins.diameter + pins.clearance) / 2
    within = face.buffer(-hole - wall)
    if within.is_empty:
        return []
    spots = _spots(within)
    points = np.column_stack([spots, np.full(len(spots), planes[number].at)]) @ rows
    near = _slab(mesh, planes[number], pins.depth + pins.clearance + wall)
    points = points[_may_be_clear(near, planes, number, points, pins, wall)]
    chosen: list[Pin] = []
    away = np.linalg.norm(points - points.mean(axis=0), axis=1) if len(points) else np.empty(0)
    left = np.ones(len(points), dtype=bool)
    while len(chosen) < count and left.any():
        best = int(np.where(left, away, -1.0).argmax())
        if chosen and away[best] < 2 * hole + wall:
            break
        left[best] = False
        pin = Pin(plane=number, point=as_vec3(points[best]))
        if _is_clear(mesh, near, planes, pin, pins, wall, others):
            apart = np.linalg.norm(points - points[best], axis=1)
            away = np.minimum(away, apart) if chosen else apart
            chosen.append(pin)
    return chosen


def _spots(within: shapely.Geometry) -> Floats:
    """Places all over an area, and on its rim."""
    low_u, low_v, high_u, high_v = within.bounds
    step = max(math.sqrt((high_u - low_u) * (high_v - low_v) / _TRIED), 1e-3)
    u, v = np.meshgrid(np.arange(low_u, high_u + step, step), np.arange(low_v, high_v + step, step))
    grid = np.column_stack([u.ravel(), v.ravel()])
    grid = grid[shapely.contains_xy(within, grid[:, 0], grid[:, 1])]
    rims = [ring for part in shapely.get_parts(within) for ring in (part.exterior, *part.interiors)]
    shares = np.linspace(0, 1, _ON_RIM, endpoint=False)
    rim = [shapely.line_interpolate_point(one, shares, normalized=True) for one in rims]
    return np.concatenate([grid, *map(shapely.get_coordinates, rim)])


def _may_be_clear(
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


def _is_clear(
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
        _apart(point, normal, np.asarray(one.point), np.asarray(planes[one.plane].normal), deep)
        >= (2 * hole + wall) * (1 - 1e-6)
        for one in others
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
    found = []
    for k in (1, 2):
        other = crossed[row, (lone + k) % 3]
        share = (height - top[:, 2]) / (other[:, 2] - top[:, 2])
        found.append(top[:, :2] + share[:, None] * (other[:, :2] - top[:, :2]))
    return found[0], found[1]


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


def _slab(mesh: Mesh, plane: Plane, reach: float) -> Mesh:
    """The triangles that come near a plane: of a large mesh the others need not be searched."""
    along = (mesh.vertices @ np.asarray(plane.normal))[mesh.faces] - plane.at
    near = (along.min(axis=1) <= reach) & (along.max(axis=1) >= -reach)
    return compacted(mesh.vertices, np.ascontiguousarray(mesh.faces[near]))


def have_room(mesh: Mesh, planes: Sequence[Plane], pins: Pins) -> tuple[bool, ...]:
    """Tell of each pin whether its holes stay within the pieces, and meet no other pin and no other cut."""
    found = []
    for number, pin in enumerate(pins.places):
        near = _slab(mesh, planes[pin.plane], pins.depth + pins.clearance)
        found.append(_is_clear(mesh, near, planes, pin, pins, 0.0, pins.places[:number]))
    return tuple(found)


def refuse_in_the_way(mesh: Mesh, planes: Sequence[Plane], pins: Pins) -> None:
    """Refuse places where a hole would come out of a piece, meet another, or cross another cut."""
    for pin, good in zip(pins.places, have_room(mesh, planes, pins), strict=True):
        if not good:
            where = ", ".join(written(one) for one in pin.point)
            raise Refused(
                "pin-out",
                f"the pin on cut {letter_of(pin.plane)} at {where} comes out of its piece, or meets another",
                remedy="move it, or make it smaller",
            )


def ring_of(diameter: float, *, keyed: bool, hole: bool) -> Floats:
    """Return (k, 2): the outline of a pin, or of its hole, which is never smaller than it is to be."""
    # A pin's corners lie on its circle; a hole's sides touch it.
    radius = diameter / 2 / (math.cos(math.pi / SIDES) if hole else 1.0)
    angles = 2 * math.pi * np.arange(SIDES) / SIDES
    ring = radius * np.column_stack([np.cos(angles), np.sin(angles)])
    if not keyed:
        return np.asarray(ring)
    flat = shapely.box(-2 * radius, -2 * radius, _FLAT * diameter / 2, 2 * radius)
    made = shapely.intersection(shapely.Polygon(ring), flat)
    return np.asarray(shapely.orient_polygons(made).exterior.coords)[:-1]


def peg(pins: Pins, low: float, high: float, *, hole: bool) -> manifold3d.Manifold:
    """Return a pin along Z about the origin, or its hole, between two heights."""
    diameter = pins.diameter + (pins.clearance if hole else 0.0)
    ring = ring_of(diameter, keyed=pins.keyed, hole=hole)
    if hole and pins.keyed:  # the flat keeps half the clearance as well
        ring = _flat_moved(ring, pins)
    section = manifold3d.CrossSection([ring], manifold3d.FillRule.Positive)
    return section.extrude(high - low).translate((0.0, 0.0, low))


def _flat_moved(ring: Floats, pins: Pins) -> Floats:
    radius = (pins.diameter + pins.clearance) / 2
    at = _FLAT * pins.diameter / 2 + pins.clearance / 2
    whole = ring_of(2 * radius, keyed=False, hole=True)
    made = shapely.intersection(shapely.Polygon(whole), shapely.box(-3 * radius, -3 * radius, at, 3 * radius))
    return np.asarray(shapely.orient_polygons(made).exterior.coords)[:-1]


def dowel(pins: Pins) -> manifold3d.Manifold:
    """Return a loose pin along Z, its middle at the origin."""
    return peg(pins, -pins.depth, pins.depth, hole=False)


def pinned(pieces: Sequence[Piece], planes: Sequence[Plane], pins: Pins) -> list[Piece]:
    """Return pieces with the holes of their pins, and the pins that are fixed to them."""
    made = list(pieces)
    for pin in pins.places:
        plane = planes[pin.plane]
        rows, deep = basis_of(np.asarray(plane.normal)), pins.depth + pins.clearance
        for above in (True, False):
            number = _holder(made, pin, plane, above=above, deep=pins.depth)
            if number is None:
                continue
            solid = made[number].solid
            if pins.kind == "dowel" or above:
                # A hair past the plane, so that no skin is left over the mouth of the hole.
                low, high = (-_HAIR, deep) if above else (-deep, _HAIR)
                solid = solid - _standing(peg(pins, low, high, hole=True), rows, pin)
            else:
                root = -min(pins.depth, 1.0)
                solid = solid + _standing(peg(pins, root, pins.depth, hole=False), rows, pin)
            made[number] = replace(made[number], made=solid)
    return made


def standing_out(pieces: Sequence[Piece], planes: Sequence[Plane], pins: Pins) -> list[Floats]:
    """Return of each piece the (k, 3) outermost corners of the pins that are fixed to it."""
    found: list[list[Floats]] = [[] for _ in pieces]
    ring = ring_of(pins.diameter, keyed=pins.keyed, hole=False)
    for pin in pins.places if pins.kind == "fixed" else ():
        plane = planes[pin.plane]
        number = _holder(pieces, pin, plane, above=False, deep=pins.depth)
        if number is not None:
            top = np.column_stack([ring, np.full(len(ring), pins.depth)])
            found[number].append(top @ basis_of(np.asarray(plane.normal)) + np.asarray(pin.point))
    return [np.concatenate(one) if one else np.empty((0, 3)) for one in found]


def _standing(part: manifold3d.Manifold, rows: Floats, pin: Pin) -> manifold3d.Manifold:
    return part.transform(np.concatenate([rows.T, np.asarray(pin.point)[:, None]], axis=1))


def _holder(pieces: Sequence[Piece], pin: Pin, plane: Plane, *, above: bool, deep: float) -> int | None:
    """The piece on one side of a plane that a pin goes into."""
    way = deep / 2 if above else -deep / 2
    point = np.asarray(pin.point) + way * np.asarray(plane.normal)
    for number, piece in enumerate(pieces):
        box = piece.mesh.bounds()
        near = piece.cell[pin.plane] is above and (box[0] <= point).all() and (point <= box[1]).all()
        if near and is_inside(piece.mesh, point[None])[0]:
            return number
    return None


def measured_clearance(
    pieces: Sequence[Piece], planes: Sequence[Plane], pins: Pins
) -> tuple[float, float] | None:
    """Return the least and the greatest clearance across a pin in its holes, in mm, as it was made.

    It is twice the distance from the corners on a pin's side to the wall of its hole.
    """
    ring = ring_of(pins.diameter, keyed=False, hole=False)
    found: list[float] = []
    for pin in pins.places:
        plane = planes[pin.plane]
        rows = basis_of(np.asarray(plane.normal))
        for above in (True,) if pins.kind == "fixed" else (True, False):
            number = _hole_in(pieces, pin, plane, pins, above=above)
            if number is None:
                continue
            height = pins.depth / 2 if above else -pins.depth / 2
            corners = np.column_stack([ring, np.full(len(ring), height)])
            if pins.keyed:
                corners = corners[ring[:, 0] < _FLAT * pins.diameter / 2]
            points = corners @ rows + np.asarray(pin.point)
            found += (2 * distances(points, pieces[number].mesh)).tolist()
    return (min(found), max(found)) if found else None


def _hole_in(pieces: Sequence[Piece], pin: Pin, plane: Plane, pins: Pins, *, above: bool) -> int | None:
    """The piece whose wall is nearest around a pin's side."""
    way = np.asarray(plane.normal) * (pins.depth / 2 if above else -pins.depth / 2)
    near = [
        (float(distances((np.asarray(pin.point) + way)[None], piece.mesh)[0]), number)
        for number, piece in enumerate(pieces)
        if piece.cell[pin.plane] is above
    ]
    return min(near)[1] if near else None
