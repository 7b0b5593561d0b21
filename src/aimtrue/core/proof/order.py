"""This module says what was written, in what way."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from aimtrue.core.model.lengths import Unit


@dataclass(frozen=True)
class FileLayout:
    """What was written: the format, its unit, and whether bodies stand on the plate, where the file has
    them, or put down at the origin; ``merged`` when they are one object.
    """

    kind: str
    unit: Unit
    place: Literal["seated", "own", "origin"]
    merged: bool = False
