"""This module says what hangs together: the groups that links make of things that are counted from 0."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def connected_components(
    count: int, one: NDArray[np.integer], other: NDArray[np.integer]
) -> tuple[int, NDArray[np.int64]]:
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
    numbers = np.arange(count, dtype=np.int32)
    first = numbers.copy()
    one, other = one.astype(np.int32), other.astype(np.int32)
    while len(one):
        # Every group that is linked to one that begins earlier joins the earliest of these: what it begins
        # with leads there then, in as many steps as groups joined in a row.
        np.minimum.at(first, np.maximum(one, other), np.minimum(one, other))
        while not np.array_equal(first, further := first[first]):
            first = further
        # Links between groups are left, each now between what the two begin with.
        one, other = first[one], first[other]
        between = one != other
        one, other = one[between], other[between]
    begins = first == numbers
    return int(begins.sum()), (np.cumsum(begins) - 1)[first]
