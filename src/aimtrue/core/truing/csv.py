"""Readings as a table of text: a row per gauge, for a spreadsheet or another bench.

    name,real,low,high,unit,means,fineness,clearance,role,note
    tube seat,140.3,,,mm,caliper,,0.3,drive,

Columns may come in any order and all but ``name`` and ``real`` may be absent. Comma, semicolon and tab
separate; with semicolon or tab a decimal comma is taken too. A row that cannot be taken is told, with its
line, and the others come in.
"""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass, field
from typing import Any, get_args

from aimtrue.core.errors import Refused
from aimtrue.core.gauges.bands import times_larger, within_reason
from aimtrue.core.gauges.measure import length_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import Unit, parse_length, parse_offset, unit_named
from aimtrue.core.model.readings import FINENESS_MM, Means, Reading, Role
from aimtrue.core.truing.confirmations import USUAL_CLEARANCE_MM

COLUMNS = ("name", "real", "low", "high", "unit", "means", "fineness", "clearance", "role", "note")
_KNOWN = (*COLUMNS, "kind", "model")


@dataclass(frozen=True)
class ReadingRow:
    """One good row; lengths in mm."""

    name: str
    real: float | None
    low: float | None
    high: float | None
    means: Means
    fineness: float
    clearance: float
    role: Role
    note: str
    typed: str

    def update(self) -> dict[str, object]:
        """Return what it changes of a reading."""
        return {
            "real_mm": self.real,
            "low_mm": self.low,
            "high_mm": self.high,
            "typed": self.typed,
            "repeats": (),
            "means": self.means,
            "fineness_mm": self.fineness,
            "clearance_mm": self.clearance,
            "role": self.role,
            "note": self.note,
        }


@dataclass(frozen=True)
class ReadingRows:
    """Good rows, and what is wrong with the others."""

    good: list[ReadingRow] = field(default_factory=list)
    problems: list[Refused] = field(default_factory=list)


def read(text: str) -> ReadingRows:
    """Read rows of readings.

    Raises:
        Refused: there is no heading that names the columns.
    """
    text = text.lstrip("\ufeff")
    first = next((line for line in text.splitlines() if line.strip()), None)
    if first is None:
        raise Refused("csv-empty", "the file has no rows", remedy="give a heading and a row per reading")
    # Blank lines stay, so that rows are told by the numbers an editor shows.
    table = csv.reader(io.StringIO(text), delimiter=max(";\t,", key=first.count))
    heading: list[str] = []
    while not any(heading):
        heading = [cell.strip().lower() for cell in _next(table)]
    unknown = [name for name in heading if name and name not in _KNOWN]
    if "name" not in heading or not {"real", "low", "high"} & set(heading) or unknown:
        wrong = f"the column “{unknown[0]}” is not known" if unknown else "columns name and real are missing"
        raise Refused(
            "csv-columns",
            wrong,
            where=f"line {table.line_num}",
            remedy=f"name the columns {', '.join(COLUMNS)}",
        )
    rows = ReadingRows()
    while (cells := _next(table, None)) is not None:
        if not any(cell.strip() for cell in cells):
            continue
        try:
            rows.good.append(_row(dict(zip(heading, cells, strict=False)), len(cells), len(heading)))
        except Refused as error:
            where = f"line {table.line_num}"
            rows.problems.append(Refused(error.code, error.says, where=where, remedy=error.remedy))
    return rows


def _next(table: Any, end: Any = ()) -> Any:  # noqa: ANN401 - of any type, or of none that is known
    """Return the next row, or ``end`` after the last.

    Raises:
        Refused: the text is no table, such as one with an endless cell.
    """
    try:
        return next(table, end)
    except csv.Error as error:
        raise Refused(
            "csv-cells",
            f"the rows cannot be told apart: {error}",
            where=f"line {table.line_num}",
            remedy="save it as plain CSV again",
        ) from None


def sorted_out(job: Job, bodies: tuple[Body, ...], text: str) -> tuple[list[ReadingRow], list[Refused]]:
    """Return the rows that can be taken for readings of these bodies, and what is wrong with the others."""
    rows = read(text)
    keys = {body.id for body in bodies}
    here = {reading.name: reading for reading in job.readings if reading.body in keys}
    good, problems = [], list(rows.problems)
    for row in rows.good:
        problem = _untakable(job, row, here.get(row.name))
        if problem is None:
            good.append(row)
        else:
            problems.append(problem)
    return good, problems


