"""Places of readings on what was made of several wholes, by what each triangle of it comes from."""

from __future__ import annotations

import numpy as np

from aimtrue.core.gauges.anchors import nearest, point_of
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import TracedSolids
from aimtrue.core.model.job import Job
from aimtrue.core.model.readings import Anchor, Reading

_HERE = 1e-6
"""A place farther from its own face than this share of the result's size was covered by another whole."""


def carried_over(
    job: Job, reading: Reading, wholes: tuple[str, ...], solids: TracedSolids
) -> tuple[Anchor, ...] | None:
    """Return where the two places of a reading are on what was made of some bodies.

    They stay on the faces that they were picked on, however these are cut now, and are not looked for by
    nearness alone.

    Args:
        job: with the bodies as they were.
        reading: between two points; any other is found again by its features.
        wholes: the bodies, in the order that ``made`` numbers them.
        solids: with what each triangle comes from.

    Returns:
        None when it is not a reading for this, or when a face that it was picked on is gone.
    """
    keys = [reading.body, reading.gauge.other or reading.body]
    if reading.gauge.kind != "points" or reading.lost or not set(keys) <= set(wholes):
        return None
    places = []
    for key, anchor, point in zip(keys, reading.gauge.anchors, reading.gauge.points, strict=True):
        if anchor.on in ("centre", "free"):
            return None
        faces = solids.come_from(wholes.index(key), anchor.face)
        if not len(faces):
            return None
        part = Mesh(solids.mesh.vertices, solids.mesh.faces[faces])
        anchored = nearest(anchor.model_copy(update={"on": "surface"}), point, part)
        if np.linalg.norm(np.subtract(point_of(anchored, part.vertices, part.faces), point)) > _HERE * float(
            solids.mesh.extents().max()
        ):
            return None
        places.append(anchored.model_copy(update={"face": int(faces[anchored.face])}))
    return tuple(places)
