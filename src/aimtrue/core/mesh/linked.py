"""What hangs together: the groups that links make of things that are counted from 0."""

from __future__ import annotations

import sys
from importlib import import_module
from threading import Thread

import numpy as np
from numpy.typing import NDArray

_GRAPHS = "scipy.sparse.csgraph"
_PLAIN_UP_TO = 30_000
"""Links up to which the plain way is taken: loading SciPy's graphs takes longer than that takes."""


def expect_links(count: int) -> None:
    """Load what many links take beside what comes first, where it is not loaded yet."""
    if count > _PLAIN_UP_TO and _GRAPHS not in sys.modules:
        Thread(target=import_module, args=(_GRAPHS,), daemon=True).start()


def linked(count: int, one: NDArray[np.integer], other: NDArray[np.integer]) -> tuple[int, NDArray[np.int64]]:
    """Tell what hangs together by links, of whatever direction.

    Args:
        count: how many things there are.
        one, other: (n,) of each link the two things that it joins.

    Returns:
        The number of groups, and (count,) of each thing the number of its group. Groups are numbered in the
        order of the first thing of each.

    Example:
        >>> linked(5, np.array([0, 3]), np.array([2, 4]))
        (3, array([0, 1, 0, 2, 2]))
    """
    if len(one) <= _PLAIN_UP_TO:
        return _plainly(count, np.asarray(one, np.int64), np.asarray(other, np.int64))
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    links = coo_matrix((np.ones(len(one), bool), (one, other)), shape=(count, count))
    groups, label = connected_components(links.tocsr(), directed=False)
    return int(groups), np.asarray(label, np.int64)


def _plainly(count: int, one: NDArray[np.int64], other: NDArray[np.int64]) -> tuple[int, NDArray[np.int64]]:
    """Let each thing take the least number that it can reach, doubling the reach at each round."""
    least = np.arange(count)
    while True:
        low = np.minimum(least[one], least[other])
        before = least.copy()
        # Of the group as it is so far, not of the thing alone: what was joined stays joined.
        np.minimum.at(least, before[one], low)
        np.minimum.at(least, before[other], low)
        while not np.array_equal(least, further := least[least]):
            least = further
        if np.array_equal(least, before):
            break
    first, label = np.unique(least, return_inverse=True)
    return len(first), label.astype(np.int64)
