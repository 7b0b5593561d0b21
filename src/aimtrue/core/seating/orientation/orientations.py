"""This module says what is known of a body as it is turned, whatever its place: outline, level, contact.

A correction that scales all alike changes none of it but the scale. So it is worked out once for a geometry
and a way to stand, and scaled; and a change of factor asks no mesh.
"""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely

from aimtrue.core.chain.allowance import allowed_linear, allowed_points
from aimtrue.core.chain.seat_turns import seat_key, seat_matrix
from aimtrue.core.chain.transforms import true_linear
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.outlines import Outline, as_outline, outline_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.seats import Seat
from aimtrue.core.seating.orientation.level import LowestFlat, level_of
from aimtrue.core.seating.placement.footprint import contact_of
from aimtrue.core.seating.placement.places import turned_bounds_of

_KEPT = 2048


@dataclass(frozen=True)
class Orientation:
    """How a body lies: its lowest flat region, if it has one, and the area in mm2 that lies on the plate."""

    level: LowestFlat | None
    contact_mm2: float


@dataclass(frozen=True, eq=False)
class _Frame:
    """How points of a file come to where a seat turns them.

    Attributes:
        matrix: (3, 3) without scale, of determinant 1 or -1; shift: (3,) in mm.
        scale: what ``matrix`` is to be multiplied by.
        plain: whether that is all: kept bores are moved besides.
    """

    matrix: Floats
    shift: Floats
    scale: float
    plain: bool

    @cached_property
    def key(self) -> tuple[float, ...]:
        """What tells it from others, place and scale left out."""
        return tuple((np.round(self.matrix, 12) + 0.0).ravel().tolist())

    @cached_property
    def about_z(self) -> tuple[_Frame, Floats | None]:
        """One frame for all that differ by a turn about Z, and the (3, 3) turn that leads back, if it is one.

        How something lies is told by heights alone, and those by the last row; so a turn on the plate asks no
        mesh. What is stretched is left as it is.
        """
        matrix = self.matrix
        if float(abs(matrix @ matrix.T - np.eye(3)).max()) > 1e-9:
            return self, None
        up = matrix[2]
        aside = np.eye(3)[int(abs(up).argmin())]
        right = np.cross(aside, up)
        right /= np.linalg.norm(right)
        plain = np.stack([right, np.cross(up, right), up])
        if np.linalg.det(matrix) < 0:
            plain[0] = -plain[0]
        back = matrix @ plain.T
        return replace(self, matrix=plain), None if float(abs(back - np.eye(3)).max()) < 1e-12 else back


_FRAMES: Memo[_Frame] = Memo(2048)


def frame_of(job: Job, body: Body, seat: Seat) -> _Frame:
    """Return how points of a body's file are turned by a seat; bodies of a kit share one, as a rule."""
    _, decisions, source, home = job.in_force(body)
    own = (body,) if any(body.clearance.mm) or body.kept else ()
    plain = (seat_key(seat), home)
    return _FRAMES.get((decisions, source, *own), plain, lambda: _frame(job, body, seat))


def _frame(job: Job, body: Body, seat: Seat) -> _Frame:
    linear, shift = true_linear(job, body)
    if job.allowed(body):
        factors, more = allowed_linear(job, body)
        linear, shift = factors[:, None] * linear, factors * shift + more
    turn = seat_matrix(seat)
    matrix = turn @ linear
    scale = float(abs(np.linalg.det(matrix))) ** (1 / 3)
    return _Frame(matrix / scale, turn @ shift, scale, not body.kept)


def turned_mesh(job: Job, body: Body, seat: Seat, store: GeometryStore) -> Mesh:
    """Return a body in mm as a seat turns it, before it is put in its place; its faces outward."""
    mesh, turn = store.mesh(body.geometry), seat_matrix(seat)
    points = allowed_points(job, body, mesh.vertices) @ turn.T
    return Mesh(points, mesh.faces[:, ::-1] if seat.mirrored else mesh.faces)


def lowest_stance(job: Job, bodies: tuple[Body, ...], seat: Seat, store: GeometryStore) -> Orientation:
    """Return how several bodies of one seat lie together: as the lowest of them that lies on something flat.

    What lies on the plate is summed over all that reach down to it.
    """
    if len(bodies) == 1:
        return stance_of(job, bodies[0], seat, store)
    lows = turned_bounds_of(job, bodies, seat, store)[:, 0, 2]
    on_plate = lows - lows.min() < _ON_PLATE_MM
    frame = _shared_frame(job, bodies, seat)
    if frame is None:
        each = [stance_of(job, body, seat, store) for body in bodies]
        over = np.array([orientation.level.over_mm if orientation.level else np.inf for orientation in each])
        lowest = each[int((lows + over).argmin())].level
        return Orientation(
            lowest, sum(orientation.contact_mm2 for orientation, on in zip(each, on_plate, strict=True) if on)
        )
    plain, back = frame.about_z
    stances = _TOGETHER.get(bodies, (plain.key,), lambda: _stances(bodies, plain, store))
    lowest = stances.levels[int((lows + stances.over * frame.scale).argmin())]
    if lowest is not None:
        lowest = (lowest if back is None else lowest.turned(back)).times(frame.scale)
    return Orientation(lowest, float(stances.contacts[on_plate].sum()) * frame.scale**2)


