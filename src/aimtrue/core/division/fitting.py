"""This module says how many pieces a body has to become to go into a machine, and where to cut."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import permutations

import numpy as np
import shapely

from aimtrue.core.division.cutting.planes import across, evenly
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.shaping import Plane
from aimtrue.core.model.value import AXES, Axis, Vec3

_SLACK_MM = 1e-6
_MOST_PIECES = 2000
"""More pieces are a slip of the key; a plane is laid for each before anything is cut."""


@dataclass(frozen=True)
class MachineFit:
    """What a machine asks of a body.

    Attributes:
        room_mm: what is free of it along the axes, margins taken off.
        counts: pieces per axis.
        planes: that divide the body evenly.
    """

    room_mm: Vec3
    counts: tuple[int, int, int]
    planes: tuple[Plane, ...]

    @property
    def pieces(self) -> int:
        """How many pieces that makes of a full box."""
        return math.prod(self.counts)


def room_in(machine: Machine) -> Vec3:
    """Return the box that is free in a machine: of a round plate the square in its circle."""
    x, y, z = machine.free
    if machine.volume.shape == "round":
        x = y = min(x, y) / math.sqrt(2)
    return (x, y, z)


def over_in(machine: Machine, points: Floats) -> Vec3:
    """Return by how much a piece is too large for a machine as it lies, in mm per axis.

    Args:
        machine: with its margins.
        points: (n, 3) the piece's corners in mm. On a round plate its smallest circle counts.
    """
    x, y, z = machine.free
    wide, deep, high = np.ptp(points, axis=0).tolist()
    if machine.volume.shape == "round":
        wide = deep = 2 * float(shapely.minimum_bounding_radius(shapely.MultiPoint(points[:, :2])))
    over = [max(0.0, size - room) for size, room in zip((wide, deep, high), (x, y, z), strict=True)]
    return (over[0], over[1], over[2]) if max(over) > _SLACK_MM else (0.0, 0.0, 0.0)


def over_turned(machine: Machine, points: Floats) -> Vec3:
    """Return the same in the quarter turn that it is least too large in."""
    ways = [over_in(machine, points[:, list(order)]) for order in permutations(range(3))]
    return min(ways, key=max)


def fit_into(machine: Machine, bounds: Floats, *, turned: bool = False, longer: float = 0.0) -> MachineFit:
    """Return how many pieces of a body fit a machine, cut evenly.

    Raises:
        Refused: it would be thousands of pieces.

    Args:
        machine: that they are to be made in.
        bounds: (2, 3) of the body in mm.
        turned: whether it may be turned by quarters, the same for all its pieces; else as it lies.
        longer: by how much pins make a piece longer across a cut, in mm.
    """
    size = bounds[1] - bounds[0]
    ways = permutations(room_in(machine)) if turned else (room_in(machine),)
    rooms = [_room_for_pieces(size, room, longer) for room in ways]
    # Of as many pieces, as it lies: that comes first.
    room = min(rooms, key=lambda room: math.prod(_counts(size, room)))
    counts = _counts(size, room)
    if math.prod(counts) > _MOST_PIECES:
        raise Refused(
            "too-many-pieces",
            f"that would be {math.prod(counts):,} pieces, and {_MOST_PIECES:,} at most are made",
            remedy="take a larger machine, or a smaller margin",
        )
    planes = tuple(
        plane
        for i, axis in enumerate(AXES)
        for plane in evenly(axis, float(bounds[0][i]), float(bounds[1][i]), counts[i])
    )
    return MachineFit((room[0], room[1], room[2]), (counts[0], counts[1], counts[2]), planes)


def _room_for_pieces(size: Floats, room: Sequence[float], longer: float) -> tuple[float, ...]:
    """The room that a piece may take without its pins: along an axis that needs no cut there are none."""
    if any(side <= longer for side in room):
        raise Refused(
            "pins", f"pins {longer:g} mm long do not go into the machine", remedy="make them shorter"
        )
    return tuple(side if size[i] - _SLACK_MM <= side else side - longer for i, side in enumerate(room))


def _counts(size: Floats, room: Sequence[float]) -> list[int]:
    return [max(1, math.ceil((size[i] - _SLACK_MM) / room[i])) for i in range(3)]


def at_seams(fit: MachineFit, bounds: Floats, seams: Mapping[Axis, Sequence[float]]) -> tuple[Plane, ...]:
    """Return the planes of a fit moved to seams, where that leaves every piece small enough.

    Args:
        fit: as :func:`fit_into` found it.
        bounds: (2, 3) of the body.
        seams: per axis, places where a cut would hide, the best first.
    """
    planes: list[Plane] = []
    for i, axis in enumerate(AXES):
        low, high, room = float(bounds[0][i]), float(bounds[1][i]), fit.room_mm[i]
        at, count = low, fit.counts[i]
        for number in range(1, count):
            # Far enough that the rest fits into the pieces that are left, near enough that this one fits.
            least, most = high - (count - number) * room, min(at + room, high)
            even = min(max(low + (high - low) * number / count, least), most)
            good = [seam for seam in seams.get(axis, ()) if max(least, at) + 1e-6 < seam < most - 1e-6]
            at = good[0] if good else even
            planes.append(across(axis, at))
    return tuple(planes)
