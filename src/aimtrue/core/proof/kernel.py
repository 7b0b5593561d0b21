"""CAD sources read a second time: by the kernel's plain readers, at a tessellation of the proof's own.

This proves that what was released is where and as large as the kernel has it, to within both tessellations,
by another way into the file and through the assembly, and with the kernel's exact volumes. The kernel
itself is the same: what it misreads, both ways misread.
"""

from __future__ import annotations

import math
import tempfile
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.facets import Fineness
from aimtrue.core.model.lengths import Unit
from aimtrue.core.proof.surface import Points, Surface, volume

_UNIT_WORDS = {
    "micrometre": Unit.UM,
    "millimetre": Unit.MM,
    "centimetre": Unit.CM,
    "metre": Unit.M,
    "inch": Unit.IN,
    "foot": Unit.FT,
}
"""As the kernel calls them."""
_LOOKED = 6000
"""Facets of a solid whose deviation is looked at."""


@dataclass(frozen=True, eq=False)
class KernelSolid:
    """A solid, or loose surfaces, of a CAD source, in mm.

    Attributes:
        surface: facets of the proof's own.
        volume: exact, by the kernel; None for surfaces that do not close.
        deviation: the greatest distance seen between these facets and the exact surfaces, in mm.
    """

    surface: Surface
    volume: float | None
    deviation: float = 0.0


def read(
    kind: str, data: bytes, fineness: Fineness, beside: Mapping[str, bytes] | None = None
) -> list[KernelSolid]:
    """Read a CAD file a second time.

    Args:
        kind: ``step``, ``iges`` or ``brep``.
        data: the whole file.
        fineness: of the first tessellation; this one is another, somewhat coarser.
        beside: by name, the files that an assembly names parts in.
    """
    from OCP.IMeshTools import IMeshTools_MeshAlgoType_Delabella, IMeshTools_MeshAlgoType_Watson

    shape = _assembly(data, beside) if beside else _shape(kind, data)
    if kind == "iges":
        shape = _sewn(shape)  # The format of trimmed surfaces knows no edges that surfaces share.
    chord, angle = 1.4 * fineness.chord_mm, 1.3 * math.radians(fineness.angle_deg)
    solids: list[KernelSolid] = []
    # The first way is the quicker by far where a flat face has many holes; the other is the kernel's usual.
    for way in (IMeshTools_MeshAlgoType_Delabella, IMeshTools_MeshAlgoType_Watson):
        _triangulate(shape, chord, angle, way)
        solids, whole = _solids(shape, angle)
        if whole:
            break
    return solids


def _triangulate(shape: Any, chord: float, angle: float, way: Any) -> None:
    from OCP.BRepMesh import BRepMesh_IncrementalMesh
    from OCP.BRepTools import BRepTools
    from OCP.IMeshTools import IMeshTools_Parameters

    asked = IMeshTools_Parameters()
    asked.Deflection, asked.Angle, asked.InParallel, asked.MeshAlgo = chord, angle, True, way
    BRepTools.Clean_s(shape)
    BRepMesh_IncrementalMesh(shape, asked)


def _solids(shape: Any, angle: float) -> tuple[list[KernelSolid], bool]:
    """Return the solids and loose surfaces of a shape, and whether facets have the area of every face, as
    near as facets that turn by an angle can.
    """
    from OCP.BRep import BRep_Tool
    from OCP.TopAbs import TopAbs_FACE, TopAbs_SHELL, TopAbs_SOLID

    solids, off = [], 0.0
    shells = _within(shape, TopAbs_SHELL, TopAbs_SOLID)
    closed = [*_within(shape, TopAbs_SOLID), *(shell for shell in shells if BRep_Tool.IsClosed_s(shell))]
    loose = [shell for shell in shells if not BRep_Tool.IsClosed_s(shell)]
    loose += _within(shape, TopAbs_FACE, TopAbs_SHELL)
    for number, one in enumerate([*closed, *loose]):
        surface, worst = _facets(one)
        off = max(off, worst)
        if len(surface.faces):
            bounds_one = number < len(closed)
            surface = _outward(surface) if bounds_one else surface
            solids.append(KernelSolid(surface, _volume(one) if bounds_one else None, _deviation(one)))
    return solids, off <= 0.01 + angle * angle


