"""Arranging the seats of a job: which go where, as an action, and what fits nowhere."""

from __future__ import annotations

from collections.abc import Callable, Collection
from math import isfinite

import numpy as np

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.ids import SeatId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_gap, written
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.seats import Plate
from aimtrue.core.model.value import AXES, Vec3
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.seating.actions import Arrange, SeatPlacement
from aimtrue.core.seating.arrangement.nesting import Layout, NestingPart, nest
from aimtrue.core.seating.arrangement.tight_fits import SLACK_MM
from aimtrue.core.seating.orientation.orientations import cover_of
from aimtrue.core.seating.placement.places import SeatPlace, places_of
from aimtrue.core.seating.placement.plates import MOST_PLATES, free_plates
from aimtrue.core.seating.seat_states import name_of
from aimtrue.core.seating.tasks import ArrangeTask

SECONDS = 6.0
_WIDEST_GAP_MM = 200.0
Tell = Callable[[float, str], bool]
"""Told how far it is; returns False to stop with the best so far."""


def arranged(
    job: Job, task: ArrangeTask, store: GeometryStore, tell: Tell = lambda share, says: True
) -> Arrange:
    """Find room for all seats that stand on plates of one machine.

    Seats of a second pass, and those that are lifted on purpose, stay where they are.

    Args:
        job: as it stands.
        task: which plate, and how.
        store: gives the meshes.
        tell: told how far it is.

    Raises:
        Refused: there is nothing to arrange, or the gap is none.
    """
    plate = job.plate(task.plate) if task.plate else job.plates[0]
    plates = [
        candidate
        for candidate in job.plates
        if candidate.machine == plate.machine and candidate.follows is None
    ]
    ids = {plate.id for plate in plates}
    places = [
        place for place in places_of(job, store).values() if place.seat.plate in ids and place.seat.lift == 0
    ]
    if not places:
        raise Refused(
            "nothing-seated", "nothing stands on these plates", remedy="put something on them first"
        )
    return _nested(job, places, plates, plate.machine, task, store, tell)


def arranged_aside(job: Job, subjects: Collection[str], task: ArrangeTask, store: GeometryStore) -> Arrange:
    """Find room on new plates, like the first one, for what some subjects are seated as.

    Whatever else stands on a plate stays where it is.

    Args:
        job: as it stands.
        subjects: keys of kits and bodies, as seats have them.
        task: how; which plate it names does not matter.
        store: gives the meshes.

    Raises:
        Refused: the gap is none, or there are more plates than a job may have.
    """
    places = [place for place in places_of(job, store).values() if place.seat.subject in subjects]
    return _nested(job, places, [], job.plates[0].machine, task, store, lambda share, says: True)


def _nested(  # noqa: PLR0913 - what stands where, and how it is to be arranged
    job: Job,
    places: list[SeatPlace],
    plates: list[Plate],
    machine: Machine,
    task: ArrangeTask,
    store: GeometryStore,
    tell: Tell,
) -> Arrange:
    """Find room for places on plates of a machine, and on new ones where these do not do."""
    gap = gap_asked(task)
    over = {place.seat.id: over_by(job, place, machine) for place in places}
    room = machine.volume.plate(machine.kept_free)
    parts = [_part(job, place, store) for place in places if over[place.seat.id][2] <= SLACK_MM]
    layout = nest(
        parts, room, gap, task.turns, task.seconds, lambda share, says, _: tell(0.05 + 0.9 * share, says)
    )
    return _action(job, plates, places, over, layout)


def gap_asked(task: ArrangeTask) -> float:
    """Return the gap in mm, or raise :class:`Refused`."""
    gap = parse_gap(task.gap)
    if not isfinite(gap) or not 0 <= gap <= _WIDEST_GAP_MM:
        raise Refused(
            "gap", f"a gap of {task.gap.strip()} is none", remedy=f"type one from 0 to {_WIDEST_GAP_MM:g} mm"
        )
    return gap


def over_by(job: Job, place: SeatPlace, machine: Machine) -> Vec3:
    """Return by how much a seat is larger than the room of a machine along each axis; 0 or less when not."""
    return as_vec3(np.ptp(place.bounds, axis=0) - np.asarray(machine.free))


def _part(job: Job, place: SeatPlace, store: GeometryStore) -> NestingPart:
    seat = place.seat
    key = f"{seat.subject} {seat.mirrored} {hash(seat.turns)}"
    return NestingPart(seat.id, cover_of(job, place.bodies, seat, store), key)


def _action(
    job: Job, plates: list[Plate], places: list[SeatPlace], over: dict[SeatId, Vec3], layout: Layout
) -> Arrange:
    more = max(0, layout.plates - len(plates))
    if len(job.plates) + more > MOST_PLATES:
        raise Refused(
            "plates",
            f"this takes over {MOST_PLATES} plates",
            remedy="arrange fewer copies, or on a larger machine",
        )
    ids = [plate.id for plate in plates] + free_plates(job, more)
    puts = tuple(
        SeatPlacement(
            seat=part_placement.id,
            plate=ids[part_placement.plate],
            turn=part_placement.turn,
            x=part_placement.x,
            y=part_placement.y,
        )
        for part_placement in layout.laid
    )
    laid = {put.seat for put in puts}
    left = [place for place in places if place.seat.id not in laid]
    return Arrange(
        puts=puts,
        plates=tuple(ids[len(plates) :]),
        off=tuple(place.seat.id for place in left),
        told=tuple(
            f"{name_of(job, place)} fits on no plate{_over_words(over[place.seat.id])}" for place in left
        ),
    )


def _over_words(over: Vec3) -> str:
    excesses = [
        f"{axis.upper()} by {written(over_mm)} mm"
        for axis, over_mm in zip(AXES, over, strict=True)
        if over_mm > 0
    ]
    return f": too large in {', '.join(excesses)}" if excesses else " as it is turned"
