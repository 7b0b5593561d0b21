"""From shapes of the kernel to triangles that hang together as the shapes do, held against the exact
surfaces.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.BRepBuilderAPI import BRepBuilderAPI_Copy, BRepBuilderAPI_NurbsConvert
from OCP.BRepGProp import BRepGProp
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepTools import BRepTools
from OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as _ShapeMap
from OCP.GeomAbs import (
    GeomAbs_Cylinder,
    GeomAbs_Plane,
)
from OCP.GProp import GProp_GProps
from OCP.IMeshTools import (
    IMeshTools_MeshAlgoType_Delabella,
    IMeshTools_MeshAlgoType_Watson,
    IMeshTools_Parameters,
)
from OCP.ShapeFix import ShapeFix_Shape
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS

from aimtrue.core.formats.cad.bores import bores_of, inside
from aimtrue.core.formats.cad.deviation import (
    RADIUS_BY_KIND,
    FaceNet,
    deviation_of,
    kind_of,
    off_in_volume,
    radius_of,
)
from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.mesh import Faces, Floats, Mesh, weld
from aimtrue.core.model.facets import ANGLE_DEG, CHORD_MM, Bore, Fineness

_HELD = 0.02
"""How far the area of a face's facets may be from the exact one, as a share, besides what facets must
lose.
"""
_SLIVER = 1e-6
"""A face with a smaller share of the body's area is not missed."""


@dataclass(frozen=True, eq=False)
class Tessellation:
    """A shape cut into facets, in mm.

    Attributes:
        mesh: the facets, joined where faces share edges.
        deviation: the greatest distance measured between facets and the true surface.
        bores: the round rims of bores, the worst loss first, at most 12; in mm.
        curved: how many of the facets are on curved faces.
        twice: how many are on faces that may be curved both ways.
        radius: of the round faces, the middle one by the number of their facets; 0 without any.
        missing: faces that could not be cut rightly, each said in words with a point of it.
        volume_off: share by which the facets enclose another volume than the solid has, when that is too
            much.
    """

    mesh: Mesh
    deviation: float
    bores: tuple[Bore, ...]
    curved: int
    twice: int
    radius: float
    missing: tuple[tuple[str, tuple[float, float, float]], ...]
    volume_off: float


@dataclass(eq=False)
class _Tried:
    """One way of cutting a shape: the facets of its faces, and the faces whose facets are not right."""

    nets: list[FaceNet]
    missing: list[tuple[str, tuple[float, float, float]]]


def cut(shape: Any, fineness: Fineness) -> Tessellation | None:
    """Cut a shape into facets; None when it has no surface at all.

    Where the facets of a face do not have its area, the shape is tried again finer, healed, and as plain
    splines; what none of these cuts rightly is said.
    """
    tried, deviation = [_nets(shape, fineness)], 0.0
    for finer in _FINER:
        # The kernel takes the chord for a hint: what was asked for holds only when it is measured. On round
        # surfaces it is measured where it is greatest; on others in places, so that something is left over.
        curved = _curved(tried[0])
        deviation = deviation_of(curved)
        sure = 1.0 if all(kind_of(net.face) in RADIUS_BY_KIND for net in curved) else _SURE
        if deviation <= sure * fineness.chord_mm or tried[0].missing:
            break
        chord = max(finer * fineness.chord_mm * fineness.chord_mm / deviation, CHORD_MM[0] / 8)
        tried[0] = _nets(shape, Fineness.model_construct(chord_mm=chord, angle_deg=fineness.angle_deg))
    for way in (_finer, _healed, _as_splines):
        if not tried[-1].missing:
            break
        other = way(shape, fineness)
        if other is not None:
            tried.append(other)
    best = min(tried, key=lambda tessellation: len(tessellation.missing))
    if not best.nets:
        return None
    mesh = _joined(best.nets)
    curved = _curved(best)
    twice = [net for net in curved if kind_of(net.face) != GeomAbs_Cylinder]
    return Tessellation(
        mesh,
        deviation if best is tried[0] and deviation <= fineness.chord_mm else deviation_of(curved),
        tuple(bores_of([net.face for net in best.nets])),
        sum(len(net.triangles) for net in curved),
        sum(len(net.triangles) for net in twice),
        radius_of(curved),
        tuple(best.missing),
        0.0 if best.missing else off_in_volume(shape, mesh),
    )


