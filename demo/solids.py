"""Solids as a designer models them, by the CAD kernel: what the made-up files and the tests are built of.

A few primitives and what is done with them, no more; lengths in mm. Solids are immutable: every operation
returns another.
"""

from __future__ import annotations

import math
import re
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepGProp import BRepGProp
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_Circle
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.IFSelect import IFSelect_RetDone
from OCP.IGESControl import IGESControl_Controller, IGESControl_Writer
from OCP.Interface import Interface_Static
from OCP.Message import Message, Message_Printer
from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED, TopAbs_ShapeEnum, TopAbs_SOLID
from OCP.TopExp import TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Shape
from OCP.XCAFDoc import XCAFDoc_ColorGen, XCAFDoc_DocumentTool

Message.DefaultMessenger_s().RemovePrinters(Message_Printer.get_type_descriptor_s())
_AXES = {"x": gp_Dir(1, 0, 0), "y": gp_Dir(0, 1, 0), "z": gp_Dir(0, 0, 1)}
_STAMP = re.compile(rb"(FILE_NAME\('[^']*',)'[^']*'")


@dataclass(frozen=True, eq=False)
class Solid:
    """One solid, or several together."""

    shape: TopoDS_Shape

    def __add__(self, other: Solid) -> Solid:
        """Join; faces in one plane become one."""
        return _unified(BRepAlgoAPI_Fuse(self.shape, other.shape).Shape())

    def __sub__(self, other: Solid) -> Solid:
        """Cut off what the other takes up."""
        return _unified(BRepAlgoAPI_Cut(self.shape, other.shape).Shape())

    def at(self, x: float = 0.0, y: float = 0.0, z: float = 0.0) -> Solid:
        """Move."""
        change = gp_Trsf()
        change.SetTranslation(gp_Vec(x, y, z))
        return self._changed(change)

    def turned(self, axis: str, degrees: float) -> Solid:
        """Turn about an axis through the origin."""
        change = gp_Trsf()
        change.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), _AXES[axis]), math.radians(degrees))
        return self._changed(change)

    def _changed(self, change: gp_Trsf) -> Solid:
        return Solid(BRepBuilderAPI_Transform(self.shape, change, True).Shape())

    def rounded(self, radius: float, above: float) -> Solid:
        """Round the circular edges whose centre is over a height."""
        tool = BRepFilletAPI_MakeFillet(self.shape)
        for edge in _parts(self.shape, TopAbs_EDGE):
            curve = BRepAdaptor_Curve(TopoDS.Edge(edge))
            if curve.GetType() == GeomAbs_Circle and curve.Circle().Location().Z() > above:
                tool.Add(radius, TopoDS.Edge(edge))
        return Solid(tool.Shape())

    def solids(self) -> list[Solid]:
        """Its solids, each by itself."""
        return [Solid(part) for part in _parts(self.shape, TopAbs_SOLID)]

    def faces(self) -> Solid:
        """Its faces as loose surfaces, no solid any more."""
        return together([Solid(part) for part in _parts(self.shape, TopAbs_FACE)])

    def centre(self) -> tuple[float, float, float]:
        """The centre of its volume."""
        found = GProp_GProps()
        BRepGProp.VolumeProperties_s(self.shape, found)
        centre = found.CentreOfMass()
        return centre.X(), centre.Y(), centre.Z()

    def corners(self, chord: float, angle: float) -> np.ndarray:
        """Cut into facets: (m, 3, 3) corners, solid by solid, face by face.

        Args:
            chord: how far facets may be from the true surface, as a share of the edge's size.
            angle: how far they may turn, in radians.
        """
        rows = []
        for solid in self.solids():
            BRepMesh_IncrementalMesh(solid.shape, chord, True, angle)
            rows += [_facets(face) for face in _parts(solid.shape, TopAbs_FACE)]
        return np.concatenate(rows)


def box(x: float, y: float, z: float) -> Solid:
    """A box that stands on the origin, centred."""
    return Solid(BRepPrimAPI_MakeBox(gp_Pnt(-x / 2, -y / 2, 0), x, y, z).Shape())


def cylinder(radius: float, height: float) -> Solid:
    """A cylinder that stands on the origin, upright."""
    return Solid(BRepPrimAPI_MakeCylinder(radius, height).Shape())


