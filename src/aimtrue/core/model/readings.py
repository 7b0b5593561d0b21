"""Gauges and readings: where a length is on a body, and how long it really is."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from aimtrue.core.model.ids import BodyId, ReadingId
from aimtrue.core.model.value import Axis, Value, Vec3

GaugeKind = Literal["extent", "points", "faces", "diameter", "radius", "depth", "wall", "angle", "perimeter"]
Role = Literal["drive", "check", "ignore"]
Means = Literal["micrometer", "caliper", "rule", "tape", "drawing"]

FINENESS_MM: dict[Means, float] = {
    "micrometer": 0.005,
    "caliper": 0.05,
    "rule": 0.5,
    "tape": 1.0,
    "drawing": 0.001,
}
"""Half of the band within which a length taken by these means may be: how finely they tell it."""


DIRECTED_KINDS: tuple[GaugeKind, ...] = ("points", "faces", "depth", "wall", "extent")
"""Gauges that lie in one direction, so that a body can be stretched along them."""


class Anchor(Value):
    """A place on a body: a face and where on it.

    ``weights`` are barycentric for the three corners of the face, so a place stays on the
    body through every transform and can be found again in the released file. ``centre`` stands for the
    centre of the round or flat face that the face belongs to, which is nowhere on the mesh; ``free`` for a
    place given by its numbers, near the face.
    """

    face: int = Field(ge=0)
    weights: Vec3
    on: Literal["vertex", "edge", "middle", "surface", "centre", "free"] = "surface"


class Gauge(Value):
    """Where a length is on a body.

    What ``points`` are, in numbers and axes of the file, depends on the kind:

    - extent: none; ``axis`` says along which axis of the job, ``kit`` whether of the whole kit;
    - points, wall, depth: the two ends;
    - faces, angle: three points of the one plane, then three of the other;
    - diameter, radius: the centre, and two points of the circle a quarter turn apart;
    - perimeter: the corners of the section, in order around.

    ``anchors`` are places on the mesh, by which the gauge is found in the released file: the ends, three
    on each plane, or places all around. ``off`` is how far the fitted surface is from the mesh at most;
    ``turn`` how many degrees of a round one there are. ``stretch`` makes up for corners left out of a
    long perimeter. ``says`` names the feature. ``other`` is the body that the second half of points and
    anchors is on, when it is not that of the first: one of the same kit and file.
    """

    kind: GaugeKind
    axis: Axis | None = None
    kit: bool = False
    points: tuple[Vec3, ...] = ()
    anchors: tuple[Anchor, ...] = ()
    off: float | None = None
    turn: float | None = None
    stretch: float = 1.0
    says: str = ""
    other: BodyId | None = None


class Reading(Value):
    """A gauge, and the real length it should have.

    Attributes:
        real_mm: the length wanted; None while the gauge only tells, or when there is only a limit.
        low_mm, high_mm: what is good; None where there is no limit on that side.
        typed: as it was typed.
        repeats: when a length was taken several times; ``real_mm`` is their mean then.
        clearance_mm: added to all of these on purpose.
        role: whether it drives the correction, is only checked, or is left out.
        means, fineness_mm: how it was taken, and how finely (half of the band that leaves).
        lost: whether its place is no longer on the body.
        of: of a reading on a trial, the reading of the whole that it is.
        printed, printed_mm: what it measures on the printed trial, as typed.
        printed_of: how long it was released along each axis that it is along, when that was typed: what it
            was printed of, whatever is released later.
    """

    id: ReadingId
    name: str
    body: BodyId
    gauge: Gauge
    real_mm: float | None = None
    low_mm: float | None = None
    high_mm: float | None = None
    typed: str = ""
    repeats: tuple[float, ...] = ()
    clearance_mm: float = 0.0
    role: Role = "drive"
    means: Means = "caliper"
    fineness_mm: float = FINENESS_MM["caliper"]
    note: str = ""
    lost: bool = False
    of: ReadingId = ReadingId("")
    printed: str = ""
    printed_mm: float | None = None
    printed_of: tuple[tuple[Axis, float], ...] = ()

    @property
    def has_length(self) -> bool:
        """Whether a real length or a limit is known."""
        return self.real_mm is not None or self.low_mm is not None or self.high_mm is not None
