"""This module answers "Does it go through?": a bolt in a bore, with its head, its nut and its length.

The bolt stands on the axis of the bore, its head on the face that the bore opens to. What is beside it is
measured on the meshes, see :mod:`aimtrue.core.stock.through.free_room`.
"""

from __future__ import annotations

from collections.abc import Sequence

from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.job import Job
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.stock.through.bore_stack import NEAR_MM, stack_of
from aimtrue.core.stock.through.bores import on_bolt
from aimtrue.core.stock.through.lengths import engaged_mm, of_end, of_length, right_length
from aimtrue.core.stock.through.needed_rooms import head_rooms, nut_rooms
from aimtrue.core.stock.through.tried_bolt import TriedBolt, tried_bolt, typed_as, washer_mm
from aimtrue.core.stock.through.values import BoltPlacement, BoreOnBolt, Ending, StockSpot, ThroughAnswer


def through(job: Job, text: str, spot: StockSpot, store: GeometryStore) -> ThroughAnswer:
    """Say whether a bolt goes through a bore, and through all that are on its axis.

    Args:
        job: the bodies.
        text: the bolt, as typed: ``M5x20 socket``.
        spot: the bore.
        store: gives meshes and faces.

    Raises:
        Refused: it is no bolt, the face is no bore, or the bore is larger than the head.
    """
    bolt = tried_bolt(text, washers=spot.washers)
    stack = stack_of(job, bolt, job.body(spot.body), spot.feature, store, flipped=spot.flipped)
    bores = tuple(on_bolt(job, bolt, stack, *bore) for bore in stack.bores)
    ending = _ending_of(bolt, bores, blind=stack.blind)
    rooms = [*head_rooms(bolt, stack), *(nut_rooms(bolt, stack) if ending == "nut" else ())]
    grip = stack.top - stack.foot if ending == "nut" else max(
        (bore.high_mm for bore in bores if bore.role == "passes"), default=0.0
    )  # fmt: skip
    engaged = engaged_mm(bolt, bores, ending, grip)
    right = right_length(bolt, bores, ending, grip)
    too_long = bolt.length - washer_mm(bolt) - (stack.top - stack.foot) if stack.blind else 0.0
    says = (
        *_of_bores(bolt, bores),
        *of_end(bolt, too_long),
        *(room.says for room in rooms if not room.holds),
    )
    says += tuple(of_length(bolt, ending, engaged, right))
    goes = all(bore.role != "narrow" and bore.clearance_mm >= 0 for bore in bores)
    return ThroughAnswer(
        bolt=bolt.part.name,
        table=bolt.part.table,
        goes=goes and too_long <= NEAR_MM and all(room.holds for room in rooms) and engaged > 0,
        ending=ending,
        bores=bores,
        rooms=tuple(rooms),
        grip_mm=grip,
        engaged_mm=engaged,
        engaged_d=engaged / bolt.size.diameter,
        length_mm=bolt.length,
        right_mm=right,
        right="" if right is None else typed_as(bolt, right),
        says=says,
        placement=BoltPlacement(
            point=as_vec3(stack.point + (stack.top + washer_mm(bolt)) * stack.way), way=as_vec3(stack.way)
        ),
    )


def _ending_of(bolt: TriedBolt, bores: Sequence[BoreOnBolt], *, blind: bool) -> Ending:
    if any(bore.role == "tapped" for bore in bores):
        return "tapped"
    return "nut" if bolt.nut is not None and not blind else "open"


def _of_bores(bolt: TriedBolt, bores: Sequence[BoreOnBolt]) -> list[str]:
    """Say where the bolt is too thick, or is out of line."""
    says = []
    for bore in bores:
        if bore.role == "narrow":
            says.append(
                f"{bolt.size.name} with ø {bolt.size.diameter:.4g} mm does not pass the bore of {bore.body}, "
                f"ø {bore.diameter_mm:.4g} mm"
            )
        elif bore.clearance_mm < 0:
            says.append(
                f"the bore of {bore.body} is so far out of line that the bolt is "
                f"{-bore.clearance_mm:.2f} mm in its wall"
            )
    return says
