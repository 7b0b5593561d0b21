"""This module moves faces of a body along their normals, and lets what is beside them follow.

Every corner of a moved face is put where the surfaces that meet there say: moved flat faces by the amount
along their normal, moved round ones by it towards or away from their axis, all others where they were. So a
bore's rim stays in the face that it opens into, and the sides of a pocket reach down to its floor. On flat
and round faces that is exact. Where more than three surfaces meet in no one place (free forms), moved ones
come first and the rest by least squares; how far each was moved in the end is measured.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.arrays import ring_area
from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.crossings import crossing_faces
from aimtrue.core.mesh.directions import plane_axes
from aimtrue.core.mesh.features.listed import Feature, Features, features_of
from aimtrue.core.mesh.mesh import Floats, Mesh, compacted
from aimtrue.core.model.shaping import DescribedFace, SurfaceMove
from aimtrue.core.model.vectors import as_vec3

_NEAR = 1e-4
"""A face is the one that was described when it is no farther off than this share of the body's size."""
_FIRST = 1e3
"""Weight of what is moved against what is only to stay, where both cannot be."""
_LEAST = 1e-10
"""Directions in which nothing is asked of a corner, as a share of the greatest eigenvalue."""
_LEVEL = 1e-7
"""Planes that are apart by less than this share of the body's size are one."""
_ROUNDS = 6
_TRIED = 12
"""Halvings in which the largest amount that works is looked for."""


@dataclass(frozen=True, eq=False)
class MovedSurface:
    """A body with some faces moved: its mesh, triangle by triangle as before, and how far they were moved."""

    mesh: Mesh
    least_mm: float
    greatest_mm: float


def described(feature: Feature, mesh: Mesh, of_face: NDArray[np.int16]) -> DescribedFace:
    """Return a flat or round face in words that hold for any mesh of the body."""
    points = mesh.vertices[mesh.faces[of_face == feature.id]].reshape(-1, 3)
    return DescribedFace(
        kind="flat" if feature.flat else "round",
        point=feature.point,
        way=feature.direction,
        diameter=feature.diameter,
        hollow=not feature.flat and feature.kind in ("bore", "hollow arc"),
        low=as_vec3(points.min(axis=0)),
        high=as_vec3(points.max(axis=0)),
    )


def movable_at(mesh: Mesh, triangles: Sequence[int]) -> tuple[DescribedFace, ...]:
    """Return the flat or round faces that some triangles are on, each once.

    Raises:
        Refused: one is on a free form or a thread.
    """
    features = _whole_faces(mesh)
    described_faces: dict[int, DescribedFace] = {}
    for triangle in triangles:
        feature = features.at(triangle)
        if feature is None or feature.screw:
            where = ", ".join(f"{number:.3g}" for number in mesh.vertices[mesh.faces[triangle]].mean(axis=0))
            raise Refused(
                "face-free-form",
                f"there is no flat or round face at {where}; one that a correction made oval is none",
                remedy="choose another place, or move all faces",
            )
        described_faces[feature.id] = described(feature, mesh, features.of_face)
    return tuple(described_faces.values())


def move_surface(mesh: Mesh, move: SurfaceMove, name: str = "the body") -> MovedSurface:
    """Return a body with faces moved.

    Args:
        mesh: closed, in mm.
        move: which faces, and by how much; outward, away from material, is positive.
        name: for messages.

    Raises:
        Refused: a face is not there, or the body would cross itself; the text gives the largest amount that
            works.
    """
    features = _whole_faces(mesh)
    chosen = _chosen(mesh, features, move.faces, name)
    _refuse_through_axis(features, move, chosen, name)
    done = _moved(mesh, features, chosen, move.amount)
    if done is not None:
        return done
    works, fails = 0.0, move.amount
    for _ in range(_TRIED):
        tried = (works + fails) / 2
        if _moved(mesh, features, chosen, tried) is not None:
            works = tried
        else:
            fails = tried
    raise Refused(
        "surface-crosses",
        f"moved by {move.amount:.4g} mm, {name} would cross itself; about {works:.3g} mm is the most",
        remedy="choose a smaller amount",
    )


def _refuse_through_axis(features: Features, move: SurfaceMove, chosen: NDArray[np.bool_], name: str) -> None:
    """A bore is not closed, nor a boss pared away, by moving its face past its own axis."""
    for number in np.unique(features.of_face[chosen & (features.of_face >= 0)]).tolist():
        feature = features.listed[number]
        radius, hollow = feature.diameter / 2, feature.kind in ("bore", "hollow arc")
        if feature.flat or feature.screw or (move.amount if hollow else -move.amount) < radius:
            continue
        what = "bore" if hollow else "boss"
        raise Refused(
            "surface-axis",
            f"moved by {move.amount:.4g} mm, a {what} ø {feature.diameter:.4g} of {name} would pass its axis",
            remedy=f"choose less than {radius:.4g} mm",
        )


