"""This module says what each layer of a body is: its area, what of that is filled, and what is held from
below.

A region is a ``manifold3d.CrossSection``, in mm of the plate. Layers are cut at their middles, from the
bottom up, a few at a time, so that memory does not grow with their number.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, TypeAlias

import numpy as np
from manifold3d import CrossSection, FillRule, JoinType

from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.sections import rings_by_height

Region: TypeAlias = Any
"""A ``manifold3d.CrossSection``: outlines, material to their left, in mm."""
_FINE_MM = 2e-3
"""Corners that are off a straight line by less are left out: a twentieth of the width of the finest bead."""
_MITER = 2.0


def nothing() -> Region:
    """Return an empty region. None is kept for all: the library tells of objects that outlive it."""
    return CrossSection()


def region_of(rings: list[Floats]) -> Region:
    """Return outlines, material to their left, as a region."""
    if not rings:
        return nothing()
    return CrossSection([np.ascontiguousarray(ring) for ring in rings], FillRule.Positive).simplify(_FINE_MM)


def grown(region: Region, by: float) -> Region:
    """Return a region whose outline is moved out by so many mm, or in where that is negative.

    Corners stay sharp, so that a region that is moved in and out again is as before.
    """
    return region if region.is_empty() else region.offset(by, JoinType.Miter, _MITER)


def regions_of(mesh: Mesh, heights: Floats) -> Iterator[Region]:
    """Yield the region of each layer of a body; the very same object while sections do not change.

    Args:
        mesh: in mm, as it stands on the plate.
        heights: (k,) the middles of the layers.
    """
    for region, _ in _regions_and_gaps(mesh, heights):
        yield region


def _regions_and_gaps(mesh: Mesh, heights: Floats) -> Iterator[tuple[Region, bool]]:
    """Each region with whether outlines there do not close."""
    before: list[Floats] = []
    region = nothing()
    for section in rings_by_height(mesh, heights):
        if not _are_same(section.rings, before):
            before, region = section.rings, region_of(section.rings)
        yield region, section.gaping


def _are_same(rings: list[Floats], others: list[Floats]) -> bool:
    """Whether sections are the same: an upright wall gives each layer the outline of the one below."""
    return len(rings) == len(others) and all(
        len(ring) == len(other) and float(np.abs(ring - other).max()) < _FINE_MM / 4
        for ring, other in zip(rings, others, strict=True)
    )


@dataclass(frozen=True, eq=False)
class LayerRegion:
    """One layer of a body.

    Attributes:
        number: of the layer, from 0 at the plate.
        whole: all of it.
        covered: what has material in all layers that make a top or a bottom solid; nothing else may be
            sparse.
    """

    number: int
    whole: Region
    covered: Region
    gaping: bool = False


def layer_regions(mesh: Mesh, heights: Floats, solid_layers: int) -> Iterator[LayerRegion]:
    """Yield the layers of a body, each with what lies under and over it.

    What is covered by ``n`` layers above and as many below is the intersection of these. Windows of ``n``
    layers are put together from windows of half the size, and each serves as the one above a layer and
    below another.

    Args:
        mesh: in mm, as it stands on the plate.
        heights: (k,) the middles of the layers.
        solid_layers: how many layers are filled under a top and over a bottom.
    """
    n = solid_layers
    if n == 0:
        for number, (region, gaping) in enumerate(_regions_and_gaps(mesh, heights)):
            yield LayerRegion(number, region, region, gaping)
        return
    windows = _Windows(n)
    layers: deque[tuple[Region, bool]] = deque()
    below: deque[Region] = deque([nothing()])
    for arrived, (region, gaping) in enumerate(_then_nothing(_regions_and_gaps(mesh, heights), n)):
        layers.append((region, gaping))
        above = windows.with_layer(region)
        below.append(above)
        if arrived >= n:
            whole, gapes = layers.popleft()
            yield LayerRegion(arrived - n, whole, both(above, below.popleft()), gapes)


def _then_nothing(regions: Iterator[tuple[Region, bool]], count: int) -> Iterator[tuple[Region, bool]]:
    yield from regions
    for _ in range(count):
        yield nothing(), False


def both(one: Region, other: Region) -> Region:
    """Return what two regions have in common."""
    if one is other:
        return one
    return nothing() if one.is_empty() or other.is_empty() else one ^ other


class _Windows:
    """Intersections of the last ``size`` layers, as layers come."""

    def __init__(self, size: int) -> None:
        self._size = size
        # Windows of 1, 2, 4 ... layers, of which any number of layers is covered by two that overlap.
        self._powers: list[deque[Region]] = [deque(maxlen=size + 1)]
        while 2 << (len(self._powers) - 1) <= size:
            self._powers.append(deque(maxlen=size + 1))
        self._seen = 0

    def with_layer(self, region: Region) -> Region:
        """Take a layer; return the intersection of the last ones, nothing while there are too few."""
        self._seen += 1
        self._powers[0].append(region)
        for power in range(1, len(self._powers)):
            half = 1 << (power - 1)
            smaller = self._powers[power - 1]
            if len(smaller) > half:
                self._powers[power].append(both(smaller[-1], smaller[-1 - half]))
        if self._seen < self._size:
            return nothing()
        top = len(self._powers) - 1
        widest = self._powers[top]
        shift = self._size - (1 << top)
        return widest[-1] if shift == 0 else both(widest[-1], widest[-1 - shift])
