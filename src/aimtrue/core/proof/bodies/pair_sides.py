"""The sides of pairs, measured on released bytes: diameters, widths, pitches, and where faces are."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from aimtrue.core.model.pairs import PairSide
from aimtrue.core.model.shaping import DescribedFace
from aimtrue.core.proof.bodies.division_checks import found_in_mm
from aimtrue.core.proof.bodies.proven_body import ProvenBody
from aimtrue.core.proof.regions.moved import reached
from aimtrue.core.proof.regions.region import Bools
from aimtrue.core.proof.surface import Points, Surface
from aimtrue.core.proof.values import Check, judged, length, same

_BAND = 0.04
"""How far, as a share of its radius, corners of a round side may be off where they are looked for."""
_ONE_CREST = 2e-4
"""Corners of a thread that are so close in radius, as a share of it, are of one crest."""
_PITCH = 0.02
"""How much of a pitch facets leave open."""
_HARMONICS = (1, 2, 3)


def checks(part: ProvenBody) -> Iterator[Check]:
    """Hold every side of a pair that a body is claimed to have to what is in its file."""
    if not part.claim.sides:
        return
    surface = found_in_mm(part)
    # Either of two faces, or of two walls, may be off by what float32 takes in three axes.
    limit = 4 * np.sqrt(3) * part.limit
    for side in part.claim.sides:
        says = f"{side.says} of {part.body.name}, one side of a pair"
        if side.kind == "thread":
            yield from _thread_checks(surface, side, says, limit)
            continue
        if side.kind == "plane":
            says += ": how far along its normal"
        measured = _measured(surface, side)
        if measured is None:
            yield same("pair", says, f"{side.size_mm:.5f} mm", "not there")
        else:
            yield length("pair", says, side.size_mm, measured, limit)


def _measured(found: Surface, side: PairSide) -> float | None:
    """The size of a side; None where one of its faces is not there."""
    if side.kind == "oval":
        return _oval(found, side)
    out = [reached(found, face, 0.0) for face in side.faces]
    rows = [row for row in out if row is not None]
    if len(rows) < len(out):
        return None
    if side.kind == "round":
        (worst, _), face = rows[0], side.faces[0]
        return face.diameter - 2 * worst if face.hollow else face.diameter + 2 * worst
    # Of flat faces the corner of each that is farthest off tells.
    worst_of_each = [max(row, key=abs) for row in rows]
    if side.kind == "plane":
        return float(np.dot(side.faces[0].point, side.faces[0].way)) + worst_of_each[0]
    low, high = worst_of_each
    return side.size_mm - low - high if side.says == "slot" else side.size_mm + low + high


def _oval(found: Surface, side: PairSide) -> float | None:
    """The greatest diameter of an oval side, larger or smaller by what its corners are off the ellipse.

    Its corners are seen along the axis. Those on chords, where facets were cut, lie within the hull of the
    others, so the corners of the hull tell.
    """
    face = side.faces[0]
    across, half = np.asarray(side.across), np.array([side.size_mm, side.least_mm]) / 2
    beside = np.cross(face.way, across)
    away = found.corners - np.asarray(face.point)
    flat = np.stack([away @ across, away @ beside], axis=2)
    share = np.hypot(*(flat / half).transpose(2, 0, 1))
    mine = _in_box(found, face, _BAND * half[0]) & (abs(share - 1) < _BAND).all(axis=1)
    mine &= abs(_leans(found, face)) < 0.2
    if mine.sum() < 4:
        return None
    hull = shapely.MultiPoint(flat[mine].reshape(-1, 2)).convex_hull.simplify(1e-6 * float(half[0]))
    rim = shapely.get_coordinates(hull)
    # The distance from an ellipse, to first order: how far its equation is off, by how steep it is there.
    value = np.square(rim / half).sum(axis=1) - 1
    off = value / (2 * np.linalg.norm(rim / np.square(half), axis=1))
    return side.size_mm + 2 * float(off[np.argmax(abs(off))])


def _thread_checks(found: Surface, side: PairSide, says: str, limit: float) -> Iterator[Check]:
    """Hold a thread to the diameter of its crest, and to its pitch and hand."""
    crest = _crest(found, side)
    if crest is None:
        yield same("pair", says, f"ø {side.size_mm:.5f} mm", "not there")
        return
    points, diameter = crest
    yield length("pair", says, side.size_mm, diameter, limit)
    pitch = _pitch(points, side.pitch_mm)
    off = abs(pitch - side.pitch_mm)
    asked, have = (f"{abs(p):.3f} mm, {'right' if p > 0 else 'left'}-hand" for p in (side.pitch_mm, pitch))
    yield judged("pair", f"{says}: its pitch", asked, have, off, _PITCH * abs(side.pitch_mm))


def _crest(found: Surface, side: PairSide) -> tuple[Points, float] | None:
    """(k, 3) corners of a thread's crest about its axis, in a frame whose z is that; and its diameter."""
    face, radius = side.faces[0], side.size_mm / 2
    leans = abs(_leans(found, face))
    flanks = found.corners[_in_box(found, face, _BAND * radius) & (leans > 0.2) & (leans < 0.999)]
    way = np.asarray(face.way)
    away = flanks.reshape(-1, 3) - np.asarray(face.point)
    u = np.cross(way, np.eye(3)[np.argmin(abs(way))])
    u /= np.linalg.norm(u)
    turned = np.stack([away @ u, away @ np.cross(way, u), away @ way], axis=1)
    radii = np.hypot(turned[:, 0], turned[:, 1])
    near = np.flatnonzero(abs(radii - radius) < _BAND * radius)
    if len(near) < 8:
        return None
    # Most corners there are of the crest; a few may be of what is beside it, such as a countersink.
    order = np.sort(radii[near])
    last = np.searchsorted(order, order * (1 + _ONE_CREST), side="right")
    fullest = int(np.argmax(last - np.arange(len(order))))
    low, high = order[fullest], order[last[fullest] - 1]
    return turned[(radii >= low) & (radii <= high)], 2 * float(high)


def _pitch(crest: Points, about: float) -> float:
    """The pitch that corners of a crest climb by, near another; negative where it is left-hand.

    With the right pitch, heights less the climb fall onto the few edges of the crest, whatever the turn. How
    closely they do is the mean of unit vectors at these phases (a periodogram). Edges may be a part of a
    pitch from each other, so the greatest of its first harmonics tells.
    """
    tried = about * np.linspace(0.9, 1.1, 401)
    tried = np.concatenate([tried, -tried])
    turn = np.arctan2(crest[:, 1], crest[:, 0]) / (2 * np.pi)
    some = np.linspace(0, len(crest) - 1, min(len(crest), 600)).astype(int)
    phase = crest[some, 2][:, None] / abs(tried) - np.sign(tried) * turn[some][:, None]
    closeness = [abs(np.exp(2j * np.pi * k * phase).mean(axis=0)) for k in _HARMONICS]
    return float(tried[np.argmax(np.max(closeness, axis=0))])


def _in_box(found: Surface, face: DescribedFace, wide: float) -> Bools:
    low, high = np.asarray(face.low) - wide, np.asarray(face.high) + wide
    return np.asarray(((found.corners >= low) & (found.corners <= high)).all(axis=(1, 2)))


def _leans(found: Surface, face: DescribedFace) -> Points:
    """(m,): the cosine between the normal of each triangle and the axis of a face."""
    corners = found.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return np.asarray(normals @ np.asarray(face.way) / np.maximum(np.linalg.norm(normals, axis=1), 1e-300))
