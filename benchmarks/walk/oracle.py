"""The oracle of a walk: the numbers of a file, what was typed, and what released files must measure of it.

It shares no code with the core, and reads released files by a reader of its own.
"""

from __future__ import annotations

import struct
from collections import Counter
from dataclasses import dataclass, field
from typing import Any

import numpy as np

PER = {"um": 0.001, "mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
SLACK = 0.05
"""Half of the band that a caliper's reading has."""
Points = Any


@dataclass
class Owner:
    """What is in force for bodies that share it, and what was typed for it last."""

    factors: Points = field(default_factory=lambda: np.ones(3))
    shrink: Points = field(default_factory=lambda: np.zeros(3))
    claim: tuple[str, int, float, tuple[str, ...]] | None = None
    """``size`` or ``reading``, along an axis, of how many mm, over which bodies."""
    absolute: bool = False
    """Whether it comes of a real size, which stays when the unit is settled anew."""
    read: tuple[int, float, tuple[str, ...]] | None = None
    accepted: float | None = None
    """By how much the reading was missed when that was accepted."""


@dataclass
class Oracle:
    """The numbers of a file and what was typed."""

    unit: str | None
    boxes: dict[str, Points]
    """By body, (2, 3) in numbers of the file."""
    owners: dict[str, Owner]
    alone: set[str] = field(default_factory=set)
    kit: set[str] = field(default_factory=set)
    clear: dict[str, Points] = field(default_factory=dict)
    cuts: dict[str, float] = field(default_factory=dict)
    holes: set[str] = field(default_factory=set)
    """Bodies that miss a triangle."""
    paired: bool = False
    """Whether the gap between the two first bodies is a pair."""
    measured: dict[tuple[str, int], list[float]] = field(default_factory=dict)
    """By body and axis, what its overall size measured on printed parts."""
    let_be: set[str] = field(default_factory=set)
    """Bodies whose hole was accepted."""

    def owner(self, body: str) -> Owner:
        return self.owners["kit" if body in self.kit and body not in self.alone else body]

    def sharing(self, body: str) -> tuple[str, ...]:
        if body in self.kit and body not in self.alone:
            return tuple(sorted(self.kit - self.alone))
        return (body,)

    def span(self, bodies: tuple[str, ...], axis: int) -> float:
        ends = np.array([self.boxes[body][:, axis] for body in bodies])
        return float(ends[:, 1].max() - ends[:, 0].min())

    def length(self, bodies: tuple[str, ...], axis: int) -> float:
        per = PER[self.unit or "mm"]
        return self.span(bodies, axis) * per * float(self.owner(bodies[0]).factors[axis])

    def meet(self) -> None:
        """Bring what was typed of a size true again, all axes alike."""
        for owner in self.owners.values():
            if owner.claim is not None:
                _, axis, mm, bodies = owner.claim
                owner.factors = owner.factors * (mm / self.length(bodies, axis))

    def missed(self, owner: Owner) -> float:
        if owner.read is None:
            return 0.0
        axis, mm, bodies = owner.read
        off = self.length(bodies, axis) - mm
        return off if abs(off) > SLACK * (1 + 1e-9) else 0.0

    def must_refuse(self) -> bool:
        return (
            self.unit is None
            or bool(self.holes - self.let_be)
            or any(
                self.missed(owner) and owner.accepted != round(self.missed(owner), 4)
                for owner in self.owners.values()
            )
        )

    def open_edges(self) -> list[int]:
        """How many edges of every released body lack a partner, sorted."""
        open_edges = []
        for body in self.boxes:
            open_edges += [0, 0] if body in self.cuts else [3 * (body in self.holes)]
        return sorted(open_edges)

    def aimed(self, body: str, axis: int) -> float:
        """What an overall size is to measure once it is printed."""
        more = float(self.clear.get(body, np.zeros(3))[axis])
        bare = self.length((body,), axis)
        return bare + more if bare + more > 0 else bare

    def extents(self) -> list[tuple[float, ...]]:
        """What every released body must measure, in mm, sorted."""
        extents = []
        for body, box in self.boxes.items():
            owner = self.owner(body)
            ends = box * PER[self.unit or "mm"] * owner.factors
            parts = [ends]
            if body in self.cuts:
                at = self.cuts[body]
                parts = [np.array([ends[0], [*ends[1, :2], at]]), np.array([[*ends[0, :2], at], ends[1]])]
            for part in parts:
                bare, more = part[1] - part[0], self.clear.get(body, np.zeros(3))
                size = (bare + np.where(bare + more > 0, more, 0.0)) / (1 - owner.shrink)
                extents.append(tuple(size.tolist()))
        return sorted(extents)


def stl_of(boxes: list[Points], torn: bool = False) -> bytes:
    """Boxes as a binary STL, twelve triangles each; a torn first one misses one, and has another twice."""
    rows: list[Any] = []
    for low, high in boxes:
        corner = [[(low, high)[(k >> i) & 1][i] for i in range(3)] for k in range(8)]
        for a, b, c, d in _SIDES:
            rows += [(corner[a], corner[b], corner[c]), (corner[a], corner[c], corner[d])]
    if torn:
        rows = [*rows[1:], rows[2]]
    out = [b"\0" * 80, struct.pack("<I", len(rows))]
    out += [struct.pack("<12fH", 0, 0, 0, *(value for point in row for value in point), 0) for row in rows]
    return b"".join(out)


_SIDES = ((0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5))


def extents_in(data: bytes) -> tuple[float, ...]:
    """The extents of a binary STL."""
    flat = np.array([point for triangle in _triangles(data) for point in triangle])
    return tuple((flat.max(axis=0) - flat.min(axis=0)).tolist())


def open_edges_in(data: bytes) -> int:
    """The edges of a binary STL that are not there once each way."""
    ways: Counter[tuple[Any, Any]] = Counter()
    for triangle in _triangles(data):
        for k in range(3):
            ways[triangle[k], triangle[(k + 1) % 3]] += 1
    return sum(ways[edge] != 1 or ways[edge[::-1]] != 1 for edge in ways)


def _triangles(data: bytes) -> list[tuple[tuple[float, ...], ...]]:
    (count,) = struct.unpack_from("<I", data, 80)
    rows = (struct.unpack_from("<12fH", data, 84 + 50 * i)[3:12] for i in range(count))
    return [(row[0:3], row[3:6], row[6:9]) for row in rows]
