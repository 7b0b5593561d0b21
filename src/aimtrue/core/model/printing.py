"""This module says how something is printed: how fast a machine is, and the few settings that matter.

A machine's speeds are facts of it (:class:`Motion`, :class:`Curing`); what a user chooses for a plate is
:class:`PrintSettings`. What they come to is worked out in :mod:`aimtrue.core.cost`.
"""

from __future__ import annotations

from typing import Final, Literal

from pydantic import Field

from aimtrue.core.model.value import Value

PathKind = Literal["around", "outline", "shell", "solid", "infill", "support", "travel"]
"""What a path is for; ``around`` is drawn around the first layer, ``travel`` moves without material."""
PATH_KINDS: Final[tuple[PathKind, ...]] = (
    "around",
    "outline",
    "shell",
    "solid",
    "infill",
    "support",
    "travel",
)
Pattern = Literal["lines", "waves"]


class Motion(Value):
    """How a machine that lays strands moves: speeds in mm/s, acceleration in mm/s².

    Attributes:
        outline, shell, solid, infill, support, travel: by what is being made.
        first: of all but travel in the first layer.
        acceleration: of every move.
        corner_mm: how far a corner may be cut, which says how fast it is taken.
        layer_change_s, heating_s: what a layer takes besides, and what comes before the first.
        watts: what it draws while it works.
    """

    outline: float = Field(45.0, gt=0, le=2000)
    shell: float = Field(60.0, gt=0, le=2000)
    solid: float = Field(60.0, gt=0, le=2000)
    infill: float = Field(80.0, gt=0, le=2000)
    support: float = Field(60.0, gt=0, le=2000)
    travel: float = Field(180.0, gt=0, le=2000)
    first: float = Field(25.0, gt=0, le=2000)
    acceleration: float = Field(1500.0, gt=0, le=100_000)
    corner_mm: float = Field(0.02, gt=0, le=1)
    layer_change_s: float = Field(0.6, ge=0, le=600)
    heating_s: float = Field(180.0, ge=0, le=36_000)
    watts: float = Field(120.0, ge=0, le=100_000)


class Curing(Value):
    """How a machine that cures resin works, in seconds for each layer."""

    exposure_s: float = Field(2.5, gt=0, le=3600)
    first_exposure_s: float = Field(28.0, gt=0, le=3600)
    first_layers: int = Field(5, ge=0, le=1000)
    lift_s: float = Field(5.5, ge=0, le=3600)
    wait_s: float = Field(1.0, ge=0, le=3600)
    watts: float = Field(60.0, ge=0, le=100_000)


class PrintRecord(Value):
    """What a print took, beside what was estimated for it before anything was learnt; 0 of what nobody told.

    Attributes:
        settings: what tells its settings from others.
        estimated_s, actual_s: seconds.
        estimated_g, actual_g: grams.
    """

    settings: str = Field("", max_length=2000)
    estimated_s: float = Field(gt=0)
    estimated_g: float = Field(gt=0)
    actual_s: float = Field(0.0, ge=0)
    actual_g: float = Field(0.0, ge=0)


STARTING_MOTION: Final = Motion()
"""What is taken of a machine whose speeds nobody has told; an estimate says so."""
STARTING_CURING: Final = Curing()


class PrintSettings(Value):
    """What a user chooses about how a plate is printed.

    Attributes:
        name: of a set of settings on the shelf; empty where it was changed.
        layer, bead: in mm; None as the machine has them.
        shells: how many beads go around, the outline among them.
        solid_layers: how many layers are filled under a top and over a bottom.
        infill: how much of what is left is filled, in percent.
        pattern: of what fills it.
        supports: whether what hangs over is held.
        support_density: how much of a support's area is filled, in percent.
    """

    name: str = Field("", max_length=60)
    layer: float | None = None
    bead: float | None = None
    shells: int = 2
    solid_layers: int = 4
    infill: float = 15.0
    pattern: Pattern = "lines"
    supports: bool = True
    support_density: float = 18.0


class Rates(Value):
    """What is paid, in the user's own money: for a kWh, and for an hour of a machine; and what is at hand.

    ``spool_g`` is what is left on the spool in use, in g; None where nobody has told.
    """

    kwh: float = Field(0.0, ge=0, le=1e6)
    hour: float = Field(0.0, ge=0, le=1e6)
    spool_g: float | None = Field(None, ge=0, le=1e6)
