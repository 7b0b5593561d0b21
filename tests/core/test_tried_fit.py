"""Two bodies tried in another place, the section where they are nearest, what is drawn on surfaces."""

from __future__ import annotations

from base64 import b64decode
from math import pi, sqrt
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from manifold3d import Manifold

from aimtrue.core.errors import Refused
from aimtrue.core.fit.actions import PairUp
from aimtrue.core.fit.answers import wall_limit
from aimtrue.core.fit.between import PlacedBodies, fit_of, placed_bodies
from aimtrue.core.fit.detail import between_detail
from aimtrue.core.fit.offers import offers
from aimtrue.core.fit.placing import RelativePlace, parse_place
from aimtrue.core.fit.room import survey_of
from aimtrue.core.fit.surface_map.gap_strokes import gap_strokes, round_step
from aimtrue.core.fit.surface_map.wall_strokes import wall_strokes
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.mesh.surface_map.parts import divided
from aimtrue.core.mesh.surface_map.strokes import StrokeBand, isolines
from aimtrue.core.truing.actions import CorrectAlone, KeepAsDrawn, KeepBores, SetFactor
from tests.core.test_fit import PIN, PLATE, block, both, rod, settled
from tests.shapes import Bench, bench_of, corners_of


def tried(bench: Bench, place: str) -> PlacedBodies:
    one, other = bench.job.bodies
    return placed_bodies(bench.job, one, other, place, bench)


def ends(band: StrokeBand, origin: tuple[float, float, float] = (0, 0, 0)) -> Floats:
    numbers = np.frombuffer(b64decode(band.strokes), "<f4").reshape(-1, 2, 3)
    assert len(numbers) == band.count
    return np.asarray(numbers.astype(np.float64) + np.asarray(origin))


@pytest.mark.parametrize(
    ("typed", "place"),
    [
        ("", RelativePlace()),
        ("file", RelativePlace()),
        ("axis", RelativePlace(kind="axis")),
        ("0, 0, 2.5", RelativePlace(offset_mm=(0, 0, 2.5))),
        ("-1in,,0", RelativePlace(offset_mm=(-25.4, 0, 0))),
        ("axis 0,0,5 mm", RelativePlace(kind="axis", offset_mm=(0, 0, 5))),
        ("face 2/1", RelativePlace(kind="face", ranks=(2, 1))),
        ("face 2 / 3 1,2,3", RelativePlace(kind="face", ranks=(2, 3), offset_mm=(1, 2, 3))),
    ],
)
def test_a_place_is_read_as_it_is_typed(typed: str, place: RelativePlace) -> None:
    assert parse_place(typed) == place


@pytest.mark.parametrize("typed", ["beside", "1,2", "axis 1/2", "face up", "1,2,x"])
def test_what_is_no_place_is_told(typed: str) -> None:
    with pytest.raises(Refused):
        parse_place(typed)


def test_a_pin_beside_its_plate_is_tried_on_its_axis_and_moved_along_it() -> None:
    bench = both(PLATE, PIN.rotate((90, 0, 0)).translate((100, 0, 0)))
    before = bench.job
    (pair,) = tried(bench, "axis").pairs
    assert pair.engaged_mm == pytest.approx(8)
    assert pair.clearance_mm == pytest.approx(0.3, abs=1e-5)
    (moved,) = tried(bench, "axis 0,0,13").pairs  # the pin is 20 long: 8 - (4 + 13 - 10) are left
    assert moved.engaged_mm == pytest.approx(1)
    assert bench.job is before


def test_faces_are_laid_against_each_other_and_pulled_apart_by_an_offset() -> None:
    bench = both(block(40, 30, 8), block(10, 20, 5).rotate((30, 40, 50)).translate((90, 0, 0)))
    answer = fit_of(bench.job, tried(bench, "face"))
    assert answer.least_mm == pytest.approx(0, abs=1e-6)
    assert answer.overlap_mm3 == pytest.approx(0, abs=1e-3)
    lowest = tried(bench, "face").meshes[1].bounds()
    # The largest face of the plate is its top or bottom; the block lies against it with its own largest.
    assert lowest[1, 2] - lowest[0, 2] == pytest.approx(5)
    side = -0.25 if lowest[0, 2] < 0 else 0.25
    apart = fit_of(bench.job, tried(bench, f"face 0,0,{side}"))
    assert apart.least_mm == pytest.approx(0.25, abs=1e-6)
    assert [pair.kind for pair in apart.pairs] == ["facing planes"]
    with pytest.raises(Refused, match="6 flat faces"):
        tried(bench, "face 7/1")


