"""This module weighs what the numbers of a file say for a unit: round values, walls, holes, sizes.

How the weights become shares is told at :mod:`aimtrue.core.intake.units.verdict`.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field

from aimtrue.core.intake.units.size_changes import is_near_size, is_same_size
from aimtrue.core.model.bolts import HOLES_INCH, HOLES_METRIC
from aimtrue.core.model.lengths import MM_PER, UNIT_NAMES, Unit
from aimtrue.core.model.source import Evidence
from aimtrue.core.model.value import Vec3

REFERENCE_MM = (250.0, 210.0, 220.0)
"""What files are weighed against: a usual machine, not the one at hand, so that a verdict stays what it
was.
"""


_BEAD_MM = 0.4


_WORDS: dict[Unit, str] = {
    Unit.UM: r"microns?|micromet(?:er|re)s?|µm",
    Unit.MM: r"mm|millimet(?:er|re)s?",
    Unit.CM: r"cm|centimet(?:er|re)s?",
    Unit.M: r"met(?:er|re)s?",
    Unit.IN: r"inch(?:es)?",
    Unit.FT: r"foot|feet",
}


_PRIOR = {Unit.MM: 0.70, Unit.IN: 0.12, Unit.M: 0.09, Unit.CM: 0.075, Unit.FT: 0.0145, Unit.UM: 0.0005}
"""How often people export files that say no unit in each of them, before anything is looked at.

These are estimates, not counts: millimetres are what most CAD exports by default; inches are the default of
the United States; metres and centimetres that of modellers of scenes and buildings; feet are rare, and
micrometres, which only makers of optics and chips use, are rarer than a large model at full size in
millimetres.
"""


_INCH = 25.4


@dataclass(frozen=True)
class _Kind:
    """A kind of thing that people model: how often, how large, and on which lengths its design falls.

    Attributes:
        share: of all files.
        median, spread: of the longest side in mm, log-normal.
        says: of its size, in words; empty for the usual kind.
        grids: for each system of units, steps in mm and how often designs draw from them.
    """

    share: float
    median: float
    spread: float
    says: str
    grids: dict[str, tuple[tuple[float, float], ...]]


_KINDS = (
    _Kind(
        0.97, 80.0, 1.1, "",
        {
            "metric": (
                (100, 0.04), (50, 0.06), (10, 0.14), (5, 0.16), (1, 0.3), (0.5, 0.14), (0.25, 0.03),
                (0.1, 0.07), (0.05, 0.02), (0.01, 0.015), (0.001, 0.005),
            ),
            "imperial": (
                (_INCH * 6, 0.04), (_INCH, 0.18), (_INCH / 2, 0.16), (_INCH / 4, 0.2), (_INCH / 8, 0.17),
                (_INCH / 16, 0.12), (_INCH / 32, 0.03), (_INCH / 64, 0.01), (_INCH / 10, 0.04),
                (_INCH / 100, 0.03), (_INCH / 1000, 0.01),
            ),
        },
    ),
    _Kind(
        0.015, 3000.0, 0.9, "as buildings, boats and furniture are at full size",
        {
            "metric": (
                (1000, 0.06), (500, 0.06), (100, 0.25), (50, 0.15), (10, 0.27), (5, 0.08), (1, 0.1), (0.1,
                0.01),
            ),
            "imperial": (
                (_INCH * 12, 0.25), (_INCH * 6, 0.15), (_INCH, 0.35), (_INCH / 2, 0.12), (_INCH / 4, 0.06),
                (_INCH / 8, 0.03), (_INCH / 16, 0.02),
            ),
        },
    ),
    _Kind(
        0.01, 0.8, 1.3, "as optics and chips are",
        {
            "metric": ((0.5, 0.08), (0.1, 0.3), (0.05, 0.15), (0.01, 0.25), (0.005, 0.1), (0.001, 0.1)),
            "imperial": ((_INCH / 100, 0.2), (_INCH / 200, 0.15), (_INCH / 1000, 0.5), (_INCH / 10_000, 0.1)),
        },
    ),
)  # fmt: skip
"""What people model. Of large and tiny things lengths fall on other steps than of what fits a machine."""


_OFF_GRID = 0.03


COUNTS_AS = 5.0


_PRECISION = 2e-6
"""How exact lengths are against the greatest: float32, or six digits of text."""


@dataclass
class UnitWeight:
    """Logarithm of a unit's weight, and the reasons for it."""

    log: float = 0.0
    reasons: list[str] = field(default_factory=list)
    spoken: float = 0.0
    """The part of it that is not how usual the unit and the size are."""
    backed: bool = False
    """Whether something besides its size speaks for it: words, a standard hole, other files, round
    lengths.
    """

    def add(self, log: float, reason: str = "", *, speaks: bool = True, backs: bool = False) -> None:
        """Add what speaks for the unit, or against it where ``log`` is negative."""
        self.log += log
        self.spoken += log if speaks else 0.0
        self.backed |= backs and bool(reason)
        if reason:
            self.reasons.append(reason)


