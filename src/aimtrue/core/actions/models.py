"""The actions themselves: small values, as they are sent and kept."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from aimtrue.core.job import Axis, Body, Health, Kit, Material, Overlap, Source, Up, Value
from aimtrue.core.lengths import Unit
from aimtrue.core.readings import GaugeKind, Means, Role
from aimtrue.core.truing.gauges import Spot


class TakeIn(Value):
    """Files were read: their sources, bodies and kits join the job."""

    do: Literal["take-in"] = "take-in"
    sources: tuple[Source, ...]
    bodies: tuple[Body, ...]
    kits: tuple[Kit, ...] = ()


class Remake(Value):
    """Bodies were made anew by a remedy: some go, others come, decisions go with them.

    ``follows`` tells, per new body, which old one's decisions it takes over. ``overlaps`` are those of the
    new bodies with others of their file; of a ``source`` that is read anew they are in it.
    ``kit`` is one that the new bodies become; ``pieces`` tells, per new body that is a part of an old one,
    which.
    """

    do: Literal["remake"] = "remake"
    says: str
    gone: tuple[str, ...]
    come: tuple[Body, ...]
    follows: dict[str, str] = Field(default_factory=dict)
    source: Source | None = None
    missing: tuple[str, ...] = ()
    overlaps: tuple[Overlap, ...] = ()
    kit: Kit | None = None
    pieces: dict[str, str] = Field(default_factory=dict)


class LookOver(Value):
    """Geometry was looked over for faces that cut through each other: its health by its hash.

    ``overlaps`` are those of bodies of the same file with each other, by source, when they were looked for.
    """

    do: Literal["look-over"] = "look-over"
    found: dict[str, Health]
    overlaps: dict[str, tuple[Overlap, ...]] = Field(default_factory=dict)


class SettleUnit(Value):
    """The user says which unit a source is in; None means all sources whose unit is open.

    ``remember`` makes it the unit of further files of the job that do not say theirs.
    """

    do: Literal["settle-unit"] = "settle-unit"
    source: str | None
    unit: Unit
    remember: bool = False


class SetUp(Value):
    """The user says which axis of a source points up; None means all, and those to come."""

    do: Literal["set-up"] = "set-up"
    source: str | None
    up: Up


class BringHome(Value):
    """A lost model is moved to the origin, or (not ``home``) left where its file has it."""

    do: Literal["bring-home"] = "bring-home"
    source: str
    home: bool = True


class Paint(Value):
    """Bodies get a colour, or (None) the colour of none."""

    do: Literal["paint"] = "paint"
    bodies: tuple[str, ...]
    colour: str | None = Field(pattern=r"^#[0-9a-f]{6}$")


class Delete(Value):
    """Bodies leave the job; their sources stay."""

    do: Literal["delete"] = "delete"
    bodies: tuple[str, ...] = Field(min_length=1)


class Duplicate(Value):
    """Bodies are there once more, under names of their own."""

    do: Literal["duplicate"] = "duplicate"
    bodies: tuple[str, ...] = Field(min_length=1)


class MakeKit(Value):
    """Bodies share one correction, seat and origin from now on: those of the first."""

    do: Literal["make-kit"] = "make-kit"
    bodies: tuple[str, ...] = Field(min_length=2)
    name: str


class LeaveKit(Value):
    """Bodies go their own way; each keeps the correction and seat it has."""

    do: Literal["leave-kit"] = "leave-kit"
    bodies: tuple[str, ...] = Field(min_length=1)


class Rename(Value):
    """A body gets a name, which becomes its file name."""

    do: Literal["rename"] = "rename"
    body: str
    name: str


class Accept(Value):
    """A finding is accepted on purpose, or no longer; for a body, for several, or (both empty) for every
    body.
    """

    do: Literal["accept"] = "accept"
    body: str | None = None
    bodies: tuple[str, ...] = ()
    code: str
    accepted: bool = True


class SizeAxis(Value):
    """A size is typed for one axis: a length, or with ``%`` or ``x`` a factor."""

    do: Literal["size-axis"] = "size-axis"
    body: str
    axis: Axis
    typed: str


class SetFactor(Value):
    """A factor or percentage is typed, for one axis or (None) for all linked ones."""

    do: Literal["set-factor"] = "set-factor"
    body: str
    axis: Axis | None = None
    typed: str


class ScaleTogether(Value):
    """All axes that are not held are scaled alike, so that the first of them gets a factor."""

    do: Literal["scale-together"] = "scale-together"
    body: str
    typed: str


class FreeAxis(Value):
    """An axis is freed from the others, or linked to them again."""

    do: Literal["free-axis"] = "free-axis"
    body: str
    axis: Axis
    free: bool


class ResetCorrection(Value):
    """Back to the size in the file; readings stay and tell how far off they are."""

    do: Literal["reset-correction"] = "reset-correction"
    body: str


class HoldAxis(Value):
    """An axis keeps its factor whatever readings say, or follows them again."""

    do: Literal["hold-axis"] = "hold-axis"
    body: str
    axis: Axis
    held: bool


class FitMachine(Value):
    """Scale all linked axes alike so that the body just fits into the machine as it lies."""

    do: Literal["fit-machine"] = "fit-machine"
    body: str


class SizeLongest(Value):
    """The longest side gets a typed size; the others follow."""

    do: Literal["size-longest"] = "size-longest"
    body: str
    typed: str


class AddReading(Value):
    """A gauge is picked, or chosen from the list; the real length may follow later.

    ``at`` is a typed height, from the low end along the axis, for a girth without a pointer.
    """

    do: Literal["add-reading"] = "add-reading"
    body: str
    kind: GaugeKind = "points"
    spots: tuple[Spot, ...] = ()
    axis: Axis | None = None
    kit: bool = False
    at: str = ""
    typed: str = ""
    sure: bool = False


class MoveReading(Value):
    """A reading's gauge is picked anew; what is known of it stays."""

    do: Literal["move-reading"] = "move-reading"
    reading: str
    body: str
    kind: GaugeKind = "points"
    spots: tuple[Spot, ...] = ()
    axis: Axis | None = None
    kit: bool = False
    at: str = ""


