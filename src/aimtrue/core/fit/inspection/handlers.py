"""This module says what actions on printed parts do."""

from __future__ import annotations

from collections.abc import Mapping

from aimtrue.core.errors import Refused
from aimtrue.core.fit.inspection.actions import (
    AddPrintedPart,
    MeasurePart,
    RemovePrintedPart,
    SetInspectionTolerance,
    TakeMeasurements,
)
from aimtrue.core.fit.inspection.table import read_cells
from aimtrue.core.fit.inspection.targets import TargetSize, target_sizes
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.ids import PrintedPartId
from aimtrue.core.model.inspection import InspectionTarget, Measurement, PrintedPart
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length
from aimtrue.core.model.text import refuse_odd
from aimtrue.core.room import ActionHandler, Succession
from aimtrue.core.truing.calibration import MOST

_MOST_PARTS = 500


def add_part(job: Job, action: AddPrintedPart, store: GeometryStore) -> Job:
    """Add a printed part."""
    return _with_part(job, action.name.strip())[0]


def _with_part(job: Job, name: str) -> tuple[Job, PrintedPart]:
    refuse_odd(name, "a part's name")
    parts = job.inspection.parts
    if len(parts) >= _MOST_PARTS:
        raise Refused("parts-many", f"{_MOST_PARTS} parts are measured already", remedy="leave some out")
    if name and any(part.name == name for part in parts):
        raise Refused("part-known", f"a part is called {name} already", remedy="give it another name")
    taken = {part.name for part in parts}
    number = next(n for n in range(1, len(parts) + 2) if f"part {n}" not in taken)
    printed_part = PrintedPart(id=PrintedPartId(f"t{job.counter + 1}"), name=name or f"part {number}")
    job = job.model_copy(update={"counter": job.counter + 1})
    return _with_parts(job, (*parts, printed_part)), printed_part


def _with_parts(job: Job, parts: tuple[PrintedPart, ...]) -> Job:
    return job.model_copy(update={"inspection": job.inspection.model_copy(update={"parts": parts})})


def _part(job: Job, key: PrintedPartId) -> PrintedPart:
    for part in job.inspection.parts:
        if part.id == key:
            return part
    raise Refused("part-gone", "this printed part is not there any more", remedy="choose one that is")


def remove_part(job: Job, action: RemovePrintedPart, store: GeometryStore) -> Job:
    """Leave a printed part out."""
    gone = _part(job, action.part)
    return _with_parts(job, tuple(part for part in job.inspection.parts if part.id != gone.id))


def measure_part(job: Job, action: MeasurePart, store: GeometryStore) -> Job:
    """Keep what a size of a printed part measures."""
    part = _part(job, action.part)
    sizes = {size.target: size for size in target_sizes(job, store)}
    return _with_measured(job, part, action.target, action.typed, sizes)


def _with_measured(
    job: Job,
    part: PrintedPart,
    target: InspectionTarget,
    typed: str,
    sizes: Mapping[InspectionTarget, TargetSize],
) -> Job:
    others = tuple(measurement for measurement in part.measured if measurement.target != target)
    if typed.strip():
        if target not in sizes:
            raise Refused(
                "target-gone", "this size is not there any more", remedy="measure one that is listed"
            )
        others = (*others, _measurement(target, typed.strip(), sizes[target]))
    part = part.model_copy(update={"measured": others})
    return _with_parts(
        job,
        tuple(part if printed_part.id == part.id else printed_part for printed_part in job.inspection.parts),
    )


def _measurement(target: InspectionTarget, typed: str, size: TargetSize) -> Measurement:
    length = parse_length(typed)
    if abs(length - size.file_mm) > MOST * size.file_mm:
        raise Refused(
            "pair-absurd",
            f"{typed} measured where {size.file_mm:.2f} mm was released is over 20 % off",
            where=f"{size.what} of {size.body}",
            remedy="check the number and its unit",
        )
    return Measurement(target=target, typed=typed, mm=length, file_mm=size.file_mm)


def take_measurements(job: Job, action: TakeMeasurements, store: GeometryStore) -> Job:
    """Take a table of measured lengths; one cell that makes no sense, and none of them is taken."""
    sizes = {size.target: size for size in target_sizes(job, store)}
    by_key = {target.key: target for target in sizes}
    for cell in read_cells(action.text):
        target = by_key.get(cell.key)
        if target is None:
            raise Refused(
                "csv-key",
                f"“{cell.key}” is no size of this job",
                where=f"line {cell.line}",
                remedy="fetch the table of this job, and fill a column for each part",
            )
        part = next((part for part in job.inspection.parts if part.name == cell.part), None)
        if part is None:
            job, part = _with_part(job, cell.part)
        try:
            job = _with_measured(job, part, target, cell.typed, sizes)
        except Refused as error:
            where = f"line {cell.line}, {cell.part}"
            raise Refused(error.code, error.says, where=where, remedy=error.remedy) from None
    return job


def set_tolerance(job: Job, action: SetInspectionTolerance, store: GeometryStore) -> Job:
    """Set how far a size may be off that has no band of its own."""
    tolerance = parse_length(action.typed)
    return job.model_copy(
        update={"inspection": job.inspection.model_copy(update={"tolerance_mm": tolerance})}
    )


def with_measured_sizes(job: Job, succession: Succession) -> Job:
    """Return a job whose measured sizes are of the bodies that took over from those they were of."""
    follows = {str(old): new for old, new in succession.replacement.successor_of.items()}
    parts = tuple(
        part.model_copy(
            update={"measured": tuple(_following(measurement, follows) for measurement in part.measured)}
        )
        for part in job.inspection.parts
    )
    return _with_parts(job, parts) if parts != job.inspection.parts else job


def _following(known: Measurement, follows: Mapping[str, str]) -> Measurement:
    target = known.target
    if target.kind != "size" or target.of not in follows:
        return known
    return known.model_copy(update={"target": target.model_copy(update={"of": follows[target.of]})})


ACTIONS = (
    ActionHandler(AddPrintedPart, add_part),
    ActionHandler(RemovePrintedPart, remove_part),
    ActionHandler(MeasurePart, measure_part),
    ActionHandler(TakeMeasurements, take_measurements),
    ActionHandler(SetInspectionTolerance, set_tolerance),
)
