"""This module says what the readings of a body or kit come to: lanes, window, conflict, and ways to make it
true.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from aimtrue.core.chain.correction import checked
from aimtrue.core.errors import AimTrueError
from aimtrue.core.gauges.bands import Band, band_of
from aimtrue.core.gauges.forms import CircleForm
from aimtrue.core.gauges.measure import factors_of, form_of, kept_of, sharing
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import Correction
from aimtrue.core.model.ids import ReadingId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import written
from aimtrue.core.model.readings import Reading
from aimtrue.core.model.value import AXES, Value, Vec3
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.truing.solving.problem import Demand, Freedom
from aimtrue.core.truing.solving.solve import Solution, interval, solve

_Triple = tuple[bool, bool, bool]
_SAME = 1e-4
_SHAPE_SHOWS, _VOLUME_SHOWS, _OVAL_SHOWS_MM = 5e-5, 5e-4, 5e-3
"""Shares and a length below which a change would be written as zero."""
"""A change of shape under this is none worth proposing when one factor does for all."""


class Lane(Value):
    """Which common factors satisfy one reading; ``low`` and ``high`` are None when none does.

    ``high`` is None with ``low`` given when there is no upper end; ``wanted`` meets it exactly.
    """

    reading: str
    low: float | None
    high: float | None
    wanted: float | None
    drives: bool


class Outcome(Value):
    """One reading under a proposal: how long its gauge is then, by how much off, and whether that is good."""

    reading: str
    length_mm: float
    off_mm: float
    met: bool


class ConflictChange(Value):
    """One single change that would free a conflict: what to do, and how much it takes.

    ``reading`` with a new limit, or an ``axis`` stretched by a share.
    """

    says: str
    reading: str | None = None
    limit_mm: float | None = None
    axis: Literal["x", "y", "z"] | None = None
    share: float | None = None


class Proposal(Value):
    """One way to make a body true.

    Attributes:
        key: uniform, stretch-x, stretch-y, stretch-z or per-axis.
        says: in words.
        factors: that it takes.
        free: which axes are freed by it.
        meets: whether all driving readings are good then.
        outcomes: of every reading with a real length.
        shape: how much longer one axis becomes against another, as a share; 0 for none.
        volume: of the volume in force, as a share.
        oval_mm: by how much the largest round gauge becomes oval.
        idle: axes that no reading tells, which go with the others.
        in_force: whether these are the factors now.
        effect: what it does to the shape, in words; empty for nothing that shows.
    """

    key: str
    says: str
    factors: Vec3
    free: _Triple
    meets: bool
    outcomes: tuple[Outcome, ...]
    shape: float
    volume: float
    oval_mm: float
    idle: tuple[str, ...]
    in_force: bool
    effect: str


class ReadingsVerdict(Value):
    """Everything the readings of one body or kit say about its correction."""

    id: str
    factor: float
    lanes: tuple[Lane, ...]
    window: tuple[float, float | None] | None
    conflict: tuple[ReadingId, ...]
    changes: tuple[ConflictChange, ...]
    proposals: tuple[Proposal, ...]


@dataclass(frozen=True, eq=False)
class _Demanded:
    reading: Reading
    demand: Demand

    @property
    def band(self) -> Band:
        return self.demand.band


def demanded_of(job: Job, bodies: tuple[Body, ...]) -> list[_Demanded]:
    """Return the readings on some bodies that have a real length and a place, drivers or not."""
    keys = {body.id for body in bodies}
    demanded = []
    for reading in job.readings:
        band = band_of(reading)
        here = {reading.body, reading.gauge.other or reading.body} <= keys and sharing(job, reading)
        if not here or band is None or reading.lost or reading.gauge.kind == "angle":
            continue
        if kept_of(job.body(reading.body), reading.gauge) is None:  # No factor changes a kept bore.
            demanded.append(_Demanded(reading, Demand(form_of(job, reading), band)))
    return demanded


def _driving(demanded: list[_Demanded]) -> list[_Demanded]:
    return [demand for demand in demanded if demand.reading.role == "drive"]


def freedom_of(correction: Correction) -> Freedom:
    """Return what a correction leaves free."""
    return Freedom(correction.factors, correction.free, correction.held)


def trued(job: Job, bodies: tuple[Body, ...]) -> Correction | None:
    """Return the correction that the driving readings of some bodies ask for; None when none drives."""
    now = job.correction_of(bodies[0])
    driving = _driving(demanded_of(job, bodies))
    if not driving:
        return None
    solved = solve([demand.demand for demand in driving], freedom_of(now))
    _refuse_unmet(driving, solved)
    set_by = _set_by([demand.reading for demand in driving])
    return checked(now, list(solved.factors), set_by).model_copy(
        update={
            "readings": tuple(demand.reading.id for demand in driving),
            "absolute": True,
            "typed": (),
        }
    )


def _refuse_unmet(driving: list[_Demanded], solved: Solution) -> None:
    """Refuse factors that are said to meet all readings and do not; nothing is worked out of such."""
    factors = np.asarray(solved.factors)
    for demanded in driving if solved.meets else ():
        if not all(demanded.band.holds(length) for length in demanded.demand.form.lengths(factors)):
            raise AimTrueError(
                "solver-off",
                f"the factors found do not meet {demanded.reading.name}, though they should",
                remedy="nothing was changed; report this with the readings",
            )


def _set_by(readings: list[Reading]) -> str:
    if len(readings) == 1:
        more = readings[0].clearance_mm
        clear = f" {'+' if more > 0 else '−'} {abs(more):g} clearance" if more else ""
        return f"{readings[0].name} = {readings[0].typed}{clear}"
    return f"{len(readings)} readings"


def truth_of(job: Job, key: str, bodies: tuple[Body, ...]) -> ReadingsVerdict | None:
    """Return what the readings of a body or kit say; None while none has a real length."""
    demanded = demanded_of(job, bodies)
    if not demanded:
        return None
    now = job.correction_of(bodies[0])
    factors = factors_of(job, bodies[0])
    driving = _driving(demanded)
    together = _together(now)
    lead = factors[together.groups()[0][0]] if together.groups() else 1.0
    lanes = tuple(
        _lane(demand, together, factors, lead) for demand in demanded if demand.reading.role != "ignore"
    )
    solved = solve([demand.demand for demand in driving], freedom_of(now)) if driving else None
    conflict = tuple(driving[number].reading.id for number in solved.conflict) if solved else ()
    return ReadingsVerdict(
        id=key,
        factor=lead,
        lanes=lanes,
        window=_window([lane for lane in lanes if lane.drives]),
        conflict=conflict,
        changes=_changes(driving, solved, now) if solved and conflict else (),
        proposals=_proposals(demanded, driving, now) if driving else (),
    )


def _together(now: Correction) -> Freedom:
    """All axes that are not held, moved as one from where they are."""
    return Freedom(now.factors, (False, False, False), now.held)


def _lane(demanded: _Demanded, together: Freedom, factors: Floats, lead: float) -> Lane:
    span = interval(demanded.demand, together, factors)
    wanted = None
    if demanded.band.wanted is not None:
        exact = Demand(
            demanded.demand.form, Band(demanded.band.wanted, demanded.band.wanted, demanded.band.wanted, 1.0)
        )
        best = solve([exact], together)
        axes = together.groups()[0] if together.groups() else []
        wanted = best.factors[axes[0]] if axes else None
    low, high = (span[0] * lead, span[1] * lead) if span else (None, None)
    return Lane(
        reading=demanded.reading.id,
        low=low,
        high=None if high is None or np.isinf(high) else high,
        wanted=wanted,
        drives=demanded.reading.role == "drive",
    )


def _window(lanes: list[Lane]) -> tuple[float, float | None] | None:
    if not lanes or any(lane.low is None for lane in lanes):
        return None
    low = max(lane.low or 0.0 for lane in lanes)
    ends = [lane.high for lane in lanes if lane.high is not None]
    high = min(ends) if ends else None
    return (low, high) if high is None or low <= high * (1 + 1e-12) else None


def _proposals(demanded: list[_Demanded], driving: list[_Demanded], now: Correction) -> tuple[Proposal, ...]:
    """Uniform, the best stretch of one axis, and per axis; what equals an earlier one is left out."""
    proposals = [_proposal("uniform", "Scale all", demanded, driving, now, (False, False, False))]
    stretches = [
        _proposal(f"stretch-{axis}", f"Scale all, stretch {axis.upper()}", demanded, driving, now, _free(i))
        for i, axis in enumerate(AXES)
        if not now.held[i]
    ]
    least = _SAME if proposals[0].meets else 1e-7
    stretches = [stretch for stretch in stretches if stretch.shape > least]
    proposals += sorted(stretches, key=_worth)[:1]
    every = _proposal("per-axis", "Each axis on its own", demanded, driving, now, (True, True, True))
    if every.shape > least and not any(
        np.allclose(every.factors, proposal.factors, rtol=1e-7) for proposal in proposals
    ):
        proposals.append(every)
    return tuple(proposals)


def _free(axis: int) -> _Triple:
    return (axis == 0, axis == 1, axis == 2)


def _worth(proposal: Proposal) -> tuple[int, float, float]:
    """Fewest readings missed, then least missed by, then least change of shape."""
    missed = [outcome for outcome in proposal.outcomes if not outcome.met]
    return len(missed), round(sum(abs(outcome.off_mm) for outcome in missed), 6), proposal.shape


def _proposal(
    key: str, says: str, demanded: list[_Demanded], driving: list[_Demanded], now: Correction, free: _Triple
) -> Proposal:
    base = as_vec3([factor if held else 1.0 for factor, held in zip(now.factors, now.held, strict=True)])
    solved = solve([demand.demand for demand in driving], Freedom(base, free, now.held))
    factors = np.asarray(solved.factors)
    moving = [i for i in range(3) if not now.held[i]] or [0]
    shape = float(factors[moving].max() / factors[moving].min() - 1)
    volume = float(np.prod(factors) / np.prod(now.factors) - 1)
    oval, idle = _oval(demanded, factors), tuple(AXES[i].upper() for i in solved.idle)
    return Proposal(
        key=key,
        says=says,
        factors=as_vec3(factors),
        free=free,
        meets=solved.meets,
        outcomes=tuple(_outcome(demand, factors) for demand in demanded),
        shape=shape,
        volume=volume,
        oval_mm=oval,
        idle=idle,
        in_force=bool(np.allclose(factors, now.factors, rtol=1e-9)),
        effect="; ".join(_effects(shape, volume, oval, idle)),
    )


def _effects(shape: float, volume: float, oval_mm: float, idle: tuple[str, ...]) -> Iterator[str]:
    """What factors do to the shape, in words; what would be written as zero is left out."""
    if shape >= _SHAPE_SHOWS:
        yield f"shape changed by {written(100 * shape)} %"
    if oval_mm > _OVAL_SHOWS_MM:
        yield f"round becomes oval by {written(oval_mm)}"
    if abs(volume) >= _VOLUME_SHOWS:
        yield f"volume {'+' if volume > 0 else '−'}{written(abs(100 * volume), 1)} %"
    if idle:
        others = "they go" if len(idle) > 1 else "it goes"
        yield f"no reading runs along {' or '.join(idle)}, so {others} with the others"


def _outcome(demanded: _Demanded, factors: Floats) -> Outcome:
    lengths = demanded.demand.form.lengths(factors)
    worst = max(lengths, key=lambda length: abs(off(demanded.band, length)))
    return Outcome(
        reading=demanded.reading.id,
        length_mm=worst,
        off_mm=off(demanded.band, worst),
        met=all(demanded.band.holds(length) for length in lengths),
    )


def off(band: Band, length: float) -> float:
    """Return how far a length is from what is wanted, or, where there is only a limit, beyond that."""
    return band.over(length) if band.wanted is None else length - band.wanted


def _oval(demanded: list[_Demanded], factors: Floats) -> float:
    rounds = [
        demand.demand.form.lengths(factors)
        for demand in demanded
        if isinstance(demand.demand.form, CircleForm)
    ]
    return max((greatest - least for greatest, least in rounds), default=0.0)


def _changes(driving: list[_Demanded], solved: Solution, now: Correction) -> tuple[ConflictChange, ...]:
    """Single changes that free a conflict: a band relaxed as far as it must be, or one axis stretched."""
    relaxed: list[tuple[float, ConflictChange]] = []
    for number in solved.conflict:
        rest = [demanded for i, demanded in enumerate(driving) if i != number]
        other = solve([demanded.demand for demanded in rest], freedom_of(now))
        if other.meets:
            relaxed.append(_relaxed(driving[number], np.asarray(other.factors)))
    for i, axis in enumerate(AXES):
        if now.free[i] or now.held[i]:
            continue
        stretched = solve([demand.demand for demand in driving], Freedom(now.factors, _free(i), now.held))
        others = [k for k in range(3) if k != i and not now.held[k]]
        if stretched.meets and others:
            ratio = (
                stretched.factors[i]
                / now.factors[i]
                / (stretched.factors[others[0]] / now.factors[others[0]])
            )
            says = f"stretch {axis.upper()} by {100 * (ratio - 1):+.2f} %".replace("-", "−")
            relaxed.append((abs(ratio - 1), ConflictChange(says=says, axis=axis, share=ratio - 1)))
    return tuple(change for _, change in sorted(relaxed, key=lambda row: row[0]))


def _relaxed(demanded: _Demanded, factors: Floats) -> tuple[float, ConflictChange]:
    lengths = demanded.demand.form.lengths(factors)
    length = max(lengths, key=lambda value: abs(demanded.band.over(value)))
    over = demanded.band.over(length)
    limit = length - demanded.reading.clearance_mm
    way = "up" if over > 0 else "down"
    says = (
        f"let {demanded.reading.name} go {way} to {written(limit)} mm, {written(abs(over))} beyond its band"
    )
    return abs(over) / length, ConflictChange(says=says, reading=demanded.reading.id, limit_mm=limit)