_SURE = 0.9
"""A deviation that is only measured in places must stay within this share of the chord."""
_FINER = (0.9, 0.6, 0.4)
"""Shares of the chord that should do, one try after the other, where facets are farther off than was
asked.
"""


def _curved(tried: _Tried) -> list[FaceNet]:
    return [net for net in tried.nets if kind_of(net.face) not in (None, GeomAbs_Plane)]


def triangulate(shape: Any, fineness: Fineness, *, quickly: bool = True) -> None:
    """Let the kernel cut the faces of a shape into facets, which it keeps with them.

    Both of its ways give the same number of facets. The quick one finds the triangles of a flat face with
    many holes in a tenth of the time; the other is the kernel's usual one, for faces that the first cannot
    do.
    """
    asked = IMeshTools_Parameters()
    asked.Deflection, asked.Angle = fineness.chord_mm, math.radians(fineness.angle_deg)
    asked.InParallel = True
    asked.MeshAlgo = IMeshTools_MeshAlgoType_Delabella if quickly else IMeshTools_MeshAlgoType_Watson
    BRepMesh_IncrementalMesh(shape, asked)


def _nets(shape: Any, fineness: Fineness) -> _Tried:
    tried = _triangulated(shape, fineness, quickly=True)
    if not tried.missing:
        return tried
    usual = _triangulated(shape, fineness, quickly=False)
    return usual if len(usual.missing) < len(tried.missing) else tried


def _triangulated(shape: Any, fineness: Fineness, *, quickly: bool) -> _Tried:
    BRepTools.Clean_s(shape)
    triangulate(shape, fineness, quickly=quickly)
    edges, nets, missing = _ShapeMap(), [], []
    faces = [TopoDS.Face(face) for face in inside(shape, TopAbs_FACE)]
    exact = [_area(face) for face in faces]
    for face, area in zip(faces, exact, strict=True):
        net = _net(face, edges)
        if kind_of(face) is not None and not _holds(net, area, fineness, sum(exact)):
            missing.append(_named(face, net, area))
        if net is not None:
            nets.append(net)
    return _Tried(nets, missing)


def _finer(shape: Any, fineness: Fineness) -> _Tried | None:
    return _nets(
        shape,
        Fineness(
            chord_mm=max(fineness.chord_mm / 4, CHORD_MM[0]),
            angle_deg=max(fineness.angle_deg / 2, ANGLE_DEG[0]),
        ),
    )


def _healed(shape: Any, fineness: Fineness) -> _Tried | None:
    fix = ShapeFix_Shape(BRepBuilderAPI_Copy(shape).Shape())
    fix.Perform()
    healed = fix.Shape()
    return None if healed.IsNull() else _nets(healed, fineness)


def _as_splines(shape: Any, fineness: Fineness) -> _Tried | None:
    converted = BRepBuilderAPI_NurbsConvert(shape, True)
    return _nets(converted.Shape(), fineness) if converted.IsDone() else None


def _net(face: Any, edges: Any) -> FaceNet | None:
    place = TopLoc_Location()
    net = BRep_Tool.Triangulation_s(face, place)
    if net is None or not net.NbTriangles():
        return None
    nodes = np.array([net.Node(i).Coord() for i in range(1, net.NbNodes() + 1)])
    if not place.IsIdentity():
        move = place.Transformation()
        matrix = np.array([[move.Value(r, c) for c in (1, 2, 3, 4)] for r in (1, 2, 3)])
        nodes = nodes @ matrix[:, :3].T + matrix[:, 3]
    triangles = np.array([net.Triangle(i).Get() for i in range(1, net.NbTriangles() + 1)], np.int64) - 1
    if face.Orientation() == TopAbs_REVERSED:
        triangles = triangles[:, ::-1]
    along = []
    for edge in map(TopoDS.Edge, inside(face, TopAbs_EDGE)):
        polygon = BRep_Tool.PolygonOnTriangulation_s(edge, net, place)
        if polygon is not None:
            row = np.array([polygon.Node(i) for i in range(1, polygon.NbNodes() + 1)], np.int64) - 1
            along.append((edges.Add(edge), bool(BRep_Tool.Degenerated_s(edge)), row))
    return FaceNet(face, nodes, triangles, along)


