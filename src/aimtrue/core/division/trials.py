"""Trials: the readings that lie in them, and what is measured on them once they are printed."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from aimtrue.core.chain.allowance import grown
from aimtrue.core.chain.transforms import true_points
from aimtrue.core.division.actions import SetPrinted, TakePrinted
from aimtrue.core.errors import Refused
from aimtrue.core.gauges.construction import GaugedMesh
from aimtrue.core.gauges.measure import factors_of, form_of, length_of
from aimtrue.core.gauges.successor_gauges import found_again
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.division import Division
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import parse_length
from aimtrue.core.model.readings import Reading
from aimtrue.core.model.shaping import Slice
from aimtrue.core.model.value import AXES, Axis
from aimtrue.core.truing.actions import SetReading
from aimtrue.core.truing.calibration import MOST, Pair
from aimtrue.core.truing.readings import set_reading

_ALONG = 0.95
"""Of the square of a length: so much of it along an axis makes it one of that axis."""
_NEAR_MM = 1e-6


@dataclass(frozen=True)
class PrintedReading:
    """What a reading on a trial comes to: as it is released, and how far what was measured is from what it
    was printed of.
    """

    reading: str
    of: str
    name: str
    released_mm: float
    typed: str
    measured_mm: float | None
    off_mm: float | None
    axes: tuple[Axis, ...]


def carried(job: Job, division: Division, trial: Body, store: GeometryStore) -> tuple[Reading, ...]:
    """Return the readings of a whole that lie in a trial, as readings of that; they drive nothing.

    Args:
        job: with the trial among its bodies.
        division: that made it.
        trial: the slice.
        store: gives its mesh and its features.
    """
    slice_, whole = division.shaping, job.body(division.wholes[0])
    if not isinstance(slice_, Slice):
        return ()
    mine = [
        reading
        for reading in job.readings
        if reading.body == whole.id and _lies_in(job, reading, whole, slice_)
    ]
    if not mine:
        return ()
    shape, lengths = GaugedMesh.fetched(trial, store), []
    for piece in mine:
        again = found_again(piece, trial, shape, None, None)
        if not again.lost:
            update = {"id": f"{trial.id}-{piece.id}", "of": piece.id, "role": "check"}
            lengths.append(again.model_copy(update=update))
    return tuple(lengths)


def _lies_in(job: Job, reading: Reading, whole: Body, slice_: Slice) -> bool:
    if reading.lost or not reading.gauge.points or reading.gauge.other is not None:
        return False
    along = true_points(job, whole, np.asarray(reading.gauge.points, np.float64))[:, AXES.index(slice_.axis)]
    return bool(slice_.low - _NEAR_MM <= along.min() and along.max() <= slice_.high + _NEAR_MM)


def printed(job: Job, division: Division) -> tuple[PrintedReading, ...]:
    """Return what the readings on a trial come to.

    Raises:
        Unsettled: the unit is open.
    """
    body_ids = set(division.made)
    return tuple(
        _printed(job, reading) for reading in job.readings if reading.of and reading.body in body_ids
    )


def _printed(job: Job, reading: Reading) -> PrintedReading:
    now = tuple(_released(job, reading))
    axes = tuple(dict.fromkeys(axis for axis, _ in now))
    released, measured = now[0][1] if now else length_of(job, reading), reading.printed_mm
    off = (
        None
        if measured is None
        else measured - (reading.printed_of[0][1] if reading.printed_of else released)
    )
    return PrintedReading(
        reading.id, reading.of, reading.name, released, reading.printed, measured, off, axes
    )


def _released(job: Job, reading: Reading) -> Iterator[tuple[Axis, float]]:
    """The axes that a reading is along, and how long it is released along each, in mm."""
    if reading.gauge.kind in ("angle", "perimeter") or reading.lost:
        return
    body = job.body(reading.body)
    factors, form = factors_of(job, body), form_of(job, reading)
    for length, row in zip(form.lengths(factors), form.rows(factors), strict=True):
        shares = row * factors**2 / length**2
        if shares.max() >= _ALONG:
            axis = int(shares.argmax())
            yield AXES[axis], float(length * grown(job, body)[axis])


def pairs_of(job: Job, division: Division) -> tuple[Pair, ...]:
    """Return what was measured on a trial against what was released, for a calibration.

    Raises:
        Refused: nothing was measured that lies along an axis.
    """
    pieces, pairs = set(division.made), []
    for reading in job.readings:
        if reading.of and reading.body in pieces and reading.printed_mm is not None:
            for axis, released in reading.printed_of:
                pairs.append(Pair(axis=axis, nominal_mm=released, measured_mm=reading.printed_mm))
    if not pairs:
        raise Refused(
            "no-pairs",
            "nothing was measured on this trial that lies along an axis",
            remedy="type what a reading measures on the print",
        )
    return tuple(pairs)


def set_printed(job: Job, action: SetPrinted, store: GeometryStore) -> Job:
    """Keep what a reading measures on the printed trial."""
    reading = job.reading(action.reading)
    if not reading.of:
        raise Refused("not-a-trial", f"{reading.name} is on no trial", remedy="measure one on a trial")
    typed = action.typed.strip()
    measured = parse_length(typed) if typed else None
    if measured is not None:
        released = _printed(job, reading).released_mm
        if abs(1 - measured / released) > MOST:
            raise Refused(
                "pair-absurd",
                f"{typed} measured where {released:.2f} mm was released is over 20 % off",
                remedy="check the number and its unit",
            )
    of = tuple(_released(job, reading)) if measured is not None else ()
    update = {"printed": typed, "printed_mm": measured, "printed_of": of}
    return job.with_reading(reading.model_copy(update=update))


def take_printed(job: Job, action: TakePrinted, store: GeometryStore) -> Job:
    """What fits as it was printed becomes the length that the reading of the whole is to have."""
    reading = job.reading(action.reading)
    if not reading.of or reading.printed_mm is None:
        raise Refused("not-measured", "nothing was measured there yet", remedy="type what it measures")
    added = job.reading(reading.of).clearance_mm
    # The print has the clearance that is added to the reading: without it, it would be added twice.
    typed = f"{reading.printed_mm - added:.9g}" if added else reading.printed
    return set_reading(job, SetReading(reading=reading.of, typed=typed, sure=False), store)
