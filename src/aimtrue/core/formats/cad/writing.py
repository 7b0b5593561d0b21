"""Writing STEP: solids of CAD files as they are, moved, turned and scaled alike on all axes."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Trsf
from OCP.IFSelect import IFSelect_RetDone
from OCP.Interface import Interface_Static
from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_SOLID
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFDoc import XCAFDoc_ColorGen, XCAFDoc_DocumentTool

from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.formats.cad.bores import inside
from aimtrue.core.formats.cad.reading import shapes_in
from aimtrue.core.formats.cad.section import is_in
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.lengths import Unit

_UNITS = {Unit.UM: "UM", Unit.MM: "MM", Unit.CM: "CM", Unit.M: "M", Unit.IN: "INCH", Unit.FT: "FT"}
_STAMP = re.compile(rb"(FILE_NAME\('[^']*',)'[^']*'")


@dataclass(frozen=True, eq=False)
class PlacedSolid:
    """A solid of a CAD file, and where it is to be.

    Attributes:
        ending, data, beside: the file.
        box: (2, 3) its bounds there in mm of the kernel, by which it is found.
        matrix: (3, 4) that takes mm of the kernel to mm of the released file, alike along all axes.
        name, colour: in the released file.
    """

    ending: str
    data: bytes
    beside: Mapping[str, bytes]
    box: Floats
    matrix: Floats
    name: str
    colour: str | None


@dataclass(frozen=True, eq=False)
class NamedShape:
    """A shape of the kernel, in mm, with the name and the colour that it has in a file."""

    shape: TopoDS_Shape
    name: str
    colour: str | None = None


def write(solids: Sequence[PlacedSolid], unit: Unit, title: str) -> bytes:
    """Write solids as one STEP file (ISO 10303-21, AP214), the same bytes for the same input.

    Raises:
        Refused: a solid is not found in its file any more.
        AimTrueError: the kernel cannot write them.
    """
    shapes = [NamedShape(_moved(_found(solid), solid.matrix), solid.name, solid.colour) for solid in solids]
    return write_shapes(shapes, unit, title)


def write_shapes(named_shapes: Sequence[NamedShape], unit: Unit, title: str) -> bytes:
    """Write shapes as one STEP file, the same bytes for the same input.

    Raises:
        AimTrueError: the kernel cannot write them.
    """
    document = TDocStd_Document(TCollection_ExtendedString("BinXCAF"))
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    for solid in named_shapes:
        label = shapes.AddShape(solid.shape, False)
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(solid.name))
        if solid.colour:
            red, green, blue = (int(solid.colour[k : k + 2], 16) / 255 for k in (1, 3, 5))
            colours.SetColor(label, Quantity_Color(red, green, blue, Quantity_TOC_sRGB), XCAFDoc_ColorGen)
    return _stamped(_bytes(document, unit), title)


def _found(solid: PlacedSolid) -> TopoDS_Shape:
    for shape in shapes_in(solid.ending, solid.data, solid.beside):
        for part in inside(shape, TopAbs_SOLID):
            if is_in(part, solid.box):
                return part
    raise Refused(
        "step-solid",
        f"{solid.name} is not found as a solid in its CAD file",
        remedy="release it as a mesh",
    )


def _moved(shape: TopoDS_Shape, matrix: Floats) -> TopoDS_Shape:
    change = gp_Trsf()
    change.SetValues(*matrix.ravel().tolist())
    return BRepBuilderAPI_Transform(shape, change, True).Shape()


def _bytes(document: TDocStd_Document, unit: Unit) -> bytes:
    before = Interface_Static.CVal_s("write.step.unit")
    Interface_Static.SetCVal_s("write.step.unit", _UNITS[unit])
    try:
        writer = STEPCAFControl_Writer()
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "solids.step"
            done = writer.Transfer(document, STEPControl_AsIs) and writer.Write(str(path)) == IFSelect_RetDone
            if done:
                return path.read_bytes()
    finally:
        Interface_Static.SetCVal_s("write.step.unit", before)
    raise AimTrueError("step-unwritten", "the CAD kernel cannot write this", remedy="release it as a mesh")


def _stamped(data: bytes, title: str) -> bytes:
    """Put our name and no time into the header: same input, same bytes."""
    plain = re.sub(r"[^ -&(-~]", "_", title).encode()
    return _STAMP.sub(b"FILE_NAME('" + plain.replace(b"\\", b"_") + b"','1980-01-01T00:00:00'", data, count=1)
