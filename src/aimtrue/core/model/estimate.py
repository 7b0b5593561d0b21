"""This module holds what a print takes, as values; how it is worked out is in :mod:`aimtrue.core.cost`."""

from __future__ import annotations

from aimtrue.core.model.ids import BodyId, PlateId
from aimtrue.core.model.printing import PathKind
from aimtrue.core.model.value import Value


class KindTotal(Value):
    """What paths of one kind take: seconds, mm³ of material, mm of way."""

    kind: PathKind
    seconds: float
    mm3: float
    mm: float


class BodyTotal(Value):
    """What one body takes, its copies and its support together."""

    body: str
    id: BodyId
    seconds: float
    grams: float
    support_g: float


class ThinWall(Value):
    """Walls of a body that hold no whole bead: in how many layers, how much, and the largest one's place.

    Attributes:
        body, id: whose they are.
        layers: how many layers have such.
        mm3: what is not laid there.
        layer, at: of the largest: its layer, from 1, and its place on the plate in mm.
    """

    body: str
    id: BodyId
    layers: int
    mm3: float
    layer: int
    at: tuple[float, float]


class GapingBody(Value):
    """A body some of whose outlines do not close, in how many layers: what does not close is not laid."""

    body: str
    id: BodyId
    layers: int


class Estimate(Value):
    """What a plate takes.

    Attributes:
        seconds: of all, heating and changes of layers among them.
        grams, strand_m: of material; the strand is 0 of resin.
        support_g: of these, for support.
        cost: in the user's own money.
        layers: how many.
        height_mm: of the highest.
        volume_mm3: of what is laid.
        travel_mm: of moves without material.
        assumed: whether the machine's speeds are not its own, but what is taken to start with.
        by_kind, by_body: parts of it; what is around the first layer is of no body.
        layer_seconds: of each layer.
        thin: walls that hold no bead.
        gaping: bodies that are not closed.
    """

    seconds: float
    grams: float
    strand_m: float
    support_g: float
    cost: float
    layers: int
    height_mm: float
    volume_mm3: float
    travel_mm: float
    assumed: bool
    by_kind: tuple[KindTotal, ...] = ()
    by_body: tuple[BodyTotal, ...] = ()
    layer_seconds: tuple[float, ...] = ()
    thin: tuple[ThinWall, ...] = ()
    gaping: tuple[GapingBody, ...] = ()


class KeptEstimate(Value):
    """A full estimate of a plate, kept until what it depends on changes.

    Attributes:
        plate: which.
        key: tells what it depends on from anything else.
        estimate: what the plate takes.
    """

    plate: PlateId
    key: str
    estimate: Estimate
