"""Ways to stand: the flat faces of the hull of a body on which its weight holds it.

A body stands on a face of its convex hull when its centre of gravity is above that face. Corners of the hull
in one plane, such as the feet of legs, make one face.
"""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.seating.overhang import USUAL_DEGREES, Facing, Overhang, facing, overhang_of

_SAME_WAY = 1 - 5e-7
"""Cosine from which two faces face the same way: within 0.06 degrees."""
_ON_PLANE = 2e-5
"""Of the size: so near to a plane is on it."""
_SHARE = 2e-3
"""Of the surface: a smaller side is no way to stand."""
_CELLS = 200
"""Directions are gathered by so many cells along each part of a unit normal."""
_CORNERS = 20_000
"""Vertices up to which a body may stand on corners of its hull; a finer one has flat feet, if it has any."""
_MOST = 16


@dataclass(frozen=True)
class Rest:
    """One way to stand.

    Attributes:
        down: the unit vector, in the axes of the body, that points down then.
        contact_mm2: of the faces of the body that lie on the plate.
        reach_mm2: of the polygon that the places on the plate span.
        height_mm: of the body as it stands.
        overhang_mm2, support_mm3: surface that hangs over, and what would hold it, an estimate.
        inside_mm: how far the centre of gravity is inside the polygon; below 0 it falls over.
    """

    down: Vec3
    contact_mm2: float
    reach_mm2: float
    height_mm: float
    overhang_mm2: float
    support_mm3: float
    inside_mm: float

    @property
    def stable(self) -> bool:
        """Whether its weight holds it."""
        return self.inside_mm > 0


def rests_of(mesh: Mesh, steepest: float = USUAL_DEGREES, most: int = _MOST) -> tuple[Rest, ...]:
    """Return the ways that a mesh in mm can stand, the best first.

    Args:
        mesh: the body; of an open one the hull's middle is taken for its centre of gravity.
        steepest: angle from upright beyond which a face hangs over, in degrees.
        most: how many are looked at, by the area of the hull's face.

    Returns:
        Stable ways, those with much contact first; a face too small against the hull is none. Empty for what
        has no flat side, such as a ball.
    """
    ready, centre = facing(mesh), centre_of_gravity(mesh)
    sides = _sides(ready)
    found = []
    for side in sorted(sides, key=lambda one: (-one.contact, -one.reach))[:most]:
        inside = _inside(side, centre)
        if inside > 0:
            found.append(_rest(mesh, side, inside, overhang_of(ready, side.down, steepest)))
    return tuple(sorted(found, key=lambda rest: (-rest.contact_mm2, rest.overhang_mm2)))


def best(rests: tuple[Rest, ...]) -> Rest | None:
    """Return the way to stand with the least to be supported, of those alike the one that holds best."""
    if not rests:
        return None
    return min(rests, key=lambda one: (one.support_mm3 + 0.02 * one.height_mm**3, -one.contact_mm2))


def centre_of_gravity(mesh: Mesh) -> Floats:
    """Return (3,): where a solid of one material has its weight; of an open mesh the middle of its bounds.

    The mean of the middles of the tetrahedra between each face and one point, by their signed volumes.
    Whether it is closed is told by its vector areas: of a closed surface they sum to nothing.
    """
    total, size = float(mesh.tetrahedra.sum()), float(mesh.extents().max())
    open_by = float(np.linalg.norm(mesh.crosses.sum(axis=0)))
    if abs(total) < 1e-9 * size**3 or open_by > 1e-6 * float(mesh.areas.sum()):
        return np.asarray(mesh.bounds().mean(axis=0))
    origin = mesh.vertices[mesh.faces[0, 0]]
    moments = [
        (mesh.vertices[:, axis][mesh.faces].sum(axis=1) / 4 - 0.75 * origin[axis]) @ mesh.tetrahedra
        for axis in range(3)
    ]
    return np.asarray(origin + np.array(moments) / total)


@dataclass(frozen=True, eq=False)
class _Side:
    """A side of the hull: the direction out of it, how far along that it is, and what lies in it.

    Attributes:
        corners: (k, 2) the convex polygon that the places in it span, seen along the direction.
        contact: area of the faces of the body in it.
        reach: area of the polygon.
    """

    down: Floats
    offset: float
    corners: Floats
    contact: float
    reach: float


def _sides(ready: Facing) -> list[_Side]:
    """Find the sides of the hull of a mesh that are large enough to stand on, each once."""
    mesh = ready.mesh
    whole, size = float(mesh.areas.sum()), float(mesh.extents().max())
    found: list[_Side] = []
    ways = _main_ways(ready, whole, size)
    ways += [(normal, _facing(ready, normal)) for normal in _hull_ways(mesh)]
    for normal, faces in ways:
        if any(normal @ side.down >= _SAME_WAY for side in found):
            continue
        side = _side(mesh, normal, faces, size)
        known = any(side.down @ other.down >= _SAME_WAY for other in found) if side else True
        if side is not None and not known and max(side.contact, side.reach) >= _SHARE * whole:
            found.append(side)
    return found


