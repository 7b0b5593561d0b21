"""This module lays the paths of one layer of one body: outline, shells, what is solid, infill, and support.

The outermost bead lies within the outline: the middle of its path is half a spacing from it, so that the
area of all beads is that of the layer. Where a wall has no room for whole beads they are laid narrower, and
where it has room for none it is told.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from aimtrue.core.cost.paths.filling import lines_in, waves_in
from aimtrue.core.cost.paths.regions import LayerRegion, Region, grown, nothing
from aimtrue.core.cost.settings import PrintPlan
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.printing import PathKind

_ALONG, _ACROSS = np.pi / 4, 3 * np.pi / 4
"""Directions of lines in even and in odd layers."""
_TOLD = 0.5
"""What is not covered is told where it is more than this share of a square as wide as a bead."""
_SLIVER = 0.25
"""What is solid is taken only where it is wider than twice this share of a spacing."""


@dataclass(frozen=True, eq=False)
class PathGroup:
    """Paths of one kind that are gone along one after the other.

    Attributes:
        kind: of all.
        paths: (k, 2) each, in mm of the plate; of a loop the first point is the last one again. Straight
            lines
            are one array, (k, 2, 2).
        loops: whether these are loops, which may begin anywhere.
        flow: how much of a whole bead is laid.
    """

    kind: PathKind
    paths: list[Floats] | Floats
    loops: bool = False
    flow: float = 1.0


@dataclass(frozen=True, eq=False)
class BodyLayer:
    """The paths of one layer of one body.

    Attributes:
        groups: in the order in which they are gone along.
        thin: places of walls that hold no bead, (2,) each, with the area of each in mm².
        area_mm2: of the layer, and of its support.
    """

    groups: list[PathGroup]
    thin: list[tuple[Floats, float]] = field(default_factory=list)
    area_mm2: float = 0.0
    support_mm2: float = 0.0


def body_layer(layer: LayerRegion, support: Region, plan: PrintPlan) -> BodyLayer:
    """Lay the paths of a layer.

    Args:
        layer: of the body.
        support: what is held there.
        plan: bead and settings.
    """
    spacing, settings = plan.bead.spacing, plan.settings
    groups, thin, inner = _shells(layer.whole, spacing, settings.shells)
    solid = inner if settings.infill >= 100 else _solid(inner, layer.covered, spacing)
    angle = _ALONG if layer.number % 2 == 0 else _ACROSS
    groups += _filled("solid", solid, spacing, angle, wavy=False)
    if 0 < settings.infill < 100:
        sparse = inner if solid.is_empty() else inner - solid
        apart = spacing * 100 / settings.infill
        groups += _filled("infill", sparse, apart, angle, wavy=settings.pattern == "waves")
    apart = spacing * 100 / settings.support_density
    groups += _filled("support", support, apart, np.pi / 2, wavy=False)
    return BodyLayer(groups, thin, layer.whole.area(), support.area())


def _shells(
    whole: Region, spacing: float, count: int
) -> tuple[list[PathGroup], list[tuple[Floats, float]], Region]:
    """The loops around a region, walls that hold none, and what is left within."""
    groups: list[PathGroup] = []
    thin: list[tuple[Floats, float]] = []
    outer = whole
    for number in range(count):
        if outer.is_empty():
            break
        middle, inner = grown(outer, -spacing / 2), grown(outer, -spacing)
        rings = [np.concatenate([ring, ring[:1]]) for ring in middle.to_polygons()]
        if number == 0:
            thin = _without_bead(whole, middle, spacing)
        if rings:
            length = sum(float(np.hypot(*np.diff(ring, axis=0).T).sum()) for ring in rings)
            flow = min(1.0, (outer.area() - inner.area()) / (length * spacing))
            groups.append(PathGroup("outline" if number == 0 else "shell", rings, loops=True, flow=flow))
        outer = inner
    return groups, thin, outer


def _without_bead(whole: Region, middle: Region, spacing: float) -> list[tuple[Floats, float]]:
    """Where a region is narrower than a bead: what no bead along its outline covers."""
    covered = grown(middle, spacing / 2)
    least = min(_TOLD * spacing**2, whole.area() / 2)
    if whole.area() - covered.area() < least:
        return []
    parts = (whole - covered).decompose()
    return [
        (np.asarray(part.to_polygons()[0]).mean(axis=0), part.area()) for part in parts if part.area() > least
    ]


def _solid(inner: Region, covered: Region, spacing: float) -> Region:
    """What of a region is filled because it is a top or a bottom; slivers are left to the infill."""
    if inner.is_empty() or covered.is_empty():
        return inner
    bare = inner - covered
    if bare.is_empty():
        return nothing()
    wide = grown(grown(bare, -_SLIVER * spacing), _SLIVER * spacing)
    return nothing() if wide.is_empty() else wide ^ inner


def _filled(kind: PathKind, region: Region, spacing: float, angle: float, *, wavy: bool) -> list[PathGroup]:
    """A group for each run of lines, so that none leads from one end of a region to the other."""
    if region.is_empty():
        return []
    runs = waves_in(region, spacing, angle) if wavy else lines_in(region, spacing, angle)
    return [PathGroup(kind, lines) for lines in runs]
