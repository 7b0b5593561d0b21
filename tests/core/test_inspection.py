"""Printed parts: what was measured held against what is to be, and what it tells of the machine."""

from __future__ import annotations

import random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aimtrue.core.errors import Refused
from aimtrue.core.fit.inspection.actions import (
    AddPrintedPart,
    MeasurePart,
    RemovePrintedPart,
    SetInspectionTolerance,
    TakeMeasurements,
)
from aimtrue.core.fit.inspection.machine_lines import calibration_of
from aimtrue.core.fit.inspection.results import InspectionRow, InspectionView, inspection_view
from aimtrue.core.fit.inspection.table import as_csv
from aimtrue.core.intake.actions import SettleUnit
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.inspection import InspectionTarget
from aimtrue.core.model.lengths import Unit
from aimtrue.core.truing.actions import SetAllowance, SetFactor, TakeCalibration
from tests.core.test_fit import PIN, PLATE, A, B, both
from tests.core.test_pairs import paired, state
from tests.shapes import Bench, binary_stl, corners_of


def view(bench: Bench) -> InspectionView:
    return inspection_view(bench.job, bench)


def rows(bench: Bench) -> dict[str, InspectionRow]:
    return {row.key: row for row in view(bench).rows}


def measured(bench: Bench, key: str, typed: str, part: int = 0) -> Bench:
    while len(bench.job.inspection.parts) <= part:
        bench.do(AddPrintedPart())
    target = rows(bench)[key].target
    return bench.do(MeasurePart(part=bench.job.inspection.parts[part].id, target=target, typed=typed))


def printed(bench: Bench, row: InspectionRow, noise: float, chance: random.Random) -> float:
    """What a machine makes of a size that prints 1 % small, and holes another 0.25 mm small."""
    return 0.99 * row.file_mm - (0.25 if row.form == "hole" else 0.0) + chance.gauss(0, noise)


def inspected(noise: float = 0.0) -> Bench:
    """A plate and its pin, kept as a pair, with three parts measured at all of their sizes."""
    bench, chance = paired(both(PLATE, PIN)), random.Random(7)
    for part in range(3):
        for key, row in rows(bench).items():
            measured(bench, key, f"{printed(bench, row, noise, chance):.4f}", part)
    return bench


def test_readings_sides_of_pairs_and_sizes_can_be_measured() -> None:
    bench = paired(both(PLATE, PIN))
    inspection_rows = rows(bench)
    assert [(row.what, row.form, row.axis) for row in inspection_rows.values()][:3] == [
        ("bore of bore and shaft", "hole", "z"),
        ("shaft of bore and shaft", "shaft", "z"),
        ("overall X", "outside", "x"),
    ]
    assert inspection_rows[f"size {A} x"].aim_mm == pytest.approx(40)
    assert (inspection_rows[f"size {A} x"].low_mm, inspection_rows[f"size {A} x"].high_mm) == (
        pytest.approx(39.8),
        pytest.approx(40.2),
    )
    bench.do(SetAllowance(body=A, shrinkage=("1", "1", "1")))
    now = rows(bench)
    assert now[f"size {A} x"].aim_mm == pytest.approx(40)
    assert now[f"size {A} x"].file_mm == pytest.approx(40 / 0.99)
    assert now["pair f1 outer"].aim_mm == pytest.approx(5.3, abs=1e-4)


def test_each_measured_size_is_in_its_tolerance_or_out_of_it() -> None:
    bench = both(PLATE, PIN)
    for part, typed in enumerate(("40.1", "40.3", "1.57 in")):
        measured(bench, f"size {A} x", typed, part)
    row = rows(bench)[f"size {A} x"]
    assert [value.within for value in row.values] == [True, False, True]
    assert (row.out, row.mean_mm) == (1, pytest.approx((40.1 + 40.3 + 39.878) / 3))
    assert row.spread_mm == pytest.approx(np.std([40.1, 40.3, 39.878], ddof=1))
    assert [(part.name, part.measured, part.out) for part in view(bench).parts] == [
        ("part 1", 1, 0), ("part 2", 1, 1), ("part 3", 1, 0),
    ]  # fmt: skip
    bench.do(SetInspectionTolerance(typed="0.4"))
    assert rows(bench)[f"size {A} x"].out == 0
    measured(bench, f"size {A} x", "")
    assert len(rows(bench)[f"size {A} x"].values) == 2
    bench.do(RemovePrintedPart(part=bench.job.inspection.parts[0].id))
    assert [part.name for part in view(bench).parts] == ["part 2", "part 3"]
    bench.do(AddPrintedPart())
    assert bench.job.inspection.parts[-1].name == "part 1"


def test_a_measured_pair_has_the_clearance_between_its_sides() -> None:
    bench = paired(both(PLATE, PIN))
    measured(bench, "pair f1 outer", "5.35")
    assert view(bench).pairs[0].values == ()
    measured(bench, "pair f1 inner", "4.95")
    measured(bench, "pair f1 outer", "5.2", 1)
    measured(bench, "pair f1 inner", "5.05", 1)
    (pair,) = view(bench).pairs
    assert [(round(value.clearance_mm, 6), value.within) for value in pair.values] == [
        (0.4, True),
        (0.15, False),
    ]


@pytest.mark.parametrize("noise", [0.0, 0.01])
def test_three_parts_tell_what_the_machine_does(noise: float) -> None:
    lines = {(line.form, line.axis): line for line in view(inspected(noise)).lines}
    wide = lines["outside", "x"]  # of 40 and 5 mm: a line through two sizes
    assert wide.share == pytest.approx(-0.01, abs=1e-6 + 0.1 * noise)
    assert wide.offset_mm == pytest.approx(0, abs=1e-4 + 2 * noise)
    hole = lines["hole", "z"]  # all of one size: off by a length, beside the scale along that axis
    assert hole.offset_mm == pytest.approx(-0.25, abs=1e-3 + noise)
    assert hole.share == pytest.approx(-0.01, abs=1e-4 + 0.2 * noise)
    assert hole.count == 3


