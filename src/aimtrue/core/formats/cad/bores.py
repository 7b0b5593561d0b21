"""This module lists the bores of a CAD shape, with the diameters that the exact surfaces have."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.GeomAbs import (
    GeomAbs_Circle,
    GeomAbs_Cylinder,
)
from OCP.TopAbs import TopAbs_EDGE, TopAbs_REVERSED
from OCP.TopExp import TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS

from aimtrue.core.formats.cad.deviation import (
    kind_of,
)
from aimtrue.core.model.facets import Bore

_MOST_BORES = 12


def inside(shape: Any, kind: Any) -> Iterator[Any]:
    """Yield the parts of a shape that are of a kind."""
    explorer = TopExp_Explorer(shape, kind)
    while explorer.More():
        yield explorer.Current()
        explorer.Next()


def bores_of(faces: list[Any]) -> list[Bore]:
    """Find the round rims of bores, in mm, and what facets leave free: D (1 - cos(step / 2)) less."""
    bores: dict[tuple[float, ...], Bore] = {}
    for face in faces:
        if kind_of(face) != GeomAbs_Cylinder:
            continue
        surface = BRepAdaptor_Surface(face)
        inward = (face.Orientation() == TopAbs_REVERSED) == surface.Cylinder().Position().Direct()
        if not inward:
            continue
        place = TopLoc_Location()
        net = BRep_Tool.Triangulation_s(face, place)
        for edge in map(TopoDS.Edge, inside(face, TopAbs_EDGE)):
            curve = BRepAdaptor_Curve(edge)
            if net is None or curve.GetType() != GeomAbs_Circle:
                continue
            polygon = BRep_Tool.PolygonOnTriangulation_s(edge, net, place)
            if polygon is None or polygon.NbNodes() < 2:
                continue
            span = abs(curve.LastParameter() - curve.FirstParameter())
            diameter = 2 * curve.Circle().Radius()
            loss = diameter * (1 - math.cos(span / (polygon.NbNodes() - 1) / 2))
            x, y, z = curve.Circle().Location().Coord()
            key = tuple(round(n, 6) for n in (x, y, z, diameter))
            known = bores.get(key)
            if known is None or known.loss < loss:
                bores[key] = Bore(diameter=diameter, loss=loss, place=(x, y, z))
    return sorted(bores.values(), key=lambda bore: -bore.loss)[:_MOST_BORES]
