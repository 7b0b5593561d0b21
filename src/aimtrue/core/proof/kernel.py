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
from aimtrue.core.formats.contents import Fineness
from aimtrue.core.proof.surface import Points, Surface


@dataclass(frozen=True, eq=False)
class Solid:
    """A solid, or loose surfaces, of a CAD source, in mm.

    Attributes:
        surface: facets of the proof's own.
        volume: exact, by the kernel; None for loose surfaces.
    """

    surface: Surface
    volume: float | None


def read(
    kind: str, data: bytes, fineness: Fineness, beside: Mapping[str, bytes] | None = None
) -> list[Solid]:
    """Read a CAD file a second time.

    Args:
        kind: ``step``, ``iges`` or ``brep``.
        data: the whole file.
        fineness: of the first tessellation; this one is another, about as fine.
        beside: by name, the files that an assembly names parts in.
    """
    from OCP.BRepMesh import BRepMesh_IncrementalMesh
    from OCP.TopAbs import TopAbs_FACE, TopAbs_SHELL, TopAbs_SOLID

    shape = _assembly(data, beside) if beside else _shape(kind, data)
    BRepMesh_IncrementalMesh(
        shape, 0.83 * fineness.chord_mm, False, 0.9 * math.radians(fineness.angle_deg), False
    )
    solids = [Solid(_facets(one), _volume(one)) for one in _within(shape, TopAbs_SOLID)]
    loose = [_facets(one) for one in _within(shape, TopAbs_SHELL, TopAbs_SOLID)]
    loose += [_facets(one) for one in _within(shape, TopAbs_FACE, TopAbs_SHELL)]
    solids += [Solid(one, None) for one in loose]
    return [one for one in solids if len(one.surface.faces)]


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
    found = []
    while explorer.More():
        found.append(explorer.Current())
        explorer.Next()
    return found


def _volume(solid: Any) -> float:
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps

    found = GProp_GProps()
    BRepGProp.VolumeProperties_s(solid, found)
    return abs(float(found.Mass()))


def _facets(shape: Any) -> Surface:
    from OCP.BRep import BRep_Tool
    from OCP.TopAbs import TopAbs_FACE, TopAbs_REVERSED
    from OCP.TopLoc import TopLoc_Location
    from OCP.TopoDS import TopoDS

    points: list[Points] = []
    faces = []
    used = 0
    for one in map(TopoDS.Face, _within(shape, TopAbs_FACE)):
        place = TopLoc_Location()
        net = BRep_Tool.Triangulation_s(one, place)
        if net is None:
            continue
        move = place.Transformation()
        rows = [move.Value(r, c) for r in (1, 2, 3) for c in (1, 2, 3, 4)]
        matrix = np.array(rows).reshape(3, 4)
        own = np.array([net.Node(i + 1).Coord() for i in range(net.NbNodes())]).reshape(-1, 3)
        index = np.array([net.Triangle(i + 1).Get() for i in range(net.NbTriangles())], np.int64) - 1
        points.append(own @ matrix[:, :3].T + matrix[:, 3])
        faces.append((index[:, ::-1] if one.Orientation() == TopAbs_REVERSED else index) + used)
        used += len(own)
    if not points:
        return Surface(np.empty((0, 3)), np.empty((0, 3), np.int64))
    return Surface(np.concatenate(points), np.concatenate(faces))
