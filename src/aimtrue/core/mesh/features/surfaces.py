"""Flat and round faces of a mesh: what a gauge can be taken on.

A mesh only has facets. A *flat face* is facets of one plane that hang together; a *round face* is
facets that bend steadily about one axis. The corners of facets lie on the surface they were cut from,
so a circle through corners gives its true diameter, where the middles of facets would lose some.
"""

from __future__ import annotations

from math import radians

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.directions import snapped
from aimtrue.core.mesh.features.circle_fit import Indices, fit_circle, turn_about
from aimtrue.core.mesh.features.faces import FlatFace, RoundFace, Thread
from aimtrue.core.mesh.features.threads import thread_of
from aimtrue.core.mesh.mesh import Floats, Mesh

_FOLDED = 1e-6
"""The area vectors of a flat face add up to no less than this share of its area."""
_LEVEL = radians(0.05)
"""Facets that turn less than this are of one plane."""
_SMOOTH = radians(32)
"""Facets that turn less than this may be of one round face."""
_GENTLE = radians(13)
"""Facets that turn less than this stay together where a patch is no one round face, as CAD's cylinders do."""
_LEAST_FACETS = 4
_ROUND = 3e-3
"""How far, of its radius, a round face may be from the circle fitted to it."""
_PLAIN = 2.5
"""A facet that is so many times as large as those it bends into is a flat face of its own."""


def surfaces(mesh: Mesh) -> tuple[list[FlatFace], list[RoundFace], list[Thread]]:
    """Find the flat and round faces and the threads of a mesh, each the largest first.

    Facets that belong to none (cones, spheres, free forms, scans) are left out.
    """
    normals = _normals(mesh)
    a, b, angle, length = _folds(mesh, normals)
    level = angle < _LEVEL
    facet = _components(a[level], b[level], mesh.triangles)
    plain = _plain_facets(mesh, facet, a, b, angle, length)
    flats = [flat for faces in _members(facet, plain) if (flat := _flat(mesh, normals, faces)) is not None]
    bending = ~plain[facet]
    joined = (angle < _SMOOTH) & bending[a] & bending[b]
    patch = _components(a[joined], b[joined], mesh.triangles)
    rounds, threads, left = _rounds_and_threads(mesh, normals, patch, bending)
    # A shallow chamfer bends into its cylinder: where a patch is neither, only what bends less stays.
    gentle = joined & (angle < _GENTLE) & left[a] & left[b]
    finer = _components(a[gentle], b[gentle], mesh.triangles)
    # What stays the same patch was looked at already.
    left &= np.bincount(finer)[finer] < np.bincount(patch)[patch]
    more, _, _ = _rounds_and_threads(mesh, normals, finer, left)
    rounds += more
    return (
        sorted(flats, key=lambda face: -face.area),
        sorted(rounds, key=lambda face: -face.area),
        sorted(threads, key=lambda thread: -thread.area),
    )


def _rounds_and_threads(
    mesh: Mesh, normals: Floats, patch: Indices, wanted: NDArray[np.bool_]
) -> tuple[list[RoundFace], list[Thread], NDArray[np.bool_]]:
    """Tell which patches of facets are cylinders or threads, and which facets are of neither.

    Args:
        mesh, normals: of all facets.
        patch: (m,) the patch that each facet is of.
        wanted: (m,) facets that are looked at.
    """
    facets_of = np.bincount(patch, minlength=int(patch.max(initial=-1)) + 1)
    rounds: list[RoundFace] = []
    threads: list[Thread] = []
    left = np.zeros(mesh.triangles, bool)
    for faces in _members(patch, facets_of >= _LEAST_FACETS):
        if not wanted[faces[0]]:
            continue
        if (cylinder := _round(mesh, normals, faces)) is not None:
            rounds.append(cylinder)
        elif (thread := thread_of(mesh, normals, faces)) is not None:
            threads.append(thread)
        else:
            left[faces] = True
    return rounds, threads, left


def _normals(mesh: Mesh) -> Floats:
    crosses = mesh.area_vectors
    length = np.sqrt(np.einsum("ij,ij->i", crosses, crosses))[:, None]
    return np.asarray(np.divide(crosses, length, out=np.zeros_like(crosses), where=length > 0))


def _folds(mesh: Mesh, normals: Floats) -> tuple[Indices, Indices, Floats, Floats]:
    """Return, per edge of two faces, those faces, the angle between them and the edge's length."""
    topology = mesh.topology
    paired = np.flatnonzero((topology.edge_valence == 2) & (topology.orientation_sum == 0))
    a, b = topology.faces_of(paired).T
    # The chord between two unit vectors tells small angles to the last digit, unlike their cosine.
    angle = 2 * np.arcsin(np.clip(np.linalg.norm(normals[a] - normals[b], axis=1) / 2, 0, 1))
    ends = mesh.vertices[topology.ends[paired]]
    length = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    # A facet without area has no direction; it goes with whatever it touches.
    angle[(mesh.areas[a] == 0) | (mesh.areas[b] == 0)] = 0
    return a.astype(np.int64), b.astype(np.int64), angle, length


