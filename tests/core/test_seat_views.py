"""What Seating draws: plans, ways to stand, first layers, layers, and what a move would come to."""

import manifold3d
import numpy as np
import pytest

from aimtrue.core.errors import Refused
from aimtrue.core.formats import threemf
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.ids import BodyId, PlateId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.machine import FirstLayerOutline, Machine, Process
from aimtrue.core.seating import views
from aimtrue.core.seating.actions import MoveSeat, RestOn, SetCopies, SetMachine, TakeOff, TurnSeat
from aimtrue.core.seating.layer_analysis.layers import layer_at, layers_now
from aimtrue.core.seating.orientation.ways_to_stand import ways_to_stand
from tests.core.test_seats import B, pair, part
from tests.core.test_standing import arch, tube
from tests.shapes import bench_of, box


def test_a_plan_has_the_true_outline_where_it_stands_and_how_full_it_is() -> None:
    bench = part(tube()).do(MoveSeat(body=B, x="60", y="70"))
    plan = views.plan_of(bench.job, PlateId("p1"), bench)
    (seat,) = plan.seats
    outer, inner = sorted((np.array(ring) for ring in seat.rings), key=lambda ring: -np.ptp(ring[:, 0]))
    np.testing.assert_allclose(outer.min(axis=0), [50, 60], atol=0.03)
    np.testing.assert_allclose(inner.max(axis=0), [66, 76], atol=0.03)
    area = 48 * np.sin(2 * np.pi / 96) * (100 - 36)
    assert plan.fill == pytest.approx(area / (250 * 210), rel=1e-5)


def test_ways_to_stand_are_ranked_by_a_wish_with_reasons() -> None:
    bench = part(arch())
    contact = ways_to_stand(bench.job, B, 1, bench, "contact")
    assert contact[0].contact_mm2 == pytest.approx(1200)
    assert [way.down for way in contact if way.chosen] == [(0, 0, -1)]
    overhang = ways_to_stand(bench.job, B, 1, bench, "overhang")
    assert overhang[0].why == "nothing to support"
    assert next(way for way in overhang if way.chosen).why == "9.00 cm³ of support"
    assert ways_to_stand(bench.job, B, 1, bench, "height")[0].height_mm == pytest.approx(20)
    assert abs(ways_to_stand(bench.job, B, 1, bench, "x")[0].down[0]) < 1e-9
    # Taking one makes it the chosen one, whatever turns there were.
    bench.do(TurnSeat(body=B, axis="x", typed="33"), RestOn(body=B, down=overhang[0].down))
    again = ways_to_stand(bench.job, B, 1, bench, "overhang")
    assert again[0].chosen
    wide = np.ptp(np.concatenate([np.array(ring) for ring in again[0].rings]), axis=0)
    assert wide[1] == pytest.approx(again[0].height_mm, abs=0.05)


def test_a_cube_has_six_ways_to_stand_that_are_alike() -> None:
    cube = part(box(10, 10, 10))
    assert len(ways_to_stand(cube.job, B, 1, cube)) == 6


def test_of_the_many_facets_of_something_round_a_few_are_told() -> None:
    assert len(ways_to_stand(part(tube()).job, B, 1, part(tube()))) <= 5


def test_the_first_layer_is_told_beside_what_it_would_be_if_level() -> None:
    bench = part(box(40, 25, 10)).do(TurnSeat(body=B, axis="y", typed="1"))
    first = views.first_layer(bench.job, B, 1, bench)
    assert first.area_mm2 == pytest.approx(25 * 0.1 / np.tan(np.radians(1)), rel=1e-3)
    assert (first.level_area_mm2, first.level_islands) == pytest.approx((1000, 1))
    with pytest.raises(Refused, match="on no plate"):
        views.first_layer(bench.do(TakeOff(body=B)).job, B, 1, bench)


def test_bridges_are_told_apart_from_what_has_to_be_held() -> None:
    first = views.first_layer(part(arch()).job, B, 1, part(arch()))
    assert (first.bridges, first.bridges_mm2, first.widest_bridge_mm) == pytest.approx((1, 600, 20))
    assert first.starts == ()


