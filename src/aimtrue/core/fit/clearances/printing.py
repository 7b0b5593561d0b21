"""This module says what the clearance of a pair will be once it is printed, if the machine was measured."""

from __future__ import annotations

import numpy as np

from aimtrue.core.fit.pairs.values import FoundPair
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.pairs import ROUND_KINDS, PairKind
from aimtrue.core.model.print_lines import ExpectedSize, SizeForm, expected_clearance, expected_size
from aimtrue.core.model.value import AXES, Axis


def printed_clearance(job: Job, pair: FoundPair) -> ExpectedSize | None:
    """Return the clearance to expect between two printed sides; None where no machine was measured.

    Args:
        job: that the pair is of.
        pair: as it is released. One without sizes, such as facing planes, has nothing that is told of it.
    """
    bodies = job.body(pair.a.body), job.body(pair.b.body)
    if not pair.sizes_mm or not any(job.shrinkage_of(body).calibrated for body in bodies):
        return None
    axis = dominant(np.asarray(pair.along))
    outer, inner = (
        printed(job, body, size, form, axis)
        for body, size, form in zip(bodies, pair.sizes_mm[:2], forms_of(pair.kind), strict=True)
    )
    gap = expected_clearance(outer, inner)
    # Of an oval the clearance is the least there is, not that between the sizes that are told.
    changed = gap.mm - (pair.sizes_mm[0] - pair.sizes_mm[1])
    return ExpectedSize(pair.clearance_mm + changed, gap.uncertainty_mm)


def forms_of(kind: PairKind) -> tuple[SizeForm, SizeForm]:
    """Return what the outer and the inner size of a pair are."""
    return ("hole", "shaft") if kind in ROUND_KINDS else ("inside", "outside")


def printed(job: Job, body: Body, file_mm: float, form: SizeForm, axis: Axis) -> ExpectedSize:
    """Return what a size of a body is expected to measure when it is printed; see :func:`expected_size`."""
    shrinkage = job.shrinkage_of(body)
    return expected_size(
        file_mm,
        form=form,
        axis=axis,
        shrinkage=shrinkage.shares,
        uncertainty=shrinkage.uncertainty,
        lines=shrinkage.lines,
    )


def dominant(way: Floats) -> Axis:
    """Return the axis that a direction is nearest to."""
    return AXES[int(np.abs(way).argmax())]
