"""This module says which bodies fill the same place."""

from __future__ import annotations

import numpy as np

from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.source import BodyOverlap
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3

_MOST_PAIRS = 200
_MOST_TRIANGLES = 400_000
_LEAST = 1e-6
"""An overlap with a smaller share of the smaller body's volume is rounding where the two touch."""


def overlaps_of(
    bodies: list[tuple[BodyId, Mesh]], fresh: set[BodyId] | None = None, *, thorough: bool = False
) -> tuple[tuple[BodyOverlap, ...], int]:
    """Return the pairs of closed bodies that overlap by more than rounding, and how many were not looked at.

    Args:
        bodies: id and mesh of each, all in one frame.
        fresh: ids of those that are new; only pairs with one of them are looked at. None means all.
        thorough: look at every pair, however many and however large.
    """
    boxes = [mesh.bounds() for _, mesh in bodies]
    body_overlaps: list[BodyOverlap] = []
    looked = passed = 0
    for i, j in _boxes_that_meet(boxes):
        (a, first), (b, second) = bodies[i], bodies[j]
        if fresh is not None and not fresh & {a, b}:
            continue
        large = first.triangles + second.triangles > _MOST_TRIANGLES
        if not thorough and (large or looked >= _MOST_PAIRS):
            passed += 1
            continue
        looked += 1
        if shared := _shared(first, second):
            body_overlaps.append(BodyOverlap(a=a, b=b, volume=shared[0], place=shared[1]))
    return tuple(body_overlaps), passed


def _shared(first: Mesh, second: Mesh) -> tuple[float, Vec3] | None:
    """Return the volume that two meshes share and its middle; None for rounding, or for open ones."""
    # These two libraries are large, and are loaded only for bodies that meet.
    from aimtrue.core.mesh.solids import mesh_of, solid_of

    one, other = solid_of(first), solid_of(second)
    if one is None or other is None:
        return None
    both = one ^ other
    volume = float(both.volume())
    if both.is_empty() or volume <= _LEAST * min(abs(one.volume()), abs(other.volume())):
        return None
    return volume, as_vec3(mesh_of(both).bounds().mean(axis=0))


def _boxes_that_meet(boxes: list[np.ndarray[tuple[int, ...], np.dtype[np.float64]]]) -> list[tuple[int, int]]:
    if len(boxes) < 2:
        return []
    low, high = np.array([box[0] for box in boxes]), np.array([box[1] for box in boxes])
    slack = 1e-6 * float((high - low).max())
    meet = (low[:, None] + slack < high[None]).all(axis=2) & (low[None] + slack < high[:, None]).all(axis=2)
    return [(int(i), int(j)) for i, j in np.argwhere(np.triu(meet, 1))]
