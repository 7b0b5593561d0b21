"""This module says what is done to a job with stock: parts that were made join it, bodies are marked for
checking.
"""

from __future__ import annotations

from typing import Literal

from pydantic import Field
from typing_extensions import override

from aimtrue.core.model.action import ActionValue, count_of_bodies
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Kit
from aimtrue.core.model.source import Source


class AddStock(ActionValue):
    """A part that was made joins the job: its source, its bodies, and the kit of several."""

    do: Literal["add-stock"] = "add-stock"
    source: Source
    bodies: tuple[Body, ...]
    kits: tuple[Kit, ...] = ()

    @override
    def words(self) -> str:
        return f"make {self.source.made.text if self.source.made else self.source.name}"


class SetPurpose(ActionValue):
    """Bodies are there to check others against, or to be printed: the first stand on no plate and leave
    with no release.
    """

    do: Literal["set-purpose"] = "set-purpose"
    bodies: tuple[BodyId, ...] = Field(min_length=1)
    for_checking: bool

    @override
    def words(self) -> str:
        purpose = "to check against" if self.for_checking else "to print"
        return f"{count_of_bodies(self.bodies)} {purpose}"
