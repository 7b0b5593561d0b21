"""Faces that cut through each other.

Two triangles that share no corner cross when an edge of one passes through the inside of the
other. A ray along every edge, through Embree's tree of boxes, finds the few pairs worth a look;
whether they truly cross is then decided by volumes in float64 (Segura and Feito, 2001).
"""

from __future__ import annotations

import numpy as np
from embreex import rtcore_scene
from embreex.mesh_construction import TriangleMesh
from numpy.typing import NDArray

from aimtrue.core.mesh.arrays import runs_of
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.topology import Topology

_RAYS_AT_ONCE = 500_000
_MOST_HITS = 64
"""Along one edge: an edge that passes through more faces than these is bad enough to be found by them."""
_CLEAR = 1e-3
"""This share of an edge is left out at both ends, where the faces that share its corners lie."""
_STEP = 1e-5
"""The next hit is looked for this share of the edge beyond the last."""


def crossing_faces(mesh: Mesh) -> NDArray[np.int64]:
    """Return the faces that another face of the mesh cuts, sharing no corner with it.

    Faces that only touch do not count, nor do those that cut less than a thousandth of an edge.
    """
    # A face that is there many times would be held against itself as often.
    _, kept = np.unique(_packed(mesh), return_index=True)
    once = mesh if len(kept) == mesh.triangles else Mesh(mesh.vertices, mesh.faces[np.sort(kept)])
    crossing = np.zeros(once.triangles, dtype=bool)
    if once.triangles >= 2 and float(once.extents().max()) > 0:
        _mark_crossings(once, crossing)
    return np.flatnonzero(crossing) if once is mesh else np.sort(kept)[crossing]


def _packed(mesh: Mesh) -> NDArray[np.void]:
    """One comparable value per face, whichever corner comes first."""
    ordered = np.sort(mesh.faces, axis=1)
    return np.asarray(ordered.view([("", ordered.dtype)] * 3).ravel())


def _mark_crossings(mesh: Mesh, crossing: NDArray[np.bool_]) -> None:
    topology = mesh.topology
    scene = _scene(mesh)
    for start in range(0, len(topology.ends), _RAYS_AT_ONCE):
        edges = np.arange(start, min(start + _RAYS_AT_ONCE, len(topology.ends)))
        for edge, face in _hits(scene, mesh, topology.ends, edges):
            through = _pierced(mesh, topology.ends[edge], face)
            _mark(mesh, topology, edge[through], face[through], crossing)


def _scene(mesh: Mesh) -> rtcore_scene.EmbreeScene:
    scene = rtcore_scene.EmbreeScene(robust=True)
    TriangleMesh(scene, _small(mesh, mesh.vertices).astype(np.float32), mesh.faces.astype(np.int32))
    return scene


def _small(mesh: Mesh, points: Floats) -> Floats:
    """Points about the middle of the mesh at a size of 1, where float32 has its best resolution."""
    bounds = mesh.bounds()
    return np.asarray((points - bounds.mean(axis=0)) / float(mesh.extents().max()))


def _hits(
    scene: rtcore_scene.EmbreeScene, mesh: Mesh, ends: NDArray[np.int32], edges: NDArray[np.int64]
) -> list[tuple[NDArray[np.int64], NDArray[np.int64]]]:
    """Return pairs of edges and faces they come across without sharing a corner."""
    first = _small(mesh, mesh.vertices[ends[edges, 0]])
    along = _small(mesh, mesh.vertices[ends[edges, 1]]) - first
    at = np.full(len(edges), _CLEAR)
    open_ = np.flatnonzero(np.abs(along).max(axis=1) > 0)
    result = []
    for _ in range(_MOST_HITS):
        if not len(open_):
            break
        origins = (first[open_] + at[open_, None] * along[open_]).astype(np.float32)
        rest = (1 - _CLEAR - at[open_]).astype(np.float32)
        hit = scene.run(origins, along[open_].astype(np.float32), rest, query="INTERSECT", output=True)
        face = np.asarray(hit["primID"])
        struck = face >= 0
        open_, face = open_[struck], face[struck].astype(np.int64)
        at[open_] += np.asarray(hit["tfar"])[struck] + _STEP
        apart = ~(mesh.faces[face][:, :, None] == ends[edges[open_]][:, None, :]).any(axis=(1, 2))
        result.append((edges[open_[apart]], face[apart]))
        open_ = open_[at[open_] < 1 - _CLEAR]
    return result


def _mark(
    mesh: Mesh,
    topology: Topology,
    edge: NDArray[np.int64],
    face: NDArray[np.int64],
    crossing: NDArray[np.bool_],
) -> None:
    """Mark faces that are passed through, and those on the edge that share no corner with them."""
    uses = topology.edge_valence[edge]
    side = runs_of(topology.first_half_edge[edge], uses)
    owner, pierced = topology.half_edge_faces[side], np.repeat(face, uses)
    apart = ~(mesh.faces[owner][:, :, None] == mesh.faces[pierced][:, None, :]).any(axis=(1, 2))
    crossing[owner[apart]] = True
    crossing[pierced[apart]] = True


def _pierced(mesh: Mesh, edge: NDArray[np.int32], face: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Whether (k, 2) edges pass through the inside of (k,) faces."""
    p, q = mesh.vertices[edge[:, 0]], mesh.vertices[edge[:, 1]]
    a, b, c = (mesh.vertices[mesh.faces[face, k]] for k in range(3))
    size = np.maximum(
        np.abs(q - p).max(axis=1, initial=0), np.abs([b - a, c - a]).max(axis=(0, 2), initial=0)
    )
    zero = 1e-9 * size**3
    over, under = volumes(a, b, c, p), volumes(a, b, c, q)
    through = ((over > zero) & (under < -zero)) | ((over < -zero) & (under > zero))
    u, v, w = volumes(p, q, a, b), volumes(p, q, b, c), volumes(p, q, c, a)
    inside = ((u > zero) & (v > zero) & (w > zero)) | ((u < -zero) & (v < -zero) & (w < -zero))
    return np.asarray(through & inside)


def volumes(a: Floats, b: Floats, c: Floats, d: Floats) -> Floats:
    """Return (k,): six times the signed volumes of tetrahedra with (k, 3) corners."""
    u, v, w = b - a, c - a, d - a
    return np.asarray(
        w[:, 0] * (u[:, 1] * v[:, 2] - u[:, 2] * v[:, 1])
        + w[:, 1] * (u[:, 2] * v[:, 0] - u[:, 0] * v[:, 2])
        + w[:, 2] * (u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0])
    )
