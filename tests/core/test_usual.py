"""Usual settings of one job are taken into another in one step, and hold for every body that is printed."""

from __future__ import annotations

import numpy as np
import pytest

from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import Duplicate, SettleUnit
from aimtrue.core.model.division import AskPieces
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.machine import SHIPPED
from aimtrue.core.model.materials import Material
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.seating.actions import AddPlate, SetMachine
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import ChooseMaterial, SetAllowance, SetLeastWall
from aimtrue.core.usual.handlers import TakeUsual
from aimtrue.core.usual.settings import UsualSettings, usual_of
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

A = BodyId("s1-1")


def job_of(x: float, y: float, z: float) -> Bench:
    return bench_of("part.stl", binary_stl(corners_of(box(x, y, z)))).do(
        SettleUnit(source="s1", unit=Unit.MM)
    )


def settled_once() -> UsualSettings:
    bench = job_of(20, 30, 50).do(
        SetMachine(machine=SHIPPED[-1]),
        ChooseMaterial(material=Material(name="PETG"), shrinkage=("0.4", "0.4", "0.2")),
        SetAllowance(body=A, of_material=True, clearance=("0.3", "0.3", "0")),
        SetLeastWall(typed="1.2"),
    )
    return usual_of(bench.job, " club PETG ")


def test_every_body_that_is_printed_has_them_and_is_released_so() -> None:
    usual = settled_once()
    assert usual.name == "club PETG"
    bench = job_of(60, 40, 10).do(Duplicate(bodies=(A,)), AddPlate())
    before = bench.job
    bench.do(TakeUsual(settings=usual))
    assert {plate.machine for plate in bench.job.plates} == {SHIPPED[-1]}
    assert (bench.job.material.name, bench.job.least_wall_mm) == ("PETG", 1.2)
    for facts in survey(bench.job, bench).bodies:
        assert facts.chain is not None
        wanted = (60.3 / 0.996, 40.3 / 0.996, 10 / 0.998)
        assert facts.chain.released_mm == pytest.approx(wanted, abs=1e-6)
    assert len(release(bench.job, bench, Order(shape="each", place="own")).files) == 2
    assert before.material.name != "PETG"
    # What was taken is what is kept again, to the last digit.
    assert usual_of(bench.job, usual.name).model_dump(exclude={"clearance"}) == usual.model_dump(
        exclude={"clearance"}
    )
    assert usual_of(bench.job, usual.name).clearance.mm == usual.clearance.mm


def test_a_divided_body_and_a_kit_are_as_when_it_is_typed_for_the_whole() -> None:
    usual = settled_once()
    sizes = []
    for take in (
        [TakeUsual(settings=usual)],
        [
            ChooseMaterial(material=usual.material),
            SetAllowance(body=A, of_material=True, clearance=("0.3", "0.3", "0")),
        ],
    ):
        bench = job_of(400, 150, 30)
        bench.shape(AskPieces(planes=("x=200",)))
        bench.do(*take)
        bench.shape_again()
        facts = survey(bench.job, bench).bodies
        sizes.append([one.chain.released_mm for one in facts if one.chain])
        assert not any(one.stale for one in facts)
    assert len(sizes[0]) == 3
    np.testing.assert_allclose(sizes[0], sizes[1], rtol=1e-12)


def test_what_makes_no_sense_here_is_refused_and_changes_nothing() -> None:
    usual = settled_once()
    tiny = job_of(0.2, 0.3, 0.4)
    less = usual.clearance.model_copy(update={"mm": (-0.3, -0.3, 0.0)})
    with pytest.raises(Refused, match="clearance"):
        tiny.do(TakeUsual(settings=usual.model_copy(update={"clearance": less})))
    absurd = usual.shrinkage.model_copy(update={"shares": (0.5, 0.0, 0.0)})
    with pytest.raises(Refused, match="20 %"):
        job_of(20, 30, 50).do(TakeUsual(settings=usual.model_copy(update={"shrinkage": absurd})))
    with pytest.raises(Refused, match="name"):
        usual_of(tiny.job, "  ")
