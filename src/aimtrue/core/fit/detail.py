"""This module draws a section through a pair, or where two bodies are nearest, with the clearance."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely

from aimtrue.core.errors import Refused
from aimtrue.core.fit.between import PlacedBodies
from aimtrue.core.fit.faces import mesh_in
from aimtrue.core.fit.standing import PairState, standing_pair
from aimtrue.core.mesh.directions import plane_axes
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.outlines import outline_from, rings_of
from aimtrue.core.mesh.sections import rings_at
from aimtrue.core.model.ids import BodyId, PairId
from aimtrue.core.model.job import Job
from aimtrue.core.model.value import Value

Vec2 = tuple[float, float]
_SHOWN = 6.0
"""How much is shown to either side of a gap that is too narrow to be seen otherwise, in gaps."""
_LEAST_MM = 0.5
_WHOLE = 0.72
"""How much is shown to either side of the middle of a whole pair, in diameters or widths."""
_OF_SMALLER = 0.6
"""Where two bodies are nearest no more than this is shown to either side, in extents of the smaller."""
_NUDGE = 1e-3
"""Of the smaller body: so far within it a section is that would else be along one of its faces."""
_SEEN = 0.01
"""A gap of this share of the diameter or width can be seen where all of the pair is shown."""


class PairDetail(Value):
    """A section through a pair, or where two bodies are nearest, in mm about its middle.

    Attributes:
        a, b: rings of both bodies, outer ones counter-clockwise.
        half_mm: half the width of what is shown; the height is the same.
        ends: the two places between which the clearance is drawn, at one side.
        side_mm: the clearance there, as released.
        axis_mm: where the axis of round ones is, to the right of the middle; None where it is not shown.
        depth_mm: how far in front of the place it is; ``reach_mm`` how far it can be moved either way.
    """

    a: tuple[tuple[Vec2, ...], ...]
    b: tuple[tuple[Vec2, ...], ...]
    half_mm: float
    ends: tuple[Vec2, Vec2]
    side_mm: float
    axis_mm: float | None
    depth_mm: float
    reach_mm: float


def detail(job: Job, key: PairId, store: GeometryStore, depth_mm: float = 0.0) -> PairDetail:
    """Return the detail of a pair, as it is released.

    Args:
        job, key, store: the pair, of its job.
        depth_mm: how far in front of the pair's place the section is.

    Raises:
        Refused: there is no such pair, or it is not there any more.
    """
    state = standing_pair(job, job.pair(key), store)
    if state.at is None or state.along is None:
        raise Refused("pair-lost", "this pair cannot be drawn", remedy="take it away or pair anew")
    meshes = [mesh_in("released", job, job.body(body), store) for body in (state.a, state.b)]
    return _drawn(_view(state), meshes[0], meshes[1], depth_mm)


def between_detail(placed: PlacedBodies, depth_mm: float = 0.0) -> PairDetail:
    """Return the section through the places where two bodies are nearest, or through what they share."""
    one, other = placed.meshes
    near = placed.nearest
    way = near.b - near.a
    right = way / near.mm if near.mm > 0 else _across(one, near.a)
    up = plane_axes(right)[0]
    rows = np.stack([right, up, np.cross(right, up)])
    sizes = np.minimum(one.extents(), other.extents())
    whole = _OF_SMALLER * float(sizes.max())
    half = min(max(_SHOWN * near.mm, _LEAST_MM), whole) if near.mm > 0 else whole
    ends = (-near.mm / 2, near.mm / 2)
    view = _View(rows, (near.a + near.b) / 2, half, ends, None)
    return _drawn(view, one, other, depth_mm + _into(view, one, other, _NUDGE * float(sizes.max())))


def _into(view: _View, one: Mesh, other: Mesh, nudge: float) -> float:
    """Return by how much the section is moved so that it is not along a face that both end in."""
    for depth in (0.0, nudge, -nudge):
        moved = replace(view, start=view.start + depth * view.rows[2])
        if _outline(one, moved) and _outline(other, moved):
            return depth
    return 0.0


def _across(mesh: Mesh, place: Floats) -> Floats:
    """Return the direction to the nearest side of a body's box: what it shares is seen with its edge."""
    low, high = mesh.bounds()
    away = np.minimum(place - low, high - place)
    return np.asarray(np.eye(3)[int(away.argmin())])


def _drawn(view: _View, one: Mesh, other: Mesh, depth_mm: float) -> PairDetail:
    moved = replace(view, start=view.start + depth_mm * view.rows[2])
    low, high = view.ends
    return PairDetail(
        a=_outline(one, moved),
        b=_outline(other, moved),
        half_mm=view.half,
        ends=((low, 0.0), (high, 0.0)),
        side_mm=high - low,
        axis_mm=view.axis,
        depth_mm=depth_mm,
        reach_mm=view.half,
    )


@dataclass(frozen=True, eq=False)
class _View:
    """What of a pair is shown.

    Attributes:
        rows: (3, 3) to the right, up, and towards the eye.
        start: (3,) the place in the middle.
        half: half of how much is shown, in mm.
        ends: between which the clearance is, to the right of the middle.
        axis: where the axis is, to the right of the middle; None where it is not shown.
    """

    rows: Floats
    start: Floats
    half: float
    ends: tuple[float, float]
    axis: float | None


def _view(state: PairState) -> _View:
    """Return what is shown of a pair: all of it where the gap can be seen so, else one side of it."""
    assert state.at is not None
    assert state.along is not None
    along, at = np.asarray(state.along), np.asarray(state.at)
    released = state.states[-1]
    sizes, clearance = released.sizes_mm, released.clearance_mm
    across = plane_axes(along)[0]
    is_round = state.kind in ("bore and shaft", "thread and thread")
    right, up = (across, along) if is_round else (along, across)
    rows = np.stack([right, up, np.cross(right, up)])
    if not sizes:
        half = max(_SHOWN * clearance, _LEAST_MM)
        return _View(rows, at + right * clearance / 2, half, (-clearance / 2, clearance / 2), None)
    walls = sizes[1] / 2, sizes[0] / 2
    if abs(walls[1] - walls[0]) >= _SEEN * sizes[0]:
        return _View(rows, at, _WHOLE * sizes[0], walls, 0.0 if is_round else None)
    middle = sum(walls) / 2
    half = max(_SHOWN * abs(walls[1] - walls[0]), _LEAST_MM)
    return _View(rows, at + right * middle, half, (walls[0] - middle, walls[1] - middle), None)


def _outline(mesh: Mesh, view: _View) -> tuple[tuple[Vec2, ...], ...]:
    turned = Mesh((mesh.vertices - view.start) @ view.rows.T, mesh.faces)
    frame = shapely.box(-view.half, -view.half, view.half, view.half)
    shown = shapely.intersection(outline_from(rings_at(turned, 0.0)), frame)
    polygons = [part for part in shapely.get_parts(shown) if isinstance(part, shapely.Polygon)]
    rings = rings_of(shapely.MultiPolygon(polygons)) if polygons else []
    return tuple(tuple((float(x), float(y)) for x, y in ring) for ring in rings)


def bodies_of_pair(job: Job, key: PairId, store: GeometryStore) -> tuple[BodyId, ...]:
    """Return the bodies that a pair is on now."""
    state = standing_pair(job, job.pair(key), store)
    return tuple(dict.fromkeys((state.a, state.b)))
