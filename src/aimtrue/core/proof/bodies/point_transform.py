"""The chain from the number in a file to the plate, as the screens state it, worked out from decisions alone.

    number x unit, up turned to Z, brought home -> stretch along a direction -> factor per axis -> clearance
    -> kept bores -> shrinkage -> turns of the seat -> where the kit stands

Source: docs/architecture.md, "From the file to the plate". Lengths are in mm, matrices act on columns.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.spatial.transform import Rotation

from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import Correction, KeptBore, Shrinkage
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.seats import Seat
from aimtrue.core.model.source import Source
from aimtrue.core.proof.ownership import OwnedValues, decisions_of, home_of, source_of
from aimtrue.core.proof.surface import Points

MM: dict[Unit, float] = {
    Unit.UM: 0.001,
    Unit.MM: 1.0,
    Unit.CM: 10.0,
    Unit.M: 1000.0,
    Unit.IN: 25.4,
    Unit.FT: 12 * 25.4,
}
"""Millimetres per unit (the inch by the agreement of 1959)."""
_ON_WALL = 3e-3
"""A corner is on the wall of a kept bore when it is nearer than this share of the radius."""


@dataclass(frozen=True, eq=False)
class PointTransform:
    """What is done to every point of a body, before it is moved to its place.

    Attributes:
        body, source: whose chain it is.
        correction, shrinkage: what is in force for it, of its kit or its own.
        scale: mm per number of the file.
        home: (3,): what brings a lost model home, in numbers of the file.
        matrix, shift: (3, 3) and (3,): from numbers of the file to mm, with correction and clearance.
        stretch, offset: (3,) each: the clearance in these: true size times the one, plus the other.
        grow: (3,): what makes up for shrinkage, about the common origin.
        turn: (3, 3): mirroring and turns of the seat; none where bodies are released where the file has them.
    """

    body: Body
    source: Source
    correction: Correction
    shrinkage: Shrinkage
    scale: float
    home: Points
    matrix: Points
    shift: Points
    stretch: Points
    offset: Points
    grow: Points
    turn: Points

    @property
    def most(self) -> float:
        """The greatest stretch of it all, in mm per number of the file."""
        return float(np.linalg.norm(self.grow[:, None] * self.matrix, 2))

    def points(self, numbers: Points) -> Points:
        """Bring (n, 3) numbers of the file to mm, kept bores at their diameter, turned as seated."""
        moved = numbers @ self.matrix.T + self.shift
        for bore in self.body.kept:
            moved = self._bored(moved, numbers, bore)
        grown = moved if self.plainly_grown else moved * self.grow
        return np.asarray(grown if self.upright else grown @ self.turn.T)

    @property
    def upright(self) -> bool:
        """Whether nothing is turned or mirrored."""
        return bool((self.turn == np.eye(3)).all())

    @property
    def plainly_grown(self) -> bool:
        """Whether nothing is added for shrinkage."""
        return bool((self.grow == 1).all())

    def plain(self, numbers: Points) -> Points:
        """The same without kept bores."""
        return np.asarray(((numbers @ self.matrix.T + self.shift) * self.grow) @ self.turn.T)

    def direction(self, way: Points) -> Points:
        """Bring a direction of the file to the file released; (3,), a unit vector."""
        turned = self.turn @ (self.grow * (self.matrix @ way))
        return np.asarray(turned / np.linalg.norm(turned))

    def unturned(self, points: Points) -> Points:
        """Bring (n, 3) points of the released file back to the body's own axes, shrinkage taken off."""
        return np.asarray((points @ self.turn) / self.grow)

    def on_wall(self, numbers: Points, bore: KeptBore) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
        """Which of (n, 3) numbers of the file are on the wall of a kept bore."""
        radius = bore.diameter / 2
        from_middle = numbers - np.array(bore.point)
        height = from_middle @ np.array(bore.direction)
        aside = np.sqrt(np.maximum((from_middle**2).sum(axis=1) - height**2, 0.0))
        slack = _ON_WALL * radius
        return np.asarray(
            (abs(aside - radius) <= slack) & (abs(height) <= bore.depth / 2 * (1 + 1e-6) + slack)
        )

    def bore_mm(self, bore: KeptBore) -> float:
        """The diameter that a kept bore is to have: the one in the file, in its unit."""
        return bore.diameter * self.scale

    def _bored(self, moved: Points, numbers: Points, bore: KeptBore) -> Points:
        here = self.on_wall(numbers, bore)
        middle = self.matrix @ np.array(bore.point) + self.shift
        axis = self.matrix @ np.array(bore.direction)
        axis = axis / math.sqrt(axis @ axis)
        away = moved[here] - middle
        foot = middle + np.outer(away @ axis, axis)
        out = moved[here] - foot
        out /= np.sqrt((out**2).sum(axis=1))[:, None]
        result = moved.copy()
        result[here] = foot + out * self.bore_mm(bore) / 2
        return result


