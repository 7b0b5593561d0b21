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
    many = sum(one.mesh.triangles for one in bodies)
    over = 1 if many >= _SPLAT_FROM else _OVER
    across, down = SIZE[0] * over, SIZE[1] * over
    right, up, eye = _frame()
    ends = np.concatenate([one.mesh.bounds() for one in bodies])
    corners = _corners(ends.min(axis=0), ends.max(axis=0))
    flat = np.stack([corners @ right, corners @ up], axis=1)
    middle, span = (flat.min(axis=0) + flat.max(axis=0)) / 2, np.ptp(flat, axis=0)
    scale = 0.86 * min(across / max(span[0], 1e-12), down / max(span[1], 1e-12))
    depth = np.full(across * down, -np.inf)
    shade = np.zeros((across * down, 3))
    for one in bodies:
        points, normals = _samples(one.mesh, scale, many)
        x = ((points @ right - middle[0]) * scale + across / 2).astype(np.int64)
        y = (down / 2 - (points @ up - middle[1]) * scale).astype(np.int64)
        inside = (x >= 0) & (x < across) & (y >= 0) & (y < down)
        pixel, height = (y * across + x)[inside], (points @ eye)[inside]
        here, nearest = _nearest(depth, pixel, height)
        depth[here], shade[here] = height[nearest], _tint(normals[inside][nearest], one.colour)
    return _png(depth.reshape(down, across), shade.reshape(down, across, 3), over, 4 / scale)


def _frame() -> tuple[Floats, Floats, Floats]:
    eye = _EYE / np.sqrt((_EYE**2).sum())
    right = np.array([-eye[1], eye[0], 0.0])
    right /= np.sqrt((right**2).sum())
    return right, np.cross(eye, right), eye


def _corners(low: Floats, high: Floats) -> Floats:
    return np.array(
        [[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])]
    )


def _samples(mesh: Mesh, scale: float, many: int) -> tuple[Floats, Floats]:
    """Places on the surface, nearer to each other than pixels, with the normals there."""
    crosses = mesh.crosses
    length = np.sqrt((crosses**2).sum(axis=1, keepdims=True))
    normals = np.divide(crosses, length, out=np.zeros_like(crosses), where=length > 0)
    facing = normals @ (_EYE / np.sqrt((_EYE**2).sum())) > 0
    a, b, c = (mesh.vertices[mesh.faces[facing, k]] for k in range(3))
    normals = normals[facing]
    if many >= _SPLAT_FROM:
        return (a + b + c) / 3, normals
    longest = np.sqrt(np.max([((p - q) ** 2).sum(axis=1) for p, q in ((a, b), (b, c), (c, a))], axis=0))
    steps = np.clip(np.ceil(1.2 * longest * scale), 1, 800).astype(np.int64)
    points, directions = [], []
    # Triangles of about the same size are sampled together, by the same lattice.
    for most in np.unique(2 ** np.ceil(np.log2(steps))).astype(np.int64).tolist():
        mine = np.flatnonzero((steps <= most) & (steps > most // 2))
        i, j = np.divmod(np.arange((most + 1) ** 2), most + 1)
        good = i + j <= most
        u, v = (i[good] / most)[:, None], (j[good] / most)[:, None]
        for at in range(0, len(mine), max(1, 400_000 // len(u))):
            some = mine[at : at + max(1, 400_000 // len(u))]
            lattice = a[some, None] + u * (b - a)[some, None] + v * (c - a)[some, None]
            points.append(lattice.reshape(-1, 3))
            directions.append(np.repeat(normals[some], len(u), axis=0))
    if not points:
        return np.empty((0, 3)), np.empty((0, 3))
    return np.concatenate(points), np.concatenate(directions)


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
    order = np.argsort(height, kind="stable")
    nearest = np.full(len(depth), -1)
    nearest[pixel[order]] = order  # of several the last stays, which is the nearest
    here = np.flatnonzero(nearest >= 0)
    here = here[height[nearest[here]] > depth[here]]
    return here, nearest[here]


def _png(depth: Floats, shade: Floats, over: int, jump: float) -> bytes:
    """Ink where depth jumps, paper where nothing is, and as many samples to a pixel as were taken."""
    there = np.isfinite(depth)
    flat = np.where(there, depth, -1e30)
    ink = np.zeros_like(there)
    for axis in (0, 1):
        step = np.abs(np.diff(flat, axis=axis)) > jump
        ink[(slice(1, None), slice(None)) if axis == 0 else (slice(None), slice(1, None))] |= step
    shade = np.where(there[..., None], np.clip(shade, 0, 255), _PAPER)
    shade[ink] = _INK
    down, across = depth.shape
    pixels = shade.reshape(down // over, over, across // over, over, 3).mean(axis=(1, 3))
    out = io.BytesIO()
    Image.fromarray(np.round(pixels).astype(np.uint8)).save(out, "PNG", compress_level=6)
    return out.getvalue()
