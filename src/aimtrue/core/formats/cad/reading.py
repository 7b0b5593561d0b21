"""From the bytes of a CAD file to the shapes in it, with names, colours and unit."""

from __future__ import annotations

import math
import re
import tempfile
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
from OCP.BRepTools import BRepTools
from OCP.collections import Sequence_TDF_Label
from OCP.IFSelect import IFSelect_RetDone
from OCP.IGESCAFControl import IGESCAFControl_Reader
from OCP.Message import Message, Message_Printer
from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import (
    TopAbs_FACE,
    TopAbs_SHELL,
    TopAbs_SOLID,
)
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
from aimtrue.core.formats.assemblies import parts_elsewhere
from aimtrue.core.formats.cad.bores import inside
from aimtrue.core.formats.cad.facets import cut
from aimtrue.core.formats.cad.fineness import USUAL, usual
from aimtrue.core.formats.contents import FileObject, FileObjects
from aimtrue.core.model.facets import Bore, Facets, Fineness, Remark
from aimtrue.core.model.lengths import MM_PER, Unit

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


def read(
    ending: str,
    data: bytes,
    fineness: Fineness | None,
    *,
    sew: bool = False,
    beside: Mapping[str, bytes] | None = None,
) -> FileObjects:
    """Read a CAD file and cut its surfaces into facets.

    Args:
        ending: ``.step``, ``.stp``, ``.iges``, ``.igs``, ``.brep`` or ``.brp``.
        data: the whole file.
        fineness: how finely; None for the usual, no finer than suits the size of the part.
        sew: whether loose surfaces are sewn into solids first.
        beside: by name, files that an assembly may name parts in.

    Raises:
        UnreadableFile: the kernel cannot read it, or it holds no surface.
    """
    kind, leaves, unit = _leaves_in(ending, data, beside or {})
    if sew:
        leaves = [_Leaf(_sewn(leaf.shape), leaf.name, leaf.colour) for leaf in leaves]
    per = MM_PER[unit] if unit else 1.0
    asked, fineness = fineness, fineness or usual([leaf.shape for leaf in leaves])
    missing = tuple(name for name in parts_elsewhere(data) if name.lower() not in _lower(beside))
    parts, loose = _tessellated(leaves, kind, fineness, per)
    if not parts:
        raise _nothing_in(kind, missing)
    remarks = _remarks(kind, unit, loose, missing)
    if asked is None and fineness != USUAL:
        within = f"facets are within {fineness.chord_mm:.3g} mm and {fineness.angle_deg:.3g}°"
        says = f"{within}, as suits the size of the part; choose finer ones when they are needed"
        remarks += (Remark(code="facets-bounded", severity="note", says=says),)
    return FileObjects(kind, tuple(parts), unit, _words(data), remarks, fineness)


def _tessellated(
    leaves: Sequence[_Leaf], kind: str, fineness: Fineness, per: float
) -> tuple[list[FileObject], int]:
    """Return the solids and loose surfaces of leaves as meshes, and how many leaves are not closed."""
    parts: list[FileObject] = []
    loose = 0
    for leaf in leaves:
        solids, before = list(inside(leaf.shape, TopAbs_SOLID)), len(parts)
        for number, shape in enumerate(solids or [leaf.shape], 1):
            name = f"{leaf.name} {number}" if leaf.name and len(solids) > 1 else leaf.name
            part = _part(shape, name, leaf.colour, fineness, per)
            if part is not None:
                parts.append(part)
        closed = kind == "iges" and all(part.mesh.topology.closed for part in parts[before:])
        loose += not solids and not closed
    return parts, loose


def _nothing_in(kind: str, missing: tuple[str, ...]) -> UnreadableFile:
    if missing:
        return UnreadableFile(
            "parts-elsewhere",
            f"the {kind.upper()} is an assembly whose parts are in other files: {_listed(missing)}",
            remedy="give it together with those, in a ZIP or a folder",
        )
    return UnreadableFile(
        "no-triangles",
        f"the {kind.upper()} holds no solid and no surface",
        remedy="export the body itself, not only sketches, points or curves",
    )


def shapes_in(ending: str, data: bytes, beside: Mapping[str, bytes]) -> list[Any]:
    """Return the shapes of a CAD file that stand for themselves, each in its place, in mm.

    Raises:
        UnreadableFile: the kernel cannot read it.
    """
    return [leaf.shape for leaf in _leaves_in(ending, data, beside)[1]]


def _leaves_in(ending: str, data: bytes, beside: Mapping[str, bytes]) -> tuple[str, list[_Leaf], Unit | None]:
    if ending in (".step", ".stp"):
        return ("step", *_read_step(data, beside))
    if ending in (".iges", ".igs"):
        return ("iges", *_read_iges(data))
    return ("brep", *_read_brep(data))


def _lower(beside: Mapping[str, bytes] | None) -> set[str]:
    return {name.lower() for name in beside or {}}


def _listed(names: tuple[str, ...]) -> str:
    return ", ".join(names[:6]) + (f" and {len(names) - 6} more" if len(names) > 6 else "")


