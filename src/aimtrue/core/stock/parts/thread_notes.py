"""This module says of a thread whether a machine can make it, and what its clearance means."""

from __future__ import annotations

from aimtrue.core.model.threads import HEIGHT, METRIC_THREADS, ThreadSize
from aimtrue.core.stock.parts.values import ThreadCutting

LEAST_LAYERS = 3
"""Layers that a pitch needs at least, so that a flank has one of its own; a starting value."""
_DEPTH = 17 / 24 * HEIGHT
"""Depth of an external thread, as a share of its pitch."""


def makeable(pitch: float, bead_mm: float, layer_mm: float) -> bool:
    """Whether a machine can make a thread: it is as deep as a bead is wide, and has layers enough.

    Args:
        pitch: of the thread, in mm.
        bead_mm, layer_mm: of the machine; 0 where it is not known.
    """
    return _DEPTH * pitch >= bead_mm and pitch >= LEAST_LAYERS * layer_mm


def smallest_makeable(bead_mm: float, layer_mm: float) -> ThreadSize | None:
    """Return the smallest coarse metric thread that a machine can make."""
    return next(
        (thread for thread in METRIC_THREADS if thread.coarse and makeable(thread.pitch, bead_mm, layer_mm)),
        None,
    )


def thread_notes(size: ThreadSize, cutting: ThreadCutting) -> tuple[str, ...]:
    """Say what is odd about cutting a thread; nothing of one that is drawn plain."""
    if not cutting.cut or makeable(size.pitch, cutting.bead_mm, cutting.layer_mm):
        return ()
    least = smallest_makeable(cutting.bead_mm, cutting.layer_mm)
    can = f"the smallest that it can is {least.name}" if least else "it can make none up to M24"
    return (
        f"a pitch of {size.pitch:.4g} mm is finer than the machine can make with a bead of "
        f"{cutting.bead_mm:g} mm and layers of {cutting.layer_mm:g} mm; {can}",
    )
