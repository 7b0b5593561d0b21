"""Findings as the sheets show them: each with what can be done about it."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial
from typing import Annotated, Any, Literal

from pydantic import Field

from aimtrue.core.intake import remedies as intake
from aimtrue.core.intake.actions import IntakeAction
from aimtrue.core.intake.tasks import (
    JoinTask,
    LookOverTask,
    MendTask,
    RefineTask,
    SeparateTask,
    TakeAsOneTask,
)
from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.remedy import Remedy, Ways
from aimtrue.core.model.value import Value
from aimtrue.core.seating import remedies as seating
from aimtrue.core.seating.actions import SeatingAction
from aimtrue.core.seating.tasks import ArrangeTask
from aimtrue.core.truing import remedies as truing
from aimtrue.core.truing.actions import TruingAction

_ROOMS: tuple[Ways, ...] = (intake.ways_of, truing.ways_of, seating.ways_of)


class RemedyButton(Value):
    """A button beside a finding: an action, work in the background, or the sheet where it can be done.

    ``asks`` is what is to be told in the action's reason before it is done.
    """

    kind: Literal["action", "work", "sheet"]
    says: str
    asks: str = ""
    sheet: Literal["", "division"] = ""
    action: Annotated[IntakeAction | TruingAction | SeatingAction, Field(discriminator="do")] | None = None
    work: (
        Annotated[
            MendTask | LookOverTask | SeparateTask | JoinTask | TakeAsOneTask | RefineTask | ArrangeTask,
            Field(discriminator="do"),
        ]
        | None
    ) = None


class ShownFinding(Finding):
    """A finding with what can be done about it; where that is nothing, its words are the advice."""

    ways: tuple[RemedyButton, ...] = ()


_TOLD: Memo[ShownFinding] = Memo(8192)


def told(findings: Iterable[Finding]) -> tuple[ShownFinding, ...]:
    """Return findings with what the rooms can do about them."""
    return tuple(_TOLD.get((finding,), (), partial(_told, finding)) for finding in findings)


def _told(finding: Finding) -> ShownFinding:
    ways = tuple(_doable(way) for room in _ROOMS for way in room(finding))
    fields = {name: getattr(finding, name) for name in Finding.model_fields}
    return ShownFinding.model_construct(**fields, ways=ways)


def _doable(way: Remedy) -> RemedyButton:
    if isinstance(way.does, str):
        return RemedyButton(kind="sheet", says=way.says, sheet=way.does)
    kind: Literal["action", "work"] = "action" if isinstance(way.does, ActionValue) else "work"
    made: dict[str, Any] = {"action": None, "work": None, "sheet": "", kind: way.does}
    return RemedyButton.model_construct(kind=kind, says=way.says, asks=way.asks, **made)
