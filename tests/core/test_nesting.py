"""Nesting and arranging: nothing overlaps, the gap is kept, what fits nowhere is told."""

import numpy as np
import pytest
import rectpack
import shapely
import shapely.affinity
from hypothesis import example, given, settings
from hypothesis import strategies as st

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.outlines import as_outline
from aimtrue.core.model.machine import SHIPPED, Margins, RoundVolume
from aimtrue.core.seating.actions import MoveSeat, SetCopies, SetMachine
from aimtrue.core.seating.arrangement.arranging import arranged
from aimtrue.core.seating.arrangement.nesting import Layout, NestingPart, nest
from aimtrue.core.seating.placement.places import places_of
from aimtrue.core.seating.tasks import ArrangeTask
from aimtrue.core.survey.survey import survey
from tests.core.test_seats import B, codes, pair, part
from tests.shapes import box

PLATE = np.array([[0.0, 0.0], [250.0, 0.0], [250.0, 210.0], [0.0, 210.0]])
TURN = np.arange(180) * np.pi / 90
ROUND = 90 + 90 * np.stack([np.cos(TURN), np.sin(TURN)], axis=1)


def mixed(seed: int, count: int) -> list[NestingPart]:
    """Boxes, angles and rings, one after the other."""
    rng = np.random.default_rng(seed)
    parts = []
    for number in range(count):
        wide, deep = rng.uniform(10, 60, 2)
        plain = shapely.box(0, 0, wide, deep)
        shapes = [
            plain,
            plain.difference(shapely.box(8, 8, wide + 1, deep + 1)),
            shapely.Point(0, 0).buffer(wide / 2).difference(shapely.Point(0, 0).buffer(wide / 3)),
        ]
        parts.append(NestingPart(f"part {number}", as_outline(shapes[number % 3]), f"part {number}"))
    return parts


def held(parts: list[NestingPart], found: Layout, room: np.ndarray, gap: float) -> None:
    """All parts are there once, within the room, and as far apart as was asked."""
    outlines = {nesting_part.id: nesting_part.outline for nesting_part in parts}
    assert sorted([part_placement.id for part_placement in found.laid] + list(found.unplaced)) == sorted(
        outlines
    )
    plates: dict[int, list[shapely.Geometry]] = {}
    for part_placement in found.laid:
        turned = shapely.affinity.rotate(outlines[part_placement.id], part_placement.turn, origin=(0, 0))
        x0, y0, x1, y1 = turned.bounds
        there = shapely.affinity.translate(
            turned, part_placement.x - (x0 + x1) / 2, part_placement.y - (y0 + y1) / 2
        )
        assert shapely.Polygon(room).buffer(1e-6).contains(there)
        plates.setdefault(part_placement.plate, []).append(there)
    for plate in plates.values():
        for i, shape in enumerate(plate):
            assert all(shape.distance(other) >= gap - 1e-9 for other in plate[:i])


@settings(max_examples=8, deadline=None)
@given(
    st.integers(0, 999),
    st.sampled_from(["any", "quarters", "none"]),
    st.sampled_from([0.0, 2.0, 7.5]),
    st.booleans(),
)
def test_what_is_laid_out_is_inside_and_apart(seed: int, turns: str, gap: float, rounded: bool) -> None:
    parts, room = mixed(seed, 14), ROUND if rounded else PLATE
    held(parts, nest(parts, room, gap, turns, seconds=0), room, gap)  # type: ignore[arg-type]


def test_a_part_goes_into_the_opening_of_another() -> None:
    ring = as_outline(shapely.Point(0, 0).buffer(88).difference(shapely.Point(0, 0).buffer(60)))
    parts = [
        NestingPart("ring", ring, "ring"),
        NestingPart("block", as_outline(shapely.box(0, 0, 70, 70)), "block"),
    ]
    layout = nest(parts, ROUND, 2.0, "quarters", seconds=0)
    assert layout.plates == 1
    held(parts, layout, ROUND, 2.0)


def test_what_is_too_long_goes_in_aslant_when_any_turn_is_allowed() -> None:
    long = [NestingPart("rail", as_outline(shapely.box(0, 0, 300, 10)), "rail")]
    assert nest(long, PLATE, 2.0, "quarters", seconds=0).unplaced == ("rail",)
    layout = nest(long, PLATE, 2.0, "any", seconds=0)
    assert layout.unplaced == ()
    held(long, layout, PLATE, 2.0)


def test_more_time_is_never_worse_and_stopping_keeps_the_best() -> None:
    parts = mixed(3, 16)
    first = nest(parts, PLATE, 2.0, "quarters", seconds=0)
    layouts: list[Layout] = []

    def tell(share: float, says: str, best: Layout) -> bool:
        layouts.append(best)
        return len(layouts) < 4

    stopped = nest(parts, PLATE, 2.0, "quarters", seconds=60, tell=tell)
    assert len(layouts) == 4
    assert not first.better_than(stopped)
    held(parts, stopped, PLATE, 2.0)


def test_copies_are_arranged_on_as_many_plates_as_they_take() -> None:
    bench = part(box(100, 90, 10)).do(SetCopies(body=B, typed="9"))
    assert "outside-machine" in codes(bench)
    action = arranged(bench.job, ArrangeTask(seconds=0, gap="3"), bench)
    bench.do(action)
    assert [plate.id for plate in bench.job.plates] == ["p1", "p2", "p3"]
    assert codes(bench) == set()
    counts = [
        sum(place.seat.plate == plate.id for place in places_of(bench.job, bench).values())
        for plate in bench.job.plates
    ]
    assert counts == [4, 4, 1]


