"""Places on a body, from picks to exact points."""

from __future__ import annotations

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.readings import Anchor
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3


def exact(anchor: Anchor, mesh: Mesh) -> Anchor:
    """Return the anchor with weights that are sound: none negative, adding up to 1.

    A vertex gets weight exactly 1, an edge exactly 0 at the far corner, so that a snapped
    place carries no rounding of the picking device.

    Raises:
        Refused: the face does not exist, or the weights are not on it.
    """
    weights = np.asarray(anchor.weights, dtype=np.float64)
    if anchor.face >= mesh.triangles:
        raise Refused(
            "place-unknown", f"face {anchor.face} is not on this body", remedy="pick the place again"
        )
    if not np.isfinite(weights).all() or weights.min() < -1e-3 or abs(weights.sum() - 1) > 1e-3:
        raise Refused("place-off-face", "the picked place is not on the body", remedy="pick the place again")
    weights = np.clip(weights, 0, 1)
    if anchor.on == "vertex":
        weights = np.eye(3)[weights.argmax()]
    elif anchor.on == "edge":
        weights[weights.argmin()] = 0
    elif anchor.on == "middle":
        weights = np.where(np.arange(3) == weights.argmin(), 0.0, 0.5)
    return anchor.model_copy(update={"weights": as_vec3(weights / weights.sum())})


def of_vertices(mesh: Mesh, vertices: tuple[int, ...]) -> tuple[Anchor, ...]:
    """Return anchors at vertices of a mesh, each on some face that has it."""
    wanted = np.asarray(vertices)
    rows, columns = np.nonzero(np.isin(mesh.faces, wanted))
    first: dict[int, tuple[int, int]] = {}
    for vertex, row, column in zip(
        mesh.faces[rows, columns].tolist(), rows.tolist(), columns.tolist(), strict=True
    ):
        first.setdefault(vertex, (row, column))
    return tuple(
        Anchor(face=first[vertex][0], weights=as_vec3(np.eye(3)[first[vertex][1]]), on="vertex")
        for vertex in vertices
    )


def first_hit(mesh: Mesh, origin: Floats, direction: Floats) -> Anchor | None:
    """Return where a ray first meets a mesh beyond its start (Möller and Trumbore 1997).

    Args:
        mesh: to be met.
        origin: (3,) where the ray starts; what is met within a millionth of the mesh's size is its own face.
        direction: (3,) unit vector.
    """
    corners = mesh.vertices[mesh.faces]
    a = corners[:, 0]
    u, v = corners[:, 1] - a, corners[:, 2] - a
    across = np.cross(np.broadcast_to(direction, v.shape), v)
    slant = np.einsum("ij,ij->i", u, across)
    with np.errstate(divide="ignore", invalid="ignore"):
        from_a = origin - a
        s = np.einsum("ij,ij->i", from_a, across) / slant
        turned = np.cross(from_a, u)
        t = turned @ direction / slant
        away = np.einsum("ij,ij->i", v, turned) / slant
        slack = 1e-9
        meets = (np.abs(slant) > 0) & (s >= -slack) & (t >= -slack) & (s + t <= 1 + slack)
    meets &= away > 1e-6 * float(mesh.extents().max())
    if not meets.any():
        return None
    face = int(np.where(meets, away, np.inf).argmin())
    return Anchor(face=face, weights=as_vec3([1 - s[face] - t[face], s[face], t[face]]))


def nearest(anchor: Anchor, point: Vec3, mesh: Mesh) -> Anchor:
    """Return the place of a mesh nearest to a point; of an anchor at a vertex, the nearest vertex."""
    import igl

    if anchor.on == "vertex":
        vertex = int(np.square(mesh.vertices - point).sum(axis=1).argmin())
        face, corner = np.argwhere(mesh.faces == vertex)[0]
        return Anchor(face=int(face), weights=as_vec3(np.eye(3)[corner]), on="vertex")
    faces = mesh.faces.astype(np.int64)
    _, nearest_faces, places = igl.point_mesh_squared_distance(np.asarray(point)[None], mesh.vertices, faces)
    face = int(np.ravel(nearest_faces)[0])
    a, b, c = (np.ascontiguousarray(corner[None]) for corner in mesh.vertices[mesh.faces[face]])
    weights = np.ravel(igl.barycentric_coordinates(np.ascontiguousarray(places).reshape(1, 3), a, b, c))
    weights = np.clip(weights, 0.0, 1.0)
    return Anchor(face=face, weights=as_vec3(weights / weights.sum()), on="surface")


def point_of(
    anchor: Anchor, vertices: Floats, faces: np.ndarray[tuple[int, ...], np.dtype[np.int32]]
) -> Vec3:
    """Return where an anchor is among (n, 3) vertices, in their frame."""
    weights = np.asarray(anchor.weights)
    corners = vertices[faces[anchor.face]]
    if weights.max() == 1:  # The place is a vertex, to the last bit.
        return as_vec3(corners[int(weights.argmax())])
    return as_vec3(weights @ corners)
