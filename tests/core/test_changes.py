"""What a correction changes that it should not; sections, lanes and devices; known answers."""

import random

import numpy as np
import pytest
from pydantic import ValidationError

from aimtrue.core.chain.allowance import allowed_sizes
from aimtrue.core.chain.sizes import true_sizes
from aimtrue.core.errors import Refused
from aimtrue.core.formats import threemf
from aimtrue.core.gauges.construction import PickedSpot
from aimtrue.core.gauges.picks import feature_lines
from aimtrue.core.gauges.sections import section_through
from aimtrue.core.intake.actions import Delete, MakeKit, Rename, SettleUnit, SetUp
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.bolts import BOLTS, suits
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.lengths import Unit, parse_offset
from aimtrue.core.model.materials import MATERIALS, Material
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import (
    AddReading,
    AdjustReading,
    ChooseMaterial,
    HoldAxis,
    KeepBores,
    ScaleTogether,
    SetAllowance,
    SetFactor,
    SetReading,
    SolveReadings,
)
from aimtrue.standins.caliper import Caliper
from tests.core.test_gauges import ring
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

B = BodyId("s1-1")


def plain(mesh: Mesh | None = None) -> Bench:
    bench = bench_of("part.stl", binary_stl(corners_of(mesh or box(20, 30, 50))))
    return bench.do(SettleUnit(source="s1", unit=Unit.MM))


def hinge() -> Bench:
    """A pin of 8 mm in a bore of 8.4, as one kit of one file."""
    sleeve, pin = ring(10, 4.2, 12, 96), ring(4, 1, 20, 96)
    items = [threemf.BuildObject("sleeve", sleeve), threemf.BuildObject("pin", pin)]
    return bench_of("hinge.3mf", threemf.write(items, Unit.MM, "hinge", ""))


def findings(bench: Bench, code: str) -> list[str]:
    return [finding.says for finding in survey(bench.job, bench).findings if finding.code == code]


@pytest.mark.parametrize(
    ("diameter", "bolt", "tapped"),
    [
        (5.5, "M5", False),
        (5.3, "M5", False),
        (4.2, "M5", True),
        (3.4, "M3", False),
        (6.8, "M8", True),
        (8.5, "M10", True),
        (5.08, "#10", False),
    ],
)
def test_holes_that_suit_a_bolt(diameter: float, bolt: str, tapped: bool) -> None:
    bolt_suitability = suits(diameter)
    assert bolt_suitability is not None
    assert (bolt_suitability.bolt.name, bolt_suitability.tapped) == (bolt, tapped)
    assert bolt_suitability.still(diameter)


@pytest.mark.parametrize("diameter", [0.5, 7.8, 12.5, 142.86])
def test_holes_that_suit_none(diameter: float) -> None:
    assert suits(diameter) is None


def test_every_bolt_fits_its_own_holes() -> None:
    for bolt in BOLTS:
        assert bolt.tap < bolt.least < bolt.greatest
        for hole in (bolt.least, bolt.greatest, bolt.tap):
            assert suits(hole) is not None


def test_the_play_of_a_pin_in_its_bore() -> None:
    bench = hinge()
    assert findings(bench, "gap") == []
    bench.do(SetFactor(body="ks1", typed="0.5"))
    (says,) = findings(bench, "gap")
    assert "sleeve and pin shrank to 0.2 (was 0.4)" in says


def test_a_gap_between_different_kits_is_nobodys() -> None:
    bench = hinge()
    bench.do(Delete(bodies=("s1-2",)), SetFactor(body=B, typed="0.5"))
    assert findings(bench, "gap") == []


def test_a_name_that_says_thread_is_enough_where_facets_tell_nothing() -> None:
    bench = plain().do(Rename(body=B, name="clamp screw"))
    assert findings(bench, "thread") == []
    (says,) = findings(bench.do(SetFactor(body=B, typed="0.98")), "thread")
    assert "−2.00 %" in says


def test_nothing_is_found_where_nothing_is_corrected() -> None:
    codes = {finding.code for finding in survey(hinge().job, hinge()).findings}
    assert not codes & {"gap", "bolt-holes", "thin-wall", "thread", "kit-mixed"}


