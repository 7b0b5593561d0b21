"""Meshes as solids of the library that joins, cuts and intersects them."""

from __future__ import annotations

import manifold3d
import numpy as np

from aimtrue.core.mesh.mesh import Mesh


def solid_of(mesh: Mesh) -> manifold3d.Manifold | None:
    """Return a closed mesh as a solid, or None when the library does not take it for one."""
    solid = manifold3d.Manifold(
        manifold3d.Mesh64(
            vert_properties=np.ascontiguousarray(mesh.vertices), tri_verts=mesh.faces.astype(np.uint64)
        )
    )
    ok = solid.status() == manifold3d.Error.NoError and not solid.is_empty()
    return solid if ok else None


def mesh_of(solid: manifold3d.Manifold) -> Mesh:
    """Return a solid as a mesh."""
    made = solid.to_mesh64()
    return Mesh(
        np.asarray(made.vert_properties[:, :3], np.float64), np.asarray(made.tri_verts).astype(np.int32)
    )
