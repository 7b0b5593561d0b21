"""This module draws the detail of a pair: a section through its place, both bodies, and the clearance."""

from __future__ import annotations

import numpy as np
import shapely

from aimtrue.core.errors import Refused
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
"""How much is shown to either side, in clearances; and not less than a share of the diameter or width."""
_SHARE = 0.16
_LEAST_MM = 1.5


class PairDetail(Value):
    """A section through a pair, in mm about the middle of the gap that is shown.

    Attributes:
        a, b: rings of both bodies, outer ones counter-clockwise.
        half_mm: half the width of what is shown; the height is the same.
        ends: the two places between which the clearance is drawn, at one side.
        side_mm: the clearance there, as released.
    """

    a: tuple[tuple[Vec2, ...], ...]
    b: tuple[tuple[Vec2, ...], ...]
    half_mm: float
    ends: tuple[Vec2, Vec2]
    side_mm: float


def detail(job: Job, key: PairId, store: GeometryStore) -> PairDetail:
    """Return the detail of a pair, as it is released.

    Raises:
        Refused: there is no such pair, or it is not there any more.
    """
    state = standing_pair(job, job.pair(key), store)
    if state.at is None or state.along is None:
        raise Refused("pair-lost", "this pair cannot be drawn", remedy="take it away or pair anew")
    rows, start, side, half = _view(state)
    outlines = [
        _outline(mesh_in("released", job, job.body(body), store), rows, start, half)
        for body in (state.a, state.b)
    ]
    return PairDetail(
        a=outlines[0], b=outlines[1], half_mm=half, ends=((-side / 2, 0.0), (side / 2, 0.0)), side_mm=side
    )


def _view(state: PairState) -> tuple[Floats, Floats, float, float]:
    """Return (3, 3) and (3,): the axes of the drawing and the place in its middle; the gap, and how much is
    shown.

    Of what is round the drawing is along the axis, at one side of it.
    """
    assert state.at is not None
    assert state.along is not None
    along, at = np.asarray(state.along), np.asarray(state.at)
    released = state.states[-1]
    sizes, clearance = released.sizes_mm, released.clearance_mm
    across = plane_axes(along)[0]
    if state.kind in ("bore and shaft", "thread and thread"):
        right, up, side = across, along, clearance / 2
        middle = at + right * (sizes[0] + sizes[1]) / 4
    elif sizes:
        right, up, side = along, across, clearance / 2
        middle = at + right * (sizes[0] + sizes[1]) / 4
    else:
        right, up, side, middle = along, across, clearance, at
    wide = sizes[0] if sizes else _LEAST_MM
    half = max(_SHOWN * abs(side), _SHARE * wide, _LEAST_MM)
    return np.stack([right, up, np.cross(right, up)]), middle, side, half


def _outline(mesh: Mesh, rows: Floats, start: Floats, half: float) -> tuple[tuple[Vec2, ...], ...]:
    turned = Mesh((mesh.vertices - start) @ rows.T, mesh.faces)
    shown = shapely.intersection(outline_from(rings_at(turned, 0.0)), shapely.box(-half, -half, half, half))
    polygons = [part for part in shapely.get_parts(shown) if isinstance(part, shapely.Polygon)]
    rings = rings_of(shapely.MultiPolygon(polygons)) if polygons else []
    return tuple(tuple((float(x), float(y)) for x, y in ring) for ring in rings)


def bodies_of_pair(job: Job, key: PairId, store: GeometryStore) -> tuple[BodyId, ...]:
    """Return the bodies that a pair is on now."""
    state = standing_pair(job, job.pair(key), store)
    return tuple(dict.fromkeys((state.a, state.b)))
