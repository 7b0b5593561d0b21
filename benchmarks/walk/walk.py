"""A walk that never tires: what a user may do, in any order, against an oracle of a few lines of its own.

The oracle knows the numbers in the files and what was typed, and from these what every released file must
measure. It shares no code with the core, reads released files by a reader of its own, and says when a
release must be refused: while the unit is open, or a reading that should drive is missed and nobody
accepted it.
"""

from __future__ import annotations

import copy
from typing import Any

import numpy as np
from hypothesis import strategies as st
from hypothesis.stateful import (
    RuleBasedStateMachine,
    initialize,
    invariant,
    precondition,
    rule,
)

from aimtrue.core.division.actions import Undivide
from aimtrue.core.errors import AimTrueError
from aimtrue.core.fit.actions import PairUp
from aimtrue.core.fit.inspection.actions import AddPrintedPart, MeasurePart
from aimtrue.core.intake.actions import Accept, Delete, Duplicate, SettleUnit
from aimtrue.core.intake.tasks import MendTask
from aimtrue.core.model.division import AskAbove, AskPieces
from aimtrue.core.model.inspection import InspectionTarget
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.ownership import division_of
from aimtrue.core.release.order import Order
from aimtrue.core.seating.actions import SetCopies, TurnSeat
from aimtrue.core.truing.actions import (
    AddReading,
    CorrectAlone,
    RemoveReading,
    SetAllowance,
    SetFactor,
    SizeAxis,
    TakeCalibration,
)
from aimtrue.core.truing.calibration import Calibration
from aimtrue.core.truing.together import SetTogether
from benchmarks.walk.doors import CoreDoor, Door
from benchmarks.walk.oracle import PER, Oracle, Owner, Points, extents_in, open_edges_in, stl_of

SIDES = st.tuples(*[st.integers(8, 90)] * 3)
UNITS = st.sampled_from(["mm", "cm", "in", "m"])
AXIS = st.integers(0, 2)
GAP = 2.0
"""How far two boxes are from each other, in mm."""
LENGTH = st.integers(20, 3000).map(lambda tenths: tenths / 10)


