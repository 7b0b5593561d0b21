"""The marks of the sheets."""

from __future__ import annotations

from collections.abc import Mapping

from aimtrue.core.division.stale import stale_bodies
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.job import Job
from aimtrue.core.survey.values import NewestRelease, SheetName, SheetState


def sheets(
    job: Job,
    findings: tuple[Finding, ...],
    settled: bool,
    released: NewestRelease | None,
    done: Mapping[str, str],
) -> tuple[SheetState, ...]:
    """Return the mark of every sheet in the strip; ``done`` is what rooms say of theirs, by name."""

    def state(name: SheetName, done: str) -> SheetState:
        here = [finding for finding in findings if finding.sheet == name]
        stops = sum(finding.stops for finding in here)
        looks = sum(finding.severity == "look" for finding in here)
        if stops:
            return SheetState(name=name, mark="stop", says=f"{stops} stop")
        if looks:
            return SheetState(name=name, mark="look", says=f"{looks} look")
        return SheetState(name=name, mark="settled" if done else "blank", says=done)

    trued = settled and any(job.correction_of(body).set_by for body in job.bodies)
    return (
        state("intake", "settled" if settled else ""),
        state("truing", "trued" if trued else ("as in file" if settled else "")),
        state("fit", done.get("fit", "")),
        _division_sheet(job),
        state("seating", "on plate" if settled else ""),
        _release_sheet(released),
    )


def _division_sheet(job: Job) -> SheetState:
    stale, pieces = stale_bodies(job), [body for body in job.bodies if body.division is not None]
    if stale:
        return SheetState(name="division", mark="look", says="made again …")
    many = f"{len(pieces)} {'piece' if len(pieces) == 1 else 'pieces'}"
    return SheetState(name="division", mark="settled" if pieces else "blank", says=many if pieces else "")


def _release_sheet(released: NewestRelease | None) -> SheetState:
    if released is None:
        return SheetState(name="release", mark="blank", says="")
    if released.current:
        return SheetState(name="release", mark="settled", says=f"r{released.number} proven")
    return SheetState(name="release", mark="look", says=f"changed since r{released.number}")
