"""This module lists the kinds of findings about seats, each with all that holds for its kind.

What finds them is in ``findings.py``, what can be done about them in ``remedies.py``.
"""

from __future__ import annotations

from collections.abc import Callable

from aimtrue.core.model.finding import Finding, FindingKind, Severity
from aimtrue.core.model.job import Job


def _of_seats(
    code: str, severity: Severity, several: Callable[[Job, list[Finding], int], str]
) -> FindingKind:
    return FindingKind(code, severity, "seating", several=several, by_body=True)


OUTSIDE_MACHINE = _of_seats(
    "outside-machine", "look",
    lambda job, group, n: f"{n:,} seats are outside {job.machine.name}; {group[0].says}",
)  # fmt: skip
IN_MARGIN = _of_seats(
    "in-margin", "look",
    lambda job, group, n: f"{n:,} seats are in the margin of {job.machine.name}; {group[0].says}",
)  # fmt: skip
TILTED = _of_seats("tilted", "look", lambda _, group, n: f"{n:,} seats are tilted; {group[0].says}")
NOTHING_FLAT = _of_seats("nothing-flat", "note", lambda _, __, n: f"{n:,} seats rest on nothing flat")
SEATS_OVERLAP = FindingKind(
    "seats-overlap", "look", "seating",
    several=lambda _, group, n: f"{n:,} pairs of seats overlap; {group[0].says}",
)  # fmt: skip
SUNK = _of_seats("sunk", "look", lambda _, group, n: f"{n:,} seats are sunk into the plate; {group[0].says}")
LIFTED = _of_seats("lifted", "note", lambda _, __, n: f"{n:,} seats stand over the plate on purpose")
HANGING_FIRST_LAYER = _of_seats("hanging-first-layer", "look", lambda _, group, __: group[0].says)
NOT_SEATED = _of_seats("not-seated", "note", lambda _, __, n: f"{n:,} bodies are on no plate")
PASS_MISSES = _of_seats(
    "pass-misses", "look", lambda _, __, n: f"{n:,} seats have nothing below them from the pass before"
)
PASS_GAP = _of_seats(
    "pass-gap", "look",
    lambda _, group, n: f"{n:,} seats of a second pass do not touch the first; {group[0].says}",
)  # fmt: skip

KINDS = (
    OUTSIDE_MACHINE, IN_MARGIN, TILTED, NOTHING_FLAT, SEATS_OVERLAP, SUNK, LIFTED, HANGING_FIRST_LAYER,
    NOT_SEATED, PASS_MISSES, PASS_GAP,
)  # fmt: skip
