"""This module finds the least-squares solution under linear inequalities, or that there is none.

Lawson and Hanson, Solving Least Squares Problems (1974), chapter 23.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats

_NO_REST = 1e-8
"""What is left of a system that has no solution: its last part is the square of this, so rounding."""


_SHORT = 1e-6
"""By how much of the farthest limit a vector may miss one and still count as one that keeps them."""


def least_squares_within(a: Floats, b: Floats, c: Floats, h: Floats) -> Floats | None:
    """Minimise ``|a x - b|`` where ``c x ≥ h``; None when nothing satisfies that (problem LSI)."""
    q, r = np.linalg.qr(a)
    start = q.T @ b
    inverse = np.linalg.inv(r)
    solution, _ = _least_distance(c @ inverse, h - c @ inverse @ start)
    return None if solution is None else np.asarray(inverse @ (solution + start))


def _least_distance(g: Floats, h: Floats) -> tuple[Floats | None, Floats]:
    """Find the shortest ``z`` with ``g z ≥ h`` (problem LDP), by non-negative least squares.

    Returns:
        The vector, or None when there is none; then the multipliers name what excludes each other.
    """
    from scipy.optimize import nnls  # The library takes 16 MB, which taking a file in need not carry.

    size = np.maximum(np.linalg.norm(g, axis=1), 1e-300)
    reach = max(float(np.abs(h / size).max()), 1e-300)
    e = np.concatenate([(g / size[:, None]).T, (h / size / reach)[None]])
    f = np.zeros(len(e))
    f[-1] = 1
    multipliers, _ = nnls(e, f, maxiter=30 * e.shape[1])
    rest = e @ multipliers - f
    if np.linalg.norm(rest) <= _NO_REST:
        return None, multipliers
    solution = np.asarray(-rest[:-1] / rest[-1] * reach)
    if ((g @ solution - h) / size < -_SHORT * reach).any():  # What is left was rounding, not a way out.
        return None, multipliers
    return solution, multipliers


def feasible(c: Floats, h: Floats) -> tuple[bool, NDArray[np.int64]]:
    """Tell whether any ``t`` has ``c t ≥ h``, and which rows are against it."""
    solution, multipliers = _least_distance(c, h - 1e-10 * np.abs(h))
    return solution is not None, np.flatnonzero(multipliers > 0)
