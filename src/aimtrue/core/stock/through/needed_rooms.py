"""This module holds the room that head, nut, washer and spanner take against what is free around a bolt."""

from __future__ import annotations

import math

from aimtrue.core.stock.through.bore_stack import NEAR_MM, BoreStack, beside_cone
from aimtrue.core.stock.through.free_room import nearest_between, support_radius
from aimtrue.core.stock.through.tried_bolt import TriedBolt, washer_mm
from aimtrue.core.stock.through.values import NeededRoom

_WRENCH = 0.75
"""Radius that a ring spanner or a socket takes around a hexagon, in widths across flats; a starting value."""


def _room(what: str, needed: float, free: float, says: str) -> NeededRoom:
    """Room of which so much is free; a hair less still is enough, as facets cut corners."""
    holds = free >= needed - 0.01
    told = "nothing is near" if math.isinf(free) else f"{free:.2f} mm are free"
    return NeededRoom(
        what=what,
        needed_mm=needed,
        free_mm=None if math.isinf(free) else free,
        holds=holds,
        says=f"{says} takes {needed:.2f} mm around the axis; {told}",
    )


def head_rooms(bolt: TriedBolt, stack: BoreStack) -> list[NeededRoom]:
    """What the head needs above the face that it bears on."""
    under, head = stack.top + washer_mm(bolt), bolt.head
    name = f"the {head.kind} head"
    if head.kind == "countersunk":
        return [_cone_room(bolt, stack)]
    over = nearest_between(stack.meshes, under + NEAR_MM, under + head.height)
    rooms = [_room("head", bolt.across / 2, over, name)]
    bearing = bolt.washer.outer if bolt.washer else 0.95 * head.across
    rooms.append(
        _support(stack, stack.top - NEAR_MM, bearing / 2, "washer" if bolt.washer else "bearing", name)
    )
    if bolt.washer:
        beside = nearest_between(stack.meshes, stack.top + NEAR_MM, under)
        rooms.append(_room("washer", bolt.washer.outer / 2, beside, "its washer"))
    if head.kind == "hex":
        rooms.append(_room("spanner", _WRENCH * head.across * 2 / 2, over, "a spanner on its head"))
    else:
        above = nearest_between(stack.meshes, under + head.height, under + head.height + 4 * head.key)
        rooms.append(_room("key", head.key / 2 / math.cos(math.pi / 6), above, "its key"))
    return rooms


def _cone_room(bolt: TriedBolt, stack: BoreStack) -> NeededRoom:
    """Whether a countersunk head lies in its cone."""
    needed = bolt.head.across / 2
    free = needed + beside_cone(bolt, stack)
    return _room("head", needed, free, f"the countersunk head, {bolt.head.angle_deg:g}°,")


def _support(stack: BoreStack, height: float, needed: float, what: str, name: str) -> NeededRoom:
    """Whether the face goes on as far as something bears on it."""
    face, _, _ = stack.bores[0] if height > (stack.top + stack.foot) / 2 else stack.bores[-1]
    reach = support_radius([stack.by_body[face.body]], height, face.most / 2 + 0.4 * face.most)
    holds = face.most / 2 < needed and reach >= needed - 0.05
    says = (
        f"{name} bears up to {needed:.2f} mm around the axis; the face there goes from "
        f"{face.most / 2:.2f} to {reach:.2f} mm"
    )
    return NeededRoom(what=what, needed_mm=needed, free_mm=reach, holds=holds, says=says)


def nut_rooms(bolt: TriedBolt, stack: BoreStack) -> list[NeededRoom]:
    """What the nut needs below the face on the other side."""
    assert bolt.nut is not None
    nut, over = bolt.nut, stack.foot - washer_mm(bolt)
    corner = nut.across / 2 / math.cos(math.pi / 6)
    free = nearest_between(stack.meshes, over - nut.height, over - NEAR_MM)
    bearing = bolt.washer.outer if bolt.washer else 0.95 * nut.across
    return [
        _room("nut", corner, free, "the nut"),
        _support(stack, stack.foot + NEAR_MM, bearing / 2, "nut bearing", "the nut"),
        # A nut that lies in a pocket is held by it, and needs no spanner.
        _room("nut spanner", _WRENCH * nut.across * 2 / 2, free, "a spanner on the nut")
        if free > 1.25 * corner
        else _room("nut pocket", corner, free, "the nut in its pocket"),
    ]
