"""Gauges made from what was picked on a body, or chosen from the list of its features."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from pydantic import Field

from aimtrue.core.errors import Refused
from aimtrue.core.gauges import anchors
from aimtrue.core.gauges.sections import section_through
from aimtrue.core.mesh.directions import plane_axes
from aimtrue.core.mesh.features.listed import Feature, Features
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.readings import Anchor, Gauge, GaugeKind
from aimtrue.core.model.value import AXES, Axis, Value, Vec3
from aimtrue.core.model.vectors import as_vec3

_PARALLEL = math.radians(0.5)


_MOST_CORNERS = 300


class PickedSpot(Value):
    """What was picked: a place on the body, or (from the list) one of its features.

    ``centre`` asks for the centre of the round face that was picked instead of the place itself. ``share`` is
    a height instead of a place, for a section: from 0 at the low end of the file's axis to 1 at its high end.
    ``body`` is the body it is on, when that is another of the kit than the gauge's own. ``point`` is a
    place given in numbers of the file, which need not be on the surface.
    """

    body: BodyId | None = None
    anchor: Anchor | None = None
    feature: int | None = None
    centre: bool = False
    share: float | None = Field(None, gt=0, lt=1)
    point: Vec3 | None = None


@dataclass(frozen=True, eq=False)
class GaugedMesh:
    """What gauges are made on: a mesh in numbers of its file, and the flat and round faces of it.

    Most gauges lie between places and need no faces; of a large body that was just read, these would first
    have to be listed.
    """

    mesh: Mesh
    _listed: Callable[[], Features]

    @classmethod
    def fetched(cls, body: Body, store: GeometryStore) -> GaugedMesh:
        """Fetch what a body is made of."""
        return cls(store.mesh(body.geometry), lambda: store.features(body))

    @property
    def features(self) -> Features:
        """The flat and round faces, listed when they are asked for."""
        return self._listed()


def made(
    kind: GaugeKind,
    spots: tuple[PickedSpot, ...],
    axis: Axis | None,
    kit: bool,
    shape: GaugedMesh,
    beyond: GaugedMesh | None = None,
) -> Gauge:
    """Make a gauge from picks.

    Args:
        kind: what to measure.
        spots: places or features: none for an extent, two for points, faces and angles, else one.
        axis: of an extent; of a perimeter, the axis of the *file* that the section is square to.
        kit: whether an extent is that of the whole kit.
        shape: the body, in numbers of the file.
        beyond: the body that the second of two places is on, when it is another of the same file.

    Raises:
        Refused: there is no such feature here, planes are not parallel, places are the same.
    """
    match kind:
        case "extent":
            return Gauge(kind=kind, axis=axis or "x", kit=kit, says=f"overall {(axis or 'x').upper()}")
        case "points":
            return _between(_two(spots), (shape, beyond or shape))
        case "wall":
            return _wall(_one(spots), shape)
        case "faces":
            return _faces(_two(spots), (shape, beyond or shape))
        case "angle":
            return _angle(_two(spots), (shape, beyond or shape))
        case "diameter" | "radius" | "depth":
            return _round(kind, _feature(_one(spots), shape, round_one=True), shape.mesh)
        case "perimeter":
            return _perimeter(_one(spots), axis or "z", shape)


def _one(spots: tuple[PickedSpot, ...]) -> PickedSpot:
    if len(spots) != 1:
        raise Refused("spots", "this gauge needs one place", remedy="pick one place")
    return spots[0]


def _two(spots: tuple[PickedSpot, ...]) -> tuple[PickedSpot, PickedSpot]:
    if len(spots) != 2:
        raise Refused("spots", "this gauge needs two places", remedy="pick two places")
    return spots[0], spots[1]


def _anchor(spot: PickedSpot, shape: GaugedMesh) -> tuple[Anchor, Vec3]:
    """Where a spot is: the place picked, or the corner of its feature nearest to the feature's middle."""
    mesh = shape.mesh
    if spot.anchor is not None:
        anchor = anchors.exact(spot.anchor, mesh)
        return anchor, anchors.point_of(anchor, mesh.vertices, mesh.faces)
    feature = _feature(spot, shape)
    corners = mesh.vertices[mesh.faces[feature.face]]
    third = (1 / 3, 1 / 3, 1 / 3)
    return Anchor(face=feature.face, weights=third), as_vec3(corners.mean(axis=0))


