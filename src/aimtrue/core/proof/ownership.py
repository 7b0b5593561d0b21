"""Whose decisions are in force for a body, stated a second time from plain values.

What a job holds are values: bodies, kits, readings, seats, divisions. Which correction a body has, which move
brings it home and what its seats are of are rules over these values. The core has them as methods of the
job; the proof does not ask these, since a fault in them would be on both sides. :class:`OwnedValues` is all
that the proof takes of a job, so that the type checker refuses a call of any of its rules.

The rules, as docs/architecture.md states them: a body of a kit has the kit's correction and shrinkage
unless it is alone, and always the kit's move home; its seats are those of its kit unless that is free; what
a split made stands as one, other pieces by themselves; who has no seat of its own stands on the first plate.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import Decisions
from aimtrue.core.model.division import Division
from aimtrue.core.model.readings import Reading
from aimtrue.core.model.seats import Plate, Seat
from aimtrue.core.model.source import Source
from aimtrue.core.model.value import Vec3


class KitValues(Protocol):
    """What a kit holds."""

    @property
    def id(self) -> str:
        """Its name among kits."""

    @property
    def shared(self) -> Decisions:
        """Correction and shrinkage of its bodies."""

    @property
    def home(self) -> Vec3:
        """The move of its bodies, in numbers of their files."""

    @property
    def free(self) -> bool:
        """Whether its bodies stand each by itself."""


class OwnedValues(Protocol):
    """The values of a job that a release is held against; nothing that is worked out of them."""

    @property
    def sources(self) -> Sequence[Source]:
        """Files."""

    @property
    def bodies(self) -> Sequence[Body]:
        """Bodies, pieces among them."""

    @property
    def kits(self) -> Sequence[KitValues]:
        """Kits."""

    @property
    def readings(self) -> Sequence[Reading]:
        """Gauges with their real lengths."""

    @property
    def plates(self) -> Sequence[Plate]:
        """Plates."""

    @property
    def seats(self) -> Sequence[Seat]:
        """Seats that somebody has touched."""

    @property
    def divisions(self) -> Sequence[Division]:
        """What was made of bodies."""


def source_of(job: OwnedValues, key: str) -> Source:
    """Return the source of an id."""
    (owned,) = (source for source in job.sources if source.id == key)
    return owned


def decisions_of(job: OwnedValues, body: Body) -> Decisions:
    """Return the correction and the shrinkage in force for a body."""
    if body.kit is None or body.alone:
        return body.own
    return _kit(job, body.kit).shared


def home_of(job: OwnedValues, body: Body) -> Vec3:
    """Return the move that brings a body home, in numbers of its file; one that is alone goes with its
    kit.
    """
    return body.home if body.kit is None else _kit(job, body.kit).home


def stands_as(job: OwnedValues, body: Body) -> str:
    """Return the id of what the seats of a body are of."""
    if body.division is not None:
        (its_division,) = (division for division in job.divisions if division.id == body.division)
        return its_division.id if its_division.together else body.id
    if body.kit is None or _kit(job, body.kit).free:
        return body.id
    return body.kit


def seats_of(job: OwnedValues, body: Body) -> list[Seat]:
    """Return how a body stands, every copy of it."""
    subject = stands_as(job, body)
    mine = [seat for seat in job.seats if seat.subject == subject]
    return mine or [Seat(subject=subject, plate=job.plates[0].id)]


def standing_with(job: OwnedValues, seat: Seat) -> list[Body]:
    """Return all bodies that stand in one seat: divided wholes and bodies to check against stand in none."""
    aside = {key for division in job.divisions if division.replaces for key in division.wholes}
    aside |= {body.id for body in job.bodies if body.for_checking}
    return [body for body in job.bodies if body.id not in aside and stands_as(job, body) == seat.subject]


def kept_together(job: OwnedValues, body: Body) -> list[Body]:
    """Return a body with all others of its kit."""
    return [
        other for other in job.bodies if other is body or (body.kit is not None and other.kit == body.kit)
    ]


def shares_frame(job: OwnedValues, source: Source) -> bool:
    """Tell whether a kit ties bodies of a source to those of another."""
    kits = {body.kit for body in job.bodies if body.source == source.id and body.kit is not None}
    return any(body.kit in kits and body.source != source.id for body in job.bodies)


def _kit(job: OwnedValues, key: str) -> KitValues:
    (found,) = (kit for kit in job.kits if kit.id == key)
    return found
