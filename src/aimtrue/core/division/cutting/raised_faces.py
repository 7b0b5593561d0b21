"""Raised or sunk faces as a body of their own: what belongs to a picked face, and what it sweeps.

What belongs to a raised face is everything that one reaches from it without crossing a fold towards the eye:
its top, its bevels, its walls, whichever of them was picked. All of it ends on the face it stands on, and is
cut off there. A sunk face has folds towards the eye all around; what is under it, for a depth that is told,
becomes the other body.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from aimtrue.core.division.cutting.halves import HAIR, loops_of
from aimtrue.core.division.cutting.solids import basis_of, extruded
from aimtrue.core.division.cutting.split import Two, refuse_one_sided
from aimtrue.core.errors import Refused
from aimtrue.core.gauges.anchors import nearest
from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.outlines import as_outline, rings_of
from aimtrue.core.model.decisions import PickedFace
from aimtrue.core.model.lengths import written
from aimtrue.core.model.readings import Anchor
from aimtrue.core.model.shaping import Prism
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3

Numbers = NDArray[np.int64]
_FLAT = np.cos(np.radians(1.0))
"""Faces that fold by less than a degree are one face."""
_LEVEL = 5e-4
"""Of the size: so even must the edge be where what is raised ends on the face below."""
_MOSTLY = 0.98
"""Of the length of its edge: so much must fold the same way."""
_ASIDE_MM = 0.02
"""What is raised is cut off this far outside its walls, so that no cut lies in a wall."""


@dataclass(frozen=True, eq=False)
class FoldGraph:
    """A closed mesh by its edges: which two faces meet at each, and how they fold.

    Attributes:
        mesh: in mm.
        first, second: (e,) faces on either side.
        ends: (e, 2) corners of the edge, in the order in which ``first`` has them.
        way: (e,) 1 where it folds away from the eye, -1 towards it, 0 where it hardly folds.
    """

    mesh: Mesh
    first: Numbers
    second: Numbers
    ends: Numbers
    way: NDArray[np.int8]

    @cached_property
    def normals(self) -> Floats:
        """(m, 3): unit normals; of a face without area nothing."""
        crosses = self.mesh.area_vectors
        return np.asarray(crosses / np.maximum(2 * self.mesh.areas, 1e-300)[:, None])

    @cached_property
    def flats(self) -> Numbers:
        """(m,): the number of the flat face that each triangle is of."""
        return self.grown(self.way == 0)

    @cached_property
    def raised(self) -> Numbers:
        """(m,): the number of what hangs together without a fold towards the eye, of each triangle."""
        return self.grown(self.way >= 0)

    def grown(self, over: NDArray[np.bool_]) -> Numbers:
        """Return (m,): the number of what hangs together over some edges, by triangle."""
        return connected_components(self.mesh.triangles, self.first[over], self.second[over])[1]

    def edge_of(self, within: NDArray[np.bool_]) -> tuple[NDArray[np.bool_], Numbers]:
        """Return the edges around some triangles, and their ends in the order in which these have them."""
        one, other = within[self.first], within[self.second]
        around = one != other
        ends = np.where(one[around, None], self.ends[around], self.ends[around, ::-1])
        return around, ends


def folds_of(mesh: Mesh) -> FoldGraph:
    """Return how the faces of a closed mesh fold at their edges."""
    faces = mesh.faces.astype(np.int64)
    starts = faces.ravel()
    ends = np.roll(faces, -1, axis=1).ravel()
    keys = np.minimum(starts, ends) * len(mesh.vertices) + np.maximum(starts, ends)
    order = np.argsort(keys, kind="stable")
    one, other = order[::2], order[1::2]
    first, second = one // 3, other // 3
    normals = mesh.area_vectors / np.maximum(2 * mesh.areas, 1e-300)[:, None]
    across = faces[second, (other % 3 + 2) % 3]
    over = ((mesh.vertices[across] - mesh.vertices[starts[one]]) * normals[first]).sum(axis=1)
    bent = (normals[first] * normals[second]).sum(axis=1) < _FLAT
    way = np.where(bent, np.where(over < 0, 1, -1), 0).astype(np.int8)
    return FoldGraph(mesh, first, second, np.column_stack([starts[one], ends[one]]), way)


def prisms_of(
    mesh: Mesh, picks: Sequence[PickedFace], *, alike: bool, depth: float | None
) -> tuple[Prism, ...]:
    """Return what is to become a body of its own, as prisms.

    Args:
        mesh: a closed body in mm.
        picks: its faces that were picked.
        alike: whether all is meant that is raised as high from the same plane, or sunk to the same.
        depth: so far under a raised face's foot, or under a sunk face; in mm. None for a raised one alone.

    Raises:
        Refused: a face is neither raised nor sunk, a depth is missing, or it ends on nothing flat.
    """
    if depth is not None and not depth > 0:
        raise Refused("depth", f"a depth of {written(depth)} mm is none", remedy="type a length")
    folds = folds_of(mesh)
    marks, floors = _meant(folds, picks, alike=alike)
    return tuple(
        prism
        for each in (
            *(_over(folds, mark, depth) for mark in marks),
            *(_under(folds, floor, depth) for floor in floors),
        )
        for prism in each
    )


def picked_at(mesh: Mesh, places: Sequence[Vec3]) -> tuple[PickedFace, ...]:
    """Return picks of the faces of a mesh that are nearest to places, both in mm."""
    flat = Anchor(face=0, weights=(1.0, 0.0, 0.0))
    return tuple(PickedFace(face=nearest(flat, place, mesh).face, point=place) for place in places)


def parted_by(solid: manifold3d.Manifold, prisms: Sequence[Prism]) -> Two:
    """Split a solid by prisms: what is in one of them, and the rest.

    Raises:
        Refused: all of it, or nothing, is in them.
    """
    posts = []
    for prism in prisms:
        rows = basis_of(np.asarray(prism.normal))
        rings = [np.asarray(ring) @ rows[:2].T for ring in prism.rings]
        posts.append(extruded(rings, rows, prism.low, prism.high))
    post = manifold3d.Manifold.batch_boolean(posts, manifold3d.OpType.Add)
    kept, rest = solid.split(post)
    return refuse_one_sided(solid, kept, rest, "on the picked faces")


@dataclass(frozen=True, eq=False)
class _Mark:
    """Something raised: its number among what hangs so together, its foot's plane, its top, and its edge."""

    number: int
    normal: Floats
    low: float
    high: float
    ends: Numbers


