"""STL, binary and ASCII. It carries triangles and no unit.

A binary file is 80 bytes of header, a count, and 50 bytes per triangle: a normal
(ignored here, the order of the corners says which side is out), three corners and
two spare bytes. Many binary files begin with the word ``solid``, so the size decides.
"""

from __future__ import annotations

import os
import re
import struct
from dataclasses import replace

import numpy as np
import stl_reader
from numpy.typing import NDArray

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats.columns import rows_of_floats
from aimtrue.core.formats.contents import (
    FileObject,
    FileObjects,
    narrow,
    refuse_bad_numbers,
    refuse_no_surface,
    told_once,
)
from aimtrue.core.mesh.mesh import Mesh, joined_zeros, merged, weld
from aimtrue.core.model.facets import Remark

_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("spare", "<u2")])
_HEAD = 84
_VERTEX = re.compile(rb"vertex[ \t]+(\S+)[ \t]+(\S+)[ \t]+(\S+)", re.IGNORECASE)
_SOLID = re.compile(rb"^[ \t]*solid\b[ \t]*([^\r\n]*)", re.IGNORECASE | re.MULTILINE)
_ENDLOOP = re.compile(rb"\bendloop\b", re.IGNORECASE)
_WORDS_OF_STL = re.compile("solid|facet|normal|outer|loop|vertex", re.IGNORECASE)
_NOTHING = Mesh(np.empty((0, 3)), np.empty((0, 3), np.int32))
_PLAIN = (" ", " ")
_TEXT_BYTES = bytes(range(32, 127)) + b"\t\r\n\f"


def read(data: bytes) -> FileObjects:
    """Read an STL file of either kind.

    Raises:
        UnreadableFile: not STL, cut off, wrong count, bad numbers, or nothing in it.
    """
    if _is_exact_binary(data):
        return _read_binary(data)
    text = narrow(data)
    if _looks_like_text(text):
        return _read_ascii(text)
    tail = _tail(data)
    if tail:
        contents = _read_binary(data[:-tail])
        return replace(contents, remarks=_odd_bytes(tail))
    raise _damaged_binary(data)


