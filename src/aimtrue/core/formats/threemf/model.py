"""One model part of a 3MF package: what its XML says, in tables."""

from __future__ import annotations

import re
from array import array
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any
from xml.parsers import expat

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats.threemf.names import UNITS
from aimtrue.core.model.lengths import Unit

_NOT_BUILT = ("support", "solidsupport", "other")
"""Types of objects (3MF core specification, 4.1) that are no part of what is wanted."""
IDENTITY = np.vstack([np.eye(3), np.zeros(3)])


@dataclass
class ModelObject:
    """An object of a model part: its own lists, or the components it is put together from."""

    name: str
    support: bool = False
    """Whether it only holds up others while they are made, or is not to be built at all."""
    look: tuple[str, int] | None = None
    """Resource and index of its material."""
    vertices: array[float] = field(default_factory=lambda: array("d"))
    triangles: array[int] = field(default_factory=lambda: array("q"))
    looks: set[tuple[str, int]] = field(default_factory=set)
    """Materials that its triangles name."""
    table: MeshLists = field(default_factory=lambda: MeshLists())
    components: list[tuple[str, str, NDArray[np.float64]]] = field(default_factory=list)
    """Part ("" for its own), object and transform."""

    @property
    def is_many_coloured(self) -> bool:
        """Whether its triangles, or the corners of one, name more than one material."""
        return len(self.looks) > 1


@dataclass
class MeshLists:
    """Vertices and triangles that were lifted out and read as tables."""

    vertices: NDArray[np.float64] | None = None
    triangles: NDArray[np.int64] | None = None


class ModelPart:
    """The objects and build items of one model part, filled by the parser."""

    def __init__(self) -> None:
        self.unit = Unit.MM  # This is the specification's default.
        self.title = ""
        self.objects: dict[str, ModelObject] = {}
        self.items: list[tuple[str, str, NDArray[np.float64]]] = []
        self.looks: dict[str, list[tuple[str, str | None]]] = {}
        """Per resource: name and colour of each of its materials."""

    def look_of(self, item: ModelObject) -> tuple[str, str | None]:
        """Name and colour of an object's material; of its triangles' when they all name the same."""
        key = item.look or (next(iter(item.looks)) if len(item.looks) == 1 else None)
        if key is None or not 0 <= key[1] < len(self.looks.get(key[0], ())):
            return "", None
        return self.looks[key[0]][key[1]]


_NUMBER = re.compile(rb"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_ROW = {
    "vertices": re.compile(rb'<vrtx\s+x=""\s+y=""\s+z=""\s*/>'),
    "triangles": re.compile(rb'<triangle\s+v=""\s+v=""\s+v=""\s*/>'),
}
"""A row of a plainly written list, without what numbers are made of."""
_OF_NUMBERS = {"vertices": b"0123456789+-.eE", "triangles": b"0123456789"}
_TO_NUMBERS = bytes(c if chr(c) in "0123456789+-.eE" else 32 for c in range(256))
_TO_DECIMALS = bytes(c if chr(c) in "0123456789+-." else 32 for c in range(256))
_TO_COUNTS = bytes(c if chr(c) in "0123456789" else 32 for c in range(256))
_LIST_OPENS = re.compile(rb"<(vertices|triangles)\s*>")
_MOST_VERTICES = 10**9


_NUMBERED = "lifted"
"""The attribute that a list which was lifted out is found again by."""


def _lifted(xml: bytes) -> tuple[bytes, list[NDArray[np.generic]]]:
    """Take plainly written lists out of a model part.

    Lists of the same name may stand anywhere, also in extensions, so each says itself which table it was.

    Returns:
        The XML with those lists left empty and numbered, and their tables.
    """
    # Comments and the like could hide anything, and so could a file that numbers its lists like this.
    if b"<!" in xml or b"vertices" not in xml or f" {_NUMBERED}=".encode() in xml:
        return xml, []
    tables: list[NDArray[np.generic]] = []
    pieces, at = [], 0
    while match := _LIST_OPENS.search(xml, at):
        kind, start = match[1].decode(), match.end()
        end = xml.find(b"</" + match[1], start)
        if end < 0:
            break
        block = xml[start:end]
        table = _table(kind, block)
        if table is None:
            pieces.append(xml[at:end])
        else:
            numbered = f'<{kind} {_NUMBERED}="{len(tables)}">'.encode()
            # Line feeds stay, so that lines keep their numbers.
            pieces += [xml[at : match.start()], numbered, b"\n" * block.count(b"\n")]
            tables.append(table)
        at = end
    pieces.append(xml[at:])
    return b"".join(pieces), tables


