"""This module says what hangs over: surface that faces down too flatly to be made without support, and what
would hold it.

A face overhangs when it leans over by more than the angle of the machine from upright: when the downward part
of its unit normal is over the sine of that angle. What lies on the plate does not. Supports are estimated as
the columns under overhanging faces, down to the plate or to the surface below.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from embreex import rtcore_scene
from embreex.mesh_construction import TriangleMesh
from numpy.typing import NDArray

from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.reduced import reduced

USUAL_DEGREES = 45.0
_ON_PLATE_MM = 0.005
_RAYS = 6_000
_LIFT = 1e-4
"""Rays in single precision start this share of the size below the face that they are for."""
_MANY, _CELLS = 100_000, 60
"""Meshes of this many triangles and more are reduced before they are asked what is below; cells along the
longest side.
"""
_LIFT_REDUCED = 1.7e-2
"""That is away from the true surface by up to this."""


HANGS_MM2 = 0.5
"""Less than this hanging over is a facet of a curve, not something that needs a look."""
SUPPORT_MM3 = 50.0
"""Less support than this is a drop of material: an estimate of it would say more than it knows."""


@dataclass(frozen=True)
class Overhang:
    """Surface that hangs over, in mm2, and what would hold it, in mm3: an estimate."""

    area_mm2: float
    support_mm3: float

    @property
    def hangs(self) -> bool:
        """Whether so much of it hangs over that it is worth telling."""
        return self.area_mm2 >= HANGS_MM2

    @property
    def wants_support(self) -> bool:
        """Whether so much would have to be held that it is worth telling."""
        return self.support_mm3 > SUPPORT_MM3


class SupportColumns:
    """What is below places of a mesh; made once for all the ways that it is turned.

    Args:
        mesh: in mm.
    """

    def __init__(self, mesh: Mesh) -> None:
        # What is below is an estimate: of a large mesh a reduced form tells it as well.
        self._lift = _LIFT if mesh.triangles < _MANY else _LIFT_REDUCED
        mesh = mesh if mesh.triangles < _MANY else reduced(mesh, _CELLS)
        low, high = mesh.bounds()
        self._middle, self._size = (low + high) / 2, float((high - low).max()) or 1.0
        self._mesh, self._scene = mesh, None

    def below(self, points: Floats, down: Floats) -> Floats:
        """Return (k,): how far the surface is from (k, 3) points along a direction, inf where none is."""
        way = np.broadcast_to(down.astype(np.float32), points.shape)
        origins = ((points - self._middle) / self._size + self._lift * down).astype(np.float32)
        hit = self._tree().run(np.ascontiguousarray(origins), np.ascontiguousarray(way), query="DISTANCE")
        far = np.asarray(hit, np.float64)
        return np.where(far < 1e30, far * self._size, np.inf)

    def _tree(self) -> Any:  # noqa: ANN401 - of any type, or of none that is known
        if self._scene is None:
            self._scene = rtcore_scene.EmbreeScene()
            points = ((self._mesh.vertices - self._middle) / self._size).astype(np.float32)
            TriangleMesh(self._scene, points, self._mesh.faces.astype(np.int32))
        return self._scene


@dataclass(frozen=True, eq=False)
class OverhangFaces:
    """The faces of a mesh, ready to be asked for overhangs in many directions.

    Attributes:
        mesh: in mm.
        normals: (m, 3) unit, float32.
    """

    mesh: Mesh
    normals: NDArray[np.float32]

    @cached_property
    def columns(self) -> SupportColumns:
        """What is below places of it."""
        return SupportColumns(self.mesh)


def facing(mesh: Mesh) -> OverhangFaces:
    """Make a mesh ready."""
    crosses = mesh.area_vectors
    length = np.maximum(2 * mesh.areas, 1e-300)
    return OverhangFaces(mesh, (crosses / length[:, None]).astype(np.float32))


def overhanging(faces: OverhangFaces, down: Floats, steepest: float = USUAL_DEGREES) -> NDArray[np.int64]:
    """Return the numbers of the faces that hang over when ``down`` (unit) is down, those on the plate left
    out.
    """
    lean = faces.normals @ down.astype(np.float32)
    some = np.flatnonzero(lean > np.sin(np.radians(steepest)) + 1e-6)
    bottom = float((faces.mesh.vertices @ down).max())
    depth = (faces.mesh.vertices[faces.mesh.faces[some]] @ down).min(axis=1)
    return np.asarray(some[depth < bottom - _ON_PLATE_MM], np.int64)


def overhang_of(faces: OverhangFaces, down: Floats, steepest: float = USUAL_DEGREES) -> Overhang:
    """Return what hangs over of a mesh when ``down`` (unit) is down.

    Of very many overhanging faces a spread of them is looked under, and the rest taken to be alike.
    """
    some = overhanging(faces, down, steepest)
    if not len(some):
        return Overhang(0.0, 0.0)
    areas = faces.mesh.areas[some]
    chosen = some if len(some) <= _RAYS else some[np.linspace(0, len(some) - 1, _RAYS).astype(np.int64)]
    middles = faces.mesh.vertices[faces.mesh.faces[chosen]].mean(axis=1)
    bottom = float((faces.mesh.vertices @ down).max())
    to_plate = bottom - middles @ down
    high = np.minimum(faces.columns.below(middles, down), to_plate)
    flat = faces.mesh.areas[chosen] * np.maximum(faces.normals[chosen] @ down, 0.0)
    share = float(areas.sum() / max(faces.mesh.areas[chosen].sum(), 1e-300))
    return Overhang(float(areas.sum()), float((flat * high).sum()) * share)
