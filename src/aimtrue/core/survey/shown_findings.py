"""Findings as the sheets show them: each with what can be done about it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import partial
from typing import Any, Literal

from aimtrue.core.actions import UserAction
from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.remedy import Remedy
from aimtrue.core.model.value import Value
from aimtrue.core.room import Room
from aimtrue.core.rooms import ROOMS
from aimtrue.core.tasks import UserTask


class RemedyButton(Value):
    """A button beside a finding: an action, work in the background, or the sheet where it can be done.

    ``asks`` is what is to be told in the action's reason before it is done.
    """

    kind: Literal["action", "task", "sheet"]
    says: str
    asks: str = ""
    sheet: Literal["", "division"] = ""
    action: UserAction | None = None
    task: UserTask | None = None


class ShownFinding(Finding):
    """A finding with what can be done about it; where that is nothing, its words are the advice."""

    ways: tuple[RemedyButton, ...] = ()


_TOLD: Memo[ShownFinding] = Memo(8192)


def told(findings: Iterable[Finding], rooms: Sequence[Room] = ROOMS) -> tuple[ShownFinding, ...]:
    """Return findings with what the rooms can do about them."""
    if rooms is not ROOMS:
        return tuple(_told(finding, rooms) for finding in findings)
    return tuple(_TOLD.get((finding,), (), partial(_told, finding, rooms)) for finding in findings)


def _told(finding: Finding, rooms: Sequence[Room]) -> ShownFinding:
    ways = tuple(_doable(way) for room in rooms for way in room.remedies(finding))
    fields = {name: getattr(finding, name) for name in Finding.model_fields}
    return ShownFinding.model_construct(**fields, ways=ways)


def _doable(way: Remedy) -> RemedyButton:
    if isinstance(way.does, str):
        return RemedyButton(kind="sheet", says=way.says, sheet=way.does)
    kind: Literal["action", "task"] = "action" if isinstance(way.does, ActionValue) else "task"
    fields: dict[str, Any] = {"action": None, "task": None, "sheet": "", kind: way.does}
    return RemedyButton.model_construct(kind=kind, says=way.says, asks=way.asks, **fields)