def test_kept_bores_are_listed_as_kept_and_can_be_let_go() -> None:
    bench = hinge()
    body = bench.job.body(B)
    bore = next(feature for feature in bench.features(body).listed if feature.kind == "bore")
    bench.do(KeepBores(bodies=(B,), features=(bore.id,)), SetFactor(body="ks1", typed="0.5"))
    line = next(
        feature_line
        for feature_line in feature_lines(bench.job, bench.job.body(B), bench.features(body))
        if feature_line.kept
    )
    assert "bore ø 8.40" in line.says
    bench.do(KeepBores(bodies=(B,), features=(bore.id,), on=False))
    lines = feature_lines(bench.job, bench.job.body(B), bench.features(body))
    assert not any(line.kept for line in lines)
    assert any("bore ø 4.20" in line.says for line in lines)


def test_a_section_runs_around_the_body() -> None:
    corners = section_through(box(20, 30, 50), np.array([0, 5, 7.0]), np.array([0, 0, 1.0]))
    around = np.linalg.norm(np.roll(corners, -1, axis=0) - corners, axis=1).sum()
    assert around == pytest.approx(100)
    assert corners[:, 2] == pytest.approx(7)


def test_a_section_of_several_loops_takes_the_one_at_hand() -> None:
    tube = ring(20, 15, 30)
    for place, radius in ((20, 20), (15, 15)):
        corners = section_through(tube, np.array([place, 0, 11.0]), np.array([0, 0, 1.0]))
        assert np.hypot(corners[:, 0], corners[:, 1]).max() == pytest.approx(radius)


def test_a_section_through_nothing_or_through_a_hole_is_refused() -> None:
    with pytest.raises(Refused) as told:
        section_through(box(2, 3, 5), np.array([0, 0, 9.0]), np.array([0, 0, 1.0]))
    assert told.value.code == "no-section"
    whole = box(2, 3, 5)
    holed = Mesh(whole.vertices, whole.faces[:-1])
    with pytest.raises(Refused) as told:
        section_through(holed, np.array([0, 0, 2.0]), np.array([0, 0, 1.0]))
    assert told.value.code == "section-open"


def test_lanes_say_what_each_reading_allows() -> None:
    bench = plain()
    bench.do(
        AddReading(body=B, kind="extent", axis="x", typed="22 ±1"),
        AddReading(body=B, kind="extent", axis="y", typed="at least 32"),
        AddReading(body=B, kind="extent", axis="z", typed="99"),
        AdjustReading(reading="r3", role="check"),
    )
    (truth,) = survey(bench.job, bench).truths
    first, second, third = truth.lanes
    assert (first.low, first.high, first.wanted) == pytest.approx((1.05, 1.15, 1.1))
    assert second.low == pytest.approx(32 / 30)
    assert second.high is None
    assert second.wanted is None
    assert not third.drives
    assert truth.window == pytest.approx((32 / 30, 1.15))
    assert truth.factor == pytest.approx(1.1)
    bench.do(AdjustReading(reading="r3", role="ignore"))
    assert len(survey(bench.job, bench).truths[0].lanes) == 2


def test_a_held_axis_leaves_its_reading_no_lane() -> None:
    bench = plain().do(AddReading(body=B, kind="extent", axis="x", typed="22"))
    bench.do(HoldAxis(body=B, axis="x", held=True), SetReading(reading="r1", typed="25"))
    (truth,) = survey(bench.job, bench).truths
    assert truth.lanes[0].low is None
    assert truth.conflict == ("r1",)
    assert truth.window is None


def test_a_typed_factor_stands_until_the_readings_are_asked_again() -> None:
    bench = plain().do(AddReading(body=B, kind="extent", axis="x", typed="22"))
    bench.do(ScaleTogether(body=B, typed="1.3"))
    assert true_sizes(bench.job, bench.job.bodies[0]) == pytest.approx((26, 39, 65))
    assert not survey(bench.job, bench).bodies[0].readings[0].drives
    bench.do(SolveReadings(body=B))
    assert true_sizes(bench.job, bench.job.bodies[0])[0] == pytest.approx(22)


