"""Where to go on from each sheet: past what has nothing to do, and with the reason."""

from __future__ import annotations

from pathlib import Path

from aimtrue.core.fit.handlers import paired_as_offered
from aimtrue.core.intake.actions import SettleUnit
from aimtrue.core.model.lengths import Unit
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import SetFactor
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of


def steps(bench: Bench) -> dict[str, tuple[str, str]]:
    return {step.of: (step.to, step.says) for step in survey(bench.job, bench).next_steps}


def of_size(*sides: float) -> Bench:
    bench = bench_of("block.stl", binary_stl(corners_of(box(sides[0], sides[1], sides[2]))))
    bench.do(SettleUnit(source="s1", unit=Unit.MM))
    return bench


def test_what_fits_alone_is_led_past_fit_and_division() -> None:
    way = steps(of_size(20, 30, 50))
    assert way["intake"] == ("truing", "")
    assert way["truing"] == ("seating", "")
    assert way["fit"][0] == "seating"
    assert way["division"][0] == "seating"
    assert way["seating"][0] == "release"


def test_what_goes_in_no_way_is_led_to_division_by_name() -> None:
    bench = of_size(300, 300, 300)
    to, says = steps(bench)["truing"]
    assert to == "division"
    assert says == "block does not go into Garden bench M, whichever way it lies."
    # What goes in when it is turned is seated, not divided; corrected to fit, too.
    assert steps(of_size(20, 240, 100))["truing"][0] == "seating"
    bench.do(SetFactor(body=bench.job.bodies[0].id, typed="0.5"))
    assert steps(bench)["truing"][0] == "seating"


def test_what_a_sheet_still_asks_for_is_said_before_one_goes_on() -> None:
    corners = corners_of(box(20, 30, 50))
    bench = bench_of("holed.stl", binary_stl(corners[2:]))
    bench.do(SettleUnit(source="s1", unit=Unit.MM))
    says = steps(bench)["intake"][1]
    assert says.startswith("Nothing is released before this is settled: ")
    assert "open edges" in says


def test_pairs_that_are_kept_lead_over_fit(demo: Path) -> None:
    bench = bench_of("focus-drive.3mf", (demo / "focus-drive.3mf").read_bytes())
    assert steps(bench)["truing"][0] == "seating"
    bench.job = paired_as_offered(bench.job, bench)
    to, says = steps(bench)["truing"]
    assert to == "fit"
    assert "6 pairs" in says
