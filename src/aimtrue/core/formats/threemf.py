"""3MF core specification: a ZIP package with an XML model part that declares its unit.

Read here: objects, components, transforms, build items, unit. Written here: one
object per body, in the unit asked for. The XML is read with expat and nothing in
it is ever fetched or expanded: a document type declaration is refused.
"""

from __future__ import annotations

import io
import zipfile
import zlib
from array import array
from collections.abc import Callable
from dataclasses import dataclass, field
from posixpath import normpath
from xml.parsers import expat
from xml.sax.saxutils import quoteattr

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats.contents import Contents, Limits, Part, refuse_bad_numbers, refuse_no_surface
from aimtrue.core.lengths import Unit
from aimtrue.core.mesh import Mesh, merged

_MODEL_TYPE = "http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"
_CORE = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
_USUAL_MODEL = "3D/3dmodel.model"
_UNITS = {
    "micron": Unit.UM,
    "millimeter": Unit.MM,
    "centimeter": Unit.CM,
    "inch": Unit.IN,
    "foot": Unit.FT,
    "meter": Unit.M,
}
_UNIT_WORDS = {unit: word for word, unit in _UNITS.items()}
_DEEPEST = 32
_MOST_PLACED = 4096
"""Greatest number of placed meshes one file may ask for; components can multiply without end."""

_IDENTITY = np.vstack([np.eye(3), np.zeros(3)])


def read(data: bytes, limits: Limits) -> Contents:
    """Read a 3MF package.

    Raises:
        UnreadableFile: not a ZIP, no model part, unsafe XML, unpacks to far too much,
            a component or vertex that does not exist, circular components, no triangles.
    """
    model = _parse(_model_part(data, limits))
    placed = model.placed()
    parts = []
    for name, mesh in placed:
        refuse_no_surface(mesh)
        parts.append(Part(name, mesh))
    if not parts:
        raise UnreadableFile(
            "no-triangles",
            "the 3MF holds no object to build",
            remedy="check that a body was selected when it was exported",
        )
    return Contents("3mf", tuple(parts), model.unit, model.title)


def _model_part(data: bytes, limits: Limits) -> bytes:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as package:
            _refuse_bomb(package, len(data), limits)
            return _unpacked(package, _model_name(package), limits)
    except (
        zipfile.BadZipFile,
        zipfile.LargeZipFile,
        NotImplementedError,
        EOFError,
        RuntimeError,
        OSError,
        ValueError,
        UnicodeError,
    ) as error:
        raise UnreadableFile(
            "3mf-not-zip",
            "the file is not a 3MF: it is not a readable ZIP package",
            where=str(error)[:120],
            remedy="copy or export it again",
        ) from None
    except zlib.error as error:
        raise UnreadableFile(
            "3mf-damaged",
            "the package is damaged inside",
            where=str(error)[:120],
            remedy="copy or export it again",
        ) from None


def _refuse_bomb(package: zipfile.ZipFile, packed: int, limits: Limits) -> None:
    unpacked = sum(entry.file_size for entry in package.infolist())
    too_big = unpacked > limits.unpacked_bytes
    too_dense = unpacked > 64 * 1024**2 and unpacked > limits.ratio * packed
    if too_big or too_dense:
        raise _bomb(packed, unpacked)


def _bomb(packed: int, unpacked: int) -> UnreadableFile:
    return UnreadableFile(
        "3mf-unpacks-too-far",
        f"the package of {packed / 1e6:.3g} MB unpacks to at least {unpacked / 1e6:.3g} MB",
        remedy="this is not a usual model; have the file checked, or export it again",
    )


def _unpacked(package: zipfile.ZipFile, name: str, limits: Limits) -> bytes:
    """Read one member, trusting the bytes that come and not the size that is declared."""
    chunks, total, declared = [], 0, package.getinfo(name).file_size
    with package.open(name) as member:
        while chunk := member.read(1 << 20):
            total += len(chunk)
            if total > min(limits.unpacked_bytes, declared):
                raise _bomb(package.getinfo(name).compress_size, total)
            chunks.append(chunk)
    return b"".join(chunks)


def _model_name(package: zipfile.ZipFile) -> str:
    """Find the model part by the package's relationships, else at its usual place."""
    names = {name.lower(): name for name in package.namelist()}
    target = _USUAL_MODEL
    if "_rels/.rels" in names:
        target = _related_model(package.read(names["_rels/.rels"])[: 1 << 20]) or target
    found = names.get(normpath(target.lstrip("/")).lower())
    if found is None:
        raise UnreadableFile(
            "3mf-no-model",
            "the package has no 3D model part",
            where=f"{target} is missing",
            remedy="export it again as 3MF",
        )
    return found


def _related_model(xml: bytes) -> str:
    targets: list[str] = []

    def start(_: str, attributes: dict[str, str]) -> None:
        if attributes.get("Type") == _MODEL_TYPE:
            targets.append(attributes.get("Target", ""))

    _run(xml, start, lambda _: None, "_rels/.rels")
    return targets[0] if targets else ""


