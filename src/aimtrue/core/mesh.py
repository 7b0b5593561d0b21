"""Triangle meshes: vertices and faces as arrays, and what can be computed from them.

A mesh holds the numbers of its file, unconverted. Unit, correction and seat are
transforms kept in the job, so a change of size never touches a triangle.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.topology import Topology, topology_of

Floats: TypeAlias = NDArray[np.float64]
Faces: TypeAlias = NDArray[np.int32]


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
        used = self.vertices if self.all_vertices_used else self.vertices[np.unique(self.faces)]
        return np.stack([used.min(axis=0), used.max(axis=0)])

    def extents(self) -> Floats:
        """Return (3,): the overall size along each axis."""
        low, high = self.bounds()
        return np.asarray(high - low)

    @cached_property
    def all_vertices_used(self) -> bool:
        seen = np.zeros(len(self.vertices), dtype=bool)
        seen[self.faces.ravel()] = True
        return bool(seen.all())

    @cached_property
    def crosses(self) -> Floats:
        """(m, 3): cross products of two sides of each face, twice the area long."""
        # Relative to a point of the mesh, so that a model metres away loses no digits.
        near = self.vertices - self.vertices[self.faces[0, 0]]
        a, b, c = (near.take(self.faces[:, k], axis=0) for k in range(3))
        return _cross(b - a, c - a)

    @cached_property
    def areas(self) -> Floats:
        """(m,): the area of each face."""
        return np.asarray(np.sqrt(np.einsum("ij,ij->i", self.crosses, self.crosses)) / 2)

    def area(self) -> float:
        """Return the surface area."""
        return float(self.areas.sum())

    def volume(self) -> float:
        """Return the enclosed volume by the divergence theorem; meaningful for closed meshes.

        The sum runs over signed tetrahedra from a point of the mesh itself:
        a . (b x c) = a . ((b - a) x (c - a)). A mesh facing inward gives a negative volume.
        """
        a = self.vertices[self.faces[:, 0]] - self.vertices[self.faces[0, 0]]
        return float(np.einsum("ij,ij->", a, self.crosses) / 6)

    @cached_property
    def topology(self) -> Topology:
        """How the faces hang together; computed once."""
        return topology_of(self.faces, self.vertices)

    def mapped(self, move: Callable[[Floats], Floats], *, flips: bool = False) -> Mesh:
        """Return the mesh with ``move`` applied to its vertices; ``flips`` turns every face over."""
        faces = np.ascontiguousarray(self.faces[:, ::-1]) if flips else self.faces
        return Mesh(move(self.vertices), faces)


def compacted(vertices: Floats, faces: Faces) -> Mesh:
    """Return a mesh of some faces with only the vertices they use, both in their order."""
    if 8 * faces.size < len(vertices):  # few of many: no need to look at all
        used, index = np.unique(faces, return_inverse=True)
        return Mesh(vertices[used], index.reshape(-1, 3).astype(np.int32))
    seen = np.zeros(len(vertices), dtype=bool)
    seen[faces.ravel()] = True
    if seen.all():
        return Mesh(vertices, faces)
    index: Faces = np.cumsum(seen, dtype=np.int32) - np.int32(1)
    return Mesh(vertices[seen], np.asarray(index[faces], dtype=np.int32))


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
    points = corners.reshape(-1, 3) + corners.dtype.type(0)  # adding 0 turns -0 into 0
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
    if (starts[1:] != (mixed[1:] != mixed[:-1])).any():  # two different points share a hash
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


def _cross(u: Floats, v: Floats) -> Floats:
    """Cross products of rows; column by column, several times as fast as the general one."""
    out = np.empty_like(u)
    for i, j, k in ((0, 1, 2), (1, 2, 0), (2, 0, 1)):
        out[:, i] = u[:, j] * v[:, k] - u[:, k] * v[:, j]
    return out
