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
from numpy.typing import NDArray

from aimtrue.core.gauges.bands import Band
from aimtrue.core.gauges.forms import Form
from aimtrue.core.mesh.mesh import Floats

_SAME_SHAPE = 1e-6
"""Weight, against the finest reading, of keeping the factors alike where no reading tells them apart."""
_IDLE = 1e-9
"""An axis with less than this share of every gauge is one that no reading tells."""
_FAR = 10.0
"""How far, as a factor, an axis may go from the factor that suits all axes alike."""
_WANTED = 1e-4
"""Weight of the wanted lengths against excesses, when bands cannot all be met."""
_STEPS = 40
_NO_REST = 1e-8
"""What is left of a system that has no solution: its last part is the square of this, so rounding."""
_SHORT = 1e-6
"""By how much of the farthest limit a vector may miss one and still count as one that keeps them."""


@dataclass(frozen=True, eq=False)
class Demand:
    """A reading as the solver sees it: its gauge and its band."""

    form: Form
    band: Band


@dataclass(frozen=True)
class Freedom:
    """What may change: per axis, linked to the others, free, or held; from which factors."""

    base: tuple[float, float, float] = (1.0, 1.0, 1.0)
    free: tuple[bool, bool, bool] = (False, False, False)
    held: tuple[bool, bool, bool] = (False, False, False)

    def groups(self) -> list[list[int]]:
        """Return the axes that change as one, group by group."""
        linked = [i for i in range(3) if not self.free[i] and not self.held[i]]
        own = [[i] for i in range(3) if self.free[i] and not self.held[i]]
        return ([linked] if linked else []) + own


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


@dataclass(frozen=True, eq=False)
class _Problem:
    """At some factors: ``L² = rows t + fixed`` for every length, with its limits and weight."""

    rows: Floats
    fixed: Floats
    low: Floats
    high: Floats
    wanted: Floats
    weight: Floats
    owner: NDArray[np.int64]


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
        if any(still):  # no gauge runs along the linked axes: they stay where they are
            x, y, z = (a or b for a, b in zip(freedom.held, still, strict=True))
            solved = solve(demands, replace(freedom, held=(x, y, z)))
            return replace(solved, idle=tuple(i for i in range(3) if still[i] and not freedom.held[i]))
        # Start where one factor for all comes nearest; none of them may go far from it.
        base = np.asarray(solve(demands, Freedom(freedom.base, held=freedom.held)).factors)
    else:
        base = _near(demands, groups[0], base)
    squares, held = _map_of(groups, base)
    t = np.ones(len(groups))
    conflict: tuple[int, ...] = ()
    before: Floats | None = None
    for _ in range(_STEPS):
        problem = _problem(demands, np.sqrt(squares @ t + held), squares, held)
        if before is None or not np.array_equal(problem.rows, before):
            conflict, before = _conflict(problem), problem.rows
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
    squares, held = _map_of([linked], base)
    problem = _problem(demands, base, squares, held)
    slope, fixed = problem.rows[:, 0], problem.fixed
    goal = np.where(
        np.isfinite(problem.wanted),
        problem.wanted,
        np.clip(np.sqrt(slope + fixed), problem.low, problem.high),
    )
    told = (slope > _IDLE * fixed) & (np.square(goal) > fixed)
    if not told.any():
        return base
    first = int(told.argmax())
    ratio = np.sqrt((goal[first] ** 2 - fixed[first]) / slope[first])
    return base if 1 / _FAR < ratio < _FAR else np.where(np.isin(np.arange(3), linked), base * ratio, base)


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


def _map_of(groups: list[list[int]], base: Floats) -> tuple[Floats, Floats]:
    """Return (3, d) and (3,): squares of the factors as a linear map of the unknowns, and those held."""
    squares, held = np.zeros((3, len(groups))), np.square(base)
    for column, axes in enumerate(groups):
        squares[axes, column] = np.square(base[axes])
        held[axes] = 0
    return squares, held


def _problem(demands: Sequence[Demand], factors: Floats, squares: Floats, held: Floats) -> _Problem:
    rows, low, high, wanted, weight, owner = [], [], [], [], [], []
    for number, demand in enumerate(demands):
        band = demand.band
        for row in demand.form.rows(factors):
            rows.append(row)
            low.append(band.low)
            high.append(band.high)
            wanted.append(np.nan if band.wanted is None else band.wanted)
            weight.append(1 / band.slack)
            owner.append(number)
    a = np.asarray(rows)
    return _Problem(
        a @ squares, a @ held, np.asarray(low), np.asarray(high), np.asarray(wanted),
        np.asarray(weight) / max(weight), np.asarray(owner),
    )  # fmt: skip


