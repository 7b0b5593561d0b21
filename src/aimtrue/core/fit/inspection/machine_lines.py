"""This module fits straight lines to measured parts: what the machine makes of sizes, by form and axis.

A line ``m = a + (1 + s) n`` goes through measured sizes ``m`` over those in the file ``n`` by least squares.
Where all sizes are about the same they cannot tell an offset from a scale: then an outside one is taken to be
scaled, and any other to be off by a length, beside the scale of the outside along the axes it lies along.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.fit.inspection.targets import TargetSize
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.inspection import PrintedPart
from aimtrue.core.model.print_lines import PrintLine, SizeForm, across
from aimtrue.core.model.readings import FINENESS_MM
from aimtrue.core.model.value import AXES, Axis, Vec3
from aimtrue.core.truing.calibration import MOST, Calibration

_PARTS = 3
"""From so many parts on, what is off is the machine's and not one part's."""
_APART = 0.2
"""Sizes that differ by less than this share of the largest are about the same."""
_FORMS: tuple[SizeForm, ...] = ("outside", "inside", "hole", "shaft")


def print_lines(
    sizes: Sequence[TargetSize], parts: Sequence[PrintedPart]
) -> tuple[tuple[PrintLine, ...], str]:
    """Return what a machine makes of sizes, and what is missing for more, in words.

    Args:
        sizes: what can be measured.
        parts: with what was measured on them.
    """
    lines: list[PrintLine] = []
    if len([part for part in parts if part.measured]) < _PARTS:
        return (), f"from {_PARTS} measured parts on it is told what the machine does to sizes"
    for form in _FORMS:
        for axis in AXES:
            points = np.array(list(_points(sizes, parts, form, axis))).reshape(-1, 3)
            if len(np.unique(points[:, 0])) >= _PARTS:
                lines.append(_line(form, axis, points[:, 1], points[:, 2], lines))
    return tuple(lines), "" if lines else f"no size along an axis was measured on {_PARTS} parts"


def _points(
    sizes: Sequence[TargetSize], parts: Sequence[PrintedPart], form: SizeForm, axis: Axis
) -> Iterator[tuple[float, float, float]]:
    """Yield the number of a part, the size in the file that it was printed of, and the size measured."""
    for size in sizes:
        if (size.form, size.axis) == (form, axis):
            for number, part in enumerate(parts):
                measurement = part.of(size.target)
                if measurement is not None:
                    yield number, measurement.file_mm, measurement.mm


def _line(form: SizeForm, axis: Axis, nominal: Floats, measured: Floats, known: list[PrintLine]) -> PrintLine:
    if float(np.ptp(nominal)) > _APART * float(nominal.max()):
        slope, offset = np.polyfit(nominal, measured, 1)
        free = 2
    else:
        along = [AXES[i] for i in across(form, axis)]
        shares = [line.share for line in known if line.form == "outside" and line.axis in along]
        scaled = 1 + (sum(shares) / len(shares) if shares else 0.0)
        slope = float(nominal @ measured) / float(nominal @ nominal) if form == "outside" else scaled
        offset = 0.0 if form == "outside" else float((measured - slope * nominal).mean())
        free = 1
    off = measured - offset - slope * nominal
    spread = 2 * math.sqrt(float(off @ off) / max(1, len(off) - free))
    # How finely a caliper tells each part is in the spread, unless all of them happened to read the same.
    least = FINENESS_MM["caliper"] / math.sqrt(len(off))
    return PrintLine(
        form=form,
        axis=axis,
        offset_mm=float(offset),
        share=float(slope) - 1,
        uncertainty_mm=max(spread, least),
        count=len(off),
    )


def calibration_of(machine: str, material: str, lines: Sequence[PrintLine], shrinkage: Vec3) -> Calibration:
    """Return the calibration that lines tell.

    Args:
        machine, material: what was printed with.
        lines: at least one.
        shrinkage: shares that hold for axes along which no outside size was measured, where none was at all.

    Raises:
        Refused: there is no line, or one is beyond any plastic.
    """
    if not lines:
        raise Refused(
            "no-lines", "too few sizes were measured", remedy=f"measure one along an axis on {_PARTS} parts"
        )
    for line in lines:
        if abs(line.share) > MOST:
            raise Refused(
                "pair-absurd",
                f"{line.form} sizes along {line.axis.upper()} are over 20 % off",
                remedy="check what was measured and its unit",
            )
    outside = {line.axis: line for line in lines if line.form == "outside"}
    shares = {axis: -line.share for axis, line in outside.items()}
    mean = sum(shares.values()) / len(shares) if shares else None
    x, y, z = (shares.get(axis, mean if mean is not None else shrinkage[i]) for i, axis in enumerate(AXES))
    return Calibration(
        machine=machine,
        material=material,
        shrinkage=(x, y, z),
        uncertainty=(0.0, 0.0, 0.0),
        assumed=tuple(axis for axis in AXES if axis not in shares),
        lines=tuple(lines),
    )
