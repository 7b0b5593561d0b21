"""Whether a seated body is inside its machine."""

from __future__ import annotations

import numpy as np

from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.job import AXES, Axis, Value, Vec3
from aimtrue.core.model.machine import Machine

_SLACK_MM = 1e-6
"""A body exactly as large as the machine fits; float rounding must not say otherwise."""


class Excess(Value):
    """How far a body is over the machine along one axis."""

    axis: Axis
    over_mm: float


class Room(Value):
    """Where a seated body is, and whether that is inside the machine.

    ``low`` and ``high`` are in mm from the front left corner of the plate; ``left_mm`` is what is
    left at the tightest side, below zero when the body is outside.
    """

    low: Vec3
    high: Vec3
    inside: bool
    left_mm: float
    excess: tuple[Excess, ...]


def room_of(bounds: Floats, machine: Machine) -> Room:
    """Hold seated (2, 3) bounds against the machine's volume."""
    low, high = bounds
    over = np.maximum(high - np.asarray(machine.volume), -low)
    excess = tuple(
        Excess(axis=axis, over_mm=float((high - low)[i] - machine.volume[i]))
        for i, axis in enumerate(AXES)
        if over[i] > _SLACK_MM
    )
    return Room(
        low=(float(low[0]), float(low[1]), float(low[2])),
        high=(float(high[0]), float(high[1]), float(high[2])),
        inside=not excess,
        left_mm=_left(low, high, machine),
        excess=excess,
    )


def fits_as_it_lies(sizes: Vec3, machine: Machine) -> bool:
    """Tell whether a body of these sizes goes into the machine without being turned."""
    return all(size <= room + _SLACK_MM for size, room in zip(sizes, machine.volume, strict=True))


def _left(low: Floats, high: Floats, machine: Machine) -> float:
    """What is left at the tightest side; the plate itself, on which a body stands, is none."""
    beside = np.minimum(low[:2], np.asarray(machine.volume[:2]) - high[:2])
    return float(min(beside.min(), machine.volume[2] - high[2]))
