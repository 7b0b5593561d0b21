"""This module says whether a release as a whole holds every body and copy that was asked for, each once."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.seats import Seat
from aimtrue.core.proof.ownership import OwnedValues, seats_of
from aimtrue.core.proof.values import Check


@dataclass(frozen=True)
class RequestedRelease:
    """What was asked of a release.

    Attributes:
        bodies, plates: ids of those wanted; None for all.
        place: where bodies are in their files.
        each: whether each is its own file.
        once: whether the same part is then written once, with a count.
    """

    bodies: tuple[str, ...] | None
    plates: tuple[str, ...] | None
    place: str
    each: bool
    once: bool


Item = tuple[BodyId, str]
"""A body by id, and the copy of its seat, empty where it lies as its file has it."""


def completeness(
    job: OwnedValues, asked: RequestedRelease, released: Sequence[tuple[Body, Seat | None, int]]
) -> Check:
    """Hold what is in all files of a release against what was asked for.

    Args:
        job: with the decisions.
        asked: of the release.
        released: every body in every file, how it is seated, and how many it stands for.
    """
    wanted = Counter(_wanted(job, asked))
    present: Counter[Item] = Counter()
    for body, seat, count in released:
        present[(body.id, "" if seat is None else seat.id)] += 1 if not asked.once else count
    if asked.once and asked.each:
        parts = {body.id: body.alike or body.id for body in job.bodies}
        wanted, present = (Counter({}) + _by_part(counter, parts) for counter in (wanted, present))
    off = sum(((wanted - present) + (present - wanted)).values())
    return Check(
        code="complete",
        says="every body and copy asked for, each once",
        asked=str(wanted.total()),
        found=str(present.total()) if not off else f"{present.total()}, {off} of them wrong or missing",
        off=float(off),
        limit=0.0,
        holds=off == 0,
    )


def _by_part(items: Counter[Item], parts: dict[BodyId, str]) -> Counter[Item]:
    counter: Counter[Item] = Counter()
    for (body, _), count in items.items():
        counter[(BodyId(parts[body]), "")] += count
    return counter


def _wanted(job: OwnedValues, asked: RequestedRelease) -> list[Item]:
    """Every body and copy, from the decisions alone."""
    aside = {key for division in job.divisions if division.replaces for key in division.wholes}
    aside |= {body.id for body in job.bodies if body.for_checking}
    if asked.bodies is None:
        bodies = [body for body in job.bodies if body.id not in aside]
    else:
        named = [next(body for body in job.bodies if body.id == key) for key in asked.bodies]
        # One that was divided stands on no plate: its pieces do.
        bodies = [body for body in named if asked.place == "own" or body.id not in aside]
    plates = {plate.id for plate in job.plates}
    if asked.plates is not None:
        plates &= set(asked.plates)
    items: list[Item] = []
    for body in bodies:
        seats = seats_of(job, body)
        here = [seat for seat in seats if seat.plate in plates]
        if asked.place == "own":
            many = max(1, sum(bool(seat.plate) for seat in seats)) if asked.once and asked.each else 1
            items += [(body.id, "")] * many
        elif here:
            items += [(body.id, seat.id) for seat in here]
        elif asked.place == "origin" and asked.each and asked.plates is None:
            items.append((body.id, seats[0].id))
    return items
