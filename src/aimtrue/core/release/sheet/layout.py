"""This module lays out printed sheets: fonts, rows of tables, the frame, the block at the foot of a page."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import lru_cache
from pathlib import Path

from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from aimtrue.core.drawing import paper
from aimtrue.core.drawing.paper import CircleMark, Mark, TextMark

PAPERS = {"a4": A4, "letter": LETTER}
LETTER_FONT = "Barlow"
MARGIN = 10.0
"""In mm, as are a row of a table and the block at the foot."""
ROW = 5.0
TITLE = 22.0
_FONTS = Path(__file__).parent / "fonts"
_BOLD = "Barlow-SemiBold"
_NUMBER = "IBMPlexMono"


@lru_cache(maxsize=1)
def with_fonts() -> None:
    """Register the fonts that are embedded."""
    for name, file in (
        (LETTER_FONT, "Barlow-Regular"),
        (_BOLD, "Barlow-SemiBold"),
        (_NUMBER, "IBMPlexMono-Regular"),
    ):
        pdfmetrics.registerFont(TTFont(name, str(_FONTS / f"{file}.ttf")))


Row = list[TextMark]
"""A row of a table: words at places across, all on one line."""


def head(text: str) -> Row:
    """Return the heading of a table."""
    return [TextMark(MARGIN + 3, 0, text, 4.2, bold=True)]


def labels(*at: tuple[float, str]) -> Row:
    """Return the labels of columns, each with its place in mm."""
    return [TextMark(MARGIN + 3 + x, 0, text, 2.8, "soft") for x, text in at]


def cells(*at: tuple[float, str, bool]) -> Row:
    """Return a row of cells: the place of each in mm, its text, and whether it is a number."""
    return [TextMark(MARGIN + 3 + x, 0, text, 3.0, numeral=numeral) for x, text, numeral in at]


def tables(rows: list[Row], wide: float, high: float) -> Iterator[list[Mark]]:
    """Set rows one below another, on as many pages as they take."""
    most = int((high - 2 * MARGIN - TITLE - 8) / ROW)
    for at in range(0, len(rows), most):
        marks: list[Mark] = []
        for number, row in enumerate(rows[at : at + most]):
            y = MARGIN + 8 + number * ROW
            marks += [
                TextMark(
                    text_mark.x,
                    y,
                    text_mark.text,
                    text_mark.size,
                    text_mark.ink,
                    text_mark.anchor,
                    text_mark.numeral,
                    text_mark.bold,
                )
                for text_mark in row
            ]
            if any(text_mark.ink == "soft" and text_mark.size > 2.7 for text_mark in row):
                marks.append(paper.line((MARGIN + 3, y + 1.4), (wide - MARGIN - 3, y + 1.4), ink="rule"))
        yield marks


def moved_down(mark: TextMark, y: float) -> TextMark:
    """Return text at another height of the page, in mm."""
    return TextMark(mark.x, y, mark.text, mark.size, mark.ink, mark.anchor, mark.numeral, mark.bold)


def frame(wide: float, high: float) -> list[Mark]:
    """Return the frame of a page of this size in mm."""
    return [paper.box(MARGIN, MARGIN, wide - 2 * MARGIN, high - 2 * MARGIN, width=0.5)]


def cut(text: str, room: float, size: float, *, numeral: bool = False) -> str:
    """Return text cut to a width in mm, with an ellipsis where it was."""
    font = _NUMBER if numeral else LETTER_FONT
    if pdfmetrics.stringWidth(text, font, size) <= room:
        return text
    while text and pdfmetrics.stringWidth(f"{text}…", font, size) > room:
        text = text[:-1]
    return f"{text.rstrip()}…"


def put(canvas: Canvas, mark: Mark, high: float) -> None:
    """Draw a mark; the paper's zero is its upper left corner, PDF's its lower left."""
    if isinstance(mark, TextMark):
        font = _NUMBER if mark.numeral else _BOLD if mark.bold else LETTER_FONT
        canvas.setFillColor(paper.INKS[mark.ink])
        canvas.setFont(font, mark.size * mm)
        draw = {"start": canvas.drawString, "middle": canvas.drawCentredString, "end": canvas.drawRightString}
        draw[mark.anchor](mark.x * mm, (high - mark.y) * mm, mark.text)
        return
    canvas.setStrokeColor(paper.INKS["ink"])
    canvas.setLineWidth(mark.width * mm)
    canvas.setDash([])
    if isinstance(mark, CircleMark):
        canvas.circle(mark.x * mm, (high - mark.y) * mm, mark.radius * mm, stroke=1, fill=0)
        return
    canvas.setStrokeColor(paper.INKS[mark.ink])
    canvas.setDash([dash * mm for dash in mark.dashes])
    path = canvas.beginPath()
    for run in mark.runs:
        (x, y), *more = run.tolist()
        path.moveTo(x * mm, (high - y) * mm)
        for x, y in more:
            path.lineTo(x * mm, (high - y) * mm)
        if mark.closed:
            path.close()
    if mark.filled:
        canvas.setFillColor(paper.INKS[mark.filled])
    canvas.drawPath(path, stroke=int(mark.width > 0), fill=int(mark.filled is not None), fillMode=0)


def foot_block(
    fields: Sequence[tuple[float, str, str]], wide: float, high: float
) -> tuple[list[Mark], float, float]:
    """Return the ruled row along the foot of a page, and where it is free: from which x on, and its top.

    Args:
        fields: how wide each is in mm, its label, and what stands in it.
        wide, high: of the page, in mm.
    """
    top = high - MARGIN - TITLE
    marks: list[Mark] = [paper.line((MARGIN, top), (wide - MARGIN, top), width=0.5)]
    x = MARGIN
    for room, label, text in fields:
        marks.append(TextMark(x + 2, top + 5, label, 2.5, "soft"))
        bold = label in ("job", "revision")
        marks.append(TextMark(x + 2, top + 12.5, cut(text, room - 4, 4.0), 4.0, bold=bold))
        x += room
        marks.append(paper.line((x, top), (x, top + TITLE)))
    return marks, x, top