def test_what_fits_nowhere_is_taken_off_and_told_with_its_excess() -> None:
    bench = pair(box(20, 20, 10), box(300, 215, 10), box(20, 20, 250))
    action = arranged(bench.job, ArrangeTask(seconds=0), bench)
    assert action.told == (
        "part 2 fits on no plate: too large in X by 50.00 mm, Y by 5.00 mm",
        "part 3 fits on no plate: too large in Z by 30.00 mm",
    )
    bench.do(action)
    assert [seat.plate for seat in survey(bench.job, bench).seats] == ["p1", "", ""]
    assert "not-seated" in codes(bench)


def test_what_is_lifted_on_purpose_stays() -> None:
    bench = pair(box(20, 20, 10), box(20, 20, 10)).do(MoveSeat(body="s1-2", x="60", y="60", lift="10"))
    action = arranged(bench.job, ArrangeTask(seconds=0), bench)
    assert [put.seat for put in action.puts] == [f"{B}~1"]


def test_a_round_plate_keeps_its_margins_and_brim_free() -> None:
    bench = part(box(40, 40, 10)).do(SetMachine(machine=SHIPPED[2]), SetCopies(body=B, typed="8"))
    bench.do(arranged(bench.job, ArrangeTask(seconds=0, turns="any"), bench))
    assert codes(bench) == set()


@pytest.mark.parametrize("gap", ["-1", "abc", "1e6"])
def test_gaps_that_are_none_are_refused(gap: str) -> None:
    with pytest.raises(Refused):
        arranged(part().job, ArrangeTask(gap=gap), part())


def sheet(key: str, *sizes: float) -> NestingPart:
    return NestingPart(key, shapely.box(0, 0, *sizes), key.split()[0])


ROOM = np.array([[0.0, 0], [250, 0], [250, 210], [0, 210]])


def round_plate(diameter: float) -> np.ndarray:
    return np.asarray(RoundVolume(diameter=diameter, height=100).plate(Margins()))


@pytest.mark.parametrize("size", [(249.5, 209.5), (250.0, 210.0), (209.9, 249.9)])
def test_what_fills_a_plate_goes_onto_it(size: tuple[float, float]) -> None:
    layout = nest([sheet("a", *size)], ROOM, 5, "quarters", 0)
    assert (layout.unplaced, layout.plates) == ((), 1)
    (laid,) = layout.laid
    assert (laid.x, laid.y) == pytest.approx((125, 105))


def test_a_disc_goes_into_a_round_machine_that_is_hardly_larger() -> None:
    disc = NestingPart("a", shapely.Point(0, 0).buffer(89.5, quad_segs=64), "a")
    assert not nest([disc], round_plate(180), 5, "none", 0).unplaced
    wider = NestingPart("a", shapely.Point(0, 0).buffer(90.1, quad_segs=64), "a")
    assert nest([wider], round_plate(180), 5, "any", 0).unplaced == ("a",)


def test_something_long_goes_in_aslant_where_it_goes_in_no_other_way() -> None:
    square = np.array([[0.0, 0], [150, 0], [150, 150], [0, 150]])
    bar = sheet("bar", 190, 8)
    assert nest([bar], square, 5, "quarters", 0).unplaced == ("bar",)
    (laid,) = nest([bar], square, 5, "any", 0).laid
    assert 35 < laid.turn % 90 < 55


def test_rows_of_boxes_take_no_more_plates_than_they_need() -> None:
    layout = nest([sheet(f"s {i}", 60, 60) for i in range(12)], ROOM, 2, "quarters", 0)
    assert layout.plates == 1
    boxes = [
        shapely.box(
            part_placement.x - 30, part_placement.y - 30, part_placement.x + 30, part_placement.y + 30
        )
        for part_placement in layout.laid
    ]
    assert min(a.distance(b) for i, a in enumerate(boxes) for b in boxes[:i]) >= 2 - 1e-6
    assert shapely.union_all(boxes).bounds == pytest.approx((4 - 2, 210 / 2 - 92, 248, 210 / 2 + 92), abs=40)


_FILLS_TWO = [(31, 61), (31, 31), (39, 120), (40, 82), (44, 43), (61, 100), (62, 84), (63, 82), (76, 114)]
_FILLS_TWO += [(88, 114), (100, 113), (105, 113), (109, 108)]


@example(sizes=_FILLS_TWO)
@settings(max_examples=20, deadline=None)
@given(sizes=st.lists(st.tuples(st.integers(20, 120), st.integers(20, 120)), min_size=2, max_size=14))
def test_boxes_take_no_more_plates_than_a_packer_of_boxes_needs(sizes: list[tuple[int, int]]) -> None:
    packer = rectpack.newPacker(rotation=True)
    for number, (width, depth) in enumerate(sizes):
        packer.add_rect(width + 3, depth + 3, rid=number)
    packer.add_bin(253, 213, count=len(sizes))
    packer.pack()
    layout = nest([sheet(f"{i} x", *size) for i, size in enumerate(sizes)], ROOM, 3, "quarters", 0)
    assert layout.plates <= len(packer)
    for number in range(layout.plates):
        here = [part_placement for part_placement in layout.laid if part_placement.plate == number]
        drawn = []
        for part_placement in here:
            width, depth = sizes[int(part_placement.id.split()[0])]
            width, depth = (depth, width) if part_placement.turn % 180 == 90 else (width, depth)
            drawn.append(
                shapely.box(
                    part_placement.x - width / 2,
                    part_placement.y - depth / 2,
                    part_placement.x + width / 2,
                    part_placement.y + depth / 2,
                )
            )
        assert all(a.distance(b) >= 3 - 1e-6 for i, a in enumerate(drawn) for b in drawn[:i])
        assert shapely.Polygon(ROOM).buffer(1e-6).contains(shapely.union_all(drawn))
