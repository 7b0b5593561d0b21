"""The solver against brute force, and against answers worked out by hand."""

from itertools import combinations

import numpy as np
import pytest
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st
from scipy.optimize import linprog

import aimtrue.core.truing.solving.inequalities
from aimtrue.core.gauges.bands import Band
from aimtrue.core.gauges.forms import CircleForm, Form, GapForm, GirthForm, SpanForm
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.truing.solving.problem import Demand, Freedom
from aimtrue.core.truing.solving.solve import interval, solve

ALL = (True, True, True)


def span(*vector: float) -> SpanForm:
    return SpanForm(np.array(vector, dtype=float))


def even(form: Form, wanted: float, off: float = 0.05, slack: float = 0.05) -> Demand:
    return Demand(form, Band(wanted - off, wanted + off, wanted, slack))


LENGTHS = st.floats(20, 300)
DEMANDS = st.lists(st.tuples(LENGTHS, st.floats(0.9, 1.1), st.floats(0.01, 3)), min_size=1, max_size=6)


def along_x(rows: list[tuple[float, float, float]]) -> list[Demand]:
    return [even(span(length, 0, 0), length * factor, off, off) for length, factor, off in rows]


def over(one: Demand, factors: Floats) -> Floats:
    """(n,): by how much a span is out of its band under each of (n, 3) factors."""
    assert isinstance(one.form, SpanForm)
    lengths = np.linalg.norm(factors * one.form.vector, axis=1)
    return np.maximum(np.maximum(one.band.low - lengths, lengths - one.band.high), 0.0)  # type: ignore[no-any-return]


def badness(demands: list[Demand], tried: Floats) -> Floats:
    """(n,): how badly each of (n,) even factors misses the bands."""
    factors = np.repeat(tried[:, None], 3, axis=1)
    return np.sum([(over(demand, factors) / demand.band.slack) ** 2 for demand in demands], axis=0)  # type: ignore[no-any-return]


def deviation(demands: list[Demand], tried: Floats) -> Floats:
    """(n,): how far each of (n,) even factors is from what is wanted."""
    spans = [demand.form.lengths(np.ones(3))[0] for demand in demands]
    rows = zip(demands, spans, strict=True)
    return np.sum(  # type: ignore[no-any-return]
        [((span * tried - (demand.band.wanted or 0)) / demand.band.slack) ** 2 for demand, span in rows],
        axis=0,
    )


@settings(max_examples=120, deadline=None)
@given(DEMANDS)
def test_one_factor_against_trying_many(rows: list[tuple[float, float, float]]) -> None:
    demands = along_x(rows)
    low = max(demand.band.low / demand.form.lengths(np.ones(3))[0] for demand in demands)
    high = min(demand.band.high / demand.form.lengths(np.ones(3))[0] for demand in demands)
    assume(abs(high - low) > 1e-7)
    solved = solve(demands, Freedom())
    k = solved.factors[0]
    assert solved.factors == (k, k, k)
    assert solved.meets == (low <= high)
    if solved.meets:
        tried = np.linspace(low, high, 2001)
        assert deviation(demands, np.array([k])) <= deviation(demands, tried).min() * (1 + 1e-7) + 1e-9
    else:
        tried = np.linspace(0.85, 1.15, 3001)
        assert badness(demands, np.array([k])) <= badness(demands, tried).min() * (1 + 1e-3) + 1e-6


@settings(max_examples=120, deadline=None)
@given(DEMANDS)
def test_the_conflict_is_a_smallest_one(rows: list[tuple[float, float, float]]) -> None:
    demands = along_x(rows)
    bounds = [interval(demand, Freedom(), np.ones(3)) for demand in demands]

    def excludes(some: tuple[int, ...]) -> bool:
        chosen = [bounds[i] for i in some]
        return max(one[0] for one in chosen if one) > min(one[1] for one in chosen if one) * (1 + 1e-8)

    solved = solve(demands, Freedom())
    pairs = [pair for pair in combinations(range(len(demands)), 2) if excludes(pair)]
    assert bool(solved.conflict) == bool(pairs) or not solved.meets
    if solved.conflict:
        assert len(solved.conflict) == 2
        assert excludes(solved.conflict)


VECTOR = st.tuples(*[st.floats(-150, 150)] * 3)


@settings(max_examples=60, deadline=None)
@given(
    st.lists(VECTOR, min_size=3, max_size=7),
    st.tuples(*[st.floats(0.8, 1.25)] * 3),
    st.tuples(*[st.booleans()] * 3),
)
def test_readings_that_can_be_met_are_met(
    vectors: list[tuple[float, ...]], factors: tuple[float, float, float], free: tuple[bool, bool, bool]
) -> None:
    assume(all(np.linalg.norm(vector) > 20 for vector in vectors))
    linked = [i for i in range(3) if not free[i]]
    true = np.array(factors)
    true[linked] = true[linked[0]] if linked else 1
    demands = [even(span(*vector), float(np.linalg.norm(vector * true)), 0.02) for vector in vectors]
    solved = solve(demands, Freedom(free=free))
    assert solved.meets
    assert solved.conflict == ()


