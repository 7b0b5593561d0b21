"""This module says which triangle of the original each triangle of a released body is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from aimtrue.core.proof.originals.proof_original import MOST_TRIED, ProofOriginal
from aimtrue.core.proof.surface import Numbers, Points, Surface

_MOST_RUNS = 300
_BLOCK = 1 << 15
_ALTERNATIVES = 12


@dataclass(frozen=True, eq=False)
class TriangleMatch:
    """Released triangles and the ones of the original that they are.

    Attributes:
        source: (r,) the number of the original triangle, -1 where there is none.
        turned: (r,) by how many corners its first corner is further on.
        worst: the greatest distance of any corner from where it should be, in mm.
    """

    source: Numbers
    turned: Numbers
    worst: float

    @property
    def strangers(self) -> NDArray[np.int64]:
        """Numbers of the triangles that the original does not have."""
        return np.flatnonzero(self.source < 0)


def match(asked: Points, found: Points, limit: float) -> TriangleMatch:
    """Match released triangles with those asked for, each used once.

    Bodies keep the order of their file, so long runs agree triangle by triangle; what does not is looked for
    by its place.

    Args:
        asked: (m, 3, 3) corners of the original where they should be in the file, in mm.
        found: (r, 3, 3) corners of the released body, in mm.
        limit: how far a corner may be off, in mm.
    """
    source = np.full(len(found), -1, dtype=np.int64)
    turned = np.zeros(len(found), dtype=np.int64)
    used = np.zeros(len(asked), dtype=bool)
    at = following = 0
    for _ in range(_MOST_RUNS):
        if at >= len(found):
            break
        start = _start(asked, used, found[at], limit, following)
        if start < 0:
            at += 1
            continue
        length = _run(asked[start:], used[start:], found[at:], limit)
        source[at : at + length] = np.arange(start, start + length)
        used[start : start + length] = True
        at, following = at + length, start + length
    _by_place(asked, used, found, limit, source, turned)
    return TriangleMatch(source, turned, _worst(asked, found, source, turned))


def _start(asked: Points, used: NDArray[np.bool_], wanted: Points, limit: float, following: int) -> int:
    """Find an unused triangle of the same corners; the one that follows the last run is tried first."""
    if following < len(asked) and not used[following] and abs(asked[following] - wanted).max() <= limit:
        return following
    near = abs(asked[:, 0, 0] - wanted[0, 0]) <= limit
    some = np.flatnonzero(near & ~used)
    some = some[(abs(asked[some] - wanted) <= limit).all(axis=(1, 2))]
    return int(some[0]) if len(some) else -1


def _run(asked: Points, used: NDArray[np.bool_], found: Points, limit: float) -> int:
    most = min(len(asked), len(found))
    for at in range(0, most, _BLOCK):
        block = slice(at, min(at + _BLOCK, most))
        good = (abs(asked[block] - found[block]) <= limit).all(axis=(1, 2)) & ~used[block]
        if not good.all():
            return at + int(np.argmin(good))
    return most


def _by_place(
    asked: Points, used: NDArray[np.bool_], found: Points, limit: float, source: Numbers, turned: Numbers
) -> None:
    """Match what is left by the middles of triangles, with their corners in any turn; fills in the
    results.
    """
    left, free = np.flatnonzero(source < 0), np.flatnonzero(~used)
    if not len(left) or not len(free):
        return
    tree = cKDTree(asked[free].mean(axis=1))
    for _ in range(2):  # Triangles whose first choice went to another are looked at a second time.
        many = min(_ALTERNATIVES, len(free))
        away, near = tree.query(found[left].mean(axis=1), k=many, distance_upper_bound=2 * limit, workers=-1)
        away, near = away.reshape(len(left), many), near.reshape(len(left), many)
        for choice in range(many):
            open_ones = np.flatnonzero((source[left] < 0) & np.isfinite(away[:, choice]))
            if not len(open_ones):
                break
            mine, theirs = left[open_ones], free[near[open_ones, choice]]
            fits = np.stack(
                [
                    (abs(np.roll(asked[theirs], -turn, axis=1) - found[mine]) <= limit).all(axis=(1, 2))
                    for turn in range(3)
                ]
            )
            good = fits.any(axis=0) & ~used[theirs]
            mine, theirs, fits = mine[good], theirs[good], fits[:, good]
            theirs, first = np.unique(theirs, return_index=True)
            source[mine[first]] = theirs
            turned[mine[first]] = fits[:, first].argmax(axis=0)
            used[theirs] = True
        left = left[source[left] < 0]
        if not len(left):
            return


def _worst(asked: Points, found: Points, source: Numbers, turned: Numbers) -> float:
    worst = 0.0
    for turn in range(3):
        here = np.flatnonzero((source >= 0) & (turned == turn))
        for at in range(0, len(here), _BLOCK):
            some = here[at : at + _BLOCK]
            wanted = asked[source[some]]
            if turn:
                wanted = np.roll(wanted, -turn, axis=1)
            worst = max(worst, float(np.sqrt(((wanted - found[some]) ** 2).sum(axis=2).max())))
    return worst


def completed(  # noqa: PLR0913 - told apart by their names
    mesh: ProofOriginal,
    local: Surface,
    polygon: Numbers,
    asked: Points,
    found: Points,
    have: TriangleMatch,
    limit: float,
) -> tuple[Surface, Numbers, TriangleMatch]:
    """Find strangers that a large polygon can be cut into, and add those to the triangles of the original.

    Args:
        mesh: the source.
        local, polygon: its triangles that were matched against, and the polygon of each.
        asked: (n, 3) the points of ``local`` where they should be.
        found: (r, 3, 3) released corners.
        have: the match so far.
        limit: how far a corner may be off, in mm.
    """
    large = [number for number in np.unique(polygon).tolist() if mesh.corners[number] > MOST_TRIED]
    added: list[Numbers] = []
    owner: list[int] = []
    source = have.source.copy()
    for number in large:
        # The first triangles of a fan have all of the polygon's corners among them.
        corners = np.unique(local.faces[polygon == number])
        tree = cKDTree(asked[corners])
        left = np.flatnonzero(source < 0)
        away, near = tree.query(found[left], distance_upper_bound=2 * limit)
        for row in np.flatnonzero(np.isfinite(away).all(axis=1)):
            source[left[row]] = len(local.faces) + len(added)
            added.append(corners[near[row]])
            owner.append(number)
    if not added:
        return local, polygon, have
    faces = np.concatenate([local.faces, np.array(added)])
    turned = np.where(source >= len(local.faces), 0, have.turned)
    worst = _worst(asked[faces], found, source, turned)
    return (
        Surface(local.points, faces),
        np.concatenate([polygon, owner]),
        TriangleMatch(source, turned, worst),
    )
