"""Where bodies stand: kits as one, side by side on the plate."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from aimtrue.core.chain.allowance import allowed_bounds, allowed_points
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.memo import Memo
from aimtrue.core.seating.rows import seat_shifts
from aimtrue.core.seating.turns import seat_matrix


@dataclass(frozen=True, eq=False)
class Place:
    """Where one body is.

    Attributes:
        bounds: (2, 3) in mm from the front left corner of the plate, exact for any turn.
        shift: (3,) the move that took the turned body there; the same for all bodies of a kit.
    """

    bounds: Floats
    shift: Floats


def places_of(job: Job, shelf: Shelf) -> dict[str, Place]:
    """Return the place of every body whose unit is settled."""
    groups = [group for group in job.groups() if all(job.source_of(body).unit for body in group)]
    turned = [[_known_bounds(job, body, shelf) for body in group] for group in groups]
    whole = [_union(bounds) for bounds in turned]
    places = {}
    for group, bounds, shift in zip(groups, turned, seat_shifts(whole, job.machine), strict=True):
        for body, own in zip(group, bounds, strict=True):
            places[body.id] = Place(own + shift, shift)
    return places


def seated_points(job: Job, body: Body, points: Floats, place: Place) -> Floats:
    """Bring (n, 3) points of the file to the plate."""
    return allowed_points(job, body, points) @ seat_matrix(job.seat_of(body)).T + place.shift


_TURNED: Memo[Floats] = Memo(8192)


def _known_bounds(job: Job, body: Body, shelf: Shelf) -> Floats:
    turns = job.seat_of(body).turns
    return _TURNED.get(job.in_force(body), turns, lambda: _turned_bounds(job, body, shelf))


def _turned_bounds(job: Job, body: Body, shelf: Shelf) -> Floats:
    turns = job.seat_of(body).turns
    if not turns:
        return allowed_bounds(job, body)
    # Under quarter turns the corners of the bounds tell as much as all the vertices.
    oblique = any(turn.degrees % 90 for turn in turns)
    points = (
        allowed_points(job, body, shelf.mesh(body.geometry).vertices)
        if oblique
        else allowed_bounds(job, body)
    )
    turned = points @ seat_matrix(job.seat_of(body)).T
    return np.stack([turned.min(axis=0), turned.max(axis=0)])


def _union(bounds: list[Floats]) -> Floats:
    ends = np.stack(bounds)
    return np.stack([ends[:, 0].min(axis=0), ends[:, 1].max(axis=0)])
