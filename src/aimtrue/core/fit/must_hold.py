"""This module lists what must hold of a job, whatever its correction: one row each, before and after it.

Rows are kept bores, bodies as drawn, pairs with their intent, least walls and the machine. What holds of many
bodies alike, such as their walls, is gathered in one row; what does not is a row of its own.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal

import numpy as np

from aimtrue.core.chain.allowance import allowed_linear, allowed_sizes
from aimtrue.core.chain.kept_bores import kept_mm
from aimtrue.core.chain.sizes import true_sizes
from aimtrue.core.chain.transforms import turn_up
from aimtrue.core.fit.clearances.intents import Verdict
from aimtrue.core.fit.faces import faces_of
from aimtrue.core.fit.standing import PairState, standing_pairs
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.model.body import Body
from aimtrue.core.model.decisions import KeptBore
from aimtrue.core.model.ids import BodyId, PairId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, written
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.ownership import to_print
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.model.vectors import as_vec3
from aimtrue.core.truing.effects.drawn_features import drawn_of, linear_of

RequirementKind = Literal["pair", "kept bore", "as drawn", "least wall", "machine"]
_SAME_MM = 1e-3
"""A kept bore or a body as drawn may differ by so much: float32 tells no more of a metre."""


class Requirement(Value):
    """One thing that must hold.

    Attributes:
        kind: of it.
        what: it is about, in words.
        bodies: that it concerns.
        pair: which pair it is, if it is one.
        before, after: its state as drawn and as released, in words, lengths in mm; of a body in a machine the
            side that is the tightest.
        verdict: whether it holds as released.
        remedy: what can be done where it does not.
    """

    kind: RequirementKind
    what: str
    bodies: tuple[BodyId, ...]
    pair: PairId | None = None
    before: str
    after: str
    verdict: Verdict
    remedy: str = ""


def requirements(job: Job, store: GeometryStore) -> tuple[Requirement, ...]:
    """Return what must hold of a job; nothing of bodies whose unit is not settled."""
    bodies = [body for body in to_print(job, job.bodies) if job.settled((body,)) and not body.stray]
    rows = list(_pairs(standing_pairs(job, store)))
    for body in bodies:
        rows += _of_body(job, body, store)
    rows += _gathered([_wall(job, body, store) for body in bodies])
    rows += _gathered([_machine(job, body) for body in bodies])
    return tuple(rows)


def _pairs(pairs: tuple[PairState, ...]) -> Iterator[Requirement]:
    for pair in pairs:
        who = " and ".join(dict.fromkeys(pair.names))
        states = pair.states
        yield Requirement(
            kind="pair",
            what=f"{pair.kind} of {who}",
            bodies=tuple(dict.fromkeys((pair.a, pair.b))),
            pair=pair.id,
            before=written(states[0].clearance_mm, 3) if states else "–",
            after=written(states[-1].clearance_mm, 3) if states else pair.says or "lost",
            verdict=pair.verdict,
            remedy="" if pair.verdict == "holds" else pair.ways[0].says if pair.ways else "look at it",
        )


_OF_BODY: Memo[tuple[Requirement, ...]] = Memo(8192)


def _of_body(job: Job, body: Body, store: GeometryStore) -> tuple[Requirement, ...]:
    """Kept bores of a body, those of one diameter together, and itself where it is to stay as drawn."""
    if not body.kept and not body.as_drawn:
        return ()
    return _OF_BODY.get(job.in_force(body), (), lambda: (*_kept(job, body, store), *_as_drawn(job, body)))


def _kept(job: Job, body: Body, store: GeometryStore) -> Iterator[Requirement]:
    alike: dict[float, list[KeptBore]] = {}
    for bore in body.kept:
        alike.setdefault(round(kept_mm(job, body, bore), 4), []).append(bore)
    released = {face.feature: face for face in faces_of("released", job, body, store) if face.kind == "bore"}
    grow = 1 / (1 - np.asarray(job.shrinkage_of(body).shares))
    for diameter, bores in alike.items():
        sizes = [
            side
            for feature in store.features(body).listed
            if feature.id in released and any(_is(feature.point, bore) for bore in bores)
            for side in (released[feature.id].most, released[feature.id].least)
        ]
        # What the material will shrink a bore is made larger by; it is to measure its own size then.
        over = max((abs(size - diameter) for size in sizes), default=np.inf)
        holds = over <= diameter * (float(grow.max()) - 1) + _SAME_MM
        yield Requirement(
            kind="kept bore",
            what=f"{f'{len(bores)} bores' if len(bores) > 1 else 'a bore'} of {body.name}",
            bodies=(body.id,),
            before=f"ø {written(diameter, 3)}",
            after=f"ø {written(min(sizes, key=lambda size: abs(size - diameter)), 3)}" if sizes else "gone",
            verdict="holds" if holds else "does not hold",
            remedy="" if holds else "keep the bores anew",
        )


def _is(point: Vec3, bore: KeptBore) -> bool:
    return float(np.linalg.norm(np.subtract(point, bore.point))) <= 1e-3 * bore.diameter


def _as_drawn(job: Job, body: Body) -> Iterator[Requirement]:
    if not body.as_drawn:
        return
    drawn, now = _drawn_sizes(job, body), true_sizes(job, body)
    holds = max(abs(a - b) for a, b in zip(drawn, now, strict=True)) <= _SAME_MM
    yield Requirement(
        kind="as drawn",
        what=body.name,
        bodies=(body.id,),
        before=written(max(drawn)),
        after=written(max(now)),
        verdict="holds" if holds else "does not hold",
        remedy="" if holds else "take its correction back",
    )


def _drawn_sizes(job: Job, body: Body) -> Vec3:
    """The sizes as drawn, in mm and axes of the job; those of a piece are what they are."""
    if body.division is not None:
        return true_sizes(job, body)
    numbers = np.subtract(body.high, body.low) * MM_PER[job.settled_unit(body)]
    return as_vec3(np.abs(turn_up(job.source_of(body).up)) @ numbers)


class _Measured(Value):
    """What is gathered of one body: its row, and how near it is to not holding, the nearest first."""

    row: Requirement
    room: float


_WALLS: Memo[_Measured | None] = Memo(8192)
_IN_MACHINE: Memo[_Measured] = Memo(8192)


def _wall(job: Job, body: Body, store: GeometryStore) -> _Measured | None:
    if not body.features or body.division is not None:
        return None
    limit = max(2 * job.machine.process.bead, job.least_wall_mm or 0.0)
    return _WALLS.get(job.in_force(body), (limit,), lambda: _least_wall(job, body, limit, store))


def _least_wall(job: Job, body: Body, limit: float, store: GeometryStore) -> _Measured | None:
    walls = drawn_of(job, body, store).walls
    if not len(walls):
        return None
    drawn = np.linalg.norm(walls, axis=1)
    corrected = walls @ linear_of(job.correction_of(body)).matrix.T
    after = np.linalg.norm(corrected * allowed_linear(job, body)[0], axis=1)
    least = int(after.argmin())
    now, was = float(after[least]), float(drawn[least])
    holds = now >= limit * (1 - 1e-9)
    row = Requirement(
        kind="least wall",
        what=f"{body.name}, at least {written(limit, 2)}",
        bodies=(body.id,),
        before=written(was, 2),
        after=written(now, 2),
        verdict="holds" if holds else "does not hold",
        remedy="" if holds else f"a factor {written(limit / was, 3)} for it, or thicken it",
    )
    return _Measured(row=row, room=now / limit)


def _machine(job: Job, body: Body) -> _Measured:
    sizes = _drawn_sizes(job, body), allowed_sizes(job, body)
    return _IN_MACHINE.get(
        (job.machine,), (body.id, body.name, *sizes), lambda: _in_machine(job.machine, body, *sizes)
    )


def _in_machine(machine: Machine, body: Body, drawn: Vec3, released: Vec3) -> _Measured:
    holds = machine.takes(released)
    # The longest side goes along the longest of the machine: which of them is the tightest so?
    order, rooms = sorted(range(3), key=lambda i: released[i]), sorted(machine.volume.room)
    shares = [released[i] / most for i, most in zip(order, rooms, strict=True)]
    side = order[int(np.argmax(shares))]
    row = Requirement(
        kind="machine",
        what=f"{body.name} in {machine.name}",
        bodies=(body.id,),
        before=written(drawn[side]),
        after=written(released[side]),
        verdict="holds" if holds else "does not hold",
        remedy="" if holds else "divide it, or choose a larger machine",
    )
    return _Measured(row=row, room=1 / max(*shares, 1e-9))


def _gathered(found: Sequence[_Measured | None]) -> Iterator[Requirement]:
    """Return those that do not hold by themselves, and what does in one row: that with the least room."""
    measured_bodies = [measured for measured in found if measured is not None]
    good = [measured for measured in measured_bodies if measured.row.verdict == "holds"]
    yield from (measured.row for measured in measured_bodies if measured.row.verdict != "holds")
    if good:
        tightest = min(good, key=lambda measured: measured.room).row
        if len(good) > 1:
            what = f"{len(good)} bodies, tightest {tightest.what}"
            everyone = tuple(key for measured in good for key in measured.row.bodies)
            tightest = tightest.model_copy(update={"what": what, "bodies": everyone})
        yield tightest
