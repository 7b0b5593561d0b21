"""This module says what a user can do about what a print takes, as values."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field
from typing_extensions import override

from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.estimate import Estimate
from aimtrue.core.model.ids import PlateId
from aimtrue.core.model.printing import PrintSettings

SettingName = Literal[
    "layer", "bead", "shells", "solid_layers", "infill", "pattern", "supports", "support_density"
]


class SetPrinting(ActionValue):
    """One setting gets another value, as it was typed; an emptied layer or bead is the machine's again."""

    do: Literal["set-printing"] = "set-printing"
    setting: SettingName
    typed: str = Field(max_length=40)

    @override
    def words(self) -> str:
        return f"{self.setting.replace('_', ' ')} {self.typed.strip() or 'of the machine'}"


class UsePrintSettings(ActionValue):
    """All settings are these: a set by its name, or a way under a budget."""

    do: Literal["use-print-settings"] = "use-print-settings"
    settings: PrintSettings

    @override
    def words(self) -> str:
        return f"settings {self.settings.name}" if self.settings.name else "settings for a budget"


class SetSpeed(ActionValue):
    """A speed or a time of the machine of a plate, as it was typed; the others are those that it takes
    now.
    """

    do: Literal["set-speed"] = "set-speed"
    plate: PlateId
    speed: str = Field(max_length=40)
    typed: str = Field(max_length=40)

    @override
    def words(self) -> str:
        return f"{self.speed.removesuffix('_s').removesuffix('_mm').replace('_', ' ')} of the machine"


class KeepPrintSet(ActionValue):
    """The settings in use are kept with the machine of a plate, under a name; one of that name is
    replaced.
    """

    do: Literal["keep-print-set"] = "keep-print-set"
    plate: PlateId
    name: str = Field(max_length=60)

    @override
    def words(self) -> str:
        return f"keep settings {self.name.strip()}"


class ForgetPrintSet(ActionValue):
    """Settings that were kept with the machine of a plate are forgotten."""

    do: Literal["forget-print-set"] = "forget-print-set"
    plate: PlateId
    name: str = Field(max_length=60)

    @override
    def words(self) -> str:
        return f"remove settings {self.name}"


class SetPrice(ActionValue):
    """A price, as it was typed: of a kg of the material, an hour of the machine, or a kWh; empty is none.

    Of a ``spool`` it is what is left on it, in g.
    """

    do: Literal["set-price"] = "set-price"
    of: Literal["material", "hour", "kwh", "spool"]
    typed: str = Field(max_length=40)

    @override
    def words(self) -> str:
        if self.of == "spool":
            return "what is left on the spool"
        return f"price of {dict(material='material', hour='an hour', kwh='electricity')[self.of]}"


class SetBudget(ActionValue):
    """At most so much, as it was typed; of a plate, a body, or all of the job. Empty takes it away."""

    do: Literal["set-budget"] = "set-budget"
    of: str = Field("", max_length=60)
    kind: str = Field("", max_length=20)
    typed: str = Field(max_length=40)

    @override
    def words(self) -> str:
        return f"budget of {self.typed.strip()}" if self.typed.strip() else "no budget"


class ScalePlate(ActionValue):
    """All that stands on a plate is made smaller by a factor: a way under a budget."""

    do: Literal["scale-plate"] = "scale-plate"
    plate: PlateId
    factor: float = Field(gt=0, le=1)

    @override
    def words(self) -> str:
        return f"scale plate to {self.factor:g}"


class NotePrint(ActionValue):
    """What a plate took when it was printed, as it was typed: time, grams, or both."""

    do: Literal["note-print"] = "note-print"
    history: ClassVar[str] = "what a print took"
    plate: PlateId
    time: str = Field("", max_length=40)
    grams: str = Field("", max_length=40)


class ForgetPrints(ActionValue):
    """What the machine of a plate has taught is forgotten."""

    do: Literal["forget-prints"] = "forget-prints"
    history: ClassVar[str] = "remove prints"
    plate: PlateId


class PutEstimate(ActionValue):
    """A plate was estimated in full."""

    do: Literal["put-estimate"] = "put-estimate"
    finds: ClassVar[bool] = True
    history: ClassVar[str] = "estimate"
    plate: PlateId
    key: str
    estimate: Estimate
