"""STEP, IGES and BREP through the CAD kernel: solids with names, colours and the file's length unit.

The kernel works in millimetres; what is handed back is in numbers of the file again, so that the
size chain starts where the file does. BREP carries no unit. The kernel takes seconds to load, so this
module is imported only when such a file comes.
"""

from __future__ import annotations

import math
import re
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepTools import BRepTools
from OCP.collections import Sequence_TDF_Label
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Cylinder, GeomAbs_Plane
from OCP.IFSelect import IFSelect_RetDone
from OCP.IGESCAFControl import IGESCAFControl_Reader
from OCP.Message import Message, Message_Printer
from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
from OCP.ShapeAnalysis import ShapeAnalysis_Surface
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import (
    TopAbs_EDGE,
    TopAbs_FACE,
    TopAbs_REVERSED,
    TopAbs_SHELL,
    TopAbs_SOLID,
)
from OCP.TopExp import TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Shape
from OCP.XCAFDoc import (
    XCAFDoc_ColorGen,
    XCAFDoc_ColorSurf,
    XCAFDoc_ColorTool,
    XCAFDoc_DocumentTool,
    XCAFDoc_ShapeTool,
)

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats.contents import Bore, Contents, Facets, Fineness, Part, Remark, Step
from aimtrue.core.lengths import MM_PER, Unit
from aimtrue.core.mesh import Mesh, weld

_SAMPLES = 4000
"""Facets of a body that are held against the true surface, spread over its curved faces."""
_MOST_BORES = 12
_STEP_UNITS = (
    (re.compile(rb"CONVERSION_BASED_UNIT\s*\(\s*'\s*INCH", re.I), Unit.IN),
    (re.compile(rb"CONVERSION_BASED_UNIT\s*\(\s*'\s*(?:FOOT|FEET)", re.I), Unit.FT),
)
_SI_LENGTH = re.compile(
    rb"LENGTH_UNIT\s*\(\s*\)[^;]*?SI_UNIT\s*\(\s*(\$|\.\w+\.)\s*,\s*\.METRE\.\s*\)"
    rb"|SI_UNIT\s*\(\s*(\$|\.\w+\.)\s*,\s*\.METRE\.\s*\)[^;]*?LENGTH_UNIT",
    re.I,
)
_SI_PREFIX = {b"$": Unit.M, b".MILLI.": Unit.MM, b".CENTI.": Unit.CM, b".MICRO.": Unit.UM}
_IGES_UNITS = {1: Unit.IN, 2: Unit.MM, 4: Unit.FT, 6: Unit.M, 9: Unit.UM, 10: Unit.CM}


# The kernel chats on standard output, which belongs to the command line's answer.
Message.DefaultMessenger_s().RemovePrinters(Message_Printer.get_type_descriptor_s())


@dataclass(frozen=True, eq=False)
class _Leaf:
    """A shape that stands for itself, in its place."""

    shape: Any
    name: str
    colour: str | None


def read(ending: str, data: bytes, fineness: Fineness, *, sew: bool = False) -> Contents:
    """Read a CAD file and cut its surfaces into facets.

    Args:
        ending: ``.step``, ``.stp``, ``.iges``, ``.igs``, ``.brep`` or ``.brp``.
        data: the whole file.
        fineness: how finely.
        sew: whether loose surfaces are sewn into solids first.

    Raises:
        UnreadableFile: the kernel cannot read it, or it holds no surface.
    """
    if ending in (".step", ".stp"):
        kind, (leaves, unit) = "step", _read_step(data)
    elif ending in (".iges", ".igs"):
        kind, (leaves, unit) = "iges", _read_iges(data)
    else:
        kind, (leaves, unit) = "brep", _read_brep(data)
    if sew:
        leaves = [_Leaf(_sewn(leaf.shape), leaf.name, leaf.colour) for leaf in leaves]
    per = MM_PER[unit] if unit else 1.0
    parts: list[Part] = []
    loose = 0
    for leaf in leaves:
        solids = list(_inside(leaf.shape, TopAbs_SOLID))
        if not solids:
            loose += 1
        for number, shape in enumerate(solids or [leaf.shape], 1):
            name = f"{leaf.name} {number}" if leaf.name and len(solids) > 1 else leaf.name
            part = _part(shape, name, leaf.colour, fineness, per)
            if part is not None:
                parts.append(part)
    if not parts:
        raise UnreadableFile(
            "no-triangles",
            f"the {kind.upper()} holds no solid and no surface",
            remedy="export the body itself, not only sketches, points or curves",
        )
    return Contents(kind, tuple(parts), unit, _words(data), _remarks(kind, unit, loose))


