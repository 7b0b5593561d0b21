"""Round edges: closed loops of sharp edges whose corners lie on a circle.

The corners of a tessellated round edge lie on the true circle, so its diameter is exact to
the numbers of the file, however coarse the facets are.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import radians

import numpy as np

from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.features.circle_fit import fit_circle
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.topology import feature_edges

_SHARP = radians(30)
_LEAST_CORNERS = 10


@dataclass(frozen=True, eq=False)
class CircularEdge:
    """A round edge: ``diameter``, ``centre`` and how many corners it has."""

    diameter: float
    centre: Floats
    corners: int


def circles(mesh: Mesh) -> list[CircularEdge]:
    """Return the round edges of a mesh, the largest first."""
    edges = feature_edges(mesh.topology, mesh.area_vectors, _SHARP)
    if not len(edges):
        return []
    degree = np.bincount(edges.ravel(), minlength=len(mesh.vertices))
    plain = (degree[edges] == 2).all(axis=1)
    edges = edges[plain]
    if not len(edges):
        return []
    used, index = np.unique(edges, return_inverse=True)
    index = index.reshape(-1, 2)
    _, label = connected_components(len(used), *index.T)
    order = np.argsort(label, kind="stable")
    loops = np.split(used[order], np.flatnonzero(np.diff(label[order])) + 1)
    lines = np.bincount(label[index[:, 0]])
    reach = float(np.abs(mesh.vertices).max())
    circular_edges = []
    for loop in loops:
        if len(loop) >= _LEAST_CORNERS and lines[label[np.searchsorted(used, loop[0])]] == len(loop):
            circle = _fitted(mesh.vertices[loop], reach)
            if circle is not None:
                circular_edges.append(circle)
    return sorted(circular_edges, key=lambda circle: -circle.diameter)


def _fitted(points: Floats, reach: float) -> CircularEdge | None:
    """Fit a circle to corners of one loop, in the plane that their singular values tell."""
    near = points - points.mean(axis=0)
    _, _, axes = np.linalg.svd(near, full_matrices=False)
    fitted = fit_circle(points, axes[2])
    if fitted is None:
        return None
    centre, radius, off = fitted
    lift = np.abs(near @ axes[2]).max()
    slack = 6 * float(np.spacing(np.float32(reach))) + 2e-6 * radius
    if radius <= 0 or max(off, lift) > slack:
        return None
    x, y = ((points - centre) @ axes[:2].T).T
    angles = np.sort(np.arctan2(y, x))
    gaps = np.diff(np.append(angles, angles[0] + 2 * np.pi))
    if gaps.max() > radians(75):  # An arc closed by a straight line is no circle.
        return None
    return CircularEdge(2 * radius, centre, len(points))
