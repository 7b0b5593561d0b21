"""Meshes as solids of the library that joins, cuts and intersects them."""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d
import numpy as np
import scipy
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Mesh

Numbers = NDArray[np.int64]


def solid_of(mesh: Mesh) -> manifold3d.Manifold | None:
    """Return a closed mesh as a solid, or None when the library does not take it for one."""
    solid = manifold3d.Manifold(
        manifold3d.Mesh64(
            vert_properties=np.require(mesh.vertices, np.float64, ["C", "W"]),
            tri_verts=np.ascontiguousarray(mesh.faces, np.uint64),
        )
    )
    ok = solid.status() == manifold3d.Error.NoError and not solid.is_empty()
    return solid if ok else None


def mesh_of(solid: manifold3d.Manifold) -> Mesh:
    """Return a solid as a mesh."""
    arrays = solid.to_mesh64()
    return Mesh(
        np.asarray(arrays.vert_properties[:, :3], np.float64), np.asarray(arrays.tri_verts).astype(np.int32)
    )


@dataclass(frozen=True, eq=False)
class TracedSolids:
    """What was made of several wholes, each triangle knowing where it comes from.

    Attributes:
        mesh: the result.
        whole: (m,) per triangle of it, the number of the whole.
        face: (m,) per triangle of it, the number of the flat face of that whole.
        faces: per whole, the number of the flat face that each of its triangles is of.
    """

    mesh: Mesh
    whole: Numbers
    face: Numbers
    faces: tuple[Numbers, ...]

    def come_from(self, whole: int, triangle: int) -> Numbers:
        """Return the triangles of the result on the flat face of a whole's triangle; none when it is gone."""
        return np.flatnonzero((self.whole == whole) & (self.face == self.faces[whole][triangle]))


def traced(
    result: manifold3d.Manifold, wholes: list[manifold3d.Manifold], meshes: list[Mesh]
) -> TracedSolids:
    """Return a solid with what each of its triangles comes from.

    Args:
        result: made of the wholes by joining, cutting or intersecting.
        wholes: as :func:`solid_of` gave them; the library numbers them, and keeps that through everything.
        meshes: what the wholes were made of; the library has their triangles in an order of its own.
    """
    known, faces = {}, []
    for number, (whole, mesh) in enumerate(zip(wholes, meshes, strict=True)):
        arrays_of_whole = whole.to_mesh64()
        known[int(arrays_of_whole.run_original_id[0])] = number
        inside = mesh_of(whole)
        middles = scipy.spatial.cKDTree(inside.vertices[inside.faces].mean(axis=1))
        same = middles.query(mesh.vertices[mesh.faces].mean(axis=1))[1]
        faces.append(np.asarray(arrays_of_whole.face_id, np.int64)[same])
    arrays = result.to_mesh64()
    runs = [known.get(int(run), -1) for run in arrays.run_original_id]
    ends = np.asarray(arrays.run_index, np.int64) // 3
    lengths = ends[1:] - ends[:-1]
    return TracedSolids(
        Mesh(
            np.asarray(arrays.vert_properties[:, :3], np.float64),
            np.asarray(arrays.tri_verts).astype(np.int32),
        ),
        np.repeat(np.asarray(runs, np.int64), lengths),
        np.asarray(arrays.face_id, np.int64),
        tuple(faces),
    )