def steps(ending: str, data: bytes, finenesses: list[Fineness]) -> list[Step]:
    """Return, per fineness, what :func:`summary` says of the facets it gives."""
    return [summary(read(ending, data, fineness).parts, fineness) for fineness in finenesses]


def summary(parts: tuple[Part, ...], fineness: Fineness) -> Step:
    """Return what the facets of all bodies come to."""
    facets = [part.facets for part in parts if part.facets]
    bores = [bore for one in facets for bore in one.bores]
    widest = max(bores, key=lambda bore: bore.diameter, default=None)
    return Step(
        fineness=fineness,
        triangles=sum(part.mesh.triangles for part in parts),
        deviation=max((one.deviation for one in facets), default=0.0),
        loss=max((bore.loss for bore in bores), default=0.0),
        widest=widest.diameter if widest else 0.0,
        sides=widest.sides if widest else 0,
    )


def _remarks(kind: str, unit: Unit | None, loose: int) -> tuple[Remark, ...]:
    remarks = []
    if loose:
        remarks.append(
            Remark(
                code="surfaces-only",
                severity="look",
                says=f"the {kind.upper()} holds surfaces that bound no solid ({loose})",
                remedy="sew",
            )
        )
    if unit is None and kind != "brep":
        remarks.append(
            Remark(
                code="unit-absent",
                severity="note",
                says=f"the {kind.upper()} names no length unit",
                remedy="settle-unit",
            )
        )
    return tuple(remarks)


def _words(data: bytes) -> str:
    head = data[:4000].decode("latin-1", "replace")
    match = re.search(r"FILE_NAME\s*\(\s*'([^']*)'", head)
    return match[1][:200] if match else ""


def _on_disk(data: bytes, ending: str) -> Any:
    file = tempfile.NamedTemporaryFile(suffix=ending)  # noqa: SIM115 - closed by the caller
    file.write(data)
    file.flush()
    return file


def _refused(kind: str) -> UnreadableFile:
    return UnreadableFile(
        f"{kind.lower()}-damaged",
        f"the {kind} file cannot be read by the CAD kernel",
        remedy="export it again; STEP AP214 or AP242 is the safest",
    )


def _read_step(data: bytes) -> tuple[list[_Leaf], Unit | None]:
    if not data.lstrip()[:12].startswith(b"ISO-10303-21"):
        raise UnreadableFile(
            "step-not",
            "the file is not STEP: it does not begin with ISO-10303-21",
            remedy="check the ending of its name, or export it again",
        )
    if b"END-ISO-10303-21" not in data[-4096:]:
        raise UnreadableFile(
            "step-cut-off",
            "the STEP file is cut off: END-ISO-10303-21 is missing at its end",
            where=f"it ends after {len(data)} bytes",
            remedy="copy or export it again",
        )
    return _transferred(STEPCAFControl_Reader(), data, ".step", "STEP"), _step_unit(data)


def _transferred(reader: Any, data: bytes, ending: str, kind: str) -> list[_Leaf]:
    """Read a file with names and colours into a document, and return the shapes in it."""
    reader.SetColorMode(True)
    reader.SetNameMode(True)
    with _on_disk(data, ending) as file:
        if reader.ReadFile(file.name) != IFSelect_RetDone:
            raise _refused(kind)
        document = _document()
        if not reader.Transfer(document):
            raise _refused(kind)
    return _leaves(document)


def _step_unit(data: bytes) -> Unit | None:
    """Return the length unit that the file's context names."""
    for pattern, unit in _STEP_UNITS:
        if pattern.search(data):
            return unit
    match = _SI_LENGTH.search(data)
    return _SI_PREFIX.get((match[1] or match[2]).upper()) if match else None


def _read_iges(data: bytes) -> tuple[list[_Leaf], Unit | None]:
    lines = data[: 80 * 40].replace(b"\r", b"").split(b"\n")
    if not any(len(line) >= 73 and line[72:73] in b"SG" for line in lines[:3]):
        raise UnreadableFile(
            "iges-not",
            "the file is not IGES: it has no start section",
            remedy="check the ending of its name, or export it again",
        )
    return _transferred(IGESCAFControl_Reader(), data, ".igs", "IGES"), _IGES_UNITS.get(_iges_flag(data))


def _iges_flag(data: bytes) -> int:
    """Read field 14 of the global section, the unit flag (IGES 5.3, 2.2.4.3)."""
    rows = [
        line[:72] for line in data.replace(b"\r", b"").split(b"\n") if len(line) >= 73 and line[72:73] == b"G"
    ]
    text = b"".join(rows).decode("latin-1")
    fields: list[str] = []
    at = 0
    while at < len(text) and len(fields) < 14:
        string = re.match(r"\s*(\d+)H", text[at:])
        end = at + string.end() + int(string[1]) if string else at
        stop = re.search(r"[,;]", text[end:])
        if stop is None:
            break
        fields.append(text[at : end + stop.start()].strip())
        at = end + stop.end()
    return int(fields[13]) if len(fields) == 14 and fields[13].isdigit() else 0


