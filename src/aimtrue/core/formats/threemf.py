"""3MF core specification: a ZIP package with an XML model part that declares its unit.

Read here: objects, components, transforms, build items, base materials and colours, unit,
and the production extension's further model parts. Written here: one object per body with
its colour, in the unit asked for. The XML is read with expat and nothing in it is ever
fetched or expanded: a document type declaration is refused. The long lists of vertices and
triangles are lifted out first and read as tables of numbers where they are written plainly.
"""

from __future__ import annotations

import io
import re
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
from aimtrue.core.mesh import Mesh

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

    Every mesh that the build items place, directly or through components, is a part of its own.

    Raises:
        UnreadableFile: not a ZIP, no model part, unsafe XML, unpacks to far too much,
            a component or vertex that does not exist, circular components, no triangles.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as package:
            _refuse_bomb(package, len(data), limits)
            return _contents(_Package(package, limits))
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


def _contents(package: _Package) -> Contents:
    placed = package.placed()
    if not placed:
        raise UnreadableFile(
            "no-triangles",
            "the 3MF holds no object to build",
            remedy="check that a body was selected when it was exported",
        )
    parts = []
    for thing in placed:
        refuse_no_surface(thing.mesh)
        parts.append(Part(thing.name, thing.mesh, len(placed) > 1, thing.colour, thing.material))
    return Contents("3mf", tuple(parts), package.root.unit, package.root.title)


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


def _model_name(package: zipfile.ZipFile, names: dict[str, str]) -> str:
    """Find the root model part by the package's relationships, else at its usual place."""
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
    look: tuple[str, int] | None = None
    """Resource and index of its material."""
    vertices: array[float] = field(default_factory=lambda: array("d"))
    triangles: array[int] = field(default_factory=lambda: array("q"))
    looks: set[tuple[str, int]] = field(default_factory=set)
    """Materials that its triangles name."""
    table: _Table = field(default_factory=lambda: _Table())
    components: list[tuple[str, str, NDArray[np.float64]]] = field(default_factory=list)
    """Part ("" for its own), object and transform."""


@dataclass
class _Table:
    """Vertices and triangles that were lifted out and read as tables."""

    vertices: NDArray[np.float64] | None = None
    triangles: NDArray[np.int64] | None = None


@dataclass(frozen=True, eq=False)
class _Placed:
    name: str
    mesh: Mesh
    colour: str | None
    material: str


class _Model:
    """The objects and build items of one model part, filled by the parser."""

    def __init__(self) -> None:
        self.unit = Unit.MM  # the specification's default
        self.title = ""
        self.objects: dict[str, _Object] = {}
        self.items: list[tuple[str, str, NDArray[np.float64]]] = []
        self.looks: dict[str, list[tuple[str, str | None]]] = {}
        """Per resource: name and colour of each of its materials."""

    def look_of(self, item: _Object) -> tuple[str, str | None]:
        """Name and colour of an object's material; of its triangles' when they all name the same."""
        key = item.look or (next(iter(item.looks)) if len(item.looks) == 1 else None)
        if key is None or not 0 <= key[1] < len(self.looks.get(key[0], ())):
            return "", None
        return self.looks[key[0]][key[1]]