def first_look(data: bytes | memoryview, at_most: int = 3_000_000) -> Mesh | None:
    """Return the triangles of a large binary STL, unwelded, to be looked at before it is read.

    Args:
        data: the whole file; it may be a mapped one.
        at_most: how many triangles to take; of more, some are left out evenly.

    Returns:
        None for anything else than a plain binary STL; damage is for the reader to tell.
    """
    whole = memoryview(data)
    if len(whole) < _HEAD or len(whole) != _HEAD + 50 * _promised(whole) or not _promised(whole):
        return None
    records = np.frombuffer(whole, _RECORD, offset=_HEAD)
    corners = records["corners"][:: -(-len(records) // at_most)].astype(np.float64)
    if not np.isfinite(corners).all():
        return None
    return Mesh(corners.reshape(-1, 3), np.arange(3 * len(corners), dtype=np.int32).reshape(-1, 3))


def _is_exact_binary(data: bytes) -> bool:
    return len(data) >= _HEAD and len(data) == _HEAD + 50 * _promised(data)


def _promised(data: bytes | memoryview) -> int:
    return int(struct.unpack_from("<I", data, 80)[0])


def _tail(data: bytes) -> int:
    """How many bytes follow the last triangle that was promised, where they are too few to be another."""
    if len(data) < _HEAD or not _promised(data):
        return 0
    left = len(data) - _HEAD - 50 * _promised(data)
    return left if 0 < left < 50 else 0


def _odd_bytes(tail: int) -> tuple[Remark, ...]:
    return told_once(
        "stl-tail",
        tail,
        "1 byte after the last triangle was passed over",
        "{} bytes after the last triangle were passed over",
    )


def _looks_like_text(data: bytes) -> bool:
    head = data[:1024]
    # A name may have letters of any language; a zero byte is in no text.
    named = head.lstrip()[:5].lower() == b"solid" and b"facet" in head.lower() and b"\0" not in head
    return named or not head.translate(None, _TEXT_BYTES)


def _damaged_binary(data: bytes) -> UnreadableFile:
    if len(data) < _HEAD:
        return UnreadableFile(
            "stl-cut-off",
            f"a binary STL has at least {_HEAD} bytes; this file ends after {len(data)}",
            remedy="copy or export it again",
        )
    promised, present = _promised(data), (len(data) - _HEAD) // 50
    left = (len(data) - _HEAD) % 50
    rest = f" and {left} odd bytes" if left else ""
    how = "ends early" if present < promised else "has more in it than its count says"
    return UnreadableFile(
        "stl-count",
        f"the binary STL {how}: {promised} triangles were promised, {present}{rest} were found",
        where="count at byte 80",
        remedy="copy or export it again",
    )


def _read_binary(data: bytes) -> FileObjects:
    words = data[:80].split(b"\0")[0].decode("ascii", "replace").strip()
    if _promised(data) == 0:
        refuse_no_surface(_NOTHING)
    vertices, faces = _welded(data)
    if not np.isfinite(vertices).all():
        corners = np.ascontiguousarray(np.frombuffer(data, _RECORD, offset=_HEAD)["corners"])
        refuse_bad_numbers(corners.reshape(-1, 3), 3, "triangle")
    mesh = joined_zeros(vertices.astype(np.float64), faces.view(np.int32))
    refuse_no_surface(mesh)
    return FileObjects("stl-binary", (FileObject("", mesh),), None, words)


def _welded(data: bytes) -> tuple[NDArray[np.float32], NDArray[np.uint32]]:
    """Join equal corners as the file is read; the library takes a path, so it gets one in memory."""
    memory = os.memfd_create("stl")
    try:
        # The file gets a header of its own, since the library takes the word “solid” for text.
        os.write(memory, bytes(80))
        view = memoryview(data)[80:]
        while len(view):
            view = view[os.write(memory, view) :]
        vertices, faces = stl_reader.read(f"/proc/self/fd/{memory}")
        return vertices, faces
    finally:
        os.close(memory)


def _read_ascii(data: bytes) -> FileObjects:
    text = data.lstrip()
    if not text[:5].lower() == b"solid":
        raise UnreadableFile(
            "stl-not",
            "this is a text file, not an STL",
            where=f"it begins with “{_excerpt(text)}”",
            remedy="give the exported model file",
        )
    ended = _refuse_cut_off(data)
    corners = _ascii_corners(data)
    refuse_bad_numbers(corners.reshape(-1, 3), 3, "triangle")
    words = text.split(b"\n", 1)[0].decode("ascii", "replace").strip()
    remarks = () if ended else (_unended(len(corners)),)
    return FileObjects("stl-ascii", tuple(_solids(data, corners)), None, words, remarks)


def _unended(facets: int) -> Remark:
    reason = f"its {facets:,} facets are complete, but it may have been longer"
    says = f"the ASCII STL has no “endsolid” at its end: {reason}"
    return Remark(code="stl-unended", severity="look", says=says)


def _solids(data: bytes, corners: NDArray[np.float64]) -> list[FileObject]:
    """Divide the triangles among the named solids of the file; a solid without any is left out."""
    starts = list(_SOLID.finditer(data))
    loops = [len(_ENDLOOP.findall(data, start.end(), end)) for start, end in _spans(starts, len(data))]
    parts = []
    for start, piece in zip(starts, np.split(corners, np.cumsum(loops)[:-1]), strict=True):
        if len(piece):
            name = start[1].decode("utf-8", "replace").strip()
            parts.append(FileObject(name, weld(piece), respected=len(starts) > 1))
    refuse_no_surface(merged([part.mesh for part in parts]) if parts else _NOTHING)
    return parts


def _spans(starts: list[re.Match[bytes]], end: int) -> list[tuple[re.Match[bytes], int]]:
    ends = [*(start.start() for start in starts[1:]), end]
    return list(zip(starts, ends, strict=True))


def _ascii_corners(data: bytes) -> NDArray[np.float64]:
    matches = _VERTEX.findall(data)
    if len(matches) != 3 * len(re.findall(rb"\bendloop\b", data, re.IGNORECASE)):
        raise UnreadableFile(
            "stl-ascii-loops",
            "some facets do not have three corners",
            where=_first_odd_loop(data),
            remedy="export it again",
        )
    try:
        return np.array(matches, dtype="S").astype(np.float64).reshape(-1, 3, 3)
    except ValueError:
        raise UnreadableFile(
            "stl-ascii-number",
            "a coordinate is not a number",
            where=_first_odd_number(data),
            remedy="export it again",
        ) from None


def _refuse_cut_off(data: bytes) -> bool:
    """Refuse a file that ends within a facet; tell whether it has its proper end."""
    opened = len(re.findall(rb"\bfacet[ \t]+normal\b", data, re.IGNORECASE))
    closed = len(re.findall(rb"\bendfacet\b", data, re.IGNORECASE))
    if opened == closed and opened:
        return re.search(rb"\bendsolid\b", data[-4096:], re.IGNORECASE) is not None
    if opened == closed and re.search(rb"\bendsolid\b", data[-4096:], re.IGNORECASE):
        return True
    line = data.count(b"\n") + (not data.endswith(b"\n"))
    raise UnreadableFile(
        "stl-cut-off",
        f"the ASCII STL is cut off: {opened} facets begin, {closed} are complete",
        where=f"the file ends at line {line} without “endsolid”"
        if opened == closed
        else f"the file ends at line {line}",
        remedy="copy or export it again",
    )


def _first_odd_loop(data: bytes) -> str:
    line, newline = 1, b"\n"
    for loop in re.split(rb"\bendloop\b", data, flags=re.IGNORECASE):
        corners = len(_VERTEX.findall(loop))
        if corners != 3:
            return f"near line {line + loop.count(newline)}"
        line += loop.count(newline)
    return ""


def _first_odd_number(data: bytes) -> str:
    for match in _VERTEX.finditer(data):
        for number in match.groups():
            try:
                float(number)
            except ValueError:
                line = data.count(b"\n", 0, match.start()) + 1
                return f"line {line}: “{number.decode('ascii', 'replace')[:40]}”"
    return ""


def _excerpt(text: bytes) -> str:
    return " ".join(text[:40].decode("ascii", "replace").split())


def write_binary(mesh: Mesh, header: str) -> bytes:
    """Write a binary STL.

    Args:
        mesh: coordinates in the unit of the file; stored as float32.
        header: up to 80 ASCII characters; ``solid`` at its start is not allowed, since
            readers take such a file for text.
    """
    head = header.encode("ascii", "replace")[:80]
    if head[:5].lower() == b"solid":
        raise ValueError("a binary STL header must not begin with “solid”")
    records = np.zeros(mesh.triangles, _RECORD)
    records["corners"] = mesh.vertices.astype(np.float32)[mesh.faces]
    records["normal"] = _unit_normals(mesh)
    return b"".join((head.ljust(80), struct.pack("<I", mesh.triangles), records.tobytes()))


def write_ascii(mesh: Mesh, name: str) -> bytes:
    """Write an ASCII STL, with the digits that bring every float32 back exactly."""
    rows = np.concatenate(
        [_unit_normals(mesh)[:, None, :], mesh.vertices.astype(np.float32)[mesh.faces]], axis=1
    ).reshape(-1, 12)
    # Readers look for these words wherever they stand; a name must not have them.
    label = _WORDS_OF_STL.sub(lambda word: f"{word[0][0]}_{word[0][1:]}", name)
    label = " ".join(label.encode("ascii", "replace").decode().split())
    body = rows_of_floats(
        rows,
        start="facet normal ",
        between=(*_PLAIN, "\nouter loop\nvertex ", *(*_PLAIN, "\nvertex ") * 2, *_PLAIN),
        end="\nendloop\nendfacet\n",
    )
    return f"solid {label}\n".encode() + body + f"endsolid {label}\n".encode()


def _unit_normals(mesh: Mesh) -> NDArray[np.float32]:
    crosses = mesh.area_vectors
    length = np.linalg.norm(crosses, axis=1, keepdims=True)
    normals: NDArray[np.float64] = np.divide(crosses, length, out=np.zeros_like(crosses), where=length > 0)
    return normals.astype(np.float32)
