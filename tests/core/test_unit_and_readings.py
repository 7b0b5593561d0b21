"""Readings against the unit: a scale of just 25.4 is a wrong unit, not a correction."""

from aimtrue.core.intake.actions import SettleUnit
from aimtrue.core.model.lengths import Unit
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import AddReading, FitMachine, SetFactor
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of


def read_as(typed: str) -> list[str]:
    bench: Bench = bench_of("part.stl", binary_stl(corners_of(box(2, 3, 5)))).do(
        SettleUnit(source="s1", unit=Unit.MM)
    )
    bench.do(AddReading(body="s1-1", kind="extent", axis="x", typed=typed))
    return [finding.says for finding in survey(bench.job, bench).findings if finding.code == "unit-doubtful"]


def test_readings_that_ask_for_another_unit_say_so() -> None:
    (says,) = read_as("50.6")
    assert "inch" in says
    (says,) = read_as("20.1")
    assert "centimetre" in says


def test_an_ordinary_correction_says_nothing() -> None:
    assert read_as("2.1") == []
    assert read_as("14") == []


def test_a_typed_factor_stays_after_a_size_that_came_before_it() -> None:
    bench = bench_of("box.stl", binary_stl(corners_of(box(20, 30, 50))))
    bench.do(
        SettleUnit(source="s1", unit=Unit.MM),
        FitMachine(body="s1-1"),
        SetFactor(body="s1-1", axis="x", typed="0.98"),
    )
    bench.do(SettleUnit(source="s1", unit=Unit.UM))
    assert bench.job.correction_of(bench.job.bodies[0]).factors == (0.98, 0.98, 0.98)
    assert release(bench.job, bench, Order()).files[0].file.proof.holds
