"""This module measures how far facets are from the exact surfaces of a CAD shape, and how round they are."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.GeomAbs import (
    GeomAbs_Cone,
    GeomAbs_Cylinder,
    GeomAbs_Sphere,
    GeomAbs_Torus,
)
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_REVERSED, TopAbs_SOLID
from OCP.TopLoc import TopLoc_Location

from aimtrue.core.mesh.mesh import Floats, Mesh

_SAMPLES = 1200
"""Facets of a body that are held against the true surface, spread over its curved faces."""


_VOLUME = 0.01


_BESIDE = 0.1


@dataclass(eq=False)
class FaceNet:
    """The facets of one face: nodes in place, triangles, and the nodes along each of its edges."""

    face: Any
    nodes: Floats
    triangles: NDArray[np.int64]
    edges: list[tuple[int, bool, NDArray[np.int64]]]


def kind_of(face: Any) -> Any:
    """Return what surface a face lies on; None for one that came as facets and has none."""
    return None if BRep_Tool.Surface_s(face) is None else BRepAdaptor_Surface(face).GetType()


def off_in_volume(shape: Any, mesh: Mesh) -> float:
    """Return by which share the facets of a solid enclose another volume than it has; 0 while that is
    little.
    """
    if shape.ShapeType() != TopAbs_SOLID or not mesh.topology.closed:
        return 0.0
    properties = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, properties)
    exact = abs(float(properties.Mass()))
    off = abs(mesh.volume() - exact) / exact if exact > 0 else 0.0
    return off if off > _VOLUME else 0.0


def radius_of(curved: list[FaceNet]) -> float:
    """Return the radius of the round faces, the middle one by the number of their facets; in mm."""
    rows = []
    for net in curved:
        read = RADIUS_BY_KIND.get(kind_of(net.face))
        if read is not None:
            rows.append((float(read(BRepAdaptor_Surface(net.face))), len(net.triangles)))
    if not rows:
        return 0.0
    rows.sort()
    counts = np.cumsum([count for _, count in rows])
    return rows[int(np.searchsorted(counts, counts[-1] / 2))][0]


RADIUS_BY_KIND: dict[Any, Callable[[Any], float]] = {
    GeomAbs_Cylinder: lambda surface: surface.Cylinder().Radius(),
    GeomAbs_Sphere: lambda surface: surface.Sphere().Radius(),
    GeomAbs_Torus: lambda surface: surface.Torus().MajorRadius(),
    GeomAbs_Cone: lambda surface: surface.Cone().RefRadius(),
}


def deviation_of(curved: list[FaceNet]) -> float:
    """Return the greatest distance, in mm, from the true surface to the facets that stand for it.

    Of a sample of facets the surface is looked at in their middle and in the middle of their sides, by the
    parameters of their corners: a few evaluations each, where looking for the nearest point takes many.
    """
    budget = max(4, _SAMPLES // max(1, len(curved)))
    return max((_face_deviation(net, budget) for net in curved), default=0.0)


def _face_deviation(net: FaceNet, budget: int) -> float:
    place = TopLoc_Location()
    kept = BRep_Tool.Triangulation_s(net.face, place)
    surface = BRep_Tool.Surface_s(net.face)
    if surface is None or kept is None or not kept.HasUVNodes() or kept.NbTriangles() != len(net.triangles):
        return 0.0
    turned = net.face.Orientation() == TopAbs_REVERSED
    corners = net.triangles[_looked_at(net, budget)]
    parameters = np.array([kept.UVNode(int(k) + 1).Coord() for k in corners.ravel()]).reshape(-1, 3, 2)
    a, b, c = (net.nodes[corners[:, k]] for k in range(3))
    normal = np.cross(c - a, b - a) if turned else np.cross(b - a, c - a)
    worst = 0.0
    for middle in _middles(parameters):
        places = np.array([surface.Value(u, v).Coord() for u, v in middle.tolist()]).reshape(-1, 3)
        u, v = (c - a, b - a) if turned else (b - a, c - a)
        # Where a corner is a pole, its parameters say nothing, and neither does a middle made of them.
        worst = max(worst, _height_over(places - a, u, v, normal))
    return worst


def _looked_at(net: FaceNet, budget: int) -> NDArray[np.int64]:
    """Choose facets of a face: half of them the longest, which are off by most, half spread over all."""
    corners = net.nodes[net.triangles]
    sides = np.linalg.norm(np.roll(corners, -1, axis=1) - corners, axis=2).max(axis=1)
    spread = np.arange(0, len(sides), max(1, 2 * len(sides) // budget))
    return np.unique(np.concatenate([np.argsort(-sides)[: budget // 2], spread]))


def _middles(parameters: Floats) -> list[Floats]:
    """The middles of facets and of their sides, each (n, 2), of (n, 3, 2) parameters of their corners."""
    a, b, c = parameters.transpose(1, 0, 2)
    return [(a + b + c) / 3, (a + b) / 2, (b + c) / 2, (c + a) / 2]


def _height_over(away: Floats, u: Floats, v: Floats, normal: Floats) -> float:
    """Return the greatest height of points, given from the first corner of a triangle each, over it; one that
    lies beside its triangle by more than a little does not count.
    """
    square = (normal * normal).sum(axis=1)
    flat = square == 0
    square[flat] = 1.0
    s = (np.cross(away, v) * normal).sum(axis=1) / square
    t = (np.cross(u, away) * normal).sum(axis=1) / square
    over = (s > -_BESIDE) & (t > -_BESIDE) & (s + t < 1 + _BESIDE) & ~flat
    heights = np.abs((away * normal).sum(axis=1)) / np.sqrt(square)
    return float(heights[over].max(initial=0.0))
