"""This module tells how much thread of a bolt holds, and which standard length is right."""

from __future__ import annotations

from collections.abc import Sequence

from aimtrue.core.stock.tables.screws import INCH_LENGTHS, METRIC_LENGTHS
from aimtrue.core.stock.through.bore_stack import NEAR_MM
from aimtrue.core.stock.through.tried_bolt import TriedBolt, typed_as, washer_mm
from aimtrue.core.stock.through.values import BoreOnBolt, Ending

_PLASTIC_TURNS = 2.0
"""Diameters of thread that hold in plastic; in steel 1 and in aluminium 1.5 do. A starting value."""


BEYOND_PITCHES = 2.0
"""Pitches that a bolt stands out of its nut, at least."""


def engaged_mm(bolt: TriedBolt, bores: Sequence[BoreOnBolt], ending: Ending, grip: float) -> float:
    """How much thread holds, in mm, with the length that the bolt has."""
    reach = bolt.length - washer_mm(bolt)
    if ending == "tapped":
        tapped = next(bore for bore in bores if bore.role == "tapped")
        return max(0.0, min(reach, tapped.high_mm) - tapped.low_mm)
    if bolt.nut is None or ending == "open":
        return 0.0
    return min(max(0.0, reach - washer_mm(bolt) - grip), bolt.nut.height)


def right_length(bolt: TriedBolt, bores: Sequence[BoreOnBolt], ending: Ending, grip: float) -> float | None:
    """The shortest standard length that holds; into a blind thread the longest that does not meet its end."""
    series = METRIC_LENGTHS if bolt.size.size.startswith("M") else INCH_LENGTHS
    washer, d, pitch = washer_mm(bolt), bolt.size.diameter, bolt.size.pitch
    if ending == "tapped":
        tapped = next(bore for bore in bores if bore.role == "tapped")
        wanted, most = tapped.low_mm + washer + _PLASTIC_TURNS * d, tapped.high_mm + washer - pitch
        fitting = [length for length in series if wanted <= length <= most]
        if fitting:
            return fitting[0]
        shorter = [length for length in series if tapped.low_mm + washer + d / 2 <= length <= most]
        return shorter[-1] if shorter else None
    if bolt.nut is None or ending == "open":
        return None
    least = grip + 2 * washer + bolt.nut.height + BEYOND_PITCHES * pitch
    return next((length for length in series if length >= least - 1e-6), None)


def of_end(bolt: TriedBolt, too_long: float) -> list[str]:
    """Say of a blind bore that the bolt meets its end."""
    if too_long <= NEAR_MM:
        return []
    return [f"{bolt.part.name} meets the end of the bore {too_long:.2f} mm before its head bears"]


def of_length(bolt: TriedBolt, ending: Ending, engaged: float, right: float | None) -> list[str]:
    """Say how much of the thread holds, and which length is right where that is another."""
    d, length = bolt.size.diameter, bolt.length
    says = []
    if ending == "tapped":
        says.append(
            f"{engaged:.1f} mm of thread hold, {engaged / d:.1f} diameters; in plastic "
            f"{_PLASTIC_TURNS:g} are wanted, in steel 1"
        )
    elif ending == "open":
        says.append("nothing holds it: the bore is blind, and neither tapped nor threaded")
    elif bolt.nut is not None and engaged < bolt.nut.height:
        says.append(f"of the nut's {bolt.nut.height:.4g} mm only {engaged:.1f} mm are on the thread")
    if right is None:
        says.append("no standard length is right here")
    elif abs(right - length) > 1e-6:
        says.append(f"the right standard length is {typed_as(bolt, right)}, not {length:.4g} mm")
    return says
