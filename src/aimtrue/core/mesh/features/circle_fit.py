"""This module fits circles through points about an axis, and gives the axes of a plane."""

from __future__ import annotations

from math import radians

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.directions import plane_axes
from aimtrue.core.mesh.mesh import Floats

Indices = NDArray[np.integer]


def fit_circle(points: Floats, axis: Floats) -> tuple[Floats, float, float] | None:
    """Fit a circle to (n, 3) points seen along an axis.

    Algebraic least squares (Kåsa 1976) for a start, then Gauss-Newton on the true distances.

    Returns:
        Centre, radius, and the greatest distance of a point from the circle; None for too few points.
    """
    if len(points) < 3:
        return None
    u, v = plane_axes(axis)
    origin = points.mean(axis=0)
    x, y = (points - origin) @ u, (points - origin) @ v
    scale = float(max(np.abs(x).max(), np.abs(y).max())) or 1.0
    x, y = x / scale, y / scale
    system = np.column_stack([2 * x, 2 * y, np.ones(len(x))])
    cx, cy, rest = np.linalg.lstsq(system, x * x + y * y, rcond=None)[0]
    radius = float(np.sqrt(max(rest + cx * cx + cy * cy, 1e-30)))
    for _ in range(4):
        away = np.hypot(x - cx, y - cy)
        if away.min() <= 0:
            return None
        slope = np.column_stack([-(x - cx) / away, -(y - cy) / away, -np.ones(len(x))])
        dx, dy, dr = np.linalg.lstsq(slope, radius - away, rcond=None)[0]
        cx, cy, radius = cx + dx, cy + dy, radius + dr
    off = float(np.abs(np.hypot(x - cx, y - cy) - radius).max())
    return origin + scale * (cx * u + cy * v), radius * scale, off * scale


def turn_about(away: Floats, axis: Floats) -> tuple[float, Indices]:
    """Return how much of a full turn points cover, and their order around, starting after the gap."""
    u, v = plane_axes(axis)
    angle = np.arctan2(away @ v, away @ u)
    order = np.argsort(angle)
    gaps = np.diff(np.append(angle[order], angle[order[0]] + 2 * np.pi))
    widest = int(gaps.argmax())
    # Corners of a full turn leave only the gap of one facet.
    facet = float(np.median(gaps[gaps > 1e-6])) if (gaps > 1e-6).any() else 0.0
    turn = 2 * np.pi if gaps[widest] < max(1.6 * facet, radians(1)) else 2 * np.pi - float(gaps[widest])
    return turn, np.roll(order, -(widest + 1))