def _sewn(shape: Any) -> Any:
    """Sew the surfaces that bound no solid, by a call and a tolerance of the proof's own; solids stay."""
    from OCP.Bnd import Bnd_Box
    from OCP.BRep import BRep_Builder
    from OCP.BRepBndLib import BRepBndLib
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Sewing
    from OCP.TopAbs import TopAbs_FACE, TopAbs_SOLID
    from OCP.TopoDS import TopoDS_Compound

    box, faces = Bnd_Box(), _within(shape, TopAbs_FACE, TopAbs_SOLID)
    BRepBndLib.Add_s(shape, box)
    if box.IsVoid() or not faces:
        return shape
    sewing = BRepBuilderAPI_Sewing(1e-5 * math.sqrt(box.SquareExtent()))
    for face in faces:
        sewing.Add(face)
    sewing.Perform()
    builder, result = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(result)
    for solid in (*_within(shape, TopAbs_SOLID), sewing.SewedShape()):
        builder.Add(result, solid)
    return result


def _outward(surface: Surface) -> Surface:
    """Return a closed surface with its triangles facing outward."""
    if volume(surface.corners) >= 0:
        return surface
    return Surface(surface.points, surface.faces[:, ::-1].copy())


def declared(data: bytes) -> Unit | None:
    """Return the unit that a STEP file says its lengths are in; None where it is none that we know."""
    from OCP.collections import Sequence_TCollection_AsciiString
    from OCP.IFSelect import IFSelect_RetDone
    from OCP.STEPControl import STEPControl_Reader

    reader = STEPControl_Reader()
    with tempfile.NamedTemporaryFile(suffix=".step") as file:
        file.write(data)
        file.flush()
        if reader.ReadFile(file.name) != IFSelect_RetDone:
            raise _unreadable()
    lengths, angles, solid_angles = (Sequence_TCollection_AsciiString() for _ in range(3))
    reader.FileUnits(lengths, angles, solid_angles)
    names = {lengths.Value(i).ToCString().strip().lower() for i in range(1, lengths.Length() + 1)}
    return _UNIT_WORDS.get(names.pop()) if len(names) == 1 else None


def _shape(kind: str, data: bytes) -> Any:
    from OCP.BRep import BRep_Builder
    from OCP.BRepTools import BRepTools
    from OCP.IFSelect import IFSelect_RetDone
    from OCP.IGESControl import IGESControl_Reader
    from OCP.Message import Message, Message_Printer
    from OCP.STEPControl import STEPControl_Reader
    from OCP.TopoDS import TopoDS_Shape

    # The kernel chats on standard output, which belongs to the command line's answer.
    Message.DefaultMessenger_s().RemovePrinters(Message_Printer.get_type_descriptor_s())
    with tempfile.NamedTemporaryFile(suffix=f".{kind}") as file:
        file.write(data)
        file.flush()
        if kind == "brep":
            shape = TopoDS_Shape()
            good = BRepTools.Read_s(shape, file.name, BRep_Builder())
        else:
            reader = STEPControl_Reader() if kind == "step" else IGESControl_Reader()
            good = reader.ReadFile(file.name) == IFSelect_RetDone and reader.TransferRoots() > 0
            shape = reader.OneShape() if good else TopoDS_Shape()
    if not good or shape.IsNull():
        raise _unreadable()
    return shape


def _assembly(data: bytes, beside: Mapping[str, bytes]) -> Any:
    """A STEP assembly with its parts in other files, as the kernel itself puts it together."""
    from OCP.BRep import BRep_Builder
    from OCP.collections import Sequence_TDF_Label
    from OCP.IFSelect import IFSelect_RetDone
    from OCP.STEPCAFControl import STEPCAFControl_Reader
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDocStd import TDocStd_Document
    from OCP.TopoDS import TopoDS_Compound
    from OCP.XCAFDoc import XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

    reader, document = STEPCAFControl_Reader(), TDocStd_Document(TCollection_ExtendedString("BinXCAF"))
    with tempfile.TemporaryDirectory() as folder:
        for name, part in beside.items():
            (Path(folder) / name).write_bytes(part)
        whole = Path(folder) / "assembly.stp"
        whole.write_bytes(data)
        if reader.ReadFile(str(whole)) != IFSelect_RetDone or not reader.Transfer(document):
            raise _unreadable()
    labels, result, builder = Sequence_TDF_Label(), TopoDS_Compound(), BRep_Builder()
    XCAFDoc_DocumentTool.ShapeTool_s(document.Main()).GetFreeShapes(labels)
    builder.MakeCompound(result)
    for number in range(1, labels.Length() + 1):
        builder.Add(result, XCAFDoc_ShapeTool.GetShape_s(labels.Value(number)))
    return result