def _read_brep(data: bytes) -> tuple[list[_Leaf], Unit | None]:
    shape = TopoDS_Shape()
    with _on_disk(data, ".brep") as file:
        if b"CASCADE Topology" not in data[:4096] or not BRepTools.Read_s(shape, file.name, BRep_Builder()):
            raise UnreadableFile(
                "brep-damaged", "the file is not a BREP that can be read", remedy="export it again"
            )
    if shape.IsNull():
        raise _refused("BREP")
    return [_Leaf(shape, "", None)], None


def _document() -> Any:
    return TDocStd_Document(TCollection_ExtendedString("BinXCAF"))


def _leaves(document: Any) -> list[_Leaf]:
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    free = Sequence_TDF_Label()
    shapes.GetFreeShapes(free)
    leaves: list[_Leaf] = []
    for label in _labels(free):
        _walk(label, TopLoc_Location(), "", None, colours, leaves)
    return leaves


def _labels(sequence: Any) -> Iterator[Any]:
    for number in range(1, sequence.Length() + 1):
        yield sequence.Value(number)


def _walk(label: Any, place: Any, name: str, colour: str | None, colours: Any, leaves: list[_Leaf]) -> None:
    """Go down an assembly; a part's own name is better than that of its place."""
    name = _name(label) or name
    colour = _colour(colours, label) or colour
    if XCAFDoc_ShapeTool.IsAssembly_s(label):
        inner = Sequence_TDF_Label()
        XCAFDoc_ShapeTool.GetComponents_s(label, inner)
        for component in _labels(inner):
            referred = TDF_Label()
            if XCAFDoc_ShapeTool.GetReferredShape_s(component, referred):
                moved = place.Multiplied(XCAFDoc_ShapeTool.GetLocation_s(component))
                worn = _colour(colours, component) or colour
                _walk(referred, moved, _name(component), worn, colours, leaves)
        return
    shape = XCAFDoc_ShapeTool.GetShape_s(label).Moved(place)
    worn = colour or _colour_of_solid(colours, shape)
    leaves.append(_Leaf(shape, name, worn))


def _name(label: Any) -> str:
    found = TDataStd_Name()
    if not label.FindAttribute(TDataStd_Name.GetID_s(), found):
        return ""
    text = found.Get().ToExtString()
    # What kernels write when there is no name says nothing.
    return "" if re.fullmatch(r"(?:NAUO\d*|COMPOUND|SOLID|SHELL|=>.*|Open CASCADE.*)", text) else text.strip()


def _colour(colours: Any, label: Any) -> str | None:
    for kind in (XCAFDoc_ColorSurf, XCAFDoc_ColorGen):
        colour = Quantity_Color()
        if XCAFDoc_ColorTool.GetColor_s(label, kind, colour):
            return _hex(colour)
    return None


def _colour_of_solid(colours: Any, shape: Any) -> str | None:
    for inner in [shape, *_inside(shape, TopAbs_SOLID)]:
        for kind in (XCAFDoc_ColorSurf, XCAFDoc_ColorGen):
            colour = Quantity_Color()
            if colours.GetColor(inner, kind, colour):
                return _hex(colour)
    return None


def _hex(colour: Any) -> str:
    red, green, blue = colour.Values(Quantity_TOC_sRGB)
    return "#" + "".join(f"{round(255 * share):02x}" for share in (red, green, blue))


def _inside(shape: Any, kind: Any) -> Iterator[Any]:
    explorer = TopExp_Explorer(shape, kind)
    while explorer.More():
        yield explorer.Current()
        explorer.Next()


def _sewn(shape: Any) -> Any:
    """Sew loose surfaces; closed shells become solids."""
    tolerance = max(_diagonal(shape) * 1e-5, 1e-6)
    sewing = BRepBuilderAPI_Sewing(tolerance)
    for face in _inside(shape, TopAbs_FACE):
        sewing.Add(face)
    sewing.Perform()
    result = TopoDS_Compound()
    builder = BRep_Builder()
    builder.MakeCompound(result)
    whole = sewing.SewedShape()
    for shell in _inside(whole, TopAbs_SHELL):
        maker = BRepBuilderAPI_MakeSolid(TopoDS.Shell(shell))
        closed = BRep_Tool.IsClosed_s(shell)
        builder.Add(result, maker.Solid() if closed and maker.IsDone() else shell)
    return result if any(True for _ in _inside(result, TopAbs_FACE)) else whole


def _diagonal(shape: Any) -> float:
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box)
    return 0.0 if box.IsVoid() else math.sqrt(box.SquareExtent())