def named_in(unit: Unit, words: str) -> bool:
    """Whether a unit is named in the words of a file."""
    pattern = rf"(?<![a-zµ])(?:{_WORDS[unit]})(?![a-z])"
    return re.search(pattern, words.lower().replace("_", " ")) is not None


def weigh(
    unit: Unit,
    numbers: Vec3,
    evidence: Evidence,
    words: str,
    siblings: tuple[Unit, ...],
    change: float | None,
) -> UnitWeight:
    """Weigh all that is known of a file for one unit."""
    per, said = MM_PER[unit], UnitWeight(math.log(_PRIOR[unit]))
    if named_in(unit, words):
        said.add(math.log(200), f"the file's name or header says {UNIT_NAMES[unit]}", backs=True)
    if siblings:
        share = siblings.count(unit) / len(siblings)
        said.add(
            math.log(0.05 + share),
            f"files of this job are in {UNIT_NAMES[unit]}" if share else "",
            backs=True,
        )
    if change is not None:
        said.add(*_as_before(change), backs=is_near_size(change))
    lengths = [*evidence.lengths, *evidence.diameters] or [n for n in numbers if n > 0]
    both, by_size, roundness = _kinds(max(numbers) * per, [length * per for length in lengths])
    said.add(by_size, _size(max(numbers) * per), speaks=False)
    said.add(*_walls([wall * per for wall in evidence.walls]))
    said.add(*_holes([diameter * per for diameter in evidence.diameters]), backs=True)
    said.add(both - by_size, roundness, backs=True)
    return said


def _as_before(change: float) -> tuple[float, str]:
    """Weigh how many times larger a file is than the revision before it."""
    if is_same_size(change):
        return math.log(2000), "it is as large as the revision before it"
    if is_near_size(change):
        return math.log(100), f"it is nearly as large as the revision before it ({change:.3g} times)"
    times = f"{change:.3g} times larger" if change > 1 else f"{1 / change:.3g} times smaller"
    return 0.0, f"it would be {times} than the revision before it"


def _size(longest: float) -> str:
    """Say what a longest side would mean."""
    room = max(REFERENCE_MM)
    if longest > 20 * room:
        return f"{_short(longest)} long: far beyond any machine"
    if longest > 2 * room:
        return f"{_short(longest)} long: over twice a usual machine"
    if longest > room:
        return f"{_short(longest)} long: larger than a usual machine, but could be divided"
    if longest >= 20:
        return f"{_short(longest)} long: a usual size for a usual machine"
    return f"{_short(longest)} long: {'small, but can be made' if longest >= 4 else 'too small to make'}"


