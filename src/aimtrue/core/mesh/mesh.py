"""Triangle meshes: vertices and faces as arrays, and what can be computed from them.

A mesh holds the numbers of its file, unconverted. Unit, correction and seat are
transforms kept in the job, so a change of size never touches a triangle.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property
from typing import TypeAlias, TypedDict

import numpy as np
from numpy.typing import NDArray
from typing_extensions import Unpack

from aimtrue.core.mesh.topology import Topology, topology_of

Floats: TypeAlias = NDArray[np.float64]
Faces: TypeAlias = NDArray[np.int32]
_Columns: TypeAlias = list[Floats]
_AT_ONCE = 1 << 15
_ON_TWO = 1 << 17
"""Meshes of this many faces and more are measured on two processors."""


@dataclass(frozen=True, eq=False)
class MassProperties:
    """What a mesh weighs as a solid of one material, by the divergence theorem.

    Attributes:
        volume: what it encloses.
        centre: (3,) where its weight is; only of a closed mesh that encloses something.
        facing: (3,) sum of the cross products of its faces, nothing where it is closed.
    """

    volume: float
    centre: Floats
    facing: Floats


@dataclass(frozen=True, eq=False)
class _Measures:
    """What one pass over the faces of a mesh gives; sums of cross products, and of volumes by place."""

    areas: Floats
    tetrahedra: Floats
    facing: Floats
    moment: Floats


class KnownOfMesh(TypedDict, total=False):
    """What may be known of a mesh before it is worked out: its own properties, by their names.

    Attributes:
        topology: its edges.
        topology_of_whole: works that out from a mesh that this one is a part of, when it is first asked for.
        areas: (m,) of its faces.
        all_vertices_used: whether every vertex is a corner of some face.
        sound_shells: how many shells it has, where all of them are closed and apart from each other.
        signed_volume: what it encloses.
    """

    topology: Topology
    topology_of_whole: Callable[[], Topology]
    areas: Floats
    all_vertices_used: bool
    sound_shells: int
    signed_volume: float


@dataclass(frozen=True, eq=False)
class Mesh:
    """An indexed triangle mesh, never changed once made.

    Attributes:
        vertices: (n, 3) float64, numbers of the file or millimetres as the context says.
        faces: (m, 3) int32, indices into ``vertices``, counter-clockwise seen from outside.
    """

    vertices: Floats
    faces: Faces

    @property
    def triangles(self) -> int:
        """Number of faces."""
        return len(self.faces)

    def bounds(self) -> Floats:
        """Return (2, 3): the least and greatest coordinates of the vertices that faces use."""
        return self._bounds.copy()

    @cached_property
    def _bounds(self) -> Floats:
        used = self.vertices if self.all_vertices_used else self.vertices[np.unique(self.faces)]
        # Column by column: a reduction over rows of three is several times slower.
        columns = [used[:, axis] for axis in range(3)]
        return np.array([[c.min() for c in columns], [c.max() for c in columns]])

    def extents(self) -> Floats:
        """Return (3,): the overall size along each axis."""
        low, high = self._bounds
        return np.asarray(high - low)

    @cached_property
    def all_vertices_used(self) -> bool:
        """Whether every vertex is a corner of some face."""
        seen = np.zeros(len(self.vertices), dtype=bool)
        seen[self.faces.ravel()] = True
        return bool(seen.all())

    @cached_property
    def _measures(self) -> _Measures:
        areas, tetrahedra = np.empty(self.triangles), np.empty(self.triangles)

        def measured(start: int, stop: int) -> Floats:
            sums = np.zeros(6)
            for some, (a, u, v), cross in self._passes(start, stop):
                areas[some] = np.sqrt(cross[0] ** 2 + cross[1] ** 2 + cross[2] ** 2) / 2
                tetrahedra[some] = signed_volumes = (a[0] * cross[0] + a[1] * cross[1] + a[2] * cross[2]) / 6
                sums[:3] += [component.sum() for component in cross]
                sums[3:] += [signed_volumes @ (3 * a[k] + u[k] + v[k]) for k in range(3)]
            return sums

        if self.triangles < _ON_TWO:
            sums = measured(0, self.triangles)
        else:
            middle = self.triangles // 2
            with ThreadPoolExecutor(1) as other:
                later = other.submit(measured, middle, self.triangles)
                sums = measured(0, middle) + later.result()
        return _Measures(areas, tetrahedra, sums[:3], sums[3:] / 4)

    @property
    def has_area(self) -> bool:
        """Whether any face has an area: told by the first that has, long before all are measured."""
        passes = self._passes(0, self.triangles)
        return any((cross[0] ** 2 + cross[1] ** 2 + cross[2] ** 2 > 0).any() for _, _, cross in passes)

    @cached_property
    def mass_properties(self) -> MassProperties:
        """What it weighs, and where."""
        volume, measures = self.signed_volume, self._measures
        near = self.vertices[self.faces[0, 0]] if self.triangles else np.zeros(3)
        return MassProperties(volume, near + measures.moment / (volume or 1.0), measures.facing)

    def _passes(
        self, start: int, stop: int
    ) -> Iterator[tuple[slice, tuple[_Columns, _Columns, _Columns], _Columns]]:
        """Go over faces some at a time: first corners, sides and cross products, by coordinate.

        Gathering rows of three is several times slower than each coordinate on its own, and all at once
        would take several times the memory of the mesh.
        """
        near = self.vertices[self.faces[0, 0]] if self.triangles else np.zeros(3)
        # Relative to a point of the mesh, so that a model metres away loses no digits.
        columns = [np.ascontiguousarray(self.vertices[:, axis] - near[axis]) for axis in range(3)]
        for first in range(start, stop, _AT_ONCE):
            some = slice(first, min(first + _AT_ONCE, stop))
            i, j, k = (np.ascontiguousarray(self.faces[some, corner]) for corner in range(3))
            a = [column[i] for column in columns]
            u = [column[j] - one for column, one in zip(columns, a, strict=True)]
            v = [column[k] - one for column, one in zip(columns, a, strict=True)]
            cross = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]]
            yield some, (a, u, v), cross

    @cached_property
    def area_vectors(self) -> Floats:
        """(m, 3): cross products of two sides of each face, twice the area long."""
        crosses = np.empty((self.triangles, 3))
        for some, _, cross in self._passes(0, self.triangles):
            for axis in range(3):
                crosses[some, axis] = cross[axis]
        return crosses

    @cached_property
    def areas(self) -> Floats:
        """(m,): the area of each face."""
        return self._measures.areas

    @cached_property
    def tetrahedra(self) -> Floats:
        """(m,): signed volume between each face and the first vertex of the first face."""
        return self._measures.tetrahedra

    @cached_property
    def signed_volume(self) -> float:
        """What the faces enclose with the origin, each by its sign."""
        return float(self.tetrahedra.sum())

    def area(self) -> float:
        """Return the surface area."""
        return float(self.areas.sum())

    def volume(self) -> float:
        """Return the enclosed volume by the divergence theorem; meaningful for closed meshes.

        The sum runs over signed tetrahedra from a point of the mesh itself:
        a . (b x c) = a . ((b - a) x (c - a)). A mesh facing inward gives a negative volume.
        """
        return self.signed_volume

    @cached_property
    def topology(self) -> Topology:
        """How the faces hang together; computed once, or taken from a whole this is a part of."""
        whole = self.__dict__.get("topology_of_whole")
        return whole() if whole is not None else topology_of(self.faces, self.vertices)

    @cached_property
    def sound_shells(self) -> int | None:
        """How many shells, when every edge has just two faces and they agree; else None."""
        topology = self.topology
        sound = bool((topology.edge_valence == 2).all()) and topology.closed
        return topology.shells if sound else None

    def knowing(self, **facts: Unpack[KnownOfMesh]) -> Mesh:
        """Note what is known of a mesh from elsewhere; return the mesh."""
        self.__dict__.update(facts)
        return self

    def primed(self) -> Mesh:
        """Work out measures and topology, on two processors where there are; return the mesh."""
        with ThreadPoolExecutor(1) as other:
            measures = other.submit(lambda: self._measures)
            _ = self.topology
            measures.result()
        return self

    def mapped(self, move: Callable[[Floats], Floats], *, flips: bool = False) -> Mesh:
        """Return the mesh with ``move`` applied to its vertices; ``flips`` turns every face over."""
        faces = np.ascontiguousarray(self.faces[:, ::-1]) if flips else self.faces
        return Mesh(move(self.vertices), faces)


def compacted(vertices: Floats, faces: Faces) -> Mesh:
    """Return a mesh of some faces with only the vertices they use, both in their order."""
    if 8 * faces.size < len(vertices):  # Where few of many are meant, the others are not looked at.
        used, index = np.unique(faces, return_inverse=True)
        return Mesh(vertices[used], index.reshape(-1, 3).astype(np.int32))
    seen = np.zeros(len(vertices), dtype=bool)
    seen[faces.ravel()] = True
    if seen.all():
        return Mesh(vertices, faces)
    number = np.cumsum(seen, dtype=np.int32) - np.int32(1)
    return Mesh(vertices[seen], np.asarray(number[faces], dtype=np.int32))


def joined_zeros(vertices: Floats, faces: Faces) -> Mesh:
    """Join vertices that differ only in the sign of a zero, which are one place.

    Args:
        vertices: (n, 3), no two of them with the same bits.
        faces: (m, 3) into them.
    """
    minus = (vertices == 0) & np.signbit(vertices)
    if not minus.any():
        return Mesh(vertices, faces)
    vertices = vertices + 0.0
    touched = np.flatnonzero((vertices == 0).any(axis=1))
    order, starts, _ = _equal_runs(vertices[touched])
    first = touched[order][np.maximum.accumulate(np.where(starts, np.arange(len(order)), 0))]
    target = np.arange(len(vertices), dtype=np.int32)
    target[touched[order]] = first
    return compacted(vertices, target[faces])


def weld(corners: NDArray[np.floating]) -> Mesh:
    """Join the corners of separate triangles that have the very same coordinates.

    Args:
        corners: (m, 3, 3) triangle corners, as STL stores them.

    Returns:
        A mesh with the faces in the given order; no coordinate is moved, and -0 becomes 0.
    """
    points = corners.reshape(-1, 3) + corners.dtype.type(0)  # Adding 0 turns -0 into 0.
    order, starts, ordered = _equal_runs(points)
    index = np.empty(len(points), dtype=np.int32)
    index[order] = np.cumsum(starts) - 1
    vertices = ordered[starts].astype(np.float64)
    return Mesh(vertices, index.reshape(-1, 3))


def merged(meshes: list[Mesh]) -> Mesh:
    """Put several meshes into one, keeping every face and the order."""
    if len(meshes) == 1:
        return meshes[0]
    offsets = np.cumsum([0] + [len(mesh.vertices) for mesh in meshes[:-1]])
    faces = [mesh.faces + np.int32(offset) for mesh, offset in zip(meshes, offsets, strict=True)]
    return Mesh(np.concatenate([mesh.vertices for mesh in meshes]), np.concatenate(faces))


def _equal_runs(
    points: NDArray[np.floating],
) -> tuple[NDArray[np.int64], NDArray[np.bool_], NDArray[np.floating]]:
    """Order points so that equal ones are neighbours.

    Returns:
        The order, where each run of equal points starts, and the points in that order.
    """
    mixed = _mixed(points)
    order = np.argsort(mixed)
    ordered, mixed = points[order], mixed[order]
    starts = _run_starts(ordered)
    if (starts[1:] != (mixed[1:] != mixed[:-1])).any():  # Two different points share a hash.
        order = np.lexsort(points.T)
        ordered = points[order]
        starts = _run_starts(ordered)
    return order, starts, ordered


def _run_starts(points: NDArray[np.floating]) -> NDArray[np.bool_]:
    starts = np.ones(len(points), dtype=bool)
    after, before = points[1:], points[:-1]
    # Column by column: a reduction over rows of three is several times slower.
    starts[1:] = after[:, 0] != before[:, 0]
    for axis in (1, 2):
        starts[1:] |= after[:, axis] != before[:, axis]
    return starts


def _mixed(points: NDArray[np.floating]) -> NDArray[np.uint64]:
    """Hash each point to 64 bits (multiply-xorshift); equal points hash equally."""
    bits = points.view(np.uint32 if points.dtype == np.float32 else np.uint64).astype(np.uint64)
    total = np.zeros(len(points), dtype=np.uint64)
    with np.errstate(over="ignore"):
        for axis in range(3):
            total = (total ^ bits[:, axis]) * np.uint64(0x9E3779B97F4A7C15)
            total ^= total >> np.uint64(29)
    return total
