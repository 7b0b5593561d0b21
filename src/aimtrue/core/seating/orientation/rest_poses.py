"""Ways to stand: the flat faces of the hull of a body on which its weight holds it.

A body stands on a face of its convex hull when its centre of gravity is above that face. Corners of the hull
in one plane, such as the feet of legs, make one face.
"""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.reduced import REDUCED_FROM, reduced
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.seating.layer_analysis.overhang import USUAL_DEGREES, Overhang, facing, overhang_of

_SAME_WAY = 1 - 5e-7
"""Cosine from which two faces face the same way: within 0.06 degrees."""
_ON_PLANE = 2e-5
"""A point is on a plane when it is nearer than this share of the size."""
_SHARE = 2e-3
"""A side with a smaller share of the surface is no way to stand."""
_CELLS = 200
"""Directions are gathered by so many cells along each part of a unit normal."""
_CORNERS = 20_000
"""Vertices up to which a body may stand on corners of its hull; a finer one has flat feet, if it has any."""
_MOST = 16
_SPREAD = 20_000
"""Of very many faces or corners this many are looked at."""
_LARGE = 1e-5
"""Every face with a larger share of the surface is looked at; of smaller ones a spread is."""
_FEW = 30_000
_COARSE = 120
"""Cells along the longest side of the reduced form of a large mesh."""


@dataclass(frozen=True)
class RestPose:
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


def rests_of(mesh: Mesh, steepest: float = USUAL_DEGREES, most: int = _MOST) -> tuple[RestPose, ...]:
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
    hull_sides = stable_sides(mesh, most)
    coarse = mesh if mesh.triangles < REDUCED_FROM else reduced(mesh, _COARSE)
    ready = facing(coarse)
    centre = centre_of_gravity(mesh)
    rests = [
        _rest(mesh, side, side.inside(centre), overhang_of(ready, side.down, steepest)) for side in hull_sides
    ]
    return tuple(sorted(rests, key=lambda rest: (-rest.contact_mm2, rest.overhang_mm2)))


def stable_sides(mesh: Mesh, most: int = _MOST) -> tuple[HullSide, ...]:
    """Return the sides of the hull of a mesh that its weight holds it on, those with much contact first.

    Args:
        mesh: in mm.
        most: how many sides are looked at.
    """
    centre = centre_of_gravity(mesh)
    sides = sorted(_sides(mesh), key=lambda side: (-side.contact, -side.reach))[:most]
    return tuple(side for side in sides if side.inside(centre) > 0)


def best(rests: tuple[RestPose, ...]) -> RestPose | None:
    """Return the way to stand with the least to be supported, of those alike the one that holds best."""
    if not rests:
        return None
    return min(rests, key=lambda rest: (rest.support_mm3 + 0.02 * rest.height_mm**3, -rest.contact_mm2))


def centre_of_gravity(mesh: Mesh) -> Floats:
    """Return (3,): where a solid of one material has its weight; of an open mesh the middle of its bounds.

    Whether it is closed is told by its volume, which of a closed surface is the same wherever it is moved.
    """
    middle, size = mesh.bounds().mean(axis=0), float(mesh.extents().max())
    weighed = mesh.mass_properties
    # Moved by so much, its volume would change by a sixth of this.
    change = abs(float(weighed.facing @ np.sqrt([1.0, 2.0, 3.0]))) * size / 6
    if abs(weighed.volume) < 1e-9 * size**3 or change > 1e-6 * size**3:
        return np.asarray(middle)
    return weighed.centre


@dataclass(frozen=True, eq=False)
class HullSide:
    """A side of the hull: the direction out of it, how far along that it is, and what lies in it.

    Attributes:
        down: (3,) unit.
        offset: along it, in mm.
        corners: (k, 2) the convex polygon that the places in it span, seen along the direction.
        contact: area of the faces of the body in it.
        reach: area of the polygon.
    """

    down: Floats
    offset: float
    corners: Floats
    contact: float
    reach: float

    def inside(self, centre: Floats) -> float:
        """Return how far a point, seen along the direction, is inside its polygon; mm, below 0 outside."""
        point = shapely.Point(*(float(centre @ way) for way in _across(self.down)))
        polygon = shapely.Polygon(self.corners)
        away = float(polygon.exterior.distance(point))
        return away if polygon.contains(point) else -away


def _sides(mesh: Mesh) -> list[HullSide]:
    """Find the sides of the hull of a mesh that are large enough to stand on, each once."""
    whole, size = mesh.area(), float(mesh.extents().max())
    ways = _distinct([*_main_ways(mesh, whole, size), *_hull_ways(mesh)])
    # Each goes over all corners and faces in numpy, which lets another do the same beside it.
    with ThreadPoolExecutor(2) as pool:
        sides = pool.map(lambda normal: _side(mesh, normal, size), ways)
    hull_sides: list[HullSide] = []
    for side in sides:
        if side is None or max(side.contact, side.reach) < _SHARE * whole:
            continue
        if all(side.down @ other.down < _SAME_WAY for other in hull_sides):
            hull_sides.append(side)
    return hull_sides


def _distinct(ways: Sequence[Floats]) -> list[Floats]:
    """Leave out directions that are the same as one before."""
    corners: list[Floats] = []
    for way in ways:
        if all(way @ other < _SAME_WAY for other in corners):
            corners.append(way)
    return corners


