"""This module holds what is asked and answered of a bolt in a bore, as values; all in mm of the bodies as
released.
"""

from __future__ import annotations

from typing import Literal

from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.value import Value, Vec3

Ending = Literal["nut", "tapped", "open"]


BoreRole = Literal["passes", "tapped", "narrow"]


class BoreOnBolt(Value):
    """One bore that a bolt goes through or into.

    Attributes:
        body, id, feature: whose it is.
        diameter_mm: the least that it has.
        role: whether the bolt passes it, is screwed into it, or is too thick for it.
        clearance_mm: around the bolt, per side, where it is least; of one that is tapped none.
        series: the clearance hole of ISO 273 or ASME B18.2.8 that it is: close, medium or loose; empty if
        none.
        low_mm, high_mm: its ends below the bearing face of the head, along the bolt.
    """

    body: str
    id: BodyId
    feature: int
    diameter_mm: float
    role: BoreRole
    clearance_mm: float
    series: str
    low_mm: float
    high_mm: float


class NeededRoom(Value):
    """Room that something needs around the bolt.

    Attributes:
        what: ``head``, ``bearing``, ``washer``, ``spanner`` or ``key``; ``nut``, ``nut bearing``, and
            ``nut spanner`` or ``nut pocket``.
        needed_mm: radius that it takes.
        free_mm: radius that is free, or that the face goes on for; None where nothing limits it.
        holds: whether that is enough.
        says: in words.
    """

    what: str
    needed_mm: float
    free_mm: float | None
    holds: bool
    says: str


class StockSpot(Value):
    """A bore that a part is made at: its body and the number of its feature.

    Attributes:
        body, feature: the wall of the bore, or of a boss.
        flipped: whether a bolt's head is at the other end than where there is most room.
        washers: whether washers go under head and nut.
    """

    body: BodyId
    feature: int
    flipped: bool = False
    washers: bool = False


class BoltPlacement(Value):
    """Where the bolt stands: the origin of its file is at ``point``, its Z along ``way``, both in mm."""

    point: Vec3
    way: Vec3


class ThroughAnswer(Value):
    """Whether a bolt goes through.

    Attributes:
        bolt, table: which, and by what standard.
        goes: whether it passes every bore, and all that it needs has room.
        ending: whether it ends in a nut, in a thread, or in the open.
        bores: from the head on.
        rooms: what its head, washers, nut and spanners need.
        grip_mm: of what it holds together, washers left out.
        engaged_mm, engaged_d: thread that holds, also in diameters of the bolt.
        length_mm: of the bolt.
        right_mm: the standard length that is right; None where none is.
        right: as it is typed: ``M5x25``.
        says: whole sentences, the worst first.
        placement: of the bolt.
    """

    bolt: str
    table: str
    goes: bool
    ending: Ending
    bores: tuple[BoreOnBolt, ...]
    rooms: tuple[NeededRoom, ...]
    grip_mm: float
    engaged_mm: float
    engaged_d: float
    length_mm: float
    right_mm: float | None
    right: str
    says: tuple[str, ...]
    placement: BoltPlacement


class BoreInJob(Value):
    """A bore that a bolt can be tried in.

    Attributes:
        body, id, feature: whose it is.
        diameter_mm, depth_mm: of it.
        at: the middle of its axis, in mm of the job.
        suits: the bolt that it is a clearance hole of; empty if of none.
        bolt: that one in the length that is right, or a usual one; empty if none suits.
    """

    body: str
    id: BodyId
    feature: int
    diameter_mm: float
    depth_mm: float
    at: Vec3
    suits: str
    bolt: str = ""


class ThroughQuestion(Value):
    """A bolt, as typed, and the bore that it is tried in."""

    text: str
    spot: StockSpot
