"""This module says what touches the plate: the outline of the first layer, and the faces that lie on it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.outlines import Outline, outline_from
from aimtrue.core.mesh.sections import rings_at

_ON_PLATE = 2e-5
"""A corner is on the plate when it is nearer than this share of the size."""


@dataclass(frozen=True, eq=False)
class Footprint:
    """The first layer of something.

    Attributes:
        outline: in mm, as seen from above, at half the height of the layer.
        area_mm2: of the outline.
        islands: pieces of it that do not hang together.
        contact_mm2: of the faces that lie on the plate; nothing where it touches in points or along edges.
    """

    outline: Outline
    area_mm2: float
    islands: int
    contact_mm2: float


def footprint_of(mesh: Mesh, layer: float) -> Footprint:
    """Return the first layer of a mesh in mm with Z up, from its lowest point.

    Args:
        mesh: as it stands.
        layer: height of the first layer, in mm.
    """
    low, high = mesh.bounds()[:, 2]
    outline = outline_from(rings_at(mesh, float(low + min(layer, high - low) / 2)))
    return Footprint(outline, float(outline.area), len(outline.geoms), contact_of(mesh, float(low)))


def contact_of(mesh: Mesh, height: float) -> float:
    """Return the area, in mm2, of the faces that lie in a level plane and face down."""
    near = abs(mesh.vertices[:, 2] - height) <= _ON_PLATE * float(mesh.extents().max())
    on = near[mesh.faces].all(axis=1)
    return float(np.maximum(-mesh.area_vectors[on, 2], 0.0).sum() / 2)