def _facing(ready: Facing, normal: Floats) -> NDArray[np.int64]:
    return np.flatnonzero(ready.normals @ normal.astype(np.float32) > 0.9999)


def _main_ways(ready: Facing, whole: float, size: float) -> list[tuple[Floats, NDArray[np.int64]]]:
    """Directions that much of the surface faces, with these faces; those alone that are outermost.

    So what is flat within the body, or a facet of a bore, is left out before more is asked of it.
    """
    mesh = ready.mesh
    cells = np.round(ready.normals * _CELLS).astype(np.int32) + _CELLS
    keys = (cells[:, 0] * (2 * _CELLS + 1) + cells[:, 1]) * (2 * _CELLS + 1) + cells[:, 2]
    order = np.argsort(keys, kind="stable")
    starts = np.flatnonzero(np.r_[True, np.diff(keys[order]) > 0])
    areas = np.add.reduceat(mesh.areas[order], starts)
    ends = np.r_[starts[1:], len(order)]
    large = np.flatnonzero(areas >= _SHARE / 4 * whole)
    ways = []
    for one in large[np.argsort(-areas[large])][: 4 * _MOST]:
        faces = order[starts[one] : ends[one]]
        normal = mesh.crosses[faces[mesh.areas[faces].argmax()]]
        normal = normal / np.linalg.norm(normal)
        outermost = float((mesh.vertices @ normal).max())
        if outermost - float((mesh.vertices[mesh.faces[faces]] @ normal).max()) <= 2 * _ON_PLANE * size:
            ways.append((normal, faces))
    return ways


def _hull_ways(mesh: Mesh) -> list[Floats]:
    """Normals of the larger facets of the hull, of a mesh that may stand on its corners."""
    if len(mesh.vertices) > _CORNERS:
        return []
    made = manifold3d.Manifold.hull_points(np.ascontiguousarray(mesh.vertices[np.unique(mesh.faces)]))
    if made.is_empty():
        return []
    told = made.to_mesh64()
    hull = Mesh(np.asarray(told.vert_properties[:, :3]), np.asarray(told.tri_verts).astype(np.int32))
    large = np.flatnonzero(hull.areas >= _SHARE / 2 * hull.areas.sum())
    chosen = large[np.argsort(-hull.areas[large])][: 4 * _MOST]
    return list(hull.crosses[chosen] / (2 * hull.areas[chosen, None]))


def _side(mesh: Mesh, normal: Floats, faces: NDArray[np.int64], size: float) -> _Side | None:
    """The side of the hull that faces a way, its direction taken from the faces in it."""
    along = mesh.vertices @ normal
    offset = float(along.max())
    # Twice as far, since the direction is not exact yet.
    on = faces[offset - along[mesh.faces[faces]].min(axis=1) <= 2 * _ON_PLANE * size]
    if len(on):
        normal = mesh.crosses[on].sum(axis=0)
        normal /= np.linalg.norm(normal)
        along = mesh.vertices @ normal
        offset = float(along.max())
        on = on[offset - along[mesh.faces[on]].min(axis=1) <= _ON_PLANE * size]
    right, up = _across(normal)
    near = mesh.vertices[offset - along <= _ON_PLANE * size]
    polygon = shapely.convex_hull(shapely.MultiPoint(np.stack([near @ right, near @ up], axis=1)))
    if not isinstance(polygon, shapely.Polygon):
        return None
    contact = float(mesh.areas[on].sum())
    return _Side(normal, offset, shapely.get_coordinates(polygon)[:-1], contact, float(polygon.area))


def _inside(side: _Side, centre: Floats) -> float:
    """How far a point, seen along the direction of a side, is inside its polygon; mm, below 0 outside."""
    right, up = _across(side.down)
    point = shapely.Point(centre @ right, centre @ up)
    polygon = shapely.Polygon(side.corners)
    away = float(polygon.exterior.distance(point))
    return away if polygon.contains(point) else -away


def _across(down: Floats) -> tuple[Floats, Floats]:
    """Two unit vectors square to a direction and to each other, right-handed about it."""
    aside = np.eye(3)[int(abs(down).argmin())]
    right = np.cross(down, aside)
    right /= np.linalg.norm(right)
    return right, np.cross(down, right)


def _rest(mesh: Mesh, side: _Side, inside: float, over: Overhang) -> Rest:
    height = side.offset - float((mesh.vertices @ side.down).min())
    way = as_vec3(np.round(side.down, 15) + 0.0)
    return Rest(way, side.contact, side.reach, height, over.area_mm2, over.support_mm3, inside)
