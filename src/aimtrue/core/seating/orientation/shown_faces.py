"""Faces that are to show, as their user marked them: found on the mesh, and how many of them see the sky.

Layers leave a face that looks up smoother than one that looks down, so it matters which way those look.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.features.listed import Features
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import ShownFace
from aimtrue.core.model.job import Job
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.ownership import seated_with
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.seating.actions import HideAll, MarkShowing

_SMOOTH = np.cos(np.radians(25))
"""Faces that meet by less are one to the eye, and inked as one."""
_SKY = float(np.cos(np.radians(45)))
"""A face sees the sky whose normal is within 45 degrees of straight up."""
_MOST = 200


def mark_showing(job: Job, action: MarkShowing, store: GeometryStore) -> Job:
    """Mark a face as one that is to show, or take the mark off again."""
    body = job.body(action.body)
    mesh = store.mesh(body.geometry)
    if not 0 <= action.face < mesh.triangles:
        raise Refused("no-face", "there is no such face on this body", remedy="pick a face again")
    patch = set(patch_of(mesh, store.features(body), action.face).tolist())
    others = tuple(face for face in body.showing if face.face not in patch)
    if len(others) == len(body.showing):
        if len(others) >= _MOST:
            raise Refused("marks", f"{_MOST} faces are marked already", remedy="take some off first")
        middle = mesh.vertices[mesh.faces[action.face]].mean(axis=0)
        others = (*others, ShownFace(face=action.face, point=as_vec3(middle)))
    return job.with_body(body.model_copy(update={"showing": others}))


def hide_all(job: Job, action: HideAll, store: GeometryStore) -> Job:
    """Take the marks off all faces of what a seat is of."""
    bodies = tuple(body.id for body in seated_with(job, action.body))
    return job.with_each(bodies, lambda _: {"showing": ()})


def patch_of(mesh: Mesh, features: Features, face: int) -> NDArray[np.int64]:
    """Return the triangles that are one face with a picked one: its feature, else what bends on smoothly."""
    feature = features.at(face)
    if feature is not None:
        return np.asarray(np.flatnonzero(features.of_face == feature.id), np.int64)
    label = _PATCHES.get((mesh,), (), lambda: _patches(mesh))
    return np.asarray(np.flatnonzero(label == label[face]), np.int64)


_PATCHES: Memo[NDArray[np.int32]] = Memo(8)


def _patches(mesh: Mesh) -> NDArray[np.int32]:
    """To which smooth patch each triangle belongs."""
    topology = mesh.topology
    a, b = topology.faces_of(np.flatnonzero(topology.edge_valence == 2)).T
    unit = mesh.area_vectors / np.maximum(2 * mesh.areas, 1e-300)[:, None]
    smooth = np.einsum("ij,ij->i", unit[a], unit[b]) > _SMOOTH
    return connected_components(mesh.triangles, a[smooth], b[smooth])[1].astype(np.int32)


def faces_that_show(body: Body, store: GeometryStore) -> NDArray[np.int64]:
    """Return the numbers of all triangles of a body that are marked."""
    if not body.showing:
        return np.empty(0, np.int64)
    mesh, features = store.mesh(body.geometry), store.features(body)
    return np.unique(np.concatenate([patch_of(mesh, features, face.face) for face in body.showing]))


def skyward(crosses: Floats, down: Floats) -> tuple[float, float]:
    """Return of some faces, by their (k, 3) normals as long as twice their areas, the area that sees the sky
    when ``down`` (unit) is down, and the area of all.
    """
    areas = np.linalg.norm(crosses, axis=1) / 2
    up = -(crosses @ down) / 2 > _SKY * areas
    return float(areas[up].sum()), float(areas.sum())
