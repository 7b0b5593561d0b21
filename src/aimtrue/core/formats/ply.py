"""PLY, ASCII and binary of either byte order. It carries no unit.

The header names elements (``vertex``, ``face``) and their properties; a face is a list of
vertex numbers. Other elements and properties are passed over.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats.contents import (
    FileObject,
    FileObjects,
    faces_passed_over,
    refuse_bad_numbers,
    refuse_no_surface,
)
from aimtrue.core.mesh.mesh import Mesh, compacted, weld
from aimtrue.core.mesh.polygons import Polygons, triangles_of

_TYPES = {
    **dict.fromkeys(("char", "int8"), "i1"),
    **dict.fromkeys(("uchar", "uint8"), "u1"),
    **dict.fromkeys(("short", "int16"), "i2"),
    **dict.fromkeys(("ushort", "uint16"), "u2"),
    **dict.fromkeys(("int", "int32"), "i4"),
    **dict.fromkeys(("uint", "uint32"), "u4"),
    **dict.fromkeys(("float", "float32"), "f4"),
    **dict.fromkeys(("double", "float64"), "f8"),
}
_ORDER = {"binary_little_endian": "<", "binary_big_endian": ">", "ascii": ""}
_MOST = 1 << 31
_NO_POLYGONS = Polygons(np.empty(0, np.int64), np.empty(0, np.int64))


@dataclass(frozen=True)
class _Property:
    name: str
    kind: str
    length: str = ""
    """Type of the count before a list; empty for a single value."""


@dataclass
class _Element:
    name: str
    count: int
    properties: list[_Property]


@dataclass(frozen=True)
class _Header:
    order: str
    elements: list[_Element]
    comments: str
    end: int


def read(data: bytes) -> FileObjects:
    """Read a PLY file.

    Raises:
        UnreadableFile: no PLY header, cut off, wrong numbers, or no faces.
    """
    header = _header(data)
    names = [element.name for element in header.elements]
    if "vertex" not in names or "face" not in names or not header.elements[names.index("face")].count:
        raise UnreadableFile(
            "no-triangles",
            "the PLY has points and no faces",
            where="header",
            remedy="make a surface of the points where they come from, and export that",
        )
    read_body = _ascii if header.order == "" else _binary
    try:
        vertices, polygons, few = read_body(data, header)
    except (ValueError, IndexError, OverflowError):
        raise _cut_off(header) from None
    refuse_bad_numbers(vertices, 1, "vertex")
    _refuse_absent(polygons, len(vertices))
    mesh = compacted(vertices, triangles_of(polygons, vertices))
    mesh = weld(mesh.vertices[mesh.faces])
    refuse_no_surface(mesh)
    kind = "ply-ascii" if header.order == "" else "ply-binary"
    return FileObjects(kind, (FileObject("", mesh),), None, header.comments, faces_passed_over(few))


def _cut_off(header: _Header) -> UnreadableFile:
    promised = ", ".join(f"{element.count} of {element.name}" for element in header.elements)
    return UnreadableFile(
        "ply-cut-off",
        f"the PLY does not hold what its header promises: {promised}",
        remedy="copy or export it again",
    )


def _header(data: bytes) -> _Header:
    if not data.startswith(b"ply"):
        raise UnreadableFile("ply-not", "the file does not begin with “ply”", remedy="give the exported file")
    match = re.search(rb"\bend_header[ \t]*\r?\n?", data[: 1 << 20])
    if match is None:
        raise UnreadableFile("ply-header", "the PLY header has no end", remedy="copy or export it again")
    order, elements, comments = None, [], []
    for number, raw in enumerate(data[: match.start()].decode("ascii", "replace").splitlines(), 1):
        words = raw.split()
        try:
            if words[:1] == ["format"]:
                order = _ORDER[words[1]]
            elif words[:1] == ["element"]:
                elements.append(_Element(words[1], _count(words[2]), []))
            elif words[:1] == ["property"]:
                elements[-1].properties.append(_property(words))
            elif words[:1] in (["comment"], ["obj_info"]):
                comments.append(raw.partition(" ")[2])
        except (KeyError, IndexError, ValueError):
            raise UnreadableFile(
                "ply-header",
                f"a line of the PLY header is not understood: “{raw[:60]}”",
                where=f"line {number}",
                remedy="export it again",
            ) from None
    if order is None:
        raise UnreadableFile("ply-header", "the PLY header names no format", remedy="export it again")
    return _Header(order, elements, " ".join(comments)[:400], match.end())


def _count(word: str) -> int:
    count = int(word)
    if not 0 <= count < _MOST:
        raise ValueError
    return count


def _property(words: list[str]) -> _Property:
    if words[1] == "list":
        return _Property(words[4], _TYPES[words[3]], _TYPES[words[2]])
    return _Property(words[2], _TYPES[words[1]])


def _ascii(data: bytes, header: _Header) -> tuple[NDArray[np.float64], Polygons, int]:
    words = data[header.end :].split()
    at, vertices, polygons, few = 0, np.empty((0, 3)), _NO_POLYGONS, 0
    for element in header.elements:
        wide = len(element.properties)
        if all(prop.length == "" for prop in element.properties):
            rows = words[at : at + wide * element.count]
            if len(rows) < wide * element.count:
                raise ValueError
            at += len(rows)
            if element.name == "vertex":
                table = np.array(rows, dtype="S").astype(np.float64).reshape(element.count, wide)
                vertices = table[:, [_column(element, axis) for axis in "xyz"]]
            continue
        rows_of, at = _ascii_rows(words, at, element)
        if element.name == "vertex":
            vertices = np.array([[row[axis][0] for axis in "xyz"] for row in rows_of], dtype=np.float64)
        elif element.name == "face":
            loops = [row[_corner_list(element).name] for row in rows_of]
            polygons, few = _polygons([np.array(loop, dtype=np.float64).astype(np.int64) for loop in loops])
    return vertices, polygons, few


def _ascii_rows(words: list[bytes], at: int, element: _Element) -> tuple[list[dict[str, list[bytes]]], int]:
    """Take the rows of an element that has lists, and say where they end."""
    rows = []
    for _ in range(element.count):
        row = {}
        for prop in element.properties:
            count = 1
            if prop.length:
                count, at = int(words[at]), at + 1
            if count < 0 or at + count > len(words):
                raise ValueError
            row[prop.name] = words[at : at + count]
            at += count
        rows.append(row)
    return rows, at


def _corner_list(element: _Element) -> _Property:
    """The list that names the corners of faces: by its usual names, else the first."""
    lists = [prop for prop in element.properties if prop.length]
    named = [prop for prop in lists if prop.name in ("vertex_indices", "vertex_index")]
    if not lists:
        raise ValueError
    return (named or lists)[0]


def _polygons(loops: list[NDArray[np.int64]]) -> tuple[Polygons, int]:
    """Put loops of corners one after the other; those of under three bound nothing and are counted."""
    good = [loop for loop in loops if len(loop) > 2]
    if not good:
        return _NO_POLYGONS, len(loops)
    counts = np.array([len(loop) for loop in good], np.int64)
    return Polygons(np.concatenate(good), counts), len(loops) - len(good)


def _binary(data: bytes, header: _Header) -> tuple[NDArray[np.float64], Polygons, int]:
    at, vertices, polygons, few = header.end, np.empty((0, 3)), None, 0
    for element in header.elements:
        if all(prop.length == "" for prop in element.properties):
            table, at = _table(data, at, element, header.order)
            if element.name == "vertex":
                vertices = np.stack([table[axis].astype(np.float64) for axis in "xyz"], axis=1)
        elif element.name == "face":
            (polygons, few), at = _faces(data, at, element, header.order)
        else:
            rows, at = _rows(data, at, element, header.order)
            if element.name == "vertex":
                vertices = np.array([[row[axis][0] for axis in "xyz"] for row in rows], dtype=np.float64)
        if polygons is not None and len(vertices):
            break
    if polygons is None:
        raise ValueError
    return vertices, polygons, few


def _table(data: bytes, at: int, element: _Element, order: str) -> tuple[NDArray[np.void], int]:
    kind = np.dtype([(prop.name, order + prop.kind) for prop in element.properties])
    if len(data) - at < kind.itemsize * element.count:
        raise ValueError
    return np.frombuffer(data, kind, element.count, at), at + kind.itemsize * element.count


def _faces(data: bytes, at: int, element: _Element, order: str) -> tuple[tuple[Polygons, int], int]:
    """Read faces as a table of triangles when they all are, which is far faster; else one by one."""
    wanted = _corner_list(element)
    if sum(prop.length != "" for prop in element.properties) == 1:
        fields = [
            (prop.name, order + prop.kind)
            if prop.length == ""
            else (prop.name, np.dtype([("count", order + prop.length), ("corners", order + prop.kind, 3)]))
            for prop in element.properties
        ]
        kind = np.dtype(fields)
        if len(data) - at >= kind.itemsize * element.count:
            table = np.frombuffer(data, kind, element.count, at)[wanted.name]
            if (table["count"] == 3).all():
                corners = table["corners"].astype(np.int64).ravel()
                return (Polygons(corners, np.full(element.count, 3)), 0), at + kind.itemsize * element.count
    rows, at = _rows(data, at, element, order)
    return _polygons([row[wanted.name].astype(np.int64) for row in rows]), at


def _rows(
    data: bytes, at: int, element: _Element, order: str
) -> tuple[list[dict[str, NDArray[np.generic]]], int]:
    """Take the rows of an element that has lists, and say where they end."""
    rows = []
    for _ in range(element.count):
        row = {}
        for prop in element.properties:
            row[prop.name], at = _values(data, at, prop, order)
        rows.append(row)
    return rows, at


def _values(data: bytes, at: int, prop: _Property, order: str) -> tuple[NDArray[np.generic], int]:
    count = 1
    if prop.length:
        count = int(np.frombuffer(data, order + prop.length, 1, at)[0])
        at += np.dtype(prop.length).itemsize
    size = np.dtype(prop.kind).itemsize * count
    if count < 0 or len(data) - at < size:
        raise ValueError
    return np.frombuffer(data, order + prop.kind, count, at), at + size


def _column(element: _Element, name: str) -> int:
    return [prop.name for prop in element.properties].index(name)


def _refuse_absent(polygons: Polygons, vertices: int) -> None:
    absent = (polygons.corners < 0) | (polygons.corners >= vertices)
    if absent.any():
        face = int(np.searchsorted(np.cumsum(polygons.counts), np.flatnonzero(absent)[0], side="right"))
        raise UnreadableFile(
            "ply-missing-vertex",
            f"{int(absent.sum())} corners name a vertex that does not exist; there are {vertices}",
            where=f"first in face {face + 1}",
            remedy="export it again",
        )


def write(mesh: Mesh, comment: str) -> bytes:
    """Write a binary PLY, little-endian (Turk 1994).

    Args:
        mesh: coordinates in the unit of the file; stored as float32.
        comment: the place to say the unit, since PLY has none.
    """
    head = (
        "ply\nformat binary_little_endian 1.0\n"
        f"comment {' '.join(comment.encode('ascii', 'replace').decode().split())}\n"
        f"element vertex {len(mesh.vertices)}\n"
        "property float x\nproperty float y\nproperty float z\n"
        f"element face {mesh.triangles}\nproperty list uchar int vertex_indices\nend_header\n"
    )
    rows = np.empty(mesh.triangles, np.dtype([("count", "u1"), ("corners", "<i4", 3)]))
    rows["count"], rows["corners"] = 3, mesh.faces
    numbers: bytes = mesh.vertices.astype("<f4").tobytes()
    return head.encode() + numbers + rows.tobytes()
