"""This module lists the kinds of findings about how bodies go together."""

from __future__ import annotations

from aimtrue.core.model.finding import FindingKind

PAIR_BROKEN = FindingKind(
    "pair-broken", "look", "fit", "never",
    lambda _, group, n: f"{n:,} pairs do not do what they are meant to; {group[0].says}",
)  # fmt: skip
PAIR_LOST = FindingKind("pair-lost", "look", "fit")

KINDS = (PAIR_BROKEN, PAIR_LOST)
