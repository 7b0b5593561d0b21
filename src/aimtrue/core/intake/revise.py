"""Which bodies of a new revision are which bodies of the one before."""

from __future__ import annotations

import numpy as np

from aimtrue.core.model.body import Body

_UNLIKE = 1.0
"""Cost above which two bodies are not the same part: they differ by about their own size."""


def matched(old: list[Body], new: list[Body]) -> dict[int, int]:
    """Return, per new body that is an old one, the number of that old one.

    Equal names in the file go first, where they are unmistakable. The others are matched by size,
    volume and place, all together so that the sum of differences is least (Kuhn and Munkres).
    """
    from scipy.optimize import linear_sum_assignment

    pairs = _by_name(old, new)
    left_old = [i for i in range(len(old)) if i not in pairs.values()]
    left_new = [i for i in range(len(new)) if i not in pairs]
    if left_old and left_new:
        cost = np.array([[_difference(old[o], new[n]) for o in left_old] for n in left_new])
        # Cut off at the limit: how unlike two strangers are must not drive kindred apart.
        for n, o in zip(*linear_sum_assignment(np.minimum(cost, _UNLIKE)), strict=True):
            if cost[n, o] < _UNLIKE:
                pairs[left_new[n]] = left_old[o]
    return pairs


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


def _difference(a: Body, b: Body) -> float:
    """How unlike two bodies are: sizes, volume and place, against the size of the larger."""
    size_a, size_b = np.subtract(a.high, a.low), np.subtract(b.high, b.low)
    scale = float(max(size_a.max(), size_b.max())) or 1.0
    away = np.linalg.norm((np.add(a.high, a.low) - np.add(b.high, b.low)) / 2) / scale
    sizes = np.abs(size_a - size_b).max() / scale
    volume = abs(a.volume - b.volume) / max(abs(a.volume), abs(b.volume), 1e-300)
    return float(away + sizes + 0.5 * volume)
