"""What is kept of earlier work: the same where nothing changed, and never what was before."""

from __future__ import annotations

import contextlib

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aimtrue.core.chain.transforms import true_points
from aimtrue.core.errors import Refused
from aimtrue.core.formats import threemf
from aimtrue.core.intake.actions import LeaveKit, Paint, Rename, SetUp
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.memo import Memo, RecentValues, forget_unused
from aimtrue.core.seating.actions import TurnSeat
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import CorrectAlone, KeepBores, SetAllowance, SetFactor, SetLeastWall
from aimtrue.core.truing.effects.changes import change_findings
from aimtrue.core.truing.effects.drawn_features import drawn_of
from aimtrue.core.truing.effects.gaps import gaps_of, near_pairs
from benchmarks.actions import bored_plate
from tests.shapes import Bench, bench_of


def plates(count: int = 4, gap: float = 0.4) -> Bench:
    """Plates with bores side by side, one kit."""
    items = []
    for number in range(count):
        plate = bored_plate(40 + number, 9.0, bores=3)
        moved = plate.mapped(lambda v, y=number * (9.0 + gap): v + np.array([0.0, y, 0.0]))  # type: ignore[misc]
        items.append(threemf.BuildObject(f"plate {number}", moved))
    return bench_of("plates.3mf", threemf.write(items, Unit.MM, "", ""))


def afresh(job: Job) -> Job:
    """The same job, and none of its parts the object that it was."""
    return Job.model_validate_json(job.model_dump_json())


def test_a_result_is_worked_out_once_for_the_same_things_and_again_for_others() -> None:
    memo: Memo[list[int]] = Memo(2)
    one, other = object(), object()
    first = memo.get((one,), (1,), lambda: [1])
    assert memo.get((one,), (1,), lambda: [2]) is first
    assert memo.get((other,), (1,), lambda: [3]) == [3]
    assert memo.get((one,), (2,), lambda: [4]) == [4]
    assert memo.get((one,), (1,), lambda: [5]) == [5], "the oldest goes"


def test_what_an_action_leaves_alone_is_the_very_same_afterwards() -> None:
    bench = plates().do(SetFactor(body="s1-1", typed="1.02"))
    before = survey(bench.job, bench)
    bench.do(Rename(body="s1-2", name="lid"))
    after = survey(bench.job, bench)
    assert [a is b for a, b in zip(before.bodies, after.bodies, strict=True)] == [True, False, True, True]


_ACTIONS = st.sampled_from(
    [
        SetFactor(body="s1-1", typed="1.02"),
        SetFactor(body="s1-1", axis="x", typed="0.9"),
        Rename(body="s1-2", name="lid"),
        Paint(bodies=("s1-3",), colour="#aa3322"),
        CorrectAlone(body="s1-2"),
        SetFactor(body="s1-2", typed="1.1"),
        LeaveKit(bodies=("s1-4",)),
        KeepBores(bodies=("s1-1", "s1-2")),
        SetAllowance(body="s1-1", shrinkage=("0.4", "0.4", "0.3"), clearance=("0.2", "0", "0")),
        TurnSeat(body="s1-1", axis="x", typed="90"),
        TurnSeat(body="s1-1", axis="z", typed="12.5"),
        SetUp(source="s1", up="y"),
        SetLeastWall(typed="3"),
    ]
)


@settings(max_examples=40, deadline=None)
@given(st.lists(_ACTIONS, min_size=1, max_size=6))
def test_what_is_shown_does_not_depend_on_what_was_shown_before(actions: list[object]) -> None:
    bench = plates()
    for action in actions:
        with contextlib.suppress(Refused):  # what cannot be done changes nothing, and that is looked at
            bench.do(action)  # type: ignore[arg-type]
        assert survey(bench.job, bench) == survey(afresh(bench.job), bench)


def test_pairs_that_are_near_are_all_found() -> None:
    bench = plates(12, gap=3.9)
    drawn = tuple(drawn_of(bench.job, body, bench) for body in bench.job.bodies)
    reach = [float(one.flats.sizes.max()) + 4.0 for one in drawn]
    brute = [
        (i, j)
        for i, a in enumerate(drawn)
        for j, b in enumerate(drawn)
        if i < j
        and (a.low - reach[i] <= b.high + reach[j]).all()
        and (b.low - reach[j] <= a.high + reach[i]).all()
    ]
    assert [tuple(pair) for pair in near_pairs(drawn).tolist()] == brute
    gaps = gaps_of(drawn)
    assert {(a, a + 1) for a in range(11)} <= {tuple(pair) for pair in gaps.pairs.tolist()}


@pytest.mark.parametrize("factor", ["1.5", "0.5"])
def test_a_gap_is_told_as_the_corrected_bodies_have_it(factor: str) -> None:
    bench = plates(2).do(SetFactor(body="s1-1", axis="y", typed=factor))
    bodies = bench.job.bodies
    ends = [true_points(bench.job, body, bench.mesh(body.geometry).vertices) for body in bodies]
    gap = float(ends[1][:, 1].min() - ends[0][:, 1].max())
    [found] = [finding for finding in change_findings(bench.job, bench) if finding.code == "gap"]
    assert f"to {gap:.3g} (was 0.4)" in found.says
    assert np.isclose(gap, 0.4 * float(factor))


def test_what_nobody_asks_for_is_let_go_and_worked_out_again(monkeypatch: pytest.MonkeyPatch) -> None:
    now = [100.0]
    monkeypatch.setattr("aimtrue.core.model.memo.monotonic", lambda: now[0])
    memo: Memo[int] = Memo(8)
    thing, other, made = object(), object(), []

    def ask(one: object) -> int:
        return memo.get((one,), (), lambda: made.append(one) or len(made))  # type: ignore[func-returns-value]

    assert (ask(thing), ask(other)) == (1, 2)
    now[0] = 150
    assert ask(thing) == 1
    forget_unused(30)
    assert ask(thing) == 1  # it was asked for meanwhile
    assert ask(other) == 3


def test_the_last_values_stay_and_of_these_what_is_asked_for(monkeypatch: pytest.MonkeyPatch) -> None:
    now = [100.0]
    monkeypatch.setattr("aimtrue.core.model.memo.monotonic", lambda: now[0])
    values: RecentValues[str, int] = RecentValues(2)
    for number, key in enumerate("abc"):
        values.keep(key, number)
    assert [values.get(key) for key in "abc"] == [None, 1, 2]
    now[0] = 150
    assert values.get("b") == 1
    forget_unused(30)
    assert [values.get(key) for key in "bc"] == [1, None]
    values.keep("d", 3)
    assert values.get("b") == 1
    values.keep("e", 4)  # d was not asked for since it came
    assert [values.get(key) for key in "bde"] == [1, None, 4]
