"""This module draws a part before it is made: cut through its axis, and from above, with its dimensions
placed.

Sections are worked out flat, from the shapes themselves; the kernel has no part in it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import reduce

import numpy as np
import shapely
from scipy.interpolate import make_interp_spline
from shapely.affinity import translate
from shapely.geometry.base import BaseGeometry

from aimtrue.core.model.value import Value
from aimtrue.core.stock.parts.shapes import (
    CurveRun,
    DifferenceShape,
    IntersectionShape,
    PrismShape,
    Shape,
    ThreadedRod,
    TranslatedShape,
    TurnedShape,
    UnionShape,
    Vec2,
)
from aimtrue.core.stock.parts.values import DrawnView, StockDimension, StockPart

_STEP = 0.13
"""How far dimension lines are from the part and from each other, as a share of the larger side of the
view."""
_TOLERANCE = 5e-4
"""Outlines are simplified to this share of the part, for the drawing alone."""
_ARC_STEPS = 24


class DrawnDimension(Value):
    """A dimension with its place in a view, in mm.

    Attributes:
        letter, says, mm, round: as of the part.
        start, end: the places that it is between.
        line_start, line_end: the ends of its dimension line.
    """

    letter: str
    says: str
    mm: float
    round: bool
    start: Vec2
    end: Vec2
    line_start: Vec2
    line_end: Vec2


class StockDrawing(Value):
    """One view of a part, in mm: X to the right, and Z (from above: Y) up.

    Attributes:
        view: cut through the axis, or from above.
        areas: of each body, its polygons: an outline first, then its holes.
        threads: thin lines where a thread's root (of a nut its major diameter) is.
        dimensions: with their places.
        low, high: the bounds of all of it, dimensions included.
    """

    view: DrawnView
    areas: tuple[tuple[tuple[Vec2, ...], ...], ...]
    threads: tuple[tuple[Vec2, Vec2], ...]
    dimensions: tuple[DrawnDimension, ...]
    low: Vec2
    high: Vec2


def drawings_of(part: StockPart) -> tuple[StockDrawing, StockDrawing]:
    """Return a part cut through its axis, and from above."""
    return _drawn(part, "section", section_of), _drawn(
        part, "plan", lambda shape: plan_of(shape, part.plan_at)
    )


def _drawn(part: StockPart, view: DrawnView, flatten: Callable[[Shape], BaseGeometry]) -> StockDrawing:
    flat = [flatten(body.shape) for body in part.bodies]
    bounds = np.array(shapely.unary_union(flat).bounds)
    areas = tuple(rings for area in flat for rings in _polygons(area, _TOLERANCE * float(np.ptp(bounds))))
    placed = _placed([row for row in part.dimensions if row.view == view and row.start], bounds)
    points = [point for row in placed for point in (row.line_start, row.line_end)]
    all_points = np.array([bounds[:2], bounds[2:], *points])
    return StockDrawing(
        view=view,
        areas=areas,
        threads=_thread_lines(part) if view == "section" else (),
        dimensions=tuple(placed),
        low=_vec2(all_points.min(axis=0)),
        high=_vec2(all_points.max(axis=0)),
    )


def _vec2(point: Sequence[float]) -> Vec2:
    return float(point[0]), float(point[1])


def _polygons(area: BaseGeometry, tolerance: float) -> list[tuple[tuple[Vec2, ...], ...]]:
    polygons = [
        part for part in getattr(area, "geoms", [area]) if part.geom_type == "Polygon" and part.area > 0
    ]
    return [
        tuple(
            tuple(_vec2(point) for point in ring.simplify(tolerance).coords)
            for ring in (polygon.exterior, *polygon.interiors)
        )
        for polygon in polygons
    ]


def section_of(shape: Shape) -> BaseGeometry:
    """Return the section of a shape by the plane of X and Z, in mm."""
    match shape:
        case TurnedShape():
            half = shapely.Polygon(shape.profile)
            mirrored = shapely.Polygon([(-radius, height) for radius, height in shape.profile])
            return shapely.union(half, mirrored)
        case PrismShape():
            return _cut_prism(shape)
        case ThreadedRod():
            radius = _plain_radius(shape)
            return shapely.box(-radius, shape.low, radius, shape.high)
        case TranslatedShape():
            return translate(section_of(shape.shape), shape.by[0], shape.by[2])
        case _:
            return _combined(shape, section_of)


def _cut_prism(shape: PrismShape) -> BaseGeometry:
    outline = shapely.Polygon(_followed(shape.outline))
    low, _, high, _ = outline.bounds
    # A hair off the middle: an outline that has an edge along it would be met in that edge alone.
    across = outline.intersection(shapely.LineString([(low - 1, 1e-7), (high + 1, 1e-7)]))
    parts = [part.bounds for part in getattr(across, "geoms", [across]) if part.length > 0]
    return shapely.unary_union([shapely.box(start, shape.low, end, shape.high) for start, _, end, _ in parts])


def plan_of(shape: Shape, height: float) -> BaseGeometry:
    """Return the section of a shape at a height, seen from above, in mm."""
    match shape:
        case TurnedShape():
            return _cut_turned(shape, height)
        case PrismShape():
            outline = shapely.Polygon(_followed(shape.outline))
            return outline if shape.low <= height <= shape.high else shapely.Polygon()
        case ThreadedRod():
            disc = shapely.Point(0, 0).buffer(_plain_radius(shape), quad_segs=_ARC_STEPS)
            return disc if shape.low <= height <= shape.high else shapely.Polygon()
        case TranslatedShape():
            return translate(plan_of(shape.shape, height - shape.by[2]), shape.by[0], shape.by[1])
        case _:
            return _combined(shape, lambda inner: plan_of(inner, height))


def _cut_turned(shape: TurnedShape, height: float) -> BaseGeometry:
    profile = shapely.Polygon(shape.profile)
    low, _, high, _ = profile.bounds
    across = profile.intersection(shapely.LineString([(low - 1, height), (high + 1, height)]))
    rings = []
    for part in getattr(across, "geoms", [across]):
        if part.length > 0:
            start, _, end, _ = part.bounds
            disc = shapely.Point(0, 0).buffer(end, quad_segs=_ARC_STEPS)
            rings.append(
                disc.difference(shapely.Point(0, 0).buffer(start, quad_segs=_ARC_STEPS)) if start else disc
            )
    return shapely.unary_union(rings)


def _combined(shape: Shape, flatten: Callable[[Shape], BaseGeometry]) -> BaseGeometry:
    match shape:
        case UnionShape():
            return shapely.unary_union([flatten(part) for part in shape.parts])
        case DifferenceShape():
            return reduce(shapely.difference, map(flatten, shape.away), flatten(shape.whole))
        case IntersectionShape():
            return shapely.intersection(flatten(shape.first), flatten(shape.second))
    raise AssertionError(shape)


def _plain_radius(rod: ThreadedRod) -> float:
    """A thread is drawn by its crest: of a nut that is its minor diameter."""
    depth = 5 / 8 * np.sqrt(3) / 2 * rod.pitch if rod.internal else 0.0
    return float(rod.diameter / 2 - depth + (rod.play / 2 if rod.internal else -rod.play / 2))


def _followed(outline: Sequence[CurveRun]) -> list[Vec2]:
    """The points of an outline, its arcs and splines followed closely enough for a drawing."""
    points: list[Vec2] = []
    for run in outline:
        through = np.array(run.points)
        if run.kind == "line":
            dense = through
        else:
            along = np.r_[0.0, np.cumsum(np.hypot(*np.diff(through, axis=0).T))]
            if run.kind == "arc":
                dense = _arc(through)
            else:
                dense = make_interp_spline(along, through, k=3)(np.linspace(0.0, along[-1], _ARC_STEPS))
        points += [_vec2(point) for point in dense[:-1]]
    return points


def _arc(
    through: np.ndarray[tuple[int, int], np.dtype[np.float64]],
) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
    """Points of the circle through three, from the first to the last."""
    a, b, c = through
    rows = 2 * np.array([b - a, c - a])
    centre = np.linalg.solve(rows, np.array([b @ b - a @ a, c @ c - a @ a]))
    start, middle, end = (float(np.arctan2(*(point - centre)[::-1])) for point in (a, b, c))
    sweep = (end - start) % (2 * np.pi)
    if (middle - start) % (2 * np.pi) > sweep:
        sweep -= 2 * np.pi
    angles = start + sweep * np.linspace(0.0, 1.0, _ARC_STEPS)
    radius = float(np.hypot(*(a - centre)))
    return np.asarray(centre + radius * np.stack([np.cos(angles), np.sin(angles)], axis=1))


def _thread_lines(part: StockPart) -> tuple[tuple[Vec2, Vec2], ...]:
    thread = part.thread
    if thread is None:
        return ()
    depth = 17 / 24 * np.sqrt(3) / 2 * thread.pitch
    radius = float(thread.diameter / 2 - (0.0 if thread.internal else depth))
    return tuple(((side * radius, thread.low), (side * radius, thread.high)) for side in (-1.0, 1.0))


def _placed(rows: Sequence[StockDimension], bounds: Iterable[float]) -> list[DrawnDimension]:
    """Place dimension lines outside the part, level ones above or below it and upright ones to its right."""
    low_x, low_y, high_x, high_y = (float(bound) for bound in bounds)
    step = _STEP * max(high_x - low_x, high_y - low_y)
    used = {"above": 0, "below": 0, "beside": 0}
    placed = []
    # Short ones are nearest to the part, so that no dimension line crosses another's extension.
    for row in sorted(rows, key=lambda row: row.mm):
        assert row.start is not None
        assert row.end is not None
        if row.start[1] == row.end[1]:
            side = "above" if row.start[1] >= (low_y + high_y) / 2 else "below"
            used[side] += 1
            at = high_y + used[side] * step if side == "above" else low_y - used[side] * step
            ends = (row.start[0], at), (row.end[0], at)
        else:
            used["beside"] += 1
            at = high_x + used["beside"] * step
            ends = (at, row.start[1]), (at, row.end[1])
        placed.append(
            DrawnDimension(
                letter=row.letter, says=row.says, mm=row.mm, round=row.round, start=row.start, end=row.end,
                line_start=ends[0], line_end=ends[1],
            )
        )  # fmt: skip
    return placed
