"""A drawing sheet: front, top and side view to scale with sizes and readings, as SVG.

A4, first-angle projection (ISO 5456-2): the view from above stands below the front view, the view from the
left at its right. Scales are those of ISO 5455. One unit of the drawing is one millimetre of paper.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from html import escape

import numpy as np

from aimtrue.core.drawing.views import FRONT, LEFT, TOP, View, Viewed, strokes
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.lengths import written

_SCALES = (50.0, 20.0, 10.0, 5.0, 2.0, 1.0, 0.5, 0.2, 0.1, 0.05, 0.02, 0.01, 0.005, 0.002, 0.001)
_WIDE, _HIGH = 297.0, 210.0
_MARGIN, _BETWEEN, _TITLE = 10.0, 30.0, 30.0
_INK, _SOFT, _TRUE, _LOOK = "#22262b", "#6b6558", "#256c62", "#865b07"
_STYLE = (
    "text{font-family:Barlow,'Liberation Sans',sans-serif;font-size:3.2px;fill:#22262b}"
    ".n{font-family:'IBM Plex Mono','Liberation Mono',monospace;font-size:3.2px}"
    ".s{font-size:2.5px;fill:#6b6558}.edge{fill:none;stroke:#22262b;stroke-width:.35;stroke-linejoin:round}"
    ".thin{fill:none;stroke-width:.18}"
)


@dataclass(frozen=True)
class Dimension:
    """A reading to be drawn: its ends in mm in the axes of the job, what to write, whether it is met."""

    a: tuple[float, float, float]
    b: tuple[float, float, float]
    text: str
    met: bool


@dataclass(frozen=True)
class Plate:
    """What the corner block of the sheet says: rows of label and words."""

    rows: tuple[tuple[str, str], ...]


def three_views(mesh: Mesh, dimensions: Sequence[Dimension], plate: Plate) -> str:
    """Draw a mesh in mm as an A4 sheet.

    Args:
        mesh: in mm, axes of the job.
        dimensions: readings, drawn in the view where they are least foreshortened.
        plate: the corner block.

    Returns:
        An SVG document.
    """
    viewed = Viewed(mesh)
    low, high = mesh.bounds()
    size = high - low
    scale = _scale_for(size)
    places = _places(size, scale)
    drawn = [_frame(), _corner(plate, scale)]
    for view, at in places.items():
        drawn.append(_view(viewed, view, at, scale, (low + high) / 2))
    drawn.append(_overall(size, scale, places))
    chosen: dict[View, int] = {}
    for number, one in enumerate(dimensions, 1):
        drawn.append(_dimension(one, number, places, scale, (low + high) / 2, size, chosen))
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_WIDE}mm" height="{_HIGH}mm" '
        f'viewBox="0 0 {_WIDE} {_HIGH}"><style>{_STYLE}</style>'
        f'<rect width="{_WIDE}" height="{_HIGH}" fill="#fff"/>{"".join(drawn)}</svg>'
    )


def _scale_for(size: Floats) -> float:
    """The largest standard scale at which all three views fit."""
    across, up = size[0] + size[1], size[2] + size[1]
    wide = _WIDE - 2 * _MARGIN - 2 * _BETWEEN - 22
    high = _HIGH - 2 * _MARGIN - _TITLE - _BETWEEN - 22
    return next((scale for scale in _SCALES if across * scale <= wide and up * scale <= high), _SCALES[-1])


def _places(size: Floats, scale: float) -> dict[View, tuple[float, float]]:
    """Where the middle of each view is on the sheet."""
    x, y, z = size * scale
    wide, high = x + _BETWEEN + y, z + _BETWEEN + y
    left = (_WIDE - wide) / 2
    top = _MARGIN + 6 + (_HIGH - 2 * _MARGIN - _TITLE - 6 - high) / 2
    return {
        FRONT: (left + x / 2, top + z / 2),
        TOP: (left + x / 2, top + z + _BETWEEN + y / 2),
        LEFT: (left + x + _BETWEEN + y / 2, top + z / 2),
    }


def _on_sheet(view: View, at: tuple[float, float], scale: float, middle: Floats, flat: Floats) -> Floats:
    centre = view.flat(middle)
    return np.asarray((flat - centre) * [scale, -scale] + at)


def _view(viewed: Viewed, view: View, at: tuple[float, float], scale: float, middle: Floats) -> str:
    lines = _on_sheet(view, at, scale, middle, viewed.lines(view))
    path = "".join(_path(stroke) for stroke in strokes(lines, 0.06))
    return f'<path class="edge" data-view="{view.name}" d="{path}"/>'


def _path(points: Floats) -> str:
    return "M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in points.tolist())


def _frame() -> str:
    wide, high = _WIDE - 2 * _MARGIN, _HIGH - 2 * _MARGIN
    return (
        f'<rect x="{_MARGIN}" y="{_MARGIN}" width="{wide}" height="{high}" fill="none" stroke="{_INK}" '
        'stroke-width=".5"/>'
    )


def _corner(plate: Plate, scale: float) -> str:
    """The corner block: a ruled row of fields along the foot of the sheet, and the mark of the projection."""
    rows = (*plate.rows, ("scale", f"{scale:g} : 1" if scale >= 1 else f"1 : {1 / scale:g}"))
    top = _HIGH - _MARGIN - 14
    weights = [max(10, len(words), len(label)) for label, words in rows]
    room = _WIDE - 2 * _MARGIN - 26
    out, x = [f'<path d="M{_MARGIN} {top}H{_WIDE - _MARGIN}" stroke="{_INK}" stroke-width=".35"/>'], _MARGIN
    for (label, words), weight in zip(rows, weights, strict=True):
        out.append(f'<text class="s" x="{x + 2:.1f}" y="{top + 4.4}">{escape(label)}</text>')
        out.append(f'<text x="{x + 2:.1f}" y="{top + 10}">{escape(words)}</text>')
        x += room * weight / sum(weights)
        out.append(f'<path d="M{x:.1f} {top}v14" stroke="{_INK}" stroke-width=".25"/>')
    # First angle: the cone stands left of the rings it shows from its left.
    cx, cy = _WIDE - _MARGIN - 8, top + 7
    out.append(
        f'<g fill="none" stroke="{_INK}" stroke-width=".25"><circle cx="{cx}" cy="{cy}" r="3.6"/>'
        f'<circle cx="{cx}" cy="{cy}" r="1.8"/>'
        f'<path d="M{cx - 14} {cy - 1.8}l7 -1.8v7.2l-7 -1.8z"/></g>'
    )
    return "".join(out)


def _overall(size: Floats, scale: float, places: dict[View, tuple[float, float]]) -> str:
    x, y, z = (size * scale / 2).tolist()
    (fx, fy), (tx, ty), (lx, ly) = places[FRONT], places[TOP], places[LEFT]
    return (
        _line((tx - x, ty + y), (tx + x, ty + y), (0, 8), f"{written(size[0])}", _INK)
        + _line((fx - x, fy + z), (fx - x, fy - z), (-8, 0), f"{written(size[2])}", _INK)
        + _line((lx - y, ly + z), (lx + y, ly + z), (0, 8), f"{written(size[1])}", _INK)
    )


def _line(
    a: tuple[float, float], b: tuple[float, float], away: tuple[float, float], text: str, ink: str
) -> str:
    """A dimension line parallel to a-b, moved ``away``, with extension lines, strokes and numeral."""
    (ax, ay), (bx, by), (dx, dy) = a, b, away
    long = float(np.hypot(dx, dy)) or 1.0
    ux, uy = dx / long, dy / long
    p, q = (ax + dx, ay + dy), (bx + dx, by + dy)
    run = float(np.hypot(q[0] - p[0], q[1] - p[1])) or 1.0
    ex, ey = (q[0] - p[0]) / run, (q[1] - p[1]) / run
    sx, sy = (ex + ey) * 1.1, (ey - ex) * 1.1
    marks = [_path(np.array([[ax + ux, ay + uy], [p[0] + 1.5 * ux, p[1] + 1.5 * uy]]))] if long > 1.5 else []
    marks += [_path(np.array([[bx + ux, by + uy], [q[0] + 1.5 * ux, q[1] + 1.5 * uy]]))] if long > 1.5 else []
    marks.append(_path(np.array([p, q])))
    ticks = "".join(_path(np.array([[x - sx, y - sy], [x + sx, y + sy]])) for x, y in (p, q))
    mx, my = (p[0] + q[0]) / 2, (p[1] + q[1]) / 2
    half = 1.02 * len(text)
    if run < 2 * half + 4:  # no room in the line: beyond it
        mx, my = mx + ux * (half + 2 if abs(ux) > 0.5 else 3.5), my + uy * 3.5
    return (
        f'<path class="thin" stroke="{ink}" d="{"".join(marks)}"/>'
        f'<path d="{ticks}" stroke="{ink}" stroke-width=".4" fill="none"/>'
        f'<rect x="{mx - half:.2f}" y="{my - 2:.2f}" width="{2 * half:.2f}" height="4" fill="#fff"/>'
        f'<text class="n" x="{mx:.2f}" y="{my + 1.15:.2f}" text-anchor="middle" style="fill:{ink}">'
        f"{escape(text)}</text>"
    )


def _dimension(
    one: Dimension,
    number: int,
    places: dict[View, tuple[float, float]],
    scale: float,
    middle: Floats,
    size: Floats,
    chosen: dict[View, int],
) -> str:
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
    ink = _TRUE if one.met else _LOOK
    return _line((a[0], a[1]), (b[0], b[1]), away, f"({number}) {one.text}", ink)