def chain_of(job: OwnedValues, body: Body, seat: Seat | None) -> PointTransform:
    """Work out the chain of a body.

    Args:
        job: with the decisions.
        body: whose unit is settled.
        seat: how it stands on the plate; None where it is released in its own place.
    """
    source = source_of(job, body.source)
    assert source.unit is not None
    scale = MM[source.unit]
    matrix = scale * upright(source.up)
    correction, home = decisions_of(job, body).correction, np.array(home_of(job, body))
    shrinkage = decisions_of(job, body).shrinkage
    if correction.along is not None:
        way = np.array(correction.along.direction)
        matrix = matrix + (correction.along.factor - 1) * np.outer(way, way @ matrix)
    matrix = np.array(correction.factors)[:, None] * matrix
    shift = matrix @ home
    stretch, middle = _clearance(body, correction, scale, matrix, shift)
    turn = np.diag([-1.0 if seat is not None and seat.mirrored else 1.0, 1.0, 1.0])
    for seat_turn in seat.turns if seat is not None else ():
        axis = seat_turn.about or {"x": (1, 0, 0), "y": (0, 1, 0), "z": (0, 0, 1)}[seat_turn.axis]
        turn = Rotation.from_rotvec(math.radians(seat_turn.degrees) * np.array(axis)).as_matrix() @ turn
    return PointTransform(
        body,
        source,
        correction,
        shrinkage,
        scale,
        home,
        stretch[:, None] * matrix,
        stretch * (shift - middle) + middle,
        stretch,
        middle * (1 - stretch),
        1 / (1 - np.array(shrinkage.shares)),
        turn,
    )


def upright(up: str) -> Points:
    """The axes of the file as rows: X, Y and Z of the job."""
    x, y, z = np.eye(3)
    return {"z": np.array([x, y, z]), "y": np.array([x, -z, y]), "x": np.array([y, z, x])}[up]


def _clearance(
    body: Body, correction: Correction, scale: float, matrix: Points, shift: Points
) -> tuple[Points, Points]:
    """Return how much a clearance stretches a body, and its middle, about which it does.

    The bounds in numbers of the file are the job's; that the body has them is a check of its own.
    """
    more = np.array(body.clearance.mm)
    if not more.any():
        return np.ones(3), np.zeros(3)
    if correction.along is not None and body.stretched is not None:
        # These are in the axes of the job already, with the stretch in them.
        ends = np.array([body.stretched.low, body.stretched.high]) * scale * np.array(correction.factors)
    else:
        ends = np.array([body.low, body.high]) @ matrix.T
    size = abs(ends[1] - ends[0])
    more = np.where(size + more > 0, more, 0.0)
    stretch = np.where(size > 0, 1 + more / np.where(size > 0, size, 1.0), 1.0)
    return stretch, ends.mean(axis=0) + shift
