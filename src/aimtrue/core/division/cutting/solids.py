"""Closed bodies in mm as solids that can be cut and joined."""

from __future__ import annotations

import manifold3d
import numpy as np
from numpy.typing import NDArray

from aimtrue.core.errors import Refused
from aimtrue.core.intake.bodies.separate import separate
from aimtrue.core.mesh.mesh import Floats, Mesh, merged
from aimtrue.core.mesh.point_location import winding_numbers
from aimtrue.core.mesh.solids import mesh_of, solid_of

NOTHING = 1e-9
"""Of a whole: a volume under this share of it is rounding."""


def closed_solid(mesh: Mesh, name: str) -> manifold3d.Manifold:
    """Return a closed body as a solid.

    Raises:
        Refused: it is open, or faces inward.
    """
    solid = solid_of(mesh)
    if solid is None or solid.volume() <= 0:
        inward = solid is not None
        raise Refused(
            "not-closed",
            f"{name} {'faces inward' if inward else 'is not a closed solid'}, so it bounds nothing to cut",
            remedy="turn its faces outward, on sheet 1" if inward else "close its holes, on sheet 1",
        )
    return solid


def without_dust(solid: manifold3d.Manifold, least: float) -> manifold3d.Manifold:
    """Return a solid without what bounds next to nothing.

    Where a cut lies in a face, shells without a thickness may be left of what was on its other side.

    Args:
        solid: that was cut.
        least: in mm³; what is smaller goes.
    """
    parts = [separated_body.mesh for separated_body in separate(mesh_of(solid))]
    large = [part for part in parts if part.volume() > least]
    if len(large) == len(parts) or not large:
        return solid
    kept = solid_of(merged(large))
    return solid if kept is None else kept


def basis_of(normal: Floats) -> Floats:
    """Return (3, 3): rows that turn a unit vector to Z, right-handed.

    Of an axis they are the other two in turn: Y and Z across X, Z and X across Y, X and Y across Z.
    """
    axis = int(np.abs(normal).argmax())
    if abs(normal[axis]) == 1.0:
        first = np.zeros(3)
        first[(axis + 1) % 3] = 1.0
    else:
        aside = np.zeros(3)
        aside[int(np.abs(normal).argmin())] = 1.0
        first = np.cross(aside, normal)
        first /= np.linalg.norm(first)
    return np.stack([first, np.cross(normal, first), normal])


def turned(solid: manifold3d.Manifold, rows: Floats) -> manifold3d.Manifold:
    """Return a solid turned by a (3, 3) matrix."""
    return solid.transform(np.concatenate([rows, np.zeros((3, 1))], axis=1))


def extruded(rings: list[Floats], rows: Floats, low: float, high: float) -> manifold3d.Manifold:
    """Return what rings in a plane sweep square to it, between two heights.

    Args:
        rings: (k, 2) each, in the first two of ``rows``; outer ones counter-clockwise, holes clockwise.
        rows: (3, 3) as :func:`basis_of` gives them.
        low, high: along the third of them.
    """
    section = manifold3d.CrossSection(rings, manifold3d.FillRule.Positive)
    return turned(section.extrude(high - low).translate((0.0, 0.0, low)), rows.T)


def distances(points: Floats, mesh: Mesh) -> Floats:
    """Return (n,): how far (n, 3) points are from a surface, exactly."""
    import igl

    squared = igl.point_mesh_squared_distance(
        np.ascontiguousarray(points), mesh.vertices, mesh.faces.astype(np.int64)
    )[0]
    return np.asarray(np.sqrt(np.maximum(squared, 0)))


def is_inside(mesh: Mesh, points: Floats) -> NDArray[np.bool_]:
    """Tell which of a few (n, 3) points lie within a closed surface."""
    return np.asarray(np.abs(winding_numbers(mesh, np.arange(mesh.triangles), points)) > 0.5)
