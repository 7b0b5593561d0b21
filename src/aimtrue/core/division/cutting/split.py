"""One solid as two: by height, or by outlines through it. Both are closed, and add up to the whole."""

from __future__ import annotations

import manifold3d
import numpy as np
import shapely

from aimtrue.core.division.cutting.halves import off_faces
from aimtrue.core.division.cutting.planes import across
from aimtrue.core.division.cutting.solids import NOTHING, basis_of, extruded, without_dust
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.lengths import written
from aimtrue.core.model.shaping import HeightSplit, OutlineSplit, Slice

Two = tuple[manifold3d.Manifold, manifold3d.Manifold]


def above(solid: manifold3d.Manifold, split: HeightSplit) -> Two:
    """Split a solid by a plane; of a depth, only so far above it.

    Raises:
        Refused: all of it would be on one side.
    """
    if split.depth is not None and not split.depth > 0:
        raise Refused("depth", f"a depth of {written(split.depth)} mm is none", remedy="type a length")
    plane, mesh = across(split.axis, split.at), mesh_of(solid)
    plane = off_faces(mesh.vertices, mesh.faces, plane) or plane
    upper, lower = solid.split_by_plane(plane.normal, plane.at)
    if split.depth is not None:
        over, upper = upper.split_by_plane(plane.normal, plane.at + split.depth)
        lower = lower + over
    return refuse_one_sided(solid, upper, lower, f"above {written(split.at)} on {split.axis.upper()}")


def inside(solid: manifold3d.Manifold, split: OutlineSplit) -> Two:
    """Split a solid by outlines along an axis.

    Raises:
        Refused: all of it, or nothing, would be inside, or an outline crosses itself.
    """
    rings = checked_rings([np.asarray(ring) for ring in split.rings])
    axis = "xyz".index(split.axis)
    low, high = np.array(solid.bounding_box()).reshape(2, 3)[:, axis].tolist()
    margin = 0.01 * (high - low) + 1.0
    start = low - margin
    if split.depth is not None:
        if not split.depth > 0:
            raise Refused("depth", f"a depth of {written(split.depth)} mm is none", remedy="type a length")
        start = max(start, high - split.depth)
    post = extruded(rings, basis_of(np.eye(3)[axis]), start, high + margin)
    kept, rest = solid.split(post)
    return refuse_one_sided(solid, kept, rest, "within the outline")


def between(solid: manifold3d.Manifold, cut: Slice) -> manifold3d.Manifold:
    """Return what lies between two planes.

    Raises:
        Refused: the planes are the wrong way round, or there is nothing between them.
    """
    if not cut.low < cut.high:
        raise Refused(
            "planes-swapped",
            f"{written(cut.low)} is not below {written(cut.high)}",
            remedy="write for example z=10..30",
        )
    plane = across(cut.axis, cut.low)
    upper = solid.trim_by_plane(plane.normal, cut.low)
    _, slice_ = upper.split_by_plane(plane.normal, cut.high)
    if slice_.volume() <= NOTHING * solid.volume():
        low, high = np.array(solid.bounding_box()).reshape(2, 3)[:, "xyz".index(cut.axis)].tolist()
        raise Refused(
            "plane-misses",
            f"there is nothing between {written(cut.low)} and {written(cut.high)}; "
            f"the body reaches from {written(low)} to {written(high)} mm there",
            remedy="move the planes",
        )
    return without_dust(slice_, NOTHING * solid.volume())


def refuse_one_sided(
    solid: manifold3d.Manifold, one: manifold3d.Manifold, rest: manifold3d.Manifold, where: str
) -> Two:
    """Return two parts of a solid; refuse that all of it is one of them.

    Args:
        solid: the whole.
        one, rest: its parts.
        where: in words, what the first of them is.
    """
    least = NOTHING * solid.volume()
    if one.volume() <= least:
        raise Refused("split-nothing", f"nothing of the body is {where}", remedy="move it")
    if rest.volume() <= least:
        raise Refused("split-all", f"all of the body is {where}", remedy="move it")
    return without_dust(one, least), without_dust(rest, least)


def checked_rings(rings: list[Floats]) -> list[Floats]:
    """Return closed rings, outer ones counter-clockwise and holes clockwise, whichever way they came.

    Raises:
        Refused: there is none, or one crosses itself or another.
    """
    polygons = [shapely.Polygon(ring) for ring in rings if len(ring) >= 3]
    polygons = [polygon for polygon in polygons if polygon.area > 0 or not polygon.is_valid]
    if not polygons:
        raise Refused(
            "outline-empty", "there is no closed outline with an area", remedy="choose another file"
        )
    for polygon in polygons:
        if not polygon.is_valid:
            raise Refused(
                "outline-crosses",
                f"an outline crosses itself: {shapely.is_valid_reason(polygon)}",
                remedy="draw it without a crossing",
            )
    exteriors = [polygon.exterior for polygon in polygons]
    if shapely.STRtree(exteriors).query(exteriors, predicate="crosses").size:
        raise Refused("outline-crosses", "two outlines cross each other", remedy="draw them apart")
    # Inside an odd number of others is a hole; each is within itself, too.
    within, _ = shapely.STRtree(polygons).query(polygons, predicate="within")
    depths = (np.bincount(within, minlength=len(polygons)) - 1).tolist()
    pieces = []
    for polygon, depth in zip(polygons, depths, strict=True):
        ring = np.asarray(polygon.exterior.coords)[:-1]
        outward = polygon.exterior.is_ccw
        pieces.append(ring if outward is (depth % 2 == 0) else ring[::-1])
    return pieces
