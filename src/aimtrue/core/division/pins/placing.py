"""Chooses the places of pins on the faces of a cut: well inside, and far from each other."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d
import numpy as np
import shapely

from aimtrue.core.division.cutting.planes import letter_of
from aimtrue.core.division.cutting.solids import basis_of
from aimtrue.core.division.pins.clearance import cuts, is_clear, may_be_clear, near_plane
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.outlines import outline_from
from aimtrue.core.model.lengths import written
from aimtrue.core.model.shaping import Pin, Pins, Plane
from aimtrue.core.model.vectors import as_vec3

WALL_MM = 1.2
"""Material left around a hole, unless another is typed: three beads."""
_HAIR = 1e-4
"""In mm: a section on a ledge is what lies on both sides of it."""
_TRIED = 1500
"""Places looked at on one face of a cut, at most."""
_ON_RIM = 160
_EVERY_MM = 60.0
"""One pin for so much of a face's length, when no count is told; two at least, four at most."""


@dataclass(frozen=True)
class UnpinnedFace:
    """A face of a cut that has no room for a pin: on which plane, and the widest that would go in, in mm."""

    plane: int
    widest_mm: float


def said(without: Sequence[UnpinnedFace], pins: Pins, wall: float) -> tuple[str, ...]:
    """Say which cuts have faces without room, and what would go in."""
    placed_pins = []
    for plane in sorted({unpinned_face.plane for unpinned_face in without}):
        mine = [unpinned_face.widest_mm for unpinned_face in without if unpinned_face.plane == plane]
        many, have = ("a face", "has") if len(mine) == 1 else (f"{len(mine)} faces", "have")
        widest = min(mine)
        rest = f"at most {written(widest)} mm would go in" if widest > 0 else "there is room for none"
        if widest >= pins.diameter:  # The face has room, but what is behind it has not.
            rest = f"it would meet an outside, a cut or another pin within {written(pins.depth)} mm"
        placed_pins.append(
            f"{many} of cut {letter_of(plane)} {have} no room for a pin of {written(pins.diameter)} mm "
            f"with {written(wall)} mm around it; {rest}"
        )
    return tuple(placed_pins)


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
) -> tuple[Pins, tuple[UnpinnedFace, ...]]:
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
    places, without = list(pins.places), list[UnpinnedFace]()
    for number, plane in enumerate(planes):
        rows = basis_of(np.asarray(plane.normal))
        for face in _faces(solid, planes, number, rows):
            if any(pin.plane == number and _on(face, rows, pin) for pin in pins.places):
                continue
            wanted = count or min(4, max(2, round(face.length / 2 / _EVERY_MM)))
            here = _on_face(mesh, planes, number, face, rows, pins, wall, places, wanted)
            places += here
            if not here:
                without.append(UnpinnedFace(number, _widest(face, pins, wall)))
    return pins.model_copy(update={"places": tuple(places)}), tuple(without)


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
    faces = [part for part in parts if part.geom_type == "Polygon" and part.area > 1e-6]
    return [face for face in faces if cuts(planes, number, _within(face, plane, rows))]


def _within(face: shapely.Polygon, plane: Plane, rows: Floats) -> Floats:
    """A place in a face."""
    spot = shapely.get_coordinates(face.representative_point())[0]
    return np.asarray(np.array([*spot, plane.at]) @ rows)


def on_plane(pin: Pin, plane: Plane) -> Pin:
    """Return a pin moved straight onto its plane."""
    point, normal = np.asarray(pin.point), np.asarray(plane.normal)
    return pin.model_copy(update={"point": as_vec3(point + (plane.at - point @ normal) * normal)})


def _widest(face: shapely.Polygon, pins: Pins, wall: float) -> float:
    """The diameter of the widest pin that has room in the widest place of a face."""
    circle = shapely.maximum_inscribed_circle(face, tolerance=1e-3 * math.sqrt(face.area))
    widest = 2 * (float(circle.length) - wall) - pins.clearance
    return max(0.0, math.floor(100 * widest - 0.5) / 100)  # What is said to go in goes in.


def _on(face: shapely.Polygon, rows: Floats, pin: Pin) -> bool:
    u, v, _ = rows @ np.asarray(pin.point)
    return bool(face.contains(shapely.Point(u, v)))


def _on_face(  # noqa: PLR0913 - told apart by their names
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
    near = near_plane(mesh, planes[number], pins.depth + pins.clearance + wall)
    points = points[may_be_clear(near, planes, number, points, pins, wall)]
    chosen: list[Pin] = []
    away = np.linalg.norm(points - points.mean(axis=0), axis=1) if len(points) else np.empty(0)
    left = np.ones(len(points), dtype=bool)
    while len(chosen) < count and left.any():
        best = int(np.where(left, away, -1.0).argmax())
        if chosen and away[best] < 2 * hole + wall:
            break
        left[best] = False
        pin = Pin(plane=number, point=as_vec3(points[best]))
        if is_clear(mesh, near, planes, pin, pins, wall, others):
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
    rim = [shapely.line_interpolate_point(rim, shares, normalized=True) for rim in rims]
    return np.concatenate([grid, *map(shapely.get_coordinates, rim)])
