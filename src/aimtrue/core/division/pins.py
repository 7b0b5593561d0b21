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
    reach = (pins.diameter + pins.clearance) / 2 + wall
    within = face.buffer(-reach)
    if within.is_empty:
        return []
    spots = _spots(within)
    points = np.column_stack([spots, np.full(len(spots), planes[number].at)]) @ rows
    points = points[_clear(mesh, planes, number, points, pins, reach, others)]
    chosen: list[int] = []
    away = np.linalg.norm(points - points.mean(axis=0), axis=1) if len(points) else np.empty(0)
    while len(chosen) < min(count, len(points)):
        best = int(away.argmax())
        if chosen and away[best] < 2 * reach - wall:
            break
        chosen.append(best)
        near = np.linalg.norm(points - points[best], axis=1)
        away = near if len(chosen) == 1 else np.minimum(away, near)
    return [Pin(plane=number, point=as_vec3(points[one])) for one in chosen]


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


def _clear(
    mesh: Mesh,
    planes: Sequence[Plane],
    number: int,
    points: Floats,
    pins: Pins,
    reach: float,
    others: Sequence[Pin],
) -> Checked:
    """Tell which of (n, 3) places on a plane have material all around, along all of the hole."""
    normal, deep = np.asarray(planes[number].normal), pins.depth + pins.clearance
    heights = np.linspace(-deep, deep, max(3, 2 * math.ceil(deep / max(reach, 0.5)) + 1))
    along = points[:, None] + heights[:, None] * normal
    near = _slab(mesh, planes[number], deep + reach)
    away = distances(along.reshape(-1, 3), near).reshape(len(points), -1)
    good = np.asarray((away >= reach * (1 - 1e-6)).all(axis=1))
    for other, plane in enumerate(planes):
        if other != number:
            ends = along[:, [0, -1]] @ np.asarray(plane.normal) - plane.at
            good &= (ends[:, 0] > 0) == (ends[:, 1] > 0)
            good &= np.abs(ends).min(axis=1) >= reach
    for pin in others:
        line = np.asarray(pin.point) + heights[:, None] * np.asarray(planes[pin.plane].normal)
        apart = np.linalg.norm(along[:, :, None] - line, axis=3).min(axis=(1, 2))
        good &= apart >= 2 * reach
    return good


def _slab(mesh: Mesh, plane: Plane, reach: float) -> Mesh:
    """The triangles that come near a plane: of a large mesh the others need not be searched."""
    along = (mesh.vertices @ np.asarray(plane.normal))[mesh.faces] - plane.at
    near = (along.min(axis=1) <= reach) & (along.max(axis=1) >= -reach)
    return compacted(mesh.vertices, np.ascontiguousarray(mesh.faces[near]))


def have_room(mesh: Mesh, planes: Sequence[Plane], pins: Pins) -> tuple[bool, ...]:
    """Tell of each pin whether its holes stay within the pieces, and meet no other pin and no other cut."""
    reach = (pins.diameter + pins.clearance) / 2
    found = []
    for number, pin in enumerate(pins.places):
        point = np.asarray([pin.point])
        good = cuts(planes, pin.plane, point[0]) and bool(is_inside(mesh, point)[0])
        rest = pins.places[:number]
        found.append(good and bool(_clear(mesh, planes, pin.plane, point, pins, reach, rest)[0]))
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