def _kinds(longest: float, lengths: list[float]) -> tuple[float, float, str]:
    """Weigh size and lengths in mm against every kind of thing that people model.

    Returns:
        The logarithm of the weight of size and lengths together, the part of it that the size has alone, and
        what speaks for the lengths in words.
    """
    sizes = [
        math.log(kind.share / kind.spread)
        - 0.5 * (math.log(max(longest, 1e-9) / kind.median) / kind.spread) ** 2
        for kind in _KINDS
    ]
    sizes[0] += _beyond_machines(longest)
    values = [_round_values(lengths, kind.grids) for kind in _KINDS]
    both = [size + value for size, (value, _) in zip(sizes, values, strict=True)]
    return _sum(both), _sum(sizes), values[both.index(max(both))][1]


def _beyond_machines(longest: float) -> float:
    """Weigh that what is made for a usual machine is rarely larger than it, or too small to print."""
    room = max(REFERENCE_MM)
    if longest > room:
        return -2.0 if longest > 2 * room else -0.7
    return 0.0 if longest >= 4 else -3.0


def _sum(logs: list[float]) -> float:
    """Return the logarithm of the sum of what some logarithms are of."""
    top = max(logs)
    return top + math.log(sum(math.exp(log - top) for log in logs))


def _walls(walls: list[float]) -> tuple[float, str]:
    if not walls:
        return 0.0, ""
    thinnest = min(walls)
    if thinnest < _BEAD_MM / 2:
        return math.log(0.03), f"its thinnest wall would be {_short(thinnest)}: it cannot be printed"
    if thinnest < _BEAD_MM:
        return math.log(0.25), f"its thinnest wall would be {_short(thinnest)}: under one bead"
    return 0.0, ""


def _holes(diameters: list[float]) -> tuple[float, str]:
    for names, holes in (("M", HOLES_METRIC), ("inch", HOLES_INCH)):
        holes_met = [d for d in diameters if any(abs(d - hole) <= 2e-4 * hole for hole in holes)]
        if holes_met:
            kind = "metric" if names == "M" else "inch"
            return math.log(4) * min(
                2, len(holes_met)
            ), f"a hole of {_short(min(holes_met))} suits a standard {kind} bolt"
    return 0.0, ""


def _round_values(
    lengths: list[float], grids: dict[str, tuple[tuple[float, float], ...]]
) -> tuple[float, str]:
    """Weigh how roundly lengths in mm fall, in the system that suits them best."""
    slack = _PRECISION * max(lengths)
    shrink = min(1.0, COUNTS_AS / len(lengths))
    logs = {
        name: shrink * sum(math.log(_chance(length, steps, slack)) for length in lengths)
        for name, steps in grids.items()
    }
    best = max(logs, key=lambda name: logs[name])
    # Either system may be behind it: their weights add.
    return _sum(list(logs.values())) - math.log(2), _roundness(best, lengths, slack)


def _chance(length: float, grids: tuple[tuple[float, float], ...], slack: float) -> float:
    chance = _OFF_GRID * max(slack / length, 1e-4)
    for step, share in grids:
        if _falls_on(length, step, slack):
            chance += share * min(step / length, 1.0)
    return chance


def _falls_on(length: float, step: float, slack: float) -> bool:
    times = round(length / step)
    # A grid finer than what the numbers can hold would take everything.
    return times > 0 and step > 20 * slack and abs(length - times * step) <= slack


def _roundness(system: str, lengths: list[float], slack: float) -> str:
    steps = (
        ((1, "1 mm"), (0.5, "0.5 mm"), (0.1, "0.1 mm"))
        if system == "metric"
        else (
            (_INCH / 16, "1/16 in"),
            (_INCH / 32, "1/32 in"),
            (_INCH / 100, "0.01 in"),
        )
    )
    for step, name in steps:
        on = sum(_falls_on(length, step, slack) for length in lengths)
        if on >= 0.6 * len(lengths):
            return f"{on} of {len(lengths)} lengths fall on {name}"
    return ""


def _short(mm: float) -> str:
    if mm >= 1000:
        return f"{mm / 1000:.3g} m"
    return f"{mm:.3g} mm" if mm >= 0.1 else f"{mm * 1000:.3g} µm"