def _limits(problem: _Problem) -> tuple[Floats, Floats, NDArray[np.int64]]:
    """Return ``c t ≥ h``, rows of length 1, and whose row it is; the last ones keep ``t`` above nothing."""
    upper = np.isfinite(problem.high)
    c = np.concatenate([problem.rows, -problem.rows[upper]])
    h = np.concatenate([problem.low**2 - problem.fixed, problem.fixed[upper] - problem.high[upper] ** 2])
    owner = np.concatenate([problem.owner, problem.owner[upper]])
    reach, ends = _reach(problem.rows.shape[1])
    c, h = np.concatenate([c, reach]), np.concatenate([h, ends])
    owner = np.concatenate([owner, np.full(len(reach), -1)])
    size = np.linalg.norm(c, axis=1)
    size[size == 0] = 1.0
    return c / size[:, None], h / size, owner


def _reach(count: int) -> tuple[Floats, Floats]:
    """Return ``c t ≥ h`` that keep the unknowns within reach: above nothing, or not far from alike."""
    if count == 1:
        return np.eye(1), np.full(1, 1e-12)
    both = np.concatenate([np.eye(count), -np.eye(count)])
    return both, np.concatenate([np.full(count, 1 / _FAR**2), np.full(count, -(_FAR**2))])


def _nearest(problem: _Problem, t: Floats) -> Floats:
    """One Newton step: the wanted lengths as near as can be, every limit kept."""
    length = np.sqrt(np.maximum(problem.rows @ t + problem.fixed, 1e-300))
    pulls = np.isfinite(problem.wanted)
    scale = problem.weight[pulls] / (2 * length[pulls])
    a = problem.rows[pulls] * scale[:, None]
    b = scale * (2 * length[pulls] * problem.wanted[pulls] - length[pulls] ** 2 - problem.fixed[pulls])
    a, b = _with_shape(a, b, problem, length)
    c, h, _ = _limits(problem)
    found = _least_squares_within(a, b, c, h)
    return t if found is None else found


def _with_shape(a: Floats, b: Floats, problem: _Problem, length: Floats) -> tuple[Floats, Floats]:
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
    x, y, z = (bool(one) for one in idle)
    return (x, y, z)


def _least_squares_within(a: Floats, b: Floats, c: Floats, h: Floats) -> Floats | None:
    """Minimise ``|a x - b|`` where ``c x ≥ h``; None when nothing satisfies that (problem LSI)."""
    q, r = np.linalg.qr(a)
    start = q.T @ b
    inverse = np.linalg.inv(r)
    found, _ = _least_distance(c @ inverse, h - c @ inverse @ start)
    return None if found is None else np.asarray(inverse @ (found + start))


def _least_distance(g: Floats, h: Floats) -> tuple[Floats | None, Floats]:
    """Find the shortest ``z`` with ``g z ≥ h`` (problem LDP), by non-negative least squares.

    Returns:
        The vector, or None when there is none; then the multipliers name what excludes each other.
    """
    from scipy.optimize import nnls  # 16 MB, which taking a file in need not carry

    size = np.maximum(np.linalg.norm(g, axis=1), 1e-300)
    reach = max(float(np.abs(h / size).max()), 1e-300)
    e = np.concatenate([(g / size[:, None]).T, (h / size / reach)[None]])
    f = np.zeros(len(e))
    f[-1] = 1
    multipliers, _ = nnls(e, f, maxiter=30 * e.shape[1])
    rest = e @ multipliers - f
    if np.linalg.norm(rest) <= _NO_REST:
        return None, multipliers
    found = np.asarray(-rest[:-1] / rest[-1] * reach)
    if ((g @ found - h) / size < -_SHORT * reach).any():  # what is left was rounding, not a way out
        return None, multipliers
    return found, multipliers


def _feasible(c: Floats, h: Floats) -> tuple[bool, NDArray[np.int64]]:
    found, multipliers = _least_distance(c, h - 1e-10 * np.abs(h))
    return found is not None, np.flatnonzero(multipliers > 0)


