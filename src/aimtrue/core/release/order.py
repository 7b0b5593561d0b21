"""This module says what is asked of a release: which bodies, in which files, where in them, in which format
and by which name.
"""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.value import Value

Format = Literal["3mf", "stl", "stl-ascii", "obj", "ply", "step"]
Bodies = Literal["each", "together", "merged"]
Place = Literal["seated", "own", "origin"]

ENDINGS: dict[str, str] = {
    "3mf": ".3mf",
    "stl": ".stl",
    "stl-ascii": ".stl",
    "obj": ".obj",
    "ply": ".ply",
    "step": ".step",
}
MEDIA_TYPES: dict[str, str] = {
    "3mf": "model/3mf",
    "stl": "model/stl",
    "stl-ascii": "model/stl",
    "obj": "model/obj",
    "ply": "application/octet-stream",
    "step": "model/step",
    "zip": "application/zip",
    "json": "application/json",
    "csv": "text/csv; charset=utf-8",
    "pdf": "application/pdf",
    "gcode": "text/x-gcode",
}
SAYS_UNIT = ("3mf", "step")
"""Formats that say the unit of their numbers; of the others whoever reads them has to know it."""


class ReleaseChoices(Value):
    """What its user wants of a release.

    Attributes:
        format, unit: how files are written, and in what.
        place: ``seated`` for bodies as they stand on their plates, every copy of them; ``own`` where their
            file had them, so that what was drawn together stays together; ``origin`` turned as they stand,
            and each file's bodies put down with their middle over the origin.
        shape: each body its own file; ``together`` in one file, of several plates one for each, as separate
            objects where the format has them; ``merged`` the same, as one object.
        bodies: ids of those wanted; None for all.
        plates: ids of the plates wanted; None for all.
        alike: of each its own file, whether the same part is written once, with a count, or every one of it.
        pattern: of names, see :mod:`aimtrue.core.release.names`; empty for the usual one.
        short: whether names are shortened to what the machine's display shows.
    """

    format: Format = "3mf"
    unit: Unit = Unit.MM
    place: Place = "seated"
    shape: Bodies = "together"
    bodies: tuple[BodyId, ...] | None = None
    plates: tuple[str, ...] | None = None
    alike: Literal["every", "once"] = "every"
    pattern: str = Field("", max_length=1000)
    short: bool = False


class Order(ReleaseChoices):
    """A release that is asked for.

    ``number`` counts those of a job; ``day`` and ``time`` say when, as text for names, since the core has
    no clock.
    """

    number: int = Field(1, ge=1)
    day: str = ""
    time: str = ""
