"""This module says how much a machine and material print off size, from a measured test part.

Per axis the printed size is taken as ``(1 - s)`` times the nominal. Least squares through the origin over
all pairs ``n`` (nominal) and ``m`` (measured) of an axis gives ``1 - s = Σ n m / Σ n²``. Its uncertainty is
twice the standard deviation that the fineness of each measurement leaves in it, ``u / sqrt(Σ n²)``, or that
of the scatter about the line when that is larger.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from aimtrue.core.errors import Refused
from aimtrue.core.model.print_lines import PrintLine
from aimtrue.core.model.text import refuse_odd
from aimtrue.core.model.value import AXES, Axis, Value, Vec3

MOST = 0.2
"""A shrinkage beyond this is a slip, not a plastic."""


class Pair(Value):
    """One size of a test part: nominal and measured, in mm."""

    axis: Axis
    nominal_mm: float
    measured_mm: float


class Calibration(Value):
    """Per-axis shrinkage of a machine and material, as shares, with its uncertainty.

    ``assumed`` are axes that were not measured and take the mean of the others. ``lines`` tell more, where
    parts were measured at several sizes.
    """

    machine: str
    material: str
    shrinkage: Vec3
    uncertainty: Vec3
    assumed: tuple[Axis, ...] = ()
    pairs: tuple[Pair, ...] = ()
    lines: tuple[PrintLine, ...] = ()


@dataclass(frozen=True)
class _Line:
    share: float
    uncertainty: float


def calibrated(machine: str, material: str, pairs: Sequence[Pair], fineness_mm: float) -> Calibration:
    """Work out the shrinkage per axis.

    Args:
        machine, material: what was printed with.
        pairs: nominal and measured sizes.
        fineness_mm: how finely they were measured (half of the band it leaves).

    Raises:
        Refused: there is no pair, or one is beyond reason.
    """
    refuse_odd(machine, "a machine's name")
    refuse_odd(material, "a material's name")
    if not pairs:
        raise Refused("no-pairs", "no size was measured", remedy="type a nominal and a measured size")
    for pair in pairs:
        if abs(1 - pair.measured_mm / pair.nominal_mm) > MOST:
            raise Refused(
                "pair-absurd",
                f"{pair.measured_mm:g} measured on {pair.nominal_mm:g} nominal is over 20 % off",
                where=f"axis {pair.axis.upper()}",
                remedy="check both numbers and their unit",
            )
    lines = {axis: _line([pair for pair in pairs if pair.axis == axis], fineness_mm) for axis in AXES}
    known = [line for line in lines.values() if line is not None]
    mean = _Line(
        sum(line.share for line in known) / len(known),
        max(max(line.uncertainty for line in known), _spread([line.share for line in known])),
    )
    x, y, z = (lines[axis] or mean for axis in AXES)
    return Calibration(
        machine=machine,
        material=material,
        shrinkage=(x.share, y.share, z.share),
        uncertainty=(x.uncertainty, y.uncertainty, z.uncertainty),
        assumed=tuple(axis for axis in AXES if lines[axis] is None),
        pairs=tuple(pairs),
    )


def _line(pairs: list[Pair], fineness_mm: float) -> _Line | None:
    if not pairs:
        return None
    squares = sum(pair.nominal_mm**2 for pair in pairs)
    slope = sum(pair.nominal_mm * pair.measured_mm for pair in pairs) / squares
    # Half a band is about two standard deviations of an even spread within it.
    from_fineness = fineness_mm / math.sqrt(squares)
    scatter = 0.0
    if len(pairs) > 1:
        off = sum((pair.measured_mm - slope * pair.nominal_mm) ** 2 for pair in pairs)
        scatter = 2 * math.sqrt(off / (len(pairs) - 1)) / math.sqrt(squares)
    return _Line(1 - slope, max(from_fineness, scatter))


def _spread(shares: list[float]) -> float:
    return (max(shares) - min(shares)) / 2