def _main_ways(mesh: Mesh, whole: float, size: float) -> list[Floats]:
    """Directions that much of the surface faces; those alone whose faces are outermost.

    So what is flat within the body, or a facet of a bore, is left out before more is asked of it.
    """
    some, shares = _telling(mesh, whole)
    a, b, c = (mesh.vertices[mesh.faces[some, corner]] for corner in range(3))
    crosses = np.cross(b - a, c - a)
    normals = crosses / np.maximum(np.linalg.norm(crosses, axis=1), 1e-300)[:, None]
    cells = np.round(normals * _CELLS).astype(np.int32) + _CELLS
    keys = (cells[:, 0] * (2 * _CELLS + 1) + cells[:, 1]) * (2 * _CELLS + 1) + cells[:, 2]
    order = np.argsort(keys, kind="stable")
    starts = np.flatnonzero(np.r_[True, np.diff(keys[order]) > 0])
    areas = np.add.reduceat(shares[order], starts)
    ends = np.r_[starts[1:], len(order)]
    large = np.flatnonzero(areas >= _SHARE / 4 * whole)
    corners = mesh.vertices[:: max(1, len(mesh.vertices) // _SPREAD)]
    ways = []
    for face in large[np.argsort(-areas[large])][: 4 * _MOST]:
        faces = order[starts[face] : ends[face]]
        normal = normals[faces[shares[faces].argmax()]]
        outermost = float((corners @ normal).max())
        if outermost - float((a[faces] @ normal).max()) <= 2 * _ON_PLANE * size:
            ways.append(normal)
    return ways


def _telling(mesh: Mesh, whole: float) -> tuple[NDArray[np.int64], Floats]:
    """Faces that tell which way the surface faces: the large ones and, of very many small ones, a spread.

    Returns:
        Their numbers, and how much of the surface each stands for.
    """
    areas = mesh.areas
    if mesh.triangles <= _FEW:
        return np.arange(mesh.triangles), areas
    large, small = (np.flatnonzero(mask) for mask in (areas >= _LARGE * whole, areas < _LARGE * whole))
    if len(small) <= _FEW:
        return np.arange(mesh.triangles), areas
    # Drawn by lot, always the same: every so manyth could fall in step with how a file is ordered.
    drawn = small[np.random.default_rng(1).integers(0, len(small), _FEW)]
    share = float(areas[small].sum() / areas[drawn].sum())
    return np.concatenate([large, drawn]), np.concatenate([areas[large], share * areas[drawn]])


def _hull_ways(mesh: Mesh) -> list[Floats]:
    """Normals of the larger facets of the hull, of a mesh that may stand on its corners."""
    if len(mesh.vertices) > _CORNERS:
        return []
    solid = manifold3d.Manifold.hull_points(np.ascontiguousarray(mesh.vertices[np.unique(mesh.faces)]))
    if solid.is_empty():
        return []
    arrays = solid.to_mesh64()
    hull = Mesh(np.asarray(arrays.vert_properties[:, :3]), np.asarray(arrays.tri_verts).astype(np.int32))
    large = np.flatnonzero(hull.areas >= _SHARE / 2 * hull.areas.sum())
    chosen = large[np.argsort(-hull.areas[large])][: 4 * _MOST]
    return list(hull.area_vectors[chosen] / (2 * hull.areas[chosen, None]))


def _side(mesh: Mesh, normal: Floats, size: float) -> HullSide | None:
    """The side of the hull that faces a way, its direction taken from the faces in it."""
    along = mesh.vertices @ normal
    # Twice as far, since the direction is not exact yet.
    wide = along >= along.max() - 2 * _ON_PLANE * size
    on = _among(mesh, wide)
    better = _direction(mesh, on, normal)
    if np.abs(better - normal).max() > 1e-9:
        normal, along = better, mesh.vertices @ better
    offset = float(along.max())
    near = along >= offset - _ON_PLANE * size
    if (count := np.count_nonzero(near)) < 3:
        return None
    if count != np.count_nonzero(wide):
        on = _among(mesh, near)
    places = np.flatnonzero(near)
    across = np.stack([mesh.vertices[places] @ way for way in _across(normal)])
    # As a line through them all: a hull asks for no more, and so many points are slow to make.
    polygon = shapely.convex_hull(shapely.linestrings(across.T))
    if not isinstance(polygon, shapely.Polygon):
        return None
    contact = _facing_out(mesh, on, places, across)
    return HullSide(normal, offset, shapely.get_coordinates(polygon)[:-1], contact, float(polygon.area))


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


def _facing_out(mesh: Mesh, on: NDArray[np.int64], places: NDArray[np.int64], across: Floats) -> float:
    """The area of faces in a plane; those that face in count for nothing.

    Args:
        mesh: the body.
        on: the faces.
        places: the corners in the plane.
        across: (2, k) where these are in it.
    """
    number = np.empty(len(mesh.vertices), np.int32)
    number[places] = np.arange(len(places), dtype=np.int32)
    faces = number[mesh.faces[on]]
    (ax, bx, cx), (ay, by, cy) = ([row[faces[:, corner]] for corner in range(3)] for row in across)
    return float(np.maximum((bx - ax) * (cy - ay) - (cx - ax) * (by - ay), 0.0).sum() / 2)


def _across(down: Floats) -> tuple[Floats, Floats]:
    """Two unit vectors square to a direction and to each other, right-handed about it."""
    aside = np.eye(3)[int(abs(down).argmin())]
    right = np.cross(down, aside)
    right /= np.linalg.norm(right)
    return right, np.cross(down, right)


def _rest(mesh: Mesh, side: HullSide, inside: float, over: Overhang) -> RestPose:
    height = side.offset - float((mesh.vertices @ side.down).min())
    way = as_vec3(np.round(side.down, 15) + 0.0)
    return RestPose(way, side.contact, side.reach, height, over.area_mm2, over.support_mm3, inside)
