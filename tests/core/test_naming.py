"""Several bodies are named in one step, each with a name of its own."""

from __future__ import annotations

import pytest

from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import Rename, RenameAll
from tests.core.test_revision_changes import begun, block, plate
from tests.shapes import Bench


def three() -> Bench:
    bench = begun(plate(), block(100), block(200))
    ids = [body.id for body in bench.job.bodies]
    return bench.do(*(Rename(body=key, name=name) for key, name in zip(ids, "abc", strict=True)))


def named(bench: Bench, pattern: str, *numbers: int) -> list[str]:
    keys = tuple(bench.job.bodies[number].id for number in numbers)
    bench.do(RenameAll(bodies=keys, pattern=pattern))
    return [body.name for body in bench.job.bodies]


@pytest.mark.parametrize(
    ("pattern", "names"),
    [
        ("rib", ["rib 1", "b", "rib 2"]),
        ("  rib   {n} of 2 ", ["rib 1 of 2", "b", "rib 2 of 2"]),
        ("old {name}", ["old a", "b", "old c"]),
        ("{name}-{n}", ["a-1", "b", "c-2"]),
    ],
)
def test_a_pattern_names_each_in_the_order_of_the_job(pattern: str, names: list[str]) -> None:
    # The order in which they were ticked tells nothing.
    assert named(three(), pattern, 2, 0) == names


def test_one_body_needs_no_number_and_names_can_be_kept() -> None:
    assert named(three(), "rib", 1) == ["a", "rib", "c"]
    assert named(three(), "{name}", 0, 1, 2) == ["a", "b", "c"]


@pytest.mark.parametrize("pattern", ["", "   ", "{n}" + "x" * 90, "rib \x07{n}"])
def test_what_is_no_name_is_refused_and_nothing_is_renamed(pattern: str) -> None:
    bench = three()
    with pytest.raises(Refused):
        named(bench, pattern, 0, 1)
    assert [body.name for body in bench.job.bodies] == ["a", "b", "c"]


def test_a_name_that_another_body_has_is_refused() -> None:
    bench = three().do()
    bench.do(Rename(body=bench.job.bodies[1].id, name="rib 2"))
    with pytest.raises(Refused, match="another body is called rib 2"):
        named(bench, "rib", 0, 2)
    with pytest.raises(Refused, match="no body"):
        bench.do(RenameAll(bodies=("gone",), pattern="rib"))
