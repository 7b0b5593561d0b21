"""The proof sheet as PDF: real text, fonts embedded, A4 or Letter, the same bytes for the same release."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator, Sequence
from typing import Any

import numpy as np
from reportlab.lib.pagesizes import landscape
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from aimtrue.core.drawing import paper
from aimtrue.core.drawing.paper import CircleMark, Mark, PenLines, TextMark
from aimtrue.core.drawing.sheet import Area, Dimension, first_angle, scale_words, views_of
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.ids import BodyId
from aimtrue.core.release.sheet.content import Paper, ProofSheet, SheetBody, SheetPlate
from aimtrue.core.release.sheet.layout import (
    LETTER_FONT,
    MARGIN,
    PAPERS,
    ROW,
    TITLE,
    Row,
    cells,
    cut,
    foot_block,
    frame,
    head,
    labels,
    moved_down,
    put,
    tables,
    with_fonts,
)

Drawn = Callable[[BodyId], tuple[Mesh, Sequence[Dimension]]]
"""Gives a body by id in mm, corrected, with its readings as dimensions."""

_POINTS = 72 / 25.4


def as_pdf(sheet: ProofSheet, kind: Paper, drawn: Drawn) -> bytes:
    """Write a proof sheet.

    Args:
        sheet: what it says.
        kind: of paper; pages lie on their side.
        drawn: gives what is drawn in three views.
    """
    return all_as_pdf([(sheet, drawn)], kind)


def all_as_pdf(sheets: Sequence[tuple[ProofSheet, Drawn]], kind: Paper) -> bytes:
    """Write proof sheets one after the other, each with numbers of pages of its own.

    Args:
        sheets: at least one, each with what gives its drawings.
        kind: of paper; pages lie on their side.
    """
    with_fonts()
    out = io.BytesIO()
    wide, high = landscape(PAPERS[kind])
    canvas = Canvas(out, pagesize=(wide, high), invariant=1, initialFontName=LETTER_FONT)
    first, _ = sheets[0]
    more = f" and {len(sheets) - 1} more" if len(sheets) > 1 else ""
    canvas.setTitle(f"{first.job}{more}, release {first.release}: proof sheet")
    canvas.setAuthor("Aim True")
    canvas.setSubject("What was released, how each size came about, and what was held against it")
    for sheet, drawn in sheets:
        _put_sheet(canvas, sheet, drawn, wide / mm, high / mm)
    canvas.save()
    return out.getvalue()


def _put_sheet(canvas: Canvas, sheet: ProofSheet, drawn: Drawn, wide: float, high: float) -> None:
    pages = list(_pages(sheet, wide, high, drawn))
    for number, (says, marks) in enumerate(pages, 1):
        foot = _title_block(sheet, says, number, len(pages), wide, high)
        for mark in (*frame(wide, high), *foot, *marks):
            put(canvas, mark, high)
        canvas.showPage()


def _pages(sheet: ProofSheet, wide: float, high: float, drawn: Drawn) -> Iterator[tuple[str, list[Mark]]]:
    """Yield what each page is of, and its marks without frame and title block."""
    yield from (("release", marks) for marks in tables(_of_release(sheet, wide), wide, high))
    for body in sheet.bodies:
        yield from _of_body(body, wide, high, drawn)
    for plate in sheet.plates:
        yield from _of_plate(plate, wide, high)


def _of_release(sheet: ProofSheet, wide: float) -> list[Row]:
    rows = [
        head("Files released"),
        labels((0, "file"), (78, "size, mm"), (140, "unit"), (160, "triangles")),
    ]
    rows[-1] += labels((184, "checks"), (202, "worst off, mm"), (226, "read back by"))
    for file in sheet.files:
        size = " × ".join(f"{size_mm:.4f}" for size_mm in file.size_mm)
        many = f", {file.count} wanted" if file.count > 1 else ""
        rows.append(
            cells(
                (0, cut(file.name + many, 76, 3.0), False),
                (78, size, True),
                (140, file.unit, False),
                (160, f"{file.triangles:,}".replace(",", " "), True),
                (184, str(file.checks), True),
                (202, f"{file.worst_mm:.7f}", True),
                (226, cut(file.reader, wide - 2 * MARGIN - 232, 3.0), False),
            )
        )
        holds = ", ".join(file.bodies)
        rows.append([TextMark(MARGIN + 8, 0, f"SHA-256 {file.sha256}", 2.5, "soft", numeral=True)])
        rows[-1].append(TextMark(MARGIN + 128, 0, cut(holds, wide - 2 * MARGIN - 134, 2.6), 2.6, "soft"))
    rows += [
        [],
        head("Files they came from"),
        labels((0, "file"), (78, "unit, and how it was settled"), (150, "up")),
    ]
    for source in sheet.sources:
        replaced = f", revision {source.replaced + 1}" if source.replaced else ""
        rows.append(
            cells(
                (0, cut(source.name + replaced, 76, 3.0), False),
                (78, source.unit_says, False),
                (150, source.up, False),
            )
        )
        rows.append([TextMark(MARGIN + 8, 0, f"SHA-256 {source.sha256}", 2.5, "soft", numeral=True)])
    rows += [[], head("Held against"), cells((0, cut(f"{sheet.original_says}.", wide - 30, 3.0), False))]
    says = f"{sheet.checks} comparisons, all of which hold; the worst length is {sheet.worst_mm:.7f} mm off."
    rows.append(cells((0, says, False)))
    rows += [[], head("Let pass on purpose")]
    rows += [cells((0, cut(text, wide - 30, 3.0), False)) for text in sheet.accepted or ("nothing",)]
    return rows


def _of_body(body: SheetBody, wide: float, high: float, drawn: Drawn) -> Iterator[tuple[str, list[Mark]]]:
    """Three views of a body, its size chain, and its readings; more readings than fit go on to another
    page.
    """
    mesh, dimensions = drawn(body.id)
    column = 104.0
    area = Area(MARGIN, MARGIN + 2, wide - 2 * MARGIN - column, high - 2 * MARGIN - TITLE - 4)
    marks = views_of(mesh, dimensions, area)
    marks.append(
        TextMark(MARGIN + 3, high - MARGIN - TITLE - 3, f"scale {scale_words(mesh, area)}", 2.6, "soft")
    )
    left = wide - MARGIN - column
    marks.append(paper.line((left, MARGIN), (left, high - MARGIN - TITLE)))
    rows = _chain_rows(body, left + 3)
    readings = _reading_rows(body, left + 3)
    most = int((high - 2 * MARGIN - TITLE - 10) / ROW)
    first = [*rows, *readings][:most]
    for number, row in enumerate(first):
        marks += [moved_down(text_mark, MARGIN + 8 + number * ROW) for text_mark in row]
    name = cut(", ".join(body.names), 90, 3.2)
    yield name, marks
    rest = [*rows, *readings][most:]
    for at in range(0, len(rest), most):
        yield (
            name,
            [
                moved_down(text_mark, MARGIN + 8 + number * ROW)
                for number, row in enumerate(rest[at : at + most])
                for text_mark in row
            ],
        )


def _chain_rows(body: SheetBody, x: float) -> list[Row]:
    name = body.names[0] + (f", and {len(body.names) - 1} alike" if len(body.names) > 1 else "")
    rows: list[Row] = [[TextMark(x, 0, cut(name, 96, 4.2), 4.2, bold=True)]]
    rows.append([TextMark(x, 0, cut(f"from {body.source}", 96, 2.8), 2.8, "soft")])
    closed = "closed" if body.closed else "open"
    rows.append([TextMark(x, 0, f"{body.triangles:,} triangles, {closed}".replace(",", " ", 1), 2.8, "soft")])
    rows[-1].append(TextMark(x + 54, 0, f"{body.volume_mm3 / 1000:.4f} cm³", 2.8, "soft", numeral=True))
    rows.append([])
    columns = ((4, "in the file"), (25, "× mm"), (39, "× correction"), (62, "= size"), (82, "released"))
    rows.append([TextMark(x + at, 0, text, 2.6, "soft") for at, text in columns])
    for row in body.chain:
        told = ((4, f"{row.number:.7g}"), (25, f"{row.mm_per_unit:g}"), (39, f"{row.factor:.8g}"))
        sizes = ((62, f"{row.size_mm:.4f}"), (82, f"{row.released_mm:.4f}"))
        rows.append([TextMark(x, 0, row.axis, 3.0)])
        rows[-1] += [TextMark(x + at, 0, text, 2.5, numeral=True) for at, text in (*told, *sizes)]
    for line in body.says:
        text = TextMark(x + 20, 0, cut(line.text, 78, 2.8), 2.8)
        rows.append([TextMark(x, 0, line.label, 2.6, "soft"), text])
    return rows


def _reading_rows(body: SheetBody, x: float) -> list[Row]:
    if not body.readings:
        return [[], [TextMark(x, 0, "no reading was taken on it", 2.8, "soft")]]
    rows: list[Row] = [[], [TextMark(x, 0, "Readings", 3.6, bold=True)]]
    rows.append(
        [
            TextMark(x + at, 0, text, 2.6, "soft")
            for at, text in ((6, "place"), (42, "wanted"), (72, "released"))
        ]
    )
    for number, reading in enumerate(body.readings, 1):
        rows.append(
            [
                TextMark(x, 0, f"({number})", 2.6, "true" if reading.met else "look"),
                TextMark(x + 6, 0, cut(reading.name, 34, 2.8), 2.8),
                TextMark(x + 42, 0, cut(reading.typed, 29, 2.6, numeral=True), 2.6, numeral=True),
                TextMark(x + 72, 0, reading.found, 2.6, "true" if reading.met else "look", numeral=True),
            ]
        )
    return rows


def _of_plate(plate: SheetPlate, wide: float, high: float) -> Iterator[tuple[str, list[Mark]]]:
    """The plan of a plate, its seats with balloons, and a table of them."""
    table = 108.0
    room_wide, room_high = wide - 2 * MARGIN - table - 16, high - 2 * MARGIN - TITLE - 16
    across, along, _ = plate.room
    scale = min(room_wide / across, room_high / along)
    x0, y0 = MARGIN + 8, MARGIN + 8 + along * scale

    def on_paper(ring: Sequence[tuple[float, float]]) -> np.ndarray[Any, np.dtype[np.float64]]:
        points = np.array(ring)
        return np.stack([x0 + points[:, 0] * scale, y0 - points[:, 1] * scale], axis=1)

    marks: list[Mark] = []
    if plate.shape == "box":
        marks.append(paper.box(x0, y0 - along * scale, across * scale, along * scale, width=0.5))
    else:
        marks.append(CircleMark(x0 + across * scale / 2, y0 - along * scale / 2, across * scale / 2, 0.5))
    marks.append(PenLines((on_paper(plate.corners),), 0.18, "soft", (4, 1, 0.6, 1), closed=True))
    for seat in plate.seats:
        rings = tuple(on_paper(ring) for ring in seat.rings)
        marks.append(PenLines(rings, 0.3, closed=True, filled="fill"))
    for seat in plate.seats:
        ends = np.concatenate([on_paper(ring) for ring in seat.rings])
        x, y = (ends.min(axis=0) + ends.max(axis=0)) / 2
        marks += [CircleMark(float(x), float(y), 3.2, 0.25)]
        marks.append(
            TextMark(float(x), float(y) + 1.1, str(seat.balloon), 3.0, anchor="middle", numeral=True)
        )
    marks.append(TextMark(x0, y0 + 4.5, f"scale 1 : {1 / scale:.3g}; front left corner below", 2.6, "soft"))
    left = wide - MARGIN - table
    marks.append(paper.line((left, MARGIN), (left, high - MARGIN - TITLE)))
    rows: list[Row] = [[TextMark(left + 3, 0, f"Plate {plate.number}, {plate.machine}", 4.2, bold=True)]]
    size = " × ".join(f"{size_mm:g}" for size_mm in plate.room)
    rows.append([TextMark(left + 3, 0, f"{plate.shape}, {size} mm", 2.8, "soft", numeral=True)])
    for seat in plate.seats:
        lift = f", lift {seat.lift_mm:g} mm" if seat.lift_mm else ""
        rows.append(
            [
                TextMark(left + 3, 0, f"{seat.balloon}", 3.0, numeral=True),
                TextMark(left + 11, 0, seat.body, 3.0),
            ]
        )
        rows.append(
            [TextMark(left + 11, 0, cut(f"{seat.place_says}; {seat.turns_says}{lift}", 92, 2.6), 2.6, "soft")]
        )
    most = int((high - 2 * MARGIN - TITLE - 10) / ROW)
    for at in range(0, max(1, len(rows)), most):
        some = [
            moved_down(text_mark, MARGIN + 8 + n * ROW)
            for n, row in enumerate(rows[at : at + most])
            for text_mark in row
        ]
        yield f"plate {plate.number}", [*(marks if at == 0 else []), *some]


def _title_block(
    sheet: ProofSheet, says: str, number: int, count: int, wide: float, high: float
) -> list[Mark]:
    """A ruled row along the foot: what the sheet is of, its revision, and its stamp."""
    fields = (
        (58.0, "job", sheet.job),
        (58.0, "of", says),
        (19.0, "revision", sheet.letter),
        (19.0, "release", f"r{sheet.release}"),
        (26.0, "date", sheet.day),
        (18.0, "page", f"{number} of {count}"),
    )
    marks, x, top = foot_block(fields, wide, high)
    stamp = "PROVEN" if sheet.holds else "NOT PROVEN"
    marks.append(paper.box(x + 3, top + 6, 25, 10, width=0.7))
    marks.append(
        TextMark(x + 15.5, top + 13, stamp, 5.2 if sheet.holds else 3.6, "true", "middle", bold=True)
    )
    marks.append(TextMark(MARGIN + 2, top + 19, "Aim True proof sheet; lengths in mm", 2.5, "soft"))
    return [*marks, *first_angle(wide - MARGIN - 5, top + 6)]
