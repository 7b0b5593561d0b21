"""This module reads PLY a second time."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.proof.surface import Numbers, Points

_PLY_TYPES = {
    "char": "i1", "int8": "i1", "uchar": "u1", "uint8": "u1", "short": "i2", "int16": "i2", "ushort": "u2",
    "uint16": "u2", "int": "i4", "int32": "i4", "uint": "u4", "uint32": "u4", "float": "f4", "float32": "f4",
    "double": "f8", "float64": "f8",
}  # fmt: skip


def ply_polygons(data: bytes) -> tuple[Points, list[list[int]] | Numbers]:
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
    polygons: list[list[int]] | Numbers = loops
    for name, count, properties in elements:
        if name == "vertex":
            points = source.vertices(count, properties)
        elif name == "face":
            polygons = source.faces(count, properties)
        else:
            for _ in range(count):
                source.row(properties)
    return points, polygons


class _Values:
    """The values of a PLY's body, taken one after the other."""

    def __init__(self, body: bytes, order: str) -> None:
        self._order, self._body, self._at = order, body, 0
        self._words = body.split() if not order else []

    def row(self, properties: list[list[str]]) -> dict[str, list[float]]:
        """Take one row: per property its values."""
        columns = {}
        for words in properties:
            count = int(self._take(words[1], 1)[0]) if words[0] == "list" else 1
            columns[words[-1]] = self._take(words[-2], count)
        return columns

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
        return np.array([[row[axis][0] for axis in "xyz"] for row in taken]).reshape(-1, 3)

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
