"""Places on a body, from picks to exact points."""

from __future__ import annotations

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.frames import as_vec3
from aimtrue.core.job import Anchor, Vec3
from aimtrue.core.mesh import Floats, Mesh


def exact(anchor: Anchor, mesh: Mesh) -> Anchor:
    """Return the anchor with weights that are sound: none negative, adding up to 1.

    A vertex gets weight exactly 1, an edge exactly 0 at the far corner, so that a snapped
    place carries no rounding of the picking device.

    Raises:
        Refused: the face does not exist, or the weights are not on it.
    """
    weights = np.asarray(anchor.weights, dtype=np.float64)
    if anchor.face >= mesh.triangles:
        raise Refused(
            "place-unknown", f"face {anchor.face} is not on this body", remedy="pick the place again"
        )
    if not np.isfinite(weights).all() or weights.min() < -1e-3 or abs(weights.sum() - 1) > 1e-3:
        raise Refused("place-off-face", "the picked place is not on the body", remedy="pick the place again")
    weights = np.clip(weights, 0, 1)
    if anchor.on == "vertex":
        weights = np.eye(3)[weights.argmax()]
    elif anchor.on == "edge":
        weights[weights.argmin()] = 0
    return anchor.model_copy(update={"weights": as_vec3(weights / weights.sum())})


def point_of(
    anchor: Anchor, vertices: Floats, faces: np.ndarray[tuple[int, ...], np.dtype[np.int32]]
) -> Vec3:
    """Return where an anchor is among (n, 3) vertices, in their frame."""
    weights = np.asarray(anchor.weights)
    corners = vertices[faces[anchor.face]]
    if weights.max() == 1:  # a vertex, to the last bit
        return as_vec3(corners[int(weights.argmax())])
    return as_vec3(weights @ corners)
