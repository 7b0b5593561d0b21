"""A small shaded picture of bodies, as PNG: what a file holds, at a glance.

In plain arithmetic, so that the same bodies give the same bytes on every machine.
"""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from aimtrue.core.mesh.mesh import Floats, Mesh

SIZE = (256, 192)
"""Pixels across and down."""
_OVER = 2
"""Samples along either side of a pixel."""
_PAPER, _INK = np.array([246, 243, 236]), np.array([34, 38, 43])
_PLAIN = (176, 180, 172)
_EYE = np.array([-0.55, -0.72, 0.42])
_LIGHT = np.array([-0.35, -0.45, 0.82])
_SPLAT_FROM = 200_000
"""Triangles of which there are so many that each is one sample."""
_LEVELS = 24
_JUMP = 4.0
"""Pixels by which depth jumps where a line is inked."""


@dataclass(frozen=True, eq=False)
class Shown:
    """A body in mm, with its colour, ``#rrggbb``."""

    mesh: Mesh
    colour: str | None = None


def picture(bodies: Sequence[Shown]) -> bytes:
    """Draw bodies from above the front left, in parallel projection.

    Args:
        bodies: in their common place.

    Returns:
        A PNG of :data:`SIZE` pixels.
    """
    many = sum(body.mesh.triangles for body in bodies)
    over = 1 if many >= _SPLAT_FROM else _OVER
    across, down = SIZE[0] * over, SIZE[1] * over
    frame = _frame()
    flat = np.concatenate([_box(body.mesh.bounds()) @ frame[:2].T for body in bodies])
    middle, span = (flat.min(axis=0) + flat.max(axis=0)) / 2, np.ptp(flat, axis=0)
    scale = 0.86 * min(across / max(span[0], 1e-12), down / max(span[1], 1e-12))
    onto = np.array([scale, -scale, scale])[:, None] * frame
    start = np.array([across / 2 - scale * middle[0], down / 2 + scale * middle[1], 0.0])
    depth = np.full(across * down, -np.inf)
    shade = np.zeros((across * down, 3))
    for shown in bodies:
        seen, normals = _facing(shown.mesh, frame[2])
        corners = (shown.mesh.vertices @ onto.T + start)[seen]
        samples = _middles(corners, np.arange(len(seen)), across) if over == 1 else _covered(corners, across)
        here, nearest = _nearest(depth, samples.pixel, samples.height)
        shade[here] = _tint(normals[samples.owner[nearest]], shown.colour)
    return _png(depth.reshape(down, across), shade.reshape(down, across, 3), over)


def _frame() -> Floats:
    """(3, 3): what is to the right, what is up, and what is nearer to the eye, as rows."""
    eye = _EYE / np.sqrt((_EYE**2).sum())
    right = np.array([-eye[1], eye[0], 0.0])
    right /= np.sqrt((right**2).sum())
    return np.stack([right, np.cross(eye, right), eye])


def _box(ends: Floats) -> Floats:
    (x0, y0, z0), (x1, y1, z1) = ends.tolist()
    return np.array([[x, y, z] for x in (x0, x1) for y in (y0, y1) for z in (z0, z1)])


def _facing(mesh: Mesh, eye: Floats) -> tuple[NDArray[np.int32], Floats]:
    """Return the triangles that face the eye, (k, 3), and their unit normals."""
    crosses = mesh.area_vectors
    seen = np.flatnonzero(crosses @ eye > 0)
    some = crosses[seen]
    return mesh.faces[seen], some / np.sqrt(np.einsum("ij,ij->i", some, some))[:, None]


@dataclass(frozen=True, eq=False)
class _Samples:
    """(n,) each: pixels, how near to the eye something is there, and the triangle it is of."""

    pixel: NDArray[np.int64]
    height: Floats
    owner: NDArray[np.int64]


def _middles(corners: Floats, owner: NDArray[np.int64], across: int) -> _Samples:
    """One sample of each triangle, in its middle.

    Args:
        corners: (k, 3, 3) across, down, and towards the eye, in pixels; all of them within the picture.
        owner: (k,) the numbers of the triangles.
        across: the pixels of a row.
    """
    middle = corners.sum(axis=1) / 3
    column, row = middle[:, 0].astype(np.int64), middle[:, 1].astype(np.int64)
    return _Samples(row * across + column, middle[:, 2], owner)