def test_a_face_that_looks_the_same_way_is_turned_about() -> None:
    bench = both(block(40, 30, 8), block(20, 10, 5, (90, 0, 0)))
    for rank in range(1, 7):
        assert fit_of(bench.job, tried(bench, f"face {rank}/1")).overlap_mm3 == pytest.approx(0, abs=1e-3)


@given(st.tuples(*[st.floats(-30, 30, allow_nan=False)] * 3))
def test_an_offset_moves_the_second_by_just_as_much(offset: tuple[float, float, float]) -> None:
    bench = BESIDE
    x, y, z = (round(part, 3) for part in offset)
    answer = fit_of(bench.job, tried(bench, f"{x},{y},{z}"))
    gaps = [max(low - 10, -10 - low, 0.0) for low in (20 + x, y, z)]
    assert answer.least_mm == pytest.approx(sqrt(sum(gap**2 for gap in gaps)), abs=1e-6)
    shared = np.prod([max(0.0, 10 - abs(low)) for low in (20 + x, y, z)])
    assert answer.overlap_mm3 == pytest.approx(shared, abs=0.02)


BESIDE = both(block(10, 10, 10), block(10, 10, 10, (20, 0, 0)))


def test_the_section_where_two_bodies_are_nearest_can_be_moved_through_them() -> None:
    bench = both(rod(10, 4), block(10, 10, 4, (5.5, -5, 0)))
    placed = tried(bench, "")
    near = between_detail(placed)
    assert near.side_mm == pytest.approx(0.5, abs=1e-6)
    assert [round(end[0], 6) for end in near.ends] == [-0.25, 0.25]
    assert near.a
    assert near.b
    # Beyond the side of the rod there is the block alone, and beyond both of them nothing.
    depth = 1.5 if between_detail(placed, 1.5).a else -1.5
    assert between_detail(placed, depth).depth_mm == pytest.approx(depth, abs=0.02)
    assert not between_detail(placed, 6).a
    assert not between_detail(placed, 6).b


def test_a_body_beside_itself_tells_its_narrowest_gap() -> None:
    """A block with slots of 0.4 and 1 mm, in numbers of the file, made twice as large."""
    slotted = block(20, 10, 6) - block(0.4, 20, 5, (5, -5, 3)) - block(1, 20, 5, (12, -5, 3))
    bench = settled("slots.stl", corners_of(mesh_of(slotted))).do(SetFactor(body="s1-1", typed="2"))
    (body,) = bench.job.bodies
    placed = placed_bodies(bench.job, body, body, "", bench)
    answer = fit_of(bench.job, placed)
    assert (answer.least_mm, answer.overlap_mm3) == (pytest.approx(0.8), 0)
    assert sorted(round(place[0], 5) for place in answer.nearest) == [10.0, 10.8]
    assert between_detail(placed).side_mm == pytest.approx(0.8)
    plain = settled("plain.stl", corners_of(mesh_of(block(4, 4, 4))))
    with pytest.raises(Refused, match="look at each other"):
        placed_bodies(plain.job, plain.job.bodies[0], plain.job.bodies[0], "", plain)


def test_lines_of_a_level_are_where_a_number_has_it() -> None:
    rng = np.random.default_rng(4)
    heights = rng.uniform(-3, 3, (200, 3))
    triangle, weights = isolines(heights)
    assert np.allclose(weights.sum(axis=2), 1)
    values = np.einsum("kec,kc->ke", weights, heights[triangle])
    assert np.allclose(values, values.round(), atol=1e-9)
    assert np.allclose(values[:, 0], values[:, 1])
    # As many lines as whole numbers between the corners.
    inside = np.floor(heights.max(axis=1)) - np.floor(heights.min(axis=1))
    assert len(triangle) == inside.sum()
    zero, _ = isolines(heights, only_zero=True)
    assert set(zero.tolist()) == set(
        np.flatnonzero((heights.min(axis=1) < 0) & (heights.max(axis=1) >= 0)).tolist()
    )