@dataclass
class _Object:
    name: str
    vertices: array[float] = field(default_factory=lambda: array("d"))
    triangles: array[int] = field(default_factory=lambda: array("q"))
    components: list[tuple[str, NDArray[np.float64]]] = field(default_factory=list)


class _Model:
    """The objects and build items of a model part, filled by the parser."""

    def __init__(self) -> None:
        self.unit = Unit.MM  # the specification's default
        self.title = ""
        self.objects: dict[str, _Object] = {}
        self.items: list[tuple[str, NDArray[np.float64]]] = []

    def placed(self) -> list[tuple[str, Mesh]]:
        """Every build item as a named mesh, components put in place and joined."""
        result: list[tuple[str, Mesh]] = []
        for number, (key, transform) in enumerate(self.items, 1):
            pieces = self._pieces(key, transform, ())
            if len(result) + len(pieces) > _MOST_PLACED:
                raise UnreadableFile(
                    "3mf-too-many",
                    f"the file places over {_MOST_PLACED} objects",
                    remedy="export fewer bodies at once",
                )
            if pieces:
                result.append((self.objects[key].name or f"object {number}", merged(pieces)))
        return result

    def _pieces(self, key: str, transform: NDArray[np.float64], above: tuple[str, ...]) -> list[Mesh]:
        if key not in self.objects:
            raise UnreadableFile(
                "3mf-missing-object", f"object {key} is used but does not exist", remedy="export it again"
            )
        if key in above or len(above) >= _DEEPEST:
            raise UnreadableFile(
                "3mf-circular",
                f"object {key} contains itself",
                where=" > ".join([*above, key]),
                remedy="export it again",
            )
        item = self.objects[key]
        if len(item.triangles):
            return [_moved(_mesh_of(item, key), transform)]
        pieces: list[Mesh] = []
        for inner, move in item.components:
            pieces += self._pieces(inner, _chained(move, transform), (*above, key))
            if len(pieces) > _MOST_PLACED:
                raise UnreadableFile(
                    "3mf-too-many",
                    f"the file places over {_MOST_PLACED} objects",
                    remedy="export fewer bodies at once",
                )
        return pieces


def _mesh_of(item: _Object, key: str) -> Mesh:
    vertices = np.array(item.vertices, dtype=np.float64).reshape(-1, 3)
    faces = np.array(item.triangles, dtype=np.int64).reshape(-1, 3)
    absent = ((faces < 0) | (faces >= len(vertices))).any(axis=1)
    if absent.any():
        first = int(np.flatnonzero(absent)[0])
        raise UnreadableFile(
            "3mf-missing-vertex",
            f"{int(absent.sum())} triangles name a vertex that does not exist",
            where=f"first: triangle {first + 1} of object {key}",
            remedy="export it again",
        )
    refuse_bad_numbers(vertices, 1, "vertex")
    return Mesh(vertices, faces.astype(np.int32))


def _moved(mesh: Mesh, transform: NDArray[np.float64]) -> Mesh:
    if np.array_equal(transform, _IDENTITY):
        return mesh
    mirrored = bool(np.linalg.det(transform[:3]) < 0)
    return mesh.mapped(lambda points: points @ transform[:3] + transform[3], flips=mirrored)


def _chained(first: NDArray[np.float64], then: NDArray[np.float64]) -> NDArray[np.float64]:
    """Compose two 4x3 row-vector transforms."""
    return np.vstack([first[:3] @ then[:3], first[3] @ then[:3] + then[3]])


def _parse(xml: bytes) -> _Model:
    model = _Model()
    state: dict[str, _Object | None] = {"object": None}
    text: list[str] = []
    collecting = [False]

    def start(tag: str, attributes: dict[str, str]) -> None:
        item = state["object"]
        if tag == "vertex" and item is not None:
            item.vertices.extend((float(attributes["x"]), float(attributes["y"]), float(attributes["z"])))
        elif tag == "triangle" and item is not None:
            item.triangles.extend((int(attributes["v1"]), int(attributes["v2"]), int(attributes["v3"])))
        elif tag == "object":
            state["object"] = model.objects[attributes["id"]] = _Object(attributes.get("name", ""))
        elif tag == "component" and item is not None:
            _refuse_other_part(attributes)
            item.components.append((attributes["objectid"], _transform(attributes)))
        elif tag == "item":
            _refuse_other_part(attributes)
            model.items.append((attributes["objectid"], _transform(attributes)))
        elif tag == "model":
            model.unit = _declared_unit(attributes)
        elif tag == "metadata":
            collecting[0] = attributes.get("name") in ("Title", "Description")

    def end(tag: str) -> None:
        if tag == "object":
            state["object"] = None
        elif tag == "metadata" and collecting[0]:
            model.title = " ".join([model.title, "".join(text)]).strip()[:400]
            text.clear()
            collecting[0] = False

    _run(xml, start, end, "the model part", lambda chars: text.append(chars) if collecting[0] else None)
    return model


