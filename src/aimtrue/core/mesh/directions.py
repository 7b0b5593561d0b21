"""This module gives unit vectors along a direction and square to it."""

from __future__ import annotations

import numpy as np

from aimtrue.core.mesh.mesh import Floats


def snapped(direction: Floats) -> Floats:
    """Return the unit vector along a direction, exactly an axis when it is one but for rounding."""
    unit = direction / np.linalg.norm(direction)
    axis = int(np.abs(unit).argmax())
    if np.linalg.norm(np.delete(unit, axis)) < 2e-6:
        return np.asarray(np.eye(3)[axis] * np.sign(unit[axis]))
    return np.asarray(unit)


def plane_axes(normal: Floats) -> tuple[Floats, Floats]:
    """Return two unit vectors square to a unit vector and to each other, along axes where possible."""
    least = np.eye(3)[int(np.abs(normal).argmin())]
    u = np.cross(normal, np.cross(least, normal))
    u = snapped(u)
    return u, snapped(np.cross(normal, u))
