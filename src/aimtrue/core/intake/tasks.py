"""Work that makes bodies anew in the background: what can be asked for, as values."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from aimtrue.core.errors import Refused
from aimtrue.core.intake.mending.remedies import MendingRemedy
from aimtrue.core.intake.take_in import FINE
from aimtrue.core.model.angles import parse_degrees
from aimtrue.core.model.facets import ANGLE_DEG, CHORD_MM, Fineness
from aimtrue.core.model.ids import BodyId, SourceId
from aimtrue.core.model.lengths import parse_length
from aimtrue.core.model.source import Source
from aimtrue.core.model.value import Value

_MOST_TOLERANCE_MM = 100.0


class MendTask(Value):
    """Apply a remedy to bodies. ``tolerance`` is a distance or a spacing as typed; empty chooses by size."""

    do: Literal["mend"] = "mend"
    bodies: tuple[BodyId, ...] = Field(min_length=1)
    remedy: MendingRemedy
    tolerance: str = ""


class SeparateTask(Value):
    """Divide a body into its shells."""

    do: Literal["separate"] = "separate"
    body: BodyId


class JoinTask(Value):
    """Join touching or overlapping bodies into one closed solid."""

    do: Literal["join"] = "join"
    bodies: tuple[BodyId, ...] = Field(min_length=2)


class TakeAsOneTask(Value):
    """Take several bodies as one, their surfaces as they are."""

    do: Literal["take-as-one"] = "take-as-one"
    bodies: tuple[BodyId, ...] = Field(min_length=2)


class LookOverTask(Value):
    """Look for faces that cut through each other within bodies, or for bodies of a file that overlap.

    However large they are: what is passed over at intake is looked at here.
    """

    do: Literal["look"] = "look"
    bodies: tuple[BodyId, ...] = ()
    source: SourceId | None = None


class ListFacesTask(Value):
    """List the flat and round faces of bodies whose geometry was kept without: of large ones, so that they
    can be worked on meanwhile.
    """

    do: Literal["list-faces"] = "list-faces"
    bodies: tuple[BodyId, ...] = Field(min_length=1)


class RefineTask(Value):
    """Cut a CAD source into facets anew, finer or coarser, its loose surfaces sewn or not.

    ``fineness`` None stays as it is; ``chord`` and ``angle`` are typed over it, empty ones stay.
    """

    do: Literal["refine"] = "refine"
    source: SourceId
    fineness: Fineness | None = None
    chord: str = ""
    angle: str = ""
    sew: bool = False


class ReviseTask(Value):
    """Swap in a new revision of a file; ``name`` and ``sha256`` are those of the new one."""

    do: Literal["revise"] = "revise"
    source: SourceId
    name: str
    sha256: str


def tolerance_asked(task: MendTask) -> float | None:
    """Return a typed tolerance in mm; None where it is chosen by size."""
    if not task.tolerance.strip():
        return None
    mm = parse_length(task.tolerance)
    if mm > _MOST_TOLERANCE_MM:
        raise Refused(
            "distance",
            f"{task.tolerance.strip()} is over {_MOST_TOLERANCE_MM:g} mm",
            remedy="type a smaller distance, or none to choose by size",
        )
    return mm


def fineness_asked(source: Source, task: RefineTask) -> Fineness:
    """Return how finely a source is to be cut into facets."""
    now = task.fineness or source.fineness or FINE
    chord = parse_length(task.chord) if task.chord.strip() else now.chord_mm
    angle = parse_degrees(task.angle) if task.angle.strip() else now.angle_deg
    for value, (low, high), typed, unit in (
        (chord, CHORD_MM, task.chord, " mm"),
        (angle, ANGLE_DEG, task.angle, "°"),
    ):
        if not low <= value <= high:
            raise Refused(
                "fineness",
                f"{typed.strip()} is not between {low:g} and {high:g}{unit}",
                remedy="type another value",
            )
    return Fineness(chord_mm=chord, angle_deg=angle)