def _declared_unit(attributes: dict[str, str]) -> Unit:
    word = attributes.get("unit", "millimeter")
    if word not in _UNITS:
        raise UnreadableFile(
            "3mf-unit",
            f"the unit “{word[:40]}” is not one that 3MF knows",
            where="attribute unit of model",
            remedy="export it again",
        )
    return _UNITS[word]


def _refuse_other_part(attributes: dict[str, str]) -> None:
    if any(name == "path" or name.endswith(":path") for name in attributes):
        raise UnreadableFile(
            "3mf-split",
            "the 3MF is split over several model parts, which cannot be read yet",
            remedy="export it as one model part, or as STL",
        )


def _transform(attributes: dict[str, str]) -> NDArray[np.float64]:
    written = attributes.get("transform")
    if written is None:
        return _IDENTITY
    numbers = np.array([float(number) for number in written.split()])
    if len(numbers) != 12 or not np.isfinite(numbers).all():
        raise ValueError(f"transform “{written[:60]}” is not 12 numbers")
    return numbers.reshape(4, 3)


def _run(
    xml: bytes,
    start: Callable[[str, dict[str, str]], None],
    end: Callable[[str], None],
    part: str,
    chars: Callable[[str], None] | None = None,
) -> None:
    """Run expat over a part; refuse a document type, and turn slips into messages with a line."""
    parser = expat.ParserCreate()
    parser.StartElementHandler = lambda tag, attributes: start(tag.rpartition(":")[2], attributes)
    parser.EndElementHandler = lambda tag: end(tag.rpartition(":")[2])
    if chars is not None:
        parser.CharacterDataHandler = chars

    def refuse(*_: object) -> None:
        raise UnreadableFile(
            "3mf-entities",
            "the model part declares a document type or entities, which 3MF forbids",
            where=f"line {parser.CurrentLineNumber} of {part}",
            remedy="do not trust this file; export it again",
        )

    parser.StartDoctypeDeclHandler = parser.EntityDeclHandler = refuse
    parser.ExternalEntityRefHandler = refuse  # type: ignore[assignment]  # never returns
    try:
        parser.Parse(xml, True)
    except expat.ExpatError as error:
        raise UnreadableFile(
            "3mf-xml", f"{part} is not well-formed XML", where=str(error), remedy="copy or export it again"
        ) from None
    except (KeyError, ValueError, OverflowError) as error:
        missing = f"attribute {error} is missing" if isinstance(error, KeyError) else str(error)[:120]
        raise UnreadableFile(
            "3mf-value",
            f"{part} holds a value that cannot be read",
            where=f"line {parser.CurrentLineNumber}: {missing}",
            remedy="export it again",
        ) from None


@dataclass(frozen=True, eq=False)
class Item:
    """One object to write, in the numbers of the file."""

    name: str
    mesh: Mesh


def write(items: list[Item], unit: Unit, title: str, description: str) -> bytes:
    """Write a 3MF package, the same bytes for the same input.

    Args:
        items: bodies in their common place, coordinates in ``unit``, stored with the
            9 digits that bring every float32 back exactly.
        unit: declared in the file.
        title: shown by programs that open it.
        description: where the size comes from.
    """
    objects = "".join(_object_xml(number, item) for number, item in enumerate(items, 1))
    build = "".join(f'<item objectid="{number}"/>' for number in range(1, len(items) + 1))
    model = (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<model unit="{_UNIT_WORDS[unit]}" xml:lang="en-US" xmlns="{_CORE}">'
        f'<metadata name="Title">{_escaped(title)}</metadata>'
        f'<metadata name="Description">{_escaped(description)}</metadata>'
        '<metadata name="Application">Aim True</metadata>'
        f"<resources>{objects}</resources><build>{build}</build></model>"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=4) as package:
        for name, text in (("[Content_Types].xml", _TYPES), ("_rels/.rels", _RELS), (_USUAL_MODEL, model)):
            entry = zipfile.ZipInfo(name, date_time=(1980, 1, 1, 0, 0, 0))  # no clock: same input, same bytes
            entry.compress_type = zipfile.ZIP_DEFLATED
            package.writestr(entry, text.encode())
    return out.getvalue()


def _object_xml(number: int, item: Item) -> str:
    points = item.mesh.vertices.astype(np.float32).tolist()
    vertices = "".join('<vertex x="%.9g" y="%.9g" z="%.9g"/>' % tuple(point) for point in points)
    triangles = "".join('<triangle v1="%d" v2="%d" v3="%d"/>' % tuple(f) for f in item.mesh.faces.tolist())
    return (
        f'<object id="{number}" name={quoteattr(_printable(item.name))} type="model"><mesh>'
        f"<vertices>{vertices}</vertices><triangles>{triangles}</triangles></mesh></object>"
    )


def _printable(text: str) -> str:
    return "".join(char for char in text if char.isprintable())


def _escaped(text: str) -> str:
    return _printable(text).replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


_TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/>'
    "</Types>"
)
_RELS = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    f'<Relationship Target="/{_USUAL_MODEL}" Id="rel0" Type="{_MODEL_TYPE}"/></Relationships>'
)
