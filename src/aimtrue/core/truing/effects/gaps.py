"""Gaps between bodies that work together, and what a correction makes of them.

Which faces bound a gap does not depend on the correction: it is found once in the bodies as drawn, for pairs
whose boxes are near each other (a packed R-tree), and kept. A correction then changes all lengths at once.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np
import shapely
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.value import Vec3
from aimtrue.core.truing.effects.drawn_features import BodyAsDrawn, FeatureArrays, ellipses

GAP_MM = 4.0
"""Faces farther apart than this are no fit."""
_PARALLEL = 0.9999
_ASIDE = 0.5
"""How far, in mm, the axis of a pin may be from that of its bore."""
Indices = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Gaps:
    """Gaps between pairs of several bodies as drawn; g of them between flat faces, r around pins.

    Attributes:
        flat: (g, 2) numbers of the bodies; ``vectors`` (g, 3) in mm from the one face to the other.
        round: (r, 2) numbers of the body with the bore and the one with the pin; ``bores`` and ``pins`` are
            their radii, (r, 3, 2) each.
        places: of all of them, flat ones first, in numbers of the file of the first body.
    """

    flat: Indices
    vectors: Floats
    round: Indices
    bores: Floats
    pins: Floats
    places: tuple[Vec3, ...]

    def lengths(self, linear: Floats) -> tuple[Floats, Floats]:
        """Return how long all gaps are as drawn and after corrections, in mm.

        Args:
            linear: (bodies, 3, 3), what the correction of each body does to vectors.
        """
        moved = np.einsum("gij,gj->gi", linear[self.flat[:, 0]], self.vectors)
        drawn = 2 * np.linalg.norm(self.bores[:, :, 0], axis=1) - 2 * np.linalg.norm(
            self.pins[:, :, 0], axis=1
        )
        hole = ellipses(self.bores, linear[self.round[:, 0]])[1]
        pin = ellipses(self.pins, linear[self.round[:, 1]])[0]
        return (
            np.concatenate([np.linalg.norm(self.vectors, axis=1), drawn]),
            np.concatenate([np.linalg.norm(moved, axis=1), hole - pin]),
        )

    @property
    def pairs(self) -> Indices:
        """Return (g + r, 2): the bodies of each gap."""
        return np.concatenate([self.flat, self.round])


_GAPS: Memo[Gaps] = Memo(64)


def gaps_of(bodies: tuple[BodyAsDrawn, ...]) -> Gaps:
    """Return the gaps between several bodies of one frame."""
    return _GAPS.get(bodies, (), lambda: _gathered(bodies))


def near_pairs(bodies: tuple[BodyAsDrawn, ...]) -> Indices:
    """Return (p, 2): pairs of bodies near enough to bound a gap, the lower number first.

    A face reaches beyond its body's box by no more than half the side of a square of its area.
    """
    reach = np.array([float(body.flats.sizes.max(initial=0.0)) for body in bodies]) + GAP_MM
    low = np.array([body.low for body in bodies]) - reach[:, None]
    high = np.array([body.high for body in bodies]) + reach[:, None]
    boxes = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    a, b = shapely.STRtree(boxes).query(boxes, predicate="intersects")
    touching = (a < b) & (low[a, 2] <= high[b, 2]) & (low[b, 2] <= high[a, 2])
    pairs = np.stack([a[touching], b[touching]], axis=1).astype(np.int64)
    return np.asarray(pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))])


@dataclass(frozen=True, eq=False)
class _Flat:
    vectors: Floats
    places: tuple[Vec3, ...]


@dataclass(frozen=True, eq=False)
class _Round:
    turned: NDArray[np.bool_]
    bores: Floats
    pins: Floats
    places: tuple[Vec3, ...]


_BETWEEN: Memo[tuple[_Flat, _Round]] = Memo(65536)


def _gathered(bodies: tuple[BodyAsDrawn, ...]) -> Gaps:
    flat, rounds = [], []
    gaps: list[tuple[_Flat, _Round]] = []
    for a, b in near_pairs(bodies).tolist():
        body, other = bodies[a], bodies[b]
        between = _BETWEEN.get((body, other), (), partial(_between, body, other))
        gaps.append(between)
        flat += [(a, b)] * len(between[0].vectors)
        rounds += [(b, a) if turned else (a, b) for turned in between[1].turned]
    return Gaps(
        np.array(flat, dtype=np.int64).reshape(-1, 2),
        np.concatenate([np.zeros((0, 3)), *(one.vectors for one, _ in gaps)]),
        np.array(rounds, dtype=np.int64).reshape(-1, 2),
        np.concatenate([np.zeros((0, 3, 2)), *(one.bores for _, one in gaps)]),
        np.concatenate([np.zeros((0, 3, 2)), *(one.pins for _, one in gaps)]),
        tuple(place for one, _ in gaps for place in one.places)
        + tuple(place for _, one in gaps for place in one.places),
    )


def _between(one: BodyAsDrawn, other: BodyAsDrawn) -> tuple[_Flat, _Round]:
    there, back = _play(one.bores, other.bosses), _play(other.bores, one.bosses)
    turned = np.repeat([False, True], [len(there[0]), len(back[0])])
    places = [one.bores.features[i].point for i in there[0]] + [
        other.bores.features[i].point for i in back[0]
    ]
    return _facing(one.flats, other.flats), _Round(
        turned,
        np.concatenate([one.bores.radii[there[0]], other.bores.radii[back[0]]]),
        np.concatenate([other.bosses.radii[there[1]], one.bosses.radii[back[1]]]),
        tuple(places),
    )


def _facing(one: FeatureArrays, other: FeatureArrays) -> _Flat:
    """Flat faces that look at each other across a gap."""
    away = other.points[None] - one.points[:, None]
    apart = np.einsum("abi,ai->ab", away, one.ways)
    aside = np.linalg.norm(away - apart[:, :, None] * one.ways[:, None], axis=2)
    facing = (one.ways @ other.ways.T < -_PARALLEL) & (apart > 1e-6) & (apart < GAP_MM)
    a, b = np.nonzero(facing & (aside < one.sizes[:, None]))
    return _Flat(one.ways[a] * apart[a, b][:, None], tuple(one.features[i].point for i in a))


def _play(bores: FeatureArrays, bosses: FeatureArrays) -> tuple[Indices, Indices]:
    """Which bosses are in which bores, with play."""
    away = bosses.points[None] - bores.points[:, None]
    along = np.einsum("abi,ai->ab", away, bores.ways)
    aside = np.linalg.norm(away - along[:, :, None] * bores.ways[:, None], axis=2)
    play = bores.sizes[:, None] - bosses.sizes[None]
    overlap = (bores.depths[:, None] + bosses.depths[None]) / 2 - abs(along)
    parallel = abs(bores.ways @ bosses.ways.T) > _PARALLEL
    a, b = np.nonzero(parallel & (aside < _ASIDE) & (play > 0) & (play < GAP_MM) & (overlap > 0))
    return a, b
