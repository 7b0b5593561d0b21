"""This module checks print settings, reads them from a file, and lists the sets that the app comes with."""

from __future__ import annotations

import json
from dataclasses import dataclass
from math import isfinite, pi, radians, tan
from typing import Final

from pydantic import ValidationError

from aimtrue.core.cost.learning import Learnt, learnt_of
from aimtrue.core.errors import Refused
from aimtrue.core.model.lengths import written
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.printing import (
    STARTING_CURING,
    STARTING_MOTION,
    Curing,
    Motion,
    PrintSettings,
)

SETS: Final = (
    PrintSettings(name="good and quick"),
    PrintSettings(name="draft", solid_layers=3, infill=8),
    PrintSettings(name="strong", shells=4, solid_layers=6, infill=35),
    PrintSettings(name="solid", infill=100),
    PrintSettings(name="waves", infill=12, pattern="waves"),
)
"""Sets of settings that the app comes with."""
_MOST_SHELLS, _MOST_SOLID = 100, 1000


@dataclass(frozen=True)
class BeadShape:
    """The cross-section of a bead, a flat strip with half-round sides; in mm.

    Attributes:
        width, height: of it; the height is that of a layer.
    """

    width: float
    height: float

    @property
    def spacing(self) -> float:
        """How far apart beads lie that fill an area: the width of a rectangle of the same area.

        The area of the strip is ``(width - height) height + π height² / 4``.
        """
        return self.width - self.height * (1 - pi / 4)


@dataclass(frozen=True)
class PrintPlan:
    """Settings and machine together, checked.

    Attributes:
        settings: as they were chosen.
        bead: of every strand.
        motion, curing: of the machine, or what is taken to start with.
        assumed: whether these are not the machine's own.
        learnt: what prints of the machine have taught.
        reach: how far a layer may stand out over the one below without support, in mm.
    """

    settings: PrintSettings
    bead: BeadShape
    motion: Motion
    curing: Curing
    assumed: bool
    learnt: Learnt
    reach: float


def plan_of(settings: PrintSettings, machine: Machine) -> PrintPlan:
    """Return settings for a machine, checked.

    Raises:
        Refused: a setting is none that can be printed with; the message says which, and what is possible.
    """
    process = machine.process
    layer = process.layer if settings.layer is None else settings.layer
    bead = process.bead if settings.bead is None else settings.bead
    _refuse_odd(settings, layer, bead, resin=process.kind == "resin")
    return PrintPlan(
        settings=settings,
        bead=BeadShape(bead, layer),
        motion=process.motion or STARTING_MOTION,
        curing=process.curing or STARTING_CURING,
        assumed=(process.curing if process.kind == "resin" else process.motion) is None,
        learnt=learnt_of(machine, settings),
        reach=layer * tan(radians(process.overhang)),
    )


def _refuse_odd(settings: PrintSettings, layer: float, bead: float, *, resin: bool) -> None:
    if not (isfinite(layer) and layer > 0):
        raise Refused("print-layer", f"a layer of {layer:g} mm is none", remedy="type one such as 0.2")
    if not (isfinite(bead) and bead > 0) or bead > 50:
        raise Refused("print-bead", f"a bead of {bead:g} mm is none", remedy="type one such as 0.4")
    if layer > bead and not resin:
        raise Refused(
            "print-layer",
            f"a layer of {written(layer, 3)} mm is higher than the bead of {written(bead, 3)} mm is wide",
            remedy=f"type a layer of at most {written(0.8 * bead, 3)}, or a wider bead",
        )
    if not 0 <= settings.infill <= 100:
        raise Refused(
            "print-infill", f"an infill of {settings.infill:g} % is none", remedy="type one from 0 to 100 %"
        )
    if not 0 < settings.support_density <= 100:
        raise Refused(
            "print-support",
            f"supports of {settings.support_density:g} % are none",
            remedy="type one from 1 to 100 %, or leave supports out",
        )
    if not 1 <= settings.shells <= _MOST_SHELLS:
        raise Refused(
            "print-shells", f"{settings.shells} shells are none", remedy=f"type 1 to {_MOST_SHELLS}"
        )
    if not 0 <= settings.solid_layers <= _MOST_SOLID:
        raise Refused(
            "print-solid",
            f"{settings.solid_layers} solid layers are none",
            remedy=f"type 0 to {_MOST_SOLID}",
        )


def set_named(name: str) -> PrintSettings:
    """Return a set of settings by its name.

    Raises:
        Refused: there is none of that name.
    """
    for settings in SETS:
        if settings.name == " ".join(name.lower().split()):
            return settings
    names = ", ".join(settings.name for settings in SETS)
    raise Refused("print-set", f"there is no set “{name}”", remedy=f"use {names}, or a JSON file")


def settings_from_json(text: str) -> PrintSettings:
    """Return settings as a file has them.

    Raises:
        Refused: it is no JSON object, or has an entry that is no setting.
    """
    try:
        content = json.loads(text)
    except ValueError as error:
        raise Refused("print-file", f"it is no JSON: {error}", remedy="see docs/rooms/cost.md") from None
    try:
        return PrintSettings.model_validate(content)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise Refused(
            "print-file", f"{where or 'it'}: {first['msg']}", remedy="see docs/rooms/cost.md for the entries"
        ) from None