class Walk(RuleBasedStateMachine):
    """One file of one or two boxes, and everything that may happen to it."""

    door: Door

    def __init__(self) -> None:
        super().__init__()
        self.past: list[tuple[int, Oracle]] = []
        """How many steps the door went for each of ours, and what was so before."""
        self.next: list[tuple[int, Oracle]] = []
        self.let_go: list[Oracle] = []
        """What was so at every release."""

    def enter(self, name: str, data: bytes) -> Door:
        """Open the door that this walk goes through."""
        return CoreDoor(name, data)

    @initialize(first=SIDES, second=st.one_of(st.none(), SIDES), unit=UNITS, torn=st.booleans())
    def begin(self, first: Any, second: Any, unit: str, torn: bool) -> None:
        """Take a file in, and say its unit; a torn one misses a triangle, and has another twice."""
        boxes = [np.array([[3.0, 4, 5], [3 + first[0], 4 + first[1], 5 + first[2]]])]
        if second is not None and second != first:
            x = 3.0 + first[0] + GAP
            boxes.append(np.array([[x, 4, 5], [x + second[0], 4 + second[1], 5 + second[2]]]))
        self.mm = boxes
        numbers = [self._numbers(box, unit) for box in boxes]
        self.door = self.enter("part.stl", stl_of(numbers, torn))
        names = [body.name for body in self.door.job.bodies]
        by_place = sorted(names, key=lambda name: self._body(name).low[0])
        self.oracle = Oracle(None, dict(zip(by_place, numbers, strict=True)), {})
        for name in names:
            self.oracle.owners[name] = Owner()
        if len(names) > 1:
            self.oracle.kit, self.oracle.owners["kit"] = set(names), Owner()
        if torn:
            self.oracle.holes = {by_place[0]}
        self.oracle.unit = self.door.job.sources[0].unit
        self._do(SettleUnit(source=self.door.job.sources[0].id, unit=Unit(unit)))
        self.oracle.unit = unit

    # What is typed

    @precondition(lambda self: self.oracle.unit)
    @rule(which=st.integers(0, 9), axis=AXIS, mm=LENGTH, whole=st.booleans())
    def size(self, which: int, axis: int, mm: float, whole: bool) -> None:
        """Type a size of a body, or of its kit."""
        name = self._name(which)
        bodies: tuple[str, ...] = (name,)
        key = self._body(name).id
        kit = self._body(name).kit
        if whole and kit and name not in self.oracle.alone:
            key, bodies = kit, self.oracle.sharing(name)
        if not self._does(SizeAxis(body=key, axis="xyz"[axis], typed=f"{mm}")):
            return
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

    @precondition(lambda self: self.oracle.unit and not self.oracle.cuts)
    @rule(
        some=st.integers(1, 15),
        factor=st.sampled_from([0.5, 1.0, 1.25]),
        percent=st.sampled_from([0.0, 0.4, 1.5]),
    )
    def together(self, some: int, factor: float, percent: float) -> None:
        """Type a factor and a shrinkage for several bodies at once; what shares a correction has it once."""
        names = [name for i, name in enumerate(sorted(self.oracle.boxes)) if some >> (i % 4) & 1]
        if not names:
            return
        keys = tuple(self._body(name).id for name in names)
        self._do(SetTogether(bodies=keys, factor=f"{factor}", shrinkage=f"{percent}"))
        for name in names:
            owner = self.oracle.owner(name)
            owner.claim, owner.factors, owner.absolute = None, np.full(3, factor), False
            owner.shrink = np.full(3, percent / 100)

    @precondition(lambda self: self.oracle.unit)
    @rule(which=st.integers(0, 9), axis=AXIS, mm=LENGTH)
    def read(self, which: int, axis: int, mm: float) -> None:
        """Read the overall size of a body; one reading drives at a time."""
        name = self._name(which)
        owner = self.oracle.owner(name)
        if owner.read is not None:
            return
        reading = AddReading(
            body=self._body(name).id, kind="extent", axis="xyz"[axis], typed=f"{mm}", sure=True
        )
        if not self._does(reading):
            return
        owner.read, owner.claim, owner.accepted = (axis, mm, (name,)), ("reading", axis, mm, (name,)), None
        owner.absolute = True
        self.oracle.meet()

    @precondition(lambda self: self.oracle.unit and any(owner.read for owner in self.oracle.owners.values()))
    @rule(times=st.sampled_from([0.5, 1.01, 1.3]))
    def bring_readings(self, times: float) -> None:
        """Take another real size of what is read from a table."""
        owner = next(owner for owner in self.oracle.owners.values() if owner.read)
        assert owner.read is not None
        axis, was, bodies = owner.read
        mm = round(was * times, 1)
        if mm < 2 or mm > 5000 or not 0.1 < mm / self.oracle.length(bodies, axis) < 10:
            return  # a row that is far off is told, and not taken
        body = self._body(bodies[0])
        (reading,) = (reading for reading in self.door.job.readings if reading.body == body.id)
        self.door.bring_readings(body.id, f"name,real\n{reading.name},{mm}\n")
        self._keep()
        owner = self.oracle.owner(bodies[0])
        owner.read, owner.claim, owner.accepted = (axis, mm, bodies), ("reading", axis, mm, bodies), None
        owner.absolute = True
        self.oracle.meet()

    @precondition(lambda self: any(owner.read for owner in self.oracle.owners.values()))
    @rule()
    def stop_reading(self) -> None:
        """Remove every reading; the size stays."""
        self._do(*(RemoveReading(reading=reading.id) for reading in self.door.job.readings))
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

    @precondition(lambda self: self.oracle.unit)
    @rule(which=st.integers(0, 9), shares=st.sampled_from([(0.004, 0.006, 0.0), (0.01, 0.01, 0.01)]))
    def calibrate(self, which: int, shares: tuple[float, float, float]) -> None:
        """Let a body, or now and then all of them, have a shrinkage that was measured."""
        calibration = Calibration(
            machine="walk", material="PLA", shrinkage=shares, uncertainty=(0.001, 0.001, 0.001)
        )
        everyone = which % 3 == 0
        name = self._name(which)
        self._do(TakeCalibration(body=None if everyone else self._body(name).id, found=calibration))
        for box in list(self.oracle.boxes) if everyone else [name]:
            self.oracle.owner(box).shrink = np.array(shares)

    @precondition(lambda self: self.oracle.unit and not self.oracle.cuts)
    @rule(which=st.integers(0, 9), axis=AXIS, off=st.sampled_from([-0.01, 0.0, 0.02]))
    def measure_a_part(self, which: int, axis: int, off: float) -> None:
        """Measure an overall size on one more printed part."""
        name = self._name(which)
        body = self._body(name)
        file_mm = self.oracle.aimed(name, axis) / (1 - float(self.oracle.owner(name).shrink[axis]))
        if not 1 < file_mm < 5000:
            return
        target = InspectionTarget.model_validate({"kind": "size", "of": body.id, "side": "xyz"[axis]})
        typed = f"{file_mm * (1 + off):.4f}"
        self.door.do(AddPrintedPart())
        part = self.door.job.inspection.parts[-1].id
        self.door.do(MeasurePart(part=part, target=target, typed=typed))
        self._keep(2)
        self.oracle.measured.setdefault((name, axis), []).append(float(typed))

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

    @precondition(lambda self: self.oracle.holes)
    @rule(mended=st.booleans())
    def face_a_hole(self, mended: bool) -> None:
        """Close a hole, or accept every one on purpose."""
        name = sorted(self.oracle.holes)[0]
        if mended:
            self.door.work(MendTask(bodies=(self._body(name).id,), remedy="close-holes"))
            self._keep()
            self.oracle.holes.discard(name)
        else:
            self._do(Accept(code="open-edges", reason="a walk"))
            self.oracle.let_be |= self.oracle.holes

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
        before = {body.id for body in self.door.job.bodies}
        self._do(Duplicate(bodies=(self._body(name).id,)))
        (made,) = (body for body in self.door.job.bodies if body.id not in before)
        old = self.oracle.owner(name)
        self.oracle.boxes[made.name] = self.oracle.boxes[name].copy()
        mine = old.claim is not None and old.claim[0] == "size" and old.claim[3] == (name,)
        claim = (*old.claim[:3], (made.name,)) if mine and old.claim is not None else None
        self.oracle.owners[made.name] = Owner(old.factors.copy(), old.shrink.copy(), claim, old.absolute)
        self.oracle.clear[made.name] = self.oracle.clear.get(name, np.zeros(3)).copy()
        for kept in (self.oracle.holes, self.oracle.let_be):
            if name in kept:
                kept.add(made.name)

    @precondition(lambda self: len(self.oracle.boxes) > len(self.mm))
    @rule()
    def delete(self) -> None:
        """Take the last copy away."""
        name = list(self.oracle.boxes)[-1]
        self._do(Delete(bodies=(self._body(name).id,)))
        self.oracle.boxes.pop(name)
        self.oracle.owners.pop(name)
        self.oracle.clear.pop(name, None)
        self.oracle.cuts.pop(name, None)  # what was made of it goes with it
        self.oracle.holes.discard(name)
        self.oracle.let_be.discard(name)
        for axis in range(3):
            self.oracle.measured.pop((name, axis), None)

    # What goes together

    @precondition(lambda self: self.oracle.unit and len(self.mm) > 1 and not self.oracle.paired)
    @rule()
    def pair_up(self) -> None:
        """Keep the gap between the two boxes as a pair."""
        names = set(list(self.oracle.boxes)[:2])
        mine = [offer for offer in self.door.offered() if set(offer.names) == names]
        if mine and not self.oracle.cuts:
            told = mine[0].model_dump(include={"kind", "a", "b", "a_feature", "b_feature"})
            self._do(PairUp(intent="apart", **told))
            self.oracle.paired = True

    def _look_at_pairs(self) -> None:
        """A gap is as wide as the numbers of the file, the factor and what makes up for shrinkage say."""
        one, other = list(self.oracle.boxes)[:2] if len(self.mm) > 1 else ("", "")
        pairs = self.door.pairs()
        assert len(pairs) == int(self.oracle.paired)
        if not self.oracle.paired or self.oracle.unit is None or self.oracle.cuts:
            return
        if self.oracle.owner(one) is not self.oracle.owner(other):
            return
        if any(self.oracle.clear.get(name, np.zeros(3)).any() for name in (one, other)):
            return
        numbers = [self.oracle.boxes[name][:, 0] for name in (one, other)]
        owner = self.oracle.owner(one)
        drawn = (
            abs(max(numbers[1][0], numbers[0][0]) - min(numbers[0][1], numbers[1][1])) * PER[self.oracle.unit]
        )
        wanted = drawn * owner.factors[0] / (1 - owner.shrink[0])
        (pair,) = pairs
        assert pair.states, pair.says
        found = pair.states[0].clearance_mm, pair.states[-1].clearance_mm
        # The numbers of a file are float32, wherever the part lies in it.
        rough = 8 * float(np.spacing(np.float32(np.abs(numbers).max()))) * PER[self.oracle.unit]
        np.testing.assert_allclose(found[0], drawn, rtol=1e-5, atol=rough)
        np.testing.assert_allclose(found[1], wanted, rtol=1e-5, atol=rough * owner.factors[0])

    def _look_at_parts(self) -> None:
        """What was measured stays with its body, and is to be what is released less its shrinkage."""
        if self.oracle.unit is None:
            return
        rows = {(row.body, "xyz".index(row.axis or "x")): row for row in self.door.inspected().rows
                if row.target.kind == "size"}  # fmt: skip
        for name in self.oracle.boxes:
            if name in self.oracle.cuts:
                continue
            for axis in range(3):
                row = rows[name, axis]
                np.testing.assert_allclose(row.aim_mm, self.oracle.aimed(name, axis), rtol=1e-5)
                known = self.oracle.measured.get((name, axis), [])
                assert [value.mm for value in row.values] == known

    # What the file is

    @precondition(lambda self: self.oracle.unit and not self.oracle.cuts)
    @rule(unit=UNITS)
    def settle(self, unit: str) -> None:
        """Say another unit: a typed size stays, a factor stays a factor."""
        if not self._does(SettleUnit(source=self.door.job.sources[0].id, unit=Unit(unit))):
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
        self.door.revise("part-b.stl", stl_of(list(numbers.values())))
        self._keep(1 if unit == was else 2)
        found = self.door.job.sources[0].unit
        assert found == (was if unit == was else None), (
            f"{was} came again in {unit}, and was taken for {found}"
        )
        names = {body.name for body in self.door.job.bodies if body.division is None}
        assert names == set(numbers), f"{set(numbers)} became {names}"
        self.oracle.boxes, self.oracle.unit = numbers, found
        for owner in self.oracle.owners.values():
            owner.accepted = None  # it was of other bodies
        if unit != was:
            self._must_be_refused()
            self.door.do(SettleUnit(source=self.door.job.sources[0].id, unit=Unit(unit)))
        self.oracle.unit = unit
        self.oracle.holes, self.oracle.let_be = set(), set()
        self.oracle.meet()

    # What is made of it

    @precondition(lambda self: self.oracle.unit and not self.oracle.cuts and not self.oracle.alone)
    @rule(which=st.integers(0, 9), share=st.sampled_from([0.3, 0.5, 0.8]), colours=st.booleans())
    def divide(self, which: int, share: float, colours: bool) -> None:
        """Cut a body at a height: into pieces, or into bodies of two colours."""
        name = self._name(which)
        if name in self.oracle.holes:
            return
        if self.oracle.clear.get(name, np.zeros(3)).any() or self._body(name).id.startswith("d"):
            return
        owner = self.oracle.owner(name)
        low, high = self.oracle.boxes[name][:, 2] * PER[self.oracle.unit or "mm"] * owner.factors[2]
        at = round(low + share * (high - low), 2)
        if not low + 0.3 < at < high - 0.3 or high > 5000:
            return
        asked = AskAbove(at=f"{at}") if colours else AskPieces(planes=(f"z={at}",))
        self.door.shape(asked, self._body(name).id)
        self._keep()
        self.oracle.cuts[name] = at

    @precondition(lambda self: self.oracle.cuts)
    @rule()
    def put_together(self) -> None:
        """Take a division back."""
        self._do(Undivide(division=self.door.job.divisions[0].id))
        self.oracle.cuts.clear()

    @precondition(lambda self: self.oracle.unit)
    @rule(which=st.integers(0, 9), axis=AXIS, copies=st.integers(1, 3))
    def seat(self, which: int, axis: int, copies: int) -> None:
        """Turn and copy: no size in the file's own place comes of it."""
        body = self._body(self._name(which))
        if division_of(self.door.job, body) is not None:
            return
        self._do(
            TurnSeat(body=body.id, axis="xyz"[axis], typed="90"), SetCopies(body=body.id, typed=f"{copies}")
        )

    # Back and forth

    @rule()
    def undo(self) -> None:
        """Take the last step back."""
        if self.past:
            steps, before = self.past.pop()
            self.door.back(steps)
            self.next.append((steps, self.oracle))
            self.oracle = before

    @rule()
    def redo(self) -> None:
        """Do it again."""
        if self.next:
            steps, after = self.next.pop()
            self.door.forth(steps)
            self.past.append((steps, self.oracle))
            self.oracle = after

    @rule()
    def carry(self) -> None:
        """Go on elsewhere."""
        self.door.carry()
        self.past.clear()
        self.next.clear()

    @precondition(lambda self: self.let_go)
    @rule(which=st.integers(0, 9))
    def back_to_a_release(self, which: int) -> None:
        """Bring back everything as it was released."""
        number = which % len(self.let_go)
        self.door.back_to(number)
        self._keep()
        self.oracle = copy.deepcopy(self.let_go[number])

    @rule(unit=st.sampled_from([Unit.MM, Unit.IN]))
    def let_out(self, unit: Unit) -> None:
        """Release, and measure every file by a reader of our own."""
        if not self._made_again():
            return None
        self._look_at_pairs()
        self._look_at_parts()
        if self.oracle.must_refuse():
            return self._must_be_refused()
        order = Order(format="stl", place="own", shape="each", unit=unit)
        files = self.door.let_out(order)
        self.let_go.append(copy.deepcopy(self.oracle))
        assert sorted(map(open_edges_in, files)) == self.oracle.open_edges()
        found = sorted(tuple(PER[unit.value] * side for side in extents_in(data)) for data in files)
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
        for body in self.door.job.bodies if hasattr(self, "door") else ():
            said = self.door.job.correction_of(body).set_by
            if self.door.job.correction_of(body).readings and body.name in self.oracle.boxes:
                assert bool(self.oracle.missed(self.oracle.owner(body.name))) == said.endswith("missed"), said

    def _must_be_refused(self) -> None:
        told = "nothing"
        try:
            self.door.let_out(Order(format="stl", place="own", shape="each"))
        except AimTrueError as error:
            told = error.code
        assert told in ("unit-unsettled", "stop-open"), f"a release that must be refused was told {told}"

    def _made_again(self) -> bool:
        """Make again what is stale; where that cannot be, the division is taken back."""
        try:
            self.door.settle_down()
        except AimTrueError:
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
        return next(body for body in self.door.job.bodies if body.name == name)

    def _keep(self, steps: int = 1) -> None:
        """Note that the door went some steps, which are one of ours."""
        if hasattr(self, "oracle"):
            self.past.append((steps, copy.deepcopy(self.oracle)))
            self.next.clear()

    def _do(self, *actions: Any) -> None:
        self.door.do(*actions)
        self._keep(len(actions))

    def _does(self, action: Any) -> bool:
        """Do it, unless what was typed would take a factor of over a million: that is refused."""
        try:
            self._do(action)
        except AimTrueError as error:
            if error.code != "factor-absurd":
                raise
            return False
        return True