def _remarks(kind: str, unit: Unit | None, loose: int, missing: tuple[str, ...]) -> tuple[Remark, ...]:
    remarks = []
    if missing:
        remarks.append(
            Remark(
                code="parts-elsewhere",
                severity="look",
                says=f"the assembly names parts in files that are not here: {_listed(missing)}; "
                "give them together, in a ZIP or a folder",
            )
        )
    if loose:
        many = (
            "surfaces that bound no solid"
            if loose == 1
            else f"{loose} groups of surfaces that bound no solid"
        )
        remarks.append(
            Remark(
                code="surfaces-only",
                severity="look",
                says=f"the {kind.upper()} holds {many}",
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


def _read_step(data: bytes, beside: Mapping[str, bytes]) -> tuple[list[_Leaf], Unit | None]:
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
    return _transferred(STEPCAFControl_Reader(), data, ".step", "STEP", beside), _step_unit(data)


def _transferred(
    reader: Any, data: bytes, ending: str, kind: str, beside: Mapping[str, bytes] | None = None
) -> list[_Leaf]:
    """Read a file with names and colours into a document, and return the shapes in it."""
    reader.SetColorMode(True)
    reader.SetNameMode(True)
    wanted = {name.lower() for name in parts_elsewhere(data)}
    with tempfile.TemporaryDirectory() as folder:
        # The kernel looks for the parts of an assembly beside it, by the names it has for them.
        for name, other in (beside or {}).items():
            if name.lower() in wanted:
                (Path(folder) / name).write_bytes(other)
        file = Path(folder) / f"whole{ending}"
        file.write_bytes(data)
        if reader.ReadFile(str(file)) != IFSelect_RetDone:
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
    leaves = _transferred(IGESCAFControl_Reader(), data, ".igs", "IGES")
    # IGES of trimmed faces knows no edges that they share: what else it would be is gaps all along them.
    leaves = [leaf if _solid(leaf.shape) else replace(leaf, shape=_sewn(leaf.shape)) for leaf in leaves]
    return leaves, _IGES_UNITS.get(_iges_flag(data))


def _solid(shape: Any) -> bool:
    return any(True for _ in inside(shape, TopAbs_SOLID))


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
    name = TDataStd_Name()
    if not label.FindAttribute(TDataStd_Name.GetID_s(), name):
        return ""
    text = name.Get().ToExtString()
    # What kernels write when there is no name says nothing.
    return "" if re.fullmatch(r"(?:NAUO\d*|COMPOUND|SOLID|SHELL|=>.*|Open CASCADE.*)", text) else text.strip()


def _colour(colours: Any, label: Any) -> str | None:
    for kind in (XCAFDoc_ColorSurf, XCAFDoc_ColorGen):
        colour = Quantity_Color()
        if XCAFDoc_ColorTool.GetColor_s(label, kind, colour):
            return _hex(colour)
    return None


def _colour_of_solid(colours: Any, shape: Any) -> str | None:
    for inner in [shape, *inside(shape, TopAbs_SOLID)]:
        for kind in (XCAFDoc_ColorSurf, XCAFDoc_ColorGen):
            colour = Quantity_Color()
            if colours.GetColor(inner, kind, colour):
                return _hex(colour)
    return None


def _hex(colour: Any) -> str:
    red, green, blue = colour.Values(Quantity_TOC_sRGB)
    return "#" + "".join(f"{round(255 * share):02x}" for share in (red, green, blue))


def _sewn(shape: Any) -> Any:
    """Sew loose surfaces; closed shells become solids."""
    tolerance = max(_diagonal(shape) * 1e-5, 1e-6)
    sewing = BRepBuilderAPI_Sewing(tolerance)
    for face in inside(shape, TopAbs_FACE):
        sewing.Add(face)
    sewing.Perform()
    result = TopoDS_Compound()
    builder = BRep_Builder()
    builder.MakeCompound(result)
    whole = sewing.SewedShape()
    for shell in inside(whole, TopAbs_SHELL):
        maker = BRepBuilderAPI_MakeSolid(TopoDS.Shell(shell))
        closed = BRep_Tool.IsClosed_s(shell)
        builder.Add(result, maker.Solid() if closed and maker.IsDone() else shell)
    return result if any(True for _ in inside(result, TopAbs_FACE)) else whole


def _diagonal(shape: Any) -> float:
    box = Bnd_Box()
    BRepBndLib.Add_s(shape, box)
    return 0.0 if box.IsVoid() else math.sqrt(box.SquareExtent())


def _part(shape: Any, name: str, colour: str | None, fineness: Fineness, per: float) -> FileObject | None:
    tessellation = cut(shape, fineness)
    if tessellation is None:
        return None
    mesh = tessellation.mesh.mapped(lambda points: points / per) if per != 1.0 else tessellation.mesh
    facets = Facets(
        deviation=tessellation.deviation / per,
        curved=tessellation.curved,
        twice=tessellation.twice,
        radius=tessellation.radius / per,
        bores=tuple(
            Bore(
                diameter=bore.diameter / per,
                loss=bore.loss / per,
                place=(bore.place[0] / per, bore.place[1] / per, bore.place[2] / per),
            )
            for bore in tessellation.bores
        ),
        missing=tuple(says for says, _ in tessellation.missing),
        places=tuple((x / per, y / per, z / per) for _, (x, y, z) in tessellation.missing),
        volume_off=tessellation.volume_off,
    )
    return FileObject(name, mesh, True, colour, facets=facets)
