"""This module describes the room of sheet 3, Fit, to whatever spans the rooms."""

from __future__ import annotations

from collections.abc import Iterator

from aimtrue.core.fit.answers import COMMANDS
from aimtrue.core.fit.finding_kinds import KINDS, PAIR_BROKEN, PAIR_LOST
from aimtrue.core.fit.handlers import ACTIONS, with_pairs, without_lost_bodies
from aimtrue.core.fit.standing import PairState, standing_pairs
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.finding import Finding
from aimtrue.core.model.job import Job
from aimtrue.core.model.value import Value
from aimtrue.core.room import BodyChange, Difference, Inquiry, Room


class FitSurvey(Value):
    """What is told of the pairs of a job, and how many do what they are meant to."""

    pairs: tuple[PairState, ...]
    holds: int


def survey_of(job: Job, store: GeometryStore) -> FitSurvey:
    """Return how the pairs of a job stand."""
    pairs = standing_pairs(job, store)
    return FitSurvey(pairs=pairs, holds=sum(map(_holds, pairs)))


def _holds(pair: PairState) -> bool:
    return pair.released is not None and pair.released.verdict == "holds"


def _findings(inquiry: Inquiry) -> Iterator[Finding]:
    for pair in inquiry.of(standing_pairs):
        released = pair.released
        who = " and ".join(dict.fromkeys(pair.names))
        if released is None:
            if pair.says and inquiry.job.settled((inquiry.job.body(pair.a),)):
                yield PAIR_LOST.found(
                    body=pair.names[0],
                    body_id=pair.a,
                    other_id=pair.b,
                    says=f"{pair.kind} of {who}: {pair.says}",
                )
        elif released.verdict == "does not hold":
            drawn = pair.states[0].clearance_mm
            was = f" (was {drawn:.3g} as drawn)" if abs(drawn - released.clearance_mm) > 5e-4 else ""
            yield PAIR_BROKEN.found(
                body=pair.names[0],
                body_id=pair.a,
                other_id=pair.b,
                says=f"{pair.kind} of {who} has {released.clearance_mm:.3g} mm of clearance{was}, "
                f"{pair.band_says} is wanted",
                remedy="open",
            )


def _done(inquiry: Inquiry) -> str:
    pairs = inquiry.of(standing_pairs)
    return f"{sum(map(_holds, pairs))} of {len(pairs)} hold" if pairs else ""


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


FIT = Room(
    name="fit",
    actions=ACTIONS,
    kinds=KINDS,
    findings=_findings,
    survey={"fit": lambda inquiry: inquiry.of(survey_of)},
    differences=_differences,
    sheet=_sheet,
    carry=with_pairs,
    uphold=without_lost_bodies,
    done=_done,
    commands=COMMANDS,
)