def _feature(spot: PickedSpot, shape: GaugedMesh, *, round_one: bool = False) -> Feature:
    features = shape.features
    if spot.feature is not None:
        if not 0 <= spot.feature < len(features.listed):
            raise Refused("feature-unknown", "there is no such feature", remedy="choose one from the list")
        feature: Feature | None = features.listed[spot.feature]
    else:
        feature = features.at(spot.anchor.face) if spot.anchor else None
    if round_one and (feature is None or feature.flat or feature.screw):
        raise Refused(
            "no-cylinder",
            "the surface here is not part of a cylinder, so it has no diameter",
            remedy="pick inside a bore or on a boss; elsewhere measure between two points, or a perimeter",
        )
    if feature is None:
        raise Refused(
            "no-feature", "there is no flat or round face here", remedy="pick one, or use two points"
        )
    return feature


def _between(spots: tuple[PickedSpot, PickedSpot], shapes: tuple[GaugedMesh, GaugedMesh]) -> Gauge:
    """Between two places; a feature from the list stands for its middle: a circle's centre."""
    ends = [_middle(spot, shape) for spot, shape in zip(spots, shapes, strict=True)]
    a, b = ends[0][1], ends[1][1]
    if math.dist(a, b) <= 1e-9 * float(shapes[0].mesh.extents().max()):
        raise Refused(
            "gauge-no-length", "the two places are the same point", remedy="pick two different places"
        )
    says = " to ".join(end[2] for end in ends)
    return Gauge(kind="points", points=(a, b), anchors=(ends[0][0], ends[1][0]), says=says)


_PLACES = {
    "vertex": "corner",
    "edge": "edge",
    "middle": "middle of an edge",
    "surface": "surface",
    "centre": "centre",
    "free": "typed place",
}
"""What the end of a gauge is on, in words."""


def _middle(spot: PickedSpot, shape: GaugedMesh) -> tuple[Anchor, Vec3, str]:
    if spot.point is not None:
        near = anchors.nearest(Anchor(face=0, weights=(1, 0, 0)), spot.point, shape.mesh)
        return near.model_copy(update={"on": "free"}), spot.point, _PLACES["free"]
    if spot.feature is None and not spot.centre:
        anchor, point = _anchor(spot, shape)
        return anchor, point, _PLACES[anchor.on]
    feature = _feature(spot, shape, round_one=spot.centre)
    third = (1 / 3, 1 / 3, 1 / 3)
    return (
        Anchor(face=feature.face, weights=third, on="centre"),
        feature.point,
        f"centre of {named(feature)}",
    )


def _wall(spot: PickedSpot, shape: GaugedMesh) -> Gauge:
    """From a place straight through the material to the other side."""
    mesh = shape.mesh
    anchor, point = _anchor(spot, shape)
    normal = mesh.area_vectors[anchor.face]
    inward = -normal / max(float(np.linalg.norm(normal)), 1e-300)
    hit = anchors.first_hit(mesh, np.asarray(point), inward)
    if hit is None:
        raise Refused(
            "no-wall", "there is no other side behind this place", remedy="close the body, or pick elsewhere"
        )
    return Gauge(
        kind="wall", points=(point, anchors.point_of(hit, mesh.vertices, mesh.faces)), anchors=(anchor, hit),
        says="wall",
    )  # fmt: skip


def _plane(spot: PickedSpot, shape: GaugedMesh) -> Feature:
    feature = _feature(spot, shape)
    if not feature.flat:
        raise Refused("not-flat", f"{named(feature)} is not a flat face", remedy="pick a flat face")
    return feature


