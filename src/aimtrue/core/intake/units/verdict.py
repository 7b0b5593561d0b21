"""The unit verdict: what unit a file may be in, with a score and reasons for each.

Designs fall on round values: whole and half millimetres, sixteenths of an inch. A unit is
believed when the lengths of the file, taken in it, fall on such values where chance would not
put them, the sizes are such as people make, walls can be printed and holes fit bolts.

The scores are shares by Bayes' rule. For a length ``L`` in mm and a grid of step ``g``, a design
that draws from the grid gives exactly ``L`` with a chance in proportion to ``g / L``; a grid that
``L`` does not lie on gives it none. Grids are mixed by how often people use them. Lengths of one part
depend on each other, so together they count as at most ``COUNTS_AS`` independent ones.

A unit is *settled* only when its share leaves nothing else within reach. Otherwise the user is asked.
"""

from __future__ import annotations

import math

from aimtrue.core.intake.units.size_changes import scaled, size_change
from aimtrue.core.intake.units.weighing import REFERENCE_MM, UnitWeight, named_in, weigh
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.source import Evidence
from aimtrue.core.model.value import Value, Vec3

CLEAR = 0.995
"""A unit with this share or more is settled without asking."""
_OUT_OF_REACH = 0.003
"""Another unit that could be made is still within reach from this share on."""
_ENOUGH = 4
"""Lengths and diameters that must speak before a unit is settled without asking."""
_TELLS = math.log(4)
"""Where no reason can be named, lengths must speak for one unit by this much more than for any other."""


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
    weighed = {unit: weigh(unit, numbers, evidence, words, siblings, changes[unit]) for unit in Unit}
    rows = _ranked(numbers, weighed)
    best, second = rows[0], rows[1]
    # A few round numbers may be round by chance in another unit, and a size alone settles nothing.
    enough = len(evidence.lengths) + len(evidence.diameters) >= _ENOUGH
    clear = _is_clear(rows, weighed) and (enough or named_in(best.unit, words))
    leads = best.score >= 3 * second.score
    return UnitVerdict(
        candidates=rows, clear=best.unit if clear else None, leads=best.unit if leads else None
    )


def _ranked(numbers: Vec3, weighed: dict[Unit, UnitWeight]) -> tuple[UnitCandidate, ...]:
    """Return every unit with its share of what speaks for all of them, the likeliest first."""
    top = max(weight.log for weight in weighed.values())
    total = sum(math.exp(weight.log - top) for weight in weighed.values())
    rows = (
        UnitCandidate(
            unit=unit,
            score=round(math.exp(weight.log - top) / total, 4),
            size_mm=scaled(numbers, unit),
            reasons=tuple(weight.reasons),
        )
        for unit, weight in weighed.items()
    )
    return tuple(sorted(rows, key=lambda row: -row.score))


def _is_clear(rows: tuple[UnitCandidate, ...], weighed: dict[Unit, UnitWeight]) -> bool:
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
