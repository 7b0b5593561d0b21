"""This module says what keeps a mesh from being a closed solid that faces outward, and where."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.crossings import crossing_faces
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.body import Body, Health
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3

_PLACES = 40
CROSSINGS_UP_TO = 100_000
"""Triangles: larger meshes are looked over for crossings only when asked."""


def health_of(mesh: Mesh, *, thorough: bool = False) -> Health:
    """Look a mesh over.

    Args:
        mesh: one body.
        thorough: look for faces that cut through each other however large the mesh is.
    """
    zero = np.flatnonzero(mesh.areas == 0)
    large = mesh.triangles > CROSSINGS_UP_TO and not thorough
    if large and mesh.sound_shells is not None and not len(zero):
        return Health(closed=True, shells=mesh.sound_shells)
    topology = mesh.topology
    open_edges = np.flatnonzero(topology.edge_valence == 1)
    non_manifold = np.flatnonzero(topology.edge_valence > 2)
    inconsistent = np.flatnonzero(topology.inconsistent)
    doubles = duplicates(mesh) if len(non_manifold) or len(zero) else np.empty(0, np.int64)
    crossing = None if large else crossing_faces(mesh)
    holes, hole_places = _holes(mesh, open_edges)
    places = {
        "open-edges": hole_places,
        "crowded-edges": _middles(mesh.vertices, topology.ends, non_manifold),
        "turned-edges": _middles(mesh.vertices, topology.ends, inconsistent),
        "zero-area": mesh.vertices[mesh.faces[zero, 0]],
        "duplicates": mesh.vertices[mesh.faces[doubles, 0]],
        "crossings": _centroids(mesh, crossing),
    }
    return Health(
        closed=topology.closed,
        open_edges=len(open_edges),
        holes=holes,
        crowded_edges=len(non_manifold),
        turned_edges=len(inconsistent),
        zero_area=len(zero),
        duplicates=len(doubles),
        seams=_seams(mesh, open_edges),
        crossings=None if crossing is None else len(crossing),
        shells=topology.shells,
        places={code: _some(points) for code, points in places.items() if len(points)},
    )


def _some(points: Floats) -> tuple[Vec3, ...]:
    """Return some of many points, spread over all of them."""
    step = max(1, len(points) // _PLACES)
    return tuple(as_vec3(point) for point in points[::step][:_PLACES])


def _centroids(mesh: Mesh, faces: NDArray[np.int64] | None) -> Floats:
    if faces is None or not len(faces):
        return np.empty((0, 3))
    return np.asarray(mesh.vertices[mesh.faces[faces]].mean(axis=1))


def duplicates(mesh: Mesh) -> NDArray[np.int64]:
    """Return the faces that have the same three corners as an earlier one."""
    corners = np.sort(mesh.faces, axis=1)
    _, first = np.unique(corners, axis=0, return_index=True)
    extra = np.ones(mesh.triangles, dtype=bool)
    extra[first] = False
    return np.flatnonzero(extra)


def _middles(vertices: Floats, ends: NDArray[np.int32], edges: NDArray[np.int64]) -> Floats:
    return np.asarray(vertices[ends[edges]].mean(axis=1)) if len(edges) else np.empty((0, 3))


def _holes(mesh: Mesh, open_edges: NDArray[np.int64]) -> tuple[int, Floats]:
    """Count the rims that open edges form, and return a point of each edge."""
    if not len(open_edges):
        return 0, np.empty((0, 3))
    ends = mesh.topology.ends[open_edges]
    used, index = np.unique(ends, return_inverse=True)
    index = index.reshape(-1, 2)
    count, label = connected_components(len(used), *index.T)
    middle = np.stack([np.bincount(label, mesh.vertices[used, k]) for k in range(3)], axis=1)
    return count, middle / np.bincount(label)[:, None]


def _seams(mesh: Mesh, open_edges: NDArray[np.int64]) -> int:
    """Count open edges whose ends lie upon those of another: seams that were never welded."""
    if not len(open_edges):
        return 0
    ends = mesh.topology.ends[open_edges]
    size = float(mesh.extents().max()) or 1.0
    grid = np.round(mesh.vertices[ends] / (1e-5 * size)).astype(np.int64)
    flipped = grid[:, ::-1]
    swap = (grid.reshape(len(grid), -1) > flipped.reshape(len(grid), -1)).argmax(axis=1) < 3
    key = np.where(swap[:, None, None], flipped, grid).reshape(len(grid), -1)
    _, counts = np.unique(key, axis=0, return_counts=True)
    return int(counts[counts > 1].sum())


_NO_THICKNESS = 1e-9
"""A body thinner than this share of its longest extent encloses nothing; a wire half a metre long and 0.01
mm thick is 5000 times thicker.
"""


def is_without_volume(body: Body) -> bool:
    """Tell whether a body encloses nothing, but for what rounding leaves between two faces back to back."""
    sizes = np.subtract(body.high, body.low)
    room = body.area * sizes.max() * _NO_THICKNESS
    return bool(abs(body.volume) <= room) or bool((sizes <= 0).any())
