"""What unit a file may be in."""

import pytest

from aimtrue.core.formats import read_model
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.intake.unit import candidates, suggestion
from aimtrue.core.job import Machine, Vec3
from aimtrue.core.lengths import Unit
from demo.parts import PARTS


@pytest.mark.parametrize(
    ("numbers", "words", "unit"),
    [
        ((120.0, 45.5, 30.0), "", Unit.MM),
        ((0.12, 0.0455, 0.03), "", Unit.M),
        ((5.3125, 1.8125, 0.6875), "", Unit.IN),
        ((5.5, 1.75, 0.75), "made in inches", Unit.IN),
        ((5.5, 1.75, 0.75), "knob_cm.stl", Unit.CM),
        ((12.0, 4.5, 3.0), "", None),
    ],
)
def test_suggests_what_the_evidence_says(numbers: Vec3, words: str, unit: Unit | None) -> None:
    ranked = candidates(numbers, words, Machine())
    assert suggestion(ranked) == unit


def test_every_unit_is_shown_with_its_size_and_a_reason() -> None:
    ranked = candidates((2.0, 3.0, 5.0), "", Machine())
    assert {row.unit for row in ranked} == set(Unit)
    assert sum(row.score for row in ranked) == pytest.approx(1, abs=1e-3)
    assert all(row.reasons for row in ranked)
    assert next(row for row in ranked if row.unit is Unit.IN).size_mm == pytest.approx((50.8, 76.2, 127.0))


def test_within_a_word_is_not_a_word() -> None:
    ranked = candidates((12.0, 4.5, 3.0), "hammer, parameter, pinched", Machine())
    assert not any("says" in reason for row in ranked for reason in row.reasons)


def test_an_undeclared_unit_is_never_settled_by_itself(demo) -> None:  # type: ignore[no-untyped-def]
    for part in PARTS:
        taken = take_in("s1", part.file, (demo / part.file).read_bytes())
        assert taken.source.unit == (part.unit if part.declared else None)
        assert read_model(part.file, (demo / part.file).read_bytes()).unit == taken.source.unit


def test_no_demo_part_is_suggested_wrongly(demo) -> None:  # type: ignore[no-untyped-def]
    for part in PARTS:
        body = take_in("s1", part.file, (demo / part.file).read_bytes()).body
        numbers = tuple(h - low for low, h in zip(body.low, body.high, strict=True))
        assert suggestion(candidates(numbers, part.file, Machine())) in (part.unit, None)
