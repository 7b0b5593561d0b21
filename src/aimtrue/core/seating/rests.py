"""Ways to stand: the flat faces of the hull of a body on which its weight holds it.

A body stands on a face of its convex hull when its centre of gravity is above that face. Corners of the hull
in one plane, such as the feet of legs, make one face.
"""

from __future__ import annotations

from dataclasses import dataclass

import igl
import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.reduced import REDUCED_FROM, reduced
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
_SPREAD = 20_000
_COARSE = 120
"""Cells along the longest side of the reduced form of a large mesh."""


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
        has no flat side, such as a ball. Of a mesh of over 300 000 triangles the directions are found, and
        what hangs over is told, by a reduced form; all else by the mesh itself.
    """
    coarse = mesh if mesh.triangles < REDUCED_FROM else reduced(mesh, _COARSE)
    ready, centre = facing(coarse), centre_of_gravity(mesh)
    found = []
    for side in sorted(_sides(ready, mesh), key=lambda one: (-one.contact, -one.reach))[:most]:
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

    Whether it is closed is told by its volume, which of a closed surface is the same wherever it is moved.
    """
    middle, size = mesh.bounds().mean(axis=0), float(mesh.extents().max())
    away = size * np.sqrt([1.0, 2.0, 3.0])
    centre, volume = igl.centroid(mesh.vertices - middle, mesh.faces)
    _, moved = igl.centroid(mesh.vertices - middle + away, mesh.faces)
    if abs(volume) < 1e-9 * size**3 or abs(moved - volume) > 1e-6 * size**3:
        return np.asarray(middle)
    return np.asarray(centre + middle)


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


def _sides(ready: Facing, mesh: Mesh) -> list[_Side]:
    """Find the sides of the hull of a mesh that are large enough to stand on, each once.

    Args:
        ready: the mesh, or a reduced form of it, which tells the directions to look in.
        mesh: the mesh itself.
    """
    whole, size = ready.mesh.area(), float(mesh.extents().max())
    found: list[_Side] = []
    for normal in (*_main_ways(ready, whole, size), *_hull_ways(mesh)):
        if any(normal @ side.down >= _SAME_WAY for side in found):
            continue
        side = _side(mesh, normal, size)
        known = any(side.down @ other.down >= _SAME_WAY for other in found) if side else True
        if side is not None and not known and max(side.contact, side.reach) >= _SHARE * whole:
            found.append(side)
    return found


def _main_ways(ready: Facing, whole: float, size: float) -> list[Floats]:
    """Directions that much of the surface faces; those alone whose faces are outermost.

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
            ways.append(normal)
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


def _side(mesh: Mesh, normal: Floats, size: float) -> _Side | None:
    """The side of the hull that faces a way, its direction taken from the faces in it."""
    along = mesh.vertices @ normal
    # Twice as far, since the direction is not exact yet.
    wide = along >= along.max() - 2 * _ON_PLANE * size
    on = _among(mesh, wide)
    normal = _direction(mesh, on, normal)
    along = mesh.vertices @ normal
    offset = float(along.max())
    near = along >= offset - _ON_PLANE * size
    if (count := np.count_nonzero(near)) < 3:
        return None
    if count < np.count_nonzero(wide):
        on = on[near[mesh.faces[on]].all(axis=1)]
    across = np.stack([mesh.vertices @ way for way in _across(normal)])
    # As a line through them all: a hull asks for no more, and so many points are slow to make.
    polygon = shapely.convex_hull(shapely.linestrings(across[:, near].T))
    if not isinstance(polygon, shapely.Polygon):
        return None
    contact = _spread(across, mesh.faces[on])
    return _Side(normal, offset, shapely.get_coordinates(polygon)[:-1], contact, float(polygon.area))


def _among(mesh: Mesh, near: NDArray[np.bool_]) -> NDArray[np.int64]:
    """The faces all of whose corners are among some vertices."""
    on = np.flatnonzero(near[mesh.faces[:, 0]])
    return np.asarray(on[near[mesh.faces[on, 1]] & near[mesh.faces[on, 2]]], np.int64)


def _direction(mesh: Mesh, on: NDArray[np.int64], normal: Floats) -> Floats:
    """The direction that faces in a plane face, by those that face nearly as it is thought; of very many a
    spread of them.
    """
    some = mesh.faces[on[:: max(1, len(on) // _SPREAD)]]
    a, b, c = (mesh.vertices[some[:, corner]] for corner in range(3))
    crosses = np.cross(b - a, c - a)
    total = crosses[crosses @ normal > 0.99 * np.linalg.norm(crosses, axis=1)].sum(axis=0)
    length = float(np.linalg.norm(total))
    return np.asarray(total / length) if length > 0 else normal


def _spread(across: Floats, faces: NDArray[np.int32]) -> float:
    """The area of faces in a plane, by the (2, n) places of their corners in it; those that face in count
    for nothing.
    """
    (ax, bx, cx), (ay, by, cy) = ([row[faces[:, corner]] for corner in range(3)] for row in across)
    return float(np.maximum((bx - ax) * (cy - ay) - (cx - ax) * (by - ay), 0.0).sum() / 2)


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
