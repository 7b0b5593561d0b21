"""Copies, plates and their machines."""

from __future__ import annotations

from itertools import islice

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import seated_with, standing_together, subject_of
from aimtrue.core.model.seats import Plate, Seat, Turn
from aimtrue.core.seating.actions import AddPlate, Arrange, RemovePlate, SetCopies, SetMachine
from aimtrue.core.seating.machines import checked_machine
from aimtrue.core.seating.placement.placing import OFF_PLATE

MOST_COPIES = 500
MOST_PLATES = 100


def set_copies(job: Job, action: SetCopies, store: GeometryStore) -> Job:
    """Make so many copies, or take away the last ones."""
    group = seated_with(job, action.body)
    job.settled_unit(group[0])
    count = _count(action.typed)
    seats = sorted(job.seats_of(subject_of(job, group[0])), key=lambda seat: seat.copy_number)
    kept, first = seats[:count], seats[0]
    taken = {seat.copy_number for seat in kept}
    free = (number for number in range(1, MOST_COPIES + len(taken) + 1) if number not in taken)
    more = (
        first.model_copy(update={"copy_number": next(free), "x": None, "y": None})
        for _ in range(count - len(kept))
    )
    return job.with_seats(first.subject, (*kept, *more))


def _count(typed: str) -> int:
    text = typed.strip()
    if not text.isascii() or not text.isdigit():
        raise Refused(
            "count", f"“{text}” is not a number of copies", remedy=f"type a number from 1 to {MOST_COPIES}"
        )
    if not 1 <= int(text[:9]) <= MOST_COPIES:
        raise Refused(
            "count",
            f"{text} copies cannot be seated: at most {MOST_COPIES}, and one at least",
            remedy="take it off its plate if none is wanted",
        )
    return int(text)


def set_machine(job: Job, action: SetMachine, store: GeometryStore) -> Job:
    """Give a plate, or all, another machine."""
    machine = checked_machine(action.machine)
    if action.plate is not None:
        job.plate(action.plate)
    plates = tuple(
        plate.model_copy(update={"machine": machine}) if action.plate in (None, plate.id) else plate
        for plate in job.plates
    )
    return job.model_copy(update={"plates": plates})


def add_plate(job: Job, action: AddPlate, store: GeometryStore) -> Job:
    """Add a plate."""
    like = job.plate(action.follows) if action.follows else job.plates[-1]
    return with_plates(job, 1, like, action.follows)


def with_plates(job: Job, count: int, like: Plate, follows: str | None = None) -> Job:
    """Return the job with more plates of the machine of one."""
    if len(job.plates) + count > MOST_PLATES:
        raise Refused("plates", f"there can be {MOST_PLATES} plates at most", remedy="release some first")
    plates = tuple(Plate(id=key, machine=like.machine, follows=follows) for key in free_plates(job, count))
    return job.model_copy(update={"plates": (*job.plates, *plates)})


def free_plates(job: Job, count: int) -> list[str]:
    """Return ids that further plates get."""
    taken = {plate.id for plate in job.plates}
    free = (key for number in range(1, 2 * MOST_PLATES) if (key := f"p{number}") not in taken)
    return list(islice(free, count))


def remove_plate(job: Job, action: RemovePlate, store: GeometryStore) -> Job:
    """Take a plate away, and what stands on it off."""
    gone = job.plate(action.plate)
    if len(job.plates) == 1:
        raise Refused("last-plate", "a job has one plate at least", remedy="take the bodies off it instead")
    plates = tuple(
        plate.model_copy(update={"follows": None}) if plate.follows == gone.id else plate
        for plate in job.plates
        if plate.id != gone.id
    )
    seats = [
        seat.model_copy(update=OFF_PLATE) if seat.plate == gone.id else seat
        for group in standing_together(job)
        for seat in job.seats_of(subject_of(job, group[0]))
    ]
    return job.model_copy(update={"plates": plates, "seats": _touched(job, seats, plates[0].id)})


def _touched(job: Job, seats: list[Seat], first: str) -> tuple[Seat, ...]:
    """Leave out seats that nobody has touched: such are not kept."""
    counts: dict[str, int] = {}
    for seat in seats:
        counts[seat.subject] = counts.get(seat.subject, 0) + 1
    return tuple(
        seat for seat in seats if counts[seat.subject] > 1 or seat != Seat(subject=seat.subject, plate=first)
    )


def arrange(job: Job, action: Arrange, store: GeometryStore) -> Job:
    """Put seats where an arrangement found room."""
    known = {
        seat.id: seat for group in standing_together(job) for seat in job.seats_of(subject_of(job, group[0]))
    }
    if action.plates:
        first = next((plate for plate in job.plates if plate.id == action.puts[0].plate), job.plates[0])
        job = with_plates(job, len(action.plates), first)
    for key in action.off:
        if key in known:
            known[key] = known[key].model_copy(update=OFF_PLATE)
    for put in action.puts:
        seat = known.get(put.seat)
        if seat is None:
            raise Refused("seat-unknown", "what was arranged is no longer there", remedy="arrange again")
        job.plate(put.plate)
        turn = (Turn(axis="z", degrees=put.turn, says="arranged"),) if put.turn else ()
        known[put.seat] = seat.model_copy(
            update={"plate": put.plate, "x": put.x, "y": put.y, "turns": (*seat.turns, *turn)}
        )
    seats = _touched(job, list(known.values()), job.plates[0].id)
    return job.model_copy(update={"seats": seats})
