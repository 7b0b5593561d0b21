"""Flat faces: triangles of one plane, and the distances between parallel ones."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats, Mesh

_DIRECTIONS = 8
"""Only the directions with the most flat area are measured along."""
_LEAST_SHARE = 2e-3
"""A flat region with a smaller share of the surface is a facet, not a face."""


@dataclass(frozen=True, eq=False)
class Slabs:
    """The flat faces square to one direction.

    Attributes:
        direction: (3,) unit vector.
        offsets: (k,) where the planes are along it, ascending.
        outward: (k,) +1 for planes that face along the direction, -1 against it, 0 for both.
        areas: (k,) of each.
    """

    direction: Floats
    offsets: Floats
    outward: Floats
    areas: Floats


def slabs(mesh: Mesh) -> list[Slabs]:
    """Return the flat faces of a mesh by direction, the greatest area first."""
    areas = mesh.areas
    flat = np.flatnonzero(areas > 0)
    normals = mesh.area_vectors[flat] / (2 * areas[flat])[:, None]
    side = np.where(_first_nonzero(normals) < 0, -1.0, 1.0)
    key = np.round(normals * side[:, None] * 2e4).astype(np.int64)
    key[key == 0] = 0
    packed = (key[:, 0] * 65537 + key[:, 1]) * 65537 + key[:, 2]
    _, first, index = np.unique(packed, return_index=True, return_inverse=True)
    share = np.bincount(index, areas[flat])
    total = float(areas.sum())
    slabses = []
    for number in np.argsort(-share)[:_DIRECTIONS]:
        if share[number] < _LEAST_SHARE * total:
            break
        here = np.flatnonzero(index == number)
        direction = _snapped(normals[first[number]] * side[first[number]])
        slab = _slab(mesh, flat[here], side[here], areas[flat[here]], direction, total)
        if len(slab.offsets) > 1:
            slabses.append(slab)
    return slabses


def _first_nonzero(normals: Floats) -> Floats:
    x, y, z = normals.T
    near = 1e-5
    return np.asarray(np.where(np.abs(x) > near, x, np.where(np.abs(y) > near, y, z)))


def _snapped(direction: Floats) -> Floats:
    """Directions along an axis are taken exactly, so that distances are differences of coordinates."""
    axis = int(np.abs(direction).argmax())
    if abs(direction[axis]) > 1 - 1e-9:
        return np.asarray(np.eye(3)[axis] * np.sign(direction[axis]))
    return direction


def _slab(
    mesh: Mesh, faces: NDArray[np.integer], side: Floats, areas: Floats, direction: Floats, total: float
) -> Slabs:
    offsets = mesh.vertices[mesh.faces[faces, 0]] @ direction
    order = np.argsort(offsets)
    offsets, side, areas = offsets[order], side[order], areas[order]
    reach = float(np.abs(mesh.vertices).max())
    near = 8 * float(np.spacing(np.float32(reach))) + 1e-9 * reach
    starts = np.flatnonzero(np.concatenate([[True], np.diff(offsets) > near]))
    area = np.add.reduceat(areas, starts)
    facing = np.add.reduceat(areas * side, starts)
    kept = area >= _LEAST_SHARE * total
    outward = np.where(np.abs(facing) > 0.9 * area, np.sign(facing), 0.0)
    return Slabs(direction, offsets[starts][kept], outward[kept], area[kept])