def _chosen(mesh: Mesh, features: Features, faces: Sequence[DescribedFace], name: str) -> NDArray[np.bool_]:
    """Which triangles are moved; all where no face is told."""
    if not faces:
        return np.ones(mesh.triangles, bool)
    near = _NEAR * float(mesh.extents().max())
    moved = np.zeros(mesh.triangles, bool)
    for face in faces:
        mine = [feature for feature in features.listed if _is_described(feature, face, near)]
        if not mine:
            raise Refused("faces-lost", f"a face of {name} is not there any more", remedy="pick it again")
        for feature in mine:
            triangles = features.of_face == feature.id
            points = mesh.vertices[mesh.faces[triangles]].reshape(-1, 3)
            ends = np.stack([points.min(axis=0) - face.low, points.max(axis=0) - face.high])
            if np.abs(ends).max() < near:
                moved |= triangles
    return moved


def _is_described(feature: Feature, face: DescribedFace, near: float) -> bool:
    alike = feature.flat == (face.kind == "flat") and not feature.screw
    along = abs(float(np.dot(feature.direction, face.way))) > 1 - 1e-6
    return (
        alike
        and along
        and float(np.linalg.norm(np.subtract(feature.point, face.point))) < near
        and abs(feature.diameter - face.diameter) < near
    )


@dataclass(frozen=True, eq=False)
class _Meetings:
    """Which surfaces meet at which corners, row by row.

    Attributes:
        corner: (r,) the corner, by its number among those that move.
        moved: (r,) whether the surface is one that moves.
        normal: (r, 3) outward, of a flat one; of a round one in the first place.
        axis: (r, 3) of a round one, through ``centre``; else nothing.
        side: (r,) 1 of a round one with its material inside, -1 of a hollow one, 0 of a flat one.
    """

    corner: NDArray[np.int64]
    moved: NDArray[np.bool_]
    normal: Floats
    axis: Floats
    centre: Floats
    side: Floats


def _moved(mesh: Mesh, features: Features, chosen: NDArray[np.bool_], amount: float) -> MovedSurface | None:
    """The body with faces moved; None where it would cross itself."""
    corners = np.unique(mesh.faces[chosen])
    rows = _meetings(mesh, features, chosen, corners)
    start = mesh.vertices[corners]
    place = start.copy()
    target = np.where(rows.moved, amount, 0.0)
    weight = np.where(rows.moved, _FIRST, 1.0)
    for _ in range(_ROUNDS):
        normal, now = _offsets(rows, start, place)
        step = _solved(rows.corner, normal * weight[:, None], (target - now) * weight, len(corners))
        place += step
        if np.abs(step).max(initial=0.0) <= 1e-14 * (np.abs(place).max(initial=0.0) + 1):
            break
    offsets = _offsets(rows, start, place)[1][rows.moved]
    vertices = mesh.vertices.copy()
    vertices[corners] = place
    after = _with_flat_faces(mesh, Mesh(vertices, mesh.faces), features)
    if after is None or len(crossing_faces(after)) > len(crossing_faces(mesh)):
        return None
    return MovedSurface(after, float(offsets.min()), float(offsets.max()))


def _meetings(
    mesh: Mesh, features: Features, chosen: NDArray[np.bool_], corners: NDArray[np.integer]
) -> _Meetings:
    number = np.full(len(mesh.vertices), -1, np.int64)
    number[corners] = np.arange(len(corners))
    # A facet of no flat or round face is a surface of its own.
    exact = np.array([not feature.screw for feature in features.listed] + [False])
    listed = np.where(exact[features.of_face], features.of_face.astype(np.int64), -1)
    surface = np.where(listed >= 0, listed, len(features.listed) + np.arange(mesh.triangles))
    pairs = np.stack([mesh.faces.ravel().astype(np.int64), np.repeat(surface, 3)], axis=1)
    triangle = np.repeat(np.arange(mesh.triangles), 3)
    here = (number[pairs[:, 0]] >= 0) & (mesh.areas[triangle] > 0)
    pairs, first = np.unique(pairs[here], axis=0, return_index=True)
    triangle = triangle[here][first]
    vectors = mesh.area_vectors[triangle]
    normal = vectors / np.linalg.norm(vectors, axis=1, keepdims=True)
    axis, centre, side = np.zeros_like(normal), np.zeros_like(normal), np.zeros(len(normal))
    for feature in features.listed:
        rows = pairs[:, 1] == feature.id
        if not rows.any():
            continue
        if feature.flat:
            normal[rows] = feature.direction
        else:
            axis[rows], centre[rows] = feature.direction, feature.point
            side[rows] = -1.0 if feature.kind in ("bore", "hollow arc") else 1.0
    return _Meetings(number[pairs[:, 0]], chosen[triangle], normal, axis, centre, side)


def _offsets(rows: _Meetings, start: Floats, place: Floats) -> tuple[Floats, Floats]:
    """Return (r, 3) and (r,): the way out of every surface at its corner now, and how far out that is.

    Of a flat one from its plane through where the corner was; of a round one from its radius there.
    """
    here, there = place[rows.corner], start[rows.corner]
    curved = rows.side != 0
    away, first = (_from_axis(rows, points) for points in (here, there))
    length = np.linalg.norm(away, axis=1)
    outward = rows.side[:, None] * away / np.maximum(length, 1e-300)[:, None]
    normal = np.where(curved[:, None], outward, rows.normal)
    flat = np.einsum("ij,ij->i", rows.normal, here - there)
    return normal, np.where(curved, rows.side * (length - np.linalg.norm(first, axis=1)), flat)


