"""A new revision is weighed anew: the same part in another unit stays as large, and so does what was
decided of it.
"""

import numpy as np
import pytest
import trimesh

from aimtrue.core.formats import threemf
from aimtrue.core.gauges.construction import PickedSpot
from aimtrue.core.gauges.measure import length_of
from aimtrue.core.intake.actions import BringHome, SettleUnit
from aimtrue.core.mesh.mesh import Mesh, merged
from aimtrue.core.model.lengths import MM_PER, Unit
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import AddReading, KeepBores, SetFactor, SizeAxis
from tests.shapes import Bench, bench_of, binary_stl, bored, box, corners_of

INCH = 25.4


def stl(mesh: Mesh, per: float = 1.0) -> bytes:
    """A mesh in mm, written in a unit of so many millimetres."""
    return binary_stl(corners_of(mesh) / per)


def extents(bench: Bench) -> list[float]:
    """The released extents in mm, read by another program's reader."""
    (made,) = release(bench.job, bench, Order(format="stl", place="own")).files
    assert made.file.proof.holds
    read = trimesh.load(trimesh.util.wrap_as_stream(made.data), file_type="stl", force="mesh")
    return np.asarray(read.extents).tolist()  # type: ignore[no-any-return]


def bracket(x: float = 101.6) -> Mesh:
    return box(x, 63.5, 25.4, at=(5, 6, 7))


def inches() -> Bench:
    return bench_of("rack.stl", stl(bracket(), INCH)).do(SettleUnit(source="s1", unit=Unit.IN))


@pytest.mark.parametrize("how", ["told", "inferred"])
def test_the_same_part_in_another_unit_is_asked_about_and_proposed(how: str) -> None:
    bench = inches()
    source = bench.job.sources[0].model_copy(update={"how": how})
    bench.job = bench.job.with_source(source)
    bench.revise("rack-b.stl", stl(bracket()))
    (source,) = bench.job.sources
    assert source.unit is None
    facts = survey(bench.job, bench)
    assert not facts.releasable
    (row,) = facts.sources
    assert row.suggested is Unit.MM
    best = max(row.candidates, key=lambda one: one.score)
    assert best.unit is Unit.MM
    assert best.reasons[0] == "it is as large as the revision before it"
    assert any("asked anew" in finding.says for finding in facts.findings)
    bench.do(SettleUnit(source="s1", unit=Unit.MM))
    assert extents(bench) == pytest.approx([101.6, 63.5, 25.4], abs=1e-4)


def test_the_same_unit_is_kept_while_the_size_is_near() -> None:
    bench = inches()
    bench.revise("rack-b.stl", stl(bracket(110), INCH))
    assert bench.job.sources[0].unit is Unit.IN
    assert extents(bench)[0] == pytest.approx(110, abs=1e-4)


def test_what_no_unit_makes_likely_is_asked() -> None:
    bench = inches()
    bench.revise("rack-b.stl", stl(bracket().mapped(lambda v: v * 4.7), INCH))
    assert bench.job.sources[0].unit is None
    assert "unit-unsettled" in {finding.code for finding in survey(bench.job, bench).findings}


def test_a_declared_unit_that_changes_keeps_the_size() -> None:
    """An STL in inches, and then a 3MF that says millimetres, of the same size."""
    bench = inches()
    bench.revise("rack.3mf", threemf.write([threemf.BuildObject("rack", bracket())], Unit.MM, "rack", ""))
    assert bench.job.sources[0].unit is Unit.MM
    assert bench.job.sources[0].how == "declared"
    assert extents(bench) == pytest.approx([101.6, 63.5, 25.4], abs=1e-4)


def test_a_unit_told_over_a_declared_one_is_not_forced_on_a_file_that_declares_another() -> None:
    bench = inches()
    bench.revise("rack.3mf", threemf.write([threemf.BuildObject("rack", bracket())], Unit.CM, "rack", ""))
    # In centimetres it would be ten times as large, in millimetres just as large: that is asked.
    assert bench.job.sources[0].unit is None


def test_a_typed_size_stays_through_a_revision_in_another_unit() -> None:
    bench = inches().do(SizeAxis(body="s1-1", axis="x", typed="90"))
    bench.revise("rack-b.stl", stl(bracket(103))).do(SettleUnit(source="s1", unit=Unit.MM))
    assert extents(bench)[0] == pytest.approx(90, abs=1e-4)
    (typed,) = bench.job.correction_of(bench.job.bodies[0]).typed
    assert typed.bodies == (bench.job.bodies[0].id,)


def test_a_typed_factor_stays_a_factor() -> None:
    bench = inches().do(SetFactor(body="s1-1", typed="0.5"))
    bench.revise("rack-b.stl", stl(bracket())).do(SettleUnit(source="s1", unit=Unit.MM))
    assert extents(bench) == pytest.approx([50.8, 31.75, 12.7], abs=1e-4)