def test_a_reading_that_is_emptied_no_longer_drives() -> None:
    bench = plain().do(AddReading(body=B, kind="extent", axis="x", typed="22"))
    bench.do(SetReading(reading="r1", typed=" "))
    assert survey(bench.job, bench).truths == ()
    assert true_sizes(bench.job, bench.job.bodies[0])[0] == pytest.approx(22)


def test_gauges_keep_to_their_axis_when_up_is_changed() -> None:
    bench = plain().do(SetUp(source="s1", up="y"))
    listed = bench.features(bench.job.bodies[0]).listed
    floor = next(feature for feature in listed if feature.flat and feature.direction == (0, 0, -1))
    bench.do(AddReading(body=B, kind="perimeter", spots=(PickedSpot(feature=floor.id),), axis="x"))
    girth = survey(bench.job, bench).bodies[0].readings[0].model_mm
    assert girth == pytest.approx(2 * (30 + 50))


@pytest.mark.parametrize("up", ["z", "y", "x"])
def test_a_girth_at_a_typed_height(up: str) -> None:
    """A pyramid is 40 around at its foot and comes to a point at 10: at 3 mm it is 28 around."""
    corners = np.array([[0, 0, 0], [10, 0, 0], [10, 10, 0], [0, 10, 0], [5, 5, 10]], float)
    faces = np.array([[0, 2, 1], [0, 3, 2], [0, 1, 4], [1, 2, 4], [2, 3, 4], [3, 0, 4]], np.int32)
    turn = {"z": [0, 1, 2], "y": [0, 2, 1], "x": [2, 0, 1]}[up]
    points = corners[:, turn] * ([1, 1, -1] if up == "y" else [1, 1, 1])
    bench = plain(Mesh(points, faces)).do(SetUp(source="s1", up=up))
    bench.do(AddReading(body=B, kind="perimeter", axis="z", at="3"))
    assert survey(bench.job, bench).bodies[0].readings[0].model_mm == pytest.approx(28, rel=1e-6)
    with pytest.raises(Refused):
        bench.do(AddReading(body=B, kind="perimeter", axis="z", at="11"))


def test_a_girth_along_an_axis_that_runs_against_the_files() -> None:
    wedge = Mesh(box(10, 10, 10).vertices * [1, 1, 1], box(10, 10, 10).faces)
    tapered = wedge.mapped(
        lambda v: v * np.column_stack([1 - v[:, 2] / 20, np.ones(len(v)), np.ones(len(v))])
    )
    bench = plain(tapered).do(SetUp(source="s1", up="y"))
    # Along Y of the job the file's Z runs down: 2 from the low end is 8 up in the file.
    bench.do(AddReading(body=B, kind="perimeter", axis="y", at="2"))
    around = 2 * (10 + 10 * (1 - 8 / 20))
    assert survey(bench.job, bench).bodies[0].readings[0].model_mm == pytest.approx(around, rel=1e-6)


def test_a_clearance_beyond_the_body_is_told_and_not_given() -> None:
    bench = plain().do(SetAllowance(body=B, clearance=("-25", "0", "0.2"), sure=True))
    assert allowed_sizes(bench.job, bench.job.bodies[0]) == pytest.approx((20, 30, 50.2))
    assert findings(bench, "clearance-all")
    release(bench.job, bench, Order())  # raises unless the proof holds


def test_shrinkage_is_the_kits_and_clearance_a_bodys_own() -> None:
    bench = hinge().do(SetAllowance(body="s1-2", clearance=("-0.1", "-0.1", "0")))
    bench.do(SetAllowance(body="ks1", shrinkage=("1", "1", "1")))
    sleeve, pin = bench.job.bodies
    assert bench.job.shrinkage_of(sleeve).shares == bench.job.shrinkage_of(pin).shares == (0.01, 0.01, 0.01)
    assert sleeve.clearance.mm == (0, 0, 0)
    assert allowed_sizes(bench.job, pin)[0] == pytest.approx(7.9 / 0.99, rel=1e-5)
    release(bench.job, bench, Order())  # raises unless the proof holds


