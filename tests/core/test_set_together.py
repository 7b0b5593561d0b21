"""One decision for several bodies: a factor, a shrinkage, a clearance; all of them or none."""

from __future__ import annotations

import numpy as np
import pytest

from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import LeaveKit, MakeKit, SettleUnit
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.stock.actions import SetPurpose
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.together import SetTogether
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of


def three(*, kit: bool = False) -> tuple[Bench, list[BodyId]]:
    """Three boxes 10, 20 and 30 long; the first two are a kit where it is asked for."""
    corners = np.concatenate([corners_of(box(10 * n, 5, 5, (0, 20 * n, 0))) for n in (1, 2, 3)])
    bench = bench_of("three.stl", binary_stl(corners)).do(SettleUnit(source="s1", unit=Unit.MM))
    keys = [body.id for body in bench.job.bodies]
    bench.do(LeaveKit(bodies=tuple(keys)))
    return (bench.do(MakeKit(bodies=tuple(keys[:2]), name="pair")) if kit else bench), keys


def lengths(bench: Bench) -> list[float]:
    """How long each is released along X, in mm."""
    bodies = survey(bench.job, bench).bodies
    return [body.chain.released_mm[0] for body in bodies if body.chain]


def test_a_factor_and_a_clearance_are_each_bodys_own_and_one_step() -> None:
    bench, keys = three()
    bench.do(SetTogether(bodies=(keys[0], keys[2]), factor="1.1", clearance="+0.3"))
    assert lengths(bench) == pytest.approx([11.3, 20.0, 33.3])


def test_a_kit_is_scaled_once_and_whole() -> None:
    bench, keys = three(kit=True)
    bench.do(SetTogether(bodies=(keys[0], keys[1]), factor="110 %"))
    assert lengths(bench) == pytest.approx([11.0, 22.0, 30.0])
    # One of a kit brings the others along, as it does when it is scaled alone.
    bench.do(SetTogether(bodies=(keys[1], keys[2]), factor="2"))
    assert lengths(bench) == pytest.approx([20.0, 40.0, 60.0])


def test_shrinkage_is_by_percent_and_what_is_unusual_is_asked_about_first() -> None:
    bench, keys = three()
    bench.do(SetTogether(bodies=tuple(keys), shrinkage="0.5 %"))
    assert lengths(bench) == pytest.approx([10 / 0.995, 20 / 0.995, 30 / 0.995])
    with pytest.raises(Refused, match="unusual"):
        bench.do(SetTogether(bodies=tuple(keys), shrinkage="9"))
    bench.do(SetTogether(bodies=tuple(keys), shrinkage="9", sure=True))
    assert lengths(bench)[0] == pytest.approx(10 / 0.91)


def test_where_one_refuses_none_is_changed() -> None:
    bench, keys = three()
    bench.do(SetTogether(bodies=tuple(keys), factor="1.5"))
    with pytest.raises(Refused):  # As a clearance it is more than half of the first, not of the last.
        bench.do(SetTogether(bodies=tuple(keys[::-1]), clearance="-8", factor="1"))
    assert lengths(bench) == pytest.approx([15.0, 30.0, 45.0])


def test_what_is_only_to_check_against_is_left_as_it_is() -> None:
    bench, keys = three()
    bench.do(SetPurpose(bodies=(keys[0],), for_checking=True))
    bench.do(SetTogether(bodies=tuple(keys), factor="2"))
    assert bench.job.correction_of(bench.job.body(keys[0])).factors == (1.0, 1.0, 1.0)
    assert bench.job.correction_of(bench.job.body(keys[1])).factors == (2.0, 2.0, 2.0)
    with pytest.raises(Refused, match="only to check against"):
        bench.do(SetTogether(bodies=(keys[0],), factor="2"))
    with pytest.raises(Refused, match="no body"):
        bench.do(SetTogether(bodies=("gone",), factor="2"))