def _unreadable() -> AimTrueError:
    return AimTrueError(
        "original-unproven",
        "the CAD file cannot be read a second time, so nothing can be proven of it",
        remedy="nothing was handed over; report this with the file",
    )


def _within(shape: Any, kind: Any, outside: Any = None) -> list[Any]:
    from OCP.TopExp import TopExp_Explorer

    explorer = TopExp_Explorer(shape, kind) if outside is None else TopExp_Explorer(shape, kind, outside)
    solids = []
    while explorer.More():
        solids.append(explorer.Current())
        explorer.Next()
    return solids


def _volume(solid: Any) -> float:
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps

    properties = GProp_GProps()
    BRepGProp.VolumeProperties_s(solid, properties)
    return abs(float(properties.Mass()))


def _facets(shape: Any) -> tuple[Surface, float]:
    """Return the facets of a shape, and by which share of a face its facets have another area, at most."""
    from OCP.BRep import BRep_Tool
    from OCP.TopAbs import TopAbs_FACE, TopAbs_REVERSED
    from OCP.TopLoc import TopLoc_Location
    from OCP.TopoDS import TopoDS

    points: list[Points] = []
    faces = []
    used, off = 0, 0.0
    for face in map(TopoDS.Face, _within(shape, TopAbs_FACE)):
        place = TopLoc_Location()
        net = BRep_Tool.Triangulation_s(face, place)
        if net is None:
            off = 1.0
            continue
        move = place.Transformation()
        rows = [move.Value(r, c) for r in (1, 2, 3) for c in (1, 2, 3, 4)]
        matrix = np.array(rows).reshape(3, 4)
        own = np.array([net.Node(i + 1).Coord() for i in range(net.NbNodes())]).reshape(-1, 3)
        index = np.array([net.Triangle(i + 1).Get() for i in range(net.NbTriangles())], np.int64) - 1
        points.append(own @ matrix[:, :3].T + matrix[:, 3])
        faces.append((index[:, ::-1] if face.Orientation() == TopAbs_REVERSED else index) + used)
        off = max(off, _area_off(face, own[index]))
        used += len(own)
    if not points:
        return Surface(np.empty((0, 3)), np.empty((0, 3), np.int64)), off
    return Surface(np.concatenate(points), np.concatenate(faces)), off


def _area_off(face: Any, corners: Points) -> float:
    """Return by which share (n, 3, 3) facets have another area than their face; 0 where it is facets
    itself.
    """
    from OCP.BRep import BRep_Tool
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps

    if BRep_Tool.Surface_s(face) is None:
        return 0.0
    properties = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, properties)
    exact = abs(float(properties.Mass()))
    sides = corners[:, 1:] - corners[:, :1]
    area = float(np.linalg.norm(np.cross(sides[:, 0], sides[:, 1]), axis=1).sum() / 2)
    return abs(area - exact) / exact if exact > 0 else 0.0


def _deviation(shape: Any) -> float:
    """Look how far the exact surface is from the middles of facets' sides, by parameters; of very many
    some.
    """
    from OCP.BRep import BRep_Tool
    from OCP.TopAbs import TopAbs_FACE
    from OCP.TopLoc import TopLoc_Location
    from OCP.TopoDS import TopoDS

    faces, worst = [TopoDS.Face(face) for face in _within(shape, TopAbs_FACE)], 0.0
    most = max(20, _LOOKED // max(1, len(faces)))
    for face in faces:
        place = TopLoc_Location()
        net = BRep_Tool.Triangulation_s(face, place)
        if net is None or not net.HasUVNodes():
            continue
        surface = BRep_Tool.Surface_s(face, TopLoc_Location())
        if surface is None:
            continue
        for number in range(1, net.NbTriangles() + 1, -(-net.NbTriangles() // most)):
            ends = net.Triangle(number).Get()
            for i, j in ((0, 1), (1, 2), (2, 0)):
                a, b = net.UVNode(ends[i]), net.UVNode(ends[j])
                middle = surface.Value((a.X() + b.X()) / 2, (a.Y() + b.Y()) / 2)
                p, q = net.Node(ends[i]), net.Node(ends[j])
                run = p.Distance(q)
                # How far a point is off the line between two others; beside their run it says nothing.
                along = (
                    (middle.SquareDistance(p) - middle.SquareDistance(q)) / (run * run) if run > 0 else 9.0
                )
                if abs(along) < 0.5:
                    height = middle.SquareDistance(p) - (0.5 * (along + 1) * run) ** 2
                    worst = max(worst, math.sqrt(max(height, 0.0)))
    return worst