class SetReading(Value):
    """The real length of a reading is typed, with its band, as a limit, or as repeats.

    ``sure`` takes a length that would change the size over a thousand times.
    """

    do: Literal["set-reading"] = "set-reading"
    reading: str
    typed: str
    sure: bool = False


class RelaxReading(Value):
    """The band of a reading is widened to a limit, because the readings exclude each other."""

    do: Literal["relax-reading"] = "relax-reading"
    reading: str
    limit_mm: float = Field(gt=0)


class AdjustReading(Value):
    """How a reading is used and was taken; what is None stays. Lengths travel as typed."""

    do: Literal["adjust-reading"] = "adjust-reading"
    reading: str
    role: Role | None = None
    means: Means | None = None
    fineness: str | None = None
    clearance: str | None = None
    note: str | None = Field(None, max_length=400)


class ImportReadings(Value):
    """Readings of a body from rows of CSV; rows that cannot be taken are told and left out."""

    do: Literal["import-readings"] = "import-readings"
    body: str
    text: str = Field(max_length=200_000)


class SolveReadings(Value):
    """The readings drive again, after a factor or size was typed over them; ``free`` frees an axis with
    it.
    """

    do: Literal["solve-readings"] = "solve-readings"
    body: str
    free: Axis | None = None


class StretchAlong(Value):
    """The body is stretched in the direction of a reading's gauge alone, until that reading is met."""

    do: Literal["stretch-along"] = "stretch-along"
    reading: str


class TakeProposal(Value):
    """One of the proposed ways to make a body true is taken."""

    do: Literal["take-proposal"] = "take-proposal"
    body: str
    key: str


class KeepAsDrawn(Value):
    """Bodies mate with a real part: no correction may change them, or may again."""

    do: Literal["keep-as-drawn"] = "keep-as-drawn"
    bodies: tuple[str, ...] = Field(min_length=1)
    on: bool = True


class CorrectAlone(Value):
    """A body of a kit gets a correction of its own, or follows the kit again."""

    do: Literal["correct-alone"] = "correct-alone"
    body: str
    on: bool = True


class KeepBores(Value):
    """Bores keep the diameter they have in the file; ``features`` None means all that suit a bolt."""

    do: Literal["keep-bores"] = "keep-bores"
    bodies: tuple[str, ...] = Field(min_length=1)
    features: tuple[int, ...] | None = None
    on: bool = True


class SetLeastWall(Value):
    """The thinnest wall that will do, when two beads of the machine are not enough; empty takes it back."""

    do: Literal["set-least-wall"] = "set-least-wall"
    typed: str


class ChooseMaterial(Value):
    """What the job is made of; ``shrinkage``, when given, are percentages as typed, an axis each."""

    do: Literal["choose-material"] = "choose-material"
    material: Material
    shrinkage: tuple[str, str, str] | None = None


class SetAllowance(Value):
    """What is added on purpose after the correction; typed per axis, None stays.

    ``shrinkage`` are percentages, ``clearance`` lengths with a sign: onto the size, or off it.
    ``of_material`` takes the shrinkage of the job's material, and follows it, or leaves it again.
    """

    do: Literal["set-allowance"] = "set-allowance"
    body: str
    shrinkage: tuple[str, str, str] | None = None
    clearance: tuple[str, str, str] | None = None
    of_material: bool | None = None
    says: str = Field("", max_length=200)


class NameReading(Value):
    """A reading gets a name."""

    do: Literal["name-reading"] = "name-reading"
    reading: str
    name: str


class RemoveReading(Value):
    """A reading is taken away; the correction it gave stays."""

    do: Literal["remove-reading"] = "remove-reading"
    reading: str


class TurnSeat(Value):
    """A body is turned by a typed angle about an axis of the plate."""

    do: Literal["turn-seat"] = "turn-seat"
    body: str
    axis: Axis
    typed: str


class ResetSeat(Value):
    """A body stands again as it came."""

    do: Literal["reset-seat"] = "reset-seat"
    body: str


UserAction = Annotated[
    SettleUnit
    | SetUp
    | BringHome
    | Paint
    | Delete
    | Duplicate
    | MakeKit
    | LeaveKit
    | Rename
    | Accept
    | SizeAxis
    | SetFactor
    | FreeAxis
    | HoldAxis
    | ScaleTogether
    | ResetCorrection
    | FitMachine
    | SizeLongest
    | AddReading
    | MoveReading
    | SetReading
    | RelaxReading
    | AdjustReading
    | ImportReadings
    | SolveReadings
    | StretchAlong
    | TakeProposal
    | KeepAsDrawn
    | CorrectAlone
    | KeepBores
    | SetLeastWall
    | ChooseMaterial
    | SetAllowance
    | NameReading
    | RemoveReading
    | TurnSeat
    | ResetSeat,
    Field(discriminator="do"),
]
"""What the interface may send."""

Action = Annotated[TakeIn | Remake | LookOver | UserAction, Field(discriminator="do")]
ACTION: TypeAdapter[Action] = TypeAdapter(Action)
