"""This module lists the kinds of findings about readings and corrections, each with all that holds for it.

What finds them is in ``conflicts.py`` and ``changes.py``, what can be done about them in ``remedies.py``.
"""

from __future__ import annotations

from aimtrue.core.model.finding import FindingKind

READING_LOST = FindingKind("reading-lost", "look", "truing")
READING_MISSED = FindingKind(
    "reading-missed", "stop", "truing", "for-a-reason",
    lambda _, group, n: f"{n:,} readings are out of their band; {group[0].says}", by_body=True,
)  # fmt: skip
CHECK_MISSED = FindingKind(
    "check-missed", "look", "truing", "never",
    lambda _, group, n: f"{n:,} checking readings are out of their band; {group[0].says}", by_body=True,
)  # fmt: skip
READINGS_DISAGREE = FindingKind("readings-disagree", "look", "truing")
CLEARANCE_ALL = FindingKind("clearance-all", "look", "truing")
BOLT_HOLES = FindingKind("bolt-holes", "look", "truing")
THIN_WALL = FindingKind(
    "thin-wall", "look", "truing", "never",
    lambda _, group, __: f"walls of {len(group):,} bodies are thin; {group[0].says}",
)  # fmt: skip
THREAD = FindingKind("thread", "look", "truing")
GAP = FindingKind("gap", "look", "truing")
KIT_MIXED = FindingKind("kit-mixed", "look", "truing")

KINDS = (
    READING_LOST, READING_MISSED, CHECK_MISSED, READINGS_DISAGREE, CLEARANCE_ALL, BOLT_HOLES, THIN_WALL,
    THREAD, GAP, KIT_MIXED,
)  # fmt: skip
