"""This module holds small computations on arrays that several parts of the core need, each in one place."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Ints = NDArray[np.int64]


def ring_area(ring: NDArray[np.float64]) -> float:
    """Return the signed area within a closed ring of (n, 2) points, positive counter-clockwise.

    By the shoelace formula, about the first point: far from the origin nothing is lost by cancellation.
    """
    x, y = (ring - ring[0]).T
    return float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum() / 2)


def runs_of(starts: NDArray[np.integer], counts: NDArray[np.integer]) -> Ints:
    """Return the numbers of several runs, one run after the other.

    Args:
        starts: (k,) the first number of each run.
        counts: (k,) how many numbers each has.

    Example:
        >>> runs_of(np.array([5, 9]), np.array([3, 2]))
        array([ 5,  6,  7,  9, 10])
    """
    before = np.cumsum(counts) - counts
    return np.asarray(np.arange(int(counts.sum())) - np.repeat(before - starts, counts), np.int64)


def places_in_runs(counts: NDArray[np.integer]) -> Ints:
    """Return 0, 1, 2 ... within each of several runs of so many."""
    return runs_of(np.zeros_like(counts), counts)


def numbered_rows(rows: NDArray[np.number]) -> Ints:
    """Return (n,) a number for each row of an (n, k) array, the same for equal rows.

    By columns, one after the other: numbers sort several times faster than rows, as ``np.unique`` sorts them.

    Example:
        >>> numbered_rows(np.array([[7, 1], [5, 2], [7, 1]]))
        array([1, 0, 1])
    """
    numbers = np.unique(rows[:, 0], return_inverse=True)[1].ravel()
    for column in rows.T[1:]:
        values, place = np.unique(column, return_inverse=True)
        numbers = np.unique(numbers * len(values) + place.ravel(), return_inverse=True)[1].ravel()
    return np.asarray(numbers, np.int64)
