"""Random walks through the actions: what must hold wherever a user wanders."""

from __future__ import annotations

import io
import math

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from aimtrue.core.actions import ACTION, UserAction, apply
from aimtrue.core.errors import Refused
from aimtrue.core.gauges.construction import PickedSpot
from aimtrue.core.intake.actions import (
    BringHome,
    Delete,
    Duplicate,
    LeaveKit,
    MakeKit,
    Paint,
    Rename,
    RenameAll,
    SettleUnit,
    SetUp,
)
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.ownership import subject_of
from aimtrue.core.model.readings import Anchor
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.seating.actions import (
    MarkShowing,
    MirrorSeat,
    MoveSeat,
    ResetSeat,
    SetCopies,
    StandApart,
    TurnSeat,
)
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import (
    AddReading,
    AdjustReading,
    CorrectAlone,
    FitMachine,
    FreeAxis,
    HoldAxis,
    KeepAsDrawn,
    KeepBores,
    NameReading,
    RelaxReading,
    RemoveReading,
    ResetCorrection,
    SetAllowance,
    SetFactor,
    SetReading,
    SizeAxis,
    SizeLongest,
    SolveReadings,
    TakeProposal,
)
from aimtrue.core.truing.together import SetTogether
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

B = "s1-1"
AXIS = st.sampled_from(("x", "y", "z"))
LENGTH = st.one_of(
    st.floats(0.5, 900).map(lambda mm: f"{mm:.4g}"),
    st.sampled_from(["6 3/4 in", "2 ft 5", "17.15cm", "98 %", "x1.5", "", "0", "-3", "wide", "1,500"]),
)
FACTOR = st.sampled_from(["0.98", "150 %", "x2", "3/4", "0", "much"])
ANGLE = st.sampled_from(["90", "-90", "180", "12.5", "-37", "0", "north"])
ANCHOR = st.builds(
    lambda face, u, v: Anchor(face=face, weights=(1 - u, u * (1 - v), u * v)),
    st.integers(0, 12),
    st.floats(0, 1),
    st.floats(0, 1),
)
BANDED = st.one_of(
    LENGTH, st.sampled_from(["30 ±0.4", "20..25", "at least 40", "<= 35", "30.1; 30.2; 30.15", "9 +0.1 -0.2"])
)
READING = st.sampled_from(["r1", "r2", "r3"])

ACTIONS: st.SearchStrategy[UserAction] = st.one_of(
    st.builds(SettleUnit, source=st.just("s1"), unit=st.sampled_from(list(Unit))),
    st.builds(SetUp, source=st.just("s1"), up=st.sampled_from(["z", "y"])),
    st.builds(SettleUnit, source=st.none(), unit=st.sampled_from(list(Unit)), remember=st.booleans()),
    st.builds(SetUp, source=st.sampled_from([None, "s1", "s9"]), up=st.sampled_from(["x", "y", "z"])),
    st.builds(BringHome, source=st.just("s1"), home=st.booleans()),
    st.builds(Paint, bodies=st.just((B,)), colour=st.sampled_from([None, "#aabbcc"])),
    st.builds(Duplicate, bodies=st.sampled_from([(B,), ("d1",)])),
    st.builds(MakeKit, bodies=st.sampled_from([(B, "d1"), (B, "d2", "d1"), (B, B)]), name=st.text()),
    st.builds(LeaveKit, bodies=st.sampled_from([(B,), ("d1",)])),
    st.builds(Delete, bodies=st.sampled_from([("d1",), ("d2",)])),
    st.builds(Rename, body=st.just(B), name=st.text(max_size=6)),
    st.builds(SizeAxis, body=st.just(B), axis=AXIS, typed=LENGTH),
    st.builds(SetFactor, body=st.just(B), axis=st.one_of(st.none(), AXIS), typed=FACTOR),
    st.builds(FreeAxis, body=st.just(B), axis=AXIS, free=st.booleans()),
    st.builds(ResetCorrection, body=st.just(B)),
    st.builds(HoldAxis, body=st.just(B), axis=AXIS, held=st.booleans()),
    st.builds(FitMachine, body=st.just(B)),
    st.builds(SizeLongest, body=st.just(B), typed=LENGTH),
    st.builds(
        AddReading,
        body=st.just(B),
        kind=st.sampled_from(["points", "faces", "extent", "wall", "angle", "diameter", "perimeter"]),
        spots=st.lists(st.builds(PickedSpot, anchor=ANCHOR), max_size=2).map(tuple),
        axis=st.one_of(st.none(), AXIS),
        kit=st.booleans(),
        typed=st.one_of(st.just(""), BANDED),
    ),
    st.builds(SetReading, reading=READING, typed=BANDED, sure=st.booleans()),
    st.builds(
        AdjustReading,
        reading=READING,
        role=st.sampled_from(["drive", "check", "ignore"]),
        means=st.sampled_from([None, "tape", "caliper"]),
        clearance=st.sampled_from([None, "0.3", "-0.2", "wide"]),
    ),
    st.builds(RelaxReading, reading=READING, limit_mm=st.floats(1, 100)),
    st.builds(SolveReadings, body=st.just(B)),
    st.builds(TakeProposal, body=st.just(B), key=st.sampled_from(["uniform", "per-axis", "stretch-x"])),
    st.builds(KeepAsDrawn, bodies=st.just((B,)), on=st.booleans()),
    st.builds(CorrectAlone, body=st.sampled_from([B, "d1"]), on=st.booleans()),
    st.builds(KeepBores, bodies=st.just((B,)), on=st.booleans()),
    st.builds(
        SetAllowance,
        body=st.just(B),
        shrinkage=st.sampled_from([None, ("0.4", "0.4 %", "0.2"), ("30", "0", "0")]),
        clearance=st.sampled_from([None, ("0.2", "-0.1", "0")]),
    ),
    st.builds(
        SetTogether,
        bodies=st.sampled_from([(B,), (B, "d1"), ("d2", "d1"), ("d1", "d1")]),
        factor=st.one_of(st.just(""), FACTOR),
        shrinkage=st.sampled_from(["", "0.4 %", "30"]),
        clearance=st.sampled_from(["", "0.2", "-900", "wide"]),
    ),
    st.builds(
        RenameAll,
        bodies=st.sampled_from([(B,), (B, "d1")]),
        pattern=st.sampled_from(["a", "{n}", "{name}", ""]),
    ),
    st.builds(NameReading, reading=READING, name=st.text(max_size=6)),
    st.builds(RemoveReading, reading=READING),
    st.builds(TurnSeat, body=st.just(B), axis=AXIS, typed=ANGLE),
    st.builds(ResetSeat, body=st.just(B)),
    st.builds(StandApart, apart=st.booleans()),
    st.builds(SetCopies, body=st.sampled_from([B, "d1"]), typed=st.sampled_from(["1", "3"])),
    st.builds(MirrorSeat, body=st.sampled_from([B, "d1"])),
    st.builds(MoveSeat, body=st.just(B), x=st.just("40"), lift=st.sampled_from(["", "2"])),
    st.builds(MarkShowing, body=st.sampled_from([B, "d1"]), face=st.integers(0, 14)),
)


