"""The tables of standards, held against rules that every standard has: no row can be a slip of the key."""

from __future__ import annotations

import math
from itertools import pairwise

import pytest

from aimtrue.core.model.bolts import BOLTS
from aimtrue.core.model.threads import METRIC_THREADS, THREADS, UNIFIED_THREADS, profile_of
from aimtrue.core.stock.tables.nuts_and_washers import INSERTS, NUT_KINDS, NUTS, WASHERS
from aimtrue.core.stock.tables.screws import HEAD_KINDS, HEADS, INCH_LENGTHS, METRIC_LENGTHS
from aimtrue.core.stock.tables.shaft_parts import BEARING_SIZES, GROOVES, KEY_SIZES, PIN_SIZES

_DIAMETER = {thread.size: thread.diameter for thread in THREADS}


def grows(numbers: list[float]) -> bool:
    return all(a <= b for a, b in pairwise(numbers))


@pytest.mark.parametrize("metric", [True, False])
@pytest.mark.parametrize("kind", HEAD_KINDS)
def test_heads_are_wider_than_their_thread_and_grow_with_it(kind: str, metric: bool) -> None:
    rows = [head for head in HEADS if head.kind == kind and head.size.startswith("M") == metric]
    assert len(rows) >= 8
    for head in rows:
        d = _DIAMETER[head.size]
        assert 1.3 * d < head.across < 2.6 * d, head
        assert 0.35 * d < head.height <= 1.001 * d, head
        assert head.socket < head.height, head
        assert head.key < head.across or kind == "hex", head
        # A key that is in a socket leaves material around its corners.
        assert kind == "hex" or head.key / math.cos(math.pi / 6) < head.across, head
        assert head.lengths[0] < head.lengths[1]
    for name in ("across", "height", "key"):
        assert grows([getattr(head, name) for head in rows]), (kind, name)


@pytest.mark.parametrize(
    "head", [head for head in HEADS if head.kind == "countersunk"], ids=lambda head: head.size
)
def test_a_countersunk_head_is_as_high_as_its_angle_makes_it(head) -> None:  # type: ignore[no-untyped-def]
    by_angle = (head.across - _DIAMETER[head.size]) / 2 / math.tan(math.radians(head.angle_deg / 2))
    assert head.height == pytest.approx(by_angle, rel=0.01)


def test_socket_heads_are_as_high_as_their_diameter() -> None:
    for head in HEADS:
        if head.kind == "socket":
            assert head.height == pytest.approx(_DIAMETER[head.size])


def test_bolt_and_hexagon_nut_take_one_spanner() -> None:
    nuts = {nut.size: nut.across for nut in NUTS if nut.kind == "hex" and nut.size.startswith("M")}
    heads = {head.size: head.across for head in HEADS if head.kind == "hex" and head.size.startswith("M")}
    assert nuts == heads


@pytest.mark.parametrize("metric", [True, False])
@pytest.mark.parametrize("kind", NUT_KINDS)
def test_nuts_are_wider_than_their_thread_and_grow_with_it(kind: str, metric: bool) -> None:
    rows = [nut for nut in NUTS if nut.kind == kind and nut.size.startswith("M") == metric]
    for nut in rows:
        d = _DIAMETER[nut.size]
        assert 1.45 * d < nut.across < 2.3 * d, nut
        assert (0.45 if kind == "square" else 0.65) * d < nut.height < 1.6 * d, nut
    assert grows([nut.across for nut in rows])
    assert grows([nut.height for nut in rows])


def test_lock_nuts_are_higher_than_plain_ones_and_square_thin_ones_lower() -> None:
    height = {(nut.kind, nut.size): nut.height for nut in NUTS}
    for (kind, size), mm in height.items():
        plain = height[("hex", size)]
        if size.startswith("M"):
            assert (mm > plain) == (kind == "lock") or kind == "hex"


@pytest.mark.parametrize("large", [True, False])
def test_a_washer_passes_its_bolt_and_is_wider_than_its_head(large: bool) -> None:
    heads = {head.size: head for head in HEADS if head.kind == "hex"}
    for washer in WASHERS:
        if washer.large != large:
            continue
        d = _DIAMETER[washer.size]
        assert d < washer.hole < 1.16 * d + 0.35, washer
        assert washer.outer > washer.hole * (2.4 if large else 1.65), washer
        assert washer.outer >= heads[washer.size].across
        assert 0.05 * d < washer.thickness < 0.36 * d
        bolt = next((bolt for bolt in BOLTS if bolt.name.removesuffix(" in") == washer.size), None)
        # The hole of a washer is about the fine clearance hole of ISO 273.
        if bolt is not None and washer.size.startswith("M"):
            assert washer.hole == pytest.approx(bolt.least, abs=0.05)