def test_a_kit_made_later_takes_the_correction_of_its_first() -> None:
    bench = hinge()
    bench.do(SetFactor(body="ks1", typed="1.1"), MakeKit(bodies=("s1-2", "s1-1"), name="hinge"))
    assert len({bench.job.correction_of(body).factors for body in bench.job.bodies}) == 1


@pytest.mark.parametrize(
    ("typed", "mm"),
    [("0.3", 0.3), ("-0.1", -0.1), ("−1/64 in", -25.4 / 64), ("+0", 0), ("0 in", 0), ("0,3", 0.3)],
)
def test_offsets_have_a_sign(typed: str, mm: float) -> None:
    assert parse_offset(typed) == pytest.approx(mm)


def test_the_simulated_caliper_scatters_about_the_truth_and_shows_its_steps() -> None:
    chance = random.Random(3)
    shown = [float(Caliper().press(140.3, chance)) for _ in range(400)]
    assert np.mean(shown) == pytest.approx(140.3, abs=0.005)
    assert np.std(shown) == pytest.approx(0.015, rel=0.25)
    assert all(round(value * 100) == pytest.approx(value * 100) for value in shown)
    with pytest.raises(Refused):
        Caliper().press(0)


def test_the_shrinkage_of_the_material_is_taken_and_followed() -> None:
    bench = hinge().do(SetAllowance(body="s1-2", clearance=("-0.1", "0", "0")))
    bench.do(SetAllowance(body="ks1", of_material=True))
    for name, share in (("PLA", 0.003), ("ABS", 0.008)):
        material = next(one for one in MATERIALS if one.name == name)
        bench.do(ChooseMaterial(material=material))
        sleeve, pin = bench.job.bodies
        assert bench.job.shrinkage_of(sleeve).shares == bench.job.shrinkage_of(pin).shares == (share,) * 3
        assert bench.job.shrinkage_of(pin).says == f"usual of {name}"
        assert allowed_sizes(bench.job, pin)[0] == pytest.approx(8 / (1 - share) - 0.1, abs=1e-3)
    bench.do(ChooseMaterial(material=bench.job.material, shrinkage=("1", "1", "1.5 %")))
    assert bench.job.shrinkage_of(bench.job.bodies[0]).shares == (0.01, 0.01, 0.015)
    release(bench.job, bench, Order())  # raises unless the proof holds


def test_a_typed_shrinkage_no_longer_follows_the_material() -> None:
    bench = plain().do(
        SetAllowance(body=B, of_material=True), SetAllowance(body=B, shrinkage=("1", "1", "1"))
    )
    bench.do(ChooseMaterial(material=MATERIALS[2]))
    assert bench.job.shrinkage_of(bench.job.bodies[0]).shares == (0.01, 0.01, 0.01)
    bench.do(SetAllowance(body=B, of_material=True), SetAllowance(body=B, of_material=False))
    assert not bench.job.allowed(bench.job.bodies[0])


def test_a_material_that_shrinks_beyond_reason_is_refused() -> None:
    bench = plain()
    with pytest.raises(Refused, match="over 20 %"):
        bench.do(ChooseMaterial(material=bench.job.material, shrinkage=("30", "0", "0")))
    with pytest.raises(ValidationError):
        Material(shrinkage=(1.0, 0, 0))


def test_density_and_strand_are_read_as_typed_and_mass_is_of_what_the_file_names() -> None:
    bench = plain().do(ChooseMaterial(material=MATERIALS[0], density="1,31", strand="0.07 in"))
    assert bench.job.material.density == 1.31
    assert bench.job.material.strand_mm == pytest.approx(0.07 * 25.4)
    for slip in ({"density": "-1"}, {"density": "heavy"}, {"strand": "2 ft"}):
        with pytest.raises(Refused):
            bench.do(ChooseMaterial(material=MATERIALS[0], **slip))
    body = bench.job.bodies[0]
    assert bench.job.material_of(body).density == 1.31
    assert bench.job.material_of(body.model_copy(update={"material": "resin"})).density == 1.18
    assert bench.job.material_of(body.model_copy(update={"material": "unobtainium"})).density == 1.31