def _conflict(problem: _Problem) -> tuple[int, ...]:
    """Return the fewest demands that exclude each other.

    With k unknowns these are at most k + 1 (Helly 1923), so with what is told for one, two and three of
    them, nothing smaller than what is left at the end has been passed over; but for readings that could
    be met by factors out of reach.
    """
    c, h, owner = _limits(problem)
    possible, against = _feasible(c, h)
    if possible:
        return ()
    few = _alone(problem) or _pair(problem)
    if few:
        return few
    left = sorted(set(owner[against].tolist()) - {-1})
    for number in list(left):  # leave out what is not needed for the conflict
        rest = [one for one in left if one != number]
        some = np.isin(owner, [*rest, -1])
        if rest and not _feasible(c[some], h[some])[0]:
            left = rest
    return (_three(problem) if len(left) > 3 else ()) or tuple(left)


def _room(problem: _Problem) -> tuple[Floats, Floats]:
    """Return what is left for ``rows t`` of each band once the held part is taken off."""
    return problem.low**2 - problem.fixed, problem.high**2 - problem.fixed


def _alone(problem: _Problem) -> tuple[int, ...]:
    low, high = _room(problem)
    still = np.abs(problem.rows).max(axis=1) <= 1e-12 * (problem.fixed + 1e-300)
    bad = (high <= 0) | (still & ((low > 0) | (high < 0)))
    return (int(problem.owner[bad][0]),) if bad.any() else ()


def _pair(problem: _Problem) -> tuple[int, ...]:
    """Two bands exclude each other when no ``t ≥ 0`` has the two lengths in a ratio that both allow.

    Over ``t ≥ 0`` the ratio of ``a t`` to ``b t`` runs from the least to the greatest ratio of their parts.
    """
    low, high = _room(problem)
    low = np.maximum(low, 0.0)
    a = problem.rows
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        ratio = a[:, None, :] / a[None, :, :]
        ratio = np.where(np.isnan(ratio), -np.inf, ratio)
        most = ratio.max(axis=2)
        least_asked = low[:, None] / high[None, :]
    clash = least_asked > most * (1 + 1e-10)
    np.fill_diagonal(clash, False)
    if not clash.any():
        return ()
    with np.errstate(divide="ignore", invalid="ignore"):
        by = np.where(clash, least_asked / most, 0.0)
    i, j = np.unravel_index(int(by.argmax()), by.shape)
    return tuple(sorted({int(problem.owner[i]), int(problem.owner[j])}))


def _three(problem: _Problem) -> tuple[int, ...]:
    """Three bands exclude each other when what two of them allow cannot be had with the third.

    Of lengths ``a t``, ``b t``, ``c t`` over ``t ≥ 0``: where ``u b + v c ≥ a`` in every part, ``a t`` is at
    most ``u high_b + v high_c``; where ``u b + v c ≤ a`` it is at least ``u low_b + v low_c`` (Farkas). The
    best ``u`` and ``v`` lie where two parts are equal, or one of them is 0, which :func:`_pair` has told.
    """
    low, high = _room(problem)
    low = np.maximum(low, 0.0)
    rows = problem.rows
    first, second = np.triu_indices(len(rows), 1)
    b, c = rows[first], rows[second]
    most, least = high[first], low[first]
    best = 1 + 1e-10
    found: tuple[int, ...] = ()
    for p, q in ((0, 1), (0, 2), (1, 2))[: 3 if rows.shape[1] == 3 else 1]:
        turn = b[:, p] * c[:, q] - b[:, q] * c[:, p]
        for number, a in enumerate(rows):
            with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
                u = (a[p] * c[:, q] - a[q] * c[:, p]) / turn
                v = (b[:, p] * a[q] - b[:, q] * a[p]) / turn
                rest = u[:, None] * b + v[:, None] * c - a
                over = low[number] / (u * most + v * high[second])
                under = (u * least + v * low[second]) / high[number]
                proper = (u >= 0) & (v >= 0) & np.isfinite(u + v)
            slack = 1e-12 * np.abs(a).max()
            clash = np.where(proper & (rest >= -slack).all(axis=1), over, 0.0)
            clash = np.fmax(clash, np.where(proper & (rest <= slack).all(axis=1), under, 0.0))
            at = int(clash.argmax())
            if clash[at] > best:
                best, found = float(clash[at]), (number, int(first[at]), int(second[at]))
    return tuple(sorted({int(problem.owner[one]) for one in found}))


def _compromise(problem: _Problem, t: Floats) -> Floats:
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
        if not rows.any():  # nothing that may change makes a difference
            break
        best = _least_squares_within(rows, np.concatenate([b + a @ t, np.zeros(len(t))]), *_reach(len(t)))
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


def _badness(problem: _Problem, t: Floats) -> float:
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
