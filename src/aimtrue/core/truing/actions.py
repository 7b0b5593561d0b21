"""This module says what a user can do on sheet 2, as values, as they are sent and kept."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field
from typing_extensions import override

from aimtrue.core.gauges.construction import PickedSpot
from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.ids import BodyId, Owner, ReadingId
from aimtrue.core.model.materials import Material
from aimtrue.core.model.readings import GaugeKind, Means, Role
from aimtrue.core.model.value import Axis
from aimtrue.core.truing.calibration import Calibration

PerAxis = tuple[str | None, str | None, str | None]
"""What was typed for X, Y and Z; None where nothing was."""


class SizeAxis(ActionValue):
    """A size is typed for one axis: a length, or with ``%`` or ``x`` a factor."""

    do: Literal["size-axis"] = "size-axis"
    body: Owner
    axis: Axis
    typed: str

    @override
    def words(self) -> str:
        return f"size {self.axis.upper()} {self.typed}"


class SetFactor(ActionValue):
    """A factor or percentage is typed, for one axis or (None) for all linked ones."""

    do: Literal["set-factor"] = "set-factor"
    body: Owner
    axis: Axis | None = None
    typed: str

    @override
    def words(self) -> str:
        return f"factor {self.typed}"


class ScaleTogether(ActionValue):
    """All axes that are not held are scaled alike, so that the first of them gets a factor."""

    do: Literal["scale-together"] = "scale-together"
    body: Owner
    typed: str

    @override
    def words(self) -> str:
        return f"factor {self.typed}"


class FreeAxis(ActionValue):
    """An axis is freed from the others, or linked to them again."""

    do: Literal["free-axis"] = "free-axis"
    body: Owner
    axis: Axis
    free: bool

    @override
    def words(self) -> str:
        return f"{'free' if self.free else 'link'} {self.axis.upper()}"


class ResetCorrection(ActionValue):
    """Back to the size in the file; readings stay and tell how far off they are."""

    do: Literal["reset-correction"] = "reset-correction"
    history: ClassVar[str] = "back to the size in the file"
    body: Owner


class HoldAxis(ActionValue):
    """An axis keeps its factor whatever readings say, or follows them again."""

    do: Literal["hold-axis"] = "hold-axis"
    body: Owner
    axis: Axis
    held: bool

    @override
    def words(self) -> str:
        return f"{'hold' if self.held else 'let go'} {self.axis.upper()}"


class FitMachine(ActionValue):
    """Scale all linked axes alike so that the body just fits into the machine as it lies."""

    do: Literal["fit-machine"] = "fit-machine"
    history: ClassVar[str] = "fit into the machine"
    body: Owner


class SizeLongest(ActionValue):
    """The longest side gets a typed size; the others follow."""

    do: Literal["size-longest"] = "size-longest"
    body: Owner
    typed: str

    @override
    def words(self) -> str:
        return f"longest side {self.typed}"


class AddReading(ActionValue):
    """A gauge is picked, or chosen from the list; the real length may follow later.

    ``at`` is a typed height, from the low end along the axis, for a girth without a pointer.
    """

    do: Literal["add-reading"] = "add-reading"
    body: BodyId
    kind: GaugeKind = "points"
    spots: tuple[PickedSpot, ...] = ()
    axis: Axis | None = None
    kit: bool = False
    at: str = ""
    typed: str = ""
    sure: bool = False

    @override
    def words(self) -> str:
        return f"add reading, {self.kind}"


class MoveReading(ActionValue):
    """A reading's gauge is picked anew; what is known of it stays."""

    do: Literal["move-reading"] = "move-reading"
    history: ClassVar[str] = "move gauge"
    reading: ReadingId
    body: BodyId
    kind: GaugeKind = "points"
    spots: tuple[PickedSpot, ...] = ()
    axis: Axis | None = None
    kit: bool = False
    at: str = ""


class SetReading(ActionValue):
    """The real length of a reading is typed, with its band, as a limit, or as repeats.

    ``sure`` takes a length that would change the size over a thousand times.
    """

    do: Literal["set-reading"] = "set-reading"
    reading: ReadingId
    typed: str
    sure: bool = False

    @override
    def words(self) -> str:
        return f"reading {self.typed}"


class RelaxReading(ActionValue):
    """The band of a reading is widened to a limit, because the readings exclude each other."""

    do: Literal["relax-reading"] = "relax-reading"
    history: ClassVar[str] = "relax a band"
    reading: ReadingId
    limit_mm: float = Field(gt=0)