@pytest.fixture(scope="module")
def start() -> Bench:
    return bench_of("part.stl", binary_stl(corners_of(box(20, 30, 50, at=(-7, 11, 3)))))


@settings(max_examples=150, deadline=None)
@given(actions=st.lists(ACTIONS, max_size=14))
def test_wherever_one_wanders(start: Bench, actions: list[UserAction]) -> None:
    job = start.job
    for action in actions:
        before = job.model_dump_json()
        try:
            after = apply(job, action, start)
        except Refused:
            after = job
        assert job.model_dump_json() == before, "an action changed a job in place"
        job = after
        assert action.words()
        assert ACTION.validate_json(ACTION.dump_json(action)) == action
        assert Job.model_validate_json(job.model_dump_json()) == job
        _facts_hold(job, start)


def _facts_hold(job: Job, store: Bench) -> None:
    facts = survey(job, store)
    body = facts.bodies[0]
    if job.sources[0].unit is None:
        assert body.chain is None
        assert not facts.releasable
        assert not job.readings
        return
    assert body.chain is not None
    assert body.room is not None
    chain = body.chain
    for number, factor, size in zip(chain.number, chain.factor, chain.size_mm, strict=True):
        assert number * chain.mm_per_unit * factor == size
        assert math.isfinite(size)
        assert size > 0
    missed = {finding.says.split(" of ")[0] for finding in facts.findings if finding.code == "reading-missed"}
    for reading in body.readings:
        role = job.reading(reading.id).role
        if reading.drives and role == "drive" and reading.off_mm is not None:
            assert reading.met or job.reading(reading.id).name in missed
    for seat in facts.seats:
        if seat.room:
            assert seat.room.low[2] == pytest.approx(seat.lift_mm, abs=1e-6 * max(body.chain.size_mm))
    inside = all(seat.room.inside for seat in facts.seats if seat.room)
    assert inside == (not any(finding.code == "outside-machine" for finding in facts.findings))
    for kit in facts.kits:
        assert len({job.correction_of(job.body(key)) for key in kit.bodies if not job.body(key).alone}) <= 1
        subjects = {subject_of(job, job.body(key)) for key in kit.bodies}
        assert subjects == (set(kit.bodies) if job.kit(kit.id).free else {kit.id})
    assert len({body.name for body in job.bodies}) == len(job.bodies)


@settings(max_examples=40, deadline=None)
@given(actions=st.lists(ACTIONS, max_size=10), kind=st.sampled_from(["3mf", "stl"]))
def test_what_can_be_released_is_as_large_as_the_sheets_say(
    start: Bench, actions: list[UserAction], kind: str
) -> None:
    job = apply(start.job, SettleUnit(source="s1", unit=Unit.MM), start)
    for action in actions:
        try:
            job = apply(job, action, start)
        except Refused:
            continue
    facts = survey(job, start)
    if not facts.releasable:
        return
    release(job, start, Order(format=kind))
    made = release(job, start, Order(format=kind, shape="each", place="own"))
    for file, body in zip(made.files, facts.bodies, strict=True):
        assert body.chain is not None
        read = trimesh.load(io.BytesIO(file.data), file_type=kind, force="mesh")
        spacing = float(np.spacing(np.float32(abs(read.bounds).max())))
        assert read.extents == pytest.approx(body.chain.released_mm, abs=2 * spacing, rel=1e-9)
