"""Outlines seen from above: what something covers of the plate, with its openings."""

from __future__ import annotations

from typing import Any, TypeAlias

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from aimtrue.core.mesh.arrays import ring_area
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.solids import solid_of

_FINE = 2e-5
"""Corners that deviate from a straight line by a smaller share of the size are left out."""
_MANY = 20_000
"""Triangles of an open mesh that are laid over each other at once."""

Outline: TypeAlias = Any
"""A ``shapely.MultiPolygon`` in mm: outer rings and holes."""


def outline_of(mesh: Mesh) -> Outline:
    """Return what a mesh covers, seen along Z, in the units of its X and Y.

    A closed solid is projected as such; of an open one all triangles are laid over each other.
    """
    solid = solid_of(mesh)
    cover = solid.project() if solid is not None else _laid_over(mesh)
    size = float(np.ptp(mesh.bounds(), axis=0).max()) or 1.0
    return outline_from(cover.simplify(_FINE * size).to_polygons())


def outline_from(rings: list[Floats]) -> Outline:
    """Return rings, outer ones counter-clockwise and holes clockwise, as one outline."""
    whole = shapely.Polygon()
    outer = [shapely.Polygon(ring) for ring in rings if len(ring) > 2 and ring_area(ring) > 0]
    inner = [shapely.Polygon(ring) for ring in rings if len(ring) > 2 and ring_area(ring) < 0]
    whole = shapely.union_all([shapely.make_valid(polygon) for polygon in outer])
    if inner:
        whole = shapely.difference(
            whole, shapely.union_all([shapely.make_valid(polygon) for polygon in inner])
        )
        # An island in a hole was taken out with it.
        nested = [polygon for polygon in outer if any(hole.contains_properly(polygon) for hole in inner)]
        if nested:
            whole = shapely.union(whole, shapely.union_all(nested))
    return as_outline(whole)


def as_outline(shape: shapely.Geometry) -> Outline:
    """Return the areas of any shape as one outline."""
    parts = [part for part in shapely.get_parts(shape) if isinstance(part, shapely.Polygon)]
    more = [
        inner
        for part in shapely.get_parts(shape)
        if isinstance(part, shapely.MultiPolygon | shapely.GeometryCollection)
        for inner in as_outline(part).geoms
    ]
    return shapely.MultiPolygon([part for part in (*parts, *more) if not part.is_empty])


def _laid_over(mesh: Mesh) -> manifold3d.CrossSection:
    flat = mesh.vertices[:, :2][mesh.faces]
    u, v = flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]
    turned = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    flat[turned < 0] = flat[turned < 0][:, ::-1]
    flat = flat[turned != 0]
    whole = manifold3d.CrossSection()
    for start in range(0, len(flat), _MANY):
        some = [np.ascontiguousarray(part) for part in flat[start : start + _MANY]]
        whole += manifold3d.CrossSection(some, manifold3d.FillRule.NonZero)
    return whole


def rings_of(outline: Outline) -> list[NDArray[np.float64]]:
    """Return the rings of an outline, each closed by its first point again."""
    return [
        shapely.get_coordinates(ring) for part in outline.geoms for ring in (part.exterior, *part.interiors)
    ]
