"""Sections: where a plane cuts a mesh."""

from __future__ import annotations

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.mesh import Floats, Mesh


def section_through(mesh: Mesh, point: Floats, normal: Floats) -> Floats:
    """Return (n, 3): the closed line in which a plane cuts a mesh, the one nearest to a point of the plane.

    Every cut edge gives one corner, so the line runs exactly over the mesh.

    Raises:
        Refused: the plane cuts nothing, or the line is not closed because the body has a hole there.
    """
    height = (mesh.vertices - point) @ normal
    grain = 1e-9 * float(mesh.extents().max())
    height[np.abs(height) <= grain] = grain  # A corner in the plane counts as above, so lines never branch.
    above = height > 0
    ends = mesh.topology.ends
    cut = np.flatnonzero(above[ends[:, 0]] != above[ends[:, 1]])
    if not len(cut):
        raise Refused("no-section", "the plane does not cut the body here", remedy="pick another place")
    low, high = ends[cut].T
    share = (height[low] / (height[low] - height[high]))[:, None]
    corners = mesh.vertices[low] + share * (mesh.vertices[high] - mesh.vertices[low])
    lines = _lines(mesh, cut)
    _, label = connected_components(len(cut), *lines.T)
    nearest = int(np.square(corners - point).sum(axis=1).argmin())
    return np.asarray(corners[_walk(lines[label[lines[:, 0]] == label[nearest]], nearest)])


def _lines(mesh: Mesh, cut: np.ndarray) -> np.ndarray:
    """Pair the cut edges of every cut face."""
    topology = mesh.topology
    uses = topology.edge_valence[cut]
    sides = np.concatenate(
        [np.arange(first, first + n) for first, n in zip(topology.first_half_edge[cut], uses, strict=True)]
    )
    face, edge = topology.half_edge_faces[sides], np.repeat(np.arange(len(cut)), uses)
    order = np.argsort(face, kind="stable")
    face, edge = face[order], edge[order]
    pairs = np.flatnonzero(face[1:] == face[:-1])
    return np.stack([edge[pairs], edge[pairs + 1]], axis=1)


def _walk(lines: np.ndarray, start: int) -> list[int]:
    """Go along lines from corner to corner and come back to the start."""
    neighbours: dict[int, list[int]] = {}
    for a, b in lines.tolist():
        neighbours.setdefault(a, []).append(b)
        neighbours.setdefault(b, []).append(a)
    if any(len(near) != 2 for near in neighbours.values()):
        raise Refused(
            "section-open",
            "the section here is not closed: the body has a hole",
            remedy="close the hole on Intake, or pick another height",
        )
    path, before, at = [start], start, neighbours[start][0]
    while at != start:
        path.append(at)
        a, b = neighbours[at]
        before, at = at, b if a == before else a
    return path
