"""Outlines read from drawings: SVG and DXF, in mm, up is up.

An SVG whose page begins at 0, 0 is measured from the lower left corner of its page; any other from its own
origin. A DXF is measured from its origin.
"""

from __future__ import annotations

import io
import math
import re
from collections import defaultdict, deque
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

if TYPE_CHECKING:
    from svgelements import Path

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.lengths import MM_PER, Unit

_FINE_MM = 0.01
"""How far the sides of a polygon may be from a curve."""
_JOIN = 1e-6
"""Ends of lines that are nearer than this share of the size are one."""
_MOST = 200_000
_DXF_UNITS: dict[int, float] = {
    1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 8: 25.4e-6, 9: 0.0254, 10: 914.4, 13: 0.001, 14: 100.0,
}  # fmt: skip
"""Mm per number by $INSUNITS; 8 and 9 are millionths and thousandths of an inch."""


def rings_in(name: str, text: str, unit: Unit | None = None) -> list[Floats]:
    """Return the closed outlines of a drawing, (k, 2) each in mm.

    Args:
        name: of the file; its ending tells what it is.
        text: what it holds.
        unit: of one that names none.

    Raises:
        Refused: it cannot be read, names no unit, or has no closed outline.
    """
    kind = name.lower().rsplit(".", 1)[-1]
    if kind not in ("svg", "dxf"):
        raise Refused("drawing", f"{name} is neither SVG nor DXF", remedy="save it as one of these")
    try:
        rings, open_ones = _svg(name, text, unit) if kind == "svg" else _dxf(name, text, unit)
    except Refused:
        raise
    except Exception as error:  # readers of others: whatever they stumble over is the file's  # noqa: BLE001 - whatever it is, it is told
        says = f"{name} cannot be read as {kind.upper()}: {' '.join(str(error).split())[:120]}"
        raise Refused("drawing", says, remedy="save it anew") from None
    if not rings:
        what = "its outlines are open" if open_ones else "there is no outline in it"
        raise Refused("outline-open", f"{name}: {what}", remedy="close the outline in the drawing")
    if open_ones:
        many = "an outline" if open_ones == 1 else f"{open_ones} outlines"
        says = f"{name}: {many} of {len(rings) + open_ones} did not close"
        raise Refused("outline-open", says, remedy="close it, or take it out of the drawing")
    return rings


def _svg(name: str, text: str, unit: Unit | None) -> tuple[list[Floats], int]:
    from svgelements import SVG, Path, Shape

    root = re.search(r"<svg\b[^>]*>", text, re.DOTALL)
    if root is None:
        raise Refused("drawing", f"{name} is no SVG", remedy="save it anew")
    page = _page(root.group(0))
    if page.wide_mm is None and unit is None:
        raise Refused(
            "outline-unit",
            f"{name} does not say how large it is",
            remedy="tell the unit of its numbers, or save it with a width in mm",
        )
    # Read in numbers of the drawing itself, and scaled here: the reader rounds what it scales.
    bare = re.sub(
        r"""\b(width|height|viewBox|preserveAspectRatio)\s*=\s*("[^"]*"|'[^']*')""", "", root.group(0)
    )
    drawing = SVG.parse(io.StringIO(text.replace(root.group(0), bare, 1)), reify=True, ppi=96)
    per = (MM_PER[unit],) * 2 if unit and page.wide_mm is None else page.per
    rings, open_ones = [], 0
    for shape in drawing.elements():
        if not isinstance(shape, Shape):
            continue
        for part in Path(shape).as_subpaths():
            points, closed = _walked(Path(part), _FINE_MM / max(per))
            if len(points) < 2:
                continue
            if closed and len(points) > 2:
                rings.append(points)
            else:
                open_ones += 1
    return [page.upright(ring) * per for ring in rings], open_ones