def _table(kind: str, block: bytes) -> NDArray[np.generic] | None:
    """Read a list whose rows are all written alike; None of any other, which the parser of XML reads.

    Without what numbers are made of all rows have to be the same to the last byte. Then there are as many
    numbers as rows ask for only if each cell holds just one.
    """
    bare = block.translate(None, _OF_NUMBERS[kind]).strip()
    count = bare.count(b"/>")
    if not count:
        return None if bare else np.empty((0, 3), np.float64 if kind == "vertices" else np.int64)
    row = bare[: bare.find(b"/>") + 2]
    gap = bare[len(row) : bare.find(b"<", len(row))] if count > 1 else b""
    if _ROW[kind].fullmatch(row) is None or gap.strip() or bare != (row + gap) * (count - 1) + row:
        return None
    if b'""' in block or block.count(b"<vertex " if kind == "vertices" else b"<triangle ") != count:
        return None
    return _coordinates(block, count) if kind == "vertices" else _corners(block, count)


def _coordinates(block: bytes, count: int) -> NDArray[np.float64] | None:
    # Each “vertex” has two of the letters that numbers may have for their exponents.
    plain = block.count(b"e") == 2 * count and b"E" not in block
    text = block.translate(_TO_DECIMALS) if plain else block.replace(b"<vertex", b"").translate(_TO_NUMBERS)
    coordinates: NDArray[np.float64] | None = _numbers(text, np.float64, count, 3)
    return coordinates


def _corners(block: bytes, count: int) -> NDArray[np.int64] | None:
    # The digits of v1, v2 and v3 are read as well, and tell that the cells come in this order.
    indices = _numbers(block.translate(_TO_COUNTS), np.int64, count, 6)
    if indices is None or not (indices[:, ::2] == (1, 2, 3)).all():
        return None
    corners = indices[:, 1::2]
    return np.ascontiguousarray(corners) if int(corners.max()) < _MOST_VERTICES else None


def _numbers(text: bytes, kind: Any, count: int, columns: int) -> Any:  # noqa: ANN401 - of any type, or of none that is known
    """Read so many rows of numbers; None where there are more or fewer, or anything else."""
    try:
        numbers = np.fromstring(text, dtype=kind, sep=" ")
    except (DeprecationWarning, ValueError):  # The text came to something that is no number.
        return None
    # What it stopped at right after the last number would not be missed by their count.
    last = text.rsplit(None, 1)[-1]
    good = len(numbers) == count * columns and _NUMBER.fullmatch(last) is not None
    return numbers.reshape(-1, columns) if good else None


def parse(xml: bytes) -> ModelPart:
    """Read the XML of a model part.

    Raises:
        UnreadableFile: not well-formed, a document type, or a value that cannot be read.
    """
    xml, tables = _lifted(xml)
    reading = _Reading(tables)
    run(xml, reading.start, reading.end, "the model part", reading.text)
    return reading.model