def test_what_lies_on_another_of_its_kit_hangs_over_nothing() -> None:
    items = [
        threemf.BuildObject("base", box(40, 40, 4)),
        threemf.BuildObject("mark", box(10, 10, 1, at=(15, 15, 4))),
    ]
    bench = bench_of("dial.3mf", threemf.write(items, Unit.MM, "", ""))
    first = views.first_layer(bench.job, bench.job.kits[0].id, 1, bench)
    assert (first.overhang_mm2, first.support_mm3, first.islands) == (0, 0, 1)


def test_layers_add_up_to_the_volume_and_each_has_its_outlines() -> None:
    bench = part(arch()).do(SetCopies(body=B, typed="2"))
    layers = layers_now(bench.job, PlateId("p1"), bench)
    assert len(layers.heights) == 100
    assert sum(layers.areas) * 0.2 == pytest.approx(2 * arch().volume(), rel=1e-6)
    assert (layers.islands[0], layers.islands[-1]) == (4, 2)
    layer = layer_at(bench.job, PlateId("p1"), 1, bench)
    assert [len(seat.rings) for seat in layer.seats] == [2, 2]
    for number in (0, 101):
        with pytest.raises(Refused, match="layers 1 to 100"):
            layer_at(bench.job, PlateId("p1"), number, bench)


def test_a_move_is_tried_without_changing_anything() -> None:
    bench = pair(box(20, 20, 10), box(10, 10, 10)).do(MoveSeat(body=B, x="100", y="100"))
    bench.do(MoveSeat(body="s1-2", x="130", y="100"))
    before = bench.job
    clear = views.tried(bench.job, BodyId("s1-2"), 1, -14.9, 0.0, bench)
    assert (clear.marks, clear.says) == ((), ())
    deep = views.tried(bench.job, BodyId("s1-2"), 1, -17.0, 0.0, bench)
    assert deep.marks == ("overlap",)
    assert deep.says == ("2.00 mm into part 1",)
    assert deep.beside == (f"{B}~1",)
    out = views.tried(bench.job, BodyId("s1-2"), 1, 120.0, 0.0, bench)
    assert (out.marks, out.says) == (("outside",), ("5.00 mm outside along X",))
    assert bench.job == before


def test_a_ball_has_no_way_to_stand() -> None:
    ball = part(mesh_of(manifold3d.Manifold.sphere(20, 128)))
    assert ways_to_stand(ball.job, B, 1, ball) == ()


def test_supports_stand_under_what_hangs_over_and_a_tilt_is_drawn_beside_level() -> None:
    """A mushroom: supports stand under its cap, around its stem."""
    stem = manifold3d.Manifold.cube((10, 10, 12)).translate((10, 10, 0))
    bench = part(mesh_of(stem + manifold3d.Manifold.cube((30, 30, 5)).translate((0, 0, 10))))
    first = views.first_layer(bench.job, B, 1, bench)
    outer, inner = sorted(
        (np.ptp(np.asarray(ring), axis=0) for ring in first.supports), key=lambda one: -one[0]
    )
    assert outer == pytest.approx([30, 30])
    assert inner == pytest.approx([10, 10])
    assert first.level_rings == ()
    bench.do(TurnSeat(body=B, axis="y", typed="1"))
    tilted = views.first_layer(bench.job, B, 1, bench)
    assert np.ptp(np.asarray(tilted.level_rings[0]), axis=0) == pytest.approx([10, 10], abs=0.02)
    assert np.ptp(np.asarray(tilted.rings[0]), axis=0)[0] < 7


def test_what_the_machine_draws_around_goes_around_the_first_layer_not_the_shadow() -> None:
    """A mushroom: a stem of 10 x 10 under a cap of 30 x 30; a brim of 4 mm goes about the stem."""
    stem = manifold3d.Manifold.cube((10, 10, 12)).translate((10, 10, 0))
    bench = part(mesh_of(stem + manifold3d.Manifold.cube((30, 30, 5)).translate((0, 0, 10))))
    assert views.plan_of(bench.job, PlateId("p1"), bench).around == ()
    brim = Machine(process=Process(around=FirstLayerOutline(kind="brim", reach=4)))
    bench = bench.do(SetMachine(machine=brim))
    (around,) = views.plan_of(bench.job, PlateId("p1"), bench).around
    assert np.ptp(np.asarray(around.rings[0]), axis=0) == pytest.approx([18, 18], abs=0.02)
