"""This module says which bodies have the same shape up to position and rotation; a mirrored one does not."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER
from aimtrue.core.model.memo import Memo

_TOLERANCE = 2e-6
"""Copies may differ by this share of the body's size, for float32 rounds at each place otherwise."""
_TRIES = 20_000
_FIRST = 12
_SPANS = 1e-8
"""Least eigenvalue from which normals span space; float32 makes 1e-12 of flat ones."""
_NEAR_AREA = 1e-3
_CHECKED = 500
_ALL_UP_TO = 100_000
"""Corners: of larger meshes a sample is held against the other."""


def with_alike(job: Job, fresh: set[str], store: GeometryStore) -> Job:
    """Return the job with bodies that have just come put into the groups of those they are like.

    Args:
        job: with the new bodies in it.
        fresh: ids of the new ones; those of one file may have groups among themselves already.
        store: gives the meshes; asked only for bodies whose numbers agree.
    """
    firsts: dict[str, Body] = {}
    for body in job.bodies:
        if body.id not in fresh:
            firsts.setdefault(body.alike or body.id, body)
    for key in [body.id for body in job.bodies if body.id in fresh]:
        body = job.body(key)
        like = next((first for first in firsts.values() if _may_be_alike(first, body, store)), None)
        if like is None:
            firsts.setdefault(body.alike or body.id, body)
            continue
        group = job.body(like.id).alike or f"{like.id}~"
        mine = {
            body_of_job.id for body_of_job in job.bodies if body.alike and body_of_job.alike == body.alike
        } | {key, like.id}
        for body_of_job in job.bodies:
            if body_of_job.id in mine and body_of_job.alike != group:
                job = job.with_body(body_of_job.model_copy(update={"alike": group}))
    return job


def _may_be_alike(a: Body, b: Body, store: GeometryStore) -> bool:
    if a.id == b.id or (a.alike and a.alike == b.alike):
        return False
    if abs(a.area - b.area) > 1e-4 * a.area or abs(a.volume - b.volume) > 1e-4 * abs(a.volume):
        return False
    return are_alike(store.mesh(a.geometry), store.mesh(b.geometry))


_IDENTICAL: Memo[dict[BodyId, tuple[BodyId, ...]]] = Memo(64)


def identical(job: Job) -> dict[BodyId, tuple[BodyId, ...]]:
    """Return, by body, the ids of the bodies that are the same part, itself included: same shape, same size.

    Bodies alike in their files are not when their units or corrections differ. A body that is the only one of
    its part is left out.
    """
    return _IDENTICAL.get((job.bodies, job.kits, job.sources), (), lambda: _identical(job))


def _identical(job: Job) -> dict[BodyId, tuple[BodyId, ...]]:
    parts: dict[tuple[object, ...], list[BodyId]] = {}
    for body in job.bodies:
        if body.alike is not None:
            parts.setdefault((body.alike, *_size_of(job, body)), []).append(body.id)
    return {key: tuple(keys) for keys in parts.values() if len(keys) > 1 for key in keys}


def _size_of(job: Job, body: Body) -> tuple[object, ...]:
    source, correction = job.source_of(body), job.correction_of(body)
    unit = MM_PER[source.unit] if source.unit else 1.0
    factors = tuple(float(f"{unit * factor:.12g}") for factor in correction.factors)
    among = None if source.unit else source.id
    return among, factors, correction.along, job.shrinkage_of(body), body.clearance, body.kept


def groups_of_alike(meshes: list[Mesh]) -> list[int]:
    """Return a group number per mesh; meshes of one group have the same shape."""
    groups = list(range(len(meshes)))
    areas = np.array([mesh.area() for mesh in meshes])
    order = np.argsort(areas, kind="stable")
    # Bodies are sorted by area within each group, so that only near ones are compared.
    firsts: list[int] = []
    for number in order.tolist():
        for other in reversed(firsts):
            if areas[other] < areas[number] * (1 - _NEAR_AREA):
                break
            if are_alike(meshes[other], meshes[number]):
                groups[number] = groups[other]
                break
        else:
            firsts.append(number)
            continue
        if groups[number] == number:
            firsts.append(number)
    first_of: dict[int, int] = {}
    for number, group in enumerate(groups):
        first_of.setdefault(group, number)
    return [first_of[group] for group in groups]