def _untakable(job: Job, row: ReadingRow, reading: Reading | None) -> Refused | None:
    if reading is None:
        return Refused(
            "csv-unknown", f"there is no reading called {row.name} here", remedy="make its gauge first"
        )
    if reading.gauge.kind == "angle":
        return Refused("angle", f"{row.name} is an angle, which is only told", remedy="leave it out")
    if reading.lost:
        return Refused("csv-lost", f"the place of {row.name} is lost", remedy="pick it again first")
    if abs(row.clearance) > USUAL_CLEARANCE_MM:
        return Refused(
            "ask-first",
            f"the clearance of {row.name}, {row.clearance:+.6g} mm, is far from that of a usual fit",
            remedy="type it on the sheet if it is meant",
        )
    length, wanted = length_of(job, reading), row.real or row.low or row.high
    if row.role == "drive" and wanted and not within_reason(wanted, length):
        return Refused(
            "ask-first",
            f"{row.name} would make the body {times_larger(wanted, length)}; is the unit right?",
            remedy="type it on the sheet if it is meant",
        )
    return None


def _row(cells: dict[str, str], have: int, want: int) -> ReadingRow:
    if have > want:
        raise Refused(
            "csv-cells",
            f"{have} cells in {want} columns; is a decimal comma among them?",
            remedy="separate by semicolons, or write decimal points",
        )
    texts = {name: cell.strip() for name, cell in cells.items()}
    if not texts.get("name"):
        raise Refused("csv-name", "the row names no reading", remedy="name the reading in the first column")
    unit = unit_named(texts["unit"]) if texts.get("unit") else Unit.MM
    real, low, high = (_length(texts.get(name, ""), unit) for name in ("real", "low", "high"))
    if real is None and low is None and high is None:
        raise Refused("csv-length", "no length is given", remedy="give real, low or high")
    if low is not None and high is not None and low > high:
        raise Refused("band-empty", "low is above high", remedy="exchange them")
    if real is not None and not (low or 0.0) <= real <= (high or real):
        raise Refused("band-beside", f"{real:g} mm is outside its own band", remedy="mend the band")
    means = _one_of(texts.get("means") or "caliper", get_args(Means), "means")
    fineness = _length(texts.get("fineness", ""), unit)
    return ReadingRow(
        texts["name"],
        real,
        low,
        high,
        means,
        FINENESS_MM[means] if fineness is None else fineness,
        parse_offset(texts["clearance"], unit) if texts.get("clearance") else 0.0,
        _one_of(texts.get("role") or "drive", get_args(Role), "role"),
        texts.get("note", "")[:400],
        _typed(real, low, high),
    )


def _length(cell: str, unit: Unit) -> float | None:
    return parse_length(cell, unit) if cell else None


def _typed(real: float | None, low: float | None, high: float | None) -> str:
    if real is None:
        if low is not None and high is not None:
            return f"{low:.6g}..{high:.6g}"
        return f"at least {low:.6g}" if low is not None else f"at most {high:.6g}"
    if low is not None and high is not None:
        return f"{real:.6g} [{low:.6g}..{high:.6g}]"
    return f"{real:.6g}"


def _one_of(word: str, known: tuple[str, ...], what: str):  # type: ignore[no-untyped-def]
    if word.lower() not in known:
        raise Refused(f"csv-{what}", f"“{word}” is no {what}", remedy=f"write {', '.join(known)}")
    return word.lower()


def write(job: Job, readings: list[Reading]) -> str:
    """Write readings with what the model has now, all in mm."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(["name", "kind", "model", *COLUMNS[1:]])
    for reading in readings:
        model = "" if reading.lost else f"{length_of(job, reading):.4f}"
        lengths = [_cell(value) for value in (reading.real_mm, reading.low_mm, reading.high_mm)]
        row = [
            reading.name,
            reading.gauge.kind,
            model,
            *lengths,
            "mm",
            reading.means,
            _cell(reading.fineness_mm),
        ]
        table.writerow([*row, _cell(reading.clearance_mm or None), reading.role, reading.note])
    return out.getvalue()


def _cell(value: float | None) -> str:
    return "" if value is None else f"{value:.9g}"
