"""This module says what can be done on sheet 4, and what bodies that were made of others do to a job, as
values.
"""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field
from typing_extensions import override

from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.body import Body
from aimtrue.core.model.division import Division
from aimtrue.core.model.ids import BodyId, DivisionId, ReadingId
from aimtrue.core.model.job import Kit
from aimtrue.core.model.replacement import Replacement


class PutDivision(ActionValue):
    """Bodies were made of others.

    ``follows`` tells, per new body, whose place and decisions it takes over when a division was made again or
    otherwise; ``kit`` is one that wholes and pieces become; ``dowels`` how many of each loose pin are wanted.
    """

    do: Literal["put-shaped"] = "put-shaped"
    division: Division
    come: tuple[Body, ...]
    gone: tuple[BodyId, ...] = ()
    follows: dict[BodyId, BodyId] = Field(default_factory=dict)
    kit: Kit | None = None
    dowels: dict[BodyId, int] = Field(default_factory=dict)

    @override
    def brings(self) -> tuple[str, ...]:
        return tuple(body.id for body in self.come)

    @override
    def replacements(self) -> tuple[Replacement, ...]:
        return (Replacement(gone=self.gone, follows=self.follows, copies=self.dowels),)

    @override
    def words(self) -> str:
        return self.division.says


class PutAll(ActionValue):
    """Several bodies were cut by the same planes."""

    do: Literal["put-all"] = "put-all"
    each: tuple[PutDivision, ...]

    @override
    def brings(self) -> tuple[str, ...]:
        return tuple(key for put_division in self.each for key in put_division.brings())

    @override
    def replacements(self) -> tuple[Replacement, ...]:
        return tuple(replacement for put_division in self.each for replacement in put_division.replacements())

    @override
    def words(self) -> str:
        many = len(self.each)
        return f"divide {many} bodies by the same planes" if many > 1 else self.each[0].words()


class RedoneDivision(PutDivision):
    """What was stale was made again by the system; an undo goes back to before what made it stale."""

    finds: ClassVar[bool] = True
    do: Literal["shaped-again"] = "shaped-again"  # type: ignore[assignment]


class Undivide(ActionValue):
    """Take away what a division made; the whole stands for itself again."""

    do: Literal["undivide"] = "undivide"
    history: ClassVar[str] = "put back together"
    division: DivisionId


class SetPrinted(ActionValue):
    """What a reading measures on the printed trial is typed; nothing takes it back."""

    do: Literal["set-printed"] = "set-printed"
    reading: ReadingId
    typed: str

    @override
    def words(self) -> str:
        return f"measured {self.typed.strip() or 'nothing'} on the trial"


class TakePrinted(ActionValue):
    """What was measured on a trial that fits becomes the length wanted of the whole."""

    do: Literal["take-printed"] = "take-printed"
    history: ClassVar[str] = "take a length from the trial"
    reading: ReadingId


MadeAction = PutDivision | PutAll | RedoneDivision
"""What the system itself puts into a job."""
