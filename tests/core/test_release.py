"""Releases: written, read back, compared; and what the proof says when something is wrong."""

import math

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from aimtrue.core.chain.seat_turns import seat_matrix, turn_matrix
from aimtrue.core.chain.sizes import true_sizes
from aimtrue.core.errors import Refused, UnitUnsettled
from aimtrue.core.formats import read_model
from aimtrue.core.gauges.construction import PickedSpot
from aimtrue.core.intake.actions import Accept, SettleUnit, SetUp
from aimtrue.core.model.lengths import MM_PER, Unit
from aimtrue.core.model.ownership import seat_of
from aimtrue.core.model.readings import Anchor
from aimtrue.core.model.seats import Seat, Turn
from aimtrue.core.proof import ProofBroken
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.seating.actions import ResetSeat, TurnSeat
from aimtrue.core.seating.placement.places import places_of
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import AddReading, SetFactor, SizeAxis
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

B = "s1-1"
NUMBERS = st.floats(0.01, 5000).map(lambda value: float(np.float32(value)))


def settled(size: tuple[float, float, float] = (2, 3, 5), unit: Unit = Unit.MM) -> Bench:
    return bench_of("part.stl", binary_stl(corners_of(box(*size)))).do(SettleUnit(source="s1", unit=unit))


@settings(max_examples=60, deadline=None)
@given(
    st.tuples(NUMBERS, NUMBERS, NUMBERS),
    st.sampled_from(list(Unit)),
    st.floats(0.001, 1000),
    st.lists(
        st.tuples(st.sampled_from("xyz"), st.floats(-360, 360).filter(lambda d: abs(d) > 1e-6)), max_size=3
    ),
    st.sampled_from(["3mf", "stl", "stl-ascii", "obj"]),
    st.sampled_from(list(Unit)),
)
def test_release_then_inspect_gives_the_asked_size(size, unit, factor, turns, kind, written) -> None:  # type: ignore[no-untyped-def]
    longest = max(size) * MM_PER[unit] * factor
    assume(longest > 0.02)  # smaller than float32 can hold in the middle of a plate
    assume(longest / MM_PER[written] < 1e8)  # the second reader takes no larger 3MF coordinates
    bench = settled(size, unit).do(SetFactor(body=B, typed=repr(factor)))
    bench.do(*(TurnSeat(body=B, axis=axis, typed=repr(degrees)) for axis, degrees in turns))
    (made,) = release(bench.job, bench, Order(format=kind, unit=written)).files
    assert made.file.proof.holds, [check for check in made.file.proof.checks if not check.holds]

    back = read_model(f"a.{kind[:3]}", made.data)
    assert back.unit == (written if kind == "3mf" else None)
    mesh = back.whole().mapped(lambda v: v * MM_PER[written])
    upright = mesh.mapped(lambda v: v @ seat_matrix(seat_of(bench.job, bench.job.bodies[0])))
    asked = np.multiply(size, MM_PER[unit] * factor)
    step = float(np.spacing(np.float32(abs(mesh.vertices).max() / MM_PER[written]))) * MM_PER[written]
    # Either end is rounded to float32, and as text written so short that it brings just that number back.
    assert np.abs(upright.extents() - asked).max() <= 2 * math.sqrt(3) * step + 1e-9 * asked.max()


def test_a_release_stands_on_the_plate_and_centred() -> None:
    bench = settled((20, 30, 50)).do(TurnSeat(body=B, axis="x", typed="90"))
    mesh = read_model("a.stl", release(bench.job, bench, Order(format="stl")).files[0].data).whole()
    assert mesh.bounds().tolist() == [[115, 80, 0], [135, 130, 30]]


def test_an_own_place_is_kept_for_registration() -> None:
    bench = bench_of("part.stl", binary_stl(corners_of(box(2, 3, 5, at=(7, -8, 9)))))
    bench.do(SettleUnit(source="s1", unit=Unit.CM))
    mesh = read_model(
        "a.stl", release(bench.job, bench, Order(format="stl", place="own")).files[0].data
    ).whole()
    assert mesh.bounds().tolist() == [[70, -80, 90], [90, -50, 140]]


def test_y_up_files_are_released_upright() -> None:
    bench = settled((20, 30, 50)).do(SetUp(source="s1", up="y"))
    mesh = read_model("a.stl", release(bench.job, bench, Order(format="stl")).files[0].data).whole()
    assert mesh.extents().tolist() == [20, 50, 30]
    assert mesh.volume() > 0


def test_a_reading_is_measured_again_in_the_released_file() -> None:
    bench = settled((20, 30, 50))
    a, b = Anchor(face=0, weights=(1, 0, 0), on="vertex"), Anchor(face=7, weights=(0.2, 0.3, 0.5))
    bench.do(AddReading(body=B, spots=(PickedSpot(anchor=a), PickedSpot(anchor=b)), typed="2 ft 5"))
    checks = release(bench.job, bench, Order()).files[0].file.proof.checks
    reading = next(check for check in checks if check.code == "reading")
    assert reading.holds
    assert reading.asked == "736.60000 mm"
    bench.do(SizeAxis(body=B, axis="x", typed="10"))
    with pytest.raises(Refused, match="under its band"):
        release(bench.job, bench, Order())
    bench.do(Accept(code="reading-missed", reason="a model of it"))
    proof = release(bench.job, bench, Order()).files[0].file.proof
    assert any("accepted: a model of it" in code for code in proof.accepted)
    checks = release(bench.job, bench, Order()).files[0].file.proof.checks
    reading = next(check for check in checks if check.code == "reading")
    (now,) = survey(bench.job, bench).bodies[0].readings
    assert reading.asked == f"{now.model_mm:.5f} mm"
    assert reading.holds


