"""From the numbers of a file to the plate: every step of the chain, and its inverse."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aimtrue.core.chain.seat_turns import seat_matrix, turn_matrix
from aimtrue.core.chain.transforms import true_points, turn_up
from aimtrue.core.intake.actions import SettleUnit, SetUp
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.lengths import MM_PER, Unit
from aimtrue.core.model.ownership import seat_of
from aimtrue.core.model.seats import Seat, Turn
from aimtrue.core.seating.actions import TurnSeat
from aimtrue.core.seating.placement.places import places_of, seated_points
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import FreeAxis, SetFactor
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

B = BodyId("s1-1")
ANGLES = st.tuples(st.sampled_from("xyz"), st.floats(-360, 360))


def fresh() -> Bench:
    return bench_of("part.stl", binary_stl(corners_of(box(2, 3, 5, at=(10, 20, 30)))))


@given(ANGLES)
def test_a_turn_is_a_rotation(turn: tuple[str, float]) -> None:
    matrix = turn_matrix(Turn(axis=turn[0], degrees=turn[1]))
    np.testing.assert_allclose(matrix @ matrix.T, np.eye(3), atol=1e-14)
    assert np.linalg.det(matrix) == pytest.approx(1)


@given(ANGLES)
def test_a_turn_back_undoes_it(turn: tuple[str, float]) -> None:
    there = turn_matrix(Turn(axis=turn[0], degrees=turn[1]))
    back = turn_matrix(Turn(axis=turn[0], degrees=-turn[1]))
    np.testing.assert_allclose(back @ there, np.eye(3), atol=1e-14)


def test_y_up_becomes_z_up_without_mirroring() -> None:
    turned = turn_up("y")
    np.testing.assert_array_equal(turned @ [0, 1, 0], [0, 0, 1])
    np.testing.assert_array_equal(turned @ [1, 0, 0], [1, 0, 0])
    assert np.linalg.det(turned) == pytest.approx(1)


def test_x_up_becomes_z_up_without_mirroring() -> None:
    turned = turn_up("x")
    np.testing.assert_array_equal(turned @ [1, 0, 0], [0, 0, 1])
    assert np.linalg.det(turned) == pytest.approx(1)


def test_each_step_of_the_chain_does_its_part() -> None:
    bench = fresh().do(SettleUnit(source="s1", unit=Unit.IN), SetUp(source="s1", up="y"))
    bench.do(FreeAxis(body=B, axis="z", free=True), SetFactor(body=B, axis="z", typed="2"))
    body = bench.job.bodies[0]
    point = true_points(bench.job, body, np.array([[1.0, 2.0, 3.0]]))[0]
    np.testing.assert_allclose(point, [25.4, -3 * 25.4, 2 * 2 * 25.4])


@given(st.sampled_from(list(Unit)), st.floats(0.01, 100), st.lists(ANGLES, max_size=4))
def test_distances_are_kept_by_the_seat(unit: Unit, factor: float, turns: list[tuple[str, float]]) -> None:
    bench = fresh().do(SettleUnit(source="s1", unit=unit), SetFactor(body=B, typed=repr(factor)))
    body = bench.job.bodies[0]
    seat = Seat(subject=B, turns=tuple(Turn(axis=axis, degrees=degrees) for axis, degrees in turns))
    vertices = bench.mesh(body.geometry).vertices
    job = bench.job.with_seats(B, (seat,))
    seated = seated_points(job, body, vertices, places_of(job, bench)[seat_of(job, body).id])
    scale = MM_PER[unit] * factor
    asked = np.linalg.norm(vertices[0] - vertices[6]) * scale
    assert np.linalg.norm(seated[0] - seated[6]) == pytest.approx(asked, rel=1e-12)
    assert seated[:, 2].min() == pytest.approx(0, abs=1e-9 * scale)
    middle = (seated.min(axis=0) + seated.max(axis=0)) / 2
    np.testing.assert_allclose(middle[:2], [125, 105], atol=1e-9 * max(scale, 1))


@pytest.mark.parametrize("turns", [[], ["90"], ["90", "-90"], ["30"], ["30", "60"]])
def test_what_the_pages_draw_is_what_is_released(turns: list[str]) -> None:
    bench = fresh().do(SettleUnit(source="s1", unit=Unit.CM))
    bench.do(*(TurnSeat(body=B, axis=axis, typed=typed) for axis, typed in zip("xyz", turns, strict=False)))
    body = bench.job.bodies[0]
    placement = survey(bench.job, bench).bodies[0].placement
    vertices = bench.mesh(body.geometry).vertices
    place = places_of(bench.job, bench)[seat_of(bench.job, body).id]
    drawn = vertices @ np.array(placement.seated).T + placement.seated_shift
    np.testing.assert_allclose(drawn, seated_points(bench.job, body, vertices, place), atol=1e-10)
    bounds = place.bounds
    np.testing.assert_allclose(bounds, [drawn.min(axis=0), drawn.max(axis=0)], atol=1e-10)


def test_turns_chain_from_the_left() -> None:
    bench = fresh().do(SettleUnit(source="s1", unit=Unit.MM))
    bench.do(TurnSeat(body=B, axis="x", typed="90"), TurnSeat(body=B, axis="y", typed="90"))
    matrix = seat_matrix(seat_of(bench.job, bench.job.bodies[0]))
    np.testing.assert_array_equal(matrix @ [0, 1, 0], [1, 0, 0])