@dataclass(frozen=True)
class _Page:
    """The page of an SVG: its view box, and how large it says that it is, in mm."""

    box: tuple[float, float, float, float] | None
    wide_mm: float | None
    high_mm: float | None
    fits: str = ""
    """Its ``preserveAspectRatio``: how the view box goes into a page of another shape."""

    @property
    def per(self) -> tuple[float, float]:
        """Mm per number across and up: the view box is as large as goes into the page, or as told."""
        if self.box is None or self.wide_mm is None:
            return 25.4 / 96, 25.4 / 96  # The unit is a pixel, as CSS defines it.
        across = self.wide_mm / self.box[2]
        up = self.high_mm / self.box[3] if self.high_mm else across
        if self.fits.startswith("none"):
            return across, up
        both = max(across, up) if "slice" in self.fits else min(across, up)
        return both, both

    def upright(self, ring: Floats) -> Floats:
        """Turn Y up: about the page where that begins at 0, else about the drawing's own origin."""
        if self.box is None:
            high = (self.high_mm or 0.0) / self.per[1]
        else:
            high = self.box[3] if self.box[:2] == (0.0, 0.0) else 0.0
        return np.column_stack([ring[:, 0], high - ring[:, 1]])


_MM_PER_CSS = {"mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6, "q": 0.25}


def _page(root: str) -> _Page:
    match_ = re.search(r"""\bviewBox\s*=\s*["']([^"']+)["']""", root)
    numbers = [float(number) for number in re.split(r"[\s,]+", match_.group(1).strip())] if match_ else []
    box = None
    if len(numbers) == 4 and min(numbers[2:]) > 0:
        box = (numbers[0], numbers[1], numbers[2], numbers[3])
    fits = re.search(r"""\bpreserveAspectRatio\s*=\s*["']\s*([^"']*)["']""", root)
    return _Page(box, _told(root, "width"), _told(root, "height"), fits.group(1) if fits else "")


def _told(root: str, name: str) -> float | None:
    match_ = re.search(rf"""\b{name}\s*=\s*["']\s*([\d.eE+-]+)\s*([a-zA-Z%]*)""", root)
    per = _MM_PER_CSS.get(match_.group(2).lower()) if match_ else None
    return float(match_.group(1)) * per if match_ and per else None


def _walked(part: Path, fine: float) -> tuple[Floats, bool]:
    """Return (k, 2) points along a subpath, and whether it comes back to where it began."""
    points: list[complex] = []
    closed = False
    for segment in part:
        kind = type(segment).__name__
        if kind == "Move":
            points.append(complex(segment.end))
        elif kind == "Close":
            closed = True
        elif kind == "Line":
            points.append(complex(segment.end))
        else:
            count = _steps(float(segment.length(error=1e-4)), fine)
            places = (segment.point(k / count) for k in range(1, count + 1))
            points += [complex(float(place.x), float(place.y)) for place in places]
    ring = np.array([[point.real, point.imag] for point in points]).reshape(-1, 2)
    return _closed(ring, closed)


def _closed(ring: Floats, closed: bool) -> tuple[Floats, bool]:
    """Leave out doubles, and see whether the ends meet."""
    if len(ring) < 2:
        return ring, closed
    size = float(np.ptp(ring, axis=0).max()) or 1.0
    keep = np.r_[True, np.linalg.norm(np.diff(ring, axis=0), axis=1) > _JOIN * size]
    ring = ring[keep]
    if len(ring) > 1 and np.linalg.norm(ring[0] - ring[-1]) <= _JOIN * size:
        return ring[:-1], True
    return ring, closed


def _steps(length: float, fine: float) -> int:
    """Steps along a curve, so many that none is far from it even where it is tight."""
    return int(min(max(8, math.ceil(length / math.sqrt(8 * fine * max(length / 6, fine)))), 2000))


def _dxf(name: str, text: str, unit: Unit | None) -> tuple[list[Floats], int]:
    import ezdxf  # The library is large, and is needed for this alone.
    from ezdxf import path as paths

    drawing = ezdxf.read(io.StringIO(text))  # type: ignore[attr-defined]
    header_unit = _DXF_UNITS.get(int(drawing.header.get("$INSUNITS", 0)))
    if header_unit is None and unit is None:
        raise Refused(
            "outline-unit",
            f"{name} does not say in which unit it is drawn",
            remedy="tell the unit of its numbers, or save it with $INSUNITS",
        )
    per = header_unit if header_unit is not None else MM_PER[unit or Unit.MM]
    drawn = list(_shown(drawing))
    curves = [entity for entity in drawn if entity.dxftype() in _CURVES]
    # A hatch repeats the outline that it fills; it is one itself only where nothing else is drawn.
    lines = [paths.make_path(curve) for curve in curves] or [
        line for entity in drawn if entity.dxftype() == "HATCH" for line in paths.from_hatch(entity)
    ]
    ends: list[Floats] = []
    rings: list[Floats] = []
    for line in lines:
        points = np.array([(point.x, point.y) for point in line.flattening(_FINE_MM / per)]) * per
        ring, closed = _closed(points, bool(line.is_closed))
        if closed and len(ring) > 2:
            rings.append(ring)
        elif len(ring) > 1:
            ends.append(ring)
        if len(rings) + len(ends) > _MOST:
            raise Refused("drawing", f"{name} has over {_MOST:,} lines", remedy="simplify it")
    more, open_ones = _chained(ends)
    return rings + more, open_ones


def _shown(drawing: Any) -> Iterator[Any]:  # noqa: ANN401 - of any type, or of none that is known
    """What a drawing shows: blocks taken apart, without what is on layers that are off or frozen."""
    from ezdxf.disassemble import recursive_decompose

    hidden = {layer.dxf.name.lower() for layer in drawing.layers if layer.is_off() or layer.is_frozen()}
    seen = (entity for entity in drawing.modelspace() if entity.dxf.layer.lower() not in hidden)
    for entity in recursive_decompose(seen):
        if entity.dxf.layer.lower() not in hidden and not entity.dxf.get("invisible", 0):
            yield entity


_CURVES = {"LINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE", "LWPOLYLINE", "POLYLINE"}


def _chained(ends: list[Floats]) -> tuple[list[Floats], int]:
    """Join lines whose ends meet into rings; return them, and how many chains stay open."""
    if not ends:
        return [], 0
    size = max(float(np.abs(end).max()) for end in ends)
    at = _meeting(np.array([[end[0], end[-1]] for end in ends]), max(1e-4, _JOIN * size))
    lines_at: defaultdict[int, deque[int]] = defaultdict(deque)
    for line, (first, last) in enumerate(at.tolist()):
        lines_at[first].append(line)
        lines_at[last].append(line)
    rings, open_ones, used = [], 0, [False] * len(ends)
    for start in range(len(ends)):
        if used[start]:
            continue
        chain = _followed(start, ends, at, lines_at, used)
        if chain is not None and len(chain) > 2:
            rings.append(chain)
        else:
            open_ones += 1
    return rings, open_ones


def _meeting(ends: Floats, near: float) -> NDArray[np.int64]:
    """Return (n, 2): the place that each end of (n, 2, 2) lines is at, ends nearer than that at the same."""
    places, place_of = np.unique(np.round(ends.reshape(-1, 2) * (4 / near)), axis=0, return_inverse=True)
    one, other = cKDTree(places).query_pairs(4.0, output_type="ndarray").T
    return connected_components(len(places), one, other)[1][place_of.ravel()].reshape(-1, 2)


def _followed(
    start: int,
    ends: list[Floats],
    at: NDArray[np.int64],
    lines_at: Mapping[int, deque[int]],
    used: list[bool],
) -> Floats | None:
    """Follow lines from one on until they come back to where it began; None where they end before."""
    used[start] = True
    home, here = at[start].tolist()
    chain = [ends[start][:-1]]
    while here != home:
        waiting = lines_at[here]
        while waiting and used[waiting[0]]:
            waiting.popleft()
        if not waiting:
            return None
        line = waiting.popleft()
        used[line] = True
        forward = bool(at[line, 0] == here)
        chain.append((ends[line] if forward else ends[line][::-1])[:-1])
        here = int(at[line, 1 if forward else 0])
    return np.concatenate(chain)
