"""Gauges between two bodies of a kit: measured, solved, refused, found again, and measured in the file."""

import numpy as np
import pytest

from aimtrue.core.actions import apply
from aimtrue.core.chain.transforms import drawn_vertices, true_linear, true_points
from aimtrue.core.errors import Refused
from aimtrue.core.formats import stl, threemf
from aimtrue.core.gauges.construction import PickedSpot
from aimtrue.core.gauges.measure import length_of, sharing
from aimtrue.core.intake.actions import Delete, LeaveKit, Remake, SettleUnit, SetUp
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.mesh.features.listed import features_of
from aimtrue.core.mesh.mesh import merged
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.readings import Anchor
from aimtrue.core.proof import ProofBroken
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.seating.actions import TurnSeat
from aimtrue.core.survey.bodies import reshaped
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import AddReading, CorrectAlone, KeepBores, ResetCorrection, SetFactor
from demo.parts import built
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

NEAR, FAR = BodyId("s1-1"), BodyId("s1-2")


def posts(apart: float = 30.0) -> Bench:
    """Two posts of one file, 10 square and 40 high, with a gap between them along X."""
    pair = merged([box(10, 10, 40), box(10, 10, 40, at=(10 + apart, 0, 0))])
    bench = bench_of("posts.stl", binary_stl(corners_of(pair)))
    return bench.do(SettleUnit(source="s1", unit="mm"))


def facing(bench: Bench, body: BodyId, direction: tuple[float, float, float]) -> PickedSpot:
    """The flat face of a body that looks one way."""
    listed = features_of(bench.mesh(bench.job.body(body).geometry)).listed
    found = next(feature for feature in listed if np.dot(feature.direction, direction) > 0.99)
    return PickedSpot(body=body, feature=found.id)


def gap(bench: Bench, typed: str = "") -> Bench:
    spots = (facing(bench, NEAR, (1, 0, 0)), facing(bench, FAR, (-1, 0, 0)))
    return bench.do(AddReading(body=NEAR, kind="faces", spots=spots, typed=typed))


def test_the_gap_between_two_bodies_is_measured_and_met() -> None:
    bench = gap(posts(), "24")
    (reading,) = bench.job.readings
    assert reading.gauge.other == FAR
    assert bench.job.correction_of(bench.job.bodies[1]).factors == pytest.approx((0.8, 0.8, 0.8))
    assert length_of(bench.job, reading) == pytest.approx(24, abs=1e-9)
    (truth,) = survey(bench.job, bench).truths
    assert truth.lanes[0].wanted == pytest.approx(0.8)


def test_between_corners_and_along_a_slant() -> None:
    bench = posts()
    near, far = bench.mesh(NEAR), bench.mesh(FAR)
    spots = []
    for key, mesh, point in ((NEAR, near, (0, 0, 0)), (FAR, far, (50, 10, 40))):
        face, corner = np.argwhere((mesh.vertices[mesh.faces] == point).all(axis=2))[0]
        weights = tuple(float(k == corner) for k in range(3))
        spots.append(PickedSpot(body=key, anchor=Anchor(face=int(face), weights=weights, on="vertex")))
    bench.do(AddReading(body=NEAR, kind="points", spots=tuple(spots)))
    assert length_of(bench.job, bench.job.readings[0]) == pytest.approx(np.sqrt(50**2 + 10**2 + 40**2))


@pytest.mark.parametrize("shape", ["together", "each"])
@pytest.mark.parametrize("kind", ["3mf", "stl"])
def test_the_file_is_measured_between_its_bodies(shape: str, kind: str) -> None:
    bench = gap(posts(), "24")
    bench.do(
        AddReading(body=NEAR, kind="extent", axis="x", kit=True, typed="40"),
        SetUp(source="s1", up="y"),
        TurnSeat(body=NEAR, axis="z", typed="30"),
    )
    made = release(bench.job, bench, Order(format=kind, shape=shape))
    checks = [check for file in made.files for check in file.file.proof.checks if check.code == "reading"]
    assert [check.found for check in checks] == (
        ["24.00000 mm", "40.00000 mm"] if shape == "together" else []
    )


def test_a_file_in_which_the_bodies_stand_wrong_does_not_hold(monkeypatch: pytest.MonkeyPatch) -> None:
    bench = gap(posts(), "24")

    def moved(items: list[threemf.BuildObject], *more: object, **named: object) -> bytes:
        items[1] = threemf.BuildObject("far", items[1].mesh.mapped(lambda v: v + np.array([0.01, 0, 0])))
        return written(items, *more, **named)  # type: ignore[arg-type]

    written = threemf.write
    monkeypatch.setattr(threemf, "write", moved)
    with pytest.raises(ProofBroken) as told:
        release(bench.job, bench, Order())
    assert {check.code for check in told.value.proof.checks if not check.holds} == {"vertices"}


