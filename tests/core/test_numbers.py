"""Numbers as people type them: one grammar for the core, the pages and, written a second time, the proof."""

import json
from pathlib import Path

import pytest

from aimtrue.core.errors import Refused
from aimtrue.core.model.lengths import parse_factor, parse_gap, parse_length, parse_offset
from aimtrue.core.model.numbers import parse_number
from aimtrue.core.proof.bodies.readings import plain_factor, plain_length

CASES = json.loads((Path(__file__).parents[2] / "web/src/blocks/typed.cases.json").read_text())


@pytest.mark.parametrize("case", CASES, ids=[case["typed"] for case in CASES])
def test_the_core_reads_what_the_pages_read(case: dict[str, object]) -> None:
    if case["reads"] is None:
        with pytest.raises(Refused):
            parse_number(str(case["typed"]))
    else:
        assert parse_number(str(case["typed"])) == case["reads"]


@pytest.mark.parametrize(
    ("typed", "mm"),
    [
        ("1'000", 1000.0),
        ("12'345.6 mm", 12345.6),
        ("1 000", 1000.0),
        ("2 500,5", 2500.5),
        ("1'000 in", 25400.0),
        ("2'5\"", 736.6),
        ("2' 5", 736.6),
        ("6 125/1000 in", 155.575),
        ("1,02", 1.02),
    ],
)
def test_grouped_digits_are_lengths_and_feet_stay_feet(typed: str, mm: float) -> None:
    assert parse_length(typed) == pytest.approx(mm, rel=1e-15)
    assert plain_length(typed) in (None, pytest.approx(mm, rel=1e-12))


@pytest.mark.parametrize("typed", ["1'000", "12 500", "1'000 in", "1'234'567 um"])
def test_the_proof_reads_grouped_digits_by_itself(typed: str) -> None:
    assert plain_length(typed) == pytest.approx(parse_length(typed), rel=1e-12)


def test_a_decimal_comma_means_the_same_in_every_field() -> None:
    assert parse_length("12,5") == parse_offset("12,5") == parse_number("12,5") == 12.5
    assert parse_factor("1,02") == parse_number("1,02") == 1.02
    assert plain_factor("1,02") == 1.02


@pytest.mark.parametrize("typed", ["0", "0 in", "0,0 mm", "0 ft", "-0"])
def test_nothing_is_zero_in_any_unit(typed: str) -> None:
    assert parse_offset(typed) == 0.0


def test_what_was_not_typed_is_not_zero() -> None:
    for parse in (parse_offset, parse_gap, parse_number):
        with pytest.raises(Refused):
            parse("  ")