def test_a_calibration_by_parts_says_what_the_next_release_will_measure() -> None:
    """What is expected is what the machine that was simulated makes of the new file."""
    bench = inspected()
    told = view(bench)
    calibration = calibration_of("Garden bench M", "PLA", told.lines, (0.0, 0.0, 0.0))
    assert calibration.shrinkage == pytest.approx((0.01, 0.01, 0.01), abs=1e-5)
    bench.do(TakeCalibration(body=A, found=calibration, says="3 parts"))
    for row in rows(bench).values():
        assert row.expected_mm == pytest.approx(printed(bench, row, 0.0, random.Random(1)), abs=2e-3)
        assert (
            row.aim_mm == pytest.approx({"x": 40, "y": 30, "z": 8}[row.target.side], abs=1e-6)
            if (row.target.of == A)
            else True
        )
    assert [rows(bench)[f"size {A} {axis}"].aim_mm for axis in "xyz"] == pytest.approx([40, 30, 8], abs=1e-6)
    pair = state(bench)
    assert pair.printed is not None
    assert pair.printed.clearance_mm == pytest.approx(0.05, abs=2e-3)
    assert pair.verdict == "does not hold"
    # What was measured before stays measured of what it was printed of, so the lines stay the same.
    assert view(bench).lines == told.lines


def test_too_few_parts_tell_nothing_of_the_machine() -> None:
    bench = both(PLATE, PIN)
    for part in range(2):
        measured(bench, f"size {A} x", "40", part)
    assert view(bench).lines == ()
    assert "3 measured parts" in view(bench).lacks
    with pytest.raises(Refused, match="too few"):
        calibration_of("M", "PLA", view(bench).lines, (0.0, 0.0, 0.0))


def test_what_makes_no_sense_is_refused_and_loses_nothing() -> None:
    bench = measured(both(PLATE, PIN), f"size {A} x", "40.1")
    before = bench.job
    part = before.inspection.parts[0].id
    target = InspectionTarget(kind="size", of=A, side="x")
    for wrong, says in (("50", "over 20 % off"), ("wide", "")):
        with pytest.raises(Refused, match=says):
            bench.do(MeasurePart(part=part, target=target, typed=wrong))
    with pytest.raises(Refused, match="not there any more"):
        bench.do(
            MeasurePart(part=part, target=InspectionTarget(kind="pair", of="f9", side="outer"), typed="5")
        )
    with pytest.raises(Refused, match="is called part 1 already"):
        bench.do(AddPrintedPart(name="part 1"))
    assert bench.job is before


def test_a_table_is_written_filled_and_read_again() -> None:
    bench = measured(both(PLATE, PIN), f"size {A} x", "40.1")
    text = as_csv(view(bench))
    assert text.splitlines()[0] == "key,body,what,aim,low,high,expected,part 1"
    filled = "key;Teil A;part 1\n" + f"size {A} y;30,05;29.9\nsize {B} z;20,1;\n"
    bench.do(TakeMeasurements(text=filled))
    inspection_rows = rows(bench)
    assert [(value.typed, value.mm) for value in inspection_rows[f"size {A} y"].values] == [
        ("29.9", 29.9),
        ("30.05", 30.05),
    ]
    assert [part.name for part in view(bench).parts] == ["part 1", "Teil A"]
    again = as_csv(view(bench))
    bench.do(TakeMeasurements(text=again))
    assert as_csv(view(bench)) == again


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "no column “key”"),
        ("key,body\nsize s1-1 x,plate", "no column for a part"),
        ("key,p\nsize s9 x,40", "is no size of this job"),
        ("key,p\nsize s1-1 x,4", "over 20 % off"),
    ],
)
def test_a_table_that_cannot_be_taken_says_why(text: str, says: str) -> None:
    bench = both(PLATE, PIN)
    with pytest.raises(Refused, match=says):
        bench.do(TakeMeasurements(text=text))
    assert bench.job.inspection.parts == ()


def test_what_was_measured_goes_with_a_new_revision() -> None:
    bench = inspected()
    known = [len(part.measured) for part in bench.job.inspection.parts]
    meshes = [bench.mesh(body.geometry) for body in bench.job.bodies]
    larger = [Mesh(mesh.vertices * 1.02, mesh.faces) for mesh in meshes]
    bench.revise("pair.stl", binary_stl(np.concatenate([corners_of(mesh) for mesh in larger])))
    if not bench.job.source_of(bench.job.bodies[0]).unit:
        bench.do(SettleUnit(source="s1", unit=Unit.MM))
    told = view(bench)
    assert [part.measured for part in told.parts] == known
    wide = next(row for row in told.rows if row.what == "overall X")
    assert (wide.aim_mm, len(wide.values)) == (pytest.approx(40.8), 3)


@given(st.floats(0.5, 3), st.floats(0, 0.03), st.floats(-0.4, 0.4))
def test_what_is_to_be_measured_is_what_is_released_less_its_shrinkage(
    factor: float, share: float, clearance: float
) -> None:
    bench = both(PLATE, PIN).do(
        SetFactor(body=A, typed=f"{factor:.6f}"),
        SetAllowance(
            body=A,
            shrinkage=(f"{100 * share:.6f}",) * 3,
            clearance=(f"{clearance:.6f}",) * 3,
            sure=True,
        ),
    )
    for row in rows(bench).values():
        assert row.aim_mm == pytest.approx(row.file_mm * (1 - round(share, 8)), rel=1e-6)
