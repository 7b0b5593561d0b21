"""This module says what a budget is: at most so much of something, of a body, a plate or all of a job."""

from __future__ import annotations

from typing import Final, Literal

from aimtrue.core.model.value import Value

BudgetKind = Literal["grams", "seconds", "money", "volume", "height"]
BUDGET_KINDS: Final[tuple[BudgetKind, ...]] = ("grams", "seconds", "money", "volume", "height")


class Budget(Value):
    """At most so much.

    Attributes:
        of: the id of a plate or a body; empty for all of a job.
        typed: as it was typed, such as ``40 g``.
        kind: of what: grams, seconds, money, mm³ of material, or mm of height.
        most: of that.
    """

    of: str = ""
    typed: str
    kind: BudgetKind
    most: float
