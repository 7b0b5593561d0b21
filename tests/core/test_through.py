"""Does it go through? Plates with known bores, counterbores and countersinks, cut by exact formulas."""

from __future__ import annotations

import math

import numpy as np
import pytest
from manifold3d import Manifold

from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import SettleUnit
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.model.lengths import Unit
from aimtrue.core.stock.through.answer import through
from aimtrue.core.stock.through.bores import bores_in
from aimtrue.core.stock.through.free_room import nearest_between, support_radius
from aimtrue.core.stock.through.values import StockSpot, ThroughAnswer
from aimtrue.core.truing.actions import SetFactor
from tests.shapes import Bench, bench_of, binary_stl, box

SIDES = 180
FACETS = math.cos(math.pi / SIDES)
"""What facets leave of a radius."""


def drill(diameter: float, low: float, high: float, x: float = 0.0) -> Manifold:
    return Manifold.cylinder(high - low, diameter / 2, diameter / 2, SIDES).translate((x, 0, low))


def plate(thick: float = 10.0, width: float = 40.0, low: float = 0.0) -> Manifold:
    return Manifold.cube((width, 30, thick)).translate((-width / 2, -15, low))


def taken(*solids: Manifold) -> Bench:
    whole = Manifold.compose(list(solids)).to_mesh64()
    corners = np.asarray(whole.vert_properties)[:, :3][np.asarray(whole.tri_verts)]
    bench = bench_of("plate.stl", binary_stl(corners))
    return bench.do(SettleUnit(source="s1", unit=Unit.MM))


def tried(bench: Bench, text: str, **more: bool) -> ThroughAnswer:
    bore = min(bores_in(bench.job, bench), key=lambda bore: bore.diameter_mm)
    return through(bench.job, text, StockSpot(body=bore.id, feature=bore.feature, **more), bench)


def room(answer: ThroughAnswer, what: str) -> float | None:
    return next(row.free_mm for row in answer.rooms if row.what == what)


def test_a_bolt_in_a_plain_bore_has_its_clearance_all_round_and_the_length_for_its_nut() -> None:
    answer = tried(taken(plate() - drill(5.5, -1, 11)), "M5x20")
    (bore,) = answer.bores
    assert (bore.role, bore.series) == ("passes", "medium")
    assert bore.clearance_mm == pytest.approx(0.25, abs=1e-4)
    assert (answer.goes, answer.ending, answer.grip_mm) == (True, "nut", pytest.approx(10))
    # 10 held, 4.7 of nut, two pitches of 0.8 beyond: 16.3 is the least, 20 the next length.
    assert (answer.right_mm, answer.right) == (20, "M5x20 hex")
    assert answer.engaged_mm == pytest.approx(4.7)
    assert room(answer, "bearing") == pytest.approx(15)
    assert answer.placement.point == pytest.approx((0, 0, 10), abs=1e-6)
    assert answer.placement.way == pytest.approx((0, 0, 1))


@pytest.mark.parametrize(
    ("text", "right"), [("M5x16", "M5x20 hex"), ("M5x50", "M5x20 hex"), ("M5x16 socket", "M5x20 socket")]
)
def test_another_length_is_told_with_the_right_one(text: str, right: str) -> None:
    answer = tried(taken(plate() - drill(5.5, -1, 11)), text)
    assert answer.right == right
    assert any("right standard length" in says for says in answer.says)


def test_washers_need_their_own_length_and_room() -> None:
    bench = taken(plate(9.5) - drill(5.5, -1, 11))
    assert tried(bench, "M5x16").right == "M5x16 hex"
    answer = tried(bench, "M5x16", washers=True)
    assert answer.right == "M5x20 hex"
    assert {row.what for row in answer.rooms} >= {"washer", "nut bearing"}
    assert answer.placement.point[2] == pytest.approx(10.5, abs=1e-6)


