"""Gauges found again after a body was made anew: mended, re-tessellated or revised."""

from __future__ import annotations

import math

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.gauges import anchors
from aimtrue.core.gauges.construction import GaugedMesh, PickedSpot, made
from aimtrue.core.mesh.features.listed import Feature, Features
from aimtrue.core.model.body import Body
from aimtrue.core.model.readings import Anchor, Gauge, Reading
from aimtrue.core.model.value import Vec3

_NEAR = 1e-3
"""A place that moved by more than this share of the body's size is gone."""
_ALIKE = (0.8, 1.25)
"""How a bore may have changed in a revision and still be the same bore."""


def found_again(
    reading: Reading, body: Body, shape: GaugedMesh, other: Body | None, beyond: GaugedMesh | None
) -> Reading:
    """Return a reading with its gauge on another mesh, or lost when its place is gone.

    Places keep to the nearest corner or face; flat and round faces and their centres to the feature that took
    their place, whose new distance or diameter then holds.

    Args:
        reading: as it was.
        body, on: what the body of the reading has become.
        other, beyond: the same of the second body of a gauge between two, else None.
    """
    moved = reading.model_copy(update={"body": body.id})
    try:
        gauge = _gauge(reading.gauge, shape, beyond or shape, beyond)
    except Refused:
        gauge = None
    if gauge is None:
        return moved.model_copy(update={"lost": True})
    gauge = gauge.model_copy(update={"other": other.id if other else None})
    return moved.model_copy(update={"gauge": gauge, "lost": False})


def _gauge(gauge: Gauge, shape: GaugedMesh, second: GaugedMesh, beyond: GaugedMesh | None) -> Gauge | None:
    size = float(shape.mesh.extents().max())
    match gauge.kind:
        case "extent":
            return gauge
        case "points" | "wall":
            return _places(gauge, (shape, second), _NEAR * size)
        case "faces" | "angle":
            planes = [
                _flat(gauge.points[k : k + 3], gauged_mesh.features, 50 * _NEAR * size)
                for k, gauged_mesh in ((0, shape), (3, second))
            ]
        case "diameter" | "radius" | "depth":
            planes = [_round(gauge, shape.features, 10 * _NEAR * size)]
        case "perimeter":
            near = anchors.nearest(Anchor(face=0, weights=(1, 0, 0)), gauge.points[0], shape.mesh)
            return made("perimeter", (PickedSpot(anchor=near),), gauge.axis, False, shape)
    if any(plane is None for plane in planes):
        return None
    spots = tuple(PickedSpot(feature=plane.id) for plane in planes if plane is not None)
    return made(gauge.kind, spots, gauge.axis, gauge.kit, shape, beyond)


def _places(gauge: Gauge, shapes: tuple[GaugedMesh, GaugedMesh], near: float) -> Gauge | None:
    # Gauges kept before centres had anchors are between two centres.
    kept = gauge.anchors or (Anchor(face=0, weights=(1, 0, 0), on="centre"),) * 2
    candidates = [
        _place(anchor, point, shape, near)
        for anchor, point, shape in zip(kept, gauge.points, shapes, strict=True)
    ]
    places = [place for place in candidates if place is not None]
    if len(places) < 2 or places[0][1] == places[1][1]:
        return None
    return gauge.model_copy(
        update={
            "anchors": tuple(anchor for anchor, _ in places),
            "points": tuple(point for _, point in places),
        }
    )


def _place(anchor: Anchor, point: Vec3, shape: GaugedMesh, near: float) -> tuple[Anchor, Vec3] | None:
    if anchor.on == "centre":
        feature = min(
            shape.features.listed, key=lambda feature: math.dist(feature.point, point), default=None
        )
        if feature is None or math.dist(feature.point, point) > 10 * near:
            return None
        return anchor.model_copy(update={"face": feature.face}), feature.point
    if anchor.on == "free":
        near_it = anchors.nearest(Anchor(face=0, weights=(1, 0, 0)), point, shape.mesh)
        return near_it.model_copy(update={"on": "free"}), point
    here = anchors.nearest(anchor, point, shape.mesh)
    moved = anchors.point_of(here, shape.mesh.vertices, shape.mesh.faces)
    return (here, moved) if math.dist(moved, point) <= near else None


def _flat(points: tuple[Vec3, ...], features: Features, near: float) -> Feature | None:
    """The flat face with the old one's direction that is nearest to it."""
    corners = np.asarray(points)
    normal = np.cross(corners[1] - corners[0], corners[2] - corners[0])
    normal = normal / np.linalg.norm(normal)
    middle = corners.mean(axis=0)
    candidates = [
        (
            abs(float((np.asarray(feature.point) - middle) @ normal)),
            float(np.linalg.norm(np.subtract(feature.point, middle))),
            feature,
        )
        for feature in features.listed
        if feature.flat and abs(float(np.dot(feature.direction, normal))) > math.cos(math.radians(1))
    ]
    candidates = [row for row in candidates if row[0] <= near]
    return min(candidates, key=lambda row: row[0] + 0.01 * row[1])[2] if candidates else None


def _round(gauge: Gauge, features: Features, near: float) -> Feature | None:
    """The round face about the old one's axis with about its diameter that is nearest to it."""
    points = np.asarray(gauge.points)
    if gauge.kind == "depth":
        centre, axis, diameter = points.mean(axis=0), points[1] - points[0], 0.0
    else:
        centre, axis = points[0], np.cross(points[1] - points[0], points[2] - points[0])
        diameter = 2 * float(np.linalg.norm(points[1] - points[0]))
    axis = axis / np.linalg.norm(axis)
    moved = []
    for feature in features.listed:
        if feature.flat or abs(float(np.dot(feature.direction, axis))) < math.cos(math.radians(1)):
            continue
        away = np.subtract(feature.point, centre)
        aside = float(np.linalg.norm(away - axis * (away @ axis)))
        if aside <= near and (not diameter or _ALIKE[0] < feature.diameter / diameter < _ALIKE[1]):
            moved.append(
                (float(np.linalg.norm(away)) + abs(feature.diameter - diameter if diameter else 0.0), feature)
            )
    return min(moved, key=lambda row: row[0])[1] if moved else None
