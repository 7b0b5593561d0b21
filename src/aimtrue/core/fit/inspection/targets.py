"""This module lists what can be measured on a printed part: how long it is to be, and how long it will be."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from aimtrue.core.chain.allowance import allowed_sizes, cleared, grown
from aimtrue.core.chain.kept_bores import kept_mm
from aimtrue.core.fit.clearances.printing import dominant, forms_of, printed
from aimtrue.core.fit.standing import PairState, standing_pairs
from aimtrue.core.gauges.bands import band_of
from aimtrue.core.gauges.measure import factors_of, form_of, kept_of, length_of, sharing
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.inspection import InspectionTarget
from aimtrue.core.model.job import Job
from aimtrue.core.model.ownership import to_print
from aimtrue.core.model.pairs import ROUND_KINDS
from aimtrue.core.model.print_lines import SizeForm, across
from aimtrue.core.model.readings import Reading
from aimtrue.core.model.value import AXES, Axis

_ALONG = 0.95
"""Of the square of a length: so much of it along an axis makes it one of that axis."""


@dataclass(frozen=True)
class TargetSize:
    """One size of a printed part.

    Attributes:
        target: what it is.
        what, body: in words.
        body_id: the body that it is on.
        form, axis: outside, inside or of a hole, and along which axis; None where it is of no one.
        file_mm: how long it is in the released file.
        aim_mm: how long it is to be: the same without what makes up for shrinkage.
        low_mm, high_mm: what is good; infinite where there is no limit.
        expected_mm, expected_off_mm: what it is expected to measure, give or take so much; None where the
            machine was not measured.
    """

    target: InspectionTarget
    what: str
    body: str
    body_id: BodyId
    form: SizeForm
    axis: Axis | None
    file_mm: float
    aim_mm: float
    low_mm: float
    high_mm: float
    expected_mm: float | None
    expected_off_mm: float | None


def target_sizes(job: Job, store: GeometryStore) -> tuple[TargetSize, ...]:
    """Return what can be measured on printed parts of a job: readings, sides of pairs, overall sizes."""
    bodies = [body for body in to_print(job, job.bodies) if job.settled((body,)) and not body.stray]
    used = {body.id for body in bodies}
    readings = (
        size
        for reading in job.readings
        if reading.body in used and not reading.lost
        for size in _of_reading(job, reading, store)
    )
    pairs = (size for pair in standing_pairs(job, store) for size in _of_pair(job, pair))
    return (*readings, *pairs, *(size for body in bodies for size in sizes_of_body(job, body)))


def sizes_of_body(job: Job, body: Body) -> Iterator[TargetSize]:
    """Yield the overall sizes of a body."""
    growth = grown(job, body)
    for i, (axis, file_mm) in enumerate(zip(AXES, allowed_sizes(job, body), strict=True)):
        target = InspectionTarget(kind="size", of=body.id, side=axis)
        aim = file_mm / float(growth[i])
        yield _size(job, body, target, f"overall {axis.upper()}", "outside", axis, file_mm, aim)


def _size(  # noqa: PLR0913 - the columns of one row, in their order
    job: Job,
    body: Body,
    target: InspectionTarget,
    what: str,
    form: SizeForm,
    axis: Axis | None,
    file_mm: float,
    aim_mm: float,
    limits: tuple[float, float] | None = None,
) -> TargetSize:
    tolerance = job.inspection.tolerance_mm
    low, high = limits or (aim_mm - tolerance, aim_mm + tolerance)
    expected = printed(job, body, file_mm, form, axis) if axis and job.shrinkage_of(body).calibrated else None
    return TargetSize(
        target, what, body.name, body.id, form, axis, file_mm, aim_mm, low, high,
        expected.mm if expected else None, expected.uncertainty_mm if expected else None,
    )  # fmt: skip


def _of_reading(job: Job, reading: Reading, store: GeometryStore) -> Iterator[TargetSize]:
    """The size of a reading; none of an angle, or between bodies that are corrected differently."""
    gauge, body = reading.gauge, job.body(reading.body)
    if gauge.kind == "angle" or not sharing(job, reading):
        return
    axis, aim, file_mm = _lengths(job, reading, body)
    form: SizeForm = "outside"
    if gauge.anchors and gauge.kind not in ("extent", "wall", "perimeter"):
        form = _form(reading, body, store)
    target = InspectionTarget(kind="reading", of=reading.id)
    yield _size(
        job, body, target, reading.name or gauge.says or gauge.kind, form, axis, file_mm, aim,
        _limits(reading))  # fmt: skip


def _limits(reading: Reading) -> tuple[float, float] | None:
    """The band of a reading that has one of its own; how finely it was taken is none."""
    if reading.low_mm is None and reading.high_mm is None:
        return None
    band = band_of(reading)
    return (band.low, band.high) if band else None


def _lengths(job: Job, reading: Reading, body: Body) -> tuple[Axis | None, float, float]:
    """The axis that a gauge is along, or around; its length to be; and that in the file."""
    growth, stretch = grown(job, body), cleared(job, body)[0]
    gauge = reading.gauge
    kept = kept_of(body, gauge)
    factors = factors_of(job, body) * stretch
    form = form_of(job, reading)
    rows = form.rows(factors)
    lengths = form.lengths(factors)
    shares = (rows * factors**2 / np.square(lengths)[:, None]).mean(axis=0)
    aim = sum(lengths) / len(lengths)
    if kept is not None:
        aim = kept_mm(job, body, kept) / (1 if gauge.kind == "diameter" else 2)
    file_mm = aim * float(np.sqrt(shares @ growth**2)) if shares.min() >= 0 else length_of(job, reading)
    if gauge.kind == "perimeter":
        return None, aim, file_mm
    if gauge.kind in ("diameter", "radius"):
        around = int(shares.argmin())
        return (AXES[around] if shares[around] <= 1 - _ALONG else None), aim, file_mm
    along = int(shares.argmax())
    return (AXES[along] if shares[along] >= _ALONG else None), aim, file_mm


def _form(reading: Reading, body: Body, store: GeometryStore) -> SizeForm:
    """Tell whether a gauge is across a hole, within faces that look at each other, or over the outside."""
    gauge = reading.gauge
    mesh = store.mesh(body.geometry)
    normal = mesh.area_vectors[gauge.anchors[0].face]
    points = np.asarray(gauge.points, np.float64)
    if gauge.kind in ("diameter", "radius"):
        corner = mesh.vertices[mesh.faces[gauge.anchors[0].face]].mean(axis=0)
        return "hole" if float(normal @ (points[0] - corner)) > 0 else "shaft"
    start, end = (
        (points[0], points[1]) if len(points) == 2 else (points[:3].mean(axis=0), points[3:].mean(axis=0))
    )
    return "inside" if float(normal @ (end - start)) > 0 else "outside"


def _of_pair(job: Job, pair: PairState) -> Iterator[TargetSize]:
    """Both sides of a pair: a bore and what is in it, or a slot and its tab."""
    if not pair.states or not pair.states[-1].sizes_mm or pair.along is None:
        return
    axis = dominant(np.asarray(pair.along))
    names: tuple[str, str] = ("bore", "shaft") if pair.kind in ROUND_KINDS else ("slot", "tab")
    sides: tuple[str, str] = ("outer", "inner")
    for key, side, says, form, file_mm in zip(
        (pair.a, pair.b), sides, names, forms_of(pair.kind), pair.states[-1].sizes_mm[:2], strict=True
    ):
        body = job.body(key)
        aim = file_mm / float(grown(job, body)[across(form, axis)].mean())
        target = InspectionTarget.model_validate({"kind": "pair", "of": pair.id, "side": side})
        yield _size(job, body, target, f"{says} of {pair.kind}", form, axis, file_mm, aim)
