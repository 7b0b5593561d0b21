"""This module says which bodies go into which file of a release, and where in it they are."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np

from aimtrue.core.chain.allowance import allowed_bounds
from aimtrue.core.cost.budgets import display_time
from aimtrue.core.cost.kept_estimates import estimate_kept
from aimtrue.core.cost.quick import quick_estimate
from aimtrue.core.errors import Refused
from aimtrue.core.intake.bodies.congruence import identical
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import PlateId
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import seat_of, subject_of, to_print
from aimtrue.core.model.seats import Seat
from aimtrue.core.release.order import Order
from aimtrue.core.seating.placement.places import SeatPlace, places_of, turned_bounds
from aimtrue.core.seating.plan_drawing import on_plate

_NOWHERE = np.zeros(3)


@dataclass(frozen=True, eq=False)
class FileBody:
    """One body of a file.

    Attributes:
        body, name: which, and what it is called in the file.
        seat: how it is turned; None where it lies as its file has it.
        shift: (3,) the move, in mm, that comes after the turns.
        bounds: (2, 3) where it is in the file, in mm.
    """

    body: Body
    name: str
    seat: Seat | None
    shift: Floats
    bounds: Floats

    def moved(self, by: Floats) -> FileBody:
        """Return the same moved by (3,) mm."""
        return replace(self, shift=self.shift + by, bounds=self.bounds + by)


@dataclass(frozen=True, eq=False)
class FileContents:
    """What goes into one file.

    ``plate`` is the id of the plate that it is of, if it is of one; ``count`` how many of the body it stands
    for, which is 1 of several together; ``takes`` how long it prints, where a name is to say that.
    """

    items: tuple[FileBody, ...]
    plate: PlateId | None
    count: int = 1
    takes: str = ""

    @property
    def bounds(self) -> Floats:
        """(2, 3): what all of it spans, in mm."""
        each = np.array([item.bounds for item in self.items])
        return np.array([each[:, 0].min(axis=0), each[:, 1].max(axis=0)])


def wanted(job: Job, order: Order) -> tuple[Body, ...]:
    """Return the bodies asked for; of all, those that were divided stand aside for their pieces.

    Raises:
        Refused: nothing is there to be printed, or one that is asked for is only there to check against.
    """
    if order.bodies is not None:
        bodies = tuple(job.body(key) for key in order.bodies)
        only_checked = next((body for body in bodies if body.for_checking), None)
        if only_checked is not None:
            raise Refused(
                "for-checking",
                f"{only_checked.name} is there to check against and is not released",
                remedy="mark it as to print on Intake, or leave it out",
            )
        return bodies
    return to_print(job, job.bodies)


def filed(job: Job, store: GeometryStore, order: Order) -> tuple[FileContents, ...]:
    """Return what goes into each file of a release.

    Raises:
        Refused: nothing of what is asked for stands on a plate, though it is to be released as it stands.
    """
    bodies = wanted(job, order)
    if order.place == "own":
        files = _in_their_own_place(job, bodies, order)
    else:
        files = _as_they_stand(job, bodies, store, order)
    if order.shape == "each" and order.alike == "once":
        files = tuple(_once(job, files))
    if "{takes}" in order.pattern:
        files = tuple(replace(file, takes=_takes(job, file, store)) for file in files)
    return tuple(map(_put_down, files)) if order.place == "origin" else files


def _takes(job: Job, file: FileContents, store: GeometryStore) -> str:
    """How long a file prints: all of its plate where it holds that, else the share of its bodies."""
    seconds = 0.0
    for plate in job.plates:
        if file.plate not in (None, plate.id):
            continue
        estimate = estimate_kept(job, plate.id) or quick_estimate(job, plate.id, store)
        standing = Counter(body.id for place in on_plate(job, plate.id, store) for body in place.bodies)
        mine = Counter(item.body.id for item in file.items)
        if mine == standing:
            seconds += estimate.seconds
        else:
            seconds += sum(row.seconds * mine[row.id] / standing[row.id] for row in estimate.by_body)
    return display_time(seconds)


def _in_their_own_place(job: Job, bodies: tuple[Body, ...], order: Order) -> tuple[FileContents, ...]:
    items = [FileBody(body, body.name, None, _NOWHERE, allowed_bounds(job, body)) for body in bodies]
    if order.shape == "each":
        return tuple(FileContents((item,), None, _copies(job, item.body)) for item in items)
    return (FileContents(tuple(items), None),)


def _copies(job: Job, body: Body) -> int:
    """How many of a body stand on plates; one that stands on none is still one."""
    return max(1, sum(bool(seat.plate) for seat in job.seats_of(subject_of(job, body))))


def _as_they_stand(
    job: Job, bodies: tuple[Body, ...], store: GeometryStore, order: Order
) -> tuple[FileContents, ...]:
    ids = {body.id for body in bodies}
    files: list[FileContents] = []
    places = places_of(job, store)
    for plate in job.plates:
        if order.plates is not None and plate.id not in order.plates:
            continue
        here = [place for place in places.values() if place.seat.plate == plate.id]
        items = [_on_plate(job, body, place) for place in here for body in place.bodies if body.id in ids]
        if order.shape == "each":
            files += [FileContents((item,), plate.id) for item in items]
        elif items:
            files.append(FileContents(tuple(items), plate.id))
    if order.place == "origin" and order.shape == "each" and order.plates is None:
        files += _off_plates(job, bodies, files, store)
    if not files:
        raise Refused(
            "not-seated",
            "none of this stands on a plate",
            remedy="put it on one, on sheet 5, or release it where the file has it",
        )
    return tuple(files)


def _on_plate(job: Job, body: Body, place: SeatPlace) -> FileBody:
    return FileBody(body, _copy_name(job, body, place.seat), place.seat, place.shift, place.each[body.id])


def _off_plates(
    job: Job, bodies: tuple[Body, ...], files: list[FileContents], store: GeometryStore
) -> list[FileContents]:
    """Bodies that stand on no plate can be put down at the origin all the same."""
    standing = {item.body.id for file in files for item in file.items}
    contents = []
    for body in bodies:
        if body.id not in standing:
            seat = seat_of(job, body)
            ends = turned_bounds(job, body, seat, store)
            contents.append(FileContents((FileBody(body, body.name, seat, _NOWHERE, ends),), None))
    return contents


def standing_as_one(job: Job, items: tuple[FileBody, ...]) -> list[tuple[FileBody, ...]]:
    """Group the items of a file, in their order: the bodies that one body was split into stand as one."""
    groups: list[list[FileBody]] = []
    for item in items:
        before = groups[-1][0] if groups else None
        if before is not None and _split_from(job, before) == _split_from(job, item) is not None:
            alike = before.seat == item.seat and bool((before.shift == item.shift).all())
            if alike and all(file_body.body.id != item.body.id for file_body in groups[-1]):
                groups[-1].append(item)
                continue
        groups.append([item])
    return [tuple(some) for some in groups]


def _split_from(job: Job, item: FileBody) -> str | None:
    """The division that a body came of, where what it made stands as one."""
    key = item.body.division
    return key if key is not None and job.division(key).together else None


def _copy_name(job: Job, body: Body, seat: Seat) -> str:
    several = len(job.seats_of(seat.subject)) > 1
    return f"{body.name}, copy {seat.copy_number}" if several else body.name


def _once(job: Job, files: Iterable[FileContents]) -> list[FileContents]:
    """Of the same part only the first, with how many there are; a mirrored one is another part."""
    same = identical(job)
    contents: dict[tuple[object, ...], FileContents] = {}
    for file in files:
        (item,) = file.items
        part = same.get(item.body.id, (item.body.id,))
        key = (part, item.seat is not None and item.seat.mirrored)
        first = contents.get(key)
        if first is None:
            contents[key] = replace(file, items=(replace(item, name=item.body.name),))
        else:
            contents[key] = replace(first, count=first.count + file.count)
    return list(contents.values())


def _put_down(file: FileContents) -> FileContents:
    """What a file holds, moved as one: its middle over the origin, its lowest point on it."""
    low, high = file.bounds
    move = -np.array([(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2]])
    return replace(file, items=tuple(item.moved(move) for item in file.items))
