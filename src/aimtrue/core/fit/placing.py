"""This module brings a body to another to try how they go together, without changing how either stands."""

from __future__ import annotations

import numpy as np

from aimtrue.core.fit.faces import FitFace
from aimtrue.core.mesh.mesh import Floats, Mesh


def onto_axis(mesh: Mesh, come: FitFace, to: FitFace) -> Mesh:
    """Return a body with the axis of one of its round faces on that of another's, middle to middle.

    It is turned as little as brings the axes together; an axis has no direction.

    Args:
        mesh: the body that comes, in mm.
        come: its face.
        to: the face of the body that stays.
    """
    turn = _turn(come.way, to.way if float(come.way @ to.way) >= 0 else -to.way)
    return Mesh((mesh.vertices - come.point) @ turn.T + to.point, mesh.faces)


def _turn(way: Floats, goal: Floats) -> Floats:
    """Return (3, 3): the least rotation of a unit vector onto another, not opposite one (Rodrigues)."""
    axis, cosine = np.cross(way, goal), float(way @ goal)
    cross = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    return np.asarray(np.eye(3) + cross + cross @ cross / (1 + cosine))
