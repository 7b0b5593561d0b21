"""This module holds measured parts against what they are to measure, and tells of the machine by them."""

from __future__ import annotations

import statistics
from collections.abc import Iterable
from math import isfinite

from aimtrue.core.fit.clearances.intents import verdict, wanted
from aimtrue.core.fit.inspection.machine_lines import print_lines
from aimtrue.core.fit.inspection.targets import TargetSize, target_sizes
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.ids import BodyId, PairId, PrintedPartId
from aimtrue.core.model.inspection import InspectionTarget, PrintedPart
from aimtrue.core.model.job import Job
from aimtrue.core.model.print_lines import PrintLine, SizeForm
from aimtrue.core.model.value import Axis, Value


class MeasuredSize(Value):
    """One size of one part: as typed, in mm, and whether it is in its tolerance."""

    part: PrintedPartId
    typed: str
    mm: float
    within: bool


class InspectionRow(Value):
    """One size, with what it is to be and what was measured of it, part by part; lengths in mm.

    Attributes:
        target, key: what it is; ``key`` as it is written in a table.
        what, body, body_id: in words, and of which body.
        form, axis: outside, inside or of a hole, and along which axis.
        aim_mm, file_mm: how long it is to be, and how long it is in the file, shrinkage made up for.
        low_mm, high_mm: what is good; None where there is no limit.
        expected_mm, expected_off_mm: what the machine is expected to make of it, if it was measured.
        values: of the parts that it was measured on.
        mean_mm, spread_mm: over these; the spread is their standard deviation, from two parts on.
        out: how many are out of tolerance.
    """

    target: InspectionTarget
    key: str
    what: str
    body: str
    body_id: BodyId
    form: SizeForm
    axis: Axis | None
    aim_mm: float
    file_mm: float
    low_mm: float | None
    high_mm: float | None
    expected_mm: float | None
    expected_off_mm: float | None
    values: tuple[MeasuredSize, ...]
    mean_mm: float | None
    spread_mm: float | None
    out: int


class MeasuredClearance(Value):
    """The clearance of a pair on one printed part, and whether that is what is wanted."""

    part: PrintedPartId
    clearance_mm: float
    within: bool


class InspectionPair(Value):
    """A pair as it was printed: outer less inner size, part by part."""

    pair: PairId
    what: str
    band_says: str
    values: tuple[MeasuredClearance, ...]


class InspectionPart(Value):
    """A printed part, and how many of its sizes are out of tolerance."""

    id: PrintedPartId
    name: str
    measured: int
    out: int


class InspectionView(Value):
    """All that is told of printed parts.

    Attributes:
        tolerance_mm: of what has no band of its own, to either side.
        parts, rows, pairs: what was measured.
        lines: what the machine makes of sizes, from three parts on.
        lacks: what is missing for them, in words; empty where nothing is.
    """

    tolerance_mm: float
    parts: tuple[InspectionPart, ...]
    rows: tuple[InspectionRow, ...]
    pairs: tuple[InspectionPair, ...]
    lines: tuple[PrintLine, ...]
    lacks: str


def inspection_view(job: Job, store: GeometryStore) -> InspectionView:
    """Hold what was measured on printed parts against what they are to measure."""
    sizes = target_sizes(job, store)
    parts = job.inspection.parts
    rows = tuple(_row(size, parts) for size in sizes)
    lines, lacks = print_lines(sizes, parts)
    counts = {
        part.id: [value.within for row in rows for value in row.values if value.part == part.id]
        for part in parts
    }
    return InspectionView(
        tolerance_mm=job.inspection.tolerance_mm,
        parts=tuple(
            InspectionPart(
                id=part.id, name=part.name, measured=len(counts[part.id]), out=counts[part.id].count(False)
            )
            for part in parts
        ),
        rows=rows,
        pairs=tuple(_pairs(job, rows)),
        lines=lines,
        lacks=lacks,
    )


def _row(size: TargetSize, parts: tuple[PrintedPart, ...]) -> InspectionRow:
    values = tuple(
        MeasuredSize(
            part=part.id,
            typed=measurement.typed,
            mm=measurement.mm,
            within=size.low_mm - 1e-9 <= measurement.mm <= size.high_mm + 1e-9,
        )
        for part in parts
        if (measurement := part.of(size.target)) is not None
    )
    lengths = [value.mm for value in values]
    return InspectionRow(
        target=size.target,
        key=size.target.key,
        what=size.what,
        body=size.body,
        body_id=size.body_id,
        form=size.form,
        axis=size.axis,
        aim_mm=size.aim_mm,
        file_mm=size.file_mm,
        low_mm=size.low_mm if isfinite(size.low_mm) else None,
        high_mm=size.high_mm if isfinite(size.high_mm) else None,
        expected_mm=size.expected_mm,
        expected_off_mm=size.expected_off_mm,
        values=values,
        mean_mm=statistics.fmean(lengths) if lengths else None,
        spread_mm=statistics.stdev(lengths) if len(lengths) > 1 else None,
        out=sum(not value.within for value in values),
    )


def _pairs(job: Job, rows: tuple[InspectionRow, ...]) -> Iterable[InspectionPair]:
    sides = {(row.target.of, row.target.side): row for row in rows if row.target.kind == "pair"}
    for pair in job.pairs:
        outer, inner = sides.get((pair.id, "outer")), sides.get((pair.id, "inner"))
        if outer is None or inner is None:
            continue
        band = wanted(pair, job.machine.process.kind, outer.aim_mm)
        inners = {value.part: value.mm for value in inner.values}
        values = tuple(
            MeasuredClearance(
                part=value.part,
                clearance_mm=(gap := value.mm - inners[value.part]),
                within=verdict(gap, band) == "holds",
            )
            for value in outer.values
            if value.part in inners
        )
        what = f"{pair.kind} of {' and '.join(dict.fromkeys((outer.body, inner.body)))}"
        yield InspectionPair(pair=pair.id, what=what, band_says=band.says, values=values)
