"""All readings at once: the factors that meet them, or come nearest.

The unknowns are the squares of the factors, ``q = s²``. Which of them may differ is a small linear map
``q = B t + held``: one ``t`` for all linked axes together (their ratio stays), one for each freed axis, none
for a held one. Every gauge gives ``L² = a · q`` (see :mod:`aimtrue.core.gauges.forms`), so its band
``low ≤ L ≤ high`` is two linear inequalities in ``t``. Among all ``t`` that meet them the one is taken with
the least weighted sum of squared deviations from the wanted lengths, a linear least squares problem with
inequalities (LSI; Lawson and Hanson 1974, chapter 23) per Newton step. When nothing meets them all, the same
theory gives the readings that exclude each other, and the sum of squared excesses is made least instead.

Nothing here is random, and nothing depends on the order of the readings but the names of ties.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.truing.solving.exclusions import excluding
from aimtrue.core.truing.solving.inequalities import least_squares_within
from aimtrue.core.truing.solving.problem import (
    FAR,
    BandProblem,
    Demand,
    Freedom,
    limits_of,
    problem_at,
    reach_of,
    squares_map,
)

_SAME_SHAPE = 1e-6
"""Weight, against the finest reading, of keeping the factors alike where no reading tells them apart."""
_IDLE = 1e-9
"""An axis with less than this share of every gauge is one that no reading tells."""
_WANTED = 1e-4
"""Weight of the wanted lengths against excesses, when bands cannot all be met."""
_STEPS = 40


@dataclass(frozen=True)
class Solution:
    """What came out.

    Attributes:
        factors: the three factors.
        meets: whether every band is met.
        conflict: numbers of demands that exclude each other, as few as there are such.
        idle: axes that may change but that no reading tells apart from the others.
    """

    factors: tuple[float, float, float]
    meets: bool
    conflict: tuple[int, ...] = ()
    idle: tuple[int, ...] = ()


def solve(demands: Sequence[Demand], freedom: Freedom) -> Solution:
    """Return the factors that meet all demands and are nearest to the wanted lengths.

    Args:
        demands: the readings that drive.
        freedom: which axes may change, and how.
    """
    groups = freedom.groups()
    base = np.asarray(freedom.base, dtype=np.float64)
    if not demands or not groups:
        return Solution(_triple(base), _all_met(demands, base))
    if len(groups) > 1:
        still = _untold(demands, freedom, base)
        if any(still):  # No gauge runs along the linked axes, so they stay where they are.
            x, y, z = (a or b for a, b in zip(freedom.held, still, strict=True))
            solved = solve(demands, replace(freedom, held=(x, y, z)))
            return replace(solved, idle=tuple(i for i in range(3) if still[i] and not freedom.held[i]))
        # Start where one factor for all comes nearest; none of them may go far from it.
        base = np.asarray(solve(demands, Freedom(freedom.base, held=freedom.held)).factors)
    else:
        base = _near(demands, groups[0], base)
    squares, held = squares_map(groups, base)
    t = np.ones(len(groups))
    conflict: tuple[int, ...] = ()
    before: Floats | None = None
    for _ in range(_STEPS):
        problem = problem_at(demands, np.sqrt(squares @ t + held), squares, held)
        if before is None or not np.array_equal(problem.rows, before):
            conflict, before = excluding(problem), problem.rows
        after = _compromise(problem, t) if conflict else _nearest(problem, t)
        step, t = float(np.abs(after / t - 1).max()), after
        if step < 1e-14:
            break
    factors = np.sqrt(squares @ t + held)
    return Solution(_triple(factors), _all_met(demands, factors), conflict, _idle(demands, groups, factors))


def _near(demands: Sequence[Demand], linked: list[int], base: Floats) -> Floats:
    """Return factors to start from: where the first length is far off, the linked axes go to where it is not.

    The unknowns are multiples of the factors at the start, with a least one. From the size of a file in a
    wrong unit to the size that is wanted it can be less than that, and nothing would be found.
    """
    squares, held = squares_map([linked], base)
    problem = problem_at(demands, base, squares, held)
    slope, fixed = problem.rows[:, 0], problem.fixed
    goal = np.where(
        np.isfinite(problem.wanted),
        problem.wanted,
        np.clip(np.sqrt(slope + fixed), problem.low, problem.high),
    )
    decided = (slope > _IDLE * fixed) & (np.square(goal) > fixed)
    if not decided.any():
        return base
    first = int(decided.argmax())
    ratio = np.sqrt((goal[first] ** 2 - fixed[first]) / slope[first])
    return base if 1 / FAR < ratio < FAR else np.where(np.isin(np.arange(3), linked), base * ratio, base)


def interval(demand: Demand, freedom: Freedom, now: Floats) -> tuple[float, float] | None:
    """Return the factors of the linked axes, as a multiple of those in ``now``, that satisfy one demand.

    The other axes stay as they are. None when no factor does, or the gauge does not change with it.
    """
    groups = freedom.groups()
    linked = groups[0] if groups else []
    moving = np.zeros(3)
    moving[linked] = np.square(now[linked])
    rows = demand.form.rows(now)
    slope, fixed = rows @ moving, rows @ (np.square(now) - moving)
    low, high = 0.0, np.inf
    for gain, rest in zip(slope, fixed, strict=True):
        if gain <= 1e-12 * (gain + rest):
            return None
        low = max(low, float(np.sqrt(max(demand.band.low**2 - rest, 0.0) / gain)))
        room = demand.band.high**2 - rest
        high = min(high, float(np.sqrt(room / gain)) if room > 0 else 0.0)
    return (low, high) if low <= high * (1 + 1e-12) and high > 0 else None


def _nearest(problem: BandProblem, t: Floats) -> Floats:
    """One Newton step: the wanted lengths as near as can be, every limit kept."""
    length = np.sqrt(np.maximum(problem.rows @ t + problem.fixed, 1e-300))
    pulls = np.isfinite(problem.wanted)
    scale = problem.weight[pulls] / (2 * length[pulls])
    a = problem.rows[pulls] * scale[:, None]
    b = scale * (2 * length[pulls] * problem.wanted[pulls] - length[pulls] ** 2 - problem.fixed[pulls])
    a, b = _with_shape(a, b, problem, length)
    c, h, _ = limits_of(problem)
    solution = least_squares_within(a, b, c, h)
    return t if solution is None else solution


def _with_shape(a: Floats, b: Floats, problem: BandProblem, length: Floats) -> tuple[Floats, Floats]:
    """Add rows that keep the unknowns alike in as far as no reading tells, and still when none has a wish."""
    size = float(np.abs(problem.rows * (problem.weight / (2 * length))[:, None]).max()) or 1.0
    count = problem.rows.shape[1]
    still = np.full((1, count), 0.0 if a.any() else 1e-3 / count)
    keep = np.concatenate([_alike(count), still]) * _SAME_SHAPE * size
    goal = np.append(np.zeros(count), keep[-1].sum())
    return np.concatenate([a, keep]), np.concatenate([b, goal])


def _alike(count: int) -> Floats:
    """Return rows that are nothing when all unknowns are alike."""
    return np.asarray(np.eye(count) - np.full((count, count), 1 / count))


def _untold(demands: Sequence[Demand], freedom: Freedom, base: Floats) -> tuple[bool, bool, bool]:
    """Tell which axes stay because no gauge runs along them: only when that holds for the linked ones."""
    rows = np.concatenate([demand.form.rows(base) for demand in demands]) * np.square(base)
    idle = (rows / np.maximum(rows.sum(axis=1, keepdims=True), 1e-300)).max(axis=0) < _IDLE
    linked = [i for i in range(3) if not freedom.free[i] and not freedom.held[i]]
    if not linked or not idle[linked].all() or idle.all():
        return (False, False, False)
    x, y, z = (bool(axis_is_idle) for axis_is_idle in idle)
    return (x, y, z)


def _compromise(problem: BandProblem, t: Floats) -> Floats:
    """Make the weighted sum of squared excesses least, and then the deviations from the wanted lengths.

    The sum is convex and piecewise quadratic in the lengths; Newton steps with halving end at its least.
    """
    for _ in range(_STEPS):
        length = np.sqrt(np.maximum(problem.rows @ t + problem.fixed, 1e-300))
        over = np.minimum(length - problem.low, 0) + np.maximum(length - problem.high, 0)
        slope = problem.rows / (2 * length)[:, None]
        out = over != 0
        pulls = np.isfinite(problem.wanted)
        wish = np.where(pulls, length - np.nan_to_num(problem.wanted), 0.0)
        a = np.concatenate(
            [slope[out] * problem.weight[out, None], slope[pulls] * (_WANTED * problem.weight[pulls, None])]
        )
        b = -np.concatenate([over[out] * problem.weight[out], wish[pulls] * _WANTED * problem.weight[pulls]])
        keep = _alike(len(t))
        size = (float(np.abs(a).max()) if len(a) else 1.0) * _SAME_SHAPE
        rows = np.concatenate([a, keep * size])
        if not rows.any():  # No number that may change makes a difference.
            break
        best = least_squares_within(rows, np.concatenate([b + a @ t, np.zeros(len(t))]), *reach_of(len(t)))
        if best is None:
            break
        step, before, share = best - t, _badness(problem, t), 1.0
        while share > 1e-9 and (after := _badness(problem, t + share * step)) > before:
            share /= 2
        # A whole step that changes nothing brings factors closer that no reading tells apart; a part of one
        # that gains no more than rounding is the end, however many more of its kind there would be.
        if share <= 1e-9 or (share < 1 and after > before * (1 - 1e-14)):
            break
        t = t + share * step
        if np.abs(share * step / t).max() < 1e-14:
            break
    return t


def _badness(problem: BandProblem, t: Floats) -> float:
    length = np.sqrt(np.maximum(problem.rows @ t + problem.fixed, 0.0))
    over = np.minimum(length - problem.low, 0) + np.maximum(length - problem.high, 0)
    wish = np.where(np.isfinite(problem.wanted), length - np.nan_to_num(problem.wanted), 0.0)
    return float(
        (np.square(over) * problem.weight**2).sum() + (np.square(_WANTED * wish) * problem.weight**2).sum()
    )


def _all_met(demands: Sequence[Demand], factors: Floats) -> bool:
    return all(demand.band.holds(length) for demand in demands for length in demand.form.lengths(factors))


def _idle(demands: Sequence[Demand], groups: list[list[int]], factors: Floats) -> tuple[int, ...]:
    """Axes that may change alone but that no driving gauge runs along."""
    rows = np.concatenate([demand.form.rows(factors) for demand in demands]) * np.square(factors)
    share = (rows / rows.sum(axis=1, keepdims=True)).max(axis=0)
    if len(groups) < 2:
        return ()
    return tuple(i for axes in groups if share[axes].max() < _IDLE for i in axes)


def _triple(factors: Floats) -> tuple[float, float, float]:
    x, y, z = factors.tolist()
    return (x, y, z)