def test_readings_go_with_the_numbers_and_are_met_again() -> None:
    bench = inches()
    ends = ((5 / INCH, 6 / INCH, 7 / INCH), (106.6 / INCH, 6 / INCH, 7 / INCH))
    bench.do(AddReading(body="s1-1", spots=tuple(PickedSpot(point=end) for end in ends), typed="102.2"))
    bench.do(AddReading(body="s1-1", kind="extent", axis="x", typed="102.2"))
    bench.revise("rack-b.stl", stl(bracket())).do(SettleUnit(source="s1", unit=Unit.MM))
    assert [reading.lost for reading in bench.job.readings] == [False, False]
    assert [length_of(bench.job, reading) for reading in bench.job.readings] == pytest.approx([102.2, 102.2])
    assert bench.job.correction_of(bench.job.bodies[0]).set_by == "2 readings"
    assert extents(bench)[0] == pytest.approx(102.2, abs=1e-4)


def test_a_correction_is_not_said_to_come_of_readings_that_are_lost() -> None:
    mesh = bored(at=3.25)
    bench = bench_of("part.stl", stl(mesh)).do(SettleUnit(source="s1", unit=Unit.MM))
    bore = next(feature for feature in bench.features(bench.job.bodies[0]).listed if feature.kind == "bore")
    bench.do(AddReading(body="s1-1", kind="diameter", spots=(PickedSpot(feature=bore.id),), typed="5.6"))
    plain = box(*np.ptp(mesh.vertices, axis=0).tolist(), at=tuple(mesh.vertices.min(axis=0).tolist()))  # type: ignore[misc]
    bench.revise("part-b.stl", stl(plain))
    (reading,) = bench.job.readings
    assert reading.lost
    correction = bench.job.correction_of(bench.job.bodies[0])
    assert (correction.readings, correction.set_by) == ((), "a reading that is gone")
    lost = [finding for finding in survey(bench.job, bench).findings if finding.code == "reading-lost"]
    assert [shown_finding.severity for shown_finding in lost] == ["stop"]
    size = survey(bench.job, bench).bodies[0].chain.size_mm[0]  # type: ignore[union-attr, unused-ignore]
    # Settled anew it is the factor that stays: nothing says a size any more.
    bench.do(SettleUnit(source="s1", unit=Unit.CM))
    assert survey(bench.job, bench).bodies[0].chain.size_mm[0] == pytest.approx(10 * size)  # type: ignore[union-attr, unused-ignore]


@pytest.mark.parametrize(("before", "after"), [(Unit.IN, Unit.MM), (Unit.MM, Unit.IN), (Unit.CM, Unit.MM)])
def test_kits_homes_and_kept_bores_go_with_the_numbers(before: Unit, after: Unit) -> None:
    far = bored(at=3.25).mapped(lambda v: v + 4000)
    pair = merged([far, box(9, 9, 9, at=(4060, 4000, 4000))])
    bench = bench_of("pair.stl", stl(pair, MM_PER[before]))
    bench.do(
        SettleUnit(source="s1", unit=before),
        KeepBores(bodies=("s1-1",)),
        SizeAxis(body="ks1", axis="x", typed="50"),
    )
    bench.do(BringHome(source="s1"))
    kept = bench.job.bodies[0].kept
    home = bench.job.home_of(bench.job.bodies[0])
    bench.revise("pair-b.stl", stl(pair, MM_PER[after])).do(SettleUnit(source="s1", unit=after))
    ratio = MM_PER[before] / MM_PER[after]
    assert bench.job.home_of(bench.job.bodies[0]) == pytest.approx([ratio * one for one in home], rel=1e-6)
    assert [bore.diameter for bore in bench.job.bodies[0].kept] == pytest.approx(
        [ratio * bore.diameter for bore in kept], rel=1e-5
    )
    assert len({body.kit for body in bench.job.bodies}) == 1
    read = extents(bench)
    assert read[0] == pytest.approx(50, abs=2e-3)


def test_a_small_body_that_moved_far_in_the_whole_is_still_the_same() -> None:
    def two(times: float) -> bytes:
        parts = [box(8, 8, 8, at=(3, 4, 5)), box(8, 8, 9, at=(120, 0, 0))]
        return binary_stl(times * np.concatenate([corners_of(part) for part in parts]))

    bench = bench_of("part.stl", two(1.0)).do(SettleUnit(source="s1", unit=Unit.MM))
    before = [(body.name, 0.729 * body.volume) for body in bench.job.bodies]
    bench.revise("part-b.stl", two(0.9))
    assert not bench.job.missing
    for body, (name, volume) in zip(bench.job.bodies, before, strict=True):
        assert body.name == name
        assert body.volume == pytest.approx(volume, rel=1e-5)


def test_another_part_elsewhere_is_not_taken_for_the_one_that_is_gone() -> None:
    first, gone, other = box(80, 80, 8), box(8, 8, 9, at=(120, 0, 0)), box(2, 30, 14, at=(100, 60, 0))
    data = [np.concatenate([corners_of(first), corners_of(mesh)]) for mesh in (gone, other)]
    bench = bench_of("part.stl", binary_stl(data[0])).do(SettleUnit(source="s1", unit=Unit.MM))
    bench.revise("part-b.stl", binary_stl(data[1]))
    assert len(bench.job.missing) == 1