def _faces(spots: tuple[PickedSpot, PickedSpot], shapes: tuple[GaugedMesh, GaugedMesh]) -> Gauge:
    a, b = (_plane(spot, shape) for spot, shape in zip(spots, shapes, strict=True))
    if a is b:
        raise Refused("gauge-no-length", "both picks are on the same face", remedy="pick the face opposite")
    tilt = math.acos(min(1.0, abs(float(np.dot(a.direction, b.direction)))))
    if tilt > _PARALLEL:
        raise Refused(
            "not-parallel",
            f"the two faces are at {math.degrees(tilt):.1f}° to each other",
            remedy="pick two parallel faces, or measure the angle",
        )
    apart = abs(float(np.dot(a.direction, np.subtract(b.point, a.point))))
    if apart <= 1e-9 * float(shapes[0].mesh.extents().max()):
        raise Refused("gauge-no-length", "the two faces lie in one plane", remedy="pick the face opposite")
    return _of_planes("faces", a, b, shapes)


def _angle(spots: tuple[PickedSpot, PickedSpot], shapes: tuple[GaugedMesh, GaugedMesh]) -> Gauge:
    a, b = (_plane(spot, shape) for spot, shape in zip(spots, shapes, strict=True))
    return _of_planes("angle", a, b, shapes)


def _of_planes(kind: GaugeKind, a: Feature, b: Feature, shapes: tuple[GaugedMesh, GaugedMesh]) -> Gauge:
    points: list[Vec3] = []
    places: list[Anchor] = []
    for plane, shape in zip((a, b), shapes, strict=True):
        corners = plane.corners[:3]
        points += [as_vec3(shape.mesh.vertices[corner]) for corner in corners]
        places += anchors.of_vertices(shape.mesh, corners)
    return Gauge(
        kind=kind,
        points=tuple(points),
        anchors=tuple(places),
        off=max(a.off, b.off),
        says="between flat faces",
    )


def _round(kind: GaugeKind, feature: Feature, mesh: Mesh) -> Gauge:
    centre, axis = np.asarray(feature.point), np.asarray(feature.direction)
    says = named(feature)
    if kind == "depth":
        half = axis * feature.depth / 2
        return Gauge(
            kind=kind, points=(as_vec3(centre - half), as_vec3(centre + half)), off=feature.off, says=says
        )
    u, v = plane_axes(axis)
    radius = feature.diameter / 2
    if not feature.whole:  # Of an arc the radius is drawn to where the arc is.
        away = mesh.vertices[feature.corners[len(feature.corners) // 2]] - centre
        u = away - axis * (away @ axis)
        u = u / np.linalg.norm(u)
        v = np.cross(axis, u)
    points = tuple(as_vec3(point) for point in (centre, centre + radius * u, centre + radius * v))
    return Gauge(
        kind=kind,
        points=points,
        anchors=anchors.of_vertices(mesh, feature.corners),
        off=feature.off,
        turn=feature.turn,
        says=says,
    )


def _perimeter(spot: PickedSpot, axis: Axis, shape: GaugedMesh) -> Gauge:
    number, mesh = AXES.index(axis), shape.mesh
    point = _beside(mesh, number, spot.share) if spot.share else np.asarray(_anchor(spot, shape)[1])
    corners = section_through(mesh, point, np.eye(3)[number])
    whole = _length_around(corners)
    step = max(1, math.ceil(len(corners) / _MOST_CORNERS))
    few = corners[::step]
    points = tuple(as_vec3(corner) for corner in few)
    stretch = whole / _length_around(few)
    return Gauge(kind="perimeter", axis=axis, points=points, stretch=stretch, says="around a section")


def _beside(mesh: Mesh, axis: int, share: float) -> Floats:
    """A point at a height, far beside the mesh: the line nearest to it is the outermost."""
    low, high = mesh.bounds()
    point = low - 3 * (high - low)
    point[axis] = low[axis] + share * (high - low)[axis]
    return np.asarray(point)


def _length_around(corners: Floats) -> float:
    return float(np.linalg.norm(np.roll(corners, -1, axis=0) - corners, axis=1).sum())


def named(feature: Feature) -> str:
    """Say what a feature is, its size in numbers of the file."""
    if feature.flat:
        return "flat face"
    return f"{feature.kind} ø{feature.diameter:.6g}"