def are_alike(a: Mesh, b: Mesh) -> bool:
    """Tell whether a rotation and a move bring one solid onto the other, however its faces are cut.

    Three corners of the first that are seldom in their distance to the middle are matched with
    corners of the second at the same distances. Each match gives one rotation (Kabsch 1976, without
    reflection), which is then held against all corners, and the vertices against the other's surface. A part
    that a mirror leaves the same solid is like its mirror image: some rotation brings them together.
    """
    size = float(a.extents().max())
    slack = _slack(a, b)
    if abs(a.area() - b.area()) > 8 * slack * size + 1e-6 * a.area():
        return False
    if abs(a.volume() - b.volume()) > slack * a.area() + 1e-6 * abs(a.volume()):
        return False
    if _is_moved(a, b, slack):
        return True
    large = max(len(a.vertices), len(b.vertices)) > _ALL_UP_TO
    corners = (a.vertices, b.vertices) if large else (true_corners(a), true_corners(b))
    if len(corners[0]) != len(corners[1]) or len(corners[0]) < 3:
        return False
    middles = [points.mean(axis=0) for points in corners]
    p, q = (points - middle for points, middle in zip(corners, middles, strict=True))
    rp, rq = np.linalg.norm(p, axis=1), np.linalg.norm(q, axis=1)
    if np.abs(np.sort(rp) - np.sort(rq)).max() > slack:
        return False
    turn = _some_rotation(p, q, rp, rq, slack)
    if turn is None:
        return False
    # Corners in the middle of faces and edges, where one may have more than the other, lie on its surface.
    return large or _lies_on((a.vertices - middles[0]) @ turn.T + middles[1], b, 8 * slack)


def _slack(a: Mesh, b: Mesh) -> float:
    reach = max(float(np.abs(a.bounds()).max()), float(np.abs(b.bounds()).max()))
    return _TOLERANCE * float(a.extents().max()) + 4 * float(np.spacing(np.float32(reach)))


def _lies_on(points: Floats, mesh: Mesh, near: float) -> bool:
    import igl

    squared = igl.point_mesh_squared_distance(
        np.ascontiguousarray(points), mesh.vertices, mesh.faces.astype(np.int64)
    )[0]
    return bool(np.sqrt(np.maximum(squared, 0.0)).max() <= near)


def true_corners(mesh: Mesh) -> Floats:
    """Return (k, 3): the vertices at which faces of three directions meet.

    Those within a flat face or along a straight edge depend on how a solid was cut into triangles, not on the
    solid. A vertex is a corner when the normals around it span space: the least eigenvalue of the sum of
    their outer products is not 0.
    """
    length = 2 * mesh.areas
    flat = length <= 1e-7 * float(length.max(initial=0.0))
    normals = np.divide(
        mesh.area_vectors, length[:, None], out=np.zeros_like(mesh.area_vectors), where=~flat[:, None]
    )
    spread = np.zeros((len(mesh.vertices), 6))
    for place, (i, j) in enumerate(((0, 0), (1, 1), (2, 2), (0, 1), (0, 2), (1, 2))):
        products = normals[:, i] * normals[:, j]
        for corner in range(3):
            spread[:, place] += np.bincount(mesh.faces[:, corner], products, len(mesh.vertices))
    xx, yy, zz, xy, xz, yz = spread.T
    matrices = np.stack([xx, xy, xz, xy, yy, yz, xz, yz, zz], axis=1).reshape(-1, 3, 3)
    return np.asarray(mesh.vertices[np.linalg.eigvalsh(matrices)[:, 0] > _SPANS])


def _is_moved(a: Mesh, b: Mesh, slack: float) -> bool:
    """Whether one is the other moved and not turned, corner by corner: the usual case, and soon told."""
    if len(a.vertices) != len(b.vertices) or not np.array_equal(a.faces, b.faces):
        return False
    moves = [a.vertices[:, axis] - b.vertices[:, axis] for axis in range(3)]
    return all(float(move.max() - move.min()) <= slack for move in moves)


