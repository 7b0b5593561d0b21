"""Features, gauges and readings on shapes whose sizes are known."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aimtrue.core.chain.allowance import allowed_sizes
from aimtrue.core.chain.sizes import true_sizes
from aimtrue.core.chain.transforms import true_points
from aimtrue.core.errors import Refused
from aimtrue.core.gauges.bands import band_of, parse_reading
from aimtrue.core.gauges.construction import PickedSpot
from aimtrue.core.intake.actions import SettleUnit, SetUp
from aimtrue.core.mesh.features.listed import Features, features_of, from_bytes, to_bytes
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.readings import Anchor
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import (
    AddReading,
    AdjustReading,
    CorrectAlone,
    ImportReadings,
    KeepAsDrawn,
    KeepBores,
    MoveReading,
    RelaxReading,
    ResetCorrection,
    SetAllowance,
    SetFactor,
    SetLeastWall,
    SetReading,
    SizeAxis,
    SizeLongest,
    SolveReadings,
    StretchAlong,
    TakeProposal,
)
from aimtrue.core.truing.calibration import Pair, calibrated
from aimtrue.core.truing.csv import read, sorted_out, write
from aimtrue.core.truing.remedies import ways_of
from demo.parts import built
from tests.shapes import Bench, bench_of, binary_stl, corners_of, screw, threaded

SHELL = BodyId("s1-1")


def ring(outer: float, inner: float, high: float, around: int = 64) -> Mesh:
    """A tube standing on the plate: its corners lie on the true circles."""
    angle = 2 * np.pi * np.arange(around) / around
    circle = np.stack([np.cos(angle), np.sin(angle), np.zeros(around)], axis=1)
    up = np.array([0, 0, high])
    rows = [outer * circle, outer * circle + up, inner * circle, inner * circle + up]
    n = np.arange(around)
    m = (n + 1) % around
    a, b, c, d = (k * around for k in range(4))
    quads = [(a, a, b, b, False), (c, c, d, d, True), (b, b, d, d, False), (a, a, c, c, True)]
    faces = []
    for low, _, high_row, _, turned in quads:
        one = np.stack([low + n, low + m, high_row + m], axis=1)
        two = np.stack([low + n, high_row + m, high_row + n], axis=1)
        both = np.concatenate([one, two])
        faces.append(both[:, ::-1] if turned else both)
    return Mesh(np.concatenate(rows), np.concatenate(faces).astype(np.int32))


def tube(unit: Unit = Unit.MM) -> Bench:
    bench = bench_of("tube.stl", binary_stl(corners_of(ring(20, 15, 30))))
    return bench.do(SettleUnit(source="s1", unit=unit))


def shells() -> Bench:
    bench = bench_of("clamp-shells.stl", (built() / "clamp-shells.stl").read_bytes())
    return bench.do(SettleUnit(source="s1", unit=Unit.MM))


def feature(bench: Bench, kind: str, diameter: float, body: BodyId = SHELL) -> int:
    listed = bench.features(bench.job.body(body)).listed
    return next(one.id for one in listed if one.kind == kind and abs(one.diameter - diameter) < 0.01)


def test_a_tube_has_a_bore_a_boss_and_two_flat_faces() -> None:
    mesh = ring(20, 15, 30)
    assert mesh.topology.closed
    assert mesh.volume() > 0
    features = features_of(mesh).listed
    assert sorted(one.kind for one in features) == ["bore", "boss", "flat", "flat"]
    bore = next(one for one in features if one.kind == "bore")
    # The circle runs through the corners, so facets take nothing off it.
    assert bore.diameter == pytest.approx(30, rel=1e-12)
    assert bore.depth == pytest.approx(30)
    assert bore.turn == pytest.approx(360)
    assert abs(bore.direction[2]) == 1
    wall = 5 * math.cos(math.pi / 64)
    assert bore.wall == pytest.approx(wall, rel=1e-2)
    flat = next(one for one in features if one.flat)
    assert flat.wall == pytest.approx(30)


def test_features_survive_packing() -> None:
    features = features_of(ring(20, 15, 30))
    again = from_bytes(to_bytes(features))
    assert again.listed == features.listed
    np.testing.assert_array_equal(again.of_face, features.of_face)


@pytest.mark.parametrize("name", ["clamp-shells.stl", "clamp-shells.step"])
def test_the_tube_seat_is_found_whatever_it_was_exported_as(name: str) -> None:
    bench = bench_of(name, (built() / name).read_bytes())
    for body in bench.job.bodies:
        features = bench.features(body).listed
        seat = next(one for one in features if one.kind == "hollow arc")
        near = 1e-9 if name.endswith("step") else 1e-5
        assert seat.diameter == pytest.approx(142.86, abs=near)
        bores = [one for one in features if one.kind == "bore"]
        assert [bore.diameter for bore in bores] == pytest.approx([5.5, 5.5], abs=near)


def test_a_cone_is_no_cylinder() -> None:
    mesh = ring(20, 15, 30)
    tapered = mesh.mapped(lambda v: v * np.column_stack([1 + v[:, 2] / 60] * 2 + [np.ones(len(v))]))
    assert {one.kind for one in features_of(tapered).listed} == {"flat"}


@pytest.mark.parametrize(
    ("kind", "spots", "length"),
    [
        ("diameter", ["bore"], 30),
        ("radius", ["boss"], 20),
        ("depth", ["bore"], 30),
        ("faces", ["flat", "flat"], 30),
        ("points", ["bore", "boss"], None),
    ],
)
def test_gauges_from_the_list(kind: str, spots: list[str], length: float | None) -> None:
    bench = tube()
    listed = bench.features(bench.job.bodies[0]).listed
    left = list(listed)
    chosen = []
    for name in spots:
        one = next(row for row in left if row.kind == name)
        left.remove(one)
        chosen.append(PickedSpot(feature=one.id))
    action = AddReading(body=SHELL, kind=kind, spots=tuple(chosen))
    if length is None:  # both centres are the same point
        with pytest.raises(Refused) as told:
            bench.do(action)
        assert told.value.code == "gauge-no-length"
        return
    bench.do(action)
    (now,) = survey(bench.job, bench).bodies[0].readings
    assert now.model_mm == pytest.approx(length, rel=1e-7)


def test_wall_extent_and_girth() -> None:
    bench = tube()
    bench.do(SetFactor(body=SHELL, typed="2"))
    listed = bench.features(bench.job.bodies[0]).listed
    boss = next(one for one in listed if one.kind == "boss")
    bench.do(
        AddReading(body=SHELL, kind="wall", spots=(PickedSpot(feature=boss.id),)),
        AddReading(body=SHELL, kind="extent", axis="z"),
        AddReading(body=SHELL, kind="perimeter", spots=(PickedSpot(feature=boss.id),), axis="z"),
    )
    wall, extent, girth = survey(bench.job, bench).bodies[0].readings
    assert wall.model_mm == pytest.approx(10, rel=1e-2)
    assert extent.model_mm == pytest.approx(60)
    assert girth.model_mm == pytest.approx(2 * 64 * 2 * 20 * math.sin(math.pi / 64), rel=1e-7)


def test_angles_are_told_and_only_a_stretch_changes_them() -> None:
    bench = bench_of("wedge.stl", binary_stl(corners_of(_wedge())))
    bench.do(SettleUnit(source="s1", unit=Unit.MM))
    flats = [one for one in bench.features(bench.job.bodies[0]).listed if one.flat]
    slope = next(flat for flat in flats if 0.1 < abs(flat.direction[2]) < 0.9)
    floor = next(flat for flat in flats if flat.direction[2] == -1)
    bench.do(
        AddReading(
            body=SHELL, kind="angle", spots=(PickedSpot(feature=slope.id), PickedSpot(feature=floor.id))
        )
    )

    def degrees() -> float:
        return survey(bench.job, bench).bodies[0].readings[0].model_mm

    assert degrees() == pytest.approx(45)
    bench.do(SetFactor(body=SHELL, typed="3"))
    assert degrees() == pytest.approx(45)
    with pytest.raises(Refused):
        bench.do(SetReading(reading="r1", typed="40"))


def _wedge() -> Mesh:
    points = np.array([[0, 0, 0], [10, 0, 0], [0, 0, 10], [0, 8, 0], [10, 8, 0], [0, 8, 10]], float)
    faces = [[0, 1, 2], [3, 5, 4], [0, 3, 4], [0, 4, 1], [0, 2, 5], [0, 5, 3], [1, 4, 5], [1, 5, 2]]
    return Mesh(points, np.array(faces, np.int32))


def test_a_diameter_where_no_cylinder_is() -> None:
    bench = tube()
    flat = next(one for one in bench.features(bench.job.bodies[0]).listed if one.flat)
    with pytest.raises(Refused) as told:
        bench.do(
            AddReading(
                body=SHELL,
                kind="diameter",
                spots=(PickedSpot(anchor=Anchor(face=flat.face, weights=(1, 0, 0))),),
            )
        )
    assert told.value.code == "no-cylinder"


def test_faces_that_are_not_parallel_are_refused_with_their_angle() -> None:
    bench = bench_of("wedge.stl", binary_stl(corners_of(_wedge()))).do(SettleUnit(source="s1", unit=Unit.MM))
    flats = [one for one in bench.features(bench.job.bodies[0]).listed if one.flat]
    slope = next(flat for flat in flats if 0.1 < abs(flat.direction[2]) < 0.9)
    floor = next(flat for flat in flats if flat.direction[2] == -1)
    with pytest.raises(Refused, match="45"):
        bench.do(
            AddReading(
                body=SHELL, kind="faces", spots=(PickedSpot(feature=slope.id), PickedSpot(feature=floor.id))
            )
        )


def trued_shells() -> Bench:
    """The clamp must grip a tube read at 140.3 with 0.3 clearance."""
    bench = shells()
    seat = feature(bench, "hollow arc", 142.86)
    bench.do(AddReading(body=SHELL, kind="diameter", spots=(PickedSpot(feature=seat),), typed="140.3"))
    return bench.do(AdjustReading(reading="r1", clearance="0.3"))


def test_the_clamp_grips_its_tube_and_the_proof_measures_it() -> None:
    bench = trued_shells()
    factors = bench.job.correction_of(bench.job.bodies[0]).factors
    assert factors == pytest.approx((140.6 / 142.86,) * 3, rel=1e-7)
    assert bench.job.correction_of(bench.job.bodies[1]).factors == factors
    checks = release(bench.job, bench, Order()).files[0].file.proof.checks
    seat = next(check for check in checks if check.code == "reading")
    assert seat.holds
    assert float(seat.found.removesuffix(" mm")) == pytest.approx(140.6, abs=1e-4)


def test_bolt_holes_that_changed_are_found_and_can_be_kept() -> None:
    bench = trued_shells()
    shown_findings = [
        finding for finding in survey(bench.job, bench).findings if finding.code == "bolt-holes"
    ]
    assert len(shown_findings) == 2
    assert "2 M5 bores" in shown_findings[0].says
    assert "5.41 (were 5.50)" in shown_findings[0].says
    bench.do(KeepBores(bodies=tuple(body.id for body in bench.job.bodies)))
    assert not [finding for finding in survey(bench.job, bench).findings if finding.code == "bolt-holes"]
    body = bench.job.bodies[0]
    mesh = bench.mesh(body.geometry)
    moved = Mesh(true_points(bench.job, body, mesh.vertices), mesh.faces)
    assert moved.topology.closed
    bores = [one for one in features_of(moved).listed if one.kind == "bore"]
    assert [bore.diameter for bore in bores] == pytest.approx([5.5, 5.5], abs=1e-4)
    seat = next(one for one in features_of(moved).listed if one.kind == "hollow arc")
    assert seat.diameter == pytest.approx(140.6, abs=1e-4)
    release(bench.job, bench, Order())  # raises unless the proof holds


def test_a_far_smaller_clamp_no_longer_takes_its_bolts_and_has_thin_walls() -> None:
    bench = shells().do(SetFactor(body=SHELL, typed="0.09"))
    codes = {finding.code: finding for finding in survey(bench.job, bench).findings}
    assert codes["bolt-holes"].severity == "look"
    assert codes["thin-wall"].severity == "look"
    assert "0.72" in codes["thin-wall"].says
    assert codes["gap"].says.endswith("(was 1.2)")


def test_a_wall_may_have_to_be_thicker_than_two_beads() -> None:
    bench = shells().do(SetFactor(body=SHELL, typed="0.3"))
    assert "thin-wall" not in [finding.code for finding in survey(bench.job, bench).findings]
    bench.do(SetLeastWall(typed="3"))
    (found,) = {
        finding.says.split(" of ")[1]
        for finding in survey(bench.job, bench).findings
        if finding.code == "thin-wall" and "1" in finding.body
    }
    assert "2.40 (was 7.99), under 3.00 mm" in found
    bench.do(SetLeastWall(typed=""))
    assert "thin-wall" not in [finding.code for finding in survey(bench.job, bench).findings]


def test_a_kept_bore_stays_round_under_a_stretch() -> None:
    bench = tube().do(KeepBores(bodies=(SHELL,), features=(feature(tube(), "bore", 30),)))
    bench.do(SetFactor(body=SHELL, typed="1.1"))
    body = bench.job.bodies[0]
    stretched = bench.job.correction_of(body).model_copy(update={"factors": (1.2, 1.0, 1.1)})
    job = bench.job.with_decisions(body, correction=stretched)
    points = true_points(job, body, bench.mesh(body.geometry).vertices)
    across = np.linalg.norm(points[:, :2], axis=1)
    assert np.isclose(across, 15, atol=1e-6).sum() == 128


def test_conflicts_are_named_and_one_change_frees_them() -> None:
    bench = trued_shells()
    bores = [one.id for one in bench.features(bench.job.bodies[0]).listed if one.kind == "bore"]
    spots = tuple(PickedSpot(feature=number) for number in bores)
    bench.do(AddReading(body=SHELL, kind="points", spots=spots, typed="188"))
    (truth,) = survey(bench.job, bench).truths
    assert truth.conflict == ("r1", "r2")
    assert truth.window is None
    missed = [finding for finding in survey(bench.job, bench).findings if finding.code == "reading-missed"]
    # They drive and exclude each other, so to let them drive would help nobody.
    assert [[way.says for way in ways_of(shown_finding)] for shown_finding in missed] == 2 * [
        ["Accept as it is"]
    ]
    bench.do(SizeAxis(body=missed[0].body_id or "", axis="x", typed="300"))
    missed = [finding for finding in survey(bench.job, bench).findings if finding.code == "reading-missed"]
    assert "Let readings drive" in {way.says for way in ways_of(missed[0])}
    bench.do(SolveReadings(body=missed[0].body_id or ""))
    change = next(conflict_change for conflict_change in truth.changes if conflict_change.reading == "r2")
    assert change.limit_mm == pytest.approx(188 * 140.6 / 142.86, abs=0.01)
    bench.do(RelaxReading(reading="r2", limit_mm=change.limit_mm or 0))
    (truth,) = survey(bench.job, bench).truths
    assert truth.conflict == ()
    assert truth.window is not None
    assert not [finding for finding in survey(bench.job, bench).findings if finding.code == "reading-missed"]


def test_a_proposal_that_is_taken_is_in_force() -> None:
    bench = tube()
    bench.do(
        AddReading(body=SHELL, kind="extent", axis="x", typed="44"),
        AddReading(body=SHELL, kind="extent", axis="y", typed="40"),
    )
    (truth,) = survey(bench.job, bench).truths
    assert len(truth.conflict) == 2
    best = next(proposal for proposal in truth.proposals if proposal.meets)
    # What is in force goes half the way in all three directions: 1.1 / 1.05³ of its volume is left.
    assert best.effect == "shape changed by 10.00 %; volume −5.0 %"
    bench.do(TakeProposal(body=SHELL, key=best.key))
    assert true_sizes(bench.job, bench.job.bodies[0])[:2] == pytest.approx((44, 40), abs=0.05)
    (truth,) = survey(bench.job, bench).truths
    assert next(proposal for proposal in truth.proposals if proposal.key == best.key).in_force
    with pytest.raises(Refused):
        bench.do(TakeProposal(body=SHELL, key="nowhere"))


def test_absurd_readings_are_asked_about_first() -> None:
    bench = tube()
    action = AddReading(body=SHELL, kind="extent", axis="z", typed="31 m")
    with pytest.raises(Refused) as told:
        bench.do(action)
    assert told.value.code == "ask-first"
    bench.do(action.model_copy(update={"sure": True}))
    assert true_sizes(bench.job, bench.job.bodies[0])[2] == pytest.approx(31_000)


def test_two_readings_on_one_gauge_that_disagree() -> None:
    bench = tube()
    bench.do(
        AddReading(body=SHELL, kind="extent", axis="z", typed="31"),
        AddReading(body=SHELL, kind="extent", axis="z", typed="33"),
    )
    codes = [finding.code for finding in survey(bench.job, bench).findings]
    assert "readings-disagree" in codes


def test_what_is_as_drawn_refuses_a_correction_and_says_why() -> None:
    bench = tube().do(KeepAsDrawn(bodies=(SHELL,)))
    with pytest.raises(Refused) as told:
        bench.do(SizeAxis(body=SHELL, axis="x", typed="50"))
    assert told.value.code == "as-drawn"
    assert "mates with a real part" in told.value.says


def test_a_body_of_a_kit_corrected_alone_is_a_finding() -> None:
    bench = shells().do(CorrectAlone(body=SHELL), SetFactor(body=SHELL, typed="1.02"))
    assert [bench.job.correction_of(body).factors[0] for body in bench.job.bodies] == [1.02, 1.0]
    assert "kit-mixed" in [finding.code for finding in survey(bench.job, bench).findings]
    bench.do(CorrectAlone(body=SHELL, on=False))
    assert [bench.job.correction_of(body).factors[0] for body in bench.job.bodies] == [1.0, 1.0]


def test_a_gauge_moves_and_keeps_its_reading() -> None:
    bench = tube()
    bench.do(AddReading(body=SHELL, kind="extent", axis="z", typed="31 ±0.1"))
    bench.do(MoveReading(reading="r1", body=SHELL, kind="extent", axis="x"))
    assert true_sizes(bench.job, bench.job.bodies[0])[0] == pytest.approx(31)
    assert bench.job.readings[0].typed == "31 ±0.1"


def test_longest_side() -> None:
    bench = tube().do(SizeLongest(body=SHELL, typed="100"))
    assert max(true_sizes(bench.job, bench.job.bodies[0])) == pytest.approx(100)


@pytest.mark.parametrize(
    ("typed", "real", "low", "high"),
    [
        ("171.5", 171.5, None, None),
        ("171.5 ±0.2", 171.5, 171.3, 171.7),
        ("171.5 +/- 0.2", 171.5, 171.3, 171.7),
        ("171.5 +0.2 -0.1", 171.5, 171.4, 171.7),
        ("171.5 +0.2/-0", 171.5, 171.5, 171.7),
        ("171..172", 171.5, 171, 172),
        ("171.5 [171..172]", 171.5, 171, 172),
        ("at least 188", None, 188, None),
        ("<= 17.15cm", None, None, 171.5),
        ("6 3/4 in ±1/32 in", 171.45, 170.65625, 172.24375),
        ("2 ft 5", 736.6, None, None),
    ],
)
def test_readings_as_people_write_them(
    typed: str, real: float | None, low: float | None, high: float | None
) -> None:
    typed_reading = parse_reading(typed)
    assert typed_reading.real == (None if real is None else pytest.approx(real))
    assert typed_reading.low == (None if low is None else pytest.approx(low))
    assert typed_reading.high == (None if high is None else pytest.approx(high))


@pytest.mark.parametrize("typed", ["", "0", "-3", "wide", "172..171", "171.5 [172..173]", "1 ±2", ";", "5 ±"])
def test_readings_that_make_no_sense(typed: str) -> None:
    with pytest.raises(Refused):
        parse_reading(typed)


def test_repeats_give_mean_and_spread() -> None:
    bench = tube().do(AddReading(body=SHELL, kind="extent", axis="z", typed="31.0; 31.4; 31.2"))
    reading = bench.job.readings[0]
    assert reading.real_mm == pytest.approx(31.2)
    band = band_of(reading)
    assert band is not None
    assert band.high - 31.2 == pytest.approx(2 * 0.2 / math.sqrt(3))
    assert survey(bench.job, bench).bodies[0].readings[0].spread_mm == pytest.approx(0.4)


def test_csv_goes_out_and_comes_in_again() -> None:
    bench = tube()
    bench.do(
        AddReading(body=SHELL, kind="extent", axis="z", typed="31 ±0.2"),
        AddReading(body=SHELL, kind="extent", axis="x", typed="at least 40"),
        AdjustReading(reading="r2", means="tape", clearance="0.3", role="check", note="by the door"),
    )
    text = write(bench.job, list(bench.job.readings))
    before = bench.job.readings
    bench.do(SetReading(reading="r1", typed="35"), ImportReadings(body=SHELL, text=text))
    for old, new in zip(before, bench.job.readings, strict=True):
        assert (new.low_mm, new.high_mm, new.role, new.means, new.clearance_mm, new.note) == (
            old.low_mm, old.high_mm, old.role, old.means, old.clearance_mm, old.note,
        )  # fmt: skip
    assert true_sizes(bench.job, bench.job.bodies[0])[2] == pytest.approx(31)


def test_bad_rows_are_told_one_by_one_and_good_ones_come_in() -> None:
    bench = tube().do(AddReading(body=SHELL, kind="extent", axis="z"))
    rows = ["overall Z;3,12;cm;tape", "overall Z;;mm;", ";3;mm;", "lid;3;mm;", "overall Z;3;ell;"]
    text = "\n".join(["name;real;unit;means", *rows, "overall Z;3;mm;guess"])
    taken, problems = sorted_out(bench.job, bench.job.bodies, text)
    assert len(taken) == 1
    assert [problem.where for problem in problems] == ["line 3", "line 4", "line 6", "line 7", ""]
    bench.do(ImportReadings(body=SHELL, text=text))
    assert bench.job.readings[0].real_mm == pytest.approx(31.2)
    with pytest.raises(Refused) as told:
        read("what,how long\nx,3")
    assert told.value.code == "csv-columns"
    comma = read("name,real\nspan,3,5")
    assert "decimal comma" in comma.problems[0].says


def test_allowance_comes_after_the_correction() -> None:
    bench = tube().do(
        SetAllowance(body=SHELL, shrinkage=("0.5", "0.5", "1"), clearance=("-0.2", "-0.2", "0"))
    )
    body = bench.job.bodies[0]
    assert true_sizes(bench.job, body) == pytest.approx((40, 40, 30), abs=1e-6)
    assert allowed_sizes(bench.job, body) == pytest.approx((39.8 / 0.995, 39.8 / 0.995, 30 / 0.99), abs=1e-6)
    made = release(bench.job, bench, Order())
    assert made.files[0].file.size_mm == pytest.approx(allowed_sizes(bench.job, body), abs=1e-5)
    chain = survey(bench.job, bench).bodies[0].chain
    assert chain is not None
    assert chain.released_mm[0] == pytest.approx(39.8 / 0.995)
    with pytest.raises(Refused):
        bench.do(SetAllowance(body=SHELL, shrinkage=("30", "0", "0")))


@given(st.floats(-0.02, 0.02), st.lists(st.floats(10, 200), min_size=1, max_size=5))
def test_a_calibration_finds_the_shrinkage_that_was_there(share: float, nominals: list[float]) -> None:
    pairs = [Pair(axis="x", nominal_mm=n, measured_mm=n * (1 - share)) for n in nominals]
    calibration = calibrated("Garden bench M", "PLA", pairs, 0.05)
    assert calibration.shrinkage == pytest.approx((share,) * 3, abs=1e-12)
    assert calibration.assumed == ("y", "z")
    assert calibration.uncertainty[0] == pytest.approx(
        0.05 / math.sqrt(sum(n * n for n in nominals)), rel=1e-6
    )


def test_a_calibration_of_nothing_or_of_a_slip_is_refused() -> None:
    with pytest.raises(Refused):
        calibrated("m", "PLA", [], 0.05)
    with pytest.raises(Refused):
        calibrated("m", "PLA", [Pair(axis="x", nominal_mm=100, measured_mm=10)], 0.05)


def test_a_stretch_along_a_gauge_changes_nothing_square_to_it() -> None:
    bench = bench_of("wedge.stl", binary_stl(corners_of(_wedge()))).do(SettleUnit(source="s1", unit=Unit.CM))
    body = bench.job.bodies[0]
    mesh = bench.mesh(body.geometry)

    def at(*point: float) -> PickedSpot:
        vertex = int(np.flatnonzero((mesh.vertices == point).all(axis=1))[0])
        face, place = np.argwhere(mesh.faces == vertex)[0].tolist()
        weights = tuple(float(k == place) for k in range(3))
        return PickedSpot(anchor=Anchor(face=face, weights=weights, on="vertex"))

    slope = (at(10, 0, 0), at(0, 0, 10))
    bench.do(
        AddReading(body=SHELL, kind="points", spots=slope, typed="150"),
        AddReading(body=SHELL, kind="points", spots=(at(0, 0, 0), at(0, 8, 0))),
    )
    bench.do(SetFactor(body=SHELL, typed="1"), StretchAlong(reading="r1"))
    along, across = survey(bench.job, bench).bodies[0].readings
    assert along.model_mm == pytest.approx(150, rel=1e-12)
    assert across.model_mm == pytest.approx(80, rel=1e-12)
    points = true_points(bench.job, bench.job.bodies[0], mesh.vertices)
    assert true_sizes(bench.job, bench.job.bodies[0]) == pytest.approx(np.ptp(points, axis=0), rel=1e-12)
    facts = survey(bench.job, bench).bodies[0]
    k = 150 / (math.sqrt(200) * 10)
    assert facts.volume_mm3 == pytest.approx(400_000 * k)
    made = release(bench.job, bench, Order())
    assert "stretched" in made.files[0].file.chain
    bench.do(SetUp(source="s1", up="y"))
    points = true_points(bench.job, bench.job.bodies[0], mesh.vertices)
    assert true_sizes(bench.job, bench.job.bodies[0]) == pytest.approx(np.ptp(points, axis=0), rel=1e-12)
    bench.do(ResetCorrection(body=SHELL))
    assert true_sizes(bench.job, bench.job.bodies[0]) == (100, 100, 80)


def test_a_stretch_along_an_overall_size_meets_it() -> None:
    bench = bench_of("wedge.stl", binary_stl(corners_of(_wedge()))).do(SettleUnit(source="s1", unit=Unit.CM))
    bench.do(AddReading(body=SHELL, kind="extent", axis="x", typed="101"), ResetCorrection(body=SHELL))
    bench.do(StretchAlong(reading="r1"))
    assert true_sizes(bench.job, bench.job.bodies[0]) == pytest.approx((101, 80, 100), rel=1e-12)


def test_a_thread_is_known_by_its_climb() -> None:
    features = [one for one in features_of(screw()).listed if one.screw]
    assert len(features) == 2
    for one in features:
        assert one.kind == "thread"
        assert one.diameter == pytest.approx(8, rel=1e-3)
        assert one.pitch == pytest.approx(1.25, rel=0.02)
        assert abs(one.direction[2]) > 0.99


@pytest.mark.parametrize(("low", "high"), [(1.4, 5.0), (1.5, 4.4), (1.7, 7.3)])
def test_a_thread_that_is_cut_anywhere_keeps_its_axis_and_diameter(low: float, high: float) -> None:
    turned = threaded(4, 1.25, low, high).rotate((20, 35, 0))
    flanks = [feature for feature in features_of(mesh_of(turned)).listed if feature.screw]
    assert len(flanks) == 2
    for flank in flanks:
        assert flank.diameter == pytest.approx(8, rel=1e-7)
        assert flank.pitch == pytest.approx(1.25, rel=1e-3)
        assert np.linalg.norm(np.cross(flank.direction, flank.point)) < 1e-6


def test_a_thread_that_is_scaled_is_a_finding() -> None:
    bench = bench_of("spindle.stl", binary_stl(corners_of(screw()))).do(SettleUnit(source="s1", unit=Unit.MM))
    assert "thread" not in [finding.code for finding in survey(bench.job, bench).findings]
    bench.do(SetFactor(body=SHELL, typed="0.98"))
    (found,) = [finding for finding in survey(bench.job, bench).findings if finding.code == "thread"]
    assert "ø 7.84 × 1.2" in found.says
    assert "was ø 8.00 × 1.25" in found.says


def test_a_wall_too_thin_as_drawn_is_told_without_a_correction() -> None:
    bench = bench_of("tube.stl", binary_stl(corners_of(ring(20, 19.4, 30)))).do(
        SettleUnit(source="s1", unit=Unit.MM)
    )
    assert not [
        finding for finding in survey(bench.job, bench).findings if finding.code == "thin-wall"
    ]  # not listed yet
    body = bench.job.bodies[0].model_copy(update={"features": "listed"})
    bench.job = bench.job.with_body(body)
    (finding,) = [finding for finding in survey(bench.job, bench).findings if finding.code == "thin-wall"]
    assert "is 0.60, under two beads" in finding.says
    bench.job = bench.job.with_body(body.model_copy(update={"stray": True}))
    assert not [finding for finding in survey(bench.job, bench).findings if finding.code == "thin-wall"]


def test_a_gauge_between_places_needs_no_list_of_faces(monkeypatch: pytest.MonkeyPatch) -> None:
    bench = bench_of("tube.stl", binary_stl(corners_of(ring(10, 8, 20)))).do(
        SettleUnit(source="s1", unit=Unit.MM)
    )

    def listed(*_: object) -> Features:
        raise AssertionError("of a large body that would take a while")

    monkeypatch.setattr(Bench, "features", listed)
    spots = tuple(
        PickedSpot(anchor=Anchor(face=face, weights=(1.0, 0.0, 0.0), on="vertex")) for face in (0, 40)
    )
    bench.do(AddReading(body=SHELL, kind="points", spots=spots, typed="", sure=False))
    assert len(bench.job.readings) == 1
    assert survey(bench.job, bench).bodies  # nor does what the sheets show of it
    with pytest.raises(AssertionError):
        bench.do(
            AddReading(body=SHELL, kind="diameter", spots=(PickedSpot(feature=0),), typed="", sure=False)
        )
