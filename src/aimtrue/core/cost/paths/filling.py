"""This module fills a region with lines that are a spacing apart, straight or in waves.

Lines are where scan lines are within the region, by the even-odd rule over all edges at once. Their length
times the spacing is the area, but for what the ends of single lines are off; over a region these even out.
"""

from __future__ import annotations

import numpy as np

from aimtrue.core.cost.paths.regions import Region
from aimtrue.core.mesh.arrays import runs_of
from aimtrue.core.mesh.mesh import Floats

_SHORTEST_MM = 0.02
_WAVE_MM, _WAVE_HIGH = 12.0, 1.5
"""How long a wave is, and how far it goes to either side, in mm."""
_STEP_MM = 1.0
"""Waves, and edges that they are cut at, are drawn by chords of this length."""


def lines_in(region: Region, spacing: float, angle: float) -> list[Floats]:
    """Return straight lines that fill a region, in runs, (k, 2, 2) each.

    The lines of a run lie side by side, and every second one runs back, so that the end of one is near the
    beginning of the next.

    Args:
        region: to be filled, in mm.
        spacing: between lines, in mm.
        angle: of their direction, in radians from x.
    """
    turn = _turn(angle)
    return [run @ turn.T for run in _scanned([ring @ turn for ring in region.to_polygons()], spacing)]


def waves_in(region: Region, spacing: float, angle: float) -> list[list[Floats]]:
    """Return wavy lines that fill a region, in runs as of :func:`lines_in`; each line is (k, 2).

    In a frame in which waves are straight, the region's outline is wavy; it is scanned there. Waves are
    longer than straight lines by the mean of ``sqrt(1 + slope²)``; they lie apart by that much more.
    """
    turn, number = _turn(angle), 2 * np.pi / _WAVE_MM
    slope = _WAVE_HIGH * number * np.cos(np.linspace(0, 2 * np.pi, 257)[:-1])
    apart = spacing * float(np.sqrt(1 + slope**2).mean())
    rings = []
    for ring in region.to_polygons():
        dense = _dense(ring @ turn)
        rings.append(dense - np.stack([0 * dense[:, 0], _WAVE_HIGH * np.sin(number * dense[:, 0])], axis=1))
    runs = []
    for run in _scanned(rings, apart):
        waves = []
        for start, end in run:
            line = np.linspace(start, end, max(2, int(np.ceil(abs(end[0] - start[0]) / _STEP_MM)) + 1))
            line[:, 1] += _WAVE_HIGH * np.sin(number * line[:, 0])
            waves.append(line @ turn.T)
        runs.append(waves)
    return runs


def _turn(angle: float) -> Floats:
    """(2, 2): points times it are turned so that lines of the angle run along x."""
    return np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])


def _dense(ring: Floats) -> Floats:
    following = np.roll(ring, -1, axis=0)
    count = np.maximum(np.ceil(np.hypot(*(following - ring).T) / _STEP_MM), 1).astype(np.int64)
    which = np.repeat(np.arange(len(ring)), count)
    share = runs_of(np.zeros(len(ring), np.int64), count) / count[which]
    return np.asarray(ring[which] + share[:, None] * (following - ring)[which])


def _scanned(rings: list[Floats], spacing: float) -> list[Floats]:
    """The parts of level lines at ``(i + 1/2) spacing`` that are within rings, in runs, (k, 2, 2) each.

    While neighbouring lines have as many parts, the first ones are a run, the second ones another, and so on.
    """
    if not rings:
        return []
    start = np.concatenate(rings)
    end = np.concatenate([np.roll(ring, -1, axis=0) for ring in rings])
    # A corner on a line counts as above it, so that every line is entered as often as left.
    first, last = (np.ceil(points[:, 1] / spacing - 0.5).astype(np.int64) for points in (start, end))
    low, count = np.minimum(first, last), abs(last - first)
    edge = np.repeat(np.arange(len(start)), count)
    line = runs_of(low, count)
    height = (line + 0.5) * spacing
    rise = end[edge, 1] - start[edge, 1]
    across = start[edge, 0] + (height - start[edge, 1]) / rise * (end[edge, 0] - start[edge, 0])
    order = np.lexsort((across, line))
    across, line, height = across[order], line[order], height[order]
    ends = np.stack([across[0::2], across[1::2]], axis=1)
    long = ends[:, 1] - ends[:, 0] > _SHORTEST_MM
    ends, line, height = ends[long], line[0::2][long], height[0::2][long]
    if not len(line):
        return []
    parts = np.stack([ends, np.broadcast_to(height[:, None], ends.shape)], axis=2)
    lines, begin, counts = np.unique(line, return_index=True, return_counts=True)
    # A block is as many lines, one beside the other, as have the same number of parts.
    breaks = np.flatnonzero((np.diff(lines) > 1) | (np.diff(counts) != 0)) + 1
    runs = []
    for top, bottom in zip([0, *breaks], [*breaks, len(lines)], strict=True):
        each = int(counts[top])
        block = parts[begin[top] : begin[bottom - 1] + each].reshape(bottom - top, each, 2, 2)
        for part in range(each):
            run = block[:, part].copy()
            run[1::2] = run[1::2, ::-1]
            runs.append(run)
    return runs
