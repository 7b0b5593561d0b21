"""The second readers of originals: from the bytes of a source to triangles, in numbers of its file.

Each is written anew, plainly, and only as far as a proof needs: places, triangles or polygons, and the unit
that the file declares. STEP, IGES and BREP are read in :mod:`aimtrue.core.proof.kernel`.
"""

from __future__ import annotations

import io
import posixpath
import struct
import xml.etree.ElementTree as Xml
import zipfile
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.errors import AimTrueError
from aimtrue.core.model.lengths import Unit
from aimtrue.core.proof.lazy_value import once
from aimtrue.core.proof.surface import Numbers, Points, Surface, crosses, point_numbers

_UNITS_3MF = {
    "micron": Unit.UM,
    "millimeter": Unit.MM,
    "centimeter": Unit.CM,
    "inch": Unit.IN,
    "foot": Unit.FT,
    "meter": Unit.M,
}
MOST_TRIED = 8
"""Corners of a polygon up to which every way of cutting it into triangles is tried."""
_NO_AREA = 4.0
"""Spacings of float32 that a triangle is high at most when it has no area that a file could carry."""


@dataclass(frozen=True, eq=False)
class ProofOriginal:
    """A source as the second reader finds it.

    Attributes:
        unit: that the file declares, or None.
        surface: its triangles; of a polygon every triangle that its corners can make.
        polygon: (m,) the polygon each triangle is of.
        loops: the corners of all polygons, one after the other.
        corners: (p,) how many corners each polygon has.
        piece: (p,) what the file itself sets apart: an object, a group, a solid.
    """

    unit: Unit | None
    surface: Surface
    polygon: Numbers
    loops: Numbers
    corners: Numbers
    piece: Numbers

    @property
    def count(self) -> int:
        """Triangles that its polygons come to when they are cut."""
        return int((self.corners - 2).sum())

    @property
    def plain(self) -> bool:
        """Whether the file has triangles only."""
        return len(self.polygon) == len(self.corners)

    def loop(self, polygon: int) -> Numbers:
        """Return the corners of a polygon, in order around."""
        end = int(self._ends[polygon])
        return self.loops[end - int(self.corners[polygon]) : end]

    @once
    def _ends(self) -> Numbers:
        return np.cumsum(self.corners)

    @once
    def vector_areas(self) -> Points:
        """(p, 3): twice the area of each polygon, along its normal (Newell); the same however it is cut."""
        if self.plain:
            return np.stack(crosses(self.surface.corners), axis=1)
        at = self.surface.points[self.loops]
        near = np.repeat(at[self._ends - self.corners], self.corners, axis=0)
        sides = np.cross(at - near, at[self._after] - near)
        return np.stack([np.add.reduceat(sides[:, k], self._ends - self.corners) for k in range(3)], axis=1)

    @once
    def _after(self) -> Numbers:
        """Where in ``loops`` the next corner of each is."""
        after = np.arange(1, len(self.loops) + 1)
        after[self._ends - 1] = self._ends - self.corners
        return after

    @once
    def simple(self) -> NDArray[np.bool_]:
        """(p,): which polygons have every corner once; those that run over themselves have no right cut."""
        owner = np.repeat(np.arange(len(self.corners)), self.corners)
        pairs = np.unique(np.stack([owner, self.loops]), axis=1)
        return np.asarray(np.bincount(pairs[0], minlength=len(self.corners)) == self.corners)

    def has_a_right_cut(self, polygon: int) -> bool:
        """Whether a polygon, seen along its normal, does not cross itself: then no triangle of it faces
        against it.
        """
        from shapely.geometry import Polygon

        at = self.surface.points[self.loop(polygon)]
        drop = int(abs(self.vector_areas[polygon]).argmax())
        return len(at) > 3 and bool(Polygon(np.delete(at, drop, axis=1)).is_valid)

    def pieces_within(self, low: Points, high: Points, grain: float) -> list[int]:
        """Return the pieces whose bounds are just these."""
        lows, highs = self._piece_bounds
        near = (abs(lows - low) <= grain).all(axis=1) & (abs(highs - high) <= grain).all(axis=1)
        return list(np.flatnonzero(near).tolist())

    @once
    def _piece_bounds(self) -> tuple[Points, Points]:
        many = int(self.piece.max(initial=0)) + 1
        lows, highs = np.full((many, 3), np.inf), np.full((many, 3), -np.inf)
        owner = np.repeat(self.piece, self.corners)
        np.minimum.at(lows, owner, self.surface.points[self.loops])
        np.maximum.at(highs, owner, self.surface.points[self.loops])
        return lows, highs

    @once
    def neighbours(self) -> Numbers:
        """(k, 2): polygons that share an edge with one other and no more, within a piece of the file.

        Those without area bound nothing and are passed over; those there twice share with more than one.
        """
        numbers = point_numbers(self.surface.points)[self.loops]
        owner = np.repeat(np.arange(len(self.corners)), self.corners)
        many = int(numbers.max(initial=0)) + 1
        ends = numbers[self._after]
        key = np.minimum(numbers, ends) * many + np.maximum(numbers, ends)
        good = (self.vector_areas != 0).any(axis=1)[owner]
        key, owner = key[good], owner[good]
        if self.piece.any():
            _, key = np.unique(np.stack([key, self.piece[owner]]), axis=1, return_inverse=True)
            key = key.ravel()
        order = np.argsort(key, kind="stable")
        key, owner = key[order], owner[order]
        first = np.flatnonzero(np.r_[True, key[1:] != key[:-1]])
        two = first[np.diff(np.r_[first, len(key)]) == 2]
        return np.stack([owner[two], owner[two + 1]], axis=1)

    def idle(self) -> int:
        """Return how many triangles at most bind nothing: those without area, and those there twice."""
        numbers = point_numbers(self.surface.points)
        corners = self.surface.corners
        a, b, c = (corners[:, k] for k in range(3))
        sides = np.linalg.norm(np.cross(b - a, c - a), axis=1)
        longest = np.linalg.norm([b - a, c - b, a - c], axis=2).max(axis=0)
        grain = np.spacing(np.abs(corners).max(axis=(1, 2), initial=0.0).astype(np.float32)).astype(
            np.float64
        )
        empty = np.unique(self.polygon[sides <= _NO_AREA * grain * longest])
        good = np.setdiff1d(np.arange(len(self.corners)), empty)
        seen: dict[tuple[int, ...], int] = {}
        if self.plain:
            faces = np.sort(numbers[self.surface.faces[good]], axis=1)
            return len(empty) + len(faces) - len(np.unique(faces, axis=0))
        double = 0
        for polygon in good.tolist():
            key = tuple(sorted(numbers[self.loop(polygon)].tolist()))
            double += int(self.corners[polygon]) - 2 if key in seen else 0
            seen[key] = polygon
        return int((self.corners[empty] - 2).sum()) + double


