"""Seams: places along an axis where a cut will hide, read off the curve of the section's area."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely

from aimtrue.core.division.sections.outlines import in_section_axes
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.outlines import outline_from
from aimtrue.core.mesh.sections import rings_at, sections_of
from aimtrue.core.model.value import Axis

Kind = Literal["groove", "ledge", "narrow"]
_ORDER: dict[Kind, int] = {"groove": 0, "ledge": 1, "narrow": 2}
_STEPS = 240
"""Heights at which the curve is taken."""
_SQUARE = 0.9995
"""A face whose normal is nearer to the axis than this is square to it."""
_CHANGE = 0.03
"""A change of the section's area shows when it is at least this share of the greater area."""
_GROOVE = 0.1
"""Two ledges nearer than this share of the length, with less material between them, are a groove."""
_END = 0.04
"""Of the length: so near an end a cut leaves a sliver."""
_MOST = 12


@dataclass(frozen=True)
class Seam:
    """A place for a cut.

    Attributes:
        at_mm: on the axis.
        kind: in a groove, on a ledge, or where the section is narrow.
        area_mm2, outlines: of the section there, the smaller side of a ledge.
        stands: of the hull of the section, the share that is material: how well a piece stands on it.
    """

    at_mm: float
    kind: Kind
    area_mm2: float
    outlines: int
    stands: float


@dataclass(frozen=True, eq=False)
class Curve:
    """The area of the section along an axis: (k,) places in mm, and (k,) areas in mm²."""

    at: Floats
    areas: Floats


def seams_of(mesh: Mesh, axis: Axis) -> tuple[tuple[Seam, ...], Curve]:
    """Find where cuts square to an axis would hide.

    Args:
        mesh: closed, in mm.
        axis: that the cuts are square to.

    Returns:
        The seams, grooves before ledges before narrow places and the smaller section first among alike; and
        the curve, with a step on both sides of every ledge.
    """
    along = in_section_axes(mesh, axis)
    low, high = along.bounds()[:, 2].tolist()
    length = high - low
    ledges = _levels(along, low, high)
    step = 1e-5 * length
    evenly = low + length * (np.arange(_STEPS) + 0.5) / _STEPS
    heights = np.unique(np.concatenate([evenly, ledges - step, ledges + step]))
    heights = heights[(heights > low) & (heights < high)]
    curve = Curve(heights, sections_of(along, heights, counted=False).areas)
    candidates = _grooves(curve, ledges, step, length) + _ledges(curve, ledges, step) + _narrow(curve, length)
    kept: list[tuple[float, Kind]] = []
    for at, kind in sorted(candidates, key=lambda seam: (_ORDER[seam[1]], _area(curve, seam[0]))):
        inside = low + _END * length < at < high - _END * length
        if inside and all(abs(at - other) > _GROOVE / 4 * length for other, _ in kept):
            kept.append((at, kind))
    return tuple(_seam(along, at, kind, step) for at, kind in kept[:_MOST]), curve


def _levels(along: Mesh, low: float, high: float) -> Floats:
    """Where faces lie square to the axis that are large enough to be a ledge."""
    corners = along.vertices[along.faces]
    sides = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    areas = np.linalg.norm(sides, axis=1)
    flat = np.abs(sides[:, 2]) > _SQUARE * areas
    flat &= areas > 0
    if not flat.any():
        return np.empty(0)
    heights, areas = corners[flat, :, 2].mean(axis=1), areas[flat] / 2
    grain = 1e-6 * (high - low)
    levels, owner = np.unique(np.round(heights / grain), return_inverse=True)
    weights = np.bincount(owner, areas)
    middles = np.bincount(owner, areas * heights) / weights
    return np.asarray(middles[(weights > 0.01 * weights.max()) & (np.abs(levels) >= 0)])


def _area(curve: Curve, at: float) -> float:
    return float(np.interp(at, curve.at, curve.areas))


def _changes(curve: Curve, level: float, step: float) -> tuple[float, float]:
    return _area(curve, level - step), _area(curve, level + step)


def _ledges(curve: Curve, levels: Floats, step: float) -> list[tuple[float, Kind]]:
    rows = [(float(level), *_changes(curve, float(level), step)) for level in levels]
    return [(at, "ledge") for at, below, above in rows if abs(above - below) > _CHANGE * max(below, above)]


def _grooves(curve: Curve, levels: Floats, step: float, length: float) -> list[tuple[float, Kind]]:
    """Two neighbouring ledges, less between them than on either side."""
    grooves: list[tuple[float, Kind]] = []
    for lower, upper in zip(levels[:-1].tolist(), levels[1:].tolist(), strict=True):
        below, inner = _changes(curve, lower, step)
        other, above = _changes(curve, upper, step)
        less = max(inner, other) < (1 - _CHANGE) * min(below, above)
        if upper - lower < _GROOVE * length and less:
            grooves.append(((lower + upper) / 2, "groove"))
    return grooves


def _narrow(curve: Curve, length: float) -> list[tuple[float, Kind]]:
    """Places where the section is smaller than at every place within a tenth of the length, by enough to
    tell.
    """
    grooves: list[tuple[float, Kind]] = []
    for number in range(1, len(curve.at) - 1):
        near = np.abs(curve.at - curve.at[number]) < _GROOVE * length
        here = curve.areas[number]
        if here <= curve.areas[near].min() and here < (1 - _CHANGE) * min(
            curve.areas[near][0], curve.areas[near][-1]
        ):
            grooves.append((float(curve.at[number]), "narrow"))
    return grooves


def _seam(along: Mesh, at: float, kind: Kind, step: float) -> Seam:
    places = (at - step, at + step) if kind == "ledge" else (at,)
    outlines = [outline_from(rings_at(along, place)) for place in places]
    shape = shapely.intersection_all(outlines)
    hull = shape.convex_hull.area
    rings = sum(1 + len(part.interiors) for part in shapely.get_parts(shape) if part.geom_type == "Polygon")
    return Seam(at, kind, float(shape.area), int(rings), float(shape.area / hull) if hull else 0.0)
