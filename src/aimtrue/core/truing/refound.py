"""Gauges found again after a body was made anew: mended, re-tessellated or revised."""

from __future__ import annotations

import math

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.features.listed import Feature, Features
from aimtrue.core.job import Anchor, Body, Gauge, Reading, Vec3
from aimtrue.core.mesh import Mesh
from aimtrue.core.truing import anchors
from aimtrue.core.truing.gauges import Spot, made

_NEAR = 1e-3
"""Of the body's size: a place that is farther from where it was is gone."""
_ALIKE = (0.8, 1.25)
"""How a bore may have changed in a revision and still be the same bore."""


def found_again(reading: Reading, body: Body, mesh: Mesh, features: Features) -> Reading:
    """Return a reading with its gauge on another mesh, or lost when its place is gone.

    Places keep to the nearest corner or face; flat and round faces to the feature that took their place,
    whose new distance or diameter then holds.
    """
    moved = reading.model_copy(update={"body": body.id})
    try:
        gauge = _gauge(reading.gauge, mesh, features)
    except Refused:
        gauge = None
    if gauge is None:
        return moved.model_copy(update={"lost": True})
    return moved.model_copy(update={"gauge": gauge, "lost": False})


def _gauge(gauge: Gauge, mesh: Mesh, features: Features) -> Gauge | None:
    size = float(mesh.extents().max())
    match gauge.kind:
        case "extent":
            return gauge
        case "points" | "wall":
            return _places(gauge, mesh, _NEAR * size)
        case "faces" | "angle":
            planes = [_flat(gauge.points[k : k + 3], features, 50 * _NEAR * size) for k in (0, 3)]
        case "diameter" | "radius" | "depth":
            planes = [_round(gauge, features, 10 * _NEAR * size)]
        case "perimeter":
            near = anchors.nearest(Anchor(face=0, weights=(1, 0, 0)), gauge.points[0], mesh)
            return made("perimeter", (Spot(anchor=near),), gauge.axis, False, mesh, features)
    if any(one is None for one in planes):
        return None
    spots = tuple(Spot(feature=one.id) for one in planes if one is not None)
    return made(gauge.kind, spots, gauge.axis, gauge.kit, mesh, features)


def _places(gauge: Gauge, mesh: Mesh, near: float) -> Gauge | None:
    kept = list(gauge.anchors) or [Anchor(face=0, weights=(1, 0, 0))] * 2
    places = [anchors.nearest(one, point, mesh) for one, point in zip(kept, gauge.points, strict=True)]
    points = [anchors.point_of(one, mesh.vertices, mesh.faces) for one in places]
    if not gauge.anchors:  # between centres, which are in the air
        return gauge
    away = max(math.dist(a, b) for a, b in zip(points, gauge.points, strict=True))
    if away > near or points[0] == points[1]:
        return None
    return gauge.model_copy(update={"anchors": tuple(places), "points": tuple(points)})


def _flat(points: tuple[Vec3, ...], features: Features, near: float) -> Feature | None:
    """The flat face with the old one's direction that is nearest to it."""
    corners = np.asarray(points)
    normal = np.cross(corners[1] - corners[0], corners[2] - corners[0])
    normal = normal / np.linalg.norm(normal)
    middle = corners.mean(axis=0)
    found = [
        (
            abs(float((np.asarray(one.point) - middle) @ normal)),
            float(np.linalg.norm(np.subtract(one.point, middle))),
            one,
        )
        for one in features.listed
        if one.flat and abs(float(np.dot(one.direction, normal))) > math.cos(math.radians(1))
    ]
    found = [row for row in found if row[0] <= near]
    return min(found, key=lambda row: row[0] + 0.01 * row[1])[2] if found else None


def _round(gauge: Gauge, features: Features, near: float) -> Feature | None:
    """The round face about the old one's axis with about its diameter that is nearest to it."""
    points = np.asarray(gauge.points)
    if gauge.kind == "depth":
        centre, axis, diameter = points.mean(axis=0), points[1] - points[0], 0.0
    else:
        centre, axis = points[0], np.cross(points[1] - points[0], points[2] - points[0])
        diameter = 2 * float(np.linalg.norm(points[1] - points[0]))
    axis = axis / np.linalg.norm(axis)
    found = []
    for one in features.listed:
        if one.flat or abs(float(np.dot(one.direction, axis))) < math.cos(math.radians(1)):
            continue
        away = np.subtract(one.point, centre)
        aside = float(np.linalg.norm(away - axis * (away @ axis)))
        if aside <= near and (not diameter or _ALIKE[0] < one.diameter / diameter < _ALIKE[1]):
            found.append(
                (float(np.linalg.norm(away)) + abs(one.diameter - diameter if diameter else 0.0), one)
            )
    return min(found, key=lambda row: row[0])[1] if found else None
