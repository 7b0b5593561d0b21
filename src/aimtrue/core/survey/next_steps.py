"""Where to go on from each sheet: to the next in the order of the work that has something to do, and why."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import permutations

from aimtrue.core.model.finding import Finding
from aimtrue.core.model.job import Job
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.seating.placement.room import fits_as_it_lies
from aimtrue.core.survey.values import BodySurvey, NextStep, SheetName, SheetState

_ORDER: tuple[SheetName, ...] = ("intake", "truing", "fit", "division", "seating", "release")
_SKIPPED: tuple[SheetName, ...] = ("fit", "division")
"""Sheets that are passed by where nothing is to be done on them."""


def next_steps(
    job: Job, findings: Sequence[Finding], bodies: Sequence[BodySurvey], states: Sequence[SheetState]
) -> tuple[NextStep, ...]:
    """Return a step on for every sheet but the last.

    Args:
        job: the job.
        findings: as they are shown, those of several bodies gathered.
        bodies: what is told of each body.
        states: the marks of the sheets.
    """
    todo = {
        "fit": _on_fit(job, findings, states),
        "division": _on_division(job, bodies, states),
    }
    steps = []
    for place, sheet in enumerate(_ORDER[:-1]):
        ahead = _ORDER[place + 1 :]
        to = next(name for name in ahead if name not in _SKIPPED or todo[name])
        steps.append(NextStep(of=sheet, to=to, says=_open_here(findings, sheet) or todo.get(to, "")))
    return tuple(steps)


def _open_here(findings: Sequence[Finding], sheet: SheetName) -> str:
    """What a sheet itself still asks for, in the words of the first finding that does."""
    here = [finding for finding in findings if finding.sheet == sheet and not finding.accepted]
    first = next((finding for finding in here if finding.stops), None)
    if first is not None:
        return f"Nothing is released before this is settled: {first.says}."
    first = next((finding for finding in here if finding.severity == "look"), None)
    return f"Look at this first: {first.says}." if first is not None else ""


def _on_fit(job: Job, findings: Sequence[Finding], states: Sequence[SheetState]) -> str:
    count = sum(finding.sheet == "fit" and finding.severity in ("look", "stop") for finding in findings)
    if count:
        return "Look at what goes together before it is printed."
    if any(state.name == "fit" and state.says for state in states) and job.pairs:
        pairs = len(job.pairs)
        return f"See how the {pairs} {'pair' if pairs == 1 else 'pairs'} that go together come out."
    return ""


def _on_division(job: Job, bodies: Sequence[BodySurvey], states: Sequence[SheetState]) -> str:
    if any(state.name == "division" and state.mark == "look" for state in states):
        return "What was divided is made again."
    outside = [
        job.body(facts.id).name
        for facts in bodies
        if facts.chain and not facts.divided and not _goes_in(job, facts)
    ]
    if not outside:
        return ""
    more = f" and {len(outside) - 1} more" if len(outside) > 1 else ""
    return f"{outside[0]}{more} does not go into {job.machine.name}, whichever way it lies."


def _goes_in(job: Job, facts: BodySurvey) -> bool:
    """Whether a body goes into the machine, as it lies or by quarters; what is not printed need not."""
    body = job.body(facts.id)
    if body.for_checking or facts.chain is None:
        return True
    turned = map(as_vec3, permutations(facts.chain.size_mm))
    return any(fits_as_it_lies(sizes, job.machine) for sizes in turned)
