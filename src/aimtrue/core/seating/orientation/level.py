"""This module says whether what stands is level: the lowest nearly flat region, its tilt, and the gap that
this opens.

A degree of tilt cannot be seen, and ruins the print. Over a face of width ``w`` a tilt ``t`` opens a gap of
``w sin t``.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import atan2, degrees

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3

STEEPEST_DEGREES = 5.0
"""A region that is tilted by more is not meant to lie flat."""
_FLAT_DEGREES = 0.2
"""Between neighbouring triangles of one flat region."""
_SEEN_MM = 0.002
_ONE_PLANE = 1e-5
"""Regions that are within this share of the size of one plane count as one."""
_CURVED_DEGREES = 15.0
"""A region that meets another of about its size by a smaller fold is a facet of something round."""
_ALIKE = 0.3
_SHARE = 0.004
"""A region with a smaller share of the body's plan carries nothing."""

_WORDS: tuple[str, ...] = (
    "to the right",
    "to the back right",
    "to the back",
    "to the back left",
    "to the left",
    "to the front left",
    "to the front",
    "to the front right",
)
"""By eighths of a turn, from +X on."""


@dataclass(frozen=True)
class LowestFlat:
    """How the lowest flat region of something lies.

    Attributes:
        down: the unit normal that points out of the region, down; the turn that levels brings it to -Z.
        tilt_deg: by how much it is tilted.
        gap_mm: what the tilt opens at the far side.
        lower: which side is the lower one, in words.
        area_mm2: of the region.
        over_mm: how far the lowest place of the region is over the lowest of all.
    """

    down: Vec3
    tilt_deg: float
    gap_mm: float
    lower: str
    area_mm2: float
    over_mm: float

    @property
    def flat(self) -> bool:
        """Whether it lies flat: what is left is rounding of the file, and less than any machine can do."""
        return self.gap_mm < _SEEN_MM

    def turned(self, turn: Floats) -> LowestFlat:
        """Return the same of something turned about Z by a (3, 3) matrix."""
        down = turn @ np.asarray(self.down)
        return replace(self, down=as_vec3(down), lower=_lower(down))

    def times(self, factor: float) -> LowestFlat:
        """Return the same of something so many times as large."""
        gap, area, over = factor * self.gap_mm, factor**2 * self.area_mm2, factor * self.over_mm
        return LowestFlat(self.down, self.tilt_deg, gap, self.lower, area, over)


def level_of(mesh: Mesh) -> LowestFlat | None:
    """Find how a mesh lies, in mm with Z up; None when no region is flat and nearly level.

    The lowest of the regions that are large enough to stand on is meant; regions in the plane of that one,
    such as the feet of legs, are taken with it. A facet of a round surface is none, unless it lies flat.
    """
    crosses = mesh.area_vectors
    length = np.sqrt(np.einsum("ij,ij->i", crosses, crosses))
    around = np.cos(np.radians(STEEPEST_DEGREES + _CURVED_DEGREES))
    down = np.flatnonzero((-crosses[:, 2] >= around * length) & (length > 0))
    if not len(down):
        return None
    normals, areas = crosses[down] / length[down, None], length[down] / 2
    region, beside = _regions(mesh, down, normals)
    area = np.bincount(region, areas)
    low, high = mesh.bounds()
    lowest = np.full(len(area), np.inf)
    np.minimum.at(lowest, region, mesh.vertices[mesh.faces[down], 2].min(axis=1))
    level = np.zeros(len(area), bool)
    level[region[-normals[:, 2] >= np.cos(np.radians(STEEPEST_DEGREES))]] = True
    large = np.flatnonzero(level & (area >= _SHARE * float(np.prod((high - low)[:2]))))
    if not len(large):
        return None
    chosen = large[lowest[large].argmin()]
    lowest_flat = _level(mesh, down, normals, areas, region == chosen, float(lowest[chosen] - low[2]))
    facets = beside[(beside == chosen).any(axis=1)]
    curved = bool((area[facets[facets != chosen]] > _ALIKE * area[chosen]).any())
    return None if curved and lowest_flat.tilt_deg > _FLAT_DEGREES else lowest_flat


def _regions(
    mesh: Mesh, some: NDArray[np.int64], normals: Floats
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Number flat regions of some triangles: those that share an edge and face the same way.

    Returns:
        Per triangle its region, and (k, 2) regions that meet in an edge with a small fold.
    """
    corners = mesh.faces[some].astype(np.int64)
    ends = np.sort(np.stack([corners, np.roll(corners, -1, axis=1)], axis=2).reshape(-1, 2), axis=1)
    keys = ends[:, 0] * len(mesh.vertices) + ends[:, 1]
    order = np.argsort(keys, kind="stable")
    same = np.flatnonzero(keys[order][1:] == keys[order][:-1])
    a, b = order[same] // 3, order[same + 1] // 3
    cosine = np.einsum("ij,ij->i", normals[a], normals[b])
    alike = cosine >= np.cos(np.radians(_FLAT_DEGREES))
    _, region = connected_components(len(some), a[alike], b[alike])
    folded = ~alike & (cosine >= np.cos(np.radians(_CURVED_DEGREES)))
    return region, np.stack([region[a[folded]], region[b[folded]]], axis=1)


def _level(
    mesh: Mesh,
    down: NDArray[np.int64],
    normals: Floats,
    areas: Floats,
    chosen: NDArray[np.bool_],
    over: float,
) -> LowestFlat:
    normal = (normals[chosen] * areas[chosen, None]).sum(axis=0)
    normal /= np.linalg.norm(normal)
    corners = mesh.vertices[mesh.faces[down]]
    offsets = (corners - corners[chosen][0, 0]) @ normal
    size = float(np.ptp(mesh.bounds(), axis=0).max())
    alike = normals @ normal >= np.cos(np.radians(_FLAT_DEGREES))
    together = alike & (abs(offsets).max(axis=1) <= _ONE_PLANE * size)
    heights = corners[together | chosen][:, :, 2]
    gap = float(np.ptp(heights))
    area = float(areas[together | chosen].sum())
    # acos of nearly 1 would lose half the digits.
    tilt = degrees(atan2(float(np.hypot(normal[0], normal[1])), float(-normal[2])))
    return LowestFlat(as_vec3(normal), tilt, gap, _lower(normal), area, over)


def _lower(normal: Floats) -> str:
    """Name the side that is lower: the normal leans away from it, so it is where the normal points least."""
    eighth = round(degrees(atan2(-normal[1], -normal[0])) / 45) % 8
    return _WORDS[eighth]
