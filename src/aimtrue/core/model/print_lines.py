"""This module says what a machine makes of a size: straight lines from the size in the file to that printed.

They are fitted to measured parts in :mod:`aimtrue.core.fit.inspection`, and kept with the shrinkage that was
found with them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot
from typing import Literal

from aimtrue.core.model.value import AXES, Axis, Value, Vec3

SizeForm = Literal["outside", "inside", "hole", "shaft"]
"""Outside: between flat faces that look away from each other. Inside: between such that look at each other.
Holes and shafts are round: their axis is that which they are around, and they lie across it.
"""
ROUND_FORMS: tuple[SizeForm, ...] = ("hole", "shaft")


class PrintLine(Value):
    """What a machine makes of sizes of one form along one axis; of round ones that which they are around.

    Attributes:
        form, axis: of the sizes that it is a line through.
        offset_mm, share: a size of ``n`` mm is printed ``offset_mm + (1 + share) n`` long.
        uncertainty_mm: twice the standard deviation of a part about the line.
        count: how many measured sizes it goes through.
    """

    form: SizeForm
    axis: Axis
    offset_mm: float
    share: float
    uncertainty_mm: float
    count: int


@dataclass(frozen=True)
class ExpectedSize:
    """How long something will be when it is printed, in mm, give or take ``uncertainty_mm``."""

    mm: float
    uncertainty_mm: float


def across(form: SizeForm, axis: Axis) -> list[int]:
    """Return the numbers of the axes that a size lies along: those that a round one is not around."""
    return [i for i, name in enumerate(AXES) if (name != axis) == (form in ROUND_FORMS)]


def expected_size(
    file_mm: float,
    *,
    form: SizeForm,
    axis: Axis,
    shrinkage: Vec3,
    uncertainty: Vec3,
    lines: Sequence[PrintLine],
) -> ExpectedSize:
    """Return what a size is expected to measure when it is printed.

    Args:
        file_mm: as it is in the released file.
        form, axis: of the size.
        shrinkage, uncertainty: shares per axis by which the material shrinks, and by which that may be off.
        lines: what is known of the machine; where none is of this form and axis the shrinkage alone tells.
    """
    for line in lines:
        if (line.form, line.axis) == (form, axis):
            return ExpectedSize(line.offset_mm + (1 + line.share) * file_mm, line.uncertainty_mm)
    along = across(form, axis)
    share = sum(shrinkage[i] for i in along) / len(along)
    off = file_mm * max(uncertainty[i] for i in along)
    # What is known of other forms says how much parts differ, if not how much this form is off.
    return ExpectedSize((1 - share) * file_mm, max(off, *(line.uncertainty_mm for line in lines), 0.0))


def expected_clearance(outer: ExpectedSize, inner: ExpectedSize) -> ExpectedSize:
    """Return the clearance between two printed sizes; that one is off says nothing of the other."""
    return ExpectedSize(outer.mm - inner.mm, hypot(outer.uncertainty_mm, inner.uncertainty_mm))
