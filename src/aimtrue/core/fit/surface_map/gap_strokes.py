"""This module draws the gap between two bodies on the surface of one: hatch by bands, and contour lines."""

from __future__ import annotations

from math import floor, log10

import igl
import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.surface_map.parts import SurfaceParts, divided
from aimtrue.core.mesh.surface_map.strokes import Canvas, StrokeBand, SurfaceStrokes, with_strokes
from aimtrue.core.model.lengths import written

_PARTS = 30_000
_FACING = 0.5
"""The cosine between the way out of a surface and the way to the other that still counts as facing it."""
_TOUCHING = 1e-6
"""What is nearer than this, as a share of the body, touches: the way there says nothing."""
_LEVELS = 6
_LINES = 64
_USUAL_MM = 2.0
_FINEST_MM = 0.01
"""Contours are no closer than this: facets differ from their circles by about as much."""
_DENSITIES = (4.0, 2.0, 1.0)


def gap_strokes(one: Mesh, drawn: Mesh, other: Mesh, upto_mm: float | None = None) -> SurfaceStrokes:
    """Return the gap from one body to another over the surface of the one that faces it.

    Args:
        one: in mm; ``drawn`` the same in numbers of its file.
        other: the other body, where it is tried, in mm.
        upto_mm: the greatest gap that is drawn; where it is not told the greatest that there is up to 2 mm.
    """
    most = upto_mm or _USUAL_MM
    canvas = Canvas(_near(one, other, most), drawn)
    gaps, facing = _gaps(canvas.parts, other, most)
    middle = gaps.mean(axis=1)
    shown = facing & (middle <= most)
    if upto_mm is None and shown.any():
        most = max(float(middle[shown].max()), _FINEST_MM)
    step = max(round_step(most / _LEVELS), _FINEST_MM)
    widest = float(one.extents().max()) / _LINES
    bands = [canvas.hatch("into each other", shown & (middle < 0), widest / 8)]
    low = 0.0
    for third, density in zip((1, 2, 3), _DENSITIES, strict=True):
        high = third * most / 3 * (1 + 1e-9)
        chosen = shown & (middle >= low) & (middle < high)
        bands.append(canvas.hatch(f"up to {written(high, 2)} mm", chosen, widest / density))
        low = high
    bands += _contours(canvas, gaps, shown, step, most)
    return SurfaceStrokes(origin=canvas.origin, bands=with_strokes(bands))


def _contours(
    canvas: Canvas, gaps: Floats, shown: NDArray[np.bool_], step: float, upto_mm: float
) -> list[StrokeBand]:
    levels = np.arange(1, floor(upto_mm / step) + 1) * step
    return [canvas.contour(f"{level:.4g}", gaps, float(level), shown) for level in levels]


def _near(one: Mesh, other: Mesh, upto_mm: float) -> SurfaceParts:
    """Divide the triangles that can be so near to another body, by its box; the rest is not drawn."""
    low, high = other.bounds()
    corners = one.vertices[one.faces]
    near = ((corners.max(axis=1) >= low - upto_mm) & (corners.min(axis=1) <= high + upto_mm)).all(axis=1)
    numbers = np.flatnonzero(near)
    parts = divided(Mesh(one.vertices, one.faces[numbers]), _PARTS)
    return SurfaceParts(one, numbers[parts.face], parts.weights)


def _gaps(parts: SurfaceParts, other: Mesh, upto_mm: float) -> tuple[Floats, NDArray[np.bool_]]:
    """Return (n, 3) how far the corners of parts are from another body, and (n,) whether each part faces it.

    The distance of what is within the other body is below 0.
    """
    corners = parts.corners(parts.mesh).reshape(-1, 3)
    places, where = np.unique(corners.round(9), axis=0, return_inverse=True)
    faces = other.faces.astype(np.int64)
    vertices = np.ascontiguousarray(other.vertices)
    squares, hit, nearest = igl.point_mesh_squared_distance(places, vertices, faces)
    away = np.sqrt(squares)
    # Only what is near enough to be drawn is asked whether it is within: that takes longer.
    asked = away <= upto_mm
    inside = np.zeros(len(places), bool)
    if asked.any():
        inside[asked] = igl.fast_winding_number(vertices, faces, places[asked]) > 0.5
    size = float(parts.mesh.extents().max())
    inside &= away > _TOUCHING * size  # Of a place that touches, rounding tells on which side it is.
    signed = np.where(inside, -away, away)[where.ravel()].reshape(-1, 3)
    outward = -parts.middles().inward
    ways = ((nearest - places)[where.ravel()].reshape(-1, 3, 3)).mean(axis=1)
    length = np.linalg.norm(ways, axis=1)
    cosine = np.einsum("ij,ij->i", ways, outward) / np.maximum(length, 1e-300)
    # Where surfaces touch there is no way from one to the other: then they are to look at each other.
    normals = other.area_vectors[hit[where.ravel()].reshape(-1, 3)[:, 0]]
    against = np.einsum("ij,ij->i", normals, outward) <= -_FACING * np.linalg.norm(normals, axis=1)
    touching = length <= _TOUCHING * size
    within = signed.mean(axis=1) < 0
    return signed, within | np.where(touching, against, cosine >= _FACING)


def round_step(most: float) -> float:
    """Return the greatest of 1, 2 and 5 times a power of ten that is not above a length."""
    power = 10.0 ** floor(log10(most))
    return max(times * power for times in (1, 2, 5) if times * power <= most * (1 + 1e-9))
