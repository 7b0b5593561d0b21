"""This module says what a pair is meant to do, how much play that takes, and whether it has it.

Starting values are those of the trade for each process: 0.3 to 0.5 mm between parts of filament that move in
each other, 0.1 to 0.2 mm for resin. Whoever knows better types a band, or names a fit of ISO 286.
"""

from __future__ import annotations

from math import inf
from typing import Literal

from aimtrue.core.errors import Refused
from aimtrue.core.fit.clearances.clearance_band import ClearanceBand, banded
from aimtrue.core.fit.clearances.iso286 import clearance_of
from aimtrue.core.model.lengths import parse_offset
from aimtrue.core.model.pairs import FitPair, Intent

INTENTS: tuple[Intent, ...] = ("slides", "snug", "press", "apart")
Verdict = Literal["holds", "may hold", "does not hold"]
ProcessKind = Literal["filament", "resin"]


_BANDS: dict[ProcessKind, dict[Intent, ClearanceBand]] = {
    "filament": {
        "slides": ClearanceBand(low_mm=0.3, high_mm=0.5),
        "snug": ClearanceBand(low_mm=0.1, high_mm=0.3),
        "press": ClearanceBand(low_mm=-0.2, high_mm=0.1),
        "apart": ClearanceBand(low_mm=0.5, high_mm=inf),
    },
    "resin": {
        "slides": ClearanceBand(low_mm=0.1, high_mm=0.2),
        "snug": ClearanceBand(low_mm=0.03, high_mm=0.1),
        "press": ClearanceBand(low_mm=-0.1, high_mm=0.03),
        "apart": ClearanceBand(low_mm=0.2, high_mm=inf),
    },
}


_ROUNDING_MM = 1e-4
"""What float32 lost of a length makes no other clearance."""


def band_of(intent: Intent, process: ProcessKind) -> ClearanceBand:
    """Return the clearance that an intent starts with, for parts that are made by a process."""
    return _BANDS[process][intent]


def wanted(pair: FitPair, process: ProcessKind, nominal_mm: float) -> ClearanceBand:
    """Return the clearances that a pair is to have: as typed, else those of its intent.

    Args:
        pair: with what was typed for it: a band ``0.2..0.4``, or a fit ``H7/g6``.
        process: that the parts are made by.
        nominal_mm: the size that a fit is looked up for.

    Raises:
        Refused: what was typed is neither, or the ends of a band are exchanged.
    """
    typed = pair.typed.strip()
    if not typed:
        return band_of(pair.intent, process)
    if "/" in typed and ".." not in typed:
        return clearance_of(typed, nominal_mm)
    low, dots, high = typed.partition("..")
    if not dots:
        raise Refused(
            "band-unreadable", f"“{typed}” is neither a band nor a fit", remedy="write 0.2..0.4 or H7/g6"
        )
    return banded(parse_offset(low), parse_offset(high))


def verdict(clearance_mm: float, band: ClearanceBand, uncertainty_mm: float = 0.0) -> Verdict:
    """Tell whether a clearance is within a band, however a machine is off by its uncertainty.

    Args:
        clearance_mm: in diameter or width.
        band: that is wanted.
        uncertainty_mm: by how much the printed clearance may differ to either side.
    """
    low, high = band.low_mm - _ROUNDING_MM, band.high_mm + _ROUNDING_MM
    if low <= clearance_mm - uncertainty_mm and clearance_mm + uncertainty_mm <= high:
        return "holds"
    if clearance_mm + uncertainty_mm < low or clearance_mm - uncertainty_mm > high:
        return "does not hold"
    return "may hold"


def intent_met(clearance_mm: float, process: ProcessKind) -> Intent | None:
    """Return which intent a clearance suits as it is; None where it is too tight for all.

    What is on the end of two bands suits the one that moves more easily, but for what never touches.
    """
    for intent in INTENTS:
        band = _BANDS[process][intent]
        if verdict(clearance_mm, band) == "holds":
            return intent
    return None


def freed_by(clearance_mm: float, band: ClearanceBand) -> float:
    """Return by how much, in mm of diameter or width, a clearance is to be opened for the middle of its band.

    Negative where it is to be closed; of a band without an upper end just enough.
    """
    goal = band.low_mm if band.high_mm == inf else (band.low_mm + band.high_mm) / 2
    return goal - clearance_mm
