"""The simulated receiving end: what arrives of a release, and what is not as it was meant."""

import numpy as np
import pytest

from aimtrue.core.model.lengths import Unit
from aimtrue.core.proof.record import Record
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.release.record import record_of
from aimtrue.standins.receiving import Arrival, ReceivingHabits, received
from tests.core.test_release_files import two


def arrival(habits: ReceivingHabits, **asked: object) -> Arrival:
    bench = two()
    made = release(bench.job, bench, Order.model_validate({"place": "own", **asked}))
    names = [file.file.name for file in made.files]
    record: Record = record_of(bench.job, [made], names)
    return received([(file.file.name, file.data) for file in made.files], record, habits)


def says(told: Arrival) -> list[str]:
    return [surpris.says for surpris in told.surprises]


@pytest.mark.parametrize("kind", ["3mf", "stl", "stl-ascii", "obj", "ply"])
def test_a_program_that_leaves_files_alone_gets_what_was_meant(kind: str) -> None:
    for shape in ("each", "merged"):
        told = arrival(ReceivingHabits(), format=kind, shape=shape)
        assert says(told) == ["2 bodies arrive as 1"] * (shape == "merged")
        assert (
            max(
                abs(np.array(received_object.high) - np.array(received_object.meant_high)).max()
                for received_object in told.objects
            )
            < 1e-5
        )


def test_a_unit_that_is_taken_for_another_is_told_by_how_much() -> None:
    told = arrival(ReceivingHabits(takes_for=Unit.IN), format="stl", shape="merged")
    assert "25.4 times too large: millimetre taken for inch" in says(told)
    told = arrival(ReceivingHabits(), format="stl", unit="in", shape="each")
    assert says(told) == ["25.4 times too small: inch taken for millimetre"]


def test_a_declared_unit_is_heeded_or_not() -> None:
    assert says(arrival(ReceivingHabits(takes_for=Unit.IN))) == []
    assert "25.4 times too large: millimetre taken for inch" in says(
        arrival(ReceivingHabits(takes_for=Unit.IN, heeds_unit=False))
    )


def test_a_lost_lift_names_the_body_that_lost_it() -> None:
    told = arrival(ReceivingHabits(puts_down=True), shape="each")
    assert [(surpris.body[-1], surpris.says) for surpris in told.surprises] == [
        ("2", "its lift of 5.00 mm is lost")
    ]
    assert any("moved against each other" in say for say in says(arrival(ReceivingHabits(puts_down=True))))


def test_what_is_centred_merged_or_enlarged_is_told() -> None:
    assert "moved by -22.00, -15.00 mm: its place on the plate is lost" in says(
        arrival(ReceivingHabits(centres=True))
    )
    assert "2 bodies arrive as 1" in says(arrival(ReceivingHabits(merges=True)))
    tiny = arrival(ReceivingHabits(enlarges=True, tiny_mm=50), shape="each")
    assert [surpris.says for surpris in tiny.surprises if "times as large" in surpris.says] == [
        "made 10 times as large, since it is tiny"
    ]
    assert tiny.simulated
