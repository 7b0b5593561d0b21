"""This module says what a user can do on sheet 3, as values, as they are sent and kept."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field
from typing_extensions import override

from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.ids import BodyId, PairId
from aimtrue.core.model.pairs import Intent, PairKind


class PairUp(ActionValue):
    """Take a pair that is offered: told by its kind, its bodies, and the first feature of it on each."""

    do: Literal["pair-up"] = "pair-up"
    history: ClassVar[str] = "pair"
    kind: PairKind
    a: BodyId
    b: BodyId
    a_feature: int
    b_feature: int
    intent: Intent = "slides"


class MeanPair(ActionValue):
    """Say what a pair is to do, or type the band of its clearance: ``0.2..0.4``, or a fit: ``H7/g6``."""

    do: Literal["mean-pair"] = "mean-pair"
    pair: PairId
    intent: Intent
    typed: str = Field("", max_length=40)

    @override
    def words(self) -> str:
        return f"a pair {self.typed.strip() or self.intent}"


class UnPair(ActionValue):
    """Take a pair away; its bodies stay as they are."""

    do: Literal["unpair"] = "unpair"
    history: ClassVar[str] = "take a pair away"
    pair: PairId
