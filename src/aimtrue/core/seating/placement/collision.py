"""This module says what stands in each other's way: seats of one plate whose bodies overlap, and by how much.

True shapes are held against each other, not boxes: a part may stand inside the opening of another, or under
its arch. What merely touches does not overlap.
"""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d
import numpy as np
import shapely

from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import solid_of
from aimtrue.core.model.job import Job
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.value import Vec3
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.seating.orientation.orientations import cover_of
from aimtrue.core.seating.placement.places import SeatPlace, seated_mesh

_TOUCH_MM = 1e-3
"""A deeper overlap than this is one; the spacing of float32 on a plate is a hundredth of it."""


@dataclass(frozen=True)
class SeatOverlap:
    """Two seats that overlap.

    Attributes:
        a, b: ids of the seats.
        deep_mm: how far one would have to be moved, along X, Y or Z, at least.
        at: a place in it, in mm from the front left corner of the plate.
    """

    a: str
    b: str
    deep_mm: float
    at: Vec3


_Found = tuple[float, Vec3] | None
_KNOWN: Memo[tuple[_Found]] = Memo(4096)
_SOLIDS: Memo[tuple[manifold3d.Manifold | None]] = Memo(64)


def overlaps_of(job: Job, places: dict[str, SeatPlace], store: GeometryStore) -> list[SeatOverlap]:
    """Return which seats of each plate overlap."""
    seat_overlaps = []
    for plate in job.plates:
        here = [place for place in places.values() if place.seat.plate == plate.id]
        for a, b in _near(here):
            overlap = _between(job, a, b, store)
            if overlap is not None:
                seat_overlaps.append(SeatOverlap(a.seat.id, b.seat.id, *overlap))
    return seat_overlaps


def overlaps_with(
    job: Job, place: SeatPlace, others: list[SeatPlace], store: GeometryStore
) -> list[SeatOverlap]:
    """Return which other seats of its plate one overlaps; it is ``a`` of each."""
    seat_overlaps = []
    for other in others:
        deep = np.minimum(place.bounds[1], other.bounds[1]) - np.maximum(place.bounds[0], other.bounds[0])
        if other.seat.plate == place.seat.plate and (deep > _TOUCH_MM).all():
            overlap = _between(job, place, other, store)
            seat_overlaps += (
                [SeatOverlap(place.seat.id, other.seat.id, *overlap)] if overlap is not None else []
            )
    return seat_overlaps


def _near(places: list[SeatPlace]) -> list[tuple[SeatPlace, SeatPlace]]:
    """Return the pairs whose boxes overlap, found through a tree."""
    if len(places) < 2:
        return []
    ends = np.stack([place.bounds for place in places])
    boxes = shapely.box(ends[:, 0, 0], ends[:, 0, 1], ends[:, 1, 0], ends[:, 1, 1])
    a, b = shapely.STRtree(boxes).query(boxes)
    deep = np.minimum(ends[a, 1], ends[b, 1]) - np.maximum(ends[a, 0], ends[b, 0])
    some = (a < b) & (deep > _TOUCH_MM).all(axis=1)
    return [(places[i], places[j]) for i, j in zip(a[some].tolist(), b[some].tolist(), strict=True)]


def _between(job: Job, a: SeatPlace, b: SeatPlace, store: GeometryStore) -> _Found:
    things = tuple(thing for place in (a, b) for body in place.bodies for thing in job.in_force(body))
    seats = tuple((p.seat.turns, p.seat.mirrored, tuple(p.shift.tolist())) for p in (a, b))
    return _KNOWN.get(things, seats, lambda: (_overlap(job, a, b, store),))[0]


def _overlap(job: Job, a: SeatPlace, b: SeatPlace, store: GeometryStore) -> _Found:
    covers = [
        shapely.transform(
            cover_of(job, place.bodies, place.seat, store), lambda xy, place=place: xy + place.shift[:2]
        )
        for place in (a, b)
    ]
    shared = shapely.intersection(*covers)
    if shared.area <= _TOUCH_MM**2 or _thin(shared):
        return None
    one, other = (_solid(job, place, store) for place in (a, b))
    if one is None or other is None:  # Of open surfaces only the boxes that they cover are known.
        x, y = shared.representative_point().coords[0]
        low, high = max(a.bounds[0, 2], b.bounds[0, 2]), min(a.bounds[1, 2], b.bounds[1, 2])
        return min(_narrowest(shared), float(high - low)), (x, y, float(low))
    common = one ^ other
    if common.is_empty():
        return None
    box = np.array(common.bounding_box()).reshape(2, 3)
    deep = float(np.ptp(box, axis=0).min())
    return (deep, as_vec3(box.mean(axis=0))) if deep > _TOUCH_MM else None


def _thin(shape: shapely.Geometry) -> bool:
    return bool(shapely.buffer(shape, -_TOUCH_MM / 2).is_empty)


def _narrowest(shape: shapely.Geometry) -> float:
    x0, y0, x1, y1 = shape.bounds
    return float(min(x1 - x0, y1 - y0))


def _solid(job: Job, place: SeatPlace, store: GeometryStore) -> manifold3d.Manifold | None:
    """All bodies of a seat as one solid where they stand."""
    things = tuple(thing for body in place.bodies for thing in job.in_force(body))
    key = (place.seat.turns, place.seat.mirrored, tuple(place.shift.tolist()))
    return _SOLIDS.get(things, key, lambda: (_worked_out_solid(job, place, store),))[0]


def _worked_out_solid(job: Job, place: SeatPlace, store: GeometryStore) -> manifold3d.Manifold | None:
    whole = manifold3d.Manifold()
    for body in place.bodies:
        mesh: Mesh = seated_mesh(job, body, store.mesh(body.geometry), place)
        solid = solid_of(mesh)
        if solid is None:
            return None
        whole += solid
    return whole