def _covered(corners: Floats, across: int) -> _Samples:
    """Samples at the middles of the pixels that triangles cover, row by row; of one without any, its middle.

    Args:
        corners: as in :func:`_middles`, of triangles that face the eye.
        across: the pixels of a row.
    """
    lowest, highest = corners.min(axis=1), corners.max(axis=1)
    owner, row = _spans(lowest[:, 1], highest[:, 1])
    left, right = _crossed(corners[owner], np.asarray(row + 0.5, np.float64))
    span, column = _spans(left, right)
    owner, row = owner[span], row[span]
    a, b, c = (corners[:, k] for k in range(3))
    normal = np.cross(b - a, c - a)
    rise = -normal[:, :2] / np.where(normal[:, 2:] == 0, 1.0, normal[:, 2:])
    height = a[owner, 2] + rise[owner, 0] * (column + 0.5 - a[owner, 0])
    height += rise[owner, 1] * (row + 0.5 - a[owner, 1])
    # A triangle that is nearly on edge counts as steep.
    height = np.clip(height, lowest[owner, 2], highest[owner, 2])
    left_out = np.ones(len(corners), bool)
    left_out[owner] = False
    thin = _middles(corners[left_out], np.flatnonzero(left_out), across)
    return _Samples(
        np.concatenate([row * across + column, thin.pixel]),
        np.concatenate([height, thin.height]),
        np.concatenate([owner, thin.owner]),
    )


def _spans(low: Floats, high: Floats) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Return, for every middle of a pixel from low to high, the number of the span and that of the pixel."""
    first = np.ceil(low - 0.5).astype(np.int64)
    count = np.maximum(np.floor(high - 0.5).astype(np.int64) - first + 1, 0)
    span = np.repeat(np.arange(len(first)), count)
    begins = np.cumsum(count) - count
    return span, first[span] + np.arange(len(span)) - begins[span]


def _crossed(corners: Floats, height: Floats) -> tuple[Floats, Floats]:
    """Return where the sides of (n, 3, 3) triangles cross a height each: the first and the last place."""
    left, right = np.full(len(corners), np.inf), np.full(len(corners), -np.inf)
    for start, end in ((0, 1), (1, 2), (2, 0)):
        p, q = corners[:, start], corners[:, end]
        crosses = (np.minimum(p[:, 1], q[:, 1]) <= height) & (np.maximum(p[:, 1], q[:, 1]) >= height)
        tall = q[:, 1] - p[:, 1]
        share = np.where(crosses & (tall != 0), (height - p[:, 1]) / np.where(tall == 0, 1.0, tall), 0.0)
        x = p[:, 0] + share * (q[:, 0] - p[:, 0])
        left = np.where(crosses, np.minimum(left, x), left)
        right = np.where(crosses, np.maximum(right, x), right)
    return left, right


def _tint(normals: Floats, colour: str | None) -> Floats:
    """Matt colour in so many steps, from half its light to all of it."""
    own = np.array([int(colour[k : k + 2], 16) for k in (1, 3, 5)] if colour else _PLAIN)
    light = np.clip(normals @ (_LIGHT / np.sqrt((_LIGHT**2).sum())), 0, 1)
    step = np.round(light * _LEVELS) / _LEVELS
    return np.asarray(own * (0.52 + 0.48 * step)[:, None] + 14 * step[:, None])


def _nearest(
    depth: Floats, pixel: NDArray[np.int64], height: Floats
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Return the pixels where something is nearer to the eye than what was there, and which sample it is."""
    before = depth.copy()
    np.maximum.at(depth, pixel, height)
    won = np.flatnonzero(height == depth[pixel])
    nearest = np.full(len(depth), -1)
    nearest[pixel[won]] = won
    here = np.flatnonzero((nearest >= 0) & (depth > before))
    return here, nearest[here]


def _png(depth: Floats, shade: Floats, over: int) -> bytes:
    """Ink where depth jumps, paper where nothing is, and as many samples to a pixel as were taken."""
    there = np.isfinite(depth)
    flat = np.where(there, depth, -1e30)
    ink = np.zeros_like(there)
    for axis in (0, 1):
        step = np.abs(np.diff(flat, axis=axis)) > _JUMP
        ink[(slice(1, None), slice(None)) if axis == 0 else (slice(None), slice(1, None))] |= step
    shade = np.where(there[..., None], np.clip(shade, 0, 255), _PAPER)
    shade[ink] = _INK
    samples = [shade[i::over, j::over] for i in range(over) for j in range(over)]
    pixels = sum(samples[1:], start=samples[0]) / len(samples)
    out = io.BytesIO()
    Image.fromarray(np.round(pixels).astype(np.uint8)).save(out, "PNG", compress_level=6)
    return out.getvalue()
