"""Rebuild a body as a solid when nothing else helps: the zero surface of its signed distance field."""

from __future__ import annotations

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats, Mesh, compacted

_CELLS = 140
"""Along the longest side, when no spacing is told."""
_MOST_CELLS = 12_000_000


def rebuilt(mesh: Mesh, spacing: float | None = None) -> Mesh:
    """Return a closed solid that follows the surface to about the spacing of a grid.

    What is inside is told by the generalized winding number (Jacobson et al. 2013), which also
    makes sense of surfaces with holes and crossings.

    Args:
        mesh: any surface that more or less bounds a volume.
        spacing: of the grid, in numbers of the mesh.

    Raises:
        Refused: the grid would be too fine, or the surface bounds nothing.
    """
    import igl

    low, high = mesh.bounds()
    spacing = spacing or float((high - low).max()) / _CELLS
    counts = np.ceil((high - low) / spacing).astype(int) + 5
    if counts.prod() > _MOST_CELLS:
        raise Refused(
            "grid-fine",
            f"a grid of {spacing:.4g} would have {counts.prod() / 1e6:.0f} million cells",
            remedy="type a coarser spacing",
        )
    axes = [low[k] - 2 * spacing + spacing * np.arange(counts[k]) for k in range(3)]
    points = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3, order="A")
    points = np.ascontiguousarray(points[_x_fastest(counts)])
    kind = igl.SIGNED_DISTANCE_TYPE_FAST_WINDING_NUMBER
    distance = igl.signed_distance(points, mesh.vertices, mesh.faces.astype(np.int64), kind)[0]
    grid_surface = igl.marching_cubes(distance, points, *(int(n) for n in counts), 0.0)
    vertices, faces = np.asarray(grid_surface[0]), np.asarray(grid_surface[1]).astype(np.int32)
    if not len(faces):
        raise Refused("bounds-nothing", "the surface bounds no volume", remedy="close its holes first")
    solid = compacted(vertices, faces)
    return solid if solid.volume() > 0 else Mesh(solid.vertices, np.ascontiguousarray(solid.faces[:, ::-1]))


def _x_fastest(
    counts: np.ndarray[tuple[int], np.dtype[np.int64]],
) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
    """Order grid points as the library wants them: X runs fastest."""
    return np.arange(counts.prod()).reshape(counts).transpose(2, 1, 0).ravel()


def greatest_distance(mesh: Mesh, other: Mesh) -> float:
    """Return how far the vertices of one mesh are from the surface of another, at most."""
    import igl

    points: Floats = (
        mesh.vertices if len(mesh.vertices) <= 200_000 else mesh.vertices[:: len(mesh.vertices) // 100_000]
    )
    squared = igl.point_mesh_squared_distance(
        np.ascontiguousarray(points), other.vertices, other.faces.astype(np.int64)
    )[0]
    return float(np.sqrt(np.max(squared, initial=0.0)))
