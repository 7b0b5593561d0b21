"""Bodies made of others: the released solid against the region that it is to fill.

Every place of the released surface must be where that region ends, points on either side of it must be in or
out as the region says, and no surface of the whole that belongs to it may be missing.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from aimtrue.core.proof import distance
from aimtrue.core.proof.bodies.proven_body import ProvenBody
from aimtrue.core.proof.bodies.remade_bodies import shells_of
from aimtrue.core.proof.regions.cells import CellRegion
from aimtrue.core.proof.regions.hollowed import HollowRegion
from aimtrue.core.proof.regions.moved import MovedRegion, reached
from aimtrue.core.proof.regions.region import Region
from aimtrue.core.proof.surface import Numbers, Points, Surface, volume
from aimtrue.core.proof.values import Check, counted, judged, length, same, within, yes

_STEP = 2e-4
"""Points are asked about at this share of the size to either side of the surface."""
_SEED = 7
_MANY = 1200
_PLACES = 3000
_EVEN = 1e-3
"""The median thickness of a wall may be off by this share of the wall."""
_OWNED = 0.02
"""Where more than this share of a stretch of the whole's surface is on the body, all of it must be."""


def found_in_mm(part: ProvenBody) -> Surface:
    """Return a released body in mm of the corrected body: seat, place and what makes up for shrinkage off."""
    corners = part.chain.unturned(part.found.reshape(-1, 3) - part.claim.place)
    return Surface(corners, np.arange(len(corners)).reshape(-1, 3))


def checks(part: ProvenBody, expected: Region, whole: Surface | None) -> list[Check]:
    """Hold a released body against the region that it is to fill.

    Args:
        part: as it was released.
        expected: in mm of the corrected body.
        whole: the surface of what it was made of; None for a loose pin.
    """
    name, found = part.body.name, found_in_mm(part)
    size = float(np.ptp(found.points, axis=0).max())
    limit = 2 * math.sqrt(3) * part.limit + part.slack + 1e-9 * size
    places, _ = found.places
    off = np.maximum(expected.ends(places) - expected.loose(places), 0.0)
    says = f"surface of {name} where it was cut, or where the original has it"
    rows = [within("surface", says, f"within {limit:.2g} mm", float(off.max(initial=0.0)), limit)]
    gaping = isinstance(expected, CellRegion) and expected.open
    if not gaping:  # An open body has no inside.
        asked, wrong = _sides(expected, found, size, limit)
        rows.append(
            judged(
                "sides",
                f"material of {name} on the right side of its surface",
                f"all of {counted(asked, 'place')}",
                f"{wrong} wrong" if wrong else f"all of {counted(asked, 'place')}",
                float(wrong),
                0.0,
            )
        )
    if whole is not None:
        # Where it is by a hair elsewhere the first check tells; here what is not there at all.
        missing, most = _missing(expected, found, whole, limit, size), max(limit, 3 * _STEP * size)
        says = f"original's surface that belongs to {name} not in it"
        rows.append(within("covered", says, f"within {most:.2g} mm", missing, most))
    if isinstance(expected, HollowRegion):
        # What is told of its edges may be uneven; by far the most of it is to be as thick as was asked.
        deep, wall = expected.depths(places), expected.shaping.wall
        middle = float(np.median(deep)) if len(deep) else 0.0
        rows.append(length("wall", f"wall of {name}", wall, middle, limit + _EVEN * wall))
    if isinstance(expected, MovedRegion):
        rows += _moved_faces(name, found, expected, limit)
    if not gaping:
        rows.append(same("outward", f"{name} faces outward", "yes", yes(volume(found.corners) > 0)))
    return rows


def _moved_faces(name: str, found: Surface, expected: MovedRegion, limit: float) -> Iterator[Check]:
    """Each face that was moved, measured on the released corners: the amount, at its worst corner."""
    amount = expected.shaping.amount
    for face in expected.shaping.faces:
        out = reached(found, face, amount)
        where = f"ø {face.diameter:.4g}" if face.kind == "round" else "a flat face"
        says = f"how far {where} of {name} was moved"
        if out is None:
            yield same("moved", says, f"{amount:.5f} mm", "not there")
        else:
            yield length("moved", says, amount, max(out, key=lambda moved: abs(moved - amount)), limit)


def places_within(found: Surface, *, gaping: bool = False) -> Points:
    """Return (n, 3) places just inside a released surface; of one that is open, just behind it."""
    size = float(np.ptp(found.points, axis=0).max())
    middles, ways = _middles(found)
    points = middles - _STEP * size * ways
    return points if gaping else np.asarray(points[distance.inside(points, found)])


