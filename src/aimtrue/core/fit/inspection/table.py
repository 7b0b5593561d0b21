"""This module writes measured parts as a table of text, and reads them from one.

    key,body,what,aim,low,high,expected,part 1,part 2
    size s1-1 x,focus knob,overall X,38.00,37.80,38.20,,37.91,37.93

A row is found by its key, and each column that is not one of ours is a part. Comma, semicolon and tab
separate; with semicolon or tab a decimal comma is taken too.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass

from aimtrue.core.errors import Refused
from aimtrue.core.fit.inspection.results import InspectionView

COLUMNS = ("key", "body", "what", "aim", "low", "high", "expected")
_MOST_PARTS = 500


@dataclass(frozen=True)
class TableCell:
    """One measured length of a table: the row's key, the part's name, what is typed, and the line."""

    key: str
    part: str
    typed: str
    line: int


def as_csv(view: InspectionView) -> str:
    """Write what is to be measured, and what was."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow([*COLUMNS, *(part.name for part in view.parts)])
    for row in view.rows:
        known = {value.part: value.typed for value in row.values}
        numbers = (row.aim_mm, row.low_mm, row.high_mm, row.expected_mm)
        table.writerow(
            [
                row.key,
                row.body,
                row.what,
                *("" if number is None else f"{number:.4f}" for number in numbers),
                *(known.get(part.id, "") for part in view.parts),
            ]
        )
    return out.getvalue()


def read_cells(text: str) -> Iterator[TableCell]:
    """Yield the measured lengths of a table, row by row.

    Raises:
        Refused: it has no column ``key``, a row without one, or no part.
    """
    text = text.lstrip("\ufeff")
    first = next((line for line in text.splitlines() if line.strip()), "")
    separator = max(";\t,", key=first.count)
    table = csv.reader(io.StringIO(text), delimiter=separator)
    try:
        rows = [(table.line_num, [cell.strip() for cell in row]) for row in table if any(row)]
    except csv.Error as error:
        raise Refused(
            "csv-cells", f"the rows cannot be told apart: {error}", remedy="save it as plain CSV again"
        ) from None
    heading = [cell.lower() for cell in rows[0][1]] if rows else []
    parts = [
        (i, name) for i, name in enumerate(rows[0][1] if rows else ()) if name and heading[i] not in COLUMNS
    ]
    if "key" not in heading or not parts or len(parts) > _MOST_PARTS:
        raise Refused(
            "csv-columns",
            "the table has no column “key”" if "key" not in heading else "the table has no column for a part",
            remedy="fetch the table of this job, and fill a column for each part",
        )
    for line, row in rows[1:]:
        cells = row + [""] * (len(heading) - len(row))
        for i, name in parts:
            if cells[i]:
                typed = cells[i].replace(",", ".") if separator != "," else cells[i]
                yield TableCell(cells[heading.index("key")], name, typed, line)