def possible(demands: list[Demand], some: tuple[int, ...], wider: float = 0.0, reach: float = 100.0) -> bool:
    """By linear programming: whether squares of three factors meet some bands, each made wider."""
    rows = np.concatenate([demands[i].form.rows(np.ones(3)) for i in some])
    low = np.array([(demands[i].band.low - wider) ** 2 for i in some])
    high = np.array([(demands[i].band.high + wider) ** 2 for i in some])
    within = np.concatenate([rows, -rows]), np.concatenate([high, -low])
    return bool(linprog(np.zeros(3), *within, bounds=(1 / reach, reach)).status == 0)


# Whole numbers: a gauge runs along an axis or not; for a hair's breadth factors would be out of reach.
WHOLE = st.tuples(*(st.integers(-100, 100),) * 3)
TOLD = st.lists(st.tuples(WHOLE, st.floats(0.9, 1.1)), min_size=4, max_size=6)


@settings(max_examples=25, deadline=None)
@given(TOLD)
def test_with_three_factors_nothing_smaller_excludes_itself(
    rows: list[tuple[tuple[int, ...], float]],
) -> None:
    assume(all(np.linalg.norm(vector) > 20 for vector, _ in rows))
    demands = [even(span(*vector), float(np.linalg.norm(vector)) * off, 0.5, 0.5) for vector, off in rows]
    solved = solve(demands, Freedom(free=ALL))
    for size in range(1, 5):
        for combination in combinations(range(len(demands)), size):
            fits = possible(demands, combination)
            near = (possible(demands, combination, off, reach) for off, reach in ((-1e-4, 20), (1e-4, 1e8)))
            assume(all(one == fits for one in near))  # neither at the edge of a band nor of what is in reach
            if not fits:
                assert len(solved.conflict) == size
                assert not possible(demands, solved.conflict)
                return
    assert solved.conflict == ()


@settings(max_examples=40, deadline=None)
@example([((0.0, 0.0, 89.0), 0.970703125), ((0.0, 1.0, 67.0), 1.0078125), ((0.0, 5.0, 70.0), 1.015625)])
@given(st.lists(st.tuples(VECTOR, st.floats(0.97, 1.03)), min_size=2, max_size=5))
def test_three_factors_against_trying_many(rows: list[tuple[tuple[float, ...], float]]) -> None:
    assume(all(np.linalg.norm(vector) > 20 for vector, _ in rows))
    demands = [even(span(*vector), float(np.linalg.norm(vector)) * off, 1.0, 1.0) for vector, off in rows]
    solved = solve(demands, Freedom(free=ALL))

    def bad(factors: Floats) -> Floats:
        return np.sum([over(demand, factors) ** 2 for demand in demands], axis=0)  # type: ignore[no-any-return]

    assume(max(solved.factors) < 5 * min(solved.factors))  # farther than in reach it could be better
    best = float(bad(np.array([solved.factors]))[0])
    random = np.random.default_rng(0)
    around = np.array(solved.factors) * (1 + random.normal(0, 0.004, (1500, 3)))
    everywhere = random.uniform(0.93, 1.07, (1500, 3))
    assert best <= bad(np.concatenate([around, everywhere])).min() + 1e-5
    if not solved.meets and best > 1e-4:
        assert solved.conflict
        assert not solve([demands[i] for i in solved.conflict], Freedom(free=ALL)).meets
        for left in solved.conflict:
            rest = tuple(i for i in solved.conflict if i != left)
            met = not rest or solve([demands[i] for i in rest], Freedom(free=ALL)).meets
            # Where only factors farther out would meet them, it may take them for excluding each other.
            assert met or not possible(demands, rest, -1e-4, 20)


@pytest.mark.parametrize("second", [(0, 2, 20), (0, 1, 20), (0, 0, 21)])
def test_rounding_is_not_taken_for_a_way_out(second: tuple[float, float, float]) -> None:
    """Three readings a hair apart that exclude each other: what rounding leaves of them is no answer."""
    rows = [((0, 0, 75), 0.984375), (second, 0.984375), ((1, 1, 61), 1.015625), ((7, 4, 64), 1.0)]
    demands = [even(span(*vector), float(np.linalg.norm(vector)) * off, 1.0, 1.0) for vector, off in rows]
    solved = solve(demands, Freedom(free=ALL))
    assert np.isfinite(solved.factors).all()
    assert solved.conflict == (0, 2, 3)
    assert not possible(demands, solved.conflict)


def test_exact_to_the_last_digits() -> None:
    solved = solve([even(span(188.2, 0, 0), 171.5)], Freedom())
    assert solved.factors == pytest.approx((171.5 / 188.2,) * 3, rel=1e-15)


@pytest.mark.parametrize("length", [1e-6, 3e4, 5.97e7, 1e13])
def test_a_size_that_is_far_off_is_met_as_well(length: float) -> None:
    demands = [even(span(length, 0, 0), 49.6), even(span(0, 2 * length, 0), 99.2)]
    for freedom in (Freedom(), Freedom(free=(False, True, False)), Freedom(free=ALL)):
        solved = solve(demands, freedom)
        assert solved.meets
        assert solved.factors == pytest.approx((49.6 / length,) * 3, rel=1e-9)


