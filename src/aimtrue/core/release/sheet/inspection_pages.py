"""This module prints what was measured on parts as an inspection sheet, as PDF."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence

from reportlab.lib.pagesizes import landscape
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from aimtrue.core.drawing import paper
from aimtrue.core.drawing.paper import Ink, Mark, TextMark
from aimtrue.core.fit.inspection.results import InspectionPart, InspectionRow, InspectionView
from aimtrue.core.model.print_lines import ROUND_FORMS, PrintLine
from aimtrue.core.release.sheet.content import Paper
from aimtrue.core.release.sheet.layout import (
    LETTER_FONT,
    MARGIN,
    PAPERS,
    Row,
    cells,
    cut,
    foot_block,
    frame,
    head,
    labels,
    put,
    tables,
    with_fonts,
)

_WHAT, _FIRST, _COLUMN = 86.0, 128.0, 17.0
"""Where the columns of what is to be, and of the first part, begin; and how wide that of a part is, in mm."""


def inspection_pdf(view: InspectionView, job: str, machine: str, day: str, kind: Paper) -> bytes:
    """Print an inspection.

    Args:
        view: what was measured.
        job, machine: what they are called.
        day: of the print, as it is to stand in the block at the foot.
        kind: of paper; pages lie on their side.
    """
    with_fonts()
    out = io.BytesIO()
    size = landscape(PAPERS[kind])
    wide, high = size[0] / mm, size[1] / mm
    canvas = Canvas(out, pagesize=size, invariant=1, initialFontName=LETTER_FONT)
    canvas.setTitle(f"{job}: inspection sheet")
    canvas.setAuthor("Aim True")
    pages = list(_pages(view, wide, high))
    for number, marks in enumerate(pages, 1):
        fields = (
            (76.0, "job", job),
            (58.0, "machine", machine),
            (26.0, "parts", str(len(view.parts))),
            (30.0, "date", day),
            (26.0, "page", f"{number} of {len(pages)}"),
        )
        foot, x, top = foot_block(fields, wide, high)
        good = not any(part.out for part in view.parts)
        foot.append(paper.box(x + 4, top + 6, 36, 10, width=0.7))
        stamp = "IN TOLERANCE" if good else "OUT OF TOLERANCE"
        ink: Ink = "true" if good else "look"
        foot.append(TextMark(x + 22, top + 12.6, stamp, 3.6 if good else 3.2, ink, "middle", bold=True))
        foot.append(TextMark(MARGIN + 2, top + 19, "Aim True inspection sheet; lengths in mm", 2.5, "soft"))
        for mark in (*frame(wide, high), *foot, *marks):
            put(canvas, mark, high)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _pages(view: InspectionView, wide: float, high: float) -> Iterator[list[Mark]]:
    """Yield the tables of parts, as many parts on a page as it has columns for, and what the machine does."""
    measured = [row for row in view.rows if row.values]
    most = max(1, int((wide - 2 * MARGIN - 6 - _FIRST - 34) / _COLUMN))
    groups = [view.parts[at : at + most] for at in range(0, max(1, len(view.parts)), most)]
    for parts in groups[:-1]:
        yield from tables(_sizes(measured, parts), wide, high)
    rest = [[], *_pairs(view), *_lines(view.lines, view.lacks)]
    yield from tables([*_sizes(measured, groups[-1]), *rest], wide, high)


def _sizes(rows: Sequence[InspectionRow], parts: Sequence[InspectionPart]) -> list[Row]:
    columns = [(_FIRST + _COLUMN * i, cut(part.name, _COLUMN - 2, 2.8)) for i, part in enumerate(parts)]
    end = _FIRST + _COLUMN * len(parts)
    sizes = [
        head("Sizes measured"),
        labels(
            (0, "size"),
            (_WHAT, "is to be"),
            (_WHAT + 18, "from .. to"),
            *columns,
            (end, "mean"),
            (end + 17, "spread"),
        ),
    ]
    for row in rows:
        values = {value.part: value for value in row.values}
        line = cells(
            (0, cut(f"{row.what}, {row.body}", _WHAT - 2, 3.0), False), (_WHAT, f"{row.aim_mm:.2f}", True)
        )
        line.append(TextMark(MARGIN + 3 + _WHAT + 18, 0, _band(row), 2.4, numeral=True))
        for i, part in enumerate(parts):
            if value := values.get(part.id):
                ink: Ink = "ink" if value.within else "look"
                text = f"{value.mm:.2f}{'' if value.within else ' !'}"
                line.append(TextMark(MARGIN + 3 + _FIRST + _COLUMN * i, 0, text, 2.8, ink, numeral=True))
        line += cells((end, f"{row.mean_mm:.3f}", True))
        if row.spread_mm is not None:
            line += cells((end + 17, f"{row.spread_mm:.3f}", True))
        sizes.append(line)
    if not rows:
        sizes.append(cells((0, "nothing was measured yet", False)))
    return sizes


def _band(row: InspectionRow) -> str:
    low = "" if row.low_mm is None else f"{row.low_mm:.2f}"
    high = "" if row.high_mm is None else f"{row.high_mm:.2f}"
    return f"{low}..{high}"


def _pairs(view: InspectionView) -> Iterator[Row]:
    inspection_pairs = [pair for pair in view.pairs if pair.values]
    if not inspection_pairs:
        return
    names = {part.id: part.name for part in view.parts}
    yield head("Clearances of pairs, as printed")
    yield labels((0, "pair"), (_WHAT, "is to be"), (_FIRST, "part"), (_FIRST + 40, "clearance"))
    for pair in inspection_pairs:
        for value in pair.values:
            yield cells(
                (0, cut(pair.what, _WHAT - 2, 3.0), False),
                (_WHAT, pair.band_says, False),
                (_FIRST, cut(names[value.part], 36, 3.0), False),
                (_FIRST + 40, f"{value.clearance_mm:.3f}{'' if value.within else ' !'}", True),
            )
    yield []


def _lines(lines: Sequence[PrintLine], lacks: str) -> Iterator[Row]:
    yield head("What the machine does to sizes")
    if lacks:
        yield cells((0, lacks, False))
    if lines:
        yield labels((0, "sizes"), (_WHAT, "off by"), (_FIRST, "and in scale"), (_FIRST + 40, "give or take"))
    for line in lines:
        yield cells(
            (0, f"{line.form}, {_way(line)} {line.axis.upper()}, {line.count} measured", False),
            (_WHAT, f"{line.offset_mm:+.3f}", True),
            (_FIRST, f"{100 * line.share:+.3f} %", True),
            (_FIRST + 40, f"{line.uncertainty_mm:.3f}", True),
        )


def _way(line: PrintLine) -> str:
    return "around" if line.form in ROUND_FORMS else "along"
