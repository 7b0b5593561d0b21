"""This module lists the kinds of findings about how bodies go together."""

from __future__ import annotations

from aimtrue.core.model.finding import FindingKind

PAIR_BROKEN = FindingKind(
    "pair-broken", "look", "fit", "never",
    lambda _, group, n: f"{n:,} pairs do not do what they are meant to; {group[0].says}",
)  # fmt: skip
PAIR_UNSURE = FindingKind(
    "pair-unsure", "note", "fit", "never",
    lambda _, group, n: f"{n:,} pairs may not do what they are meant to; {group[0].says}",
)  # fmt: skip
PAIR_LOST = FindingKind("pair-lost", "look", "fit")
NOT_KEPT = FindingKind("not-kept", "look", "fit")

KINDS = (PAIR_BROKEN, PAIR_UNSURE, PAIR_LOST, NOT_KEPT)
