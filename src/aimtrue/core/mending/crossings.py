"""Faces that cut through each other."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh import Floats, Mesh

_PAIRS_AT_ONCE = 2_000_000
_MOST_PAIRS = 30_000_000


def crossing_faces(mesh: Mesh) -> NDArray[np.int64]:
    """Return the faces that another face of the mesh cuts, sharing no corner with it.

    Candidates share a cell of a grid about as fine as the faces. Two triangles cross when an edge
    of one passes through the inside of the other; the sides of the volumes tell (Segura and Feito).
    Faces that only touch do not count.
    """
    # A face that is there many times would be held against itself as often.
    _, kept = np.unique(np.sort(mesh.faces, axis=1), axis=0, return_index=True)
    once = mesh if len(kept) == mesh.triangles else Mesh(mesh.vertices, mesh.faces[np.sort(kept)])
    found = np.zeros(once.triangles, dtype=bool)
    for pairs in _candidates(once):
        hit = _cross(once, pairs)
        found[pairs[hit].ravel()] = True
    return np.flatnonzero(found) if once is mesh else np.sort(kept)[found]


def _candidates(mesh: Mesh) -> list[NDArray[np.int64]]:
    corners = mesh.vertices[mesh.faces]
    low, high = corners.min(axis=1), corners.max(axis=1)
    span = high - low
    size = float(mesh.extents().max())
    if size <= 0 or mesh.triangles < 4:
        return []
    cell = max(float(np.median(span.max(axis=1))) * 1.5, size / 256)
    origin = low.min(axis=0)
    first = np.floor((low - origin) / cell).astype(np.int64)
    last = np.floor((high - origin) / cell).astype(np.int64)
    counts = np.prod(last - first + 1, axis=1)
    # Large faces would fill a whole grid; they are held against all others by their boxes.
    large = counts > 64
    pairs = _by_cell(mesh, first[~large], last[~large], np.flatnonzero(~large), low, high)
    if large.any():
        pairs += _by_box(mesh, np.flatnonzero(large), low, high)
    return pairs


def _by_cell(
    mesh: Mesh,
    first: NDArray[np.int64],
    last: NDArray[np.int64],
    faces: NDArray[np.int64],
    low: Floats,
    high: Floats,
) -> list[NDArray[np.int64]]:
    keys, owners = [], []
    for x in range(int((last - first)[:, 0].max(initial=0)) + 1):
        for y in range(int((last - first)[:, 1].max(initial=0)) + 1):
            for z in range(int((last - first)[:, 2].max(initial=0)) + 1):
                cell = first + np.array([x, y, z])
                here = (cell <= last).all(axis=1)
                c = cell[here]
                keys.append((c[:, 0] << 42) | (c[:, 1] << 21) | c[:, 2])
                owners.append(faces[here])
    key, owner = np.concatenate(keys), np.concatenate(owners)
    order = np.argsort(key, kind="stable")
    key, owner = key[order], owner[order]
    starts = np.flatnonzero(np.concatenate([[True], key[1:] != key[:-1]]))
    place = np.arange(len(key)) - np.repeat(starts, np.diff(np.append(starts, len(key))))
    result: list[NDArray[np.int64]] = []
    step, total = 1, 0
    # Pairs at distance 1 within a cell, then at distance 2, and so on: no loop over cells.
    while True:
        second = np.flatnonzero(place >= step)
        if not len(second):
            return result
        pairs = np.stack([owner[second - step], owner[second]], axis=1)
        pairs = _near(mesh, pairs, low, high)
        total += len(second)
        if len(pairs):
            result.append(pairs)
        if total > _MOST_PAIRS:
            return result
        step += 1


def _by_box(mesh: Mesh, large: NDArray[np.int64], low: Floats, high: Floats) -> list[NDArray[np.int64]]:
    result = []
    everyone = np.arange(mesh.triangles)
    is_large = np.zeros(mesh.triangles, dtype=bool)
    is_large[large] = True
    for face in large[:4000]:
        others = everyone[(low <= high[face]).all(axis=1) & (high >= low[face]).all(axis=1)]
        others = others[(others > face) | ~is_large[others]]
        pairs = np.stack([np.full(len(others), face), others], axis=1)
        pairs = _near(mesh, pairs, low, high)
        if len(pairs):
            result.append(pairs)
    return [np.concatenate(result)] if result else []


def _near(mesh: Mesh, pairs: NDArray[np.int64], low: Floats, high: Floats) -> NDArray[np.int64]:
    a, b = pairs.T
    near = (low[a] <= high[b]).all(axis=1) & (low[b] <= high[a]).all(axis=1)
    pairs = pairs[near]
    if not len(pairs):
        return pairs
    f, g = mesh.faces[pairs[:, 0]], mesh.faces[pairs[:, 1]]
    shared = (f[:, :, None] == g[:, None, :]).any(axis=(1, 2))
    return np.asarray(pairs[~shared])


def _cross(mesh: Mesh, pairs: NDArray[np.int64]) -> NDArray[np.bool_]:
    hit = np.zeros(len(pairs), dtype=bool)
    for start in range(0, len(pairs), _PAIRS_AT_ONCE):
        some = slice(start, start + _PAIRS_AT_ONCE)
        t, s = mesh.vertices[mesh.faces[pairs[some, 0]]], mesh.vertices[mesh.faces[pairs[some, 1]]]
        # Triangles that cross each lie on both sides of the other's plane; few pairs do.
        near = np.flatnonzero(_straddles(t, s))
        near = near[_straddles(s[near], t[near])]
        hit[start + near] = _edges_through(t[near], s[near]) | _edges_through(s[near], t[near])
    return hit


def _straddles(t: Floats, s: Floats) -> NDArray[np.bool_]:
    """Whether (k, 3, 3) triangles ``s`` have corners on both sides of the planes of ``t``."""
    above = np.stack([_volume(t[:, 0], t[:, 1], t[:, 2], s[:, k]) for k in range(3)], axis=1)
    return np.asarray((above.max(axis=1) > 0) & (above.min(axis=1) < 0))


def _edges_through(t: Floats, s: Floats) -> NDArray[np.bool_]:
    """Whether any edge of (k, 3, 3) triangles ``s`` passes through the inside of ``t``."""
    a, b, c = t[:, 0], t[:, 1], t[:, 2]
    size = np.abs(t - a[:, None]).max(axis=(1, 2)) + np.abs(s - s[:, :1]).max(axis=(1, 2))
    zero = 1e-9 * size**3
    above = np.stack([_volume(a, b, c, s[:, k]) for k in range(3)], axis=1)
    hit = np.zeros(len(t), dtype=bool)
    for i, j in ((0, 1), (1, 2), (2, 0)):
        p, q = s[:, i], s[:, j]
        through = ((above[:, i] > zero) & (above[:, j] < -zero)) | (
            (above[:, i] < -zero) & (above[:, j] > zero)
        )
        u, v, w = _volume(p, q, a, b), _volume(p, q, b, c), _volume(p, q, c, a)
        hit |= through & (((u > zero) & (v > zero) & (w > zero)) | ((u < -zero) & (v < -zero) & (w < -zero)))
    return hit


def _volume(a: Floats, b: Floats, c: Floats, d: Floats) -> Floats:
    u, v, w = b - a, c - a, d - a
    return np.asarray(
        w[:, 0] * (u[:, 1] * v[:, 2] - u[:, 2] * v[:, 1])
        + w[:, 1] * (u[:, 2] * v[:, 0] - u[:, 0] * v[:, 2])
        + w[:, 2] * (u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0])
    )
