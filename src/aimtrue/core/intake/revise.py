"""A new revision of a file: its unit weighed anew, and which of its bodies are which of the one before."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from aimtrue.core.intake.units.inference import extents_of, siblings_of
from aimtrue.core.intake.units.size_changes import is_near_size, is_same_size, size_change
from aimtrue.core.intake.units.verdict import verdict
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, UNIT_NAMES, Unit
from aimtrue.core.model.ownership import bodies_of
from aimtrue.core.model.source import How, Source
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3

_UNLIKE = 1.0
"""Cost above which two bodies are not the same part: they differ by about their own size."""
_UNLIKE_MOVED = 0.4
"""The same of bodies that are looked for anywhere in the whole."""


def matched(old: list[Body], new: list[Body]) -> dict[int, int]:
    """Return, per new body that is an old one, the number of that old one.

    Equal names in the file go first, where they are unmistakable. The others are matched by size,
    volume and place, all together so that the sum of differences is least (Kuhn and Munkres): first near
    their places, against their own size; then those that are left, which may be small ones that moved far, by
    their size and volume, and by place against the size of the whole. Where none is where one was, the file
    was exported about another origin: then places are told from the middle of each revision.
    """
    pairs = _by_name(old, new)
    if not old or not new:
        return pairs
    _assign(old, new, pairs, _UNLIKE, None)
    if not pairs:
        old = _moved_by(old, np.subtract(_ends_of(new).mean(axis=0), _ends_of(old).mean(axis=0)))
        _assign(old, new, pairs, _UNLIKE_MOVED, None)
    low, high = _ends_of([*old, *new])
    _assign(old, new, pairs, _UNLIKE_MOVED, float((high - low).max()))
    return pairs


def _ends_of(bodies: list[Body]) -> Floats:
    """Return (2, 3): the low and the high corner of all of some bodies."""
    ends = np.array([(body.low, body.high) for body in bodies])
    return np.array([ends[:, 0].min(axis=0), ends[:, 1].max(axis=0)])


def _moved_by(bodies: list[Body], shift: Floats) -> list[Body]:
    return [
        body.model_copy(
            update={"low": as_vec3(np.add(body.low, shift)), "high": as_vec3(np.add(body.high, shift))}
        )
        for body in bodies
    ]


def _assign(
    old: list[Body], new: list[Body], pairs: dict[int, int], most: float, whole: float | None
) -> None:
    """Match what has no partner yet, where it differs by less than ``most``."""
    from scipy.optimize import linear_sum_assignment

    left_old = [i for i in range(len(old)) if i not in pairs.values()]
    left_new = [i for i in range(len(new)) if i not in pairs]
    if left_old and left_new:
        cost = np.array([[_difference(old[o], new[n], whole) for o in left_old] for n in left_new])
        # Cut off at the limit: how unlike two strangers are must not drive kindred apart.
        for n, o in zip(*linear_sum_assignment(np.minimum(cost, most)), strict=True):
            if cost[n, o] < most:
                pairs[left_new[n]] = left_old[o]


def _by_name(old: list[Body], new: list[Body]) -> dict[int, int]:
    """Match names that the files themselves give; a name made of a file's name and a number is none."""
    before, after = [body.drawn for body in old], [body.drawn for body in new]
    pairs = {}
    for n, name in enumerate(after):
        if name and before.count(name) == 1 and after.count(name) == 1:
            o = before.index(name)
            if _difference(old[o], new[n]) < 3 * _UNLIKE:
                pairs[n] = o
    return pairs


def _difference(a: Body, b: Body, whole: float | None = None) -> float:
    """How unlike two bodies are: sizes, volume and place, against the size of the larger; place against that
    of the whole, if it is given.
    """
    size_a, size_b = np.subtract(a.high, a.low), np.subtract(b.high, b.low)
    scale = float(max(size_a.max(), size_b.max())) or 1.0
    away = np.linalg.norm((np.add(a.high, a.low) - np.add(b.high, b.low)) / 2) / (whole or scale)
    sizes = np.abs(size_a - size_b).max() / scale
    volume = abs(a.volume - b.volume) / max(abs(a.volume), abs(b.volume), 1e-300)
    return float(away + sizes + 0.5 * volume)


@dataclass(frozen=True)
class RevisedUnit:
    """What is thought of the unit of a new revision.

    Attributes:
        unit, how: None where it is to be asked.
        before_mm: extents of the revision before it.
        scale: numbers of the new file for one of the old, were it the same part.
        doubts: what is to be told besides.
    """

    unit: Unit | None
    how: How | None
    before_mm: tuple[Vec3, ...] = ()
    scale: float = 1.0
    doubts: tuple[str, ...] = ()


def weighed_anew(job: Job, old: Source, new: Source, bodies: tuple[Body, ...]) -> RevisedUnit:
    """Weigh the unit of a new revision, with the size of the one before it as evidence.

    The unit stays what it was while the size stays near. Where the part has that size only in another unit,
    or in none, the unit is asked for: an unlikely change of size is more often another export setting.

    Args:
        job: with the old revision.
        old: the source as it is.
        new: as it was read; ``unit`` is what the file declares.
        bodies: of the new revision.
    """
    if old.unit is None:
        return RevisedUnit(new.unit, new.how, old.before_mm)
    per = MM_PER[old.unit]
    before = tuple((per * x, per * y, per * z) for x, y, z in extents_of(bodies_of(job, old.id), old))
    extents = extents_of(bodies, new)
    changes = {unit: size_change(extents, unit, before) for unit in Unit}
    unit, how = _taken_over(old, new)
    words = f"{new.words} {new.name}"
    judged = verdict(extents[0], new.evidence, words, siblings_of(job, old), before, extents)
    alike = [row.unit for row in judged.candidates if is_near_size(changes[row.unit])]
    if is_near_size(changes[unit]):
        return RevisedUnit(unit, how, before, MM_PER[old.unit] / MM_PER[unit])
    scale = MM_PER[old.unit] / MM_PER[alike[0] if alike else unit]
    if new.declared is not None and not any(is_same_size(changes[number]) for number in alike):
        says = f"{new.name} declares {UNIT_NAMES[unit]} and is {_times(changes[unit])} than its last revision"
        return RevisedUnit(unit, how, before, scale, (says,))
    return RevisedUnit(None, None, before, scale)


def _taken_over(old: Source, new: Source) -> tuple[Unit, How]:
    """The unit that a revision has while nothing speaks against it."""
    assert old.unit is not None
    if new.declared is not None and (old.how != "told" or new.declared != old.declared):
        return new.declared, "declared"
    # The old file says its unit, and the new one does not.
    if old.how == "declared" and new.declared is None:
        return old.unit, "inferred"
    return old.unit, old.how or "inferred"


def _times(change: float) -> str:
    return f"{change:.3g} times larger" if change > 1 else f"{1 / change:.3g} times smaller"
