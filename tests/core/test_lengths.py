"""Lengths as people type them."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aimtrue.core.errors import Refused
from aimtrue.core.model.lengths import (
    LONGEST_MM,
    MM_PER,
    Unit,
    is_factor,
    parse_factor,
    parse_length,
    unit_named,
)


@pytest.mark.parametrize(
    ("typed", "mm"),
    [
        ("171.5", 171.5),
        (" 171.5 mm ", 171.5),
        ("17.15cm", 171.5),
        ("17,15 cm", 171.5),
        ("0,500", 0.5),
        ("6 3/4 in", 171.45),
        ('6 3/4"', 171.45),
        ("3/4 inch", 19.05),
        ("2 ft 5", 736.6),
        ("2'5\"", 736.6),
        ("2 ft 5 1/2 in", 749.3),
        ("1.2 m", 1200.0),
        ("500 µm", 0.5),
        (".5", 0.5),
        ("+3", 3.0),
        ("1e2", 100.0),
    ],
)
def test_reads(typed: str, mm: float) -> None:
    assert parse_length(typed) == mm


@pytest.mark.parametrize(
    ("typed", "code"),
    [
        ("", "length-empty"),
        ("   ", "length-empty"),
        ("0", "length-zero"),
        ("0 mm", "length-zero"),
        ("-3", "length-negative"),
        ("−3", "length-negative"),
        ("abc", "length-not-a-number"),
        ("nan", "length-not-a-number"),
        ("1/0 in", "length-not-a-number"),
        ("5 3", "length-not-a-number"),
        ("5-", "length-not-a-number"),
        ("5 in 2 ft", "length-not-a-number"),
        ("12 parsec", "unit-unknown"),
        ("100.001 m", "length-absurd"),
        ("1e400", "length-absurd"),
        ("1,500", "length-ambiguous"),
        ("1,500.5", "length-ambiguous"),
    ],
)
def test_refuses_with_a_reason(typed: str, code: str) -> None:
    with pytest.raises(Refused) as told:
        parse_length(typed)
    assert told.value.code == code
    assert told.value.remedy


def test_a_hundred_metres_is_still_taken() -> None:
    assert parse_length("100 m") == LONGEST_MM


@given(st.floats(1e-3, 90_000), st.sampled_from(list(Unit)))
def test_what_is_printed_is_read_back(mm: float, unit: Unit) -> None:
    number = mm / MM_PER[unit]
    read = parse_length(f"{number!r} {unit.value}")
    assert math.isclose(read, mm, rel_tol=1e-14)


@given(st.text(max_size=12))
def test_any_text_is_read_or_refused(text: str) -> None:
    try:
        mm = parse_length(text)
    except Refused:
        return
    assert 0 < mm <= LONGEST_MM


@pytest.mark.parametrize(
    ("typed", "factor"), [("0.98", 0.98), ("98 %", 0.98), ("x1.5", 1.5), ("×2", 2), ("3/4", 0.75)]
)
def test_reads_factors(typed: str, factor: float) -> None:
    assert parse_factor(typed) == pytest.approx(factor, rel=1e-15)


@pytest.mark.parametrize("typed", ["", "%", "0", "0 %", "-1", "2 in", "a", "1e9", "1e-9", "nan"])
def test_refuses_factors(typed: str) -> None:
    with pytest.raises(Refused):
        parse_factor(typed)


def test_a_typed_size_may_be_a_factor() -> None:
    assert is_factor("98 %")
    assert is_factor("x2")
    assert not is_factor("171.5")


def test_unit_spellings() -> None:
    assert unit_named("Inches") is Unit.IN
    with pytest.raises(Refused):
        unit_named("furlong")