def _meant(folds: FoldGraph, picks: Sequence[PickedFace], *, alike: bool) -> tuple[list[_Mark], list[int]]:
    """What is meant that is raised, and the numbers of flat faces that are sunk, each once."""
    if not picks:
        raise Refused("no-faces", "no face was picked", remedy="pick a raised or sunk face")
    marks: dict[int, _Mark] = {}
    floors: dict[int, None] = {}
    for pick in picks:
        if not 0 <= pick.face < folds.mesh.triangles:
            raise Refused("face-unknown", f"there is no triangle {pick.face}", remedy="pick it again")
        flat, number = int(folds.flats[pick.face]), int(folds.raised[pick.face])
        if _is_sunk(folds, flat):
            others = _in_plane(folds, flat) if alike else ()
            floors |= dict.fromkeys(
                [flat, *(neighbour for neighbour in others if _is_sunk(folds, neighbour))]
            )
        elif number not in marks:
            marks[number] = mark = _mark(folds, number)
            for other in _alike(folds, mark) if alike else ():
                marks.setdefault(other, _mark(folds, other))
    return list(marks.values()), list(floors)


def _mark(folds: FoldGraph, number: int) -> _Mark:
    """What is raised, with the plane that its foot is in."""
    mesh, within = folds.mesh, folds.raised == number
    _, ends = folds.edge_of(within)
    if not len(ends) or mesh.areas[within].sum() > mesh.area() / 2:
        raise Refused(
            "not-raised",
            "a picked face is neither raised from what is around it nor sunk into it",
            remedy="pick one that is raised, or the floor of what is sunk",
        )
    foot, own = mesh.vertices[ends[:, 0]], mesh.vertices[mesh.faces[within].ravel()]
    normal = np.linalg.svd(foot - foot.mean(axis=0), full_matrices=False)[2][2]
    normal = _snapped(normal if (own.mean(axis=0) - foot.mean(axis=0)) @ normal > 0 else -normal)
    heights = foot @ normal
    if np.ptp(heights) > _LEVEL * float(mesh.extents().max()):
        raise Refused(
            "foot-uneven",
            f"what is raised ends on nothing flat, but {written(float(np.ptp(heights)))} mm up and down",
            remedy="split it by an outline instead",
        )
    return _Mark(number, normal, float(np.median(heights)), float((own @ normal).max()), ends)


