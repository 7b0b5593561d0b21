"""This module writes a part as a STEP file: the original that a job takes in, the same bytes for the same
part.
"""

from __future__ import annotations

from typing import Any

from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.gp import gp_Ax3, gp_Dir, gp_Pnt, gp_Trsf

from aimtrue.core.formats.cad.writing import NamedShape, write_shapes
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.value import Vec3
from aimtrue.core.stock.parts.values import StockPart
from aimtrue.core.stock.solids.build import solid_of

UP: Vec3 = (0.0, 0.0, 1.0)


def step_of(part: StockPart, point: Vec3 = (0.0, 0.0, 0.0), way: Vec3 = UP) -> bytes:
    """Return a part as a STEP file in mm (ISO 10303-21), a solid for each of its bodies.

    Args:
        part: what is made.
        point: where its origin is.
        way: where its Z points; of length 1.

    Raises:
        AimTrueError: the kernel makes no valid solid of it.
    """
    shapes = [NamedShape(_placed(solid_of(body.shape), point, way), body.name) for body in part.bodies]
    return write_shapes(shapes, Unit.MM, part.name)


def _placed(solid: Any, point: Vec3, way: Vec3) -> Any:
    if point == (0.0, 0.0, 0.0) and way == UP:
        return solid
    change = gp_Trsf()
    change.SetTransformation(gp_Ax3(gp_Pnt(*point), gp_Dir(*way)), gp_Ax3())
    return BRepBuilderAPI_Transform(solid, change, True).Shape()
