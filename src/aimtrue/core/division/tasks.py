"""Work of sheet 4 that is done in the background, as values."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from aimtrue.core.model.division import Asked
from aimtrue.core.model.ids import BodyId, DivisionId
from aimtrue.core.model.value import Value


class DivideTask(Value):
    """Make bodies of others: cut, split, hollow, join. ``instead`` names a division that is asked for
    otherwise. Several bodies are cut by the same planes, each into pieces of its own.
    """

    do: Literal["shape"] = "shape"
    bodies: tuple[BodyId, ...] = Field(min_length=1, max_length=1000)
    asked: Asked
    instead: DivisionId = DivisionId("")


class RedoDivisionTask(Value):
    """Make again what a division made of what changed since."""

    do: Literal["shape-again"] = "shape-again"
    division: DivisionId