def test_a_bolt_too_thick_does_not_pass_and_says_where() -> None:
    answer = tried(taken(plate() - drill(5.5, -1, 11)), "M6x20")
    assert not answer.goes
    assert answer.bores[0].role == "narrow"
    assert "M6 with ø 6 mm does not pass the bore of plate, ø 5.5 mm" in answer.says


def test_a_counterbore_is_for_the_head_and_tells_how_much_is_free_around_it() -> None:
    bench = taken(plate() - drill(5.5, -1, 11) - drill(10, 5, 11))
    answer = tried(bench, "M5x12 socket")
    assert answer.goes
    assert answer.placement.point == pytest.approx((0, 0, 5), abs=1e-6)
    assert room(answer, "head") == pytest.approx(5 * FACETS, abs=1e-5)
    assert answer.grip_mm == pytest.approx(5)
    narrow = tried(taken(plate() - drill(5.5, -1, 11) - drill(8.2, 5, 11)), "M5x12 socket")
    other = tried(bench, "M5x12 socket", flipped=True)
    assert other.placement.way == pytest.approx((0, 0, -1))
    # The head does not go into the narrow one, so it stands on the other side.
    assert narrow.placement.way == pytest.approx((0, 0, -1))
    flipped = tried(taken(plate() - drill(5.5, -1, 11) - drill(8.2, 5, 11)), "M5x12 socket", flipped=True)
    assert not flipped.goes
    assert "the socket head takes 4.25 mm around the axis; 4.10 mm are free" in flipped.says


def test_a_countersunk_head_lies_in_a_cone_that_is_as_wide() -> None:
    def countersunk(wide: float) -> Bench:
        # A cone of 90° from the bore to ø wide at the face, and a hair beyond both.
        cone = Manifold.cylinder(wide / 2 - 2.7 + 0.2, 2.7, wide / 2 + 0.2, SIDES)
        return taken(plate() - drill(5.5, -1, 11) - cone.translate((0, 0, 10 - wide / 2 + 2.7)))

    good = tried(countersunk(11.6), "M5x20 csk")
    assert good.goes, good.says
    assert good.placement.point == pytest.approx((0, 0, 10), abs=1e-6)
    assert good.grip_mm == pytest.approx(10)
    shallow = tried(countersunk(9.0), "M5x20 csk")
    assert not shallow.goes
    assert any("countersunk head" in says for says in shallow.says)


def test_a_chamfered_bore_still_bears_its_head() -> None:
    chamfer = Manifold.cylinder(0.61, 2.75, 3.36, SIDES).translate((0, 0, 9.4))
    answer = tried(taken(plate() - drill(5.5, -1, 11) - chamfer), "M5x20 socket")
    assert answer.goes, answer.says
    assert answer.placement.point == pytest.approx((0, 0, 10), abs=1e-6)
    assert answer.grip_mm == pytest.approx(10)


def test_a_wall_beside_the_head_is_in_the_way_of_its_spanner() -> None:
    wall = Manifold.cube((4, 30, 20)).translate((5.0, -15, 9))
    answer = tried(taken((plate() + wall) - drill(5.5, -1, 9.9)), "M5x20 hex", flipped=False)
    # The open side has more room, and is where the head goes.
    assert answer.placement.way == pytest.approx((0, 0, -1))
    other = tried(taken((plate() + wall) - drill(5.5, -1, 11)), "M5x20", flipped=True)
    assert room(other, "spanner") == pytest.approx(5.0, abs=1e-6)
    assert any("a spanner on its head takes 6.00 mm" in says for says in other.says)


def test_a_bore_at_an_edge_has_no_face_for_the_head() -> None:
    answer = tried(taken(plate() - drill(5.5, -1, 11, x=17)), "M5x20")
    assert room(answer, "bearing") == pytest.approx(3.0, abs=1e-6)
    assert not answer.goes


