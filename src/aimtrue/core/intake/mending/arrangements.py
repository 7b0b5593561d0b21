"""A closed surface that crosses itself, cut along its crossings and freed of what is inside.

The surface is divided where its faces cut each other; what is left between the cuts are *patches*. On either
side of a patch the surface winds around space a whole number of times, one more inside than outside; those
with nothing outside bound the material and stay (Jacobson, Kavan and Sorkine-Hornung 2013). Corners that
were there keep their place to the last bit; new ones lie where an edge passes through a face.

Where faces touch without cutting (in one plane, along an edge, at a corner) signs are decided by moving
corners by less than the grain of a float32; the corners of the result are not moved.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import combinations, pairwise

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from aimtrue.core.mesh.arrays import ring_area
from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.crossings import volumes
from aimtrue.core.mesh.mesh import Floats, Mesh, compacted
from aimtrue.core.mesh.point_location import winding_numbers

_MOVES = (0.0, 1e-9, 1e-8, 5e-8)
"""Shares of the size by which corners are moved, one try after the other, to tell touching from crossing."""
_AT_ONCE = 20_000
_SIDES = [[0, 1], [1, 2], [2, 0]]
Faces = NDArray[np.int32]
Indices = NDArray[np.integer]


class _OddError(Exception):
    """Signs contradict each other: faces touch, and rounding decided differently here and there."""


def arranged(mesh: Mesh) -> Mesh | None:
    """Return the surface of the material that a self-crossing closed surface bounds.

    Args:
        mesh: closed, facing outward.

    Returns:
        A closed mesh without crossings; the same object where nothing crosses; None where it cannot be told
        apart in the precision of the numbers.
    """
    size = float(mesh.extents().max())
    for move in _MOVES:
        random = np.random.default_rng(0)
        moved = mesh.vertices + random.uniform(-1, 1, mesh.vertices.shape) * move * size
        try:
            cut = _cut(mesh, moved)
        except _OddError:
            continue
        if cut is None:
            return mesh
        kept = _bounding(mesh, cut)
        if len(kept) and (remaining := compacted(cut.vertices, kept)).topology.closed:
            return remaining
    return None


@dataclass(frozen=True, eq=False)
class _Divided:
    """A surface divided along its crossings: corners, triangles, and the face each was part of."""

    vertices: Floats
    faces: Faces
    origin: Indices


def _cut(mesh: Mesh, moved: Floats) -> _Divided | None:
    """Divide all faces that others cut; None where none does."""
    pierced = _piercings(moved, mesh.faces, _near_pairs(moved, mesh.faces))
    if not pierced.number:
        return None
    lines = _Lines(moved, mesh.faces, pierced)
    for f, g in pierced.pairs.tolist():
        lines.add_pair(f, g)
    lines.cross()
    return lines.divided(mesh)


def _near_pairs(vertices: Floats, faces: Faces) -> Indices:
    """Return (k, 2) pairs of faces whose boxes overlap and that have at most one corner in common."""
    corners = vertices[faces]
    low, high = corners.min(axis=1), corners.max(axis=1)
    boxes = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    tree = shapely.STRtree(boxes)
    pieces = []
    for start in range(0, len(faces), _AT_ONCE):
        first, second = tree.query(boxes[start : start + _AT_ONCE])
        first = first + start
        near = (first < second) & (low[first, 2] <= high[second, 2]) & (low[second, 2] <= high[first, 2])
        pair = np.stack([first[near], second[near]], axis=1)
        common = (faces[pair[:, 0]][:, :, None] == faces[pair[:, 1]][:, None, :]).sum(axis=(1, 2))
        pieces.append(pair[common < 2])
    return np.concatenate(pieces)


@dataclass(frozen=True, eq=False)
class _Piercings:
    """Where edges pass through faces: a new corner for every edge (two corners) and face.

    ``shares`` are how far along the edge they are; ``pairs`` the (k, 2) pairs of faces that cut each other.
    """

    at: dict[tuple[int, int, int], int]
    points: Floats
    shares: Floats
    pairs: Indices

    @property
    def number(self) -> int:
        """How many there are."""
        return len(self.points)


def _piercings(vertices: Floats, faces: Faces, pairs: Indices) -> _Piercings:
    """Find every edge of one face of a pair that passes through the other."""
    both = np.concatenate([pairs, pairs[:, ::-1]])
    # Ends in order, so that an edge is judged alike whichever of its faces brings it.
    edges = np.sort(faces[both[:, 0]][:, _SIDES], axis=2).reshape(-1, 2)
    through = np.repeat(both[:, 1], 3)
    apart = ~(edges[:, :, None] == faces[through][:, None, :]).any(axis=(1, 2))
    edges, through = edges[apart], through[apart]
    of_pair = np.tile(np.arange(len(pairs)), 2).repeat(3)[apart]
    p, q = vertices[edges[:, 0]], vertices[edges[:, 1]]
    a, b, c = (vertices[faces[through, k]] for k in range(3))
    over, under = volumes(a, b, c, p), volumes(a, b, c, q)
    u, v, w = volumes(p, q, a, b), volumes(p, q, b, c), volumes(p, q, c, a)
    passes = (over * under < 0) & (((u > 0) & (v > 0) & (w > 0)) | ((u < 0) & (v < 0) & (w < 0)))
    rows = np.column_stack([edges[passes], through[passes]])
    rows, first = np.unique(rows, axis=0, return_index=True)
    over, under = over[passes][first], under[passes][first]
    share = over / (over - under)
    p, q = vertices[rows[:, 0]], vertices[rows[:, 1]]
    at = {(i, j, face): k for k, (i, j, face) in enumerate(rows.tolist())}
    return _Piercings(at, p + share[:, None] * (q - p), share, pairs[np.unique(of_pair[passes])])


@dataclass
class _Lines:
    """The lines along which faces are cut, by face; corners are numbered: old ones, piercings, meetings."""

    vertices: Floats
    faces: Faces
    pierced: _Piercings
    of_face: dict[int, list[tuple[int, int, int]]] = field(default_factory=dict)
    """Per face: from corner, to corner, and the face that cuts here."""
    on_edge: dict[tuple[int, int], list[int]] = field(default_factory=dict)
    meetings: dict[tuple[int, int, int], tuple[int, Floats]] = field(default_factory=dict)
    met: dict[tuple[int, int, int], int] = field(default_factory=dict)
    breaks: dict[tuple[int, int], list[tuple[float, int]]] = field(default_factory=dict)
    """Per face and line of it: where other lines cross it."""

    def __post_init__(self) -> None:
        """Sort the piercings of every edge along it."""
        n = len(self.vertices)
        for (i, j, _), k in self.pierced.at.items():
            self.on_edge.setdefault((i, j), []).append(k)
        for corners in self.on_edge.values():
            corners.sort(key=lambda k: float(self.pierced.shares[k]))
            corners[:] = [n + k for k in corners]

    def add_pair(self, f: int, g: int) -> None:
        """Add the line in which two faces cut each other, if they do.

        Raises:
            _OddError: a line with one end.
        """
        ends = [*self._ends(f, g), *self._ends(g, f)]
        if not ends:
            return
        common = set(self.faces[f].tolist()) & set(self.faces[g].tolist())
        ends += common
        if len(ends) != 2:
            raise _OddError
        self.of_face.setdefault(f, []).append((ends[0], ends[1], g))
        self.of_face.setdefault(g, []).append((ends[0], ends[1], f))

    def _ends(self, f: int, g: int) -> list[int]:
        """Where edges of one face pass through another."""
        a, b, c = self.faces[f].tolist()
        n, crossings = len(self.vertices), []
        for i, j in ((a, b), (b, c), (c, a)):
            k = self.pierced.at.get((min(i, j), max(i, j), g))
            if k is not None:
                crossings.append(n + k)
        return crossings

    def point(self, corner: int) -> Floats:
        """Return where a corner is, as moved."""
        n = len(self.vertices)
        return np.asarray(self.vertices[corner] if corner < n else self.pierced.points[corner - n])

    def cross(self) -> None:
        """Find where two lines cross within a face: there three faces meet.

        Raises:
            _OddError: a meeting that not all three faces see.
        """
        for f, lines in self.of_face.items():
            flat = _flatten(self.vertices[self.faces[f]])
            for (i, one), (j, other) in combinations(enumerate(lines), 2):
                self._cross_two(f, flat, i, one, j, other)
        if any(count != 3 for count in self.met.values()):
            raise _OddError

    def _cross_two(
        self, f: int, flat: Floats, i: int, one: tuple[int, int, int], j: int, other: tuple[int, int, int]
    ) -> None:
        if set(one[:2]) & set(other[:2]):
            return
        p, q, r, s = (flat @ self.point(corner) for corner in (*one[:2], *other[:2]))
        run, across = q - p, s - r
        turn = float(run[0] * across[1] - run[1] * across[0])
        if turn == 0:
            return
        away = r - p
        t = float(away[0] * across[1] - away[1] * across[0]) / turn
        u = float(away[0] * run[1] - away[1] * run[0]) / turn
        if not (0 < t < 1 and 0 < u < 1):
            return
        key = tuple(sorted((f, one[2], other[2])))
        if len(set(key)) < 3:
            raise _OddError
        a, b, c = key
        if (a, b, c) not in self.meetings:
            start, end = self.point(one[0]), self.point(one[1])
            number = len(self.vertices) + self.pierced.number + len(self.meetings)
            self.meetings[a, b, c] = number, start + t * (end - start)
        self.met[a, b, c] = self.met.get((a, b, c), 0) + 1
        number = self.meetings[a, b, c][0]
        self.breaks.setdefault((f, i), []).append((t, number))
        self.breaks.setdefault((f, j), []).append((u, number))

    def divided(self, mesh: Mesh) -> _Divided:
        """Return the whole surface with every cut face divided."""
        meetings = [point for _, point in self.meetings.values()]
        points = np.concatenate([mesh.vertices, self.pierced.points, np.reshape(meetings, (-1, 3))])
        touched = set(self.of_face)
        if self.on_edge:
            touched |= _faces_at(mesh.faces, self.on_edge)
        whole = np.ones(mesh.triangles, dtype=bool)
        whole[list(touched)] = False
        parts, origin = [mesh.faces[whole]], [np.flatnonzero(whole)]
        for f in sorted(touched):
            part = self._divided_face(f, points)
            parts.append(part)
            origin.append(np.full(len(part), f))
        return _Divided(points, np.concatenate(parts).astype(np.int32), np.concatenate(origin))

    def _divided_face(self, f: int, points: Floats) -> Faces:
        """Divide one face along its lines into triangles that face the same way."""
        flat = _flatten(self.vertices[self.faces[f]])
        runs = [run for edge in _edges(self.faces[f]) for run in self._along_edge(*edge)]
        for i, (start, end, _) in enumerate(self.of_face.get(f, [])):
            stops = [number for _, number in sorted(self.breaks.get((f, i), []))]
            chain = [start, *stops, end]
            runs += pairwise(chain)
        used = sorted({corner for run in runs for corner in run})
        here = np.array(
            [self.vertices[number] if number < len(self.vertices) else points[number] for number in used]
        )
        here = here @ flat.T
        number = {tuple(xy): corner for xy, corner in zip(here.tolist(), used, strict=True)}
        if len(number) < len(used):
            raise _OddError
        at = dict(zip(used, here.tolist(), strict=True))
        cells = shapely.polygonize([shapely.LineString([at[a], at[b]]) for a, b in runs])
        triangles: list[Faces] = []
        for cell in cells.geoms:
            rings = [np.asarray(ring.coords)[:-1] for ring in (cell.exterior, *cell.interiors)]
            turned = [_turned(ring, hole=k > 0) for k, ring in enumerate(rings)]
            corners = np.array([number[tuple(xy)] for ring in turned for xy in ring.tolist()])
            triangles.append(corners[np.asarray(manifold3d.triangulate(turned), dtype=np.int64)])
        if not triangles:
            raise _OddError
        return np.concatenate(triangles)

    def _along_edge(self, a: int, b: int) -> list[tuple[int, int]]:
        stops = self.on_edge.get((min(a, b), max(a, b)), [])
        chain = [min(a, b), *stops, max(a, b)]
        return list(pairwise(chain))


def _edges(face: Faces) -> list[tuple[int, int]]:
    a, b, c = face.tolist()
    return [(a, b), (b, c), (c, a)]


def _faces_at(faces: Faces, edges: dict[tuple[int, int], list[int]]) -> set[int]:
    """Return the faces that have any of some edges."""
    wanted = np.array(list(edges), dtype=np.int64)
    here = np.isin(_edge_keys(faces), wanted[:, 0] << 32 | wanted[:, 1])
    return set(np.flatnonzero(here.any(axis=1)).tolist())


def _edge_keys(faces: Faces) -> NDArray[np.int64]:
    """Return (m, 3): one number per side of a triangle, the same whichever way it runs."""
    ends = np.sort(faces[:, _SIDES], axis=2).astype(np.int64)
    return np.asarray(ends[..., 0] << 32 | ends[..., 1])


def _flatten(corners: Floats) -> Floats:
    """Return (2, 3): axes in the plane of a triangle, in which it turns counter-clockwise."""
    u, v = corners[1] - corners[0], corners[2] - corners[0]
    normal = np.cross(u, v)
    across = np.cross(normal, u)
    lengths = np.linalg.norm(u), np.linalg.norm(across)
    if min(lengths) <= 0:
        raise _OddError
    return np.stack([u / lengths[0], across / lengths[1]])


def _turned(ring: Floats, *, hole: bool) -> Floats:
    """Return a ring counter-clockwise, or clockwise when it is a hole."""
    return ring[::-1] if (ring_area(ring) < 0) != hole else ring


def _bounding(mesh: Mesh, cut: _Divided) -> Faces:
    """Return the triangles with nothing on their outer side and material on their inner."""
    patch = _patches(cut.faces)
    corners = cut.vertices[cut.faces]
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    order = np.lexsort((-areas, patch))
    largest = order[np.flatnonzero(np.diff(patch[order], prepend=-1))]
    kept = np.zeros(len(largest), dtype=bool)
    every = np.arange(mesh.triangles)
    for number, triangle in enumerate(largest.tolist()):
        # Seen from a face itself, the others wind half a turn more than seen from outside of it.
        others = np.delete(every, cut.origin[triangle])
        middle = corners[triangle].mean(axis=0)[None]
        kept[number] = round(float(winding_numbers(mesh, others, middle)[0]) - 0.5) == 0
    return cut.faces[kept[patch]]


def _patches(faces: Faces) -> Indices:
    """Return, per triangle, the number of the patch between cuts that it belongs to."""
    _, edge, uses = np.unique(_edge_keys(faces).ravel(), return_inverse=True, return_counts=True)
    owner = np.repeat(np.arange(len(faces)), 3)
    sides = np.flatnonzero(uses[edge] == 2)
    order = sides[np.argsort(edge[sides], kind="stable")]
    a, b = owner[order[::2]], owner[order[1::2]]
    return connected_components(len(faces), a, b)[1]
