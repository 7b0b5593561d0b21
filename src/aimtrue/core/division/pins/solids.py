"""Makes pins and their holes as solids, puts them on the pieces of a division, and measures the clearance
they have.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import manifold3d
import numpy as np
import shapely

from aimtrue.core.division.cutting.pieces import Piece
from aimtrue.core.division.cutting.solids import basis_of, distances, is_inside
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.shaping import Pin, Pins, Plane

SIDES = 64
"""A pin and its hole are made as a polygon with this many corners."""
_FLAT = 0.7
"""The flat of a keyed pin is this share of the radius away from the axis."""
_HAIR = 1e-4
"""In mm: a hole begins so far before its plane, so that no skin is left over its mouth."""


def ring_of(diameter: float, *, keyed: bool, hole: bool) -> Floats:
    """Return (k, 2): the outline of a pin, or of its hole, which is never smaller than it is to be."""
    # A pin's corners lie on its circle; a hole's sides touch it.
    radius = diameter / 2 / (math.cos(math.pi / SIDES) if hole else 1.0)
    angles = 2 * math.pi * np.arange(SIDES) / SIDES
    ring = radius * np.column_stack([np.cos(angles), np.sin(angles)])
    if not keyed:
        return np.asarray(ring)
    flat = shapely.box(-2 * radius, -2 * radius, _FLAT * diameter / 2, 2 * radius)
    clipped = shapely.intersection(shapely.Polygon(ring), flat)
    return np.asarray(shapely.orient_polygons(clipped).exterior.coords)[:-1]


def peg(pins: Pins, low: float, high: float, *, hole: bool) -> manifold3d.Manifold:
    """Return a pin along Z about the origin, or its hole, between two heights."""
    diameter = pins.diameter + (pins.clearance if hole else 0.0)
    ring = ring_of(diameter, keyed=pins.keyed, hole=hole)
    if hole and pins.keyed:  # The flat keeps half the clearance as well.
        ring = _flat_moved(ring, pins)
    section = manifold3d.CrossSection([ring], manifold3d.FillRule.Positive)
    return section.extrude(high - low).translate((0.0, 0.0, low))


def _flat_moved(ring: Floats, pins: Pins) -> Floats:
    radius = (pins.diameter + pins.clearance) / 2
    at = _FLAT * pins.diameter / 2 + pins.clearance / 2
    whole = ring_of(2 * radius, keyed=False, hole=True)
    clipped = shapely.intersection(
        shapely.Polygon(whole), shapely.box(-3 * radius, -3 * radius, at, 3 * radius)
    )
    return np.asarray(shapely.orient_polygons(clipped).exterior.coords)[:-1]


def dowel(pins: Pins) -> manifold3d.Manifold:
    """Return a loose pin along Z, its middle at the origin."""
    return peg(pins, -pins.depth, pins.depth, hole=False)


def pinned(pieces: Sequence[Piece], planes: Sequence[Plane], pins: Pins) -> list[Piece]:
    """Return pieces with the holes of their pins, and the pins that are fixed to them."""
    pinned_pieces = list(pieces)
    for pin in pins.places:
        plane = planes[pin.plane]
        rows, deep = basis_of(np.asarray(plane.normal)), pins.depth + pins.clearance
        for above in (True, False):
            number = _holder(pinned_pieces, pin, plane, above=above, deep=pins.depth)
            if number is None:
                continue
            solid = pinned_pieces[number].solid
            if pins.kind == "dowel" or above:
                # A hair past the plane, so that no skin is left over the mouth of the hole.
                low, high = (-_HAIR, deep) if above else (-deep, _HAIR)
                solid = solid - _standing(peg(pins, low, high, hole=True), rows, pin)
            else:
                root = -min(pins.depth, 1.0)
                solid = solid + _standing(peg(pins, root, pins.depth, hole=False), rows, pin)
            pinned_pieces[number] = replace(pinned_pieces[number], made=solid)
    return pinned_pieces


def standing_out(pieces: Sequence[Piece], planes: Sequence[Plane], pins: Pins) -> list[Floats]:
    """Return of each piece the (k, 3) outermost corners of the pins that are fixed to it."""
    points_of_pieces: list[list[Floats]] = [[] for _ in pieces]
    ring = ring_of(pins.diameter, keyed=pins.keyed, hole=False)
    for pin in pins.places if pins.kind == "fixed" else ():
        plane = planes[pin.plane]
        number = _holder(pieces, pin, plane, above=False, deep=pins.depth)
        if number is not None:
            top = np.column_stack([ring, np.full(len(ring), pins.depth)])
            points_of_pieces[number].append(top @ basis_of(np.asarray(plane.normal)) + np.asarray(pin.point))
    return [np.concatenate(points) if points else np.empty((0, 3)) for points in points_of_pieces]


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
    walls: list[float] = []
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
            walls += (2 * distances(points, pieces[number].mesh)).tolist()
    return (min(walls), max(walls)) if walls else None


def _hole_in(pieces: Sequence[Piece], pin: Pin, plane: Plane, pins: Pins, *, above: bool) -> int | None:
    """The piece whose wall is nearest around a pin's side."""
    way = np.asarray(plane.normal) * (pins.depth / 2 if above else -pins.depth / 2)
    near = [
        (float(distances((np.asarray(pin.point) + way)[None], piece.mesh)[0]), number)
        for number, piece in enumerate(pieces)
        if piece.cell[pin.plane] is above
    ]
    return min(near)[1] if near else None