def test_nothing_is_released_of_an_open_unit_or_an_open_body() -> None:
    open_unit = bench_of("part.stl", binary_stl(corners_of(box(2, 3, 5))))
    with pytest.raises(UnitUnsettled):
        release(open_unit.job, open_unit, Order())
    holed = bench_of("part.stl", binary_stl(corners_of(box(20, 30, 50))[1:])).do(
        SettleUnit(source="s1", unit=Unit.MM)
    )
    with pytest.raises(Refused) as told:
        release(holed.job, holed, Order())
    assert told.value.code == "stop-open"
    holed.do(Accept(body=B, code="open-edges", reason="a bowl"))
    proof = release(holed.job, holed, Order()).files[0].file.proof
    assert proof.holds
    assert not [check for check in proof.checks if check.code in ("closed", "volume")]
    with pytest.raises(Refused):
        release(holed.do(Accept(body=B, code="open-edges", accepted=False)).job, holed, Order())


def test_an_inside_out_body_is_stopped() -> None:
    bench = bench_of("part.stl", binary_stl(corners_of(box(20, 30, 50))[:, ::-1]))
    bench.do(SettleUnit(source="s1", unit=Unit.MM))
    assert [finding.code for finding in survey(bench.job, bench).findings] == ["inside-out"]


def test_a_size_too_small_for_the_file_is_not_called_proven() -> None:
    bench = settled((1, 1, 1), Unit.UM).do(SetFactor(body=B, typed="0.01"))
    with pytest.raises(ProofBroken) as told:
        release(bench.job, bench, Order())
    assert {check.code for check in told.value.proof.checks if not check.holds} == {"resolution"}


def test_quarter_turns_are_exact() -> None:
    for axis in ("x", "y", "z"):
        for degrees in (90, -90, 180, 270, 360, -180):
            assert np.isin(turn_matrix(Turn(axis=axis, degrees=degrees)), (-1, 0, 1)).all()
    np.testing.assert_array_equal(turn_matrix(Turn(axis="z", degrees=90)) @ [1, 0, 0], [0, 1, 0])
    np.testing.assert_array_equal(turn_matrix(Turn(axis="x", degrees=90)) @ [0, 1, 0], [0, 0, 1])
    np.testing.assert_array_equal(turn_matrix(Turn(axis="y", degrees=90)) @ [0, 0, 1], [1, 0, 0])


def test_turns_are_done_in_order() -> None:
    seat = Seat(subject=B, turns=(Turn(axis="x", degrees=90), Turn(axis="z", degrees=90)))
    np.testing.assert_array_equal(seat_matrix(seat) @ [0, 1, 0], [0, 0, 1])


@pytest.mark.parametrize("typed", ["", "0", "north", "361", "nan", "inf"])
def test_angles_that_are_none_are_refused(typed: str) -> None:
    with pytest.raises(Refused):
        settled().do(TurnSeat(body=B, axis="x", typed=typed))


def test_a_body_on_its_corner_touches_the_plate_and_the_room_is_exact() -> None:
    bench = settled((100, 100, 100))
    bench.do(TurnSeat(body=B, axis="x", typed="45"), TurnSeat(body=B, axis="y", typed="35.264389682754654"))
    low, high = places_of(bench.job, bench)[f"{B}~1"].bounds
    assert low[2] == pytest.approx(0, abs=1e-12)
    assert high[2] == pytest.approx(100 * math.sqrt(3))


def test_what_is_too_large_for_the_machine_is_said_by_how_much() -> None:
    bench = settled((300, 100, 100))
    room = survey(bench.job, bench).seats[0].room
    assert not room.inside
    assert [(excess.axis, excess.over_mm) for excess in room.excess] == [("x", 50)]
    assert (
        survey(bench.do(TurnSeat(body=B, axis="y", typed="90")).job, bench).seats[0].room.excess[0].axis
        == "z"
    )
    assert not survey(bench.do(ResetSeat(body=B)).job, bench).seats[0].room.inside
    full = survey(settled((250, 210, 220)).job, bench)
    assert full.seats[0].room.inside
    assert full.bodies[0].fits_as_it_lies
    assert full.seats[0].room.left_mm == 0
    assert survey(settled((240, 100, 100)).job, bench).seats[0].room.left_mm == 5
    assert not survey(settled((220, 250, 100)).job, bench).bodies[0].fits_as_it_lies


def test_true_sizes_do_not_change_with_the_seat() -> None:
    bench = settled()
    before = true_sizes(bench.job, bench.job.bodies[0])
    bench.do(TurnSeat(body=B, axis="z", typed="12.5"))
    assert true_sizes(bench.job, bench.job.bodies[0]) == before
