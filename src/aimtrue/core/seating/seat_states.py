"""Every seat as it stands now: where, how it is turned, what it rests on, and what is the matter with it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from aimtrue.core.chain.seat_turns import seat_matrix
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.mesh.outlines import rings_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId, PlateId, Subject
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import written
from aimtrue.core.model.machine import Machine, Margins
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.ownership import subject_name, subject_of
from aimtrue.core.model.seats import Plate, Seat
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.seating.orientation.orientations import Orientation, cover_of, frame_of, lowest_stance
from aimtrue.core.seating.placement.collision import SeatOverlap, overlaps_of
from aimtrue.core.seating.placement.places import SeatPlace, places_of, seated_groups
from aimtrue.core.seating.placement.room import RoomCheck, room_of

_ZONE_MM = 50.0
_ZONES = (2, 9)
Mark = Literal["overlap", "outside", "margin", "tilt", "sunk", "lifted"]
Rows = tuple[Vec3, Vec3, Vec3]


@dataclass(frozen=True, slots=True)
class SeatedBody:
    """One body of a seat: ``matrix`` (3 x 3, by rows) times file point, plus ``shift``: mm on the plate."""

    body: BodyId
    matrix: Rows
    shift: Vec3


class SeatState(Value):
    """One seat.

    Attributes:
        id, subject, copy_number, plate: as in the job; ``plate`` is empty for one on none.
        number: of its balloon, from 1 on its plate.
        name: of its body or kit, with the number of its copy where there are several.
        bodies: where each is drawn.
        room: where it is, and whether that is inside the machine; None while it is on no plate.
        zone: of the plate that its middle is in, such as C2.
        turn: how it is turned, in words; empty as it came.
        contact_mm2: what of it lies on the plate.
        tilt_deg, gap_mm, lower: of its lowest flat region; 0 when that is flat, None when there is none.
        marks: what is the matter with it.
    """

    id: str
    subject: Subject
    copy_number: int
    plate: PlateId
    number: int
    name: str
    mirrored: bool
    bodies: tuple[SeatedBody, ...]
    room: RoomCheck | None
    zone: str
    turn: str
    lift_mm: float
    contact_mm2: float
    tilt_deg: float | None
    gap_mm: float | None
    lower: str
    marks: tuple[Mark, ...]


class PlateState(Value):
    """One plate, with the zones of its sheet: so many figures along X and letters along Y."""

    id: str
    machine: Machine
    follows: str | None
    columns: int
    rows: int
    keeps_free: bool
    """Whether it has margins, or draws something around the first layer."""
    corners: tuple[tuple[float, float], ...]
    """Of its room within margins, in mm."""


@dataclass(frozen=True, eq=False)
class SeatStates:
    """All seats of a job with what is known of them.

    Attributes:
        places: of those on a plate, by id.
        rooms, stances: by id.
        overlaps: of seats of one plate.
    """

    places: dict[str, SeatPlace]
    rooms: dict[str, RoomCheck]
    stances: dict[str, Orientation]
    overlaps: list[SeatOverlap]


def standing_of(job: Job, store: GeometryStore) -> SeatStates:
    """Work out where all seats are, whether that is inside, and how they lie."""
    places = places_of(job, store)
    rooms = {key: seat_room(job, place, store) for key, place in places.items()}
    stances = {key: lowest_stance(job, place.bodies, place.seat, store) for key, place in places.items()}
    return SeatStates(places, rooms, stances, overlaps_of(job, places, store))


def seat_room(job: Job, place: SeatPlace, store: GeometryStore) -> RoomCheck:
    """Hold a seat against its machine; in one that is not a box, by its true outline."""
    machine = job.plate(place.seat.plate).machine
    plan = None if machine.volume.shape == "box" else _corners(job, place, store)
    return room_of(place.bounds, machine, plan)


def _corners(job: Job, place: SeatPlace, store: GeometryStore) -> Floats:
    cover = cover_of(job, place.bodies, place.seat, store)
    return np.concatenate(rings_of(cover)) + place.shift[:2]


def plates_now(job: Job) -> tuple[PlateState, ...]:
    """Return the plates of a job as they are drawn."""
    return tuple(_plate_now(plate) for plate in job.plates)


def _plate_now(plate: Plate) -> PlateState:
    columns, rows = zones_of(plate.machine)
    return PlateState(
        id=plate.id,
        machine=plate.machine,
        follows=plate.follows,
        columns=columns,
        rows=rows,
        keeps_free=plate.machine.kept_free != Margins(),
        corners=free_corners(plate.machine),
    )


def free_corners(machine: Machine) -> tuple[tuple[float, float], ...]:
    """Return the corners of what is left of a plate within margins, in mm."""
    return tuple((float(x), float(y)) for x, y in machine.volume.plate(machine.kept_free))


def zones_of(machine: Machine) -> tuple[int, int]:
    """Return into how many columns and rows of zones a plate is divided, of about 50 mm each."""
    x, y, _ = machine.volume.room
    least, most = _ZONES
    return tuple(max(least, min(most, round(side / _ZONE_MM))) for side in (x, y))  # type: ignore[return-value]


def zone_at(machine: Machine, middle: Floats) -> str:
    """Name the zone of a place on a plate: a letter from the front, a figure from the left."""
    columns, rows = zones_of(machine)
    x, y = middle / np.asarray(machine.volume.room[:2])
    column = max(0, min(columns - 1, int(x * columns)))
    row = max(0, min(rows - 1, int(y * rows)))
    return f"{'ABCDEFGHI'[row]}{column + 1}"


def seats_now(job: Job, standing: SeatStates) -> tuple[SeatState, ...]:
    """Return every seat whose unit is settled, those on no plate last."""
    overlapping = {key for overlap in standing.overlaps for key in (overlap.a, overlap.b)}
    states, counts = [], dict.fromkeys((*(plate.id for plate in job.plates), ""), 0)
    for group in seated_groups(job):
        seats = job.seats_of(subject_of(job, group[0]))
        for seat in seats:
            counts[seat.plate] += 1
            states.append(_seat_now(job, seat, group, standing, counts[seat.plate], len(seats), overlapping))
    order = {plate.id: number for number, plate in enumerate(job.plates)}
    return tuple(sorted(states, key=lambda seat: order.get(seat.plate, len(order))))


_NOW: Memo[SeatState] = Memo(8192)


def _seat_now(  # noqa: PLR0913 - told apart by their names
    job: Job,
    seat: Seat,
    group: tuple[Body, ...],
    standing: SeatStates,
    number: int,
    copies: int,
    overlapping: set[str],
) -> SeatState:
    place, stance = standing.places.get(seat.id), standing.stances.get(seat.id)
    name = seat_name(job, group, seat, copies)
    shift = np.zeros(3) if place is None else place.shift
    room = standing.rooms.get(seat.id)
    marks = marks_of(seat, room, stance, seat.id in overlapping)
    plain = (
        seat.id,
        seat.plate,
        seat.turns,
        seat.mirrored,
        seat.lift,
        tuple(shift.tolist()),
        number,
        name,
        marks,
    )
    things = tuple(thing for body in group for thing in job.in_force(body))
    machine = (job.plate(seat.plate).machine,) if place else ()
    return _NOW.get(
        (*things, *machine),
        plain,
        lambda: _worked_out(job, seat, group, place, stance, room, number, name, marks),
    )


def _worked_out(  # noqa: PLR0913 - told apart by their names
    job: Job,
    seat: Seat,
    group: tuple[Body, ...],
    place: SeatPlace | None,
    stance: Orientation | None,
    room: RoomCheck | None,
    number: int,
    name: str,
    marks: tuple[Mark, ...],
) -> SeatState:
    level = stance.level if stance else None
    return SeatState(
        id=seat.id,
        subject=seat.subject,
        copy_number=seat.copy_number,
        plate=seat.plate,
        number=number,
        name=name,
        mirrored=seat.mirrored,
        bodies=tuple(_seated(job, body, seat, place) for body in group),
        room=room,
        zone=zone_at(job.plate(seat.plate).machine, place.middle) if place else "",
        turn=turn_words(seat),
        lift_mm=seat.lift,
        contact_mm2=stance.contact_mm2 if stance and abs(seat.lift) < 1e-9 else 0.0,
        tilt_deg=None if level is None else (0.0 if level.flat else level.tilt_deg),
        gap_mm=None if level is None else (0.0 if level.flat else level.gap_mm),
        lower="" if level is None or level.flat else level.lower,
        marks=marks,
    )


def _seated(job: Job, body: Body, seat: Seat, place: SeatPlace | None) -> SeatedBody:
    # The pose is a matrix alone; kept bores are drawn by a mesh of their own.
    frame = frame_of(job, body, seat)
    matrix = frame.matrix * frame.scale
    rows = (as_vec3(matrix[0]), as_vec3(matrix[1]), as_vec3(matrix[2]))
    return SeatedBody(
        body=body.id, matrix=rows, shift=as_vec3(frame.shift + (0.0 if place is None else place.shift))
    )


def marks_of(
    seat: Seat, room: RoomCheck | None, stance: Orientation | None, overlapping: bool
) -> tuple[Mark, ...]:
    """Return what is the matter with a seat."""
    marks: list[Mark] = []
    if overlapping:
        marks.append("overlap")
    if room is not None and not room.inside and seat.lift >= 0:
        marks.append("outside")
    if room is not None and room.in_margin_mm > 0:
        marks.append("margin")
    if stance is not None and stance.level is not None and not stance.level.flat:
        marks.append("tilt")
    if abs(seat.lift) > 1e-9:
        marks.append("sunk" if seat.lift < 0 else "lifted")
    return tuple(marks)


def seat_name(job: Job, group: tuple[Body, ...], seat: Seat, copies: int) -> str:
    """Name a seat by its body or kit, with its copy where there are several."""
    name = subject_name(job, seat.subject)
    return f"{name}, copy {seat.copy_number}" if copies > 1 else name


def name_of(job: Job, place: SeatPlace) -> str:
    """Name a place by its seat."""
    return seat_name(job, place.bodies, place.seat, len(job.seats_of(place.seat.subject)))


def turn_words(seat: Seat) -> str:
    """Say how a seat is turned, shortly: about Z in degrees, else by how it was brought to lie."""
    if not seat.turns:
        return "mirrored" if seat.mirrored else ""
    if all(turn.about is None and turn.axis == "z" for turn in seat.turns):
        angle = sum(turn.degrees for turn in seat.turns) % 360
        says = f"{written(angle, 1).removesuffix('.0')}°"
    else:
        matrix = seat_matrix(seat)
        says = "turned" if not np.allclose(matrix, np.eye(3)) else "0°"
    return f"{says}, mirrored" if seat.mirrored else says