def _from_axis(rows: _Meetings, points: Floats) -> Floats:
    away = points - rows.centre
    return np.asarray(away - np.einsum("ij,ij->i", away, rows.axis)[:, None] * rows.axis)


def _solved(corner: NDArray[np.int64], normal: Floats, wanted: Floats, count: int) -> Floats:
    """Return (count, 3): for each corner the shortest step that comes nearest to what its rows want."""
    square, right = np.zeros((count, 3, 3)), np.zeros((count, 3))
    np.add.at(square, corner, normal[:, :, None] * normal[:, None, :])
    np.add.at(right, corner, normal * wanted[:, None])
    values, ways = np.linalg.eigh(square)
    keep = values > _LEAST * values[:, -1:]
    inverse = np.divide(1.0, values, out=np.zeros_like(values), where=keep)
    return np.asarray(np.einsum("nij,nj,nkj,nk->ni", ways, inverse, ways, right))


def _with_flat_faces(before: Mesh, after: Mesh, features: Features) -> Mesh | None:
    """Return the mesh with flat faces cut into triangles anew where some of theirs were turned over.

    A flat face may keep within its outline and its triangles not. None where others are turned over, or an
    outline crosses itself.
    """
    turned = np.einsum("ij,ij->i", before.area_vectors, after.area_vectors) <= 0
    turned &= before.areas > 0
    if not turned.any():
        return after
    numbers = np.unique(features.of_face[turned])
    if any(number < 0 or not features.listed[number].flat for number in numbers.tolist()):
        return None
    anew = []
    for number in numbers.tolist():
        normal = np.asarray(features.listed[number].direction)
        triangles = _cut_anew(after, features.of_face == number, normal)
        if triangles is None:
            return None
        anew.append(triangles)
    kept = after.faces[~np.isin(features.of_face, numbers)]
    return compacted(after.vertices, np.concatenate([kept, *anew]).astype(after.faces.dtype))


def _whole_faces(mesh: Mesh) -> Features:
    """Return the flat and round faces of a mesh, flat ones that are parts of one as the largest of these.

    One flat face is listed as several where its triangles are slivers, whose normals rounding turns, or where
    a kept bore has folded some of them over: what lies in one plane and hangs together is one.
    """
    features = features_of(mesh)
    flat = np.array([feature.flat for feature in features.listed] + [False])[features.of_face]
    normals = np.array([feature.direction for feature in features.listed] + [(0.0, 0.0, 0.0)])
    offsets = np.array([np.dot(feature.direction, feature.point) for feature in features.listed] + [0.0])
    topology = mesh.topology
    a, b = topology.faces_of(np.flatnonzero(topology.edge_valence == 2)).T
    one, other = features.of_face[a], features.of_face[b]
    along = np.einsum("ij,ij->i", normals[one], normals[other])
    level = abs(along) > 1 - 1e-9
    level &= abs(offsets[one] - np.sign(along) * offsets[other]) < _LEVEL * float(mesh.extents().max())
    joins = flat[a] & flat[b] & level
    label = connected_components(mesh.triangles, a[joins], b[joins])[1]
    # They are listed with the largest first.
    largest = np.full(int(label.max(initial=-1)) + 1, len(features.listed))
    np.minimum.at(largest, label[flat], features.of_face[flat])
    return Features(features.listed, np.where(flat, largest[label], features.of_face).astype(np.int16))


def _cut_anew(mesh: Mesh, mine: NDArray[np.bool_], normal: Floats) -> NDArray[np.int64] | None:
    """Return (k, 3): triangles that fill the outline of a flat face; None where that crosses itself."""
    loops = _loops(mesh.faces[mine].astype(np.int64))
    if loops is None:
        return None
    axes = np.stack(plane_axes(normal), axis=1)
    rings = [mesh.vertices[loop] @ axes for loop in loops]
    outer = [ring for ring in rings if ring_area(ring) > 0]
    shape = (
        shapely.Polygon()
        if len(outer) != 1
        else shapely.Polygon(outer[0], [ring for ring in rings if ring is not outer[0]])
    )
    if shape.is_empty or not shape.is_valid:
        return None
    return np.concatenate(loops)[np.asarray(manifold3d.triangulate(rings), np.int64)]


def _loops(faces: NDArray[np.int64]) -> list[NDArray[np.int64]] | None:
    """Return the corners around some triangles, loop by loop; None where loops touch."""
    edges = faces[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2)
    there = {(a, b) for a, b in edges.tolist()}
    rim = sorted((a, b) for a, b in there if (b, a) not in there)
    follows = dict(rim)
    if len(follows) != len(rim):
        return None
    loops = []
    while follows:
        start, after = follows.popitem()
        loop = [start]
        while after != start:
            loop.append(after)
            after = follows.pop(after)
        loops.append(np.array(loop))
    return loops
