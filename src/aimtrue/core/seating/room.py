"""Whether a seated body is inside its machine."""

from __future__ import annotations

from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.job import AXES, Axis, Value, Vec3
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.vectors import as_vec3

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
    over = machine.volume.over(bounds)
    excess = tuple(
        Excess(axis=axis, over_mm=float((high - low)[i] - machine.volume.room[i]))
        for i, axis in enumerate(AXES)
        if over[i] > _SLACK_MM
    )
    return Room(
        low=as_vec3(low),
        high=as_vec3(high),
        inside=not excess,
        left_mm=machine.volume.left(bounds),
        excess=excess,
    )


def fits_as_it_lies(sizes: Vec3, machine: Machine) -> bool:
    """Tell whether a body of these sizes goes into the machine without being turned."""
    return all(size <= room + _SLACK_MM for size, room in zip(sizes, machine.volume.room, strict=True))