def _some_rotation(p: Floats, q: Floats, rp: Floats, rq: Floats, slack: float) -> Floats | None:
    """Return (3, 3): a rotation that brings corners onto corners, or None."""
    from scipy.spatial import cKDTree

    tree = cKDTree(q)
    first, second, third = _telling_corners(p, rp, slack)
    few = p[:: max(1, len(p) // _FIRST)][:_FIRST]
    sample = p[:: max(1, len(p) // _CHECKED)]
    tried = 0
    for matches in _matches(p, q, rp, rq, (first, second, third), 4 * slack):
        turns = _rotations(p[[first, second, third]], q[matches])
        if not len(turns):
            continue
        # A few corners turn most of the rotations away, many at once.
        away = tree.query((few @ turns.transpose(0, 2, 1)).reshape(-1, 3))[0].reshape(len(turns), -1)
        for turn in turns[away.max(axis=1) <= 8 * slack]:
            if tree.query(sample @ turn.T)[0].max() <= 8 * slack and (
                len(p) > _ALL_UP_TO or tree.query(p @ turn.T)[0].max() <= 8 * slack
            ):
                return np.asarray(turn)
        tried += len(turns)
        if tried > _TRIES:
            return None
    return None


def _matches(
    p: Floats, q: Floats, rp: Floats, rq: Floats, corners: tuple[int, int, int], near: float
) -> Iterator[NDArray[np.int64]]:
    """Yield, some at a time, (k, 3) corners of the one that lie to each other as three of the other do."""
    first, second, third = corners
    apart = [np.linalg.norm(p[a] - p[b]) for a, b in ((first, second), (first, third), (second, third))]
    twos = np.flatnonzero(np.abs(rq - rp[second]) <= near)
    threes = np.flatnonzero(np.abs(rq - rp[third]) <= near)
    for candidate in np.flatnonzero(np.abs(rq - rp[first]) <= near):
        here = twos[np.abs(np.linalg.norm(q[twos] - q[candidate], axis=1) - apart[0]) <= near]
        there = threes[np.abs(np.linalg.norm(q[threes] - q[candidate], axis=1) - apart[1]) <= near]
        if len(here) and len(there):
            between = np.linalg.norm(q[here][:, None] - q[there][None], axis=2)
            i, j = np.nonzero(np.abs(between - apart[2]) <= near)
            yield np.stack([np.full(len(i), candidate), here[i], there[j]], axis=1)


def _telling_corners(p: Floats, r: Floats, slack: float) -> tuple[int, int, int]:
    """Pick three corners: seldom distances, far out, and not on one line with the middle."""
    ring = np.round(r / max(slack * 16, 1e-300)).astype(np.int64)
    _, index, counts = np.unique(ring, return_inverse=True, return_counts=True)
    cost = counts[index] / np.maximum(r / r.max(), 1e-3)
    first = int(np.where(r > 0.2 * r.max(), cost, np.inf).argmin())
    u = p[first] / r[first]
    aside = np.linalg.norm(p - np.outer(p @ u, u), axis=1)
    second = int(np.where(aside > 0.3 * aside.max(), cost, np.inf).argmin())
    normal = np.cross(p[first], p[second])
    normal /= np.linalg.norm(normal) or 1.0
    off = np.abs(p @ normal)
    # A third corner off the plane of the other two settles the handedness; flat bodies have none.
    third = int(np.where(off > 0.3 * off.max(), cost, np.inf).argmin()) if off.max() > slack else second
    return first, second, third


def _rotations(p: Floats, q: Floats) -> Floats:
    """Return (k, 3, 3): the rotations that bring (3, 3) corners nearest to each of (k, 3, 3) others."""
    u, _, vt = np.linalg.svd(q.transpose(0, 2, 1) @ p)
    flips = np.tile(np.eye(3), (len(q), 1, 1))
    flips[:, 2, 2] = np.sign(np.linalg.det(u @ vt))
    return np.asarray(u @ flips @ vt)