def _alike(folds: FoldGraph, mark: _Mark) -> Iterator[int]:
    """Numbers of what else is raised from the same plane to the same height."""
    mesh, numbers = folds.mesh, folds.raised
    many, tolerance = int(numbers.max()) + 1, _LEVEL * float(mesh.extents().max())
    along = mesh.vertices @ mark.normal
    low, high, top = np.full(many, np.inf), np.full(many, -np.inf), np.full(many, -np.inf)
    inward = numbers[folds.first] != numbers[folds.second]  # The folds within a round hole do not count.
    heights = along[folds.ends[inward]]
    for side in (folds.first, folds.second):
        np.minimum.at(low, numbers[side[inward]], heights.min(axis=1))
        np.maximum.at(high, numbers[side[inward]], heights.max(axis=1))
    np.maximum.at(top, numbers, along[mesh.faces].max(axis=1))
    area = np.bincount(numbers, mesh.areas, many)
    same = (np.maximum(abs(low - mark.low), abs(high - mark.low)) <= tolerance) & (area <= mesh.area() / 2)
    yield from np.flatnonzero(same & (abs(top - mark.high) <= tolerance)).tolist()


def _in_plane(folds: FoldGraph, flat: int) -> Iterator[int]:
    """The flat faces that lie in the plane of one."""
    normal, level = _plane_of(folds, flat)
    mesh = folds.mesh
    size = float(mesh.extents().max())
    near = (folds.normals @ normal > _FLAT) & (
        np.abs((mesh.vertices @ normal)[mesh.faces] - level).max(axis=1) < _LEVEL * size
    )
    yield from np.unique(folds.flats[near]).tolist()


def _plane_of(folds: FoldGraph, flat: int) -> tuple[Floats, float]:
    faces = np.flatnonzero(folds.flats == flat)
    normal = folds.mesh.area_vectors[faces].sum(axis=0)
    normal = _snapped(normal / max(float(np.linalg.norm(normal)), 1e-300))
    corners = folds.mesh.vertices[folds.mesh.faces[faces].ravel()]
    return normal, float(np.median(corners @ normal))


def _snapped(normal: Floats) -> Floats:
    """A unit vector, exact where it is along an axis but for rounding."""
    axis = int(np.abs(normal).argmax())
    return np.sign(normal[axis]) * np.eye(3)[axis] if abs(normal[axis]) > 1 - 1e-12 else normal


def _is_sunk(folds: FoldGraph, flat: int) -> bool:
    """Tell whether the edge of a flat face folds towards the eye, but for a hair of its length."""
    around, ends = folds.edge_of(folds.flats == flat)
    points = folds.mesh.vertices[ends]
    lengths = np.linalg.norm(points[:, 1] - points[:, 0], axis=1)
    return bool(lengths[folds.way[around] > 0].sum() < (1 - _MOSTLY) * lengths.sum())


def _over(folds: FoldGraph, mark: _Mark, depth: float | None) -> Iterator[Prism]:
    """What is raised, a hair outside its walls, and so far under its foot."""
    shape = _shape(folds.mesh, mark.ends, mark.normal)
    outside = shape.buffer(_ASIDE_MM, join_style="mitre")
    # A hair over the face that it stands on, so that nothing without a thickness is left of that.
    hair = HAIR * float(folds.mesh.extents().max())
    yield _prism(outside, mark.normal, mark.low + hair, mark.high + _ASIDE_MM)
    if depth is not None:
        yield _prism(shape, mark.normal, mark.low - depth, mark.low + 2 * hair)


def _under(folds: FoldGraph, flat: int, depth: float | None) -> Iterator[Prism]:
    """What is under a sunk face, so far."""
    if depth is None:
        raise Refused(
            "depth",
            "what is sunk has nothing over it to take",
            remedy="type how deep the colour is to go under it",
        )
    normal, level = _plane_of(folds, flat)
    _, ends = folds.edge_of(folds.flats == flat)
    yield _prism(_shape(folds.mesh, ends, normal), normal, level - depth, level + _ASIDE_MM)


def _shape(mesh: Mesh, ends: Numbers, normal: Floats) -> shapely.Geometry:
    """What edges surround, seen along a direction, in the first two rows of its basis."""
    loops = loops_of(ends)
    if loops is None:
        raise Refused("foot-uneven", "its edge does not close", remedy="split it by an outline instead")
    rows = basis_of(normal)
    shape = shapely.Polygon()
    for loop in loops:
        ring = shapely.make_valid(shapely.Polygon(mesh.vertices[loop] @ rows[:2].T))
        shape = shapely.symmetric_difference(shape, ring)
    return shape


def _prism(shape: shapely.Geometry, normal: Floats, low: float, high: float) -> Prism:
    rows = basis_of(normal)
    flat = rings_of(shapely.orient_polygons(as_outline(shape)))
    rings = [np.column_stack([ring[:-1], np.full(len(ring) - 1, low)]) @ rows for ring in flat]
    kept_rings = tuple(tuple(as_vec3(point) for point in ring) for ring in rings)
    return Prism(normal=as_vec3(normal), low=low, high=high, rings=kept_rings)