def test_an_axis_without_a_reading_goes_with_the_others_and_is_named() -> None:
    demands = [even(span(100, 0, 0), 98), even(span(0, 100, 0), 96)]
    solved = solve(demands, Freedom(free=ALL))
    assert solved.factors == pytest.approx((0.98, 0.96, 0.97), rel=1e-3)
    assert solved.idle == (2,)
    linked = solve(demands[:1], Freedom(free=(True, False, False)))
    assert linked.factors == pytest.approx((0.98, 1, 1), rel=1e-9)


def test_a_limit_alone_moves_only_as_far_as_it_must() -> None:
    opening = Demand(span(100, 0, 0), Band(103, np.inf, None, 0.05))
    assert solve([opening], Freedom()).factors[0] == pytest.approx(1.03, rel=1e-9)
    met = Demand(span(100, 0, 0), Band(95, np.inf, None, 0.05))
    assert solve([met], Freedom()).factors[0] == pytest.approx(1, rel=1e-9)


def test_a_held_axis_makes_a_reading_impossible_and_is_named() -> None:
    solved = solve([even(span(100, 0, 0), 98)], Freedom(held=(True, False, False)))
    assert not solved.meets
    assert solved.conflict == (0,)
    assert solved.factors == pytest.approx((1, 1, 1), rel=1e-6)


def test_the_order_of_readings_does_not_matter() -> None:
    demands = [even(span(100, 3, 0), 98), even(span(0, 100, 9), 99), even(span(5, 0, 50), 51, 0.1)]
    for free in ((False, False, False), ALL):
        first, last = solve(demands, Freedom(free=free)), solve(demands[::-1], Freedom(free=free))
        assert first.factors == pytest.approx(last.factors, rel=1e-9)


FORMS = st.one_of(
    VECTOR.map(lambda v: SpanForm(np.array(v))),
    VECTOR.map(lambda v: GapForm(np.array(v))),
    st.lists(VECTOR, min_size=3, max_size=9).map(lambda v: GirthForm(np.array(v), 1.01)),
)


@settings(max_examples=80, deadline=None)
@given(FORMS, st.tuples(*[st.floats(0.7, 1.4)] * 3))
def test_a_row_gives_the_length_and_its_slope(form: Form, factors: tuple[float, float, float]) -> None:
    s = np.array(factors)
    (length,) = form.lengths(s)
    assume(length > 10)
    (row,) = form.rows(s)
    assert np.sqrt(row @ s**2) == pytest.approx(length, rel=1e-9)
    for i in range(3):
        step = 1e-6 * np.eye(3)[i]
        slope = (form.lengths(s + step)[0] - form.lengths(s - step)[0]) / 2e-6
        assert row[i] * s[i] / length == pytest.approx(slope, rel=1e-4, abs=1e-4)


def test_two_planes_stay_as_far_apart_as_their_stretched_points_say() -> None:
    normal = np.array([1.0, 2.0, 2.0]) / 3
    s = np.array([1.2, 0.9, 1.1])
    gap = GapForm(normal * 30)
    a, b = np.cross(normal, [1, 0, 0]), np.cross(normal, np.cross(normal, [1, 0, 0]))
    stretched = np.cross(a * s, b * s)
    expected = abs((normal * 30 * s) @ stretched) / np.linalg.norm(stretched)
    assert gap.lengths(s)[0] == pytest.approx(expected, rel=1e-12)


def test_a_circle_becomes_an_ellipse() -> None:
    circle = CircleForm(np.array([[10.0, 0, 0], [0, 10.0, 0]]))
    assert circle.lengths(np.array([1.1, 0.9, 2])) == pytest.approx((22, 18))
    tilted = CircleForm(np.array([[10.0, 0, 0], [0, 6.0, 8.0]]))
    greatest, least = tilted.lengths(np.array([1, 1, 1.5]))
    assert least == pytest.approx(20)
    assert greatest == pytest.approx(2 * np.hypot(6, 12))


def test_a_compromise_ends_where_nothing_is_gained_any_more(monkeypatch: pytest.MonkeyPatch) -> None:
    """Two readings across each other and a third along an axis of its own: rounding alone made 1600 steps."""
    demands = [even(span(0, 0, 12.7), 13), even(span(50.8, 0, 0), 60), even(span(0, 25.4, 0), 25.4)]
    base = (1.0236220472440833, 0.999999999999771, 1.0236220472440944)
    steps, real = [], aimtrue.core.truing.solving.inequalities.least_squares_within

    def counted(*asked: Floats) -> Floats | None:
        steps.append(1)
        return real(*asked)

    monkeypatch.setattr("aimtrue.core.truing.solving.solve.least_squares_within", counted)
    solved = solve(demands, Freedom(base, free=(False, False, True)))
    assert solved.conflict == (1, 2)
    assert solved.factors[0] * 50.8 < 59.95
    assert solved.factors[1] * 25.4 > 25.45
    assert len(steps) < 50
