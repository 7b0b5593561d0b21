"""This module builds shapes by the CAD kernel: turned, swept, joined, cut."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import reduce
from typing import Any

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakePolygon,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Transform,
)
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
from OCP.collections import HArray1_gp_Pnt
from OCP.GC import GC_MakeArcOfCircle
from OCP.GeomAPI import GeomAPI_Interpolate
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_SOLID
from OCP.TopoDS import TopoDS

from aimtrue.core.errors import AimTrueError
from aimtrue.core.formats.cad.bores import inside
from aimtrue.core.stock.parts.shapes import (
    CurveRun,
    DifferenceShape,
    IntersectionShape,
    PrismShape,
    Shape,
    ThreadedRod,
    TranslatedShape,
    TurnedShape,
    UnionShape,
    Vec2,
)
from aimtrue.core.stock.solids.threads import threaded_rod


def solid_of(shape: Shape) -> Any:
    """Return the one solid that a shape is, closed and valid.

    Raises:
        AimTrueError: the kernel makes none of it, or one that is not valid.
    """
    built = _built(shape)
    solids = list(inside(built, TopAbs_SOLID))
    if len(solids) != 1 or not BRepCheck_Analyzer(solids[0]).IsValid():
        raise AimTrueError(
            "stock-unbuilt", "the CAD kernel builds no valid solid of this part", remedy="change a size of it"
        )
    return TopoDS.Solid(solids[0])


def _built(shape: Shape) -> Any:
    match shape:
        case TurnedShape():
            return _turned(shape)
        case PrismShape():
            return _prism(shape)
        case ThreadedRod():
            return threaded_rod(shape)
        case UnionShape():
            return _unified(reduce(_fused, map(_built, shape.parts)))
        case DifferenceShape():
            return reduce(_cut, map(_built, shape.away), _built(shape.whole))
        case IntersectionShape():
            return BRepAlgoAPI_Common(_built(shape.first), _built(shape.second)).Shape()
        case TranslatedShape():
            change = gp_Trsf()
            change.SetTranslation(gp_Vec(*shape.by))
            return BRepBuilderAPI_Transform(_built(shape.shape), change, True).Shape()


def _fused(one: Any, other: Any) -> Any:
    return BRepAlgoAPI_Fuse(one, other).Shape()


def _cut(one: Any, other: Any) -> Any:
    return BRepAlgoAPI_Cut(one, other).Shape()


def _unified(shape: Any) -> Any:
    """Join faces that a fusion left in parts, where they lie on one plane or one cylinder."""
    unify = ShapeUpgrade_UnifySameDomain(shape, True, True, False)
    unify.Build()
    return unify.Shape()


def _turned(shape: TurnedShape) -> Any:
    face = BRepBuilderAPI_MakeFace(_polygon(shape.profile)).Face()
    axis = gp_Ax1(gp_Pnt(0.0, 0.0, 0.0), gp_Dir(0.0, 0.0, 1.0))
    return BRepPrimAPI_MakeRevol(face, axis).Shape()


def _polygon(profile: Sequence[Vec2]) -> Any:
    polygon = BRepBuilderAPI_MakePolygon()
    last: Vec2 | None = None
    for radius, height in profile:
        if last is None or math.dist(last, (radius, height)) > 1e-9:
            polygon.Add(gp_Pnt(radius, 0.0, height))
        last = (radius, height)
    polygon.Close()
    return polygon.Wire()


def _prism(shape: PrismShape) -> Any:
    wire = BRepBuilderAPI_MakeWire()
    for run in shape.outline:
        wire.Add(BRepBuilderAPI_MakeEdge(_curve(run, shape.low)).Edge())
    face = BRepBuilderAPI_MakeFace(wire.Wire(), True).Face()
    return BRepPrimAPI_MakePrism(face, gp_Vec(0.0, 0.0, shape.high - shape.low)).Shape()


def _curve(run: CurveRun, height: float) -> Any:
    points = [gp_Pnt(x, y, height) for x, y in run.points]
    if run.kind == "arc":
        return GC_MakeArcOfCircle(*points).Value()
    if run.kind == "line":
        from OCP.GC import GC_MakeSegment

        return GC_MakeSegment(*points).Value()
    through = HArray1_gp_Pnt(1, len(points))
    for number, point in enumerate(points, 1):
        through.SetValue(number, point)
    spline = GeomAPI_Interpolate(through, False, 1e-9)
    spline.Perform()
    return spline.Curve()
