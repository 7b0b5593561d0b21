"""This module holds what readings ask of the factors: bands as linear inequalities in squared factors.

The unknowns and the formulas are told at :mod:`aimtrue.core.truing.solving.solve`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.gauges.bands import Band
from aimtrue.core.gauges.forms import Form
from aimtrue.core.mesh.mesh import Floats

FAR = 10.0
"""How far, as a factor, an axis may go from the factor that suits all axes alike."""


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


@dataclass(frozen=True, eq=False)
class BandProblem:
    """At some factors: ``L² = rows t + fixed`` for every length, with its limits and weight."""

    rows: Floats
    fixed: Floats
    low: Floats
    high: Floats
    wanted: Floats
    weight: Floats
    owner: NDArray[np.int64]


def squares_map(groups: list[list[int]], base: Floats) -> tuple[Floats, Floats]:
    """Return (3, d) and (3,): squares of the factors as a linear map of the unknowns, and those held."""
    squares, held = np.zeros((3, len(groups))), np.square(base)
    for column, axes in enumerate(groups):
        squares[axes, column] = np.square(base[axes])
        held[axes] = 0
    return squares, held


def problem_at(demands: Sequence[Demand], factors: Floats, squares: Floats, held: Floats) -> BandProblem:
    """Return what demands ask at some factors, in the unknowns of :func:`squares_map`."""
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
    return BandProblem(
        a @ squares, a @ held, np.asarray(low), np.asarray(high), np.asarray(wanted),
        np.asarray(weight) / max(weight), np.asarray(owner),
    )  # fmt: skip


def limits_of(problem: BandProblem) -> tuple[Floats, Floats, NDArray[np.int64]]:
    """Return ``c t ≥ h``, rows of length 1, and whose row it is; the last ones keep ``t`` above nothing."""
    upper = np.isfinite(problem.high)
    c = np.concatenate([problem.rows, -problem.rows[upper]])
    h = np.concatenate([problem.low**2 - problem.fixed, problem.fixed[upper] - problem.high[upper] ** 2])
    owner = np.concatenate([problem.owner, problem.owner[upper]])
    reach, ends = reach_of(problem.rows.shape[1])
    c, h = np.concatenate([c, reach]), np.concatenate([h, ends])
    owner = np.concatenate([owner, np.full(len(reach), -1)])
    size = np.linalg.norm(c, axis=1)
    size[size == 0] = 1.0
    return c / size[:, None], h / size, owner


def reach_of(count: int) -> tuple[Floats, Floats]:
    """Return ``c t ≥ h`` that keep the unknowns within reach: above nothing, or not far from alike."""
    if count == 1:
        return np.eye(1), np.full(1, 1e-12)
    both = np.concatenate([np.eye(count), -np.eye(count)])
    return both, np.concatenate([np.full(count, 1 / FAR**2), np.full(count, -(FAR**2))])