def test_a_surface_is_divided_without_loss() -> None:
    mesh = mesh_of(PLATE)
    parts = divided(mesh, 3000)
    middles = parts.middles()
    assert middles.area.sum() == pytest.approx(mesh.area())
    assert len(middles.area) >= 3000
    corners = parts.corners(mesh)
    crossed = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    assert np.allclose(crossed.sum(axis=0), 0, atol=1e-9)  # of a closed surface they add up to none


def test_thin_walls_are_hatched_and_thick_ones_are_not() -> None:
    """A stepped plate: 0.6 mm of it, then 6 mm. A factor of 2 doubles both, and the hatch with them."""
    stepped = block(20, 10, 0.6) + block(10, 10, 6)
    bench = settled("step.stl", corners_of(mesh_of(stepped)))
    (body,) = bench.job.bodies
    drawn = wall_strokes(bench.job, body, bench, 0.8)
    (band,) = drawn.bands
    assert (band.says, band.kind) == ("under 0.80 mm", "hatch")
    places = ends(band, drawn.origin)
    assert places[..., 0].min() == pytest.approx(10, abs=0.2)
    assert set(places[..., 2].round(6).ravel()) == {0.0, 0.6}
    bench.do(SetFactor(body=body.id, typed="2"))
    (wider,) = wall_strokes(bench.job, bench.job.bodies[0], bench, 0.8).bands
    assert wider.says == "under 1.60 mm"
    # The hatch that stands for twice the limit has half as many lines on what is twice as large.
    assert wider.spacing_mm == pytest.approx(4 * band.spacing_mm)


def test_beads_are_a_limit_of_walls() -> None:
    bench = settled("plate.stl", corners_of(mesh_of(PLATE)))
    assert [wall_limit(bench.job, typed) for typed in ("", "2 beads", "3 bead", "1.5")] == [
        0.8, 0.8, pytest.approx(1.2), 1.5,
    ]  # fmt: skip


def test_the_gap_to_a_leaning_body_has_contours_where_it_is_as_wide() -> None:
    """Over a plate a block leans by 1 in 20: along x the gap grows by 0.05 mm a mm from 0.5 mm on."""
    top = Manifold.cube((20, 10, 5)).transform([[1, 0, 0, 0], [0, 1, 0, 0], [0.05, 0, 1, 0.5]])
    one, other = mesh_of(block(20, 10, 5, (0, 0, -5))), mesh_of(top)
    drawn = gap_strokes(one, one, other, 2.0)
    levels = {float(band.says): band for band in drawn.bands if band.kind == "contour"}
    assert {0.6, 0.8, 1.0, 1.2, 1.4} <= set(levels)
    slope = sqrt(1 + 0.05**2)
    for level, band in levels.items():
        if 0.65 < level < 1.4:
            places = ends(band, drawn.origin)
            places = places[places[..., 2].max(axis=1) > -1e-6]
            x = (level * slope - 0.5) / 0.05
            assert places[..., 0].min() == pytest.approx(x, abs=0.03)
            assert places[..., 0].max() == pytest.approx(x, abs=0.03)


def test_what_reaches_into_the_other_is_drawn_apart_from_a_gap() -> None:
    ring = mesh_of(block(20, 20, 4, (-10, -10, 0)) - rod(10, 20, (0, 0, -5)))
    tight = gap_strokes(ring, ring, mesh_of(rod(10.4, 20, (0, 0, -5))), 1.0)
    assert "into each other" in [band.says for band in tight.bands]
    loose = gap_strokes(ring, ring, mesh_of(rod(9.4, 20, (0, 0, -5))), 1.0)
    assert [band.says for band in loose.bands if band.kind == "hatch"] == ["up to 0.33 mm"]
    places = ends(loose.bands[0], loose.origin)
    assert np.linalg.norm(places[..., :2], axis=2).max() <= 5 + 1e-6
    assert np.linalg.norm(places[..., :2], axis=2).min() >= 5 * np.cos(pi / 96) - 1e-6


