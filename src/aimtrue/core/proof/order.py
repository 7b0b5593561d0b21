"""What was written, in what way."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from aimtrue.core.model.lengths import Unit


@dataclass(frozen=True)
class Order:
    """What was written: the format, its unit, and whether bodies stand on the plate or where the file has
    them.
    """

    kind: str
    unit: Unit
    place: Literal["seated", "own"]
