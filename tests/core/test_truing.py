"""Sizes, factors, readings, and what they do to a job."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aimtrue.core.chain.sizes import true_sizes
from aimtrue.core.errors import Refused, UnitUnsettled
from aimtrue.core.gauges.construction import PickedSpot
from aimtrue.core.intake.actions import Accept, Rename, SettleUnit, SetUp
from aimtrue.core.model.lengths import MM_PER, Unit
from aimtrue.core.model.readings import Anchor
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import (
    AddReading,
    FreeAxis,
    HoldAxis,
    NameReading,
    RemoveReading,
    ResetCorrection,
    SetAllowance,
    SetFactor,
    SetReading,
    SizeAxis,
)
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

B = "s1-1"


def fresh(unit: Unit | None = Unit.MM, size: tuple[float, float, float] = (2, 3, 5)) -> Bench:
    bench = bench_of("part.stl", binary_stl(corners_of(box(*size))))
    return bench.do(SettleUnit(source="s1", unit=unit)) if unit else bench


def sizes(bench: Bench) -> list[float]:
    return list(true_sizes(bench.job, bench.job.bodies[0]))


def corner(bench: Bench, x: float, y: float, z: float) -> Anchor:
    """The anchor of the vertex at a place of the file."""
    mesh = bench.mesh(bench.job.bodies[0].geometry)
    vertex = int(np.flatnonzero((mesh.vertices == [x, y, z]).all(axis=1))[0])
    face, place = np.argwhere(mesh.faces == vertex)[0].tolist()
    weights = [0.0, 0.0, 0.0]
    weights[place] = 1.0
    return Anchor(face=face, weights=tuple(weights), on="vertex")


def span(
    bench: Bench, a: tuple[float, float, float], b: tuple[float, float, float]
) -> tuple[PickedSpot, PickedSpot]:
    """Two vertices to measure between."""
    return PickedSpot(anchor=corner(bench, *a)), PickedSpot(anchor=corner(bench, *b))


def test_nothing_is_sized_while_the_unit_is_open() -> None:
    bench = fresh(None)
    for action in (
        SizeAxis(body=B, axis="x", typed="3"),
        SetFactor(body=B, typed="2"),
        FreeAxis(body=B, axis="x", free=True),
        AddReading(
            body=B,
            spots=(PickedSpot(anchor=corner(bench, 0, 0, 0)), PickedSpot(anchor=corner(bench, 2, 0, 0))),
        ),
    ):
        with pytest.raises(UnitUnsettled):
            bench.do(action)
    facts = survey(bench.job, bench)
    assert not facts.releasable
    assert facts.bodies[0].chain is None
    assert [finding.code for finding in facts.findings] == ["unit-unsettled"]


def test_a_size_typed_for_one_axis_takes_the_others_along() -> None:
    bench = fresh(Unit.IN).do(SizeAxis(body=B, axis="x", typed="171.5"))
    assert sizes(bench) == pytest.approx([171.5, 171.5 * 1.5, 171.5 * 2.5])


def test_a_freed_axis_neither_follows_nor_leads() -> None:
    bench = fresh().do(FreeAxis(body=B, axis="z", free=True), SizeAxis(body=B, axis="x", typed="4"))
    assert sizes(bench) == pytest.approx([4, 6, 5])
    assert sizes(bench.do(SizeAxis(body=B, axis="z", typed="7"))) == pytest.approx([4, 6, 7])
    assert survey(bench.job, bench).bodies[0].oval


def test_a_size_may_be_typed_as_a_factor() -> None:
    assert sizes(fresh().do(SizeAxis(body=B, axis="y", typed="200 %"))) == pytest.approx([4, 6, 10])
    assert sizes(fresh().do(SizeAxis(body=B, axis="y", typed="x0.5"))) == pytest.approx([1, 1.5, 2.5])


def test_a_common_factor_leaves_freed_axes_alone() -> None:
    bench = fresh().do(FreeAxis(body=B, axis="x", free=True), SetFactor(body=B, typed="3"))
    assert sizes(bench) == pytest.approx([2, 9, 15])
    for axis in ("y", "z"):
        bench.do(FreeAxis(body=B, axis=axis, free=True))
    with pytest.raises(Refused):
        bench.do(SetFactor(body=B, typed="3"))


def test_back_to_the_size_in_the_file() -> None:
    assert sizes(fresh().do(SetFactor(body=B, typed="3"), ResetCorrection(body=B))) == [2, 3, 5]


def test_a_reading_brings_its_gauge_to_the_real_length() -> None:
    bench = fresh(Unit.CM)
    bench.do(
        AddReading(
            body=B,
            spots=(PickedSpot(anchor=corner(bench, 0, 0, 0)), PickedSpot(anchor=corner(bench, 2, 3, 0))),
            typed="6 3/4 in",
        )
    )
    now = survey(bench.job, bench).bodies[0].readings[0]
    assert now.model_mm == pytest.approx(171.45, abs=1e-10)
    assert now.drives
    assert sizes(bench)[2] / sizes(bench)[0] == pytest.approx(2.5)


def test_two_readings_are_met_together_when_one_factor_can() -> None:
    bench = fresh()
    bench.do(AddReading(body=B, spots=span(bench, (0, 0, 0), (2, 0, 0)), typed="4 ±0.3"))
    bench.do(AddReading(body=B, spots=span(bench, (0, 0, 0), (0, 3, 0)), typed="6.3"))
    first, second = survey(bench.job, bench).bodies[0].readings
    assert [first.met, first.drives, second.met, second.drives] == [True] * 4
    # The finer reading pulls harder: its deviation weighs (0.3 / 0.05) squared times as much.
    assert abs(second.off_mm or 0) < abs(first.off_mm or 0)


def test_a_reading_may_be_looked_at_before_it_is_told() -> None:
    bench = fresh()
    bench.do(
        AddReading(
            body=B,
            spots=(PickedSpot(anchor=corner(bench, 0, 0, 0)), PickedSpot(anchor=corner(bench, 2, 0, 0))),
        )
    )
    assert survey(bench.job, bench).bodies[0].readings[0].off_mm is None
    bench.do(SetReading(reading="r1", typed="17.15cm"), NameReading(reading="r1", name=" across  flats "))
    assert sizes(bench)[0] == pytest.approx(171.5)
    assert bench.job.readings[0].name == "across flats"


def test_equal_points_are_refused() -> None:
    bench = fresh()
    with pytest.raises(Refused) as told:
        bench.do(
            AddReading(
                body=B,
                spots=(PickedSpot(anchor=corner(bench, 0, 0, 0)), PickedSpot(anchor=corner(bench, 0, 0, 0))),
            )
        )
    assert told.value.code == "gauge-no-length"


@pytest.mark.parametrize("anchor", [Anchor(face=12, weights=(1, 0, 0)), Anchor(face=0, weights=(2, -1, 0))])
def test_places_off_the_body_are_refused(anchor: Anchor) -> None:
    bench = fresh()
    with pytest.raises(Refused):
        bench.do(
            AddReading(body=B, spots=(PickedSpot(anchor=anchor), PickedSpot(anchor=corner(bench, 0, 0, 0))))
        )


@pytest.mark.parametrize("typed", ["", "0", "-2", "long", "101 m"])
def test_a_refused_length_leaves_the_old_one(typed: str) -> None:
    bench = fresh().do(SizeAxis(body=B, axis="x", typed="4"))
    before = bench.job
    with pytest.raises(Refused):
        bench.do(SizeAxis(body=B, axis="x", typed=typed))
    assert bench.job == before


def test_a_reading_along_a_freed_axis_changes_that_axis_alone() -> None:
    bench = fresh().do(FreeAxis(body=B, axis="x", free=True))
    bench.do(AddReading(body=B, spots=span(bench, (0, 0, 0), (2, 0, 0)), typed="9"))
    assert sizes(bench) == pytest.approx([9, 3, 5])


def test_a_held_axis_keeps_its_factor() -> None:
    bench = fresh().do(HoldAxis(body=B, axis="x", held=True))
    bench.do(AddReading(body=B, spots=span(bench, (0, 0, 0), (2, 3, 0)), typed="5"))
    assert sizes(bench)[0] == 2
    assert math.hypot(sizes(bench)[0], sizes(bench)[1]) == pytest.approx(5, rel=1e-12)
    assert sizes(bench)[2] / 5 == pytest.approx(sizes(bench)[1] / 3)


@settings(max_examples=40, deadline=None)
@given(st.sampled_from(list(Unit)), st.floats(1, 400), st.sampled_from(["x", "y", "z"]))
def test_a_typed_size_is_met_to_the_last_digits(unit: Unit, target: float, axis: str) -> None:
    bench = fresh(unit).do(SizeAxis(body=B, axis=axis, typed=repr(target)))
    assert sizes(bench)["xyz".index(axis)] == pytest.approx(target, rel=1e-15)


def test_y_up_is_turned_to_z_up() -> None:
    bench = fresh().do(SetUp(source="s1", up="y"))
    assert sizes(bench) == [2, 5, 3]
    assert sizes(bench.do(SetUp(source="s1", up="z"))) == [2, 3, 5]


def test_changing_the_unit_keeps_the_correction() -> None:
    bench = fresh(Unit.MM).do(SetFactor(body=B, typed="2"), SettleUnit(source="s1", unit=Unit.IN))
    assert sizes(bench) == pytest.approx([4 * 25.4, 6 * 25.4, 10 * 25.4])
    chain = survey(bench.job, bench).bodies[0].chain
    assert chain.number[0] * MM_PER[Unit.IN] * chain.factor[0] == chain.size_mm[0]


def test_the_chain_says_what_linked_axes_share_and_whether_anything_is_allowed() -> None:
    bench = fresh().do(SetFactor(body=B, typed="2"))
    chain = survey(bench.job, bench).bodies[0].chain
    assert (chain.common, chain.allowed) == (2.0, False)
    bench.do(FreeAxis(body=B, axis="x", free=True), SetFactor(body=B, axis="x", typed="3"))
    assert survey(bench.job, bench).bodies[0].chain.common == 2.0
    bench.do(*(FreeAxis(body=B, axis=axis, free=True) for axis in "yz"))
    assert survey(bench.job, bench).bodies[0].chain.common is None
    bench.do(SetAllowance(body=B, clearance=("0.1", None, None)))
    assert survey(bench.job, bench).bodies[0].chain.allowed


def test_a_real_size_stays_when_the_unit_was_wrong() -> None:
    bench = fresh(Unit.MM).do(SizeAxis(body=B, axis="x", typed="50.8"), SettleUnit(source="s1", unit=Unit.IN))
    assert sizes(bench) == pytest.approx([50.8, 76.2, 127.0])
    assert bench.job.correction_of(bench.job.bodies[0]).factors == pytest.approx((1, 1, 1))


def test_a_reading_still_drives_when_the_unit_was_wrong() -> None:
    bench = fresh(Unit.MM)
    bench.do(
        AddReading(
            body=B,
            spots=(PickedSpot(anchor=corner(bench, 0, 0, 0)), PickedSpot(anchor=corner(bench, 2, 0, 0))),
            typed="171.5",
        )
    )
    bench.do(SettleUnit(source="s1", unit=Unit.M))
    (reading,) = survey(bench.job, bench).bodies[0].readings
    assert reading.drives
    assert reading.model_mm == pytest.approx(171.5)


def test_a_factor_stays_with_its_side_when_up_is_changed() -> None:
    bench = fresh().do(FreeAxis(body=B, axis="z", free=True), SizeAxis(body=B, axis="z", typed="50"))
    assert sizes(bench) == pytest.approx([2, 3, 50])
    bench.do(SetUp(source="s1", up="y"))
    assert sizes(bench) == pytest.approx([2, 50, 3])
    assert bench.job.correction_of(bench.job.bodies[0]).free == (False, True, False)
    assert sizes(bench.do(SetUp(source="s1", up="z"))) == pytest.approx([2, 3, 50])


def test_removing_the_reading_that_drives_keeps_the_size() -> None:
    bench = fresh()
    bench.do(
        AddReading(
            body=B,
            spots=(PickedSpot(anchor=corner(bench, 0, 0, 0)), PickedSpot(anchor=corner(bench, 2, 0, 0))),
            typed="4",
        )
    )
    bench.do(RemoveReading(reading="r1"))
    assert sizes(bench)[0] == pytest.approx(4)
    assert bench.job.correction_of(bench.job.bodies[0]).readings == ()
    bench.do(
        AddReading(
            body=B,
            spots=(PickedSpot(anchor=corner(bench, 0, 0, 0)), PickedSpot(anchor=corner(bench, 2, 0, 0))),
        )
    )
    assert bench.job.readings[0].id == "r2"


def test_names_are_kept_tidy() -> None:
    bench = fresh().do(Rename(body=B, name="  big   box "))
    assert bench.job.bodies[0].name == "big box"
    for name in ("", "  ", "x" * 81):
        with pytest.raises(Refused):
            bench.do(Rename(body=B, name=name))


def test_unknown_things_are_refused() -> None:
    for action in (
        SettleUnit(source="s9", unit=Unit.MM),
        Rename(body="b9", name="x"),
        RemoveReading(reading="r9"),
    ):
        with pytest.raises(Refused):
            fresh().do(action)
    with pytest.raises(Refused):
        fresh().do(Accept(body=B, code="unit-unsettled"))


def test_every_action_is_described() -> None:
    assert SizeAxis(body=B, axis="x", typed="171.5").words() == "size X 171.5"
    assert SettleUnit(source="s1", unit=Unit.IN).words() == "settle unit: inch"
