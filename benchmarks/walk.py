"""A walk that never tires: what a user may do, in any order, against an oracle of a few lines of its own.

The oracle knows the numbers in the files and what was typed, and from these what every released file must
measure. It shares no code with the core, reads released files by a reader of its own, and says when a
release must be refused: while the unit is open, or a reading that should drive is missed and nobody
accepted it.
"""

from __future__ import annotations

import copy
import struct
import time
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import (
    RuleBasedStateMachine,
    initialize,
    invariant,
    precondition,
    rule,
    run_state_machine_as_test,
)

from aimtrue.core.division.actions import Undivide
from aimtrue.core.errors import AimTrueError, Refused
from aimtrue.core.intake.actions import Accept, Delete, Duplicate, SettleUnit
from aimtrue.core.model.division import AskPieces
from aimtrue.core.model.lengths import Unit
from aimtrue.core.release.make import release
from aimtrue.core.release.order import Order
from aimtrue.core.seating.actions import SetCopies, TurnSeat
from aimtrue.core.truing.actions import (
    AddReading,
    CorrectAlone,
    RemoveReading,
    SetAllowance,
    SetFactor,
    SizeAxis,
)
from tests.shapes import Bench, bench_of

PER = {"um": 0.001, "mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
SLACK = 0.05
"""Half of the band that a caliper's reading has."""
Points = Any


@dataclass
class Owner:
    """What is in force for bodies that share it, and what was typed for it last."""

    factors: Points = field(default_factory=lambda: np.ones(3))
    shrink: Points = field(default_factory=lambda: np.zeros(3))
    claim: tuple[str, int, float, tuple[str, ...]] | None = None
    """``size`` or ``reading``, along an axis, of how many mm, over which bodies."""
    absolute: bool = False
    """Whether it comes of a real size, which stays when the unit is settled anew."""
    read: tuple[int, float, tuple[str, ...]] | None = None
    accepted: float | None = None
    """By how much the reading was missed when that was accepted."""


@dataclass
class Oracle:
    """The numbers of a file and what was typed."""

    unit: str | None
    boxes: dict[str, Points]
    """By body, (2, 3) in numbers of the file."""
    owners: dict[str, Owner]
    alone: set[str] = field(default_factory=set)
    kit: set[str] = field(default_factory=set)
    clear: dict[str, Points] = field(default_factory=dict)
    cuts: dict[str, float] = field(default_factory=dict)

    def owner(self, body: str) -> Owner:
        return self.owners["kit" if body in self.kit and body not in self.alone else body]

    def sharing(self, body: str) -> tuple[str, ...]:
        if body in self.kit and body not in self.alone:
            return tuple(sorted(self.kit - self.alone))
        return (body,)

    def span(self, bodies: tuple[str, ...], axis: int) -> float:
        ends = np.array([self.boxes[one][:, axis] for one in bodies])
        return float(ends[:, 1].max() - ends[:, 0].min())

    def length(self, bodies: tuple[str, ...], axis: int) -> float:
        per = PER[self.unit or "mm"]
        return self.span(bodies, axis) * per * float(self.owner(bodies[0]).factors[axis])

    def meet(self) -> None:
        """Bring what was typed of a size true again, all axes alike."""
        for owner in self.owners.values():
            if owner.claim is not None:
                _, axis, mm, bodies = owner.claim
                owner.factors = owner.factors * (mm / self.length(bodies, axis))

    def missed(self, owner: Owner) -> float:
        if owner.read is None:
            return 0.0
        axis, mm, bodies = owner.read
        off = self.length(bodies, axis) - mm
        return off if abs(off) > SLACK * (1 + 1e-9) else 0.0

    def must_refuse(self) -> bool:
        return self.unit is None or any(
            self.missed(owner) and owner.accepted != round(self.missed(owner), 4)
            for owner in self.owners.values()
        )

    def extents(self) -> list[tuple[float, ...]]:
        """What every released body must measure, in mm, sorted."""
        found = []
        for body, box in self.boxes.items():
            owner = self.owner(body)
            ends = box * PER[self.unit or "mm"] * owner.factors
            parts = [ends]
            if body in self.cuts:
                at = self.cuts[body]
                parts = [np.array([ends[0], [*ends[1, :2], at]]), np.array([[*ends[0, :2], at], ends[1]])]
            for part in parts:
                bare, more = part[1] - part[0], self.clear.get(body, np.zeros(3))
                size = (bare + np.where(bare + more > 0, more, 0.0)) / (1 - owner.shrink)
                found.append(tuple(size.tolist()))
        return sorted(found)


def stl_of(boxes: list[Points]) -> bytes:
    """Boxes as a binary STL, twelve triangles each."""
    rows = []
    for low, high in boxes:
        corner = [[(low, high)[(k >> i) & 1][i] for i in range(3)] for k in range(8)]
        for a, b, c, d in (
            (0, 2, 3, 1),
            (4, 5, 7, 6),
            (0, 1, 5, 4),
            (2, 6, 7, 3),
            (0, 4, 6, 2),
            (1, 3, 7, 5),
        ):
            rows += [(corner[a], corner[b], corner[c]), (corner[a], corner[c], corner[d])]
    out = [b"\0" * 80, struct.pack("<I", len(rows))]
    out += [struct.pack("<12fH", 0, 0, 0, *(value for point in row for value in point), 0) for row in rows]
    return b"".join(out)


def extents_in(data: bytes) -> tuple[float, ...]:
    """The extents of a binary STL, read by ``struct`` alone."""
    (count,) = struct.unpack_from("<I", data, 80)
    points = [struct.unpack_from("<12fH", data, 84 + 50 * i)[3:12] for i in range(count)]
    flat = np.array(points).reshape(-1, 3)
    return tuple((flat.max(axis=0) - flat.min(axis=0)).tolist())


SIDES = st.tuples(*[st.integers(8, 90)] * 3)
UNITS = st.sampled_from(["mm", "cm", "in", "m"])
AXIS = st.integers(0, 2)
LENGTH = st.integers(20, 3000).map(lambda tenths: tenths / 10)


class Walk(RuleBasedStateMachine):
    """One file of one or two boxes, and everything that may happen to it."""

    def __init__(self) -> None:
        super().__init__()
        self.past: list[tuple[Any, Oracle]] = []
        self.next: list[tuple[Any, Oracle]] = []

    @initialize(first=SIDES, second=st.one_of(st.none(), SIDES), unit=UNITS)
    def begin(self, first: Any, second: Any, unit: str) -> None:
        """Take a file in, and say its unit."""
        boxes = [np.array([[3.0, 4, 5], [3 + first[0], 4 + first[1], 5 + first[2]]])]
        if second is not None and second != first:
            boxes.append(np.array([[120.0, 0, 0], [120 + second[0], second[1], second[2]]]))
        self.mm = boxes
        numbers = [self._numbers(box, unit) for box in boxes]
        self.bench: Bench = bench_of("part.stl", stl_of(numbers))
        names = [body.name for body in self.bench.job.bodies]
        by_place = sorted(names, key=lambda name: self._body(name).low[0])
        self.oracle = Oracle(None, dict(zip(by_place, numbers, strict=True)), {})
        for name in names:
            self.oracle.owners[name] = Owner()
        if len(names) > 1:
            self.oracle.kit, self.oracle.owners["kit"] = set(names), Owner()
        self.oracle.unit = self.bench.job.sources[0].unit
        self._do(SettleUnit(source="s1", unit=Unit(unit)))
        self.oracle.unit = unit

    # What is typed

    @precondition(lambda self: self.oracle.unit)
    @rule(which=st.integers(0, 9), axis=AXIS, mm=LENGTH, whole=st.booleans())
    def size(self, which: int, axis: int, mm: float, whole: bool) -> None:
        """Type a size of a body, or of its kit."""
        name = self._name(which)
        key, bodies = self._body(name).id, (name,)
        kit = self._body(name).kit
        if whole and kit and name not in self.oracle.alone:
            key, bodies = kit, self.oracle.sharing(name)
        self._do(SizeAxis(body=key, axis="xyz"[axis], typed=f"{mm}"))
        owner = self.oracle.owner(name)
        owner.claim, owner.absolute = ("size", axis, mm, bodies), True
        self.oracle.meet()

    @precondition(lambda self: self.oracle.unit)
    @rule(which=st.integers(0, 9), factor=st.sampled_from([0.5, 0.98, 1.0, 1.25, 2.0]))
    def factor(self, which: int, factor: float) -> None:
        """Type a factor."""
        name = self._name(which)
        self._do(SetFactor(body=self._body(name).id, typed=f"{factor}"))
        owner = self.oracle.owner(name)
        owner.claim, owner.factors, owner.absolute = None, np.full(3, factor), False

    @precondition(lambda self: self.oracle.unit)
    @rule(which=st.integers(0, 9), axis=AXIS, mm=LENGTH)
    def read(self, which: int, axis: int, mm: float) -> None:
        """Read the overall size of a body; one reading drives at a time."""
        name = self._name(which)
        owner = self.oracle.owner(name)
        if owner.read is not None:
            return
        self._do(
            AddReading(body=self._body(name).id, kind="extent", axis="xyz"[axis], typed=f"{mm}", sure=True)
        )
        owner.read, owner.claim, owner.accepted = (axis, mm, (name,)), ("reading", axis, mm, (name,)), None
        owner.absolute = True
        self.oracle.meet()

    @rule()
    def stop_reading(self) -> None:
        """Remove every reading; the size stays."""
        for reading in self.bench.job.readings:
            self._do(RemoveReading(reading=reading.id))
        for owner in self.oracle.owners.values():
            if owner.claim is not None and owner.claim[0] == "reading":
                owner.claim, owner.absolute = None, False
            owner.read, owner.accepted = None, None

    @precondition(lambda self: self.oracle.unit)
    @rule()
    def accept(self) -> None:
        """Accept whatever reading is missed, as it is missed now."""
        self._do(Accept(code="reading-missed", reason="a walk"))
        for owner in self.oracle.owners.values():
            owner.accepted = round(self.oracle.missed(owner), 4) or None

    @precondition(lambda self: self.oracle.unit)
    @rule(which=st.integers(0, 9), percent=st.sampled_from([0.0, 0.4, 1.5]))
    def shrink(self, which: int, percent: float) -> None:
        """Allow for shrinkage."""
        name = self._name(which)
        self._do(SetAllowance(body=self._body(name).id, shrinkage=(f"{percent}",) * 3))
        self.oracle.owner(name).shrink = np.full(3, percent / 100)

    @precondition(lambda self: self.oracle.unit and not self.oracle.cuts)
    @rule(which=st.integers(0, 9), axis=AXIS, mm=st.sampled_from([0.0, 0.3, -0.2]))
    def clear(self, which: int, axis: int, mm: float) -> None:
        """Add clearance along one axis; the others stay."""
        name = self._name(which)
        typed: list[str | None] = [None, None, None]
        typed[axis] = f"{mm}"
        if min(self._sizes(name)) <= 0.5:  # a clearance that leaves nothing is told, and not given
            return
        self._do(SetAllowance(body=self._body(name).id, clearance=tuple(typed), sure=True))
        self.oracle.clear.setdefault(name, np.zeros(3))[axis] = mm

    # Whose it is

    @precondition(lambda self: self.oracle.unit and len(self.oracle.kit) > 1 and not self.oracle.cuts)
    @rule(which=st.integers(0, 9))
    def alone(self, which: int) -> None:
        """Let a body of the kit go its own way, as large as it is; or follow the kit again."""
        names = sorted(self.oracle.kit)
        name = names[which % len(names)]
        if any(owner.read for owner in self.oracle.owners.values()):
            return
        on = name not in self.oracle.alone
        if on and len(self.oracle.kit - self.oracle.alone) < 2:
            return
        self._do(CorrectAlone(body=self._body(name).id, on=on))
        if on:
            kit = self.oracle.owners["kit"]
            mine = kit.claim if kit.claim is not None and kit.claim[3] == (name,) else None
            self.oracle.owners[name] = Owner(kit.factors.copy(), kit.shrink.copy(), mine, kit.absolute)
            self.oracle.alone.add(name)
            if kit.claim is not None and name in kit.claim[3]:
                kit.claim = None
        else:
            self.oracle.alone.discard(name)

    @precondition(lambda self: self.oracle.unit and len(self.oracle.boxes) < 4 and not self.oracle.cuts)
    @rule(which=st.integers(0, 9))
    def duplicate(self, which: int) -> None:
        """Make a copy, which goes its own way."""
        name = self._name(which)
        before = {body.id for body in self.bench.job.bodies}
        self._do(Duplicate(bodies=(self._body(name).id,)))
        (made,) = (body for body in self.bench.job.bodies if body.id not in before)
        old = self.oracle.owner(name)
        self.oracle.boxes[made.name] = self.oracle.boxes[name].copy()
        mine = old.claim is not None and old.claim[0] == "size" and old.claim[3] == (name,)
        claim = (*old.claim[:3], (made.name,)) if mine and old.claim is not None else None
        self.oracle.owners[made.name] = Owner(old.factors.copy(), old.shrink.copy(), claim, old.absolute)
        self.oracle.clear[made.name] = self.oracle.clear.get(name, np.zeros(3)).copy()

    @precondition(lambda self: len(self.oracle.boxes) > len(self.mm))
    @rule()
    def delete(self) -> None:
        """Take the last copy away."""
        name = list(self.oracle.boxes)[-1]
        self._do(Delete(bodies=(self._body(name).id,)))
        for kept in (self.oracle.boxes, self.oracle.owners, self.oracle.clear):
            kept.pop(name, None)

    # What the file is

    @precondition(lambda self: self.oracle.unit and not self.oracle.cuts)
    @rule(unit=UNITS)
    def settle(self, unit: str) -> None:
        """Say another unit: a typed size stays, a factor stays a factor."""
        try:
            self._do(SettleUnit(source="s1", unit=Unit(unit)))
        except Refused:  # a typed size would take a factor of over a million
            self.past.pop()
            return
        was = PER[self.oracle.unit or unit]
        for owner in self.oracle.owners.values():
            owner.factors = owner.factors * (was / PER[unit] if owner.absolute else 1.0)
        self.oracle.unit = unit
        self.oracle.meet()

    @precondition(
        lambda self: self.oracle.unit and len(self.oracle.boxes) == len(self.mm) and not self.oracle.cuts
    )
    @rule(unit=UNITS, times=st.sampled_from([1.0, 1.02, 0.9]))
    def revise(self, unit: str, times: float) -> None:
        """Swap in the part again, in some unit and hardly larger: the unit is asked when it is another."""
        was = self.oracle.unit
        assert was is not None
        before = {name: box * PER[was] for name, box in self.oracle.boxes.items()}
        numbers = {name: self._numbers(box * times, unit) for name, box in before.items()}
        self._keep()
        self.bench.revise("part-b.stl", stl_of(list(numbers.values())))
        found = self.bench.job.sources[0].unit
        assert found == (was if unit == was else None), (
            f"{was} came again in {unit}, and was taken for {found}"
        )
        names = {body.name for body in self.bench.job.bodies if body.division is None}
        assert names == set(numbers), f"{set(numbers)} became {names}"
        self.oracle.boxes, self.oracle.unit = numbers, found
        for owner in self.oracle.owners.values():
            owner.accepted = None  # it was of other bodies
        if unit != was:
            self._must_be_refused()
            self.bench.do(SettleUnit(source="s1", unit=Unit(unit)))
        self.oracle.unit = unit
        self.oracle.meet()

    # What is made of it

    @precondition(lambda self: self.oracle.unit and not self.oracle.cuts and not self.oracle.alone)
    @rule(which=st.integers(0, 9), share=st.sampled_from([0.3, 0.5, 0.8]))
    def divide(self, which: int, share: float) -> None:
        """Cut a body at a height."""
        name = self._name(which)
        if self.oracle.clear.get(name, np.zeros(3)).any() or self._body(name).id.startswith("d"):
            return
        owner = self.oracle.owner(name)
        low, high = self.oracle.boxes[name][:, 2] * PER[self.oracle.unit] * owner.factors[2]
        at = round(low + share * (high - low), 2)
        if not low + 0.3 < at < high - 0.3 or high > 5000:
            return
        self._keep()
        self.bench.shape(AskPieces(planes=(f"z={at}",)), self._body(name).id)
        self.oracle.cuts[name] = at

    @precondition(lambda self: self.oracle.cuts)
    @rule()
    def put_together(self) -> None:
        """Take a division back."""
        self._do(Undivide(division=self.bench.job.divisions[0].id))
        self.oracle.cuts.clear()

    @precondition(lambda self: self.oracle.unit)
    @rule(which=st.integers(0, 9), axis=AXIS, copies=st.integers(1, 3))
    def seat(self, which: int, axis: int, copies: int) -> None:
        """Turn and copy: no size in the file's own place comes of it."""
        body = self._body(self._name(which))
        if self.bench.job.divided(body) is not None:
            return
        self._do(
            TurnSeat(body=body.id, axis="xyz"[axis], typed="90"), SetCopies(body=body.id, typed=f"{copies}")
        )

    # Back and forth

    @rule()
    def undo(self) -> None:
        """Take the last step back."""
        if self.past:
            self.next.append((self.bench.job, copy.deepcopy(self.oracle)))
            self.bench.job, self.oracle = self.past.pop()

    @rule()
    def redo(self) -> None:
        """Do it again."""
        if self.next:
            self.past.append((self.bench.job, copy.deepcopy(self.oracle)))
            self.bench.job, self.oracle = self.next.pop()

    @rule(unit=st.sampled_from([Unit.MM, Unit.IN]))
    def let_out(self, unit: Unit) -> None:
        """Release, and measure every file by a reader of our own."""
        if not self._made_again():
            return None
        if self.oracle.must_refuse():
            return self._must_be_refused()
        order = Order(format="stl", place="own", shape="each", unit=unit)
        files = release(self.bench.job, self.bench, order).files
        assert all(one.file.proof.holds for one in files)
        found = sorted(tuple(PER[unit.value] * side for side in extents_in(one.data)) for one in files)
        wanted = self.oracle.extents()
        assert len(found) == len(wanted)
        found = [
            found.pop(int(np.argmin([np.abs(np.subtract(one, row)).max() for one in found])))
            for row in wanted
        ]
        reach = (
            max(float(abs(box).max()) for box in self.oracle.boxes.values()) * PER[self.oracle.unit or "mm"]
        )
        most = max(reach * float(max(owner.factors.max() for owner in self.oracle.owners.values())), 1.0)
        np.testing.assert_allclose(found, wanted, rtol=3e-6, atol=8 * float(np.spacing(np.float32(most))))
        return None

    @invariant()
    def nothing_is_said_of_readings_that_are_missed(self) -> None:
        """A correction is said to come of readings only while all of them are met."""
        for owner in self.oracle.owners.values() if hasattr(self, "oracle") else ():
            if owner.accepted != (round(self.oracle.missed(owner), 4) or None):
                owner.accepted = None  # another miss is another matter
        for body in self.bench.job.bodies if hasattr(self, "bench") else ():
            said = self.bench.job.correction_of(body).set_by
            if self.bench.job.correction_of(body).readings and body.name in self.oracle.boxes:
                assert bool(self.oracle.missed(self.oracle.owner(body.name))) == said.endswith("missed"), said

    def _must_be_refused(self) -> None:
        told = "nothing"
        try:
            release(self.bench.job, self.bench, Order(format="stl", place="own", shape="each"))
        except AimTrueError as error:
            told = error.code
        assert told in ("unit-unsettled", "stop-open"), f"a release that must be refused was told {told}"

    def _made_again(self) -> bool:
        """Make again what is stale; where that cannot be, the division is taken back."""
        try:
            self.bench.shape_again()
        except Refused:
            self.put_together()
            return False
        return True

    def _sizes(self, body: str) -> Points:
        return [self.oracle.length((body,), axis) for axis in range(3)]

    def _numbers(self, box: Points, unit: str) -> Points:
        return np.asarray(np.asarray(box) / PER[unit], np.float32).astype(np.float64)

    def _name(self, which: int) -> str:
        names = list(self.oracle.boxes)
        return names[which % len(names)]

    def _body(self, name: str) -> Any:
        return next(body for body in self.bench.job.bodies if body.name == name)

    def _keep(self) -> None:
        if hasattr(self, "oracle"):
            self.past.append((self.bench.job, copy.deepcopy(self.oracle)))
            self.next.clear()

    def _do(self, *actions: Any) -> None:
        self._keep()
        self.bench.do(*actions)


def report(minutes: float) -> int:
    """Walk for some minutes; what goes wrong is told with the shortest way to it, and ends the walk."""
    ends, walks = time.monotonic() + 60 * minutes, 0
    rules = settings(
        max_examples=200,
        stateful_step_count=40,
        deadline=None,
        database=None,
        suppress_health_check=list(HealthCheck),
    )
    while time.monotonic() < ends:
        run_state_machine_as_test(Walk, settings=rules)
        walks += 200
        print(f"{walks} walks of up to 40 steps, nothing wrong", flush=True)
    return 0
