"""What must hold of a job, before and after its correction; and what a measured machine makes of a pair."""

from __future__ import annotations

import pytest

from aimtrue.core.fit.must_hold import Requirement, requirements
from aimtrue.core.intake.tasks import ListFacesTask
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.print_lines import PrintLine
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import (
    CorrectAlone,
    KeepAsDrawn,
    KeepBores,
    SetFactor,
    SetLeastWall,
    TakeCalibration,
)
from aimtrue.core.truing.calibration import Calibration, Pair, calibrated
from tests.core.test_fit import PIN, PLATE, A, B, block, both, settled
from tests.core.test_pairs import paired, state
from tests.shapes import Bench, corners_of


def listed(bench: Bench) -> Bench:
    return bench.work(ListFacesTask(bodies=tuple(body.id for body in bench.job.bodies)))


def must(bench: Bench) -> dict[str, Requirement]:
    """The rows by kind; of several the first."""
    return {row.kind: row for row in reversed(requirements(bench.job, bench))}


def calibration(*lines: PrintLine, uncertainty: float = 0.002) -> Calibration:
    return Calibration(
        machine="Garden bench M",
        material="PLA",
        shrinkage=(0.0, 0.0, 0.0),
        uncertainty=(uncertainty,) * 3,
        lines=lines,
    )


def test_everything_that_must_hold_is_one_list_with_before_and_after() -> None:
    bench = listed(paired(both(PLATE, PIN))).do(
        SetLeastWall(typed="6"),
        KeepBores(bodies=(A,), features=None, on=True),
        SetFactor(body=A, typed="0.7"),
    )
    rows = must(bench)
    assert (rows["pair"].before, rows["pair"].verdict) == ("0.300", "does not hold")
    assert rows["pair"].after == "1.800"
    assert (rows["kept bore"].before, rows["kept bore"].after) == ("ø 5.300", "ø 5.300")
    assert (rows["least wall"].before, rows["least wall"].after) == ("8.00", "5.60")
    assert rows["least wall"].remedy == "a factor 0.750 for it, or thicken it"
    assert (rows["machine"].verdict, rows["machine"].bodies) == ("holds", (A, B))
    fit = {sheet.name: sheet for sheet in survey(bench.job, bench).sheets}["fit"]
    assert fit.mark == "look"


def test_what_holds_of_many_is_one_row_and_what_does_not_is_one_each() -> None:
    bench = listed(both(PLATE, PIN)).do(SetFactor(body=A, typed="10"))
    rows = [row for row in requirements(bench.job, bench) if row.kind == "machine"]
    assert [(row.verdict, row.bodies) for row in rows] == [("does not hold", (A,)), ("holds", (B,))]
    assert (rows[0].before, rows[0].after) == ("40.00", "400.00")
    assert rows[0].remedy == "divide it, or choose a larger machine"


def test_a_bore_that_is_not_as_it_was_kept_is_a_finding() -> None:
    bench = both(PLATE, PIN).do(
        KeepBores(bodies=(A,), features=None, on=True), SetFactor(body=A, typed="0.9")
    )
    (bore,) = bench.job.body(A).kept
    wrong = bench.job.body(A).model_copy(update={"kept": (bore.model_copy(update={"diameter": 5.0}),)})
    bench.job = bench.job.with_body(wrong)
    row = must(bench)["kept bore"]
    assert (row.before, row.after, row.verdict) == ("ø 5.000", "ø 4.770", "does not hold")
    assert any(finding.code == "not-kept" for finding in survey(bench.job, bench).findings)


def test_a_body_as_drawn_is_in_the_list() -> None:
    bench = settled("plate.stl", corners_of(mesh_of(block(40, 30, 8)))).do(
        KeepAsDrawn(bodies=("s1-1",), on=True)
    )
    row = must(bench)["as drawn"]
    assert (row.before, row.after, row.verdict) == ("40.00", "40.00", "holds")


def test_how_sure_a_calibration_is_is_part_of_the_verdict() -> None:
    """0.3 mm is on the end of its band: printed give or take 0.015 mm it may hold, or not."""
    bench = paired(both(PLATE, PIN))
    assert state(bench).verdict == "holds"
    bench.do(TakeCalibration(body=A, found=calibration()))
    pair = state(bench)
    assert pair.printed is not None
    assert pair.printed.uncertainty_mm == pytest.approx(0.002 * (5.3**2 + 5.0**2) ** 0.5)
    assert pair.verdict == "may hold"
    (told,) = [finding for finding in survey(bench.job, bench).findings if finding.code == "pair-unsure"]
    assert "0.3 ± 0.015 printed" in told.says
    bench.do(TakeCalibration(body=A, found=calibration(uncertainty=1e-6)))
    assert state(bench).verdict == "holds"


def test_what_a_machine_makes_of_holes_and_outsides_is_part_of_the_clearance() -> None:
    """Holes come out 0.2 mm small, shafts 0.05 mm large: of 0.3 mm of clearance 0.05 is left."""
    hole = PrintLine(form="hole", axis="z", offset_mm=-0.2, share=0.0, uncertainty_mm=0.03, count=9)
    shaft = PrintLine(form="shaft", axis="z", offset_mm=0.05, share=0.0, uncertainty_mm=0.04, count=9)
    bench = paired(both(PLATE, PIN)).do(TakeCalibration(body=A, found=calibration(hole, shaft)))
    pair = state(bench)
    assert pair.printed is not None
    assert pair.printed.clearance_mm == pytest.approx(0.05, abs=1e-5)
    assert pair.printed.uncertainty_mm == pytest.approx(0.05)
    assert pair.verdict == "does not hold"
    way = pair.ways[0]
    assert way.says == "Open pair 1 by 0.175 mm a side"
    bench.shape(way.asked, way.body)
    again = state(bench)
    assert again.printed is not None
    assert again.printed.clearance_mm == pytest.approx(0.4, abs=1e-4)
    assert again.verdict == "holds"


def test_a_calibration_that_is_taken_is_the_shrinkage_and_says_where_it_comes_from() -> None:
    found = calibrated("Garden bench M", "PLA", [Pair(axis="x", nominal_mm=100, measured_mm=99)], 0.05)
    bench = both(PLATE, PIN).do(TakeCalibration(body=A, found=found))
    shrinkage = bench.job.shrinkage_of(bench.job.body(B))  # of the kit
    assert shrinkage.shares[0] == pytest.approx(0.01)
    assert shrinkage.uncertainty == found.uncertainty
    assert shrinkage.says == "calibrated: Garden bench M, PLA"
    bench.do(CorrectAlone(body=B), TakeCalibration(body=B, found=calibration(), says="trial 1"))
    assert bench.job.shrinkage_of(bench.job.body(B)).says == "calibrated by trial 1"
    assert bench.job.shrinkage_of(bench.job.body(A)) == shrinkage