def test_pitches_are_those_of_the_preferred_series_and_coarse_ones_grow() -> None:
    series = {0.2, 0.25, 0.35, 0.4, 0.45, 0.5, 0.7, 0.75, 0.8, 1, 1.25, 1.5, 1.75, 2, 2.5, 3}
    assert {thread.pitch for thread in METRIC_THREADS} <= series
    coarse = [thread for thread in METRIC_THREADS if thread.coarse]
    assert grows([thread.pitch for thread in coarse])
    assert grows([thread.diameter for thread in coarse])
    for thread in THREADS:
        finest = max(other.pitch for other in THREADS if other.size == thread.size)
        assert thread.coarse == (thread.pitch == finest)
        assert thread.root < thread.minor < thread.effective < thread.diameter
        assert thread.root > 0.6 * thread.diameter
    # Numbered sizes are 0.060 in and 0.013 in a number; 1/4 is a quarter of an inch.
    for thread in UNIFIED_THREADS:
        if thread.size.startswith("#"):
            assert thread.diameter == pytest.approx(25.4 * (0.060 + 0.013 * int(thread.size[1:])))
        else:
            above, below = thread.size.split("/")
            assert thread.diameter == pytest.approx(25.4 * int(above) / int(below))


@pytest.mark.parametrize(
    ("size", "minor", "root", "effective"),
    [("M5", 4.134, 4.019, 4.480), ("M8x1", 6.917, 6.773, 7.350), ("M24", 20.752, 20.319, 22.051)],
)
def test_diameters_of_threads_are_those_that_iso_724_lists(
    size: str, minor: float, root: float, effective: float
) -> None:
    thread = next(thread for thread in THREADS if thread.name == size)
    assert (thread.minor, thread.root, thread.effective) == pytest.approx((minor, root, effective), abs=6e-4)


@pytest.mark.parametrize("internal", [True, False])
def test_a_profile_is_one_pitch_long_with_flanks_of_thirty_degrees(internal: bool) -> None:
    pieces = profile_of(10, 1.5, internal=internal)
    assert pieces[-1].heights[1] - pieces[0].heights[0] == pytest.approx(1.5)
    for before, after in pairwise((*pieces, pieces[0])):
        assert before.radii[1] == after.radii[0]
    for flank in (pieces[1], pieces[3]):
        across = abs(flank.radii[1] - flank.radii[0])
        assert (flank.heights[1] - flank.heights[0]) / across == pytest.approx(math.tan(math.pi / 6))
    widened = profile_of(10, 1.5, internal=internal, play=0.2)
    assert widened[0].radii[0] - pieces[0].radii[0] == pytest.approx(0.1 if internal else -0.1)


def test_tapping_holes_are_about_the_minor_diameter() -> None:
    for bolt in BOLTS:
        thread = next(thread for thread in THREADS if thread.name == bolt.name.removesuffix(" in"))
        assert thread.minor - 0.15 * thread.pitch < bolt.tap < thread.minor + 0.35 * thread.pitch


def test_shaft_parts_grow_and_leave_walls() -> None:
    assert grows([pin.diameter for pin in PIN_SIZES])
    assert grows([pin.chamfer for pin in PIN_SIZES])
    assert all(0.12 * pin.diameter <= pin.chamfer <= 0.25 * pin.diameter for pin in PIN_SIZES)
    for key, following in pairwise(KEY_SIZES):
        assert key.to == following.over
        assert key.width < following.width
        assert key.height <= following.height
    for key in KEY_SIZES:
        # A key is as high as its two keyways are deep, less a little play over it.
        assert 0 < key.shaft_depth + key.hub_depth - key.height < 0.5
    for side in ("shaft", "bore"):
        rows = [groove for groove in GROOVES if groove.side == side]
        assert grows([groove.nominal for groove in rows])
        assert grows([groove.width for groove in rows])
        for groove in rows:
            deep = (groove.nominal - groove.groove) / 2 * (1 if side == "shaft" else -1)
            assert 0.1 < deep < 0.06 * groove.nominal, groove


def test_bearings_have_rings_and_one_bore_for_each_code() -> None:
    assert len({bearing.name for bearing in BEARING_SIZES}) == len(BEARING_SIZES)
    for bearing in BEARING_SIZES:
        assert bearing.bore < bearing.outer
        assert bearing.outer - bearing.bore > 8 * bearing.chamfer
        assert bearing.width <= (bearing.outer - bearing.bore) / 2 + 3
        code, digits = int(bearing.name[-2:]), bearing.name
        if len(digits) >= 4:
            assert bearing.bore == {0: 10, 1: 12, 2: 15, 3: 17}.get(code, 5 * code), bearing
        else:
            assert bearing.bore == int(digits[-1]), bearing


def test_inserts_have_walls_and_their_holes_are_smaller() -> None:
    for insert in INSERTS:
        assert insert.outer > 1.2 * _DIAMETER[insert.size]
        assert insert.hole < insert.outer


def test_lengths_are_a_series() -> None:
    for lengths in (METRIC_LENGTHS, INCH_LENGTHS):
        assert all(a < b for a, b in pairwise(lengths))