class AdjustReading(ActionValue):
    """How a reading is used and was taken; what is None stays. Lengths travel as typed.

    ``sure`` takes a clearance that is larger than any fit needs.
    """

    do: Literal["adjust-reading"] = "adjust-reading"
    history: ClassVar[str] = "change reading"
    reading: ReadingId
    role: Role | None = None
    means: Means | None = None
    fineness: str | None = None
    clearance: str | None = None
    note: str | None = Field(None, max_length=400)
    sure: bool = False


class ImportReadings(ActionValue):
    """Readings of a body from rows of CSV; rows that cannot be taken are told and left out."""

    do: Literal["import-readings"] = "import-readings"
    history: ClassVar[str] = "import readings"
    body: Owner
    text: str = Field(max_length=200_000)


class SolveReadings(ActionValue):
    """The readings drive again, after a factor or size was typed over them; ``free`` frees an axis with
    it.
    """

    do: Literal["solve-readings"] = "solve-readings"
    history: ClassVar[str] = "true to the readings"
    body: Owner
    free: Axis | None = None


class StretchAlong(ActionValue):
    """The body is stretched in the direction of a reading's gauge alone, until that reading is met."""

    do: Literal["stretch-along"] = "stretch-along"
    history: ClassVar[str] = "stretch along a gauge"
    reading: ReadingId


class TakeProposal(ActionValue):
    """One of the proposed ways to make a body true is taken."""

    do: Literal["take-proposal"] = "take-proposal"
    body: Owner
    key: str

    @override
    def words(self) -> str:
        return f"take {self.key}"


class KeepAsDrawn(ActionValue):
    """Bodies mate with a real part: no correction may change them, or may again."""

    do: Literal["keep-as-drawn"] = "keep-as-drawn"
    bodies: tuple[BodyId, ...] = Field(min_length=1)
    on: bool = True

    @override
    def words(self) -> str:
        return "keep as drawn" if self.on else "no longer as drawn"


class CorrectAlone(ActionValue):
    """A body of a kit gets a correction of its own, or follows the kit again."""

    do: Literal["correct-alone"] = "correct-alone"
    body: BodyId
    on: bool = True

    @override
    def words(self) -> str:
        return "correct alone" if self.on else "follow the kit"


class KeepBores(ActionValue):
    """Bores keep the diameter they have in the file; ``features`` None means all that suit a bolt."""

    do: Literal["keep-bores"] = "keep-bores"
    bodies: tuple[BodyId, ...] = Field(min_length=1)
    features: tuple[int, ...] | None = None
    on: bool = True

    @override
    def words(self) -> str:
        return "keep bores" if self.on else "let bores scale"


class SetLeastWall(ActionValue):
    """The thinnest wall that will do, when two beads of the machine are not enough; empty takes it back."""

    do: Literal["set-least-wall"] = "set-least-wall"
    typed: str

    @override
    def words(self) -> str:
        return f"least wall {self.typed}"


class ChooseMaterial(ActionValue):
    """What the job is made of; what is given besides is as typed: ``shrinkage`` in
    percent, an axis each, ``density`` in g/cm³, ``strand`` as a length. ``sure`` takes an unusual shrinkage.
    """

    do: Literal["choose-material"] = "choose-material"
    material: Material
    shrinkage: PerAxis | None = None
    density: str | None = None
    strand: str | None = None
    sure: bool = False

    @override
    def words(self) -> str:
        return f"material {self.material.name}"


class SetAllowance(ActionValue):
    """What is added on purpose after the correction; typed per axis, None stays.

    ``shrinkage`` are percentages, ``clearance`` lengths with a sign: onto the size, or off it.
    An axis that is None keeps what it has. ``of_material`` takes the shrinkage of the job's material, and
    follows it, or leaves it again. ``sure`` takes what is far from anything usual, ``says`` tells where it
    comes from.
    """

    do: Literal["set-allowance"] = "set-allowance"
    history: ClassVar[str] = "allowance"
    body: Owner
    shrinkage: PerAxis | None = None
    clearance: PerAxis | None = None
    of_material: bool | None = None
    sure: bool = False
    says: str = Field("", max_length=200)


class TakeCalibration(ActionValue):
    """Let bodies have the shrinkage that was measured of a machine and material.

    ``body`` None means all bodies of the job; ``says`` by which part it was measured.
    """

    do: Literal["take-calibration"] = "take-calibration"
    history: ClassVar[str] = "calibration"
    body: Owner | None
    found: Calibration
    says: str = Field("", max_length=200)


class NameReading(ActionValue):
    """A reading gets a name."""

    do: Literal["name-reading"] = "name-reading"
    reading: ReadingId
    name: str

    @override
    def words(self) -> str:
        return f"name reading {self.name}"


class RemoveReading(ActionValue):
    """A reading is taken away; the correction it gave stays."""

    do: Literal["remove-reading"] = "remove-reading"
    history: ClassVar[str] = "remove reading"
    reading: ReadingId