def together(solids: Sequence[Solid]) -> Solid:
    """Several side by side, not joined."""
    whole, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(whole)
    for solid in solids:
        builder.Add(whole, solid.shape)
    return Solid(whole)


def write_brep(solid: Solid, path: Path) -> None:
    """Write the kernel's own text format."""
    assert BRepTools.Write_s(solid.shape, str(path))


def write_iges(solid: Solid, path: Path, unit: str = "MM", *, surfaces: bool = False) -> None:
    """Write IGES, in a unit as the kernel names them: solids, or only their trimmed surfaces."""
    IGESControl_Controller.Init_s()
    writer = IGESControl_Writer(unit, 0 if surfaces else 1)
    assert writer.AddShape(solid.shape)
    assert writer.Write(str(path))


def write_step(solid: Solid, path: Path, unit: str = "MM") -> None:
    """Write plain STEP, in a unit as the kernel names them."""
    writer = STEPControl_Writer()
    before = Interface_Static.CVal_s("write.step.unit")
    assert Interface_Static.SetCVal_s("write.step.unit", unit)
    try:
        writer.Transfer(solid.shape, STEPControl_AsIs)
        assert writer.Write(str(path)) == IFSelect_RetDone
    finally:
        Interface_Static.SetCVal_s("write.step.unit", before)


def write_assembly(parts: Sequence[tuple[str, str, Solid]], name: str, stamp: str, path: Path) -> None:
    """Write an assembly of named and coloured solids as STEP.

    Args:
        parts: of each its name, its colour as ``#rrggbb``, and the solid.
        name: of the assembly.
        stamp: the time that its header gives.
        path: where to.
    """
    document = TDocStd_Document(TCollection_ExtendedString("BinXCAF"))
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    whole = shapes.NewShape()
    TDataStd_Name.Set_s(whole, TCollection_ExtendedString(name))
    for says, colour, solid in parts:
        label = shapes.AddShape(solid.shape, False)
        red, green, blue = (int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5))
        colours.SetColor(label, Quantity_Color(red, green, blue, Quantity_TOC_sRGB), XCAFDoc_ColorGen)
        component = shapes.AddComponent(whole, label, TopLoc_Location())
        for one in (label, component):
            TDataStd_Name.Set_s(one, TCollection_ExtendedString(says))
    shapes.UpdateAssemblies()
    with tempfile.TemporaryDirectory() as folder:
        aside = Path(folder) / "assembly.step"
        writer = STEPCAFControl_Writer()
        assert writer.Transfer(document, STEPControl_AsIs)
        assert writer.Write(str(aside)) == IFSelect_RetDone
        path.write_bytes(_STAMP.sub(rf"\1'{stamp}'".encode(), aside.read_bytes(), count=1))


def _unified(shape: TopoDS_Shape) -> Solid:
    tool = ShapeUpgrade_UnifySameDomain(shape, True, True, True)
    tool.Build()
    return Solid(tool.Shape())


def _parts(shape: TopoDS_Shape, kind: TopAbs_ShapeEnum) -> list[TopoDS_Shape]:
    """Every part of a kind, each once, in the kernel's order."""
    explorer = TopExp_Explorer(shape, kind)
    found: list[TopoDS_Shape] = []
    while explorer.More():
        one = explorer.Current()
        if not any(one.IsSame(other) for other in found):
            found.append(one)
        explorer.Next()
    return found


def _facets(face: TopoDS_Shape) -> np.ndarray:
    """The (m, 3, 3) corners of a face that was cut into facets, seen from outside."""
    place = TopLoc_Location()
    made = BRep_Tool.Triangulation_s(TopoDS.Face(face), place)
    change = place.Transformation()
    nodes = [made.Node(k).Transformed(change) for k in range(1, made.NbNodes() + 1)]
    points = np.array([(node.X(), node.Y(), node.Z()) for node in nodes])
    order = (1, 3, 2) if face.Orientation() == TopAbs_REVERSED else (1, 2, 3)
    faces = [made.Triangle(k) for k in range(1, made.NbTriangles() + 1)]
    return np.asarray(points[np.array([[face.Value(k) - 1 for k in order] for face in faces])])
