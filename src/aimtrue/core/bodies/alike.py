"""Which bodies have the same shape up to position and rotation; a mirrored one does not."""

from __future__ import annotations

from itertools import islice

import numpy as np
from scipy.spatial import cKDTree

from aimtrue.core.job import Body, Job
from aimtrue.core.lengths import MM_PER
from aimtrue.core.mesh import Floats, Mesh
from aimtrue.core.shelf import Shelf

_TOLERANCE = 2e-6
"""Of the body's size: copies in float32 differ by rounding at their place."""
_TRIES = 300
_CHECKED = 500
_ALL_UP_TO = 100_000
"""Corners: of larger meshes a sample is held against the other."""


def with_alike(job: Job, fresh: set[str], shelf: Shelf) -> Job:
    """Return the job with bodies that have just come put into the groups of those they are like.

    Args:
        job: with the new bodies in it.
        fresh: ids of the new ones; those of one file may have groups among themselves already.
        shelf: gives the meshes; asked only for bodies whose numbers agree.
    """
    firsts: dict[str, Body] = {}
    for body in job.bodies:
        if body.id not in fresh:
            firsts.setdefault(body.alike or body.id, body)
    for key in [body.id for body in job.bodies if body.id in fresh]:
        body = job.body(key)
        like = next((one for one in firsts.values() if _may_be_alike(one, body, shelf)), None)
        if like is None:
            firsts.setdefault(body.alike or body.id, body)
            continue
        group = job.body(like.id).alike or f"{like.id}~"
        mine = {one.id for one in job.bodies if body.alike and one.alike == body.alike} | {key, like.id}
        for one in job.bodies:
            if one.id in mine and one.alike != group:
                job = job.with_body(one.model_copy(update={"alike": group}))
    return job


def _may_be_alike(a: Body, b: Body, shelf: Shelf) -> bool:
    if a.id == b.id or (a.alike and a.alike == b.alike):
        return False
    if (a.triangles, a.vertices) != (b.triangles, b.vertices):
        return False
    if abs(a.area - b.area) > 1e-4 * a.area or abs(a.volume - b.volume) > 1e-4 * abs(a.volume):
        return False
    return are_alike(shelf.mesh(a.geometry), shelf.mesh(b.geometry))


def identical(job: Job) -> dict[str, tuple[str, ...]]:
    """Return, by body, the ids of the bodies that are the same part, itself included: same shape, same size.

    Bodies alike in their files are not when their units or corrections differ. A body that is the only one of
    its part is left out.
    """
    parts: dict[tuple[object, ...], list[str]] = {}
    for body in job.bodies:
        if body.alike is not None:
            parts.setdefault((body.alike, *_size_of(job, body)), []).append(body.id)
    return {key: tuple(keys) for keys in parts.values() if len(keys) > 1 for key in keys}


def _size_of(job: Job, body: Body) -> tuple[object, ...]:
    source, correction = job.source_of(body), body.correction
    unit = MM_PER[source.unit] if source.unit else 1.0
    factors = tuple(float(f"{unit * factor:.12g}") for factor in correction.factors)
    among = None if source.unit else source.id
    return among, factors, correction.along, body.allowance, body.kept


def groups_of_alike(meshes: list[Mesh]) -> list[int]:
    """Return a group number per mesh; meshes of one group have the same shape."""
    groups = list(range(len(meshes)))
    kept: dict[tuple[int, int], list[int]] = {}
    for number, mesh in enumerate(meshes):
        key = (mesh.triangles, len(mesh.vertices))
        for other in kept.setdefault(key, []):
            if are_alike(meshes[other], mesh):
                groups[number] = other
                break
        else:
            kept[key].append(number)
    return groups


def are_alike(a: Mesh, b: Mesh) -> bool:
    """Tell whether a rotation and a move bring one mesh onto the other, vertex by vertex.

    Three corners of the first that are seldom in their distance to the middle are matched with
    corners of the second at the same distances. Each match gives one rotation (Kabsch 1976, without
    reflection), which is then held against the vertices.
    """
    if a.triangles != b.triangles or len(a.vertices) != len(b.vertices):
        return False
    reach = max(float(np.abs(a.bounds()).max()), float(np.abs(b.bounds()).max()))
    size = float(a.extents().max())
    slack = _TOLERANCE * size + 4 * float(np.spacing(np.float32(reach)))
    if abs(a.area() - b.area()) > 8 * slack * size + 1e-6 * a.area():
        return False
    if abs(a.volume() - b.volume()) > slack * a.area() + 1e-6 * abs(a.volume()):
        return False
    if _is_moved(a, b, slack):
        return True
    p, q = a.vertices - a.vertices.mean(axis=0), b.vertices - b.vertices.mean(axis=0)
    rp, rq = np.linalg.norm(p, axis=1), np.linalg.norm(q, axis=1)
    if np.abs(np.sort(rp) - np.sort(rq)).max() > slack:
        return False
    return _some_rotation_fits(p, q, rp, rq, slack)


def _is_moved(a: Mesh, b: Mesh, slack: float) -> bool:
    """Whether one is the other moved and not turned, corner by corner: the usual case, and soon told."""
    if not np.array_equal(a.faces, b.faces):
        return False
    moves = [a.vertices[:, axis] - b.vertices[:, axis] for axis in range(3)]
    return all(float(move.max() - move.min()) <= slack for move in moves)


def _some_rotation_fits(p: Floats, q: Floats, rp: Floats, rq: Floats, slack: float) -> bool:
    tree = cKDTree(q)
    first, second, third = _telling_corners(p, rp, slack)
    sample = p[:: max(1, len(p) // _CHECKED)]
    near = 4 * slack
    ones = np.flatnonzero(np.abs(rq - rp[first]) <= near)
    apart = [
        np.linalg.norm(p[first] - p[second]),
        np.linalg.norm(p[first] - p[third]),
        np.linalg.norm(p[second] - p[third]),
    ]
    twos = np.flatnonzero(np.abs(rq - rp[second]) <= near)
    threes = np.flatnonzero(np.abs(rq - rp[third]) <= near)

    def rotations() -> object:
        for one in ones:
            for two in twos[np.abs(np.linalg.norm(q[twos] - q[one], axis=1) - apart[0]) <= near]:
                fits = (np.abs(np.linalg.norm(q[threes] - q[one], axis=1) - apart[1]) <= near) & (
                    np.abs(np.linalg.norm(q[threes] - q[two], axis=1) - apart[2]) <= near
                )
                for three in threes[fits]:
                    yield _rotation(p[[first, second, third]], q[[one, two, three]])

    for turn in islice(rotations(), _TRIES):  # type: ignore[call-overload]
        if tree.query(sample @ turn.T)[0].max() <= 8 * slack and (
            len(p) > _ALL_UP_TO or tree.query(p @ turn.T)[0].max() <= 8 * slack
        ):
            return True
    return False


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


def _rotation(p: Floats, q: Floats) -> Floats:
    u, _, vt = np.linalg.svd(q.T @ p)
    flip = np.sign(np.linalg.det(u @ vt))
    return np.asarray(u @ np.diag([1.0, 1.0, flip]) @ vt)
