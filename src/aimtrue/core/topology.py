"""How faces hang together: edges, closedness, shells.

Faces are neighbours when they share an edge, that is both of its vertices; being
near each other does not count.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components


@dataclass(frozen=True, eq=False)
class Topology:
    """The edges of a mesh, each once, with what touches them.

    Attributes:
        ends: (e, 2) int32, the vertices of each edge, lower index first.
        uses: (e,) how many faces use the edge.
        balance: (e,) uses in one direction less uses in the other; 0 on a closed surface.
        face_pairs: (p, 2) faces that share an edge.
        shells: how many separate pieces the faces form.
        shell_of_face: (m,) the piece each face belongs to.
    """

    ends: NDArray[np.int32]
    uses: NDArray[np.int64]
    balance: NDArray[np.int64]
    face_pairs: NDArray[np.int64]
    pair_of_edge: NDArray[np.int64]
    shells: int
    shell_of_face: NDArray[np.int32]

    @property
    def open_edges(self) -> int:
        """Edges that only one face uses: the rims of holes."""
        return int((self.uses == 1).sum())

    @property
    def crowded_edges(self) -> int:
        """Edges that more than two faces use."""
        return int((self.uses > 2).sum())

    @property
    def turned_edges(self) -> int:
        """Edges whose two faces run along them the same way: one of the two is turned over."""
        return int(((self.uses == 2) & (self.balance != 0)).sum())

    @property
    def closed(self) -> bool:
        """Whether the faces bound a volume: every edge is run along as often each way."""
        return bool((self.balance == 0).all())


def topology_of(faces: NDArray[np.int32]) -> Topology:
    """Find the edges of (m, 3) faces; faces with a repeated vertex take no part."""
    after = faces[:, [1, 2, 0]]
    proper = (faces != after).all(axis=1)
    numbers = np.flatnonzero(proper)
    if len(numbers) < len(faces):
        used, after = faces[proper], after[proper]
    else:
        used = faces
    low, high = np.minimum(used, after).ravel(), np.maximum(used, after).ravel()
    key = (low.astype(np.int64) << 32) | high
    order = np.argsort(key)
    key = key[order]
    starts = np.flatnonzero(np.concatenate([[True], key[1:] != key[:-1]])) if len(key) else np.empty(0, int)
    direction = np.where((used.ravel() == low)[order], 1, -1)
    uses = np.diff(np.append(starts, len(key)))
    balance = np.add.reduceat(direction, starts) if len(starts) else np.empty(0, np.int64)
    face_of_side = numbers[order // 3]
    joined = np.flatnonzero(key[1:] == key[:-1])
    pairs = np.stack([face_of_side[joined], face_of_side[joined + 1]], axis=1)
    count, label = _components(len(faces), pairs)
    first_pair = np.searchsorted(joined, starts)
    return Topology(
        ends=sides_sorted(low, high, order, starts),
        uses=uses,
        balance=balance,
        face_pairs=pairs,
        pair_of_edge=np.where(uses >= 2, first_pair, -1),
        shells=count,
        shell_of_face=label,
    )


def sides_sorted(
    low: NDArray[np.int64], high: NDArray[np.int64], order: NDArray[np.int64], starts: NDArray[np.int64]
) -> NDArray[np.int32]:
    """Return (e, 2): the end vertices of each edge, in the order of the sorted keys."""
    first = order[starts]
    return np.stack([low[first], high[first]], axis=1).astype(np.int32)


def feature_edges(topology: Topology, crosses: NDArray[np.float64], sharper_than: float) -> NDArray[np.int32]:
    """Return the (k, 2) edges worth inking: rims, crowded edges, and folds.

    Args:
        topology: of the mesh.
        crosses: (m, 3) face normals of any length.
        sharper_than: radians between the normals of two faces from which an edge counts.
    """
    length = np.linalg.norm(crosses, axis=1, keepdims=True)
    # Single precision tells folds from flats well enough, and gathers twice as fast.
    unit = np.divide(crosses, length, out=np.zeros_like(crosses), where=length > 0).astype(np.float32)
    inked = topology.uses != 2
    paired = np.flatnonzero(~inked)
    a, b = topology.face_pairs[topology.pair_of_edge[paired]].T
    cosine = np.einsum("ij,ij->i", unit[a], unit[b]) * np.where(topology.balance[paired] == 0, 1, -1)
    flat = (length[a, 0] == 0) | (length[b, 0] == 0)  # a zero-area face has no direction to fold from
    inked[paired] = (cosine < np.cos(sharper_than)) & ~flat
    return np.asarray(topology.ends[inked])


def _components(faces: int, pairs: NDArray[np.int64]) -> tuple[int, NDArray[np.int32]]:
    ones = np.ones(len(pairs), dtype=np.int8)
    graph = coo_matrix((ones, (pairs[:, 0], pairs[:, 1])), shape=(faces, faces))
    count, label = connected_components(graph, directed=False)
    return int(count), label