def test_bodies_that_are_corrected_differently_are_still_measured_but_not_solved() -> None:
    bench = gap(posts(), "24").do(ResetCorrection(body=NEAR))
    bench.do(CorrectAlone(body=FAR, on=True), SetFactor(body=FAR, typed="0.5"))
    (reading,) = bench.job.readings
    assert not sharing(bench.job, reading)
    assert length_of(bench.job, reading) == pytest.approx(10)  # from 10 to 40 x 0.5
    assert survey(bench.job, bench).truths == ()


def test_bodies_without_a_common_origin_are_refused() -> None:
    bench = posts().do(LeaveKit(bodies=(FAR,)))
    with pytest.raises(Refused, match="do not share an origin"):
        gap(bench)
    bench = posts().do(CorrectAlone(body=FAR, on=True))
    with pytest.raises(Refused, match="do not share"):
        gap(bench)
    with pytest.raises(Refused, match="on one body"):
        posts().do(AddReading(body=NEAR, kind="wall", spots=(PickedSpot(body=FAR, feature=0),)))


def test_the_gauge_goes_with_either_body() -> None:
    for key in (NEAR, FAR):
        bench = gap(posts(), "24").do(Delete(bodies=(key,)))
        assert bench.job.readings == ()


@pytest.mark.parametrize("apart", [30.0, 31.5, 90.0])
def test_a_revision_is_measured_anew_or_the_place_is_lost(apart: float) -> None:
    bench = gap(posts(), "24")
    taken = take_in("m1", "posts.stl", binary_stl(corners_of(bench_pair(apart))))
    bench.meshes |= taken.meshes
    come = tuple(body.model_copy(update={"source": "s1", "geometry": body.geometry}) for body in taken.bodies)
    follows = {come[0].id: NEAR, come[1].id: FAR}
    bench.job = apply(bench.job, Remake(says="revision", gone=(NEAR, FAR), come=come, follows=follows), bench)
    (reading,) = bench.job.readings
    assert (reading.body, reading.lost) == (come[0].id, apart > 40)
    if not reading.lost:
        assert reading.gauge.other == come[1].id
        # The reading drives, so what it says is met again at the new distance.
        assert length_of(bench.job, reading) == pytest.approx(24)
        assert bench.job.correction_of(bench.job.bodies[0]).factors[0] == pytest.approx(24 / apart)


def bench_pair(apart: float):  # type: ignore[no-untyped-def]
    return merged([box(10, 10, 40), box(10, 10, 40, at=(10 + apart, 0, 0))])


def clamp() -> Bench:
    bench = bench_of("clamp-shells.stl", (built() / "clamp-shells.stl").read_bytes())
    return bench.do(SettleUnit(source="s1", unit="mm"))


def test_a_gauge_between_centres_is_lost_with_its_bore() -> None:
    bench = clamp()
    key = bench.job.bodies[0].id
    listed = features_of(bench.mesh(bench.job.body(key).geometry)).listed
    bores = [feature.id for feature in listed if feature.kind == "bore"][:2]
    spots = tuple(PickedSpot(feature=bore) for bore in bores)
    bench.do(AddReading(body=key, kind="points", spots=spots, typed="188"))
    solid = box(212, 80, 44, at=(-106, 0, 0))  # the same place, without a bore
    taken = take_in("m1", "clamp-shells.stl", stl.write_binary(solid, "blank"))
    bench.meshes |= taken.meshes
    come = (taken.bodies[0].model_copy(update={"source": "s1"}),)
    bench.job = apply(
        bench.job, Remake(says="revision", gone=(key,), come=come, follows={come[0].id: key}), bench
    )
    assert bench.job.readings[0].lost
    assert "reading-lost" in [finding.code for finding in survey(bench.job, bench).findings]


def test_the_bench_is_given_kept_bores_where_the_matrix_puts_them_right() -> None:
    bench = clamp()
    body = bench.job.bodies[0]
    assert reshaped(bench.job, body) == ""
    bench.do(KeepBores(bodies=(body.id,), features=None, on=True))
    assert reshaped(bench.job, bench.job.body(body.id)) == ""  # nothing is scaled yet
    bench.do(SetFactor(body=body.id, typed="0.9"))
    body = bench.job.body(body.id)
    assert reshaped(bench.job, body)
    points = bench.mesh(body.geometry).vertices
    given = drawn_vertices(bench.job, body, points)
    linear, shift = true_linear(bench.job, body)
    assert np.allclose(given @ linear.T + shift, true_points(bench.job, body, points), atol=1e-9)
    same = (given == points).all(axis=1)
    assert same.any()
    assert not same.all()
    before = reshaped(bench.job, body)
    bench.do(SetFactor(body=body.id, typed="0.91"))
    assert reshaped(bench.job, bench.job.body(body.id)) != before
