"""Stock in a job: made, checked against, printed, released, undone; and made again to the last bit."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest

from aimtrue.core.errors import Refused
from aimtrue.core.fit.actions import PairUp
from aimtrue.core.fit.between import fit_of, placed_bodies
from aimtrue.core.fit.room import survey_of
from aimtrue.core.intake.actions import MakeKit, SettleUnit
from aimtrue.core.model.division import AskCombination, AskPieces
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.ownership import standing_together
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.seating.actions import SetCopies
from aimtrue.core.stock.actions import SetPurpose
from aimtrue.core.stock.tasks import MakeStockTask, file_of, part_asked
from aimtrue.core.stock.through.answer import through
from aimtrue.core.stock.through.bores import bores_in
from aimtrue.core.stock.through.values import StockSpot
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import SetFactor
from tests.core.test_through import drill, plate, taken
from tests.shapes import Bench, bench_of, binary_stl


def with_stock(bench: Bench, *texts: str, **more: object) -> Bench:
    for text in texts:
        bench = bench.work(MakeStockTask.model_validate({"text": text, **more}))
    return bench


def clamp() -> Bench:
    return taken(plate() - drill(5.5, -1, 11))


def test_a_bolt_to_check_against_stands_on_no_plate_and_is_not_released() -> None:
    bench = with_stock(clamp(), "M5x20 socket")
    bolt = bench.job.bodies[1]
    assert (bolt.name, bolt.for_checking, bolt.health.closed) == ("M5x20 socket", True, True)
    assert [[body.name for body in group] for group in standing_together(bench.job)] == [["plate"]]
    for place in ("own", "origin", "seated"):
        made = release(bench.job, bench, Order(format="3mf", place=place, shape="each", pattern="{body}"))
        assert [file.file.bodies for file in made.files] == [("plate",)]
        assert all(file.file.proof.holds for file in made.files)
    with pytest.raises(Refused, match="is there to check against and is not released"):
        release(bench.job, bench, Order(bodies=(bolt.id,)))
    told = survey(bench.job, bench)
    assert not [finding for finding in told.findings if bolt.id in finding.bodies]
    assert told.releasable


def test_it_is_printed_when_it_is_marked_so_and_back_again() -> None:
    bench = with_stock(clamp(), "washer M5")
    washer = bench.job.bodies[1].id
    bench.do(SetPurpose(bodies=(washer,), for_checking=False))
    made = release(bench.job, bench, Order(format="3mf", place="own", shape="each", pattern="{body}"))
    assert [file.file.bodies for file in made.files] == [("plate",), ("M5 washer",)]
    bench.do(SetPurpose(bodies=(washer,), for_checking=True))
    assert len(standing_together(bench.job)) == 1


def test_a_job_of_things_to_check_against_alone_has_nothing_to_release() -> None:
    bench = with_stock(clamp(), "M5x20")
    bench.do(SetPurpose(bodies=(bench.job.bodies[0].id,), for_checking=True))
    assert not survey(bench.job, bench).releasable


def test_what_is_checked_against_is_a_real_thing_that_no_factor_changes() -> None:
    bench = with_stock(clamp(), "M5x20")
    bolt = bench.job.bodies[1].id
    with pytest.raises(Refused, match="kept as drawn"):
        bench.do(SetFactor(body=bolt, typed="1.1"))
    bench.do(SetPurpose(bodies=(bolt,), for_checking=False), SetFactor(body=bolt, typed="1.1"))


@pytest.mark.parametrize(
    ("text", "threaded"), [("M5x20 socket", True), ("box 30x20x10,1.5", False), ("gear m1 z12 w5", False)]
)
def test_its_file_is_made_again_to_the_last_bit_by_its_recipe(text: str, threaded: bool) -> None:
    bench = with_stock(clamp(), text, threaded=threaded, clearance="0.2" if threaded else "")
    source = bench.job.sources[1]
    assert source.made is not None
    assert source.made.threaded == threaded
    assert source.unit == Unit.MM
    assert file_of(source.made) == bench.original(source.sha256)


@pytest.mark.parametrize("file_format", ["step", "3mf", "stl"])
def test_a_box_and_its_lid_are_released_each_by_itself_with_proof(file_format: str) -> None:
    bench = with_stock(clamp(), "box 30x20x10,1.5,clearance 0.4", for_checking=False)
    names = {body.name: body.id for body in bench.job.bodies}
    assert set(names) == {"plate", "box", "lid"}
    (kit,) = (kit for kit in bench.job.kits if kit.name == "box")
    assert kit.free
    order = Order(format=file_format, place="own", shape="each", bodies=(names["box"], names["lid"]),
                  pattern="{body}")  # fmt: skip
    made = release(bench.job, bench, order)
    assert [file.file.size_mm for file in made.files] == [
        pytest.approx((33, 23, 11.5), abs=1e-4),
        pytest.approx((33, 23, 5.5), abs=1e-4),
    ]
    assert all(file.file.proof.holds for file in made.files)
    answer = fit_of(bench.job, placed_bodies(bench.job, bench.job.body(names["box"]),
                                             bench.job.body(names["lid"]), "0,0,0.5", bench))  # fmt: skip
    # Lifted by half a millimetre the lip has 0.2 at each side, and the lid 0.5 over the rim.
    assert {round(pair.clearance_mm, 4) for pair in answer.pairs} == {0.2, 0.5}


def test_a_bolt_and_a_nut_of_the_same_size_make_one_pair_of_threads() -> None:
    bench = with_stock(clamp(), "M5x20 socket", "nut M5", threaded=True)
    bench = with_stock(bench, "nut M6", threaded=True, clearance="0.3")
    bolt, nut, wide = bench.job.bodies[1:]
    answer = fit_of(bench.job, placed_bodies(bench.job, bolt, nut, "0,0,-10", bench))
    (pair,) = answer.pairs
    assert pair.kind == "thread and thread"
    assert pair.diameter_mm == pytest.approx((5, 5), abs=1e-5)
    assert pair.engaged_mm == pytest.approx(4.7, abs=1e-3)
    assert pair.says == ""
    other = fit_of(bench.job, placed_bodies(bench.job, bolt, wide, "0,0,-10", bench))
    assert all("pitches differ" in pair.says for pair in other.pairs if pair.kind == "thread and thread")


def test_a_bearing_in_its_seat_is_a_pair_with_the_clearance_of_both() -> None:
    bench = with_stock(taken(plate(7) - drill(22.1, -1, 8)), "bearing 608")
    seat, bearing = bench.job.bodies
    (pair,) = fit_of(bench.job, placed_bodies(bench.job, seat, bearing, "", bench)).pairs
    assert pair.kind == "bore and shaft"
    assert pair.diameter_mm == pytest.approx((22.1, 22.0), abs=1e-4)
    # ISO 492, class Normal: the ring may be up to 9 micrometres smaller.
    assert pair.says == "within the limits of its standard +0.100 to +0.109 mm"


def test_a_pin_in_its_bore_has_the_limits_of_m6_also_as_a_pair_that_is_kept() -> None:
    bench = with_stock(taken(plate(20) - drill(4.1, -1, 21)), "pin 4x20")
    block, pin = bench.job.bodies
    (pair,) = placed_bodies(bench.job, block, pin, "", bench).pairs
    a, b = pair.a.features[0], pair.b.features[0]
    bench.do(PairUp(kind=pair.kind, a=block.id, b=pin.id, a_feature=a, b_feature=b, intent="slides"))
    (kept,) = survey_of(bench.job, bench).pairs
    assert kept.says == "within the limits of its standard +0.088 to +0.096 mm"


def test_a_part_is_made_at_a_bore_wherever_that_is_and_however_it_points() -> None:
    tilt = 35.0
    solid = (plate() - drill(5.5, -1, 11)).rotate((tilt, 0, 0)).translate((7, 20, 30)).to_mesh64()
    corners = np.asarray(solid.vert_properties)[:, :3][np.asarray(solid.tri_verts)]
    bench = bench_of("plate.stl", binary_stl(corners)).do(SettleUnit(source="s1", unit=Unit.MM))
    (bore,) = bores_in(bench.job, bench)
    spot = StockSpot(body=bore.id, feature=bore.feature)
    bench = with_stock(bench, "M5x20 socket", "nut M5", "washer M5", spot=spot)
    _, bolt, nut, _ = bench.job.bodies
    way = np.array([0, -math.sin(math.radians(tilt)), math.cos(math.radians(tilt))])
    made = bench.job.source_of(bolt).made
    assert made is not None
    assert made.way == pytest.approx(way, abs=1e-5)
    assert made.point == pytest.approx(np.array([7, 20, 30]) + 10 * way, abs=1e-4)
    fit = fit_of(bench.job, placed_bodies(bench.job, bench.job.bodies[0], bolt, "", bench))
    (pair,) = (pair for pair in fit.pairs if pair.kind == "bore and shaft")
    assert pair.clearance_mm == pytest.approx(0.5, abs=1e-3)
    assert pair.offset_mm == pytest.approx(0, abs=1e-3)
    # The nut bears on the other side: nothing of both fills the same place.
    between = fit_of(bench.job, placed_bodies(bench.job, bench.job.bodies[0], nut, "", bench))
    assert between.overlap_mm3 == pytest.approx(0, abs=1e-3)
    assert between.least_mm == pytest.approx(0, abs=1e-4)
    assert file_of(made) == bench.original(bench.job.source_of(bolt).sha256)


def test_a_clearance_that_is_absurd_or_larger_than_the_thread_is_refused() -> None:
    with pytest.raises(Refused, match="over 2 mm"):
        part_asked(None, MakeStockTask(text="nut M5", threaded=True, clearance="3"))
    with pytest.raises(Refused, match="leaves little"):
        part_asked(None, MakeStockTask(text="nut M3", threaded=True, clearance="0.3"))


def test_two_parts_of_one_name_are_told_apart() -> None:
    bench = with_stock(clamp(), "M5x20", "M5x20")
    names = [body.name for body in bench.job.bodies]
    assert len(set(names)) == 3


def test_the_clamp_shells_on_a_made_tube_with_their_bolts_hold_as_fit_tells(demo: Path) -> None:
    bench = bench_of("clamp-shells.stl", (demo / "clamp-shells.stl").read_bytes())
    bench.do(SettleUnit(source="s1", unit=Unit.MM))
    shell = bench.job.bodies[0]
    grip = next(f for f in bench.features(shell).listed if f.kind == "hollow arc")
    bench.do(SetFactor(body=shell.id, typed=str(140.6 / grip.diameter)))
    bench = with_stock(bench, "tube 140.3 x 136 x 60", spot=StockSpot(body=shell.id, feature=grip.id))
    tube = bench.job.bodies[-1]
    fit = fit_of(bench.job, placed_bodies(bench.job, shell, tube, "", bench))
    pair = next(pair for pair in fit.pairs if pair.kind == "bore and shaft")
    assert pair.clearance_mm == pytest.approx(0.3, abs=2e-3)
    assert pair.engaged_mm == pytest.approx(44 * 140.6 / grip.diameter, abs=1e-2)
    bores = [bore for bore in bores_in(bench.job, bench) if bore.id == shell.id]
    assert len(bores) == 2
    for bore in bores:
        spot = StockSpot(body=bore.id, feature=bore.feature)
        answer = through(bench.job, "M5x35", spot, bench)
        assert answer.goes, answer.says
        assert {row.body for row in answer.bores} == {"clamp shells 1", "clamp shells 2"}
        bench = with_stock(bench, "M5x35", "nut M5", spot=spot)
    for bolt in (body for body in bench.job.bodies if body.name.startswith("M5x35")):
        between = fit_of(bench.job, placed_bodies(bench.job, shell, bolt, "", bench))
        assert between.overlap_mm3 == pytest.approx(0, abs=1e-6)
    made = release(bench.job, bench, Order(format="3mf", place="own", shape="each", pattern="{body}"))
    assert [file.file.bodies for file in made.files] == [("clamp shells 1",), ("clamp shells 2",)]


@pytest.mark.parametrize("shape", ["each", "together"])
@pytest.mark.parametrize("place", ["own", "origin", "seated"])
def test_in_a_kit_with_its_bolt_a_part_is_released_alone(place: str, shape: str) -> None:
    bench = with_stock(clamp(), "M5x20")
    plate_id, bolt = (body.id for body in bench.job.bodies)
    bench.do(MakeKit(bodies=(plate_id, bolt), name="clamp"), SetCopies(body=plate_id, typed="2"))
    order = Order(format="3mf", place=place, shape=shape, pattern="{job} {body}")
    made = release(bench.job, bench, order)
    assert {name.split(",")[0] for file in made.files for name in file.file.bodies} == {"plate"}
    assert all(file.file.proof.holds for file in made.files)
    assert not [finding for finding in survey(bench.job, bench).findings if finding.severity == "stop"]


def test_pieces_of_what_is_only_checked_against_are_so_too_and_a_groove_is_cut_with_its_ring() -> None:
    bench = with_stock(clamp(), "rod 10x30")
    bench.shape(AskPieces(planes=("z=10",)), bench.job.bodies[1].id)
    assert all(body.for_checking for body in bench.job.bodies if body.division)
    shaft = with_stock(clamp(), "rod 10x30", for_checking=False)
    shaft = with_stock(shaft, "circlip shaft 10")
    rod, ring = shaft.job.bodies[1:]
    shaft.shape(AskCombination(how="cut"), rod.id, ring.id)
    made = shaft.job.bodies[-1]
    assert not made.for_checking
    taken_off = shaft.mesh(rod.geometry).volume() - shaft.mesh(made.geometry).volume()
    assert taken_off == pytest.approx(math.pi / 4 * (10**2 - 9.6**2) * 1.1, rel=0.01)
    names = {name for file in release(shaft.job, shaft, Order(format="stl", place="own", shape="each",
             pattern="{body}")).files for name in file.file.bodies}  # fmt: skip
    assert names == {"plate", made.name}
