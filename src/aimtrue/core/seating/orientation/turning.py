"""Turning a seat: what each action makes of its turns."""

from __future__ import annotations

from math import atan2, degrees, isfinite

import numpy as np

from aimtrue.core.chain.allowance import allowed_points
from aimtrue.core.chain.seat_turns import seat_matrix, turn_down
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.angles import parse_degrees
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import seated_with, subject_of
from aimtrue.core.model.seats import Seat, Turn
from aimtrue.core.model.value import Vec3
from aimtrue.core.seating.actions import (
    FaceDown,
    LevelAll,
    LevelSeat,
    LineUp,
    MirrorSeat,
    ResetSeat,
    RestOn,
    TurnSeat,
)
from aimtrue.core.seating.orientation.orientations import lowest_stance
from aimtrue.core.seating.placement.places import seated_groups
from aimtrue.core.seating.placement.placing import Changes, here


def turned(job: Job, action: TurnSeat, seat: Seat, store: GeometryStore) -> Changes:
    """Turn it by a typed angle."""
    typed = action.typed.strip()
    stays: Changes = dict(here(job, seat, store)) if action.here else {}
    if action.absolute:
        kept = tuple(turn for turn in seat.turns if turn.about is not None or turn.axis != action.axis)
        angle = parse_degrees(typed, zero=True)
        turns = (Turn(axis=action.axis, degrees=angle, typed=typed),) if angle else ()
        return {**stays, "turns": (*kept, *turns)}
    turn = Turn(axis=action.axis, degrees=parse_degrees(typed), typed=typed)
    return {**stays, "turns": (*seat.turns, turn)}


def as_it_came(job: Job, action: ResetSeat, seat: Seat, store: GeometryStore) -> Changes:
    """Forget all turns."""
    return {"turns": (), "mirrored": False}


def resting(job: Job, action: RestOn, seat: Seat, store: GeometryStore) -> Changes:
    """Bring a direction of the body down."""
    return {"turns": _down(seat, np.asarray(action.down, np.float64))}


def _down(seat: Seat, way: Floats) -> tuple[Turn, ...]:
    """Turns that bring a direction of the body straight down, whatever turns there were."""
    length = float(np.linalg.norm(way))
    if not isfinite(length) or length < 1e-9:
        raise Refused("no-direction", "that is no direction", remedy="choose one of the ways to stand")
    plain = seat.model_copy(update={"turns": ()})
    turn = turn_down(seat_matrix(plain) @ (way / length), "face down")
    return () if turn is None else (turn,)


def face_down(job: Job, action: FaceDown, seat: Seat, store: GeometryStore) -> Changes:
    """Bring the face of a picked triangle down."""
    body = job.body(action.on)
    mesh = store.mesh(body.geometry)
    if body not in seated_with(job, action.body) or not 0 <= action.face < mesh.triangles:
        raise Refused("no-face", "there is no such face on this body", remedy="pick a face again")
    feature = store.features(body).at(action.face)
    corners = list(feature.corners[:3]) if feature is not None and feature.flat else None
    points = mesh.vertices[corners if corners else mesh.faces[action.face]]
    a, b, c = allowed_points(job, body, points)
    normal = np.cross(b - a, c - a)
    own = allowed_points(job, body, mesh.vertices[mesh.faces[action.face]])
    outward = np.cross(own[1] - own[0], own[2] - own[0])
    if float(np.linalg.norm(normal)) == 0 or float(np.linalg.norm(outward)) == 0:
        raise Refused("no-face", "this face has no area", remedy="pick one beside it")
    return {"turns": _down(seat, normal if normal @ outward > 0 else -normal)}


def levelled(job: Job, action: LevelSeat, seat: Seat, store: GeometryStore) -> Changes:
    """Lay the lowest flat region flat."""
    stance = lowest_stance(job, seated_with(job, action.body), seat, store)
    if stance.level is None:
        raise Refused(
            "nothing-flat",
            "no flat region is within 5 degrees of level",
            remedy="choose a way to stand, or put a face down",
        )
    turn = turn_down(np.asarray(stance.level.down), "level")
    if turn is None or stance.level.flat:
        raise Refused("level", "it stands level already", remedy="nothing needs to be done")
    return {"turns": (*seat.turns, turn)}


def lined_up(job: Job, action: LineUp, seat: Seat, store: GeometryStore) -> Changes:
    """Turn an edge along an axis of the plate."""
    body = job.body(action.on)
    mesh = store.mesh(body.geometry)
    if body not in seated_with(job, action.body) or not 0 <= action.face < mesh.triangles:
        raise Refused("no-edge", "there is no such edge on this body", remedy="pick an edge again")
    points = allowed_points(job, body, mesh.vertices[mesh.faces[action.face]]) @ seat_matrix(seat).T
    x, y, z = _level_run(points, action.weights)
    if np.hypot(x, y) < 1e-9 + 1e-6 * abs(z):
        raise Refused(
            "upright", "seen from above it has no direction", remedy="pick an edge or a face at its side"
        )
    # The shorter way round: an edge has no front.
    step = 90.0 if action.axis == "near" else 180.0
    angle = -degrees(atan2(y, x)) + (90.0 if action.axis == "y" else 0.0)
    angle = (angle + step / 2) % step - step / 2
    if abs(angle) < 1e-12:
        raise Refused("in-line", "it lies along that axis already", remedy="nothing needs to be done")
    return {"turns": (*seat.turns, Turn(axis="z", degrees=angle, says="in line"))}


def _level_run(points: Floats, weights: Vec3 | None) -> Floats:
    """Which way an edge of a triangle runs; of its face as a whole, what lies level in it."""
    if weights is not None:
        a, b = np.delete(points, int(np.argmin(weights)), axis=0)
        return np.asarray(b - a)
    x, y, z = np.cross(points[1] - points[0], points[2] - points[0])
    return np.array([-y, x, z])


def mirrored(job: Job, action: MirrorSeat, seat: Seat, store: GeometryStore) -> Changes:
    """Mirror it, or take that back."""
    return {"mirrored": not seat.mirrored}


def all_levelled(job: Job, action: LevelAll, store: GeometryStore) -> Job:
    """Lay the lowest flat region of every seat flat."""
    for group in seated_groups(job):
        seats = job.seats_of(subject_of(job, group[0]))
        laid = tuple(_flat(job, group, seat, store) for seat in seats)
        if laid != seats:
            job = job.with_seats(seats[0].subject, laid)
    return job


def _flat(job: Job, group: tuple[Body, ...], seat: Seat, store: GeometryStore) -> Seat:
    level = lowest_stance(job, group, seat, store).level
    turn = None if level is None or level.flat else turn_down(np.asarray(level.down), "level")
    return seat if turn is None else seat.model_copy(update={"turns": (*seat.turns, turn)})