def test_a_tapped_hole_tells_engagement_in_diameters_and_a_blind_one_its_end() -> None:
    bench = taken(plate(20) - drill(4.2, 5, 21))
    answer = tried(bench, "M5x12")
    assert (answer.ending, answer.bores[0].role) == ("tapped", "tapped")
    assert (answer.engaged_mm, answer.engaged_d) == (pytest.approx(12), pytest.approx(2.4))
    # Two diameters hold in plastic: 10 mm; the hole is 15 deep.
    assert answer.right == "M5x10 hex"
    long = tried(bench, "M5x20")
    assert not long.goes
    assert "meets the end of the bore 5.00 mm before its head bears" in long.says[0]


def test_two_plates_on_one_axis_are_held_together_and_one_out_of_line_takes_clearance() -> None:
    def pair(off: float) -> Bench:
        upper = plate(6, low=10) - drill(5.5, 9, 17, x=off)
        return taken(plate(10) - drill(5.5, -1, 11), upper.translate((0, 0, 0.5)))

    answer = tried(pair(0.0), "M5x25")
    assert {bore.body for bore in answer.bores} == {"plate 1", "plate 2"}
    assert [bore.low_mm for bore in answer.bores] == pytest.approx([0, 6.5], abs=1e-5)
    assert answer.grip_mm == pytest.approx(16.5, abs=1e-5)
    assert answer.right == "M5x25 hex"
    moved = tried(pair(0.4), "M5x25")
    assert not moved.goes
    assert min(bore.clearance_mm for bore in moved.bores) == pytest.approx(0.25 - 0.4, abs=1e-3)
    assert any("out of line" in says for says in moved.says)


def test_a_factor_counts_for_what_is_released() -> None:
    bench = taken(plate() - drill(5.5, -1, 11))
    bench.do(SetFactor(body=bench.job.bodies[0].id, typed="0.9"))
    answer = tried(bench, "M5x20")
    assert answer.bores[0].diameter_mm == pytest.approx(4.95, abs=1e-5)
    assert not answer.goes


def test_what_is_no_bolt_or_no_bore_is_refused() -> None:
    bench = taken(plate() - drill(5.5, -1, 11))
    body = bench.job.bodies[0].id
    (bore,) = bores_in(bench.job, bench)
    with pytest.raises(Refused, match="is no bolt"):
        through(bench.job, "nut M5", StockSpot(body=body, feature=bore.feature), bench)
    with pytest.raises(Refused, match="is no bore"):
        through(bench.job, "M5x20", StockSpot(body=body, feature=999), bench)
    with pytest.raises(Refused, match="falls through"):
        through(bench.job, "M2x20", StockSpot(body=body, feature=bore.feature), bench)


@pytest.mark.parametrize(
    ("low", "high", "least"),
    [(0, 1, 2.0), (-5, -1, math.inf), (-0.5, 0.5, 2.0), (3.9, 4.1, 0.0), (1, 3, 2.0)],
)
def test_room_around_an_axis_is_measured_between_heights(low: float, high: float, least: float) -> None:
    tube = Manifold.cylinder(4, 5, 5, 4000) - Manifold.cylinder(4, 2, 2, 4000)
    lid = Manifold.cube((12, 12, 1)).translate((-6, -6, 4))
    mesh = (tube + lid).to_mesh64()
    made = Mesh(np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts).astype(np.int32))
    assert nearest_between([made], low, high) == pytest.approx(least, abs=2e-6)


def test_a_triangle_that_reaches_through_the_heights_is_nearest_at_its_edge_or_inside() -> None:
    slab = box(10, 10, 10, at=(3, -5, -5))
    assert nearest_between([slab], -1, 1) == pytest.approx(3)
    assert nearest_between([box(2, 2, 2, at=(-1, -1, -1))], 0.9, 1.1) == 0
    assert nearest_between([box(2, 2, 2, at=(-1, -1, -1))], -0.5, 0.5) == pytest.approx(1)
    assert support_radius([slab], 0.0, 2.0) == 0