def read(kind: str, data: bytes) -> ProofOriginal:
    """Read a mesh file a second time.

    Args:
        kind: ``stl-binary``, ``stl-ascii``, ``obj``, ``ply-ascii``, ``ply-binary`` or ``3mf``.
        data: the whole file.

    Raises:
        AimTrueError: it cannot be read this way.
    """
    try:
        match kind:
            case "stl-binary":
                return _of_corners(_stl_binary(data))
            case "stl-ascii":
                return _of_corners(*_stl_ascii(data))
            case "obj":
                return _of_polygons(*_obj(data))
            case "ply-ascii" | "ply-binary":
                return _of_polygons(*_ply(data))
            case _:
                return _3mf(data)
    except (ValueError, IndexError, KeyError, struct.error, OverflowError, Xml.ParseError) as error:
        raise AimTrueError(
            "original-unproven",
            f"the original cannot be read a second time, so nothing can be proven of it: {error}",
            remedy="nothing was handed over; report this with the file",
        ) from error


def _of_corners(corners: Points, piece: Numbers | None = None) -> ProofOriginal:
    faces = np.arange(3 * len(corners)).reshape(-1, 3)
    return _of_triangles(None, Surface(corners.reshape(-1, 3), faces), piece)


def _of_triangles(unit: Unit | None, surface: Surface, piece: Numbers | None) -> ProofOriginal:
    count = len(surface.faces)
    apart = np.zeros(count, np.int64) if piece is None else piece
    return ProofOriginal(unit, surface, np.arange(count), surface.faces.ravel(), np.full(count, 3), apart)