class _Reading:
    """What the parser meets, put into a model as it comes."""

    def __init__(self, tables: list[NDArray[np.generic]]) -> None:
        self.model = ModelPart()
        self._tables = tables
        self._item: ModelObject | None = None
        self._materials: list[tuple[str, str | None]] = []
        self._words: list[str] | None = None
        """Of the title or the description, while it is being read."""

    def start(self, tag: str, attributes: dict[str, str]) -> None:
        """Take the beginning of an element; what is not known here is passed over."""
        if self._item is not None and tag in _OF_OBJECT:
            _OF_OBJECT[tag](self, self._item, attributes)
        elif tag in _OF_MODEL:
            _OF_MODEL[tag](self, attributes)

    def end(self, tag: str) -> None:
        """Take the end of an element."""
        if tag == "object":
            self._item = None
        elif tag == "metadata" and self._words is not None:
            self.model.title = " ".join([self.model.title, "".join(self._words)]).strip()[:400]
            self._words = None

    def text(self, chars: str) -> None:
        """Take what stands between elements."""
        if self._words is not None:
            self._words.append(chars)

    def _vertex(self, item: ModelObject, attributes: dict[str, str]) -> None:
        item.vertices.extend((float(attributes["x"]), float(attributes["y"]), float(attributes["z"])))

    def _triangle(self, item: ModelObject, attributes: dict[str, str]) -> None:
        item.triangles.extend((int(attributes["v1"]), int(attributes["v2"]), int(attributes["v3"])))
        of = attributes.get("pid") or (item.look[0] if item.look and "p1" in attributes else None)
        if of is not None:
            first = attributes.get("p1", "0")
            corners = {first, attributes.get("p2", first), attributes.get("p3", first)}
            item.looks.update((of, int(corner)) for corner in corners)

    def _vertices(self, item: ModelObject, attributes: dict[str, str]) -> None:
        if _NUMBERED in attributes:
            item.table.vertices = self._tables[int(attributes[_NUMBERED])]  # type: ignore[assignment]

    def _triangles(self, item: ModelObject, attributes: dict[str, str]) -> None:
        if _NUMBERED in attributes:
            item.table.triangles = self._tables[int(attributes[_NUMBERED])]  # type: ignore[assignment]

    def _component(self, item: ModelObject, attributes: dict[str, str]) -> None:
        item.components.append((_path(attributes), attributes["objectid"], _transform(attributes)))

    def _object(self, attributes: dict[str, str]) -> None:
        unbuilt = attributes.get("type", "model") in _NOT_BUILT
        self._item = ModelObject(attributes.get("name", ""), unbuilt, _look(attributes))
        self.model.objects[attributes["id"]] = self._item

    def _build_item(self, attributes: dict[str, str]) -> None:
        self.model.items.append((_path(attributes), attributes["objectid"], _transform(attributes)))

    def _materials_of(self, attributes: dict[str, str]) -> None:
        self._materials = self.model.looks.setdefault(attributes["id"], [])

    def _base(self, attributes: dict[str, str]) -> None:
        self._materials.append((attributes.get("name", ""), _colour(attributes.get("displaycolor", ""))))

    def _color(self, attributes: dict[str, str]) -> None:
        self._materials.append(("", _colour(attributes.get("color", ""))))

    def _unit(self, attributes: dict[str, str]) -> None:
        self.model.unit = _declared_unit(attributes)

    def _metadata(self, attributes: dict[str, str]) -> None:
        self._words = [] if attributes.get("name") in ("Title", "Description") else None


_OF_OBJECT = {
    "vertex": _Reading._vertex,
    "triangle": _Reading._triangle,
    "vertices": _Reading._vertices,
    "triangles": _Reading._triangles,
    "component": _Reading._component,
}
_OF_MODEL = {
    "object": _Reading._object,
    "item": _Reading._build_item,
    "basematerials": _Reading._materials_of,
    "colorgroup": _Reading._materials_of,
    "base": _Reading._base,
    "color": _Reading._color,
    "model": _Reading._unit,
    "metadata": _Reading._metadata,
}


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
    if word not in UNITS:
        raise UnreadableFile(
            "3mf-unit",
            f"the unit “{word[:40]}” is not one that 3MF knows",
            where="attribute unit of model",
            remedy="export it again",
        )
    return UNITS[word]


def _transform(attributes: dict[str, str]) -> NDArray[np.float64]:
    written = attributes.get("transform")
    if written is None:
        return IDENTITY
    numbers = np.array([float(number) for number in written.split()])
    if len(numbers) != 12 or not np.isfinite(numbers).all():
        raise ValueError(f"transform “{written[:60]}” is not 12 numbers")
    return numbers.reshape(4, 3)


def run(
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
    except LookupError as error:
        if isinstance(error, KeyError):
            raise _odd_value(part, parser, f"attribute {error} is missing") from None
        raise UnreadableFile(  # The parser asks Python for encodings that it does not know itself.
            "3mf-encoding",
            f"{part} is written in an encoding that is not known here",
            where=str(error)[:120],
            remedy="export it again, in UTF-8",
        ) from None
    except (ValueError, OverflowError) as error:
        raise _odd_value(part, parser, str(error)[:120]) from None


def _odd_value(part: str, parser: expat.XMLParserType, what: str) -> UnreadableFile:
    return UnreadableFile(
        "3mf-value",
        f"{part} holds a value that cannot be read",
        where=f"line {parser.CurrentLineNumber}: {what}",
        remedy="export it again",
    )
