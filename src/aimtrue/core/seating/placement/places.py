"""This module says where seats stand on their plates: kits as one; those that nobody has placed side by
side in a row.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from aimtrue.core.chain.allowance import allowed_bounds, allowed_bounds_of, allowed_points
from aimtrue.core.chain.seat_turns import is_quarters, seat_key, seat_matrix
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.ownership import standing_together, subject_of
from aimtrue.core.model.seats import Plate, Seat
from aimtrue.core.seating.placement.side_by_side import row_moves


@dataclass(frozen=True, eq=False)
class SeatPlace:
    """Where one seat is.

    Attributes:
        seat, bodies: whose.
        bounds: (2, 3) of all its bodies in mm from the front left corner of the plate, exact for any turn.
        shift: (3,) the move that took the turned bodies there.
        each: per body its own bounds, (2, 3).
    """

    seat: Seat
    bodies: tuple[Body, ...]
    bounds: Floats
    shift: Floats
    each: dict[str, Floats] = field(repr=False)

    def moved(self, by: Floats) -> SeatPlace:
        """Return the same moved by (3,) mm."""
        each = {key: bounds + by for key, bounds in self.each.items()}
        return SeatPlace(self.seat, self.bodies, self.bounds + by, self.shift + by, each)

    @property
    def middle(self) -> Floats:
        """(2,): where its middle is, seen from above."""
        return np.asarray(self.bounds[:, :2].mean(axis=0))


def places_of(job: Job, store: GeometryStore) -> dict[str, SeatPlace]:
    """Return the place of every seat that is on a plate and whose unit is settled, by the seat's id."""
    seat_places: dict[str, SeatPlace] = {}
    seats = [
        (seat, group) for group in seated_groups(job) for seat in job.seats_of(subject_of(job, group[0]))
    ]
    for plate in job.plates:
        seat_places.update(
            _on_plate(job, plate, [seat for seat in seats if seat[0].plate == plate.id], store)
        )
    return seat_places


def seated_groups(job: Job) -> list[tuple[Body, ...]]:
    """Return the bodies of each kit, and each that stands by itself, whose units are settled."""
    return _GROUPS.get((job,), (), lambda: _seated_groups(job))


_GROUPS: Memo[list[tuple[Body, ...]]] = Memo(64)


def _seated_groups(job: Job) -> list[tuple[Body, ...]]:
    return [group for group in standing_together(job) if job.settled(group)]


def seat_of_copy(job: Job, group: tuple[Body, ...], copy_number: int) -> Seat:
    """Return the seat of one copy, or raise :class:`Refused`."""
    for seat in job.seats_of(subject_of(job, group[0])):
        if seat.copy_number == copy_number:
            return seat
    raise Refused("seat-unknown", f"there is no copy {copy_number} of it", remedy="reload the page")


def first_places(job: Job, places: dict[str, SeatPlace]) -> dict[str, SeatPlace]:
    """Return, by body, the place of its first seat that is on a plate."""
    seat_places: dict[str, SeatPlace] = {}
    for place in places.values():
        for body in place.bodies:
            seat_place = seat_places.get(body.id)
            if seat_place is None or place.seat.copy_number < seat_place.seat.copy_number:
                seat_places[body.id] = place
    return seat_places


def seated_points(job: Job, body: Body, points: Floats, place: SeatPlace) -> Floats:
    """Bring (n, 3) points of the file to the plate."""
    return np.asarray(allowed_points(job, body, points) @ seat_matrix(place.seat).T + place.shift)


def seated_mesh(job: Job, body: Body, mesh: Mesh, place: SeatPlace) -> Mesh:
    """Bring a body's mesh to the plate; a mirrored one is turned inside out again."""
    faces = mesh.faces[:, ::-1] if place.seat.mirrored else mesh.faces
    return Mesh(seated_points(job, body, mesh.vertices, place), faces)


def _on_plate(
    job: Job, plate: Plate, seats: list[tuple[Seat, tuple[Body, ...]]], store: GeometryStore
) -> dict[str, SeatPlace]:
    turned = [turned_bounds_of(job, group, seat, store) for seat, group in seats]
    whole = [np.stack([own[:, 0].min(axis=0), own[:, 1].max(axis=0)]) for own in turned]
    moves = row_moves([seat for seat, _ in seats], whole, plate.machine)
    return {
        seat.id: SeatPlace(
            seat,
            group,
            bounds + move,
            move,
            dict(zip((body.id for body in group), each + move, strict=True)),
        )
        for (seat, group), each, bounds, move in zip(seats, turned, whole, moves, strict=True)
    }


_TURNED_OF: Memo[Floats] = Memo(2048)


def turned_bounds_of(job: Job, bodies: tuple[Body, ...], seat: Seat, store: GeometryStore) -> Floats:
    """Return (n, 2, 3): the bounds in mm of several bodies as a seat turns them, before they are put in
    their place.
    """
    if len(bodies) == 1:
        return turned_bounds(job, bodies[0], seat, store)[None]
    things = (job, *bodies)
    return _TURNED_OF.get(things, (seat_key(seat),), lambda: _turned_bounds_of(job, bodies, seat, store))


def _turned_bounds_of(job: Job, bodies: tuple[Body, ...], seat: Seat, store: GeometryStore) -> Floats:
    if not is_quarters(seat):
        return np.stack([turned_bounds(job, body, seat, store) for body in bodies])
    ends = allowed_bounds_of(job, bodies)
    if not seat.turns and not seat.mirrored:
        return ends
    turned = ends @ seat_matrix(seat).T
    return np.stack([turned.min(axis=1), turned.max(axis=1)], axis=1)


_TURNED: Memo[Floats] = Memo(16_384)


def turned_bounds(job: Job, body: Body, seat: Seat, store: GeometryStore) -> Floats:
    """Return (2, 3): the bounds in mm of a body as a seat turns it, before it is put in its place."""
    return _TURNED.get(job.in_force(body), (seat_key(seat),), lambda: _turned_bounds(job, body, seat, store))


def _turned_bounds(job: Job, body: Body, seat: Seat, store: GeometryStore) -> Floats:
    if not seat.turns and not seat.mirrored:
        return allowed_bounds(job, body)
    # Under quarter turns the corners of the bounds tell as much as all the vertices.
    points = (
        allowed_bounds(job, body)
        if is_quarters(seat)
        else allowed_points(job, body, store.mesh(body.geometry).vertices)
    )
    turned = points @ seat_matrix(seat).T
    return np.stack([turned.min(axis=0), turned.max(axis=0)])
