"""This module says whether what is seated is inside its machine."""

from __future__ import annotations

from dataclasses import dataclass

from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.machine import NO_MARGINS, SLACK_MM, Machine
from aimtrue.core.model.value import AXES, Axis, Vec3
from aimtrue.core.model.vectors import as_vec3


@dataclass(frozen=True, slots=True)
class Excess:
    """How far a body is over the machine along one axis.

    ``over_mm`` is by how much it is too long, below 0 for one that would fit but stands beside; ``beyond_mm``
    how far it reaches out.
    """

    axis: Axis
    over_mm: float
    beyond_mm: float = 0.0


@dataclass(frozen=True, slots=True)
class RoomCheck:
    """Where something seated is, and whether that is inside the machine.

    ``low`` and ``high`` are in mm from the front left corner of the plate; ``left_mm`` is what is
    left at the tightest side, below zero when it is outside; ``in_margin_mm`` how far it is in what is to be
    kept free, though inside.
    """

    low: Vec3
    high: Vec3
    inside: bool
    left_mm: float
    excess: tuple[Excess, ...]
    in_margin_mm: float = 0.0


def room_of(bounds: Floats, machine: Machine, plan: Floats | None = None) -> RoomCheck:
    """Hold seated (2, 3) bounds against the machine's volume.

    Args:
        bounds: of what is seated, in mm.
        machine: that it is to be made in.
        plan: (k, 2) its corners seen from above, for volumes that are not boxes.
    """
    low, high = bounds
    over = machine.volume.over(bounds, plan)
    free, room = machine.kept_free, machine.volume.room
    near = over if free == NO_MARGINS else machine.volume.over(bounds, plan, free)
    excess = tuple(
        Excess(axis=axis, over_mm=float(high[i] - low[i] - room[i]), beyond_mm=over[i])
        for i, axis in enumerate(AXES)
        if over[i] > SLACK_MM
    )
    margin = max(near)
    return RoomCheck(
        low=as_vec3(low),
        high=as_vec3(high),
        inside=not excess,
        left_mm=machine.volume.left(bounds),
        excess=excess,
        in_margin_mm=margin if not excess and margin > SLACK_MM else 0.0,
    )


def fits_as_it_lies(sizes: Vec3, machine: Machine) -> bool:
    """Tell whether a body of these sizes goes into the machine without being turned."""
    return all(size <= room + SLACK_MM for size, room in zip(sizes, machine.volume.room, strict=True))