def test_what_two_bodies_fill_together_is_drawn_apart_and_faces_that_look_the_same_way_are_no_gap() -> None:
    """A block reaches 1 mm into another; on top both end in one plane, which is no gap between them."""
    one, other = mesh_of(block(10, 10, 4)), mesh_of(block(10, 10, 4, (9, 0, 0)))
    drawn = gap_strokes(one, one, other)
    (band,) = [band for band in drawn.bands if band.kind == "hatch"]
    assert band.says == "into each other"
    assert ends(band, drawn.origin)[..., 0].min() >= 9 - 0.3


def test_bodies_kilometres_apart_are_told_as_far() -> None:
    """There float32 has steps of 0.03 mm: round faces are folded, and nothing goes together."""
    bench = both(PLATE, PIN.translate((3e5, 0, 0)))
    placed = tried(bench, "")
    answer = fit_of(bench.job, placed)
    assert answer.least_mm == pytest.approx(3e5 - 40 + 9.5, abs=0.1)
    assert answer.pairs == ()
    assert between_detail(placed).side_mm == pytest.approx(answer.least_mm)
    assert gap_strokes(placed.meshes[0], placed.meshes[0], placed.meshes[1]).bands == ()


def test_levels_are_round_numbers() -> None:
    assert [round_step(most) for most in (0.33, 0.9, 1.0, 4.99, 5.0, 70)] == [
        pytest.approx(step) for step in (0.2, 0.5, 1.0, 2.0, 5.0, 50.0)
    ]


def test_the_clamp_shells_grip_the_tube_as_measured_and_its_bolts_pass(demo: Path) -> None:
    """Drawn for a tube of 142.86 they are made smaller; tube and bolts are real, and stay as drawn."""
    bench = bench_of("clamp-on-tube.3mf", (demo / "clamp-on-tube.3mf").read_bytes())
    ids = {body.name: body.id for body in bench.job.bodies}
    pair_offers = [offer for offer in offers(bench.job, bench) if offer.kind == "bore and shaft"]
    names = sorted(tuple(offer.names) for offer in pair_offers)
    assert names == [
        ("shell back", "bolt 1"), ("shell back", "bolt 2"), ("shell back", "tube"),
        ("shell front", "bolt 1"), ("shell front", "bolt 2"), ("shell front", "tube"),
    ]  # fmt: skip
    for offer in pair_offers:
        told = offer.model_dump(include={"kind", "a", "b", "a_feature", "b_feature"})
        intent = "apart" if "bolt" in offer.names[1] else "slides"
        bench.do(PairUp.model_validate({**told, "intent": intent}))
    for name in ("tube", "bolt 1", "bolt 2"):
        bench.do(CorrectAlone(body=ids[name]), KeepAsDrawn(bodies=(ids[name],)))
    bench.do(SetFactor(body=ids["shell back"], typed=f"{140.7 / 142.86:.9f}"))
    pairs = survey_of(bench.job, bench).pairs
    grips = [pair for pair in pairs if "tube" in pair.names]
    assert [pair.states[0].clearance_mm for pair in grips] == pytest.approx([2.56] * 2, abs=0.02)
    assert [pair.states[-1].clearance_mm for pair in grips] == pytest.approx([0.4] * 2, abs=0.02)
    assert [pair.verdict for pair in grips] == ["holds"] * 2
    # The bores of the bolts shrink with the shells, and no longer give them half a millimetre; kept they do.
    bolts = [pair for pair in pairs if "tube" not in pair.names]
    assert [pair.verdict for pair in bolts] == ["does not hold"] * 4
    shells = (ids["shell front"], ids["shell back"])
    bench.do(KeepBores(bodies=shells, features=None, on=True))
    again = survey_of(bench.job, bench)
    assert {pair.verdict for pair in again.pairs} == {"holds"}
    assert {row.verdict for row in again.must} == {"holds"}
