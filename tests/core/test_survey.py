"""What the screens show: chain, findings with their severity, and the marks of the sheets."""

import numpy as np
import pytest
from manifold3d import Manifold

from aimtrue.core.division.actions import Undivide
from aimtrue.core.intake.actions import Accept, SettleUnit
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.division import AskPieces
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import Unit
from aimtrue.core.survey.survey import survey
from aimtrue.core.survey.values import NewestRelease
from aimtrue.core.truing.actions import SetFactor, SizeAxis
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

B = "s1-1"
BOX = corners_of(box(20, 30, 50))
# The top of a box, and a box without its bottom: surfaces to be laid back to back with themselves.
SHEET = BOX[(BOX[:, :, 2] == BOX[:, :, 2].max()).all(axis=1)]
CURVED = BOX[[(BOX[number, :, 2] != BOX[0, 0, 2]).any() for number in range(len(BOX))]]


def settled(corners: np.ndarray, unit: Unit = Unit.MM) -> Bench:
    return bench_of("part.stl", binary_stl(corners)).do(SettleUnit(source="s1", unit=unit))


def codes(bench: Bench) -> dict[str, str]:
    return {finding.code: finding.severity for finding in survey(bench.job, bench).findings}


def marks(bench: Bench, released: NewestRelease | None = None) -> dict[str, tuple[str, str]]:
    return {sheet.name: (sheet.mark, sheet.says) for sheet in survey(bench.job, bench, released).sheets}


def test_a_sound_body_has_no_findings() -> None:
    assert codes(settled(BOX)) == {}
    assert survey(settled(BOX).job, settled(BOX)).releasable


def test_an_empty_job_has_nothing_to_release() -> None:
    facts = survey(Job(name="empty"), settled(BOX))
    assert not facts.settled
    assert not facts.releasable
    assert facts.bodies == ()


@pytest.mark.parametrize(
    ("corners", "found"),
    [
        (BOX[1:], {"open-edges": "stop"}),
        (BOX[:, ::-1], {"inside-out": "stop"}),
        (np.concatenate([SHEET, SHEET[:, ::-1]]), {"no-volume": "stop"}),
        (np.concatenate([CURVED, CURVED[:, ::-1]]), {"no-volume": "stop"}),
        (np.concatenate([BOX[:1, ::-1], BOX[1:]]), {"turned-edges": "stop"}),
        (np.concatenate([BOX, BOX[:1, [0, 0, 1]]]), {"set-aside": "note"}),
        (np.concatenate([BOX, BOX[:1]]), {"set-aside": "note"}),
        (np.concatenate([BOX, BOX[:1, ::-1]]), {"crowded-edges": "stop"}),
    ],
)
def test_damage_is_found(corners: np.ndarray, found: dict[str, str]) -> None:
    told = codes(settled(corners))
    assert found.items() <= told.items(), told


def test_a_thin_wire_across_a_large_box_encloses_something() -> None:
    """It takes a thousand millionth of the box around it, and is a solid all the same."""
    wire = Manifold.cylinder(500, 0.005, 0.005, 12).rotate((45, 35, 10))
    assert "no-volume" not in codes(settled(corners_of(mesh_of(wire))))


def test_an_accepted_stop_no_longer_stops() -> None:
    bench = settled(BOX[1:])
    assert not survey(bench.job, bench).releasable
    bench.do(Accept(body=B, code="open-edges", reason="a bowl"))
    facts = survey(bench.job, bench)
    assert facts.releasable
    assert facts.findings[0].accepted
    assert marks(bench)["intake"] == ("settled", "settled")


@pytest.mark.parametrize(
    ("unit", "unlikely"), [(Unit.MM, False), (Unit.UM, True), (Unit.M, True), (Unit.CM, False)]
)
def test_a_size_beyond_reason_wants_a_look(unit: Unit, unlikely: bool) -> None:
    assert ("size-unlikely" in codes(settled(BOX, unit))) == unlikely


def test_the_chain_multiplies_out_exactly_as_shown() -> None:
    bench = settled(BOX, Unit.IN).do(SizeAxis(body=B, axis="y", typed="171.5"))
    chain = survey(bench.job, bench).bodies[0].chain
    assert chain is not None
    for number, factor, size in zip(chain.number, chain.factor, chain.size_mm, strict=True):
        assert number * chain.mm_per_unit * factor == size
    assert np.multiply(chain.size_in, 25.4) == pytest.approx(chain.size_mm)


def test_volume_and_area_follow_the_correction() -> None:
    bench = settled(BOX, Unit.CM).do(SetFactor(body=B, typed="0.5"))
    facts = survey(bench.job, bench).bodies[0]
    assert facts.volume_mm3 == pytest.approx(20 * 30 * 50 * 1000 / 8)
    assert facts.area_mm2 == pytest.approx(6200 * 100 / 4)


def test_the_sheets_say_how_far_the_work_is() -> None:
    open_unit = bench_of("part.stl", binary_stl(BOX))
    assert marks(open_unit)["intake"] == ("stop", "1 stop")
    assert marks(open_unit)["truing"] == ("blank", "")
    bench = settled(BOX)
    assert marks(bench)["truing"] == ("settled", "as in file")
    bench.do(SizeAxis(body=B, axis="x", typed="25"))
    assert marks(bench)["truing"] == ("settled", "trued")
    assert marks(open_unit)["fit"] == ("blank", "")
    assert marks(bench)["fit"] == ("settled", "1 of 1 hold")  # it goes into the machine
    assert marks(bench)["division"] == ("blank", "")
    bench.shape(AskPieces(planes=("x=10",)))
    assert marks(bench)["division"] == ("settled", "2 pieces")
    bench.do(SizeAxis(body=B, axis="x", typed="300"))
    assert marks(bench)["division"] == ("look", "made again …")
    bench.do(Undivide(division=bench.job.divisions[0].id))
    assert marks(bench)["seating"] == ("look", "1 look")
    assert marks(bench)["release"] == ("blank", "")
    assert marks(bench, NewestRelease(number=2, current=True))["release"] == ("settled", "r2 proven")
    assert marks(bench, NewestRelease(number=2, current=False))["release"] == ("look", "changed since r2")
