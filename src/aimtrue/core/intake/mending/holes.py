"""Patches for holes: flat where the rim is flat, else a thin plate through rim and surroundings."""

from __future__ import annotations

import numpy as np
import scipy
from numpy.typing import NDArray
from shapely import Polygon, contains_xy

from aimtrue.core.mesh.arrays import ring_area
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.polygons import ears

_FLAT = 1e-4
"""A rim that leaves its plane by less than this share of its width is flat."""
_MOST_CORNERS = 4000
_MOST_INNER = 20_000


def patches(mesh: Mesh) -> tuple[Floats, NDArray[np.int32]]:
    """Return the new vertices and faces that close every rim which forms a loop.

    Returns:
        (k, 3) vertices to append, and faces that number vertices of the mesh first, then those.
    """
    points: list[Floats] = []
    faces: list[NDArray[np.int64]] = []
    new = len(mesh.vertices)
    for loop in rims(mesh):
        inner, patch = _patch(mesh, loop, new)
        points.append(inner)
        faces.append(patch)
        new += len(inner)
    if not faces:
        return np.empty((0, 3)), np.empty((0, 3), np.int32)
    return np.concatenate(points), np.concatenate(faces).astype(np.int32)


def rims(mesh: Mesh) -> list[NDArray[np.int64]]:
    """Return the loops of open edges, each running the way a patch must, so that it faces outward."""
    topology = mesh.topology
    rim = np.flatnonzero(topology.edge_valence == 1)
    forward = topology.orientation_sum[rim] > 0
    ends = topology.ends[rim].astype(np.int64)
    # A face runs along its open edge one way; the patch runs along it the other way.
    start = np.where(forward, ends[:, 1], ends[:, 0])
    stop = np.where(forward, ends[:, 0], ends[:, 1])
    following: dict[int, list[int]] = {}
    for a, b in zip(start.tolist(), stop.tolist(), strict=True):
        following.setdefault(a, []).append(b)
    loops = []
    while following:
        first = next(iter(following))
        path, seen = [first], {first: 0}
        while True:
            nexts = following.get(path[-1])
            if not nexts:
                following.pop(path[-1], None)
                break
            step = nexts.pop()
            if not nexts:
                del following[path[-1]]
            if step in seen:  # A loop closes here; a pinched rim gives several.
                loop = path[seen[step] :]
                if 3 <= len(loop) <= _MOST_CORNERS:
                    loops.append(np.array(loop))
                for gone in path[seen[step] + 1 :]:
                    del seen[gone]
                path = path[: seen[step] + 1]
                if len(path) == 1 and path[0] not in following:
                    break
            else:
                seen[step] = len(path)
                path.append(step)
    return loops


def _patch(mesh: Mesh, loop: NDArray[np.int64], new: int) -> tuple[Floats, NDArray[np.int64]]:
    rim = mesh.vertices[loop]
    middle = rim.mean(axis=0)
    _, spread, axes = np.linalg.svd(rim - middle, full_matrices=False)
    flat = (rim - middle) @ axes[:2].T
    height = (rim - middle) @ axes[2]
    if np.abs(height).max() > _FLAT * max(spread[0], 1e-300) and len(loop) > 6:
        curved = _curved(mesh, loop, middle, axes, flat, new)
        if curved is not None:
            return curved
    return np.empty((0, 3)), ears(loop, mesh.vertices)


def _curved(
    mesh: Mesh, loop: NDArray[np.int64], middle: Floats, axes: Floats, flat: Floats, new: int
) -> tuple[Floats, NDArray[np.int64]] | None:
    """Fill a rim over a thin plate spline; None when the rim does not lie open above its plane."""
    outline = Polygon(flat)
    if not outline.is_valid or outline.area <= 0:
        return None
    step = float(np.linalg.norm(np.roll(flat, -1, axis=0) - flat, axis=1).mean())
    inner = _grid(outline, step)
    around = _surroundings(mesh, loop)
    known = np.unique(np.concatenate([loop, around]))
    base = (mesh.vertices[known] - middle) @ axes[:2].T
    near = np.unique(np.round(base / (1e-6 * step)), axis=0, return_index=True)[1]
    known, base = known[near], base[near]
    plate = scipy.interpolate.RBFInterpolator(
        base,
        (mesh.vertices[known] - middle) @ axes[2],
        kernel="thin_plate_spline",
        neighbors=min(60, len(known)),
    )
    net = scipy.spatial.Delaunay(np.concatenate([flat, inner]))
    triangles = net.simplices
    centres = net.points[triangles].mean(axis=1)
    triangles = triangles[contains_xy(outline, centres[:, 0], centres[:, 1])]
    if not _has_rim(triangles, len(loop)):
        return None
    u, v = (
        net.points[triangles[:, 1]] - net.points[triangles[:, 0]],
        net.points[triangles[:, 2]] - net.points[triangles[:, 0]],
    )
    turned = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0] < 0
    triangles[turned] = triangles[turned][:, ::-1]
    if ring_area(flat) < 0:
        triangles = triangles[:, ::-1]
    points = middle + inner @ axes[:2] + np.outer(plate(inner), axes[2]) if len(inner) else np.empty((0, 3))
    number = np.concatenate([loop, new + np.arange(len(inner))])
    return points, number[triangles]


def _grid(outline: Polygon, step: float) -> Floats:
    """Points inside an outline, about a step apart and half a step from the rim, in rows set off."""
    x0, y0, x1, y1 = outline.bounds
    step = max(step, float(np.sqrt((x1 - x0) * (y1 - y0) / _MOST_INNER)))
    rows = np.arange(y0, y1, step * 0.866)
    points = np.concatenate(
        [
            np.column_stack(
                [
                    np.arange(x0 + (k % 2) * step / 2, x1, step),
                    np.full(len(np.arange(x0 + (k % 2) * step / 2, x1, step)), y),
                ]
            )
            for k, y in enumerate(rows)
        ]
    )
    inside = outline.buffer(-0.6 * step)
    if inside.is_empty:
        return np.empty((0, 2))
    return np.asarray(points[contains_xy(inside, points[:, 0], points[:, 1])])


def _surroundings(mesh: Mesh, loop: NDArray[np.int64]) -> NDArray[np.int64]:
    """The vertices within two rings of faces around a rim: they give the patch its slope."""
    marked = np.zeros(len(mesh.vertices), dtype=bool)
    marked[loop] = True
    for _ in range(2):
        touching = marked[mesh.faces].any(axis=1)
        marked[mesh.faces[touching].ravel()] = True
    return np.flatnonzero(marked)


def _has_rim(triangles: NDArray[np.int32], corners: int) -> bool:
    """Whether the open edges of the patch are just the sides of its rim."""
    sides = np.sort(
        np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1
    )
    edges, counts = np.unique(sides, axis=0, return_counts=True)
    rim = {tuple(edge) for edge in edges[counts == 1].tolist()}
    wanted = {tuple(sorted((k, (k + 1) % corners))) for k in range(corners)}
    return rim == wanted
