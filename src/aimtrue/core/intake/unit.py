"""What unit a file may be in: every candidate with its size, a score and reasons.

A first, modest judgement. It suggests and never settles: an undeclared unit is
settled by the user alone.
"""

from __future__ import annotations

import re

from aimtrue.core.job import Machine, Value, Vec3
from aimtrue.core.lengths import MM_PER, UNIT_NAMES, Unit

_WORDS: dict[Unit, str] = {
    Unit.UM: r"microns?|micromet(?:er|re)s?|µm",
    Unit.MM: r"mm|millimet(?:er|re)s?",
    Unit.CM: r"cm|centimet(?:er|re)s?",
    Unit.M: r"met(?:er|re)s?",
    Unit.IN: r"inch(?:es)?",
    Unit.FT: r"foot|feet",
}
_CLEAR_LEAD = 0.2
"""A candidate is suggested when its score leads the next one by this much."""


class Candidate(Value):
    """One unit a file may be in, and what speaks for it.

    ``score`` is a share: the scores of all candidates add up to 1.
    """

    unit: Unit
    score: float
    size_mm: Vec3
    reasons: tuple[str, ...]


def candidates(numbers: Vec3, words: str, machine: Machine) -> list[Candidate]:
    """Judge every unit for a file, best first.

    Args:
        numbers: the extents of the model in numbers of the file.
        words: header, comments and file name.
        machine: the build volume that a sensible size is held against.
    """
    judged = [(unit, *_judge(unit, numbers, words, machine)) for unit in Unit]
    total = sum(points for _, points, _ in judged)
    rows = [
        Candidate(
            unit=unit, score=round(points / total, 4), size_mm=_scaled(numbers, unit), reasons=tuple(reasons)
        )
        for unit, points, reasons in judged
    ]
    return sorted(rows, key=lambda row: -row.score)


def suggestion(ranked: list[Candidate]) -> Unit | None:
    """Return the unit that clearly leads, or None when it cannot be told."""
    best, second = ranked[0], ranked[1]
    return best.unit if best.score - second.score >= _CLEAR_LEAD else None


def _judge(unit: Unit, numbers: Vec3, words: str, machine: Machine) -> tuple[float, list[str]]:
    points, reasons = 0.02, []
    if re.search(rf"(?<![a-zµ])(?:{_WORDS[unit]})(?![a-z])", words.lower().replace("_", " ")):
        points += 4
        reasons.append(f"the file's name or header says {UNIT_NAMES[unit]}")
    share, reason = _plausible(max(_scaled(numbers, unit)), machine)
    points += share
    reasons.append(reason)
    on_grid, grid_reason = _on_grid(unit, numbers)
    # A round number in a unit that gives an absurd size is worth little.
    points += on_grid * min(share, 1)
    if grid_reason:
        reasons.append(grid_reason)
    return points, reasons


def _plausible(longest: float, machine: Machine) -> tuple[float, str]:
    """Judge the longest side in mm against what people make."""
    room = max(machine.volume)
    if longest > 20 * room:
        return 0.0, f"{_short(longest)} long: far beyond any machine"
    if longest > 2 * room:
        return 0.15, f"{_short(longest)} long: over twice {machine.name}"
    if longest > room:
        return 0.7, f"{_short(longest)} long: larger than {machine.name}, but could be divided"
    if longest >= 20:
        return 1.5, f"{_short(longest)} long: a usual size for {machine.name}"
    if longest >= 4:
        return 0.5, f"{_short(longest)} long: small, but can be made"
    return 0.0, f"{_short(longest)} long: too small to make"


def _on_grid(unit: Unit, numbers: Vec3) -> tuple[float, str]:
    """Judge whether the numbers are round in a unit, and not just round in any."""
    if unit is Unit.IN:
        sixteenths = [n for n in numbers if _near_multiple(n, 1 / 16)]
        telling = [n for n in sixteenths if not _near_multiple(n, 0.5)]
        if telling:
            return 1.0 * len(telling), f"{len(sixteenths)} of 3 sizes fall on 1/16 in"
        return 0.0, ""
    step = {Unit.MM: 0.5, Unit.CM: 0.05, Unit.M: 0.0005}.get(unit)
    coarser = {Unit.MM: None, Unit.CM: 0.5, Unit.M: 0.05}.get(unit)
    if step is None:
        return 0.0, ""
    round_ones = [n for n in numbers if _near_multiple(n, step)]
    telling = [n for n in round_ones if coarser is None or not _near_multiple(n, coarser)]
    if not telling:
        return 0.0, ""
    return 0.6 * len(telling), f"{len(round_ones)} of 3 sizes fall on 0.5 mm"


def _near_multiple(number: float, step: float) -> bool:
    """Tell whether a float32 number of a file is a multiple of a step, zero excluded."""
    times = number / step
    return round(times) > 0 and abs(times - round(times)) * step <= 4e-7 * max(abs(number), step)


def _scaled(numbers: Vec3, unit: Unit) -> Vec3:
    x, y, z = (number * MM_PER[unit] for number in numbers)
    return (x, y, z)


def _short(mm: float) -> str:
    if mm >= 1000:
        return f"{mm / 1000:.3g} m"
    return f"{mm:.3g} mm" if mm >= 0.1 else f"{mm * 1000:.3g} µm"
