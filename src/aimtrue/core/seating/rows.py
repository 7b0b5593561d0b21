"""Bodies side by side on a plate, in a row."""

from __future__ import annotations

import numpy as np

from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.machine import Machine

GAP_MM = 5.0
"""Between bodies that are put on the plate side by side."""


def seat_shifts(bounds: list[Floats], machine: Machine) -> list[Floats]:
    """Return the (3,) moves that put turned (2, 3) bounds down on the plate.

    Several stand in a row along X with a gap between them, each centred in Y; the row is centred.
    """
    widths = [high[0] - low[0] for low, high in bounds]
    at = (machine.volume.room[0] - sum(widths) - GAP_MM * (len(widths) - 1)) / 2
    shifts = []
    for (low, high), width in zip(bounds, widths, strict=True):
        shifts.append(np.array([at - low[0], machine.volume.room[1] / 2 - (low[1] + high[1]) / 2, -low[2]]))
        at += width + GAP_MM
    return shifts
