"""What unit a file may be in: settled alone only when nothing else is within reach."""

from pathlib import Path

import numpy as np
import pytest

from aimtrue.core.actions import apply
from aimtrue.core.intake.actions import SettleUnit, TakeIn
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.intake.units.verdict import CLEAR, UnitVerdict, verdict
from aimtrue.core.model.ids import SourceId
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.source import Evidence
from aimtrue.core.model.value import Vec3
from benchmarks.verdict import UNITS, judged, made_parts, weighted
from demo.parts import PARTS
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of


def judge(numbers: Vec3, words: str = "", **more: tuple[float, ...]) -> UnitVerdict:
    evidence = Evidence(lengths=(*numbers, *more.pop("lengths", ())), **more)
    return verdict(numbers, evidence, words)


@pytest.mark.parametrize(
    ("numbers", "words", "unit"),
    [
        ((120.0, 45.5, 30.0), "", Unit.MM),
        ((0.12, 0.0455, 0.03), "", Unit.M),
        ((5.3125, 1.8125, 0.6875), "", Unit.IN),
        ((5.5, 1.75, 0.75), "made in inches", Unit.IN),
        ((5.5, 4.2, 0.8), "knob_cm.stl", Unit.CM),
        ((5.5, 1.75, 0.75), "drawn in cm", None),
        ((12.0, 4.5, 3.0), "", None),
    ],
)
def test_points_at_what_the_evidence_says(numbers: Vec3, words: str, unit: Unit | None) -> None:
    assert judge(numbers, words).leads == unit


def test_every_unit_is_shown_with_its_size_and_a_reason() -> None:
    rows = judge((2.0, 3.0, 5.0)).candidates
    assert {row.unit for row in rows} == set(Unit)
    assert sum(row.score for row in rows) == pytest.approx(1, abs=1e-3)
    assert all(row.reasons for row in rows)
    assert next(row for row in rows if row.unit is Unit.IN).size_mm == pytest.approx((50.8, 76.2, 127.0))


def test_within_a_word_is_not_a_word() -> None:
    rows = judge((12.0, 4.5, 3.0), "hammer, parameter, pinched").candidates
    assert not any("says" in reason for row in rows for reason in row.reasons)


def test_made_parts_are_never_settled_wrongly() -> None:
    parts = made_parts(2)
    assert len(parts) >= 60
    assert {part.unit for part in parts} == set(UNITS)
    results = [judged(part)[0] for part in parts]
    assert "wrong" not in results, [p for p, r in zip(parts, results, strict=True) if r == "wrong"]
    assert results.count("right") > len(parts) / 3, "it asks too often to be of use"


@pytest.mark.parametrize("size", [(20, 20, 20), (2, 1, 0.5), (10, 5, 3), (1, 1, 1), (30, 20, 10)])
def test_a_plain_block_is_asked_about(size: tuple[float, float, float]) -> None:
    bench = bench_of("block.stl", binary_stl(corners_of(box(*size))))
    assert bench.job.sources[0].unit is None


def test_demo_parts_are_settled_rightly_or_asked_about(demo: Path) -> None:
    for part in PARTS:
        source = bench_of(part.file, (demo / part.file).read_bytes()).job.sources[0]
        assert source.unit is (part.unit if part.settled else None), part.file
        assert source.how == (None if not part.settled else "declared" if part.declared else "inferred")


def test_walls_that_cannot_be_printed_speak_against_a_unit() -> None:
    thin = judge((40.0, 30.0, 12.0), walls=(0.05,)).candidates
    plain = judge((40.0, 30.0, 12.0)).candidates
    score = {row.unit: row.score for row in thin}, {row.unit: row.score for row in plain}
    assert score[0][Unit.MM] < score[1][Unit.MM]
    assert any("cannot be printed" in r for row in thin if row.unit is Unit.MM for r in row.reasons)


def test_a_hole_for_a_standard_bolt_speaks_for_a_unit() -> None:
    with_hole = judge((40.0, 30.0, 12.0), diameters=(5.5,))
    row = next(row for row in with_hole.candidates if row.unit is Unit.MM)
    assert any("suits a standard metric bolt" in reason for reason in row.reasons)


def test_siblings_that_were_settled_help_and_the_user_can_make_it_a_rule() -> None:
    block = binary_stl(corners_of(box(2, 1, 0.5)))

    def added(bench: Bench, key: str) -> Bench:
        taken = take_in(key, f"{key}.stl", block)
        bench.meshes.update(taken.meshes)
        bench.job = apply(bench.job, TakeIn(sources=taken.sources, bodies=taken.bodies), bench)
        return bench

    bench = bench_of("a.stl", block).do(SettleUnit(source="s1", unit=Unit.IN))
    second = added(bench, "s2").job.source(SourceId("s2"))
    assert second.unit is None
    bench.do(SettleUnit(source=None, unit=Unit.IN, remember=True))
    assert bench.job.source(SourceId("s2")).how == "told"
    third = added(bench, "s3").job.source(SourceId("s3"))
    assert (third.unit, third.how) == (Unit.IN, "sibling")


def test_evidence_is_exact_on_a_bored_plate() -> None:
    import manifold3d

    from aimtrue.core.intake.units.evidence import evidence_of
    from aimtrue.core.mesh.solids import mesh_of

    plate = manifold3d.Manifold.cube((60, 40, 8)) - manifold3d.Manifold.cylinder(
        30, 2.75, circular_segments=48
    ).translate((15, 15, -10))
    evidence = evidence_of([mesh_of(plate)])
    np.testing.assert_allclose(evidence.lengths, [60, 40, 8], atol=1e-4)
    np.testing.assert_allclose(evidence.diameters, [5.5], atol=1e-4)
    assert 8 in np.round(evidence.walls, 4)


def test_an_empty_job_has_no_siblings() -> None:
    assert Job(name="x").habits.unit is None


@pytest.mark.parametrize(
    ("numbers", "lengths", "never"),
    [
        ((8000.0, 6000.0, 2700.0), (300.0, 900.0, 2000.0), Unit.UM),  # a house at full size in mm
        ((240.0, 240.0, 96.0), (108.0, 84.0, 6.0), Unit.MM),  # a garage of 20 ft in inches
        ((100.0, 100.0, 20.0), (), Unit.MM),  # a lens of 0.1 mm in micrometres
    ],
)
def test_full_size_and_tiny_things_are_asked_about(
    numbers: Vec3, lengths: tuple[float, ...], never: Unit
) -> None:
    unit_verdict = judge(numbers, lengths=lengths)
    assert unit_verdict.clear is not never
    assert unit_verdict.clear is None


def test_a_house_in_millimetres_is_not_thought_to_be_in_micrometres() -> None:
    unit_verdict = judge((8000.0, 6000.0, 2700.0), lengths=(300.0, 900.0, 2000.0))
    assert unit_verdict.leads is Unit.MM


def test_a_verdict_is_wrong_no_more_often_than_it_says() -> None:
    """Over usual, large and tiny things, each as often as people make it and export it in such a unit."""
    often = {"right": 0.0, "asked": 0.0, "wrong": 0.0}
    for part in weighted(3):
        often[judged(part)[0]] += part.weight
    assert often["wrong"] <= (1 - CLEAR) * (often["right"] + often["wrong"])
