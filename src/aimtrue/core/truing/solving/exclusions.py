"""This module says which readings exclude each other, as few as there are such."""

from __future__ import annotations

import numpy as np

from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.truing.solving.inequalities import feasible
from aimtrue.core.truing.solving.problem import (
    BandProblem,
    limits_of,
)


def excluding(problem: BandProblem) -> tuple[int, ...]:
    """Return the fewest demands that exclude each other.

    With k unknowns these are at most k + 1 (Helly 1923), so with what is told for one, two and three of
    them, nothing smaller than what is left at the end has been passed over; but for readings that could
    be met by factors out of reach.
    """
    c, h, owner = limits_of(problem)
    possible, against = feasible(c, h)
    if possible:
        return ()
    few = _alone(problem) or _pair(problem)
    if few:
        return few
    left = sorted(set(owner[against].tolist()) - {-1})
    for number in list(left):  # What the conflict does not need is left out.
        rest = [index for index in left if index != number]
        some = np.isin(owner, [*rest, -1])
        if rest and not feasible(c[some], h[some])[0]:
            left = rest
    return (_three(problem) if len(left) > 3 else ()) or tuple(left)


def _room(problem: BandProblem) -> tuple[Floats, Floats]:
    """Return what is left for ``rows t`` of each band once the held part is taken off."""
    return problem.low**2 - problem.fixed, problem.high**2 - problem.fixed


def _alone(problem: BandProblem) -> tuple[int, ...]:
    low, high = _room(problem)
    still = np.abs(problem.rows).max(axis=1) <= 1e-12 * (problem.fixed + 1e-300)
    bad = (high <= 0) | (still & ((low > 0) | (high < 0)))
    return (int(problem.owner[bad][0]),) if bad.any() else ()


def _pair(problem: BandProblem) -> tuple[int, ...]:
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


def _three(problem: BandProblem) -> tuple[int, ...]:
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
    clash_rows: tuple[int, ...] = ()
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
                best, clash_rows = float(clash[at]), (number, int(first[at]), int(second[at]))
    return tuple(sorted({int(problem.owner[row]) for row in clash_rows}))
