"""Where the surface of a body is another than it was: before a remedy, or in the revision before.

Both are drawn on the surface as it is now, and say which geometry it was and where that lies beside it. What
changed in numbers is in :mod:`revision_changes` and in the records of remedies.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import igl
import numpy as np
from numpy.typing import NDArray

from aimtrue.core.chain.transforms import turn_up
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.arrays import numbered_rows
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.surface_map.parts import SurfaceParts, divided
from aimtrue.core.mesh.surface_map.samples import spread
from aimtrue.core.mesh.surface_map.strokes import Canvas, StrokeBand, SurfaceStrokes, with_strokes
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, written
from aimtrue.core.model.recipe import RemedyRecipe
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.model.vectors import as_vec3

Since = Literal["mended", "revised"]
"""Since when a change is told: before the first of its last remedies, or in the revision before."""

_PARTS = 40_000
_LEAST_MM = 0.005
"""What moved by less is where it was: lengths are written no finer."""
_FLOAT_SPACINGS = 4 * 2.0**-24
"""Corners are kept in float32: rounding moves them by this share of the farthest number at most."""
_LINES = 64
"""The widest hatch has so many lines along the longest extent of a body."""
_DENSE, _WIDE = 4.0, 1.0
_LOOKED_AT = 600
"""Places that tell how two revisions lie on each other."""


class SurfaceChange(Value):
    """Where a surface is another than it was.

    Attributes:
        body: as it is now.
        strokes: what is drawn on it.
        earlier: the geometry that it was.
        rows, shift: bring numbers of that geometry to numbers of the body's file now.
        says: since when, and how both were laid on each other where their places do not tell.
        most_mm: the greatest distance of the surface now from the surface then.
    """

    body: BodyId
    strokes: SurfaceStrokes
    earlier: str
    rows: tuple[Vec3, Vec3, Vec3]
    shift: Vec3
    says: str
    most_mm: float


@dataclass(frozen=True)
class _Earlier:
    """What a body was: its geometry, what brings its numbers to mm, and since when it is another."""

    geometry: str
    to_mm: Floats
    says: str
    same_place: bool


def earlier_geometry(job: Job, body: Body, since: Since) -> str:
    """Return the geometry that a body was.

    Raises:
        Refused: it was never another, or what it was is not known.
    """
    return _earlier(job, body, since).geometry


def _earlier(job: Job, body: Body, since: Since) -> _Earlier:
    source = job.source_of(body)
    unit = source.unit
    if unit is None:
        raise Refused("unit-open", f"the unit of {source.name} is not settled", remedy="settle it first")
    if since == "mended":
        steps = body.mended[-_remedies(body) :] if _remedies(body) else ()
        if not steps:
            raise Refused("not-mended", f"{body.name} was not mended by itself", remedy="look at its parts")
        return _Earlier(steps[0].geometry, np.eye(3) * MM_PER[unit], "before it was mended", True)
    was = next((one for one in source.was if one.body == body.id), None)
    if was is None or was.unit is None or not was.geometry:
        raise Refused("not-revised", f"what {body.name} was in the revision before is not known")
    return _Earlier(
        was.geometry,
        turn_up(source.up).T @ turn_up(was.up) * MM_PER[was.unit],
        f"in revision {len(source.replaced)}",
        False,
    )


def _remedies(body: Body) -> int:
    """Count the remedies that a body had since it became one: those before are of its parts."""
    count, recipe = 0, body.recipe
    while isinstance(recipe, RemedyRecipe):
        count, recipe = count + 1, recipe.whole
    return min(count, len(body.mended))


def surface_change(job: Job, body: Body, store: GeometryStore, since: Since) -> SurfaceChange:
    """Draw where the surface of a body is another than it was.

    Args:
        job, body: the body is drawn as its file has it, without correction.
        store: gives its mesh, and the one that it was.
        since: before it was mended, or in the revision before.

    Raises:
        Refused: it was never another, or what it was is not known.
    """
    earlier = _earlier(job, body, since)
    per_mm = MM_PER[job.settled_unit(body)]
    drawn, before = store.mesh(body.geometry), store.mesh(earlier.geometry)
    mesh = Mesh(drawn.vertices * per_mm, drawn.faces)
    least_mm = _least_mm(body, mesh, per_mm)
    rows, shift, laid = _laid_on(mesh, before, earlier, least_mm)
    was = Mesh(before.vertices @ rows.T + shift, before.faces)
    strokes, most_mm = _drawn(mesh, drawn, was, least_mm)
    x, y, z = (as_vec3(row / per_mm) for row in rows)
    return SurfaceChange(
        body=body.id,
        strokes=strokes,
        earlier=earlier.geometry,
        rows=(x, y, z),
        shift=as_vec3(shift / per_mm),
        says=earlier.says + laid,
        most_mm=most_mm,
    )


def _least_mm(body: Body, mesh: Mesh, per_mm: float) -> float:
    """Return what moved at all: facets of a curve lie otherwise in each revision, by their deviation."""
    facets = 2 * body.facets.deviation * per_mm if body.facets else 0.0
    return float(_LEAST_MM + facets + _FLOAT_SPACINGS * np.abs(mesh.vertices).max(initial=0.0))


def _laid_on(mesh: Mesh, before: Mesh, earlier: _Earlier, least_mm: float) -> tuple[Floats, Floats, str]:
    """Bring what a body was to where it is now: as its file has it, unless another place suits better.

    A revision may have been exported about another origin, or with another axis up. Of the places tried the
    one is taken that most of the old surface lies on the new one in.
    """
    plain = np.eye(3) * np.cbrt(abs(np.linalg.det(earlier.to_mm)))
    if earlier.same_place:
        return plain, np.zeros(3), ""
    tried = list(_places(mesh, before, plain, earlier.to_mm))
    places = _some(spread(before, _LOOKED_AT).points)
    # One question for all places: the search tree of a large mesh takes longer than what is asked of it.
    moved = np.concatenate([places @ rows.T + shift for rows, shift, _ in tried])
    squares, _, _ = igl.point_mesh_squared_distance(
        moved, np.ascontiguousarray(mesh.vertices), mesh.faces.astype(np.int64)
    )
    shares = (squares <= least_mm**2).reshape(len(tried), -1).mean(axis=1)
    return tried[int((shares > shares.max() - 0.01).argmax())]


def _some(points: Floats) -> Floats:
    return points[:: max(1, len(points) // _LOOKED_AT)]


def _places(mesh: Mesh, before: Mesh, plain: Floats, turned: Floats) -> Iterator[tuple[Floats, Floats, str]]:
    """Yield rows, shift and words of each place that is tried, the most likely first."""
    low, high = mesh.bounds()
    ways = [(plain, "")]
    if not np.allclose(plain, turned):
        ways.append((turned, ", turned as its up axis was"))
    for rows, how in ways:
        was = Mesh(before.vertices @ rows.T, before.faces)
        old_low, old_high = was.bounds()
        yield rows, np.zeros(3), how
        yield rows, low - old_low, f"{how}, laid on each other by their low corners"
        yield rows, high - old_high, f"{how}, laid on each other by their high corners"
        yield rows, (low + high - old_low - old_high) / 2, f"{how}, laid on each other by their middles"


def _drawn(mesh: Mesh, drawn: Mesh, was: Mesh, least_mm: float) -> tuple[SurfaceStrokes, float]:
    """Hatch what lies outside of what was and what lies within it, with contours of how far."""
    canvas = Canvas(_parts_moved(mesh, was, least_mm), drawn)
    corners, middles, within = _moved(canvas.parts, was)
    shown = middles > least_mm
    widest = float(mesh.extents().max()) / _LINES
    bands = []
    for says, chosen, density in (
        ("material added", shown & ~within, _DENSE),
        ("material removed", shown & within, _WIDE),
    ):
        most = float(corners[chosen].max()) if chosen.any() else 0.0
        bands.append(canvas.hatch(f"{says}, up to {written(most, 2)} mm", chosen, widest / density))
    most = float(corners[shown].max()) if shown.any() else 0.0
    bands += _contours(canvas, corners, shown, most)
    return SurfaceStrokes(origin=canvas.origin, bands=with_strokes(bands)), most


def _contours(canvas: Canvas, distance: Floats, shown: NDArray[np.bool_], most: float) -> list[StrokeBand]:
    levels = [share * most for share in (0.25, 0.5, 0.75)] if most > 4 * _LEAST_MM else []
    return [canvas.contour(f"{level:.3g}", distance, level, shown) for level in levels]


def _parts_moved(mesh: Mesh, was: Mesh, least_mm: float) -> SurfaceParts:
    """Divide only triangles that may have moved: not those whose corners are where those of one were."""
    corners = np.rint(np.vstack([mesh.vertices, was.vertices]) / least_mm).astype(np.int64)
    place = numbered_rows(corners)
    triangles = np.vstack([mesh.faces.astype(np.int64), was.faces.astype(np.int64) + len(mesh.vertices)])
    alike = numbered_rows(np.sort(place[triangles], axis=1))
    moved = np.flatnonzero(~np.isin(alike[: mesh.triangles], alike[mesh.triangles :]))
    parts = divided(Mesh(mesh.vertices, mesh.faces[moved]), _PARTS)
    return SurfaceParts(mesh, moved[parts.face], parts.weights)


def _moved(parts: SurfaceParts, was: Mesh) -> tuple[Floats, Floats, NDArray[np.bool_]]:
    """Return how far parts are from what was: (n, 3) at corners, (n,) amid them, and (n,) if within it."""
    faces, vertices = was.faces.astype(np.int64), np.ascontiguousarray(was.vertices)
    corners = parts.corners(parts.mesh)
    middles = np.ascontiguousarray(corners.mean(axis=1))
    places = np.vstack([corners.reshape(-1, 3), middles])
    where = numbered_rows(np.rint(places * 1e9))
    first = np.unique(where, return_index=True)[1]
    squares, _, _ = igl.point_mesh_squared_distance(places[first], vertices, faces)
    distances = np.sqrt(squares)[where]
    within = igl.fast_winding_number(vertices, faces, middles) > 0.5
    return distances[: corners.size // 3].reshape(-1, 3), distances[corners.size // 3 :], within
