"""This module says what can be done about a finding: an action at once, work in the background, another
sheet, or advice.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from aimtrue.core.model.action import ActionValue
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.value import Value


@dataclass(frozen=True)
class Remedy:
    """One thing that can be done: ``says`` names it on a button.

    ``does`` is an action, a piece of work, or the name of the sheet where more has to be said for it. An
    action with a reason of its own says in ``asks`` what is to be told in it.
    """

    says: str
    does: ActionValue | Value | Literal["division"]
    asks: str = ""


Ways = Callable[[Finding], list[Remedy]]
"""What a room can do about a finding; nothing, where it is another room's."""