class _Package:
    """All model parts of a package; further ones are read when a component or item names them."""

    def __init__(self, package: zipfile.ZipFile, limits: Limits) -> None:
        self._package, self._limits = package, limits
        self._names = {name.lower(): name for name in package.namelist()}
        self._models: dict[str, _Model] = {}
        self.root_name = _model_name(package, self._names)
        self.root = self._model(self.root_name)

    def placed(self) -> list[_Placed]:
        """Every mesh that is built, in its place."""
        result: list[_Placed] = []
        for number, (path, key, transform) in enumerate(self.root.items, 1):
            self._place(self._part(path, self.root_name), key, transform, (), f"object {number}", result)
        return result

    def _place(
        self,
        part: str,
        key: str,
        transform: NDArray[np.float64],
        above: tuple[str, ...],
        name: str,
        result: list[_Placed],
    ) -> None:
        model = self._model(part)
        if key not in model.objects:
            raise UnreadableFile(
                "3mf-missing-object", f"object {key} is used but does not exist", remedy="export it again"
            )
        step = f"{part}#{key}"
        if step in above or len(above) >= _DEEPEST:
            raise UnreadableFile(
                "3mf-circular",
                f"object {key} contains itself",
                where=" > ".join(one.rpartition("#")[2] for one in (*above, step)),
                remedy="export it again",
            )
        item = model.objects[key]
        name = item.name or name
        if item.table.triangles is not None or len(item.triangles):
            if len(result) >= _MOST_PLACED:
                raise UnreadableFile(
                    "3mf-too-many",
                    f"the file places over {_MOST_PLACED} objects",
                    remedy="export fewer bodies at once",
                )
            material, colour = model.look_of(item)
            result.append(_Placed(name, _moved(_mesh_of(item, key), transform), colour, material))
            return
        for path, inner, move in item.components:
            self._place(
                self._part(path, part), inner, _chained(move, transform), (*above, step), name, result
            )

    def _part(self, path: str, own: str) -> str:
        if not path:
            return own
        found = self._names.get(normpath(path.lstrip("/")).lower())
        if found is None:
            raise UnreadableFile(
                "3mf-missing-part",
                "the 3MF names a model part that is not in the package",
                where=path[:80],
                remedy="export it again",
            )
        return found

    def _model(self, name: str) -> _Model:
        if name not in self._models:
            self._models[name] = _parse(_unpacked(self._package, name, self._limits))
        return self._models[name]


def _mesh_of(item: _Object, key: str) -> Mesh:
    if item.table.vertices is not None:
        vertices = item.table.vertices
    else:
        vertices = np.array(item.vertices, dtype=np.float64).reshape(-1, 3)
    if item.table.triangles is not None:
        faces = item.table.triangles
    else:
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


_NUMBER = rb"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_PLAIN_VERTICES = re.compile(
    rb'(?:\s*<vertex\s+x="%(n)b"\s+y="%(n)b"\s+z="%(n)b"\s*/>)*+\s*' % {b"n": _NUMBER}
)
_PLAIN_TRIANGLES = re.compile(rb'(?:\s*<triangle\s+v1="\d{1,9}"\s+v2="\d{1,9}"\s+v3="\d{1,9}"\s*/>)*+\s*')
_LIST_OPENS = re.compile(rb"<(vertices|triangles)\s*>")
_TO_NUMBERS = bytes(c if chr(c) in "0123456789+-.eE" else 32 for c in range(256))
_TO_COUNTS = bytes(c if chr(c) in "0123456789" else 32 for c in range(256))


def _lifted(xml: bytes) -> tuple[bytes, list[tuple[str, NDArray[np.generic] | None]]]:
    """Take plainly written lists out of a model part.

    Returns:
        The XML with those lists left empty, and per list its name and table; None for one that
        was left in place, since it is not written plainly.
    """
    if b"<!" in xml or b"vertices" not in xml:  # comments and the like could hide anything
        return xml, []
    tables: list[tuple[str, NDArray[np.generic] | None]] = []
    pieces, at = [], 0
    while match := _LIST_OPENS.search(xml, at):
        kind, start = match[1].decode(), match.end()
        end = xml.find(b"</" + match[1], start)
        if end < 0:
            break
        block = xml[start:end]
        table = _table(kind, block)
        tables.append((kind, table))
        # Line feeds stay, so that lines keep their numbers.
        pieces += [xml[at:start], block if table is None else b"\n" * block.count(b"\n")]
        at = end
    pieces.append(xml[at:])
    return b"".join(pieces), tables


def _table(kind: str, block: bytes) -> NDArray[np.generic] | None:
    plain = _PLAIN_VERTICES if kind == "vertices" else _PLAIN_TRIANGLES
    if plain.fullmatch(block) is None:
        return None
    if kind == "vertices":
        bare = block.replace(b"<vertex", b"").translate(_TO_NUMBERS)
        return np.fromstring(bare, dtype=np.float64, sep=" ").reshape(-1, 3)
    bare = block.replace(b"v1", b"").replace(b"v2", b"").replace(b"v3", b"").translate(_TO_COUNTS)
    return np.fromstring(bare, dtype=np.int64, sep=" ").reshape(-1, 3)


