"""Meshes that are sound as they are written: closed, without faces that have no area, after rounding to
float32.

A solid is worked out in double precision, where the corners of a thin face may be nearer to each other than
the float32 that a file carries can tell apart. Rounded, such a face loses its area, lies upon another, or
joins two edges that were none. Here the corners are rounded first, and the faces are mended over the rounded
corners, none of which is moved.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Faces, Floats, Mesh, compacted

_ROUNDS = 12
"""A face that loses its area can take that of a neighbour with it; chains longer than this were not met."""


def soundly_rounded(mesh: Mesh) -> Mesh:
    """Return a closed mesh as float32 has it, without faces that rounding spoilt.

    Args:
        mesh: closed, in the numbers that are to be written.

    Returns:
        The very same mesh where rounding spoils nothing. Else another over the same rounded corners: faces of
        which two corners became one are left out, which keeps a closed surface closed; of one whose corners
        came to lie on a line, the longest side is exchanged for the other diagonal of its two faces; two
        faces that came to lie upon each other the opposite way round both go.
    """
    points, index = np.unique(mesh.vertices.astype(np.float32), axis=0, return_inverse=True)
    corners = points.astype(np.float64)
    faces = index.ravel()[mesh.faces].astype(np.int32)
    if _is_sound(corners, faces):
        return mesh
    for _ in range(_ROUNDS):
        faces = _without_flaps(_proper(faces))
        flat = _flat(corners, faces)
        if not len(flat):
            break
        faces = _with_other_diagonals(corners, faces, flat)
    return compacted(corners, faces)


def _is_sound(corners: Floats, faces: Faces) -> bool:
    return (
        len(_proper(faces)) == len(faces)
        and not len(_flat(corners, faces))
        and len(_without_flaps(faces)) == len(faces)
    )


def _proper(faces: Faces) -> Faces:
    a, b, c = faces.T
    return np.asarray(faces[(a != b) & (b != c) & (c != a)])


def _flat(corners: Floats, faces: Faces) -> NDArray[np.int64]:
    """Return the faces without area: of corners that are float32 the cross product is exact enough."""
    a, b, c = (corners[faces[:, k]] for k in range(3))
    return np.flatnonzero((np.cross(b - a, c - a) == 0).all(axis=1))


def _without_flaps(faces: Faces) -> Faces:
    """Leave out pairs of faces over the same corners that face each other: between them is nothing."""
    first = faces.argmin(axis=1)[:, None]
    turned = np.take_along_axis(faces, (first + np.arange(3)) % 3, axis=1)
    forward = turned[:, 1] < turned[:, 2]
    key = np.sort(faces, axis=1)
    _, group = np.unique(key, axis=0, return_inverse=True)
    group = group.ravel()
    many = int(group.max(initial=-1)) + 1
    surplus = np.bincount(group, np.where(forward, 1, -1), many)
    if (np.abs(surplus) == np.bincount(group, minlength=many)).all():
        return faces
    # Of each group as many stay as one direction outweighs the other by, the first of that direction.
    good = np.where(forward, surplus[group] > 0, surplus[group] < 0)
    rank = np.zeros(len(faces), dtype=np.int64)
    rows = np.flatnonzero(good)
    order = rows[np.argsort(group[rows], kind="stable")]
    starts = np.r_[0, np.flatnonzero(np.diff(group[order])) + 1] if len(order) else np.empty(0, np.int64)
    rank[order] = np.arange(len(order)) - np.repeat(starts, np.diff(np.r_[starts, len(order)]))
    return np.asarray(faces[good & (rank < np.abs(surplus[group]))])


def _with_other_diagonals(corners: Floats, faces: Faces, flat: NDArray[np.int64]) -> Faces:
    """Exchange the longest side of each face without area, unless its neighbour was just changed."""
    owner = _owners(faces)
    turned, touched = faces.copy(), np.zeros(len(faces), dtype=bool)
    for number in flat.tolist():
        a, b, m = _longest_first(corners, faces[number])
        other = owner.get((b, a))
        if other is None or other == number or touched[number] or touched[other]:
            continue
        d = int(sum(faces[other].tolist()) - a - b)
        # The needle runs a, b, m and its neighbour b, a, d: together they are the quadrangle a, d, b, m.
        turned[number], turned[other] = (a, d, m), (d, b, m)
        touched[[number, other]] = True
    return turned


def _owners(faces: Faces) -> dict[tuple[int, int], int]:
    """Return, for every directed side, a face that runs along it."""
    return {
        (int(face[k]), int(face[(k + 1) % 3])): number for number, face in enumerate(faces) for k in range(3)
    }


def _longest_first(corners: Floats, face: NDArray[np.int32]) -> tuple[int, int, int]:
    """Return the corners of a face, in its own direction, so that the longest side is between the first
    two.
    """
    sides = np.linalg.norm(corners[np.roll(face, -1)] - corners[face], axis=1)
    a, b, m = np.roll(face, -int(sides.argmax())).tolist()
    return a, b, m
