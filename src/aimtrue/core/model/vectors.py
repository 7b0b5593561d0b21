"""Numbers of three axes as plain values."""

from __future__ import annotations

import numpy as np

from aimtrue.core.model.value import Vec3


def as_vec3(numbers: object) -> Vec3:
    """Return three numbers as plain floats."""
    x, y, z = np.asarray(numbers, dtype=np.float64).tolist()
    return (x, y, z)
