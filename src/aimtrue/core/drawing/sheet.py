"""A drawing sheet: front, top and side view to scale with sizes and readings, as SVG.

A4, first-angle projection (ISO 5456-2): the view from above stands below the front view, the view from the
left at its right. Scales are those of ISO 5455. One unit of the drawing is one millimetre of paper.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aimtrue.core.drawing import paper
from aimtrue.core.drawing.paper import CircleMark, Ink, Mark, PenLines, TextMark, as_svg
from aimtrue.core.drawing.views import FRONT, LEFT, TOP, PreparedView, ViewDirection, strokes
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.lengths import written

_SCALES = (50.0, 20.0, 10.0, 5.0, 2.0, 1.0, 0.5, 0.2, 0.1, 0.05, 0.02, 0.01, 0.005, 0.002, 0.001)
_WIDE, _HIGH = 297.0, 210.0
_MARGIN, _TITLE = 10.0, 30.0
_ROOMY = 240.0
"""In mm: areas so wide have more room between their views."""
_ROOM = _HIGH - 2 * _MARGIN - _TITLE - 6


@dataclass(frozen=True)
class Dimension:
    """A reading to be drawn: its ends in mm in the axes of the job, what to write, whether it is met."""

    a: tuple[float, float, float]
    b: tuple[float, float, float]
    text: str
    met: bool


@dataclass(frozen=True)
class TitleBlock:
    """What the corner block of the sheet says: rows of label and words."""

    rows: tuple[tuple[str, str], ...]


def three_views(mesh: Mesh, dimensions: Sequence[Dimension], plate: TitleBlock) -> str:
    """Draw a mesh in mm as an A4 sheet.

    Args:
        mesh: in mm, axes of the job.
        dimensions: readings, drawn in the view where they are least foreshortened.
        plate: the corner block.

    Returns:
        An SVG document.
    """
    marks = [_frame(), *views_of(mesh, dimensions, Area(_MARGIN, _MARGIN + 6, _WIDE - 2 * _MARGIN, _ROOM))]
    scale = _scale_for(np.ptp(mesh.bounds(), axis=0), _WIDE - 2 * _MARGIN, _ROOM)
    return as_svg([*marks, *_corner(plate, scale)], _WIDE, _HIGH)


@dataclass(frozen=True)
class Area:
    """A part of a sheet of paper, in mm from its upper left corner."""

    x: float
    y: float
    wide: float
    high: float


def views_of(mesh: Mesh, dimensions: Sequence[Dimension], area: Area) -> list[Mark]:
    """Draw a mesh in mm in three views within a part of a sheet, with its sizes and readings."""
    viewed = PreparedView(mesh)
    low, high = mesh.bounds()
    size, middle = high - low, (low + high) / 2
    scale = _scale_for(size, area.wide, area.high)
    places = _places(size, scale, area)
    marks: list[Mark] = [_view(viewed, view, at, scale, middle) for view, at in places.items()]
    marks += _overall(size, scale, places)
    chosen: dict[ViewDirection, int] = {}
    for number, dimension in enumerate(dimensions, 1):
        marks += _dimension(dimension, number, places, scale, middle, size, chosen)
    return marks


def scale_words(mesh: Mesh, area: Area) -> str:
    """Say the scale that a mesh is drawn to within a part of a sheet."""
    return _scale_words(_scale_for(np.ptp(mesh.bounds(), axis=0), area.wide, area.high))


def _scale_words(scale: float) -> str:
    return f"{scale:g} : 1" if scale >= 1 else f"1 : {1 / scale:g}"


def _scale_for(size: Floats, wide: float, high: float) -> float:
    """The largest standard scale at which all three views fit."""
    across, up, between = size[0] + size[1], size[2] + size[1], _between(wide)
    fits = (
        scale
        for scale in _SCALES
        if across * scale <= wide - 2 * between - 22 and up * scale <= high - between - 16
    )
    return next(fits, _SCALES[-1])


def _between(wide: float) -> float:
    return 30.0 if wide >= _ROOMY else 20.0


def _places(size: Floats, scale: float, area: Area) -> dict[ViewDirection, tuple[float, float]]:
    """Where the middle of each view is on the sheet."""
    x, y, z = size * scale
    between = _between(area.wide)
    wide, high = x + between + y, z + between + y
    left = area.x + (area.wide - wide) / 2
    top = area.y + (area.high - high) / 2
    return {
        FRONT: (left + x / 2, top + z / 2),
        TOP: (left + x / 2, top + z + between + y / 2),
        LEFT: (left + x + between + y / 2, top + z / 2),
    }


def _on_sheet(
    view: ViewDirection, at: tuple[float, float], scale: float, middle: Floats, flat: Floats
) -> Floats:
    centre = view.flat(middle)
    return np.asarray((flat - centre) * [scale, -scale] + at)


def _view(
    viewed: PreparedView, view: ViewDirection, at: tuple[float, float], scale: float, middle: Floats
) -> Mark:
    lines = _on_sheet(view, at, scale, middle, viewed.lines(view))
    return PenLines(tuple(strokes(lines, 0.06)), 0.35, name=view.name)


def _frame() -> Mark:
    return paper.box(_MARGIN, _MARGIN, _WIDE - 2 * _MARGIN, _HIGH - 2 * _MARGIN, width=0.5)


def _corner(plate: TitleBlock, scale: float) -> list[Mark]:
    """The corner block: a ruled row of fields along the foot of the sheet, and the mark of the projection."""
    rows = (*plate.rows, ("scale", _scale_words(scale)))
    top = _HIGH - _MARGIN - 14
    weights = [max(10, len(words), len(label)) for label, words in rows]
    room = _WIDE - 2 * _MARGIN - 26
    marks: list[Mark] = [paper.line((_MARGIN, top), (_WIDE - _MARGIN, top), width=0.35)]
    x = _MARGIN
    for (label, words), weight in zip(rows, weights, strict=True):
        marks.append(TextMark(x + 2, top + 4.4, label, 2.5, "soft"))
        marks.append(TextMark(x + 2, top + 10, words))
        x += room * weight / sum(weights)
        marks.append(paper.line((x, top), (x, top + 14)))
    return [*marks, *first_angle(_WIDE - _MARGIN - 8, top + 7)]


def first_angle(x: float, y: float) -> list[Mark]:
    """The mark of the projection: in first angle the cone stands left of the rings it shows from its left."""
    cone = np.array([[x - 14, y - 1.8], [x - 7, y - 3.6], [x - 7, y + 3.6], [x - 14, y + 1.8]])
    return [CircleMark(x, y, 3.6, 0.25), CircleMark(x, y, 1.8, 0.25), PenLines((cone,), 0.25, closed=True)]


def _overall(size: Floats, scale: float, places: dict[ViewDirection, tuple[float, float]]) -> list[Mark]:
    x, y, z = (size * scale / 2).tolist()
    (fx, fy), (tx, ty), (lx, ly) = places[FRONT], places[TOP], places[LEFT]
    return [
        *dimension_line((tx - x, ty + y), (tx + x, ty + y), (0, 8), written(size[0])),
        *dimension_line((fx - x, fy + z), (fx - x, fy - z), (-8, 0), written(size[2])),
        *dimension_line((lx - y, ly + z), (lx + y, ly + z), (0, 8), written(size[1])),
    ]


def dimension_line(
    a: tuple[float, float], b: tuple[float, float], away: tuple[float, float], text: str, ink: Ink = "ink"
) -> list[Mark]:
    """A dimension line parallel to a-b, moved ``away``, with extension lines, strokes and numeral."""
    (ax, ay), (bx, by), (dx, dy) = a, b, away
    long = float(np.hypot(dx, dy)) or 1.0
    ux, uy = dx / long, dy / long
    p, q = (ax + dx, ay + dy), (bx + dx, by + dy)
    run = float(np.hypot(q[0] - p[0], q[1] - p[1])) or 1.0
    ex, ey = (q[0] - p[0]) / run, (q[1] - p[1]) / run
    sx, sy = (ex + ey) * 1.1, (ey - ex) * 1.1
    runs = [np.array([p, q])]
    if long > 1.5:
        runs.append(np.array([[ax + ux, ay + uy], [p[0] + 1.5 * ux, p[1] + 1.5 * uy]]))
        runs.append(np.array([[bx + ux, by + uy], [q[0] + 1.5 * ux, q[1] + 1.5 * uy]]))
    ticks = tuple(np.array([[x - sx, y - sy], [x + sx, y + sy]]) for x, y in (p, q))
    mx, my = (p[0] + q[0]) / 2, (p[1] + q[1]) / 2
    half = 1.02 * len(text)
    if run < 2 * half + 4:  # The line has no room for the numeral, so it stands beyond it.
        mx, my = mx + ux * (half + 2 if abs(ux) > 0.5 else 3.5), my + uy * 3.5
    return [
        PenLines(tuple(runs), 0.18, ink),
        PenLines(ticks, 0.4, ink),
        paper.box(mx - half, my - 2, 2 * half, 4, width=0, filled="paper"),
        TextMark(mx, my + 1.15, text, ink=ink, anchor="middle", numeral=True),
    ]


def _dimension(  # noqa: PLR0913 - told apart by their names
    one: Dimension,
    number: int,
    places: dict[ViewDirection, tuple[float, float]],
    scale: float,
    middle: Floats,
    size: Floats,
    chosen: dict[ViewDirection, int],
) -> list[Mark]:
    """Draw a reading where it is least foreshortened, outside the body, above or to the right."""
    ends = np.array([one.a, one.b])
    seen = {view: float(np.linalg.norm(np.diff(view.flat(ends), axis=0))) for view in places}
    view = max(seen, key=lambda each: (round(seen[each], 6), -list(places).index(each)))
    rank = chosen[view] = chosen.get(view, 0) + 1
    a, b = _on_sheet(view, places[view], scale, middle, view.flat(ends)).tolist()
    half = np.abs(view.flat(size)) * scale / 2
    cx, cy = places[view]
    level = abs(a[0] - b[0]) >= abs(a[1] - b[1])
    upright = abs(a[0] - b[0]) < 1e-6 or abs(a[1] - b[1]) < 1e-6
    away: tuple[float, float] = (0.0, 0.0)
    if upright:
        off = 7.0 * rank
        away = (0.0, cy - half[1] - off - a[1]) if level else (cx + half[0] + off - a[0], 0.0)
    ink: Ink = "true" if one.met else "look"
    return dimension_line((a[0], a[1]), (b[0], b[1]), away, f"({number}) {one.text}", ink)
