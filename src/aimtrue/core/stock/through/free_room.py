"""This module measures how much room there is around an axis: how near material comes to it between two
heights.

All in a frame whose Z is the axis: meshes are brought there first.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from aimtrue.core.mesh.directions import plane_axes
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.sections import rings_at


def about_axis(mesh: Mesh, point: Floats, way: Floats) -> Mesh:
    """Return a mesh in a frame whose origin is a point of an axis and whose Z is the axis.

    Args:
        mesh: in mm.
        point: (3,) on the axis.
        way: (3,) unit, along it.
    """
    u, v = plane_axes(way)
    return Mesh((mesh.vertices - point) @ np.stack([u, v, way], axis=1), mesh.faces)


def nearest_between(meshes: Sequence[Mesh], low: float, high: float) -> float:
    """Return how near the surfaces of meshes come to the Z axis between two heights; infinite if none is
    there.

    A triangle is cut by both planes; what is left is convex, so that it is nearest at one of its edges, or is
    crossed by the axis. Edges are those of the triangle between the heights, and where the planes cut it.
    """
    return min((_nearest(mesh, low, high) for mesh in meshes), default=float("inf"))


def _nearest(mesh: Mesh, low: float, high: float) -> float:
    triangles = mesh.vertices[mesh.faces]
    z = triangles[:, :, 2]
    inside = (z.min(axis=1) < high) & (z.max(axis=1) > low)
    triangles = triangles[inside]
    if not len(triangles):
        return float("inf")
    starts, ends = triangles, np.roll(triangles, -1, axis=1)
    edges = _between(starts.reshape(-1, 3), ends.reshape(-1, 3), low, high)
    cuts = [_cut(starts, ends, height) for height in (low, high)]
    nearest = min(_from_axis(a, b) for a, b in (edges, *cuts))
    return 0.0 if _crosses_axis(triangles, low, high) else nearest


def _between(start: Floats, end: Floats, low: float, high: float) -> tuple[Floats, Floats]:
    """The parts of segments (n, 3) between two heights."""
    rise = end[:, 2] - start[:, 2]
    flat = np.abs(rise) < 1e-12
    safe = np.where(flat, 1.0, rise)
    first = np.where(flat, 0.0, np.clip((np.where(rise > 0, low, high) - start[:, 2]) / safe, 0.0, 1.0))
    last = np.where(flat, 1.0, np.clip((np.where(rise > 0, high, low) - start[:, 2]) / safe, 0.0, 1.0))
    kept = (first < last) & ~(flat & ((start[:, 2] < low) | (start[:, 2] > high)))
    along = (end - start)[kept]
    return start[kept] + first[kept, None] * along, start[kept] + last[kept, None] * along


def _cut(starts: Floats, ends: Floats, height: float) -> tuple[Floats, Floats]:
    """The segments in which a level plane cuts triangles, by their edges (t, 3, 3)."""
    above = starts[:, :, 2] >= height
    crossing = above != (ends[:, :, 2] >= height)
    rows = crossing.sum(axis=1) == 2
    starts, ends, crossing = starts[rows], ends[rows], crossing[rows]
    rise = ends[:, :, 2] - starts[:, :, 2]
    share = (height - starts[:, :, 2]) / np.where(np.abs(rise) < 1e-300, 1.0, rise)
    points = (starts + share[:, :, None] * (ends - starts))[crossing].reshape(-1, 2, 3)
    return points[:, 0], points[:, 1]


def _from_axis(start: Floats, end: Floats) -> float:
    """The least distance of segments from the Z axis."""
    if not len(start):
        return float("inf")
    a, along = start[:, :2], (end - start)[:, :2]
    square = np.maximum((along * along).sum(axis=1), 1e-300)
    share = np.clip(-(a * along).sum(axis=1) / square, 0.0, 1.0)
    return float(np.hypot(*(a + share[:, None] * along).T).min())


def _crosses_axis(triangles: Floats, low: float, high: float) -> bool:
    """Whether the axis goes through a triangle between two heights."""
    a, b, c = triangles.transpose(1, 0, 2)
    sides = np.stack([p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0] for p, q in ((a, b), (b, c), (c, a))], axis=1)
    total = sides.sum(axis=1)
    hit = ((sides > 0).all(axis=1) | (sides < 0).all(axis=1)) & (np.abs(total) > 1e-300)
    if not hit.any():
        return False
    # Each side's share belongs to the corner across from it.
    weights = sides[hit] / total[hit, None]
    heights = weights[:, 0] * c[hit, 2] + weights[:, 1] * a[hit, 2] + weights[:, 2] * b[hit, 2]
    return bool(((heights > low) & (heights < high)).any())


def support_radius(meshes: Sequence[Mesh], height: float, widest: float) -> float:
    """Return how far from the axis material goes on all around, at a height, outside a bore.

    Args:
        meshes: about the axis.
        height: just within the material, below the face that something is to bear on.
        widest: the greatest radius that the bore has there, with its chamfer.

    Returns:
        The radius of the largest circle that lies on the face but for the bore; that of the bore where it
        breaks through an edge, and 0 where no bore is there.
    """
    nearest = sorted(
        _from_axis(_raised(ring), _raised(np.roll(ring, -1, axis=0)))
        for mesh in meshes
        for ring in rings_at(mesh, height)
    )
    if not nearest or nearest[0] > widest:
        return 0.0
    return nearest[1] if len(nearest) > 1 else nearest[0]


def _raised(ring: Floats) -> Floats:
    return np.column_stack([ring, np.zeros(len(ring))])