@dataclass(frozen=True, eq=False)
class _Stances:
    """How several bodies lie in one frame, before its scale: levels, how far over their lowest place the
    region is (k,), and (k,) contacts.
    """

    levels: list[LowestFlat | None]
    over: Floats
    contacts: Floats


_TOGETHER: Memo[_Stances] = Memo(256)


def _stances(bodies: tuple[Body, ...], frame: _Frame, store: GeometryStore) -> _Stances:
    each = [_known_stance(body, frame, store) for body in bodies]
    levels = [orientation.level for orientation in each]
    over = np.array([level.over_mm if level else np.inf for level in levels])
    return _Stances(levels, over, np.array([orientation.contact_mm2 for orientation in each]))


def _known_stance(body: Body, frame: _Frame, store: GeometryStore) -> Orientation:
    return _STANCES.get((), _key(body, frame), lambda: _stance(_unscaled(body, frame, store)))


def _shared_frame(job: Job, bodies: tuple[Body, ...], seat: Seat) -> _Frame | None:
    """The frame of several bodies, where it is one and a matrix alone."""
    _, decisions, source, home = job.in_force(bodies[0])
    for body in bodies:
        _, other, their, there = job.in_force(body)
        own = other is not decisions or their is not source or there != home
        if own or body.kept or any(body.clearance.mm):
            return None
    return frame_of(job, bodies[0], seat)


_ON_PLATE_MM = 1e-3
_STANCES: Memo[Orientation] = Memo(8 * _KEPT)
_OUTLINES: Memo[Outline] = Memo(_KEPT)


def stance_of(job: Job, body: Body, seat: Seat, store: GeometryStore) -> Orientation:
    """Return how a body lies, turned by a seat."""
    frame = frame_of(job, body, seat)
    if not frame.plain:
        return _STANCES.get(
            job.in_force(body),
            (seat_key(seat),),
            lambda: _stance(turned_mesh(job, body, seat, store)),
        )
    plain, back = frame.about_z
    orientation = _known_stance(body, plain, store)
    level = orientation.level
    if level is not None:
        level = (level if back is None else level.turned(back)).times(frame.scale)
    return Orientation(level, orientation.contact_mm2 * frame.scale**2)


def outline_in(job: Job, body: Body, seat: Seat, store: GeometryStore) -> Outline:
    """Return what a body covers, turned by a seat, in mm before it is put in its place."""
    frame = frame_of(job, body, seat)
    if not frame.plain:
        return _OUTLINES.get(
            job.in_force(body),
            (seat_key(seat),),
            lambda: outline_of(turned_mesh(job, body, seat, store)),
        )
    known = _OUTLINES.get((), _key(body, frame), lambda: outline_of(_unscaled(body, frame, store)))
    return shapely.transform(known, lambda points: points * frame.scale + frame.shift[:2])


def cover_of(job: Job, bodies: tuple[Body, ...], seat: Seat, store: GeometryStore) -> Outline:
    """Return what several bodies of one seat cover together."""
    if len(bodies) == 1:
        return outline_in(job, bodies[0], seat, store)
    each = tuple(outline_in(job, body, seat, store) for body in bodies)
    return _COVERS.get((), (tuple(map(shapely.to_wkb, each)),), lambda: as_outline(shapely.union_all(each)))


_COVERS: Memo[Outline] = Memo(256)


def _key(body: Body, frame: _Frame) -> tuple[Hashable, ...]:
    """What tells a geometry, and how it is turned, from others."""
    return (body.geometry, body.low, body.high, body.area, frame.key)


def _unscaled(body: Body, frame: _Frame, store: GeometryStore) -> Mesh:
    mesh = store.mesh(body.geometry)
    mirrored = bool(np.linalg.det(frame.matrix) < 0)
    return Mesh(mesh.vertices @ frame.matrix.T, mesh.faces[:, ::-1] if mirrored else mesh.faces)


def _stance(mesh: Mesh) -> Orientation:
    return Orientation(level_of(mesh), contact_of(mesh, float(mesh.bounds()[0, 2])))