def _stl_binary(data: bytes) -> Points:
    (count,) = struct.unpack_from("<I", data, 80)
    rows = np.frombuffer(data, np.uint8, count * 50, 84).reshape(count, 50)
    return np.ascontiguousarray(rows[:, 12:48]).view("<f4").astype(np.float64).reshape(-1, 3, 3)


def _stl_ascii(data: bytes) -> tuple[Points, Numbers]:
    words = text_of(data).encode().split()
    numbers, piece, solid = [], [], 0
    for i, word in enumerate(words):
        if word == b"solid" or word == b"SOLID":
            solid += 1
        elif word.lower() == b"vertex":
            try:
                numbers.append((float(words[i + 1]), float(words[i + 2]), float(words[i + 3])))
                piece.append(solid)
            except (ValueError, IndexError):  # the word within a name
                continue
    return np.array(numbers, dtype=np.float64).reshape(-1, 3, 3), np.array(piece[::3], dtype=np.int64)


def text_of(data: bytes) -> str:
    """Return text in the encoding its first bytes tell, else UTF-8."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return data.decode("utf-16", "replace")
    return data.decode("utf-8-sig", "replace")


def _obj(data: bytes) -> tuple[Points, list[list[int]], list[int]]:
    points: list[list[float]] = []
    loops: list[list[int]] = []
    piece: list[int] = []
    names: dict[tuple[str, str], int] = {}
    object_, group = "", ""
    for line in text_of(data).replace("\\\r\n", " ").replace("\\\n", " ").splitlines():
        words = line.split("#")[0].split()
        if not words:
            continue
        if words[0] == "v":
            points.append([float(word) for word in words[1:4]])
        elif words[0] == "f" and len(words) > 3:
            numbers = [int(word.split("/")[0]) for word in words[1:]]
            loops.append([n - 1 if n > 0 else len(points) + n for n in numbers])
            piece.append(names.setdefault((object_, group), len(names)))
        elif words[0] == "o":
            object_ = " ".join(words[1:])
        elif words[0] == "g":
            group = " ".join(words[1:])
    return np.array(points).reshape(-1, 3), loops, piece


_PLY_TYPES = {
    "char": "i1", "int8": "i1", "uchar": "u1", "uint8": "u1", "short": "i2", "int16": "i2", "ushort": "u2",
    "uint16": "u2", "int": "i4", "int32": "i4", "uint": "u4", "uint32": "u4", "float": "f4", "float32": "f4",
    "double": "f8", "float64": "f8",
}  # fmt: skip


def _ply(data: bytes) -> tuple[Points, list[list[int]] | Numbers]:
    """Read a PLY value by value; a body of plain triangles as one table."""
    end = data.index(b"end_header")
    # The line feed of a header may be a lone carriage return.
    feed = b"\n" if b"\n" in data[:end] else b"\r"
    end = data.index(feed, end) + 1
    order, elements = "", list[tuple[str, int, list[list[str]]]]()
    for line in data[:end].decode("latin-1").split(feed.decode()):
        words = line.split()
        if words[:1] == ["format"]:
            order = {"ascii": "", "binary_little_endian": "<", "binary_big_endian": ">"}[words[1]]
        elif words[:1] == ["element"]:
            elements.append((words[1], int(words[2]), []))
        elif words[:1] == ["property"]:
            elements[-1][2].append(words[1:])
    source = _Values(data[end:], order)
    points, loops = np.empty((0, 3)), np.empty((0, 3), np.int64)
    found: list[list[int]] | Numbers = loops
    for name, count, properties in elements:
        if name == "vertex":
            points = source.vertices(count, properties)
        elif name == "face":
            found = source.faces(count, properties)
        else:
            for _ in range(count):
                source.row(properties)
    return points, found


class _Values:
    """The values of a PLY's body, taken one after the other."""

    def __init__(self, body: bytes, order: str) -> None:
        self._order, self._body, self._at = order, body, 0
        self._words = body.split() if not order else []

    def row(self, properties: list[list[str]]) -> dict[str, list[float]]:
        """Take one row: per property its values."""
        found = {}
        for words in properties:
            count = int(self._take(words[1], 1)[0]) if words[0] == "list" else 1
            found[words[-1]] = self._take(words[-2], count)
        return found

    def _take(self, kind: str, count: int) -> list[float]:
        if not self._order:
            self._at += count
            return [float(word) for word in self._words[self._at - count : self._at]]
        values = np.frombuffer(self._body, self._order + _PLY_TYPES[kind], count, self._at)
        self._at += values.nbytes
        return list(values.tolist())

    def _table(self, count: int, kind: np.dtype[np.void]) -> NDArray[np.void]:
        rows = np.frombuffer(self._body, kind, count, self._at)
        self._at += rows.nbytes
        return rows

    def vertices(self, count: int, properties: list[list[str]]) -> Points:
        if self._order and all(words[0] != "list" for words in properties):
            kind = np.dtype([(words[1], self._order + _PLY_TYPES[words[0]]) for words in properties])
            rows = self._table(count, kind)
            return np.stack([rows[axis].astype(np.float64) for axis in "xyz"], axis=1)
        taken = [self.row(properties) for _ in range(count)]
        return np.array([[one[axis][0] for axis in "xyz"] for one in taken]).reshape(-1, 3)

    def faces(self, count: int, properties: list[list[str]]) -> list[list[int]] | Numbers:
        name = next(words[-1] for words in properties if words[0] == "list")
        named = [words[-1] for words in properties if words[-1] in ("vertex_indices", "vertex_index")]
        name = named[0] if named else name
        if self._order and count and sum(words[0] == "list" for words in properties) == 1:
            kind = np.dtype(
                [
                    (words[-1], self._order + _PLY_TYPES[words[0]])
                    if words[0] != "list"
                    else (
                        words[-1],
                        [
                            ("n", self._order + _PLY_TYPES[words[1]]),
                            ("v", self._order + _PLY_TYPES[words[2]], 3),
                        ],
                    )
                    for words in properties
                ]
            )
            if len(self._body) - self._at >= kind.itemsize * count:
                start = self._at
                rows = self._table(count, kind)
                if (rows[name]["n"] == 3).all():
                    return np.asarray(rows[name]["v"].astype(np.int64))
                self._at = start
        loops = [[int(value) for value in self.row(properties)[name]] for _ in range(count)]
        return [loop for loop in loops if len(loop) > 2]