def _parse(xml: bytes) -> _Model:
    model = _Model()
    xml, tables = _lifted(xml)
    coming = iter(tables)
    state: dict[str, _Object | None] = {"object": None}
    resource: list[list[tuple[str, str | None]]] = [[]]
    text: list[str] = []
    collecting = [False]

    def start(tag: str, attributes: dict[str, str]) -> None:
        item = state["object"]
        if tag == "vertex" and item is not None:
            item.vertices.extend((float(attributes["x"]), float(attributes["y"]), float(attributes["z"])))
        elif tag == "triangle" and item is not None:
            item.triangles.extend((int(attributes["v1"]), int(attributes["v2"]), int(attributes["v3"])))
            if "pid" in attributes:
                item.looks.add((attributes["pid"], int(attributes.get("p1", "0"))))
        elif tag in ("vertices", "triangles") and tables:
            kind, table = next(coming, (tag, None))
            if item is not None and kind == tag and table is not None:
                setattr(item.table, tag, table)
        elif tag == "object":
            state["object"] = model.objects[attributes["id"]] = _Object(
                attributes.get("name", ""), _look(attributes)
            )
        elif tag == "component" and item is not None:
            item.components.append((_path(attributes), attributes["objectid"], _transform(attributes)))
        elif tag == "item":
            model.items.append((_path(attributes), attributes["objectid"], _transform(attributes)))
        elif tag in ("basematerials", "colorgroup"):
            resource[0] = model.looks.setdefault(attributes["id"], [])
        elif tag == "base":
            resource[0].append((attributes.get("name", ""), _colour(attributes.get("displaycolor", ""))))
        elif tag == "color":
            resource[0].append(("", _colour(attributes.get("color", ""))))
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


def _look(attributes: dict[str, str]) -> tuple[str, int] | None:
    if "pid" not in attributes:
        return None
    return attributes["pid"], int(attributes.get("pindex", "0"))


def _colour(written: str) -> str | None:
    match = re.fullmatch(r"#([0-9a-fA-F]{6})(?:[0-9a-fA-F]{2})?", written.strip())
    return f"#{match[1].lower()}" if match else None


def _path(attributes: dict[str, str]) -> str:
    """The part that the production extension says an object is in; empty for the same part."""
    return next((value for name, value in attributes.items() if name.rpartition(":")[2] == "path"), "")


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
    colour: str | None = None
    material: str = ""


def write(items: list[Item], unit: Unit, title: str, description: str) -> bytes:
    """Write a 3MF package, the same bytes for the same input.

    Args:
        items: bodies in their common place, coordinates in ``unit``, stored with the
            9 digits that bring every float32 back exactly.
        unit: declared in the file.
        title: shown by programs that open it.
        description: where the size comes from.
    """
    looks = [item for item in items if item.colour]
    first = 2 if looks else 1
    objects = _looks_xml(looks) + "".join(
        _object_xml(number, item, looks.index(item) if item.colour else None)
        for number, item in enumerate(items, first)
    )
    build = "".join(f'<item objectid="{number}"/>' for number in range(first, len(items) + first))
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


def _looks_xml(items: list[Item]) -> str:
    """One base material per coloured body, as resource 1."""
    if not items:
        return ""
    rows = "".join(
        f"<base name={quoteattr(_printable(item.material or item.name))}"
        f' displaycolor="{(item.colour or "").upper()}FF"/>'
        for item in items
    )
    return f'<basematerials id="1">{rows}</basematerials>'


def _object_xml(number: int, item: Item, look: int | None) -> str:
    points = item.mesh.vertices.astype(np.float32).tolist()
    vertices = "".join('<vertex x="%.9g" y="%.9g" z="%.9g"/>' % tuple(point) for point in points)
    triangles = "".join('<triangle v1="%d" v2="%d" v3="%d"/>' % tuple(f) for f in item.mesh.faces.tolist())
    worn = "" if look is None else f' pid="1" pindex="{look}"'
    return (
        f'<object id="{number}" name={quoteattr(_printable(item.name))} type="model"{worn}><mesh>'
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