def _components(a: Indices, b: Indices, count: int) -> Indices:
    return connected_components(count, a, b)[1]


def _plain_facets(
    mesh: Mesh, facet: Indices, a: Indices, b: Indices, angle: Floats, length: Floats
) -> NDArray[np.bool_]:
    """Tell, per facet, whether it is a flat face of its own rather than a step of a bend.

    A step of a bend has smooth neighbours of about its own area along most of its rim.
    """
    count = int(facet.max(initial=-1)) + 1
    area = np.bincount(facet, mesh.areas, count)
    rim = facet[a] != facet[b]
    smooth = rim & (angle < _SMOOTH)
    around = np.bincount(facet[a[rim]], length[rim], count) + np.bincount(facet[b[rim]], length[rim], count)
    bends = np.bincount(facet[a[smooth]], length[smooth], count)
    bends += np.bincount(facet[b[smooth]], length[smooth], count)
    near = np.zeros(count)
    np.maximum.at(near, facet[a[smooth]], area[facet[b[smooth]]])
    np.maximum.at(near, facet[b[smooth]], area[facet[a[smooth]]])
    return np.asarray((bends < 0.25 * around) | (area > _PLAIN * near))


def _members(label: Indices, wanted: NDArray[np.bool_]) -> list[Indices]:
    """Return the faces of every wanted label."""
    chosen = np.flatnonzero(wanted[label])
    if not len(chosen):
        return []
    order = chosen[np.argsort(label[chosen], kind="stable")]
    return np.split(order, np.flatnonzero(np.diff(label[order])) + 1)


def _flat(mesh: Mesh, normals: Floats, faces: Indices) -> FlatFace | None:
    areas = mesh.areas[faces]
    total = float(areas.sum())
    if total <= 0:
        return None
    way = areas @ normals[faces]
    if not np.linalg.norm(way) > _FOLDED * total:
        return None  # Rounding has folded the face onto itself, so it looks nowhere.
    normal = snapped(way)
    used = np.unique(mesh.faces[faces])
    points = mesh.vertices[used]
    middle = areas @ mesh.vertices[mesh.faces[faces]].mean(axis=1) / total
    lift = (points - middle) @ normal
    if np.abs(lift).max() > 1e-3 * np.sqrt(total) + _grain(points):
        return None
    return FlatFace(
        faces, normal, middle + normal * np.median(lift), total, float(np.ptp(lift)), used[_spanning(points)]
    )


def _spanning(points: Floats) -> Indices:
    """Three corners far apart: the ends of the longest reach, and the farthest from it."""
    far = points - points.mean(axis=0)
    first = int(np.einsum("ij,ij->i", far, far).argmax())
    second = int(np.linalg.norm(points - points[first], axis=1).argmax())
    run = points[second] - points[first]
    off = np.linalg.norm(np.cross(points - points[first], run), axis=1)
    return np.array([first, second, int(off.argmax())])


def _grain(points: Floats) -> float:
    """How coarse float32 is at these points."""
    return 8 * float(np.spacing(np.float32(np.abs(points).max())))


def _round(mesh: Mesh, normals: Floats, faces: Indices) -> RoundFace | None:
    """Fit a cylinder: its axis is square to all normals, its circle runs through the corners."""
    areas, across = mesh.areas[faces], normals[faces]
    spread = (across * areas[:, None]).T @ across / areas.sum()
    shares, axes = np.linalg.eigh(spread)
    if shares[0] > 1e-4 or shares[1] < 1e-4:  # The normals point all around, or all one way.
        return None
    axis = snapped(axes[:, 0])
    used = np.unique(mesh.faces[faces])
    points = mesh.vertices[used]
    fitted = fit_circle(points, axis)
    if fitted is None:
        return None
    centre, radius, off = fitted
    if off > _ROUND * radius + _grain(points):
        return None
    away = mesh.vertices[mesh.faces[faces]].mean(axis=1) - centre
    outward = np.einsum("ij,ij->i", away, across)
    if not (outward > 0).all() and not (outward < 0).all():
        return None
    along = (points - centre) @ axis
    turn, order = turn_about(points - centre, axis)
    if turn < radians(30):
        return None
    middle = centre + axis * (along.min() + along.max()) / 2
    spread_out = used[order[np.linspace(0, len(order) - 1, min(24, len(order))).astype(int)]]
    return RoundFace(
        faces, axis, middle, radius, float(np.ptp(along)), turn, bool(outward[0] < 0), off,
        float(areas.sum()), spread_out,
    )  # fmt: skip
