"""This module says what an estimate depends on, and which that was kept still holds."""

from __future__ import annotations

import hashlib

from aimtrue.core.model.body import Body
from aimtrue.core.model.estimate import Estimate
from aimtrue.core.model.ids import PlateId
from aimtrue.core.model.job import Job
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.ownership import to_print
from aimtrue.core.model.value import Value


def estimate_key(job: Job, plate: PlateId) -> str:
    """Return what tells a plate, as it stands and is to be printed, from any other.

    It holds more than the plate itself: where something stands that was never moved depends on what stands
    beside it, so all seats and bodies of the job are in it.
    """
    parts = [
        _of(job.printing),
        _of(job.material),
        _of(job.rates),
        _of(_as_it_prints(job.plate(plate).machine)),
    ]
    parts.append(str(job.plate(plate).follows is not None))
    parts += [_of(seat) for seat in job.seats]
    parts += [_of_body(job, body) for body in to_print(job, job.bodies)]
    return hashlib.sha256("\n".join([plate, *parts]).encode()).hexdigest()


def _as_it_prints(machine: Machine) -> Machine:
    """A machine without the settings that are kept with it: only those in use change what it takes."""
    if not machine.process.sets:
        return machine
    return machine.model_copy(update={"process": machine.process.model_copy(update={"sets": ()})})


_TEXTS: Memo[str] = Memo(4096)


def _of(value: Value) -> str:
    return _TEXTS.get((value,), (), value.model_dump_json)


def _of_body(job: Job, body: Body) -> str:
    in_force = job.in_force(body)
    return _TEXTS.get(in_force, (), lambda: _body_text(job, body))


def _body_text(job: Job, body: Body) -> str:
    _, decisions, source, home = job.in_force(body)
    kept = [bore.model_dump_json() for bore in body.kept]
    decided = decisions.model_dump_json()
    return repr(
        (body.id, body.kit, body.geometry, body.material, kept, decided, source.unit, source.up, home)
    )


def estimate_kept(job: Job, plate: PlateId) -> Estimate | None:
    """Return the full estimate of a plate; None where it was not made, or something changed since."""
    kept = next((kept for kept in job.estimates if kept.plate == plate), None)
    return kept.estimate if kept is not None and kept.key == estimate_key(job, plate) else None


class PlatePrinting(Value):
    """What printing a plate takes, as it is handed over with a release."""

    plate: int
    seconds: float
    grams: float
    strand_m: float
    layers: int


def printing_of(job: Job) -> tuple[PlatePrinting, ...]:
    """Return what each plate takes along its paths, of those that this was worked out of and still holds."""
    rows = []
    for number, plate in enumerate(job.plates, start=1):
        estimate = estimate_kept(job, plate.id)
        if estimate is not None:
            rows.append(
                PlatePrinting(
                    plate=number,
                    seconds=round(estimate.seconds, 1),
                    grams=round(estimate.grams, 3),
                    strand_m=round(estimate.strand_m, 3),
                    layers=estimate.layers,
                )
            )
    return tuple(rows)