def _of_polygons(
    points: Points, loops: list[list[int]] | Numbers, piece: list[int] | None = None
) -> ProofOriginal:
    if isinstance(loops, np.ndarray):
        return _of_triangles(None, Surface(points, loops), None)
    faces: list[tuple[int, int, int]] = []
    polygon: list[int] = []
    for number, loop in enumerate(loops):
        n = len(loop)
        if n == 3:
            faces.append((loop[0], loop[1], loop[2]))
        elif n <= MOST_TRIED:
            faces += [
                (loop[i], loop[j], loop[k])
                for i in range(n)
                for j in range(i + 1, n)
                for k in range(j + 1, n)
            ]
        else:  # these are completed by what the released body has of them
            faces += [(loop[0], loop[j], loop[j + 1]) for j in range(1, n - 1)]
        polygon += [number] * (len(faces) - len(polygon))
    return ProofOriginal(
        None,
        Surface(points, np.array(faces, dtype=np.int64).reshape(-1, 3)),
        np.array(polygon, dtype=np.int64),
        np.array([corner for loop in loops for corner in loop], dtype=np.int64),
        np.array([len(loop) for loop in loops], dtype=np.int64),
        np.array(piece if piece is not None else [0] * len(loops), dtype=np.int64),
    )


class _Model:
    """A model part, its objects by their ids and its build items found once."""

    def __init__(self, root: Xml.Element) -> None:
        self.unit = root.get("unit", "millimeter")
        under = [(_tag(part), one) for part in root for one in part]
        self.objects = {one.attrib["id"]: one for part, one in under if (part, _tag(one)) == _OBJECT}
        self.items = [one for part, one in under if (part, _tag(one)) == _ITEM]
        self._lists: dict[str, tuple[Points, Numbers] | None] = {}

    def lists(self, key: str) -> tuple[Points, Numbers] | None:
        """Return the vertices and triangles of an object, read once however often it is placed."""
        if key not in self._lists:
            mesh = next((one for one in self.objects[key] if _tag(one) == "mesh"), None)
            self._lists[key] = None if mesh is None else _lists(mesh)
        return self._lists[key]


