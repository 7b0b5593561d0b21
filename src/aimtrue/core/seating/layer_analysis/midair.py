"""This module says what hangs over, told apart: flat bridges between two supports, and places that begin in
mid-air.

A flat underside is held at an edge where the surface goes on downward from it. Held at opposite sides it is a
bridge, which many machines can make without support; held nowhere it begins in mid-air, and so does a corner
that is lower than all around it. Neither can be seen in an area of overhang.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3

_FLAT = 0.9962
"""Cosine of 5 degrees: an underside that leans by no more is flat."""
_ON_PLATE_MM = 0.005
_OPPOSITE = -0.5
_MOST = 60


@dataclass(frozen=True)
class MidAir:
    """Flat undersides by how they are held.

    Attributes:
        bridges_mm2: area of those held at opposite sides; ``widest_mm`` the longest way across one.
        bridges: how many.
        starts: places where something begins in mid-air, in mm, up to a few dozen.
    """

    bridges: int
    bridges_mm2: float
    widest_mm: float
    starts: tuple[Vec3, ...]


def mid_air(mesh: Mesh) -> MidAir:
    """Look for bridges and beginnings in mid-air of a closed mesh in mm as it stands, Z up."""
    bottom = float(mesh.bounds()[0, 2])
    length = np.maximum(2 * mesh.areas, 1e-300)
    under = np.flatnonzero(-mesh.area_vectors[:, 2] >= _FLAT * length)
    under = under[mesh.vertices[mesh.faces[under], 2].min(axis=1) > bottom + _ON_PLATE_MM]
    starts = _lowest_corners(mesh, bottom)
    if not len(under):
        return MidAir(0, 0.0, 0.0, tuple(starts[:_MOST]))
    region, count, inner, outer = _regions(mesh, under)
    bridges, area, widest = 0, 0.0, 0.0
    for index in range(count):
        faces = under[region == index]
        middle = mesh.vertices[mesh.faces[faces]].mean(axis=(0, 1))
        edges = inner[region[np.searchsorted(under, outer[:, 0])] == index]
        beyond = outer[region[np.searchsorted(under, outer[:, 0])] == index, 1]
        held = mesh.vertices[mesh.faces[beyond], 2].min(axis=1) < mesh.vertices[edges, 2].min(axis=1) - 1e-6
        if not held.any():
            starts.append(as_vec3(middle))
            continue
        sides = mesh.vertices[edges[held]].mean(axis=1)[:, :2] - middle[:2]
        sides /= np.maximum(np.linalg.norm(sides, axis=1), 1e-12)[:, None]
        if float((sides @ sides.T).min()) <= _OPPOSITE:
            bridges += 1
            area += float(mesh.areas[faces].sum())
            widest = max(widest, _across(mesh, edges[held]))
    return MidAir(bridges, area, widest, tuple(starts[:_MOST]))


def _regions(
    mesh: Mesh, under: NDArray[np.int64]
) -> tuple[NDArray[np.int64], int, NDArray[np.int64], NDArray[np.int64]]:
    """Number regions of undersides that hang together, and find the edges around them.

    Returns:
        Per underside its region; how many there are; (k, 2) corners of each edge around them; and (k, 2) the
        underside within it and the face beyond it.
    """
    topology = mesh.topology
    paired = np.flatnonzero(topology.edge_valence == 2)
    faces, ends = topology.faces_of(paired), topology.ends[paired]
    is_under = np.zeros(mesh.triangles, bool)
    is_under[under] = True
    both = is_under[faces]
    within = both.all(axis=1)
    a, b = (np.searchsorted(under, faces[within, k]) for k in (0, 1))
    count, region = connected_components(len(under), a, b)
    around = both.sum(axis=1) == 1
    first = both[around, 0]
    mine = np.where(first, faces[around, 0], faces[around, 1])
    beyond = np.where(first, faces[around, 1], faces[around, 0])
    return region, count, ends[around], np.stack([mine, beyond], axis=1)


def _across(mesh: Mesh, held: NDArray[np.int64]) -> float:
    """How far it is between the held sides of a bridge: from the first to the farthest that faces it."""
    middles: Floats = mesh.vertices[held].mean(axis=1)[:, :2]
    return float(np.linalg.norm(middles - middles[0], axis=1).max())


def _lowest_corners(mesh: Mesh, bottom: float) -> list[Vec3]:
    """Corners off the plate that are lower than all that they are joined to, with material above them."""
    z = mesh.vertices[:, 2]
    ends = mesh.topology.ends
    lower = np.ones(len(z), bool)
    rising = z[ends[:, 0]] < z[ends[:, 1]]
    higher = np.where(rising, ends[:, 1], ends[:, 0])
    lower[higher] = False
    level = z[ends[:, 0]] == z[ends[:, 1]]
    lower[ends[level].ravel()] = False
    used = np.zeros(len(z), bool)
    used[mesh.faces.ravel()] = True
    lowest = np.flatnonzero(lower & used & (z > bottom + _ON_PLATE_MM))
    # The bottom of a dent is lower than all around it, too; there the surface faces up.
    facing = np.zeros(len(z))
    for corner in range(3):
        np.add.at(facing, mesh.faces[:, corner], mesh.area_vectors[:, 2])
    return [as_vec3(mesh.vertices[vertex]) for vertex in lowest if facing[vertex] < 0]
