"""What can be done about a finding: an action taken at once, work in the background, or advice."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.value import Value


@dataclass(frozen=True)
class Way:
    """One thing that can be done: ``does`` is an action or a piece of work; ``says`` names it on a button."""

    says: str
    does: ActionValue | Value


Ways = Callable[[Finding], list[Way]]
"""What a room can do about a finding; nothing, where it is another room's."""
