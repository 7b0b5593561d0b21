"""This module builds threaded rods as exact solids: helical faces between two square ends.

A straight piece of the profile, carried along a helix, sweeps a surface S(t, w) with the angle w: radius
and height
are linear in t, and the height climbs by the pitch each turn. It is a B-spline of degree 1 along t; along
w it is
of degree 5 and has the value, the first and the second derivative of the helix at every twelfth of a turn,
which
puts it within 5e-7 of the radius of it (the error of quintic Hermite interpolation is h^6 / 46080 of the
sixth derivative). Where a square end cuts the surface the height is constant, which is a straight line in (t,
w): so every face is a polygon in its parameters, and neighbours share whole edges.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import numpy as np
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Sewing,
)
from OCP.BRepLib import BRepLib
from OCP.collections import Array1_double, Array1_int, Array2_gp_Pnt
from OCP.Geom import Geom_BSplineSurface
from OCP.Geom2d import Geom2d_Line, Geom2d_TrimmedCurve
from OCP.gp import gp_Dir2d, gp_Pnt, gp_Pnt2d
from OCP.ShapeAnalysis import ShapeAnalysis_FreeBounds
from OCP.TopAbs import TopAbs_FACE, TopAbs_SHELL, TopAbs_WIRE
from OCP.TopoDS import TopoDS

from aimtrue.core.errors import AimTrueError
from aimtrue.core.formats.cad.bores import inside
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.threads import ProfilePiece, profile_of
from aimtrue.core.stock.parts.shapes import ThreadedRod

_KNOT = math.pi / 6
"""Angle between the places where the surface has the derivatives of the helix."""
_CUT = math.pi
"""Angle between the upright cuts that divide a surface into faces: long faces are slow to cut into facets."""
_CLEAR = 0.3
"""A cut stays this far, in radians, from the ends of its face, so that no sliver is left."""
_SEWN_MM = 1e-5

Corner = tuple[float, float]
"""A place in the parameters (t, w) of a surface."""


def threaded_rod(rod: ThreadedRod) -> Any:
    """Return the solid of a threaded rod.

    Raises:
        AimTrueError: the kernel does not close it.
    """
    pieces = profile_of(rod.diameter, rod.pitch, internal=rod.internal, play=rod.play)
    sewing = BRepBuilderAPI_Sewing(_SEWN_MM)
    for piece in pieces:
        for face in _faces(piece, rod):
            sewing.Add(face)
    sewing.Perform()
    sides = sewing.SewedShape()
    rims = ShapeAnalysis_FreeBounds(sides, _SEWN_MM / 10, False, False).GetClosedWires()
    caps = [BRepBuilderAPI_MakeFace(TopoDS.Wire(rim), True).Face() for rim in inside(rims, TopAbs_WIRE)]
    if len(caps) != 2:
        raise AimTrueError(
            "thread-open", "the CAD kernel does not close this thread", remedy="make it without its thread"
        )
    return _closed([*inside(sides, TopAbs_FACE), *caps])


def _closed(faces: Sequence[Any]) -> Any:
    sewing = BRepBuilderAPI_Sewing(_SEWN_MM)
    for face in faces:
        sewing.Add(face)
    sewing.Perform()
    shell = TopoDS.Shell(next(inside(sewing.SewedShape(), TopAbs_SHELL)))
    solid = BRepBuilderAPI_MakeSolid(shell).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    return solid


def _faces(piece: ProfilePiece, rod: ThreadedRod) -> list[Any]:
    """The faces of one piece of the profile, from the lower end of the rod to the upper one."""
    foot = [2 * math.pi * (rod.low - height) / rod.pitch for height in piece.heights]
    top = [2 * math.pi * (rod.high - height) / rod.pitch for height in piece.heights]
    steps = range(math.floor(min(foot) / _CUT), math.ceil(max(top) / _CUT) + 1)
    grid = [step * _CUT for step in steps]
    cuts = [at for at in grid if max(foot) + _CLEAR <= at <= min(top) - _CLEAR]
    bounds = [foot, *([at, at] for at in cuts), top]
    return [_face(piece, rod, low, high, grid) for low, high in pairwise(bounds)]


def _face(
    piece: ProfilePiece, rod: ThreadedRod, low: Sequence[float], high: Sequence[float], grid: Sequence[float]
) -> Any:
    """One face: a polygon in the parameters, with a corner wherever a neighbour along a helix may have
    one.
    """

    def between(side: int) -> list[float]:
        return [at for at in grid if low[side] + 1e-6 < at < high[side] - 1e-6]

    corners: list[Corner] = [
        (0.0, low[0]),
        (1.0, low[1]),
        *((1.0, at) for at in between(1)),
        (1.0, high[1]),
        (0.0, high[0]),
        *((0.0, at) for at in reversed(between(0))),
    ]
    surface = _surface(piece, rod, min(low), max(high))
    wire = BRepBuilderAPI_MakeWire()
    for start, end in zip(corners, corners[1:] + corners[:1], strict=True):
        along = gp_Dir2d(end[0] - start[0], end[1] - start[1])
        line = Geom2d_TrimmedCurve(Geom2d_Line(gp_Pnt2d(*start), along), 0.0, math.dist(start, end))
        edge = BRepBuilderAPI_MakeEdge(line, surface).Edge()
        BRepLib.BuildCurve3d_s(edge, 1e-7)
        wire.Add(edge)
    face = BRepBuilderAPI_MakeFace(surface, wire.Wire(), True).Face()
    BRepLib.BuildCurves3d_s(face)
    return face


def _surface(piece: ProfilePiece, rod: ThreadedRod, low: float, high: float) -> Any:
    """The B-spline surface of a piece of the profile over a range of angles."""
    first, last = math.floor(low / _KNOT + 1e-9), math.ceil(high / _KNOT - 1e-9)
    knots = np.arange(first, last + 1) * _KNOT
    poles = Array2_gp_Pnt(1, 2, 1, 3 * len(knots))
    for row, (radius, height) in enumerate(zip(piece.radii, piece.heights, strict=True), 1):
        for column, pole in enumerate(_poles(radius, height, rod, knots), 1):
            poles.SetValue(row, column, gp_Pnt(*pole.tolist()))
    counts = [6] + [3] * (len(knots) - 2) + [6]
    return Geom_BSplineSurface(
        poles,
        _reals([0.0, 1.0]),
        _reals(knots.tolist()),
        _integers([2, 2]),
        _integers(counts),
        1,
        5,
        False,
        False,
    )


def _poles(radius: float, height: float, rod: ThreadedRod, knots: Any) -> Floats:
    """Poles (3 n, 3) of a helix as a spline of degree 5 with triple knots.

    By the polar form, a pole whose knots are x (three times), x + a and x + b is
    f + (a + b) / 5 f' + a b / 20 f'', where f and its derivatives are the helix at x.
    """
    hand, step = (-1.0 if rod.left else 1.0), _KNOT
    cosine, sine, flat = np.cos(knots), np.sin(knots), np.zeros(len(knots))
    value = np.stack(
        [radius * cosine, hand * radius * sine, height + rod.pitch * knots / (2 * np.pi)], axis=1
    )
    slope = np.stack([-radius * sine, hand * radius * cosine, flat + rod.pitch / (2 * np.pi)], axis=1)
    bend = np.stack([-radius * cosine, -hand * radius * sine, flat], axis=1)
    poles = np.stack(
        [
            value - 2 * step / 5 * slope + step**2 / 20 * bend,
            value - step**2 / 20 * bend,
            value + 2 * step / 5 * slope + step**2 / 20 * bend,
        ],
        axis=1,
    )
    poles[0, 0], poles[0, 1] = value[0], value[0] + step / 5 * slope[0]
    poles[-1, 2], poles[-1, 1] = value[-1], value[-1] - step / 5 * slope[-1]
    return np.asarray(poles.reshape(-1, 3))


def _reals(values: Sequence[float]) -> Any:
    array = Array1_double(1, len(values))
    for number, value in enumerate(values, 1):
        array.SetValue(number, value)
    return array


def _integers(values: Sequence[int]) -> Any:
    array = Array1_int(1, len(values))
    for number, value in enumerate(values, 1):
        array.SetValue(number, value)
    return array
