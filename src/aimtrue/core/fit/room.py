"""This module describes the room of sheet 3, Fit, to whatever spans the rooms."""

from __future__ import annotations

from collections.abc import Iterator

from aimtrue.core.fit.answers import COMMANDS
from aimtrue.core.fit.finding_kinds import KINDS, NOT_KEPT, PAIR_BROKEN, PAIR_LOST, PAIR_UNSURE
from aimtrue.core.fit.handlers import ACTIONS, with_pairs, without_lost_bodies
from aimtrue.core.fit.inspection import handlers as inspection
from aimtrue.core.fit.inspection.targets import sizes_of_body
from aimtrue.core.fit.must_hold import Requirement, requirements
from aimtrue.core.fit.standing import PairState, standing_pairs
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.job import Job
from aimtrue.core.model.value import Value
from aimtrue.core.room import BodyChange, Difference, Inquiry, Room, Succession


class FitSurvey(Value):
    """What is told of the pairs of a job, and of all that must hold of it: how much of that does."""

    pairs: tuple[PairState, ...]
    must: tuple[Requirement, ...]
    holds: int


def survey_of(job: Job, store: GeometryStore) -> FitSurvey:
    """Return how the pairs of a job stand, and what else must hold."""
    must = requirements(job, store)
    return FitSurvey(pairs=standing_pairs(job, store), must=must, holds=sum(map(_holds, must)))


def _holds(row: Requirement) -> bool:
    return row.verdict == "holds"


def _findings(inquiry: Inquiry) -> Iterator[Finding]:
    for pair in inquiry.of(standing_pairs):
        if pair.released is None:
            if pair.says and inquiry.job.settled((inquiry.job.body(pair.a),)):
                yield PAIR_LOST.found(
                    body=pair.names[0],
                    body_id=pair.a,
                    other_id=pair.b,
                    says=f"{pair.kind} of {_who(pair)}: {pair.says}",
                )
        elif pair.verdict != "holds":
            kind = PAIR_BROKEN if pair.verdict == "does not hold" else PAIR_UNSURE
            yield kind.found(
                body=pair.names[0], body_id=pair.a, other_id=pair.b, says=_broken(pair), remedy="open"
            )
    for row in inquiry.of(requirements):
        if row.kind in ("kept bore", "as drawn") and not _holds(row):
            yield NOT_KEPT.found(
                body=inquiry.job.body(row.bodies[0]).name,
                body_id=row.bodies[0],
                says=f"{row.what} was {row.before} as drawn and is {row.after}; {row.remedy}",
            )


def _who(pair: PairState) -> str:
    return " and ".join(dict.fromkeys(pair.names))


def _broken(pair: PairState) -> str:
    """What is wrong with the clearance of a pair, with both values and what is wanted."""
    drawn, released = pair.states[0].clearance_mm, pair.states[-1].clearance_mm
    was = f" (was {drawn:.3g} as drawn)" if abs(drawn - released) > 5e-4 else ""
    printed = pair.printed
    more = f", {printed.clearance_mm:.3g} ± {printed.uncertainty_mm:.2g} printed" if printed else ""
    has = f"{pair.kind} of {_who(pair)} has {released:.3g} mm of clearance{was}{more}"
    return f"{has}, {pair.band_says} is wanted"


def _done(inquiry: Inquiry) -> str:
    must = inquiry.of(requirements)
    return f"{sum(map(_holds, must))} of {len(must)} hold" if must else ""


def _differences(change: BodyChange) -> Iterator[Difference]:
    first, second = (
        _told(job, body) for job, body in ((change.before, change.old), (change.after, change.new))
    )
    yield "pairs", first, second


def _told(job: Job, body: Body) -> str:
    said = [f"{pair.kind} {pair.typed or pair.intent}" for pair in job.pairs if body.id in (pair.a, pair.b)]
    return ", ".join(said) or "none"


def _sheet(job: Job, body: Body) -> Iterator[tuple[str, str]]:
    said = (
        f"{pair.kind} with {job.body(pair.b).name}: {pair.typed or pair.intent}"
        for pair in job.pairs
        if body.id == pair.a
    )
    yield "pairs", "; ".join(said)
    yield "when printed", _expected(job, body)


def _expected(job: Job, body: Body) -> str:
    """What the overall sizes of a body are expected to measure, where its machine was measured."""
    if not job.settled((body,)):
        return ""
    known = [size for size in sizes_of_body(job, body) if size.expected_mm is not None]
    return ", ".join(f"{size.axis} {size.expected_mm:.2f} ± {size.expected_off_mm:.2f}" for size in known)


def _carry(job: Job, succession: Succession) -> Job:
    return inspection.with_measured_sizes(with_pairs(job, succession), succession)


FIT = Room(
    name="fit",
    actions=(*ACTIONS, *inspection.ACTIONS),
    kinds=KINDS,
    findings=_findings,
    survey={"fit": lambda inquiry: inquiry.of(survey_of)},
    differences=_differences,
    sheet=_sheet,
    carry=_carry,
    uphold=lambda before, after, store: without_lost_bodies(before, after),
    done=_done,
    commands=COMMANDS,
)
