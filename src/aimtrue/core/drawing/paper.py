"""Marks on paper, in millimetres from its upper left corner, and how they are written as SVG.

What is drawn is told once, by marks; a browser gets them as SVG, a printed sheet as PDF.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from html import escape
from typing import Literal, TypeAlias

import numpy as np

from aimtrue.core.mesh.mesh import Floats

Ink: TypeAlias = Literal["ink", "soft", "true", "look", "rule", "paper", "fill"]
INKS: dict[Ink, str] = {
    "ink": "#22262b",
    "soft": "#6b6558",
    "true": "#256c62",
    "look": "#865b07",
    "rule": "#c9c2b4",
    "paper": "#ffffff",
    "fill": "#ece7db",
}


@dataclass(frozen=True, eq=False)
class PenLines:
    """Runs of (n, 2) points, drawn with a pen of some width; ``dashes`` are lengths of line and gap in turn.

    Those that are ``filled`` are closed areas; one within another is a hole.
    """

    runs: tuple[Floats, ...]
    width: float
    ink: Ink = "ink"
    dashes: tuple[float, ...] = ()
    closed: bool = False
    filled: Ink | None = None
    name: str = ""


@dataclass(frozen=True)
class TextMark:
    """Text at a place of its base line; numerals are of even width."""

    x: float
    y: float
    text: str
    size: float = 3.2
    ink: Ink = "ink"
    anchor: Literal["start", "middle", "end"] = "start"
    numeral: bool = False
    bold: bool = False


@dataclass(frozen=True)
class CircleMark:
    """A circle, not filled."""

    x: float
    y: float
    radius: float
    width: float


Mark: TypeAlias = PenLines | TextMark | CircleMark


def line(*points: tuple[float, float], width: float = 0.25, ink: Ink = "ink") -> PenLines:
    """Return one run through some points."""
    return PenLines((np.array(points),), width, ink)


def box(
    x: float, y: float, wide: float, high: float, *, width: float = 0.25, filled: Ink | None = None
) -> PenLines:
    """Return a rectangle; one without a pen has a width of 0."""
    ends = np.array([[x, y], [x + wide, y], [x + wide, y + high], [x, y + high]])
    return PenLines((ends,), width, closed=True, filled=filled)


def as_svg(marks: Iterable[Mark], wide: float, high: float) -> str:
    """Write marks as an SVG document of some width and height in mm."""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide:g}mm" height="{high:g}mm" '
        f'viewBox="0 0 {wide:g} {high:g}"><style>{_STYLE}</style>'
        f'<rect width="{wide:g}" height="{high:g}" fill="#fff"/>{"".join(map(_svg, marks))}</svg>'
    )


_STYLE = (
    "text{font-family:Barlow,'Liberation Sans',sans-serif}"
    ".n{font-family:'IBM Plex Mono','Liberation Mono',monospace}path{stroke-linejoin:round}"
)


def _svg(mark: Mark) -> str:
    if isinstance(mark, TextMark):
        anchor = f' text-anchor="{mark.anchor}"' if mark.anchor != "start" else ""
        kind = ' class="n"' if mark.numeral else ""
        weight = ' font-weight="600"' if mark.bold else ""
        return (
            f'<text{kind}{weight} x="{mark.x:.2f}" y="{mark.y:.2f}"{anchor} font-size="{mark.size:g}" '
            f'fill="{INKS[mark.ink]}">{escape(mark.text)}</text>'
        )
    if isinstance(mark, CircleMark):
        at = f'cx="{mark.x:.2f}" cy="{mark.y:.2f}" r="{mark.radius:g}"'
        return f'<circle {at} fill="none" stroke="{INKS["ink"]}" stroke-width="{mark.width:g}"/>'
    path = "".join(_path(run) + ("Z" if mark.closed else "") for run in mark.runs)
    fill = INKS[mark.filled] if mark.filled else "none"
    pen = f' stroke="{INKS[mark.ink]}" stroke-width="{mark.width:g}"' if mark.width else ""
    dashes = f' stroke-dasharray="{" ".join(f"{dash:g}" for dash in mark.dashes)}"' if mark.dashes else ""
    name = f' data-view="{escape(mark.name)}"' if mark.name else ""
    return f'<path{name} d="{path}" fill="{fill}" fill-rule="evenodd"{pen}{dashes}/>'


def _path(points: Floats) -> str:
    return "M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in points.tolist())
