"""This module says how faces hang together: edges, closedness, shells.

Faces are neighbours when they share an edge, that is both of its vertices; being
near each other does not count. Where more than two faces share an edge, those are
neighbours that bound the same wedge of material, so two solids that only touch along
an edge stay two, and one solid that touches itself stays one.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.connected_components import connected_components

_AT_ONCE = 1 << 16
_UPON = 1e-5
"""Faces around an edge lie upon each other when the angle between them, in radians, is below this."""


@dataclass(frozen=True, eq=False)
class Topology:
    """The edges of a mesh, each once, with what touches them.

    Attributes:
        ends: (e, 2) int32, the vertices of each edge, lower index first.
        edge_valence: (e,) how many faces use the edge.
        orientation_sum: (e,) half-edges in one direction less those in the other; 0 on a closed surface.
        first_half_edge: (e,) where the half-edges of each edge begin in ``half_edge_faces``.
        half_edge_faces: (s,) the face of every half-edge, edge after edge.
        shells: how many separate pieces the faces form.
        shell_of_face: (m,) the piece each face belongs to.
    """

    ends: NDArray[np.int32]
    edge_valence: NDArray[np.int32]
    orientation_sum: NDArray[np.int32]
    first_half_edge: NDArray[np.int32]
    half_edge_faces: NDArray[np.int32]
    shells: int
    shell_of_face: NDArray[np.int32]

    @property
    def open_edges(self) -> int:
        """Edges that only one face uses: the rims of holes."""
        return int((self.edge_valence == 1).sum())

    @property
    def non_manifold_edges(self) -> int:
        """Edges that more than two faces use."""
        return int((self.edge_valence > 2).sum())

    @property
    def inconsistent(self) -> NDArray[np.bool_]:
        """(e,): edges whose two faces run along them the same way."""
        return np.asarray((self.edge_valence == 2) & (self.orientation_sum != 0))

    @property
    def inconsistent_edges(self) -> int:
        """Edges whose two faces run along them the same way: one of the two is turned over."""
        return int(self.inconsistent.sum())

    @property
    def closed(self) -> bool:
        """Whether the faces bound a volume: every edge is run along as often each way."""
        return not self.orientation_sum.any()

    def faces_of(self, edges: NDArray[np.integer]) -> NDArray[np.int32]:
        """Return (k, 2): the first two faces of edges that have at least two."""
        start = self.first_half_edge[edges]
        return np.stack([self.half_edge_faces[start], self.half_edge_faces[start + 1]], axis=1)


@dataclass(frozen=True, eq=False)
class _HalfEdges:
    """All half-edges of all faces, sorted so that those of one edge are together.

    Attributes:
        face: (s,) the face of each half-edge.
        forward: (s,) whether it runs from the lower vertex to the higher.
        same: (s - 1,) whether a half-edge lies on the same edge as the one before it.
        starts: (e,) where each edge begins among the half-edges.
        ends: (e, 2) the vertices of each edge, lower index first.
    """

    face: NDArray[np.int32]
    forward: NDArray[np.bool_]
    same: NDArray[np.bool_]
    starts: NDArray[np.int32]
    ends: NDArray[np.int32]


def topology_of(faces: NDArray[np.int32], vertices: NDArray[np.float64]) -> Topology:
    """Find the edges of (m, 3) faces; faces with a repeated vertex take no part.

    Args:
        faces: indices into ``vertices``.
        vertices: (n, 3); only where more than two faces meet does their place matter.
    """
    half_edges = _half_edges(faces, len(vertices))
    valence = np.diff(half_edges.starts, append=np.int32(len(half_edges.face)))
    count, label = _shells(faces, vertices, half_edges, valence)
    return Topology(
        ends=half_edges.ends,
        edge_valence=valence,
        orientation_sum=_orientation_sum(half_edges.forward, half_edges.starts, valence),
        first_half_edge=half_edges.starts,
        half_edge_faces=half_edges.face,
        shells=count,
        shell_of_face=label,
    )


def _half_edges(faces: NDArray[np.int32], vertices: int) -> _HalfEdges:
    a, b, c = (np.ascontiguousarray(faces[:, k]) for k in range(3))
    proper = (a != b) & (b != c) & (c != a)
    if proper.all():
        numbers = np.arange(len(faces), dtype=np.uint64)
    else:
        numbers = np.flatnonzero(proper).astype(np.uint64)
        a, b, c = a[proper], b[proper], c[proper]
    bits_vertex, bits_face = int(vertices).bit_length(), len(faces).bit_length()
    if 2 * bits_vertex + bits_face + 1 <= 64:
        return _half_edges_packed(a, b, c, numbers, bits_vertex, bits_face)
    return _sides_ordered(a, b, c, numbers)


def _half_edges_packed(
    a: NDArray[np.int32],
    b: NDArray[np.int32],
    c: NDArray[np.int32],
    numbers: NDArray[np.uint64],
    bits_vertex: int,
    bits_face: int,
) -> _HalfEdges:
    """Sort half-edges packed into 64 bits with edge, face and direction: far faster than an argsort."""
    n, shift = len(a), np.uint64(bits_vertex)
    one, tail = np.uint64(1), np.uint64(bits_face + 1)
    keys = np.empty(3 * n, np.uint64)
    for k, (start, end) in enumerate(((a, b), (b, c), (c, a))):
        for some in _some_at_a_time(n):
            key = keys[k * n : (k + 1) * n][some]
            key[:] = np.minimum(start[some], end[some])
            key <<= shift
            key |= np.maximum(start[some], end[some]).astype(np.uint64)
            key <<= tail
            key |= numbers[some] << one
            key |= start[some] < end[some]
    keys.sort()
    forward, face = np.empty(3 * n, bool), np.empty(3 * n, np.int32)
    for some in _some_at_a_time(3 * n):
        forward[some] = keys[some] & one
        face[some] = (keys[some] >> one) & np.uint64((1 << bits_face) - 1)
        keys[some] >>= tail
    same = keys[1:] == keys[:-1]
    starts = _starts(same, len(keys))
    keys = keys[starts]
    ends = np.empty((len(keys), 2), np.int32)
    for some in _some_at_a_time(len(keys)):
        ends[some, 0] = keys[some] >> shift
        ends[some, 1] = keys[some] & np.uint64((1 << bits_vertex) - 1)
    return _HalfEdges(face, forward, same, starts, ends)


def _some_at_a_time(count: int) -> Iterator[slice]:
    """Go over long columns in parts that stay near the processor from one step to the next."""
    return (slice(start, min(start + _AT_ONCE, count)) for start in range(0, count, _AT_ONCE))


def _starts(same: NDArray[np.bool_], half_edges: int) -> NDArray[np.int32]:
    first = np.ones(half_edges, dtype=bool)
    np.logical_not(same, out=first[1:])
    return np.flatnonzero(first).astype(np.int32)


def _sides_ordered(
    a: NDArray[np.int32], b: NDArray[np.int32], c: NDArray[np.int32], numbers: NDArray[np.uint64]
) -> _HalfEdges:
    """Sort half-edges of meshes too large for packing."""
    start, end = np.concatenate([a, b, c]), np.concatenate([b, c, a])
    key = (np.minimum(start, end).astype(np.int64) << 32) | np.maximum(start, end)
    order = np.argsort(key)
    key = key[order]
    face = np.concatenate([numbers] * 3)[order].astype(np.int32)
    forward = (start < end)[order]
    same = key[1:] == key[:-1]
    starts = _starts(same, len(key))
    key = key[starts]
    ends = np.stack([(key >> 32).astype(np.int32), (key & 0xFFFFFFFF).astype(np.int32)], axis=1)
    return _HalfEdges(face, forward, same, starts, ends)


def _all_in_pairs(valence: NDArray[np.int32], half_edges: int) -> bool:
    """Whether every edge has two half-edges, as in most meshes: then they stand two by two."""
    return half_edges == 2 * len(valence) and bool((valence == 2).all())


def _orientation_sum(
    forward: NDArray[np.bool_], starts: NDArray[np.int32], valence: NDArray[np.int32]
) -> NDArray[np.int32]:
    if not len(starts):
        return np.empty(0, np.int32)
    if _all_in_pairs(valence, len(forward)):  # This path needs no reduction.
        pairs = forward.reshape(-1, 2)
        return pairs[:, 0].astype(np.int32) + pairs[:, 1] - 1 << 1
    return 2 * np.add.reduceat(forward.astype(np.int32), starts).astype(np.int32) - valence


def _shells(
    faces: NDArray[np.int32],
    vertices: NDArray[np.float64],
    half_edges: _HalfEdges,
    valence: NDArray[np.int32],
) -> tuple[int, NDArray[np.int32]]:
    if _all_in_pairs(valence, len(half_edges.face)):
        count, label = connected_components(len(faces), half_edges.face[::2], half_edges.face[1::2])
        return count, label.astype(np.int32)
    one, other = half_edges.face[:-1][half_edges.same], half_edges.face[1:][half_edges.same]
    crowded = np.flatnonzero(valence > 2)
    if len(crowded):
        plain = np.repeat(valence == 2, valence)[:-1][half_edges.same]
        wedges = np.concatenate(
            [_wedges(faces, vertices, half_edges, int(e), int(valence[e])) for e in crowded]
        )
        one = np.concatenate([one[plain], wedges[:, 0]])
        other = np.concatenate([other[plain], wedges[:, 1]])
    count, label = connected_components(len(faces), one, other)
    return count, label.astype(np.int32)


def _wedges(
    faces: NDArray[np.int32],
    vertices: NDArray[np.float64],
    half_edges: _HalfEdges,
    edge_number: int,
    valence: int,
) -> NDArray[np.int32]:
    """Pair the faces around a crowded edge that bound the same wedge of material.

    Looking along the edge, material lies counter-clockwise of a face that runs against the edge and
    clockwise of one that runs with it. Where directions do not alternate, all faces are neighbours.
    """
    start = int(half_edges.starts[edge_number])
    here = slice(start, start + valence)
    around, forward = half_edges.face[here], half_edges.forward[here]
    low, high = half_edges.ends[edge_number]
    edge = vertices[high] - vertices[low]
    corners = faces[around]
    third = corners.sum(axis=1) - low - high
    across = vertices[third] - vertices[low]
    across = across - np.outer(across @ edge, edge) / max(float(edge @ edge), 1e-300)
    u = across[0]
    v = np.cross(edge, u)
    angle = np.arctan2(across @ v * np.linalg.norm(u), across @ u * np.linalg.norm(v))
    order = _turning(angle, forward)
    around, forward = around[order], forward[order]
    if valence % 2 or (forward == np.roll(forward, 1)).any():
        return np.stack([around[:-1], around[1:]], axis=1)
    begin = np.flatnonzero(~forward)
    return np.stack([around[begin], around[(begin + 1) % valence]], axis=1)


def _turning(angle: NDArray[np.float64], forward: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Order faces around an edge by angle; of two upon each other the one that ends its wedge goes first.

    Two solids that share a face have such pairs: the wedge of the one ends where that of the other begins.
    """
    order = np.argsort(angle, kind="stable")
    turned = angle[order]
    steps = np.diff(turned, append=turned[0] + 2 * np.pi)
    gap = int(np.argmax(steps))
    order = np.roll(order, -gap - 1)  # The order begins behind the widest gap, so that no pair is cut in two.
    step = np.roll(steps, -gap - 1)[:-1]
    group = np.concatenate([[0], np.cumsum(step > _UPON)])
    return order[np.lexsort((~forward[order], group))]


def feature_edges(topology: Topology, crosses: NDArray[np.float64], sharper_than: float) -> NDArray[np.int32]:
    """Return the (k, 2) edges worth inking: rims, crowded edges, and folds.

    Args:
        topology: of the mesh.
        crosses: (m, 3) face normals of any length.
        sharper_than: radians between the normals of two faces from which an edge counts.
    """
    length = np.sqrt(np.einsum("ij,ij->i", crosses, crosses))
    # Single precision tells folds from flats well enough, and gathers twice as fast.
    unit = np.divide(crosses, length[:, None], out=np.zeros_like(crosses), where=length[:, None] > 0)
    unit32 = unit.astype(np.float32)
    inked = topology.edge_valence != 2
    paired = np.flatnonzero(~inked)
    a, b = topology.faces_of(paired).T
    cosine = np.einsum("ij,ij->i", unit32[a], unit32[b]) * np.where(
        topology.orientation_sum[paired] == 0, 1, -1
    )
    flat = (length[a] == 0) | (length[b] == 0)  # A zero-area face has no direction to fold from.
    inked[paired] = (cosine < np.cos(sharper_than)) & ~flat
    return np.asarray(topology.ends[inked])
