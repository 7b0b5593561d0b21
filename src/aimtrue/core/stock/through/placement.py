"""This module says where a part stands that is made at a bore."""

from __future__ import annotations

from aimtrue.core.errors import Refused
from aimtrue.core.fit.faces import faces_of
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.job import Job
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.stock.parts.values import StockPart
from aimtrue.core.stock.through.bore_stack import stack_of
from aimtrue.core.stock.through.tried_bolt import tried_bolt, washer_mm
from aimtrue.core.stock.through.values import BoltPlacement, StockSpot


def placement_at(job: Job, part: StockPart, spot: StockSpot, store: GeometryStore) -> BoltPlacement:
    """Return where a part stands at a bore: a bolt with its head on the face, a nut on the other side.

    A washer lies under the head; whatever else is round stands in the middle of the bore.

    Raises:
        Refused: the face is no bore of a body that is there.
    """
    face = next(
        (
            face
            for face in faces_of("released", job, job.body(spot.body), store)
            if face.feature == spot.feature and face.kind != "flat"
        ),
        None,
    )
    if face is None:
        raise Refused("through-bore", "this face is not round", remedy="pick the wall of a bore or a boss")
    if part.kind in ("bolt", "nut", "washer"):
        return _at_stack(job, part, spot, store)
    high = max(row.mm for row in part.dimensions if row.letter in ("l", "B", "L", "h", "b", "Z", "m"))
    low = face.point - high / 2 * face.way
    return BoltPlacement(point=as_vec3(low), way=as_vec3(face.way))


def _at_stack(job: Job, part: StockPart, spot: StockSpot, store: GeometryStore) -> BoltPlacement:
    """A bolt, a nut or a washer on the faces that a stack of bores opens to."""
    if part.kind == "bolt":
        text = part.name
    else:
        thread = part.name.split()[1]
        text = f"{thread} x 20" if thread.startswith("M") else f"{thread} x 1"
    bolt = tried_bolt(text, washers=spot.washers)
    stack = stack_of(job, bolt, job.body(spot.body), spot.feature, store, flipped=spot.flipped)
    height = stack.top + washer_mm(bolt)
    if part.kind == "washer":
        height = stack.top
    if part.kind == "nut":
        assert part.thread is not None
        height = stack.foot - washer_mm(bolt) - part.thread.high
    return BoltPlacement(point=as_vec3(stack.point + height * stack.way), way=as_vec3(stack.way))
