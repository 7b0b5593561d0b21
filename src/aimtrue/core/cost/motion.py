"""This module says how long moves take, with acceleration and with corners that are taken slower.

Energies stand for speeds: ``e = v²``. Along a move of length L the energy changes by at most ``2 a L``. So
the energies at corners are the greatest ones below what each corner allows that change no faster, which two
sweeps give: ``e_i = min over j <= i of (c_j + 2 a (s_i - s_j))`` is a running minimum over the way s, and
the same from the end.
"""

from __future__ import annotations

import numpy as np

from aimtrue.core.mesh.mesh import Floats


def corner_energies(ways: Floats, speeds: Floats, acceleration: float, corner_mm: float) -> Floats:
    """Return the greatest energy, mm²/s², at each corner between moves.

    A corner is taken as fast as an arc that touches both moves and cuts it by so many mm: its radius is
    ``corner s / (1 - s)`` with s the sine of half the angle between the moves, and ``v² = a r``.

    Args:
        ways: (k, 2) unit vectors of the moves.
        speeds: (k,) of them, in mm/s.
        acceleration: in mm/s².
        corner_mm: how far a corner may be cut.
    """
    cosine = np.clip(np.einsum("ij,ij->i", ways[:-1], ways[1:]), -1, 1)
    half = np.sqrt((1 + cosine) / 2)
    arc = acceleration * corner_mm * half / np.maximum(1 - half, 1e-12)
    return np.asarray(np.minimum(arc, np.square(np.minimum(speeds[:-1], speeds[1:]))))


def seconds_of(
    points: Floats, speeds: Floats, acceleration: float, corner_mm: float, turn: float = 1.0
) -> Floats:
    """Return (k,): how long each move takes, in s; the first begins, and the last ends, at a stand.

    Args:
        points: (k + 1, 2) in mm.
        speeds: (k,) in mm/s that moves have at most.
        acceleration: in mm/s².
        corner_mm: how far a corner may be cut.
        turn: a factor on all, learnt from prints.
    """
    steps = np.diff(points, axis=0)
    lengths = np.hypot(steps[:, 0], steps[:, 1])
    seconds = np.zeros(len(lengths))
    moving = np.flatnonzero(lengths > 0)
    if not len(moving):
        return seconds
    long, top = lengths[moving], np.square(speeds[moving])
    corners = corner_energies(steps[moving] / long[:, None], speeds[moving], acceleration, corner_mm)
    allowed = np.concatenate([[0.0], corners, [0.0]])
    way = 2 * acceleration * np.concatenate([[0.0], np.cumsum(long)])
    forward = way + np.minimum.accumulate(allowed - way)
    back = (np.minimum.accumulate((forward + way)[::-1]))[::-1] - way
    start, end = np.maximum(back[:-1], 0.0), np.maximum(back[1:], 0.0)
    peak = np.minimum(top, (start + end) / 2 + acceleration * long)
    speed = np.sqrt(peak)
    changing = (2 * speed - np.sqrt(start) - np.sqrt(end)) / acceleration
    even = long - (2 * peak - start - end) / (2 * acceleration)
    seconds[moving] = turn * (changing + np.maximum(even, 0.0) / speed)
    return seconds
