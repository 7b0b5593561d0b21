"""This module says what a survey tells, as values.

Those that every body has several of are plain dataclasses: they are made anew for a whole kit at every change
of its factor, and nothing in them comes from outside to be checked.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from pydantic import Field, SerializeAsAny

from aimtrue.core.intake.revision_changes import RevisionChange
from aimtrue.core.intake.units.verdict import UnitCandidate
from aimtrue.core.model.decisions import Correction, Shrinkage
from aimtrue.core.model.ids import BodyId, KitId, Owner, ReadingId, SourceId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.seats import Seat
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.seating.placement.room import RoomCheck
from aimtrue.core.seating.seat_states import PlateState, SeatState
from aimtrue.core.survey.shown_findings import ShownFinding
from aimtrue.core.truing.solving.readings_verdict import ReadingsVerdict

SheetName = Literal["intake", "truing", "fit", "division", "seating", "release"]


SheetMark = Literal["settled", "look", "stop", "blank", "later"]


@dataclass(frozen=True, slots=True)
class SizeChain:
    """The size chain, by columns of X, Y and Z: number x unit x correction = size, + allowance = released.

    ``common`` is the factor that all linked axes share, None where they share none. ``allowed`` says whether
    any allowance is more than what rounding leaves of none.
    """

    number: Vec3
    mm_per_unit: float
    factor: Vec3
    common: float | None
    size_mm: Vec3
    size_in: Vec3
    allowance_mm: Vec3
    allowed: bool
    released_mm: Vec3


class ReadingState(Value):
    """A reading held against the model as corrected.

    Attributes:
        model_mm: how long the gauge is now, in mm; of an oval the greatest; an angle in degrees.
        least_mm: of an oval the least.
        off_mm: model less what is wanted, or how far beyond a limit; None while nothing is told.
        met: whether it is within its band.
        band: the band, as it is written behind the length.
        wanted_mm: the length wanted, clearance included.
        spread_mm: between the greatest and the least of repeats.
        drives: whether the correction in force was solved for it.
        directed: whether the body can be stretched along it alone.
        ends: two points to draw its dimension between, in numbers of the file; of an extent none.
    """

    id: ReadingId
    model_mm: float
    least_mm: float | None
    off_mm: float | None
    met: bool
    band: str
    wanted_mm: float | None
    spread_mm: float | None
    drives: bool
    directed: bool
    ends: tuple[Vec3, Vec3] | None


@dataclass(frozen=True, slots=True)
class Placement:
    """How the bench draws a body: ``matrix`` (3 x 3, by rows) times file point, plus ``shift``, in mm.

    ``true`` leaves the seat out; ``seated`` has it.
    """

    true: tuple[Vec3, Vec3, Vec3]
    true_shift: Vec3
    seated: tuple[Vec3, Vec3, Vec3]
    seated_shift: Vec3


@dataclass(frozen=True, slots=True)
class SeatBounds:
    """Where the first copy of a body is: its bounds in mm from the front left corner of the plate."""

    low: Vec3
    high: Vec3


class BodySurvey(Value):
    """A body's facts in force. Everything in mm is None while the unit is not settled.

    ``owner`` is what its correction and shrinkage are decided for: its kit, or the body itself.
    ``identical`` are the bodies that are the same part, itself included; empty when it is the only one.
    ``releasable`` tells that no stop finding is open for it.
    ``reshaped`` names the way kept bores change its drawing; empty when they do not. One that is ``divided``
    stands aside for its pieces; one that is ``stale`` is to be made again.
    """

    id: BodyId
    owner: Owner
    identical: tuple[BodyId, ...]
    releasable: bool
    reshaped: str
    numbers: Vec3
    chain: SizeChain | None
    volume_mm3: float | None
    area_mm2: float | None
    readings: tuple[ReadingState, ...]
    room: SeatBounds | None
    fits_as_it_lies: bool | None
    placement: Placement
    oval: bool
    divided: bool = False
    stale: bool = False


class DecisionsInForce(Value):
    """What is in force for a kit, or for a body on its own, and how its first copy stands."""

    id: Owner
    correction: Correction
    shrinkage: Shrinkage
    seat: Seat


class MachineInForce(Value):
    """The machine that is drawn around the bodies: its room as a box in mm, and its bead.

    ``free`` are the corners of what is left of its plate within margins.
    """

    name: str
    shape: Literal["box", "round"]
    room: Vec3
    free: tuple[tuple[float, float], ...]
    bead_mm: float


class SourceSurvey(Value):
    """A file's unit, weighed: ``suggested`` is what the evidence points to, if to anything."""

    id: SourceId
    numbers: Vec3
    candidates: tuple[UnitCandidate, ...]
    suggested: Unit | None
    mm_per_unit: float | None
    home: bool
    changed: tuple[RevisionChange, ...] = ()
    """What the newest revision of it changed."""


class KitSurvey(Value):
    """Several bodies together: their overall size, volume and room; readings of all of them."""

    id: KitId
    bodies: tuple[BodyId, ...]
    numbers: Vec3 | None
    chain: SizeChain | None
    volume_mm3: float | None
    readings: tuple[ReadingState, ...]
    room: RoomCheck | None
    fits_as_it_lies: bool | None
    oval: bool


class SheetState(Value):
    """The mark of one sheet in the strip, with a word."""

    name: SheetName
    mark: SheetMark
    says: str


class NextStep(Value):
    """Where to go on from a sheet, and why there; empty where the order of the work says it."""

    of: SheetName
    to: SheetName
    says: str


class Survey(Value):
    """What a job comes to."""

    sources: tuple[SourceSurvey, ...]
    bodies: tuple[BodySurvey, ...]
    kits: tuple[KitSurvey, ...]
    seats: tuple[SeatState, ...]
    plates: tuple[PlateState, ...]
    decided: tuple[DecisionsInForce, ...]
    machine: MachineInForce
    truths: tuple[ReadingsVerdict, ...]
    findings: tuple[ShownFinding, ...]
    rooms: dict[str, SerializeAsAny[Value]] = Field(default_factory=dict)
    """What rooms add of their own, by name."""
    sheets: tuple[SheetState, ...]
    next_steps: tuple[NextStep, ...]
    settled: bool
    releasable: bool


class NewestRelease(Value):
    """The newest release: its number, and whether the job still is as it was released."""

    number: int
    current: bool
