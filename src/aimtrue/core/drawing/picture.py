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
_AT_ONCE = 400_000
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
    many = sum(one.mesh.triangles for one in bodies)
    over = 1 if many >= _SPLAT_FROM else _OVER
    across, down = SIZE[0] * over, SIZE[1] * over
    frame = _frame()
    flat = np.concatenate([_box(one.mesh.bounds()) @ frame[:2].T for one in bodies])
    middle, span = (flat.min(axis=0) + flat.max(axis=0)) / 2, np.ptp(flat, axis=0)
    scale = 0.86 * min(across / max(span[0], 1e-12), down / max(span[1], 1e-12))
    onto = np.array([scale, -scale, scale])[:, None] * frame
    start = np.array([across / 2 - scale * middle[0], down / 2 + scale * middle[1], 0.0])
    depth = np.full(across * down, -np.inf)
    shade = np.zeros((across * down, 3))
    for one in bodies:
        seen, normals = _facing(one.mesh, frame[2])
        places, owner = _samples(one.mesh.vertices @ onto.T + start, seen, splat=many >= _SPLAT_FROM)
        x, y = places[:, 0].astype(np.int64), places[:, 1].astype(np.int64)
        inside = (x >= 0) & (x < across) & (y >= 0) & (y < down)
        pixel, height = (y * across + x)[inside], places[inside, 2]
        here, nearest = _nearest(depth, pixel, height)
        shade[here] = _tint(normals[owner[inside][nearest]], one.colour)
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
    crosses = mesh.crosses
    seen = np.flatnonzero(crosses @ eye > 0)
    some = crosses[seen]
    return mesh.faces[seen], some / np.sqrt(np.einsum("ij,ij->i", some, some))[:, None]


def _samples(points: Floats, faces: NDArray[np.int32], *, splat: bool) -> tuple[Floats, NDArray[np.int64]]:
    """Places on triangles, nearer to each other than pixels, and the triangle of each.

    Args:
        points: (n, 3) across, down, and towards the eye, in pixels.
        faces: (k, 3) triangles that face it.
        splat: whether they are so many that the middle of each will do.
    """
    a, b, c = (points[faces[:, k]] for k in range(3))
    if splat:
        return (a + b + c) / 3, np.arange(len(faces))
    sides = np.array([np.abs(p[:, :2] - q[:, :2]).max(axis=1) for p, q in ((a, b), (b, c), (c, a))])
    steps = np.clip(np.ceil(1.2 * sides.max(axis=0, initial=0.0)), 1, 1024).astype(np.int64)
    places, owners = [np.empty((0, 3))], [np.empty(0, np.int64)]
    # Triangles of about the same size are sampled together, by the same lattice.
    size = np.maximum(1, (2 ** (np.ceil(2 * np.log2(steps)) / 2)).astype(np.int64))
    for most in np.unique(size).tolist():
        mine = np.flatnonzero(size == most)
        i, j = np.divmod(np.arange((most + 1) ** 2), most + 1)
        good = i + j <= most
        u, v = (i[good] / most)[:, None], (j[good] / most)[:, None]
        few = max(1, _AT_ONCE // len(u))
        for some in (mine[at : at + few] for at in range(0, len(mine), few)):
            lattice = a[some, None] + u * (b - a)[some, None] + v * (c - a)[some, None]
            places.append(lattice.reshape(-1, 3))
            owners.append(np.repeat(some, len(u)))
    return np.concatenate(places), np.concatenate(owners)


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
    down, across = depth.shape
    pixels = shade.reshape(down // over, over, across // over, over, 3).mean(axis=(1, 3))
    out = io.BytesIO()
    Image.fromarray(np.round(pixels).astype(np.uint8)).save(out, "PNG", compress_level=6)
    return out.getvalue()