_OBJECT, _ITEM = ("resources", "object"), ("build", "item")


def _3mf(data: bytes) -> ProofOriginal:
    """Read a 3MF package: build items, components and transforms, in double precision."""
    with zipfile.ZipFile(io.BytesIO(data)) as package:
        parts = {name.lower().lstrip("/"): name for name in package.namelist()}
        models: dict[str, _Model] = {}

        def model(path: str) -> _Model:
            key = posixpath.normpath(path.lstrip("/")).lower()
            if key not in models:
                models[key] = _Model(Xml.fromstring(package.read(parts[key])))
            return models[key]

        root_path = _root_model(package, parts)
        root = model(root_path)
        points: list[Points] = []
        faces: list[Numbers] = []
        used = 0

        def place(path: str, key: str, matrix: Points, depth: int) -> None:
            nonlocal used
            if depth > 64:
                raise ValueError("components contain each other")
            item = model(path).objects[key]
            if item.get("type") in ("support", "solidsupport", "other"):
                return
            lists = model(path).lists(key)
            if lists is not None:
                own, index = lists
                points.append(own @ matrix[:3] + matrix[3])
                faces.append((index[:, ::-1] if np.linalg.det(matrix[:3]) < 0 else index) + used)
                used += len(own)
                return
            for component in item.iter():
                if _tag(component) == "component":
                    inner = _matrix(component)
                    chained = np.vstack([inner[:3] @ matrix[:3], inner[3] @ matrix[:3] + matrix[3]])
                    place(_path(component) or path, component.attrib["objectid"], chained, depth + 1)

        for item in root.items:
            place(_path(item) or root_path, item.attrib["objectid"], _matrix(item), 0)
    every = np.concatenate(faces) if faces else np.empty((0, 3), np.int64)
    surface = Surface(np.concatenate(points) if points else np.empty((0, 3)), every)
    piece = np.repeat(np.arange(len(faces)), [len(face) for face in faces])
    return _of_triangles(_UNITS_3MF[root.unit], surface, piece)


def _root_model(package: zipfile.ZipFile, parts: dict[str, str]) -> str:
    if "_rels/.rels" in parts:
        for relation in Xml.fromstring(package.read(parts["_rels/.rels"])).iter():
            if relation.get("Type", "").endswith("/3dmodel"):
                return relation.attrib["Target"]
    return "3D/3dmodel.model"


def _tag(element: Xml.Element) -> str:
    return element.tag.rpartition("}")[2]


def _path(element: Xml.Element) -> str:
    return next((value for name, value in element.attrib.items() if name.endswith("}path")), "")


def _matrix(element: Xml.Element) -> Points:
    written = element.get("transform", "1 0 0 0 1 0 0 0 1 0 0 0")
    return np.array([float(word) for word in written.split()]).reshape(4, 3)


def _lists(mesh: Xml.Element) -> tuple[Points, Numbers]:
    lists = {_tag(one): one for one in mesh}
    corners = [one.attrib for one in lists["vertices"] if _tag(one) == "vertex"]
    sides = [one.attrib for one in lists["triangles"] if _tag(one) == "triangle"]
    points = [(float(v["x"]), float(v["y"]), float(v["z"])) for v in corners]
    faces = [(int(t["v1"]), int(t["v2"]), int(t["v3"])) for t in sides]
    return np.array(points).reshape(-1, 3), np.array(faces, dtype=np.int64).reshape(-1, 3)