def _part(shape: Any, name: str, colour: str | None, fineness: Fineness, per: float) -> Part | None:
    BRepTools.Clean_s(shape)
    BRepMesh_IncrementalMesh(shape, fineness.chord_mm, False, math.radians(fineness.angle_deg), True)
    faces = [TopoDS.Face(face) for face in _inside(shape, TopAbs_FACE)]
    corners = [_corners(face) for face in faces]
    corners = [some for some in corners if len(some)]
    if not corners:
        return None
    mesh = weld(np.concatenate(corners) / per)
    # At the poles of round surfaces facets shrink to a line; they bound nothing.
    a, b, c = mesh.faces.T
    mesh = Mesh(mesh.vertices, mesh.faces[(a != b) & (b != c) & (c != a)])
    if mesh.volume() < 0 and mesh.topology.closed:
        mesh = Mesh(mesh.vertices, np.ascontiguousarray(mesh.faces[:, ::-1]))
    facets = Facets(deviation=_deviation(faces) / per, bores=tuple(_bores(faces, per)))
    return Part(name, mesh, True, colour, facets=facets)


def _corners(face: Any) -> np.ndarray[tuple[int, ...], np.dtype[np.float64]]:
    place = TopLoc_Location()
    net = BRep_Tool.Triangulation_s(face, place)
    if net is None:
        return np.empty((0, 3, 3))
    move = place.Transformation()
    nodes = [net.Node(i).Transformed(move) for i in range(1, net.NbNodes() + 1)]
    points = np.array([(p.X(), p.Y(), p.Z()) for p in nodes])
    index = np.array([net.Triangle(i).Get() for i in range(1, net.NbTriangles() + 1)]) - 1
    if face.Orientation() == TopAbs_REVERSED:
        index = index[:, ::-1]
    return np.asarray(points[index])


def _deviation(faces: list[Any]) -> float:
    """Return the greatest distance, in mm, from the middles of facets to the surface they stand for."""
    curved = [face for face in faces if BRepAdaptor_Surface(face).GetType() != GeomAbs_Plane]
    budget = max(8, _SAMPLES // max(1, len(curved)))
    return max((_face_deviation(face, budget) for face in curved), default=0.0)


def _face_deviation(face: Any, budget: int) -> float:
    place = TopLoc_Location()
    net = BRep_Tool.Triangulation_s(face, place)
    if net is None or not net.HasUVNodes():
        return 0.0
    surface = ShapeAnalysis_Surface(BRep_Tool.Surface_s(face))
    move = place.Transformation()
    worst = 0.0
    for i in range(1, net.NbTriangles() + 1, max(1, net.NbTriangles() // budget)):
        corners = net.Triangle(i).Get()
        middle = np.mean([_xyz(net.Node(k).Transformed(move)) for k in corners], axis=0)
        point = net.Node(corners[0]).Transformed(move)
        point.SetCoord(*middle.tolist())
        near = surface.Value(surface.ValueOfUV(point, 1e-7))
        worst = max(worst, float(near.Distance(point)))
    return worst


def _xyz(point: Any) -> tuple[float, float, float]:
    return (point.X(), point.Y(), point.Z())


def _bores(faces: list[Any], per: float) -> list[Bore]:
    """Find the round rims of bores, and what facets leave free: D (1 - cos(step / 2)) less."""
    found: dict[tuple[float, ...], Bore] = {}
    for face in faces:
        surface = BRepAdaptor_Surface(face)
        if surface.GetType() != GeomAbs_Cylinder:
            continue
        inward = (face.Orientation() == TopAbs_REVERSED) == surface.Cylinder().Position().Direct()
        if not inward:
            continue
        place = TopLoc_Location()
        net = BRep_Tool.Triangulation_s(face, place)
        for edge in map(TopoDS.Edge, _inside(face, TopAbs_EDGE)):
            curve = BRepAdaptor_Curve(edge)
            if net is None or curve.GetType() != GeomAbs_Circle:
                continue
            polygon = BRep_Tool.PolygonOnTriangulation_s(edge, net, place)
            if polygon is None or polygon.NbNodes() < 2:
                continue
            span = abs(curve.LastParameter() - curve.FirstParameter())
            diameter = 2 * curve.Circle().Radius() / per
            loss = diameter * (1 - math.cos(span / (polygon.NbNodes() - 1) / 2))
            x, y, z = _xyz(curve.Circle().Location())
            key = tuple(round(n, 6) for n in (x, y, z, diameter))
            known = found.get(key)
            if known is None or known.loss < loss:
                found[key] = Bore(diameter=diameter, loss=loss, place=(x / per, y / per, z / per))
    return sorted(found.values(), key=lambda bore: -bore.loss)[:_MOST_BORES]