def _middles(found: Surface) -> tuple[Points, Points]:
    """Places on triangles, spread by area besides one on each of some, and which way is out there."""
    corners = found.corners
    sides = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    areas = np.linalg.norm(sides, axis=1)
    chance = np.random.default_rng(_SEED)
    good = np.flatnonzero(areas > 1e-12 * max(float(areas.max(initial=0.0)), 1e-300))
    few = good[:: -(-len(good) // _MANY)]
    some = np.concatenate([few, chance.choice(good, _MANY, p=areas[good] / areas[good].sum())])
    u, v = chance.random((2, len(some)))
    over = u + v > 1
    u[over], v[over] = 1 - u[over], 1 - v[over]
    a, b, c = (corners[some, k] for k in range(3))
    return a + u[:, None] * (b - a) + v[:, None] * (c - a), sides[some] / areas[some, None]


def _sides(expected: Region, found: Surface, size: float, limit: float) -> tuple[int, int]:
    """How many points near the surface and all over were asked about, and of how many the answers differ."""
    middles, ways = _middles(found)
    low, high = found.points.min(axis=0), found.points.max(axis=0)
    anywhere = np.random.default_rng(_SEED).uniform(low, high, (_MANY, 3))
    anywhere = anywhere[distance.inside(anywhere, found)]  # Other places may be in another piece.
    beside = [middles + _STEP * size * ways, middles - _STEP * size * ways]
    points = np.concatenate([*beside, anywhere, expected.telling()])
    clear = expected.ends(points) > limit + expected.loose(points)
    points = points[clear]
    wrong = expected.inside(points) != distance.inside(points, found)
    return len(points), int(wrong.sum())


def _missing(expected: Region, found: Surface, whole: Surface, limit: float, size: float) -> float:
    """How far any of the whole's surface that bounds the region is from the released one, in mm."""
    places, ways, owner = _spread(whole)
    inner, outer = places - _STEP * size * ways, places + _STEP * size * ways
    clear = np.ones(len(places), bool)
    for side in (inner, outer):
        clear &= expected.ends(side) > limit + expected.loose(side)
    places, owner, inner, outer = places[clear], owner[clear], inner[clear], outer[clear]
    if isinstance(expected, CellRegion) and expected.open:
        bounds = expected.among(inner) & expected.among(outer)
    else:
        bounds = expected.inside(inner) & ~expected.inside(outer)
    places, owner = places[bounds], owner[bounds]
    away = distance.away(places, found)
    whole_cell = isinstance(expected, CellRegion) and expected.open and expected.alone
    if away.max(initial=0.0) <= limit or whole_cell:
        return float(away.max(initial=0.0))
    # What hangs together and is on this piece nowhere is another's, of a cell that has several.
    stretch = _stretches(whole, expected, _STEP * size)[owner]
    many = int(stretch.max()) + 1
    share = np.bincount(stretch, away <= limit, many) / np.maximum(np.bincount(stretch, minlength=many), 1)
    return float(away[(share > _OWNED)[stretch]].max(initial=0.0))


def _spread(whole: Surface) -> tuple[Points, Points, Numbers]:
    """Places all over a surface, not too many, with the ways outward and the triangles they are on."""
    places, owner = whole.places
    corners = whole.corners[owner]
    sides = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    areas = np.linalg.norm(sides, axis=1)
    good = np.flatnonzero(areas > 0)
    if len(good) > _PLACES:
        good = np.random.default_rng(_SEED).choice(good, _PLACES, replace=False)
    return places[good], sides[good] / areas[good, None], owner[good]


def _stretches(whole: Surface, bounds_of: Region, step: float) -> Numbers:
    """Number the whole's triangles by what hangs together of those that are in the region throughout."""
    corners = whole.corners
    sides = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    ways = sides / np.maximum(np.linalg.norm(sides, axis=1), 1e-300)[:, None]
    shrunk = corners * 0.999 + corners.mean(axis=1, keepdims=True) * 0.001 - step * ways[:, None]
    gaping = isinstance(bounds_of, CellRegion) and bounds_of.open
    within_it = bounds_of.among if isinstance(bounds_of, CellRegion) and gaping else bounds_of.inside
    all_in = np.asarray(within_it(shrunk.reshape(-1, 3))).reshape(-1, 3).all(axis=1)
    number = np.arange(len(corners)) + len(corners)
    if all_in.any():
        here = np.flatnonzero(all_in)
        number[here] = shells_of(Surface(whole.points, whole.faces[here]))
    return np.asarray(np.unique(number, return_inverse=True)[1], np.int64)
