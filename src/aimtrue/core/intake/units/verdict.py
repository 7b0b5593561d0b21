"""The unit verdict: what unit a file may be in, with a score and reasons for each.

Designs fall on round values: whole and half millimetres, sixteenths of an inch. A unit is
believed when the lengths of the file, taken in it, fall on such values where chance would not
put them, the sizes are such as people make, walls can be printed and holes fit bolts.

The scores are shares by Bayes' rule. For a length ``L`` in mm and a grid of step ``g``, a design
that draws from the grid gives exactly ``L`` with a chance in proportion to ``g / L``; a grid that
``L`` does not lie on gives it none. Grids are mixed by how often people use them. Lengths of one part
depend on each other, so together they count as at most ``_COUNTS_AS`` independent ones.

A unit is *settled* only when its share leaves nothing else within reach. Otherwise the user is asked.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field

from aimtrue.core.model.bolts import HOLES_INCH, HOLES_METRIC
from aimtrue.core.model.lengths import MM_PER, UNIT_NAMES, Unit
from aimtrue.core.model.source import Evidence
from aimtrue.core.model.value import Value, Vec3

REFERENCE_MM = (250.0, 210.0, 220.0)
"""What files are weighed against: a usual machine, not the one at hand, so that a verdict stays what it
was.
"""
_BEAD_MM = 0.4
CLEAR = 0.995
"""A unit with this share or more is settled without asking."""
_OUT_OF_REACH = 0.003
"""Another unit that could be made is still within reach from this share on."""
_ENOUGH = 4
"""Lengths and diameters that must speak before a unit is settled without asking."""
_SAME_SIZE = math.log(1.005)
_NEAR_SIZE = math.log(1.5)
"""A revision that changes more than this in size is asked about: 2.54, the least ratio of two units, is far
off.
"""
_TELLS = math.log(4)
"""Where no reason can be named, lengths must speak for one unit by this much more than for any other."""
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
_COUNTS_AS = 5.0
_PRECISION = 2e-6
"""How exact lengths are against the greatest: float32, or six digits of text."""


class UnitCandidate(Value):
    """One unit a file may be in, and what speaks for it.

    ``score`` is a share: the scores of all candidates add up to 1.
    """

    unit: Unit
    score: float
    size_mm: Vec3
    reasons: tuple[str, ...]


class UnitVerdict(Value):
    """What is thought of a file's unit.

    ``candidates`` are all units, the likeliest first; ``clear`` is one that may be settled
    without asking, or None; ``leads`` is one that may be pointed at, or None.
    """

    candidates: tuple[UnitCandidate, ...]
    clear: Unit | None
    leads: Unit | None


@dataclass
class _Weight:
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
        self.log += log
        self.spoken += log if speaks else 0.0
        self.backed |= backs and bool(reason)
        if reason:
            self.reasons.append(reason)


def verdict(
    numbers: Vec3,
    evidence: Evidence,
    words: str,
    siblings: tuple[Unit, ...] = (),
    before_mm: tuple[Vec3, ...] = (),
    extents: tuple[Vec3, ...] = (),
) -> UnitVerdict:
    """Judge every unit for a file.

    Args:
        numbers: the extents of the model in numbers of the file.
        evidence: lengths, diameters and walls in numbers of the file.
        words: header, comments and file name.
        siblings: units of files of the same job that were settled by their user or themselves.
        before_mm: extents of the revision before it in mm, of all of it and of its bodies; none of a first
        one. extents: of all of the file and of its bodies in its numbers, to be compared with these.
    """
    changes = {
        unit: size_change(extents or (numbers,), unit, before_mm) if before_mm else None for unit in Unit
    }
    weighed = {unit: _weigh(unit, numbers, evidence, words, siblings, changes[unit]) for unit in Unit}
    rows = _ranked(numbers, weighed)
    best, second = rows[0], rows[1]
    # A few round numbers may be round by chance in another unit, and a size alone settles nothing.
    enough = len(evidence.lengths) + len(evidence.diameters) >= _ENOUGH
    clear = _is_clear(rows, weighed) and (enough or _named_in(best.unit, words))
    leads = best.score >= 3 * second.score
    return UnitVerdict(
        candidates=rows, clear=best.unit if clear else None, leads=best.unit if leads else None
    )


def _ranked(numbers: Vec3, weighed: dict[Unit, _Weight]) -> tuple[UnitCandidate, ...]:
    """Return every unit with its share of what speaks for all of them, the likeliest first."""
    top = max(weight.log for weight in weighed.values())
    total = sum(math.exp(weight.log - top) for weight in weighed.values())
    rows = (
        UnitCandidate(
            unit=unit,
            score=round(math.exp(weight.log - top) / total, 4),
            size_mm=_scaled(numbers, unit),
            reasons=tuple(weight.reasons),
        )
        for unit, weight in weighed.items()
    )
    return tuple(sorted(rows, key=lambda row: -row.score))


def _is_clear(rows: tuple[UnitCandidate, ...], weighed: dict[Unit, _Weight]) -> bool:
    """Whether the likeliest unit is beyond doubt: makeable, backed, and no rival within reach."""
    best = rows[0]
    if best.score < CLEAR or not _is_makeable(max(best.size_mm)):
        return False
    rivals = [row for row in rows[1:] if _is_makeable(max(row.size_mm))]
    # Where nothing else could be made, the size has spoken already: then a reason has to be named.
    others = max(weight.spoken for unit, weight in weighed.items() if unit != best.unit)
    backed = weighed[best.unit].backed or (bool(rivals) and weighed[best.unit].spoken > others + _TELLS)
    return backed and all(row.score < _OUT_OF_REACH for row in rivals)


def _is_makeable(longest: float) -> bool:
    """A part beyond these sizes is never believed without asking."""
    return 3.0 <= longest <= 4 * max(REFERENCE_MM)


def _named_in(unit: Unit, words: str) -> bool:
    """Whether a unit is named in the words of a file."""
    pattern = rf"(?<![a-zµ])(?:{_WORDS[unit]})(?![a-z])"
    return re.search(pattern, words.lower().replace("_", " ")) is not None


def size_change(extents: tuple[Vec3, ...], unit: Unit, before_mm: tuple[Vec3, ...]) -> float:
    """Return how many times larger a file in some unit is than the revision before it.

    Args:
        extents: of all of the file, and of its bodies, in its numbers.
        unit: that these are taken in.
        before_mm: the same of the revision before it, in mm.

    Returns:
        The ratio of all of it, the one of three that is farthest from 1; or 1 where two extents of the whole
        are as before. Bodies may have been added or removed, so that the whole is larger or smaller though
        no part of it changed: where half of the bodies or more are as large as before, the file is. Extents
        are compared by size, not by axis, so that a part that was exported another way up is still the
        same size.
    """
    whole = _change(_scaled(extents[0], unit), before_mm[0])
    if is_near_size(whole):
        return whole
    if _keeps_two(_scaled(extents[0], unit), before_mm[0]):
        return 1.0
    olds = list(before_mm[1:] or before_mm)
    news = [_scaled(one, unit) for one in extents[1:] or extents]
    fewest, same = min(len(olds), len(news)), 0
    for new in news:
        twin = next((old for old in olds if _keeps_two(new, old)), None)
        if twin is not None:
            olds.remove(twin)
            same += 1
    return 1.0 if 2 * same >= fewest else whole


def _keeps_two(now: Vec3, old: Vec3) -> bool:
    """Whether two extents of three are as before: another unit would have changed them all by the same."""
    pairs = zip(sorted(now), sorted(old), strict=True)
    return sum(a > 0 and b > 0 and is_same_size(a / b) for a, b in pairs) >= 2


def _change(now: Vec3, old: Vec3) -> float:
    """Of the three ratios of two sets of extents the one that is farthest from 1."""
    ratios = [a / b for a, b in zip(sorted(now), sorted(old), strict=True) if a > 0 and b > 0]
    return max(ratios, key=lambda ratio: abs(math.log(ratio)), default=1.0)


def is_same_size(change: float) -> bool:
    """Tell whether a revision is as large as the one before it, but for rounding and facets."""
    return abs(math.log(change)) < _SAME_SIZE


def is_near_size(change: float) -> bool:
    """Tell whether a revision differs from the one before it by as much as designs usually change."""
    return abs(math.log(change)) < _NEAR_SIZE


def _weigh(
    unit: Unit,
    numbers: Vec3,
    evidence: Evidence,
    words: str,
    siblings: tuple[Unit, ...],
    change: float | None,
) -> _Weight:
    per, said = MM_PER[unit], _Weight(math.log(_PRIOR[unit]))
    if _named_in(unit, words):
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
        found = [d for d in diameters if any(abs(d - hole) <= 2e-4 * hole for hole in holes)]
        if found:
            kind = "metric" if names == "M" else "inch"
            return math.log(4) * min(
                2, len(found)
            ), f"a hole of {_short(min(found))} suits a standard {kind} bolt"
    return 0.0, ""


def _round_values(
    lengths: list[float], grids: dict[str, tuple[tuple[float, float], ...]]
) -> tuple[float, str]:
    """Weigh how roundly lengths in mm fall, in the system that suits them best."""
    slack = _PRECISION * max(lengths)
    shrink = min(1.0, _COUNTS_AS / len(lengths))
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


def _scaled(numbers: Vec3, unit: Unit) -> Vec3:
    x, y, z = (number * MM_PER[unit] for number in numbers)
    return (x, y, z)


def _short(mm: float) -> str:
    if mm >= 1000:
        return f"{mm / 1000:.3g} m"
    return f"{mm:.3g} mm" if mm >= 0.1 else f"{mm * 1000:.3g} µm"