def _joined(nets: list[FaceNet]) -> Mesh:
    """Join nodes of faces along the edges that they share, by the kernel's own topology.

    Equal coordinates say nothing of themselves: faces that only touch stay apart. Where the topology alone
    leaves gaps, because faces were never sewn, corners of the very same place are joined as in any mesh
    file.
    """
    starts = np.cumsum([0, *(len(net.nodes) for net in nets)])
    nodes = np.concatenate([net.nodes for net in nets])
    faces = np.concatenate([net.triangles + start for net, start in zip(nets, starts, strict=False)])
    pairs = [_shared(nets, starts), *(_poles(net, start) for net, start in zip(nets, starts, strict=False))]
    mesh = _with_joined(nodes, faces, np.concatenate(pairs))
    if mesh.topology.open_edges:
        welded = _proper(weld(mesh.vertices[mesh.faces]))
        if welded.topology.open_edges < mesh.topology.open_edges:
            mesh = welded
    if mesh.volume() < 0 and mesh.topology.closed:
        mesh = Mesh(mesh.vertices, np.ascontiguousarray(mesh.faces[:, ::-1]))
    return mesh


def _shared(nets: list[FaceNet], starts: NDArray[np.int64]) -> NDArray[np.int64]:
    """Pairs of nodes that are one: node by node along an edge, in every face that has it."""
    first: dict[int, NDArray[np.int64]] = {}
    pairs = [np.empty((0, 2), np.int64)]
    for net, start in zip(nets, starts, strict=False):
        for edge, pole, row in net.edges:
            here = row + start
            if pole:
                pairs.append(np.stack([np.broadcast_to(here[0], here.shape), here], axis=1))
            there = first.setdefault(edge, here)
            if there is not here and len(there) == len(here):
                pairs.append(np.stack([there, here], axis=1))
    return np.concatenate(pairs)


def _poles(net: FaceNet, start: int) -> NDArray[np.int64]:
    """Pairs of nodes of one face at the very same place: where a round surface shrinks to a point."""
    _, first, index = np.unique(net.nodes, axis=0, return_index=True, return_inverse=True)
    same = first[index.ravel()]
    other = np.flatnonzero(same != np.arange(len(same)))
    return np.stack([same[other], other], axis=1).astype(np.int64) + start


def _with_joined(nodes: Floats, faces: NDArray[np.int64], pairs: NDArray[np.int64]) -> Mesh:
    _, label = connected_components(len(nodes), *pairs.T)
    _, first = np.unique(label, return_index=True)
    return _proper(Mesh(nodes[first], label[faces].astype(np.int32)))


def _proper(mesh: Mesh) -> Mesh:
    """Leave out facets that shrink to a line; they bound nothing."""
    a, b, c = mesh.faces.T
    faces: Faces = mesh.faces[(a != b) & (b != c) & (c != a)]
    return Mesh(mesh.vertices, faces)


def _area(shape: Any) -> float:
    properties = GProp_GProps()
    BRepGProp.SurfaceProperties_s(shape, properties)
    return abs(float(properties.Mass()))


def _net_area(net: FaceNet | None) -> float:
    if net is None:
        return 0.0
    a, b, c = (net.nodes[net.triangles[:, k]] for k in range(3))
    return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)


def _holds(net: FaceNet | None, area: float, fineness: Fineness, whole: float) -> bool:
    """Whether facets have the area of their face, but for what facets of this fineness must lose."""
    loss = _HELD + math.radians(fineness.angle_deg) ** 2 / 4
    off = abs(_net_area(net) - area)
    return off <= loss * area or off <= max(_SLIVER * whole, math.sqrt(area) * fineness.chord_mm * 4)


def _named(face: Any, net: FaceNet | None, area: float) -> tuple[str, tuple[float, float, float]]:
    kind = str(kind_of(face)).rpartition("GeomAbs_")[2].lower().replace("surface", "")
    properties = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, properties)
    middle = properties.CentreOfMass()
    how = "has no facets" if net is None else f"has {_net_area(net):.4g} mm² in facets"
    return f"a {kind} face of {area:.4g} mm² {how}", (middle.X(), middle.Y(), middle.Z())
