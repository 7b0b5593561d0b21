"""This module says how thick the material is behind a face."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats, Mesh


def thickness(mesh: Mesh, faces: NDArray[np.integer]) -> Floats:
    """Return (k,): from the middle of each face straight in, how far it is to the other side.

    Infinite where a ray meets nothing, or meets a face from behind, as in a body that is not closed.
    Distances are worked out in float64 from the face that a single precision tree found.
    """
    from embreex import rtcore_scene
    from embreex.mesh_construction import TriangleMesh

    reach = float(mesh.extents().max()) or 1.0
    middle = mesh.bounds().mean(axis=0)
    corners = mesh.vertices[mesh.faces[faces]]
    crosses = mesh.area_vectors[faces]
    size = np.linalg.norm(crosses, axis=1)[:, None]
    inward = -np.divide(crosses, size, out=np.zeros_like(crosses), where=size > 0)
    start = corners.mean(axis=1)
    scene = rtcore_scene.EmbreeScene()
    vertices = ((mesh.vertices - middle) / reach).astype(np.float32)
    TriangleMesh(scene, vertices, mesh.faces.astype(np.int32))
    origin = ((start - middle) / reach + 2e-6 * inward).astype(np.float32)
    hit = np.asarray(scene.run(origin, inward.astype(np.float32), query="INTERSECT"))
    met = hit >= 0
    depth = np.full(len(faces), np.inf)
    other = mesh.vertices[mesh.faces[hit[met]]]
    normal = np.cross(other[:, 1] - other[:, 0], other[:, 2] - other[:, 0])
    slope = np.einsum("ij,ij->i", normal, inward[met])
    gap = np.einsum("ij,ij->i", normal, other[:, 0] - start[met])
    with np.errstate(divide="ignore", invalid="ignore"):
        away = gap / slope
    depth[met] = np.where((slope > 0) & (away > 1e-6 * reach), away, np.inf)
    return depth
