"""Sections, ways to stand, level, overhang, outlines: against shapes whose answers are known."""

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from aimtrue.core.chain.seat_turns import turn_down, turn_matrix
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.outlines import outline_of
from aimtrue.core.mesh.sections import layers_of, rings_at, sections_of
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.seating.layer_analysis.overhang import facing, overhang_of
from aimtrue.core.seating.orientation.level import level_of
from aimtrue.core.seating.orientation.rest_poses import best, centre_of_gravity, rests_of
from aimtrue.core.seating.placement.footprint import footprint_of
from tests.shapes import box

DOWN = np.array([0.0, 0.0, -1.0])
SMALL = st.floats(0.05, 4.5)


def turned(mesh: Mesh, axis: str, degrees: float) -> Mesh:
    matrix = Rotation.from_euler(axis, degrees, degrees=True).as_matrix()
    return mesh.mapped(lambda v: v @ matrix.T)


def tube(outer: float = 10.0, inner: float = 6.0, high: float = 20.0, around: int = 96) -> Mesh:
    whole = manifold3d.Manifold.cylinder(high, outer, outer, around)
    return mesh_of(whole - manifold3d.Manifold.cylinder(high + 2, inner, inner, around).translate((0, 0, -1)))


def arch() -> Mesh:
    """A bridge of 40 on two feet of 10, with 20 x 30 of flat underside 15 above the plate."""
    return mesh_of(
        manifold3d.Manifold.cube((40, 30, 20)) - manifold3d.Manifold.cube((20, 40, 15)).translate((10, -5, 0))
    )


def polygon_area(count: int, radius: float) -> float:
    return count / 2 * radius**2 * np.sin(2 * np.pi / count)  # type: ignore[no-any-return]


def test_a_tube_is_cut_into_a_ring_at_every_height() -> None:
    sections = sections_of(tube(), np.array([0.1, 7.0, 19.9]))
    area = polygon_area(96, 10) - polygon_area(96, 6)
    np.testing.assert_allclose(sections.areas, area, rtol=1e-12)
    assert sections.islands.tolist() == [1, 1, 1]
    assert sections.holes.tolist() == [1, 1, 1]
    np.testing.assert_allclose(sections.outlines, 2 * 96 * np.sin(np.pi / 96) * 16, rtol=1e-12)
    outer, inner = sorted(rings_at(tube(), 7.0), key=lambda ring: -np.ptp(ring[:, 0]))
    assert np.ptp(outer, axis=0).tolist() == pytest.approx([20, 20])
    assert np.ptp(inner, axis=0).tolist() == pytest.approx([12, 12])


def test_planes_through_corners_and_faces_close() -> None:
    """Where corners lie in the plane, sections still close: they are those right below."""
    sections = sections_of(arch(), np.array([0.0, 15.0, 15.001, 20.0, 21.0]))
    assert sections.areas.tolist() == pytest.approx([0, 2 * 10 * 30, 40 * 30, 40 * 30, 0])
    assert sections.islands.tolist() == [0, 2, 1, 1, 0]


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 60))
def test_sections_agree_with_a_general_library_and_add_up(seed: int, count: int) -> None:
    rng = np.random.default_rng(seed)
    solid = manifold3d.Manifold.sphere(10, 32)
    for _ in range(3):
        solid += manifold3d.Manifold.cube(tuple(rng.uniform(4, 14, 3))).rotate(rng.uniform(0, 360, 3))
    mesh = mesh_of(solid)
    low, high = mesh.bounds()[:, 2]
    heights = np.sort(rng.uniform(low, high, count))
    sections = sections_of(mesh, heights)
    for height, area, islands, holes in zip(
        heights, sections.areas, sections.islands, sections.holes, strict=True
    ):
        cut = solid.slice(float(height))
        assert area == pytest.approx(cut.area(), rel=1e-5, abs=1e-4)
        signed = [_signed(ring) for ring in rings_at(mesh, height)]
        assert sum(signed) == pytest.approx(area, rel=1e-9)
        assert (sum(a > 0 for a in signed), sum(a < 0 for a in signed)) == (islands, holes)
    fine = layers_of(low, high, (high - low) / 2000)
    thin = (high - low) / 2000
    assert sections_of(mesh, fine, counted=False).areas.sum() * thin == pytest.approx(mesh.volume(), rel=1e-3)


def _signed(ring: Floats) -> float:
    x, y = ring.T
    return float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum() / 2)


def test_layers_are_cut_in_their_middles() -> None:
    assert layers_of(0.0, 1.0, 0.2).tolist() == pytest.approx([0.1, 0.3, 0.5, 0.7, 0.9])
    assert len(layers_of(0.0, 1.05, 0.2)) == 6
    assert len(layers_of(0.0, 1.0000001, 0.2)) == 5


def test_a_box_stands_on_its_six_sides() -> None:
    rests = rests_of(box(10, 20, 30))
    assert [rest.contact_mm2 for rest in rests] == pytest.approx([600, 600, 300, 300, 200, 200])
    assert [rest.height_mm for rest in rests] == pytest.approx([10, 10, 20, 20, 30, 30])
    assert all(rest.overhang_mm2 == 0 and rest.stable for rest in rests)
    assert rests[0].inside_mm == pytest.approx(10)


def test_what_hangs_over_is_the_underside_and_what_would_hold_it_the_column_below() -> None:
    standing = next(rest for rest in rests_of(arch()) if rest.down == (0.0, 0.0, -1.0))
    assert standing.contact_mm2 == pytest.approx(600)
    assert standing.reach_mm2 == pytest.approx(40 * 30)
    assert standing.overhang_mm2 == pytest.approx(600)
    assert standing.support_mm3 == pytest.approx(600 * 15, rel=1e-5)
    chosen = best(rests_of(arch()))
    assert chosen is not None
    assert chosen.down == (0.0, 0.0, 1.0)  # upside down nothing hangs over


@pytest.mark.parametrize(("lean", "hangs"), [(30.0, False), (44.9, False), (45.1, True), (60.0, True)])
def test_a_wall_hangs_over_beyond_the_angle_of_the_machine(lean: float, hangs: bool) -> None:
    leaning = manifold3d.Manifold.cube((30, 20, 30)).transform(
        np.array([[1, 0, np.tan(np.radians(lean)), 0], [0, 1, 0, 0], [0, 0, 1, 0]], float)
    )
    overhang = overhang_of(facing(mesh_of(leaning)), DOWN, 45.0)
    assert overhang.area_mm2 == pytest.approx(20 * 30 / np.cos(np.radians(lean)) if hangs else 0.0)
    assert overhang_of(facing(mesh_of(leaning)), DOWN, 61.0).area_mm2 == 0


def test_a_body_does_not_stand_where_its_weight_is_not_over_its_foot() -> None:
    top = manifold3d.Manifold.cube((60, 20, 10)).translate((0, 0, 10))
    mesh = mesh_of(manifold3d.Manifold.cube((10, 20, 10)) + top)
    assert not any(rest.down == (0.0, 0.0, -1.0) for rest in rests_of(mesh))
    np.testing.assert_allclose(centre_of_gravity(mesh), [(5 * 2000 + 30 * 12000) / 14000, 10, (5 + 90) / 7])


def test_legs_stand_on_their_feet_together() -> None:
    table = manifold3d.Manifold.cube((60, 40, 5)).translate((0, 0, 30))
    for x in (0, 52):
        for y in (0, 32):
            table += manifold3d.Manifold.cube((8, 8, 30)).translate((x, y, 0))
    rest = next(rest_pose for rest_pose in rests_of(mesh_of(table)) if rest_pose.down == (0.0, 0.0, -1.0))
    assert (rest.contact_mm2, rest.reach_mm2) == pytest.approx((256, 2400))
    level = level_of(turned(mesh_of(table), "y", 1.0))
    assert level is not None
    assert level.tilt_deg == pytest.approx(1.0, abs=1e-9)
    assert level.gap_mm == pytest.approx(60 * np.sin(np.radians(1)), rel=1e-9)  # over all feet, not one


def test_a_ball_stands_on_nothing() -> None:
    ball = mesh_of(manifold3d.Manifold.sphere(20, 128))
    assert rests_of(ball) == ()
    assert level_of(turned(ball, "x", 1.0)) is None


@settings(max_examples=40, deadline=None)
@given(SMALL, st.sampled_from("xy"), st.sampled_from([-1, 1]))
def test_a_tilt_is_told_in_degrees_gap_and_direction_and_levelled(tilt: float, axis: str, sign: int) -> None:
    mesh = turned(box(40, 25, 10), axis, sign * tilt)
    level = level_of(mesh)
    assert level is not None
    assert level.tilt_deg == pytest.approx(tilt, abs=1e-9)
    side = 40 if axis == "y" else 25
    assert level.gap_mm == pytest.approx(side * np.sin(np.radians(tilt)), rel=1e-9)
    right = {
        ("y", 1): "to the right",
        ("y", -1): "to the left",
        ("x", 1): "to the front",
        ("x", -1): "to the back",
    }
    assert level.lower == right[axis, sign]
    turn = turn_down(np.asarray(level.down), "level")
    assert turn is not None
    flat = level_of(mesh.mapped(lambda v: v @ turn_matrix(turn).T))
    assert flat is not None
    assert flat.flat
    assert flat.gap_mm < 1e-9


def test_beyond_five_degrees_nothing_is_taken_for_flat() -> None:
    assert level_of(turned(box(40, 25, 10), "y", 5.5)) is None


def test_a_facet_of_something_round_is_not_a_tilted_face() -> None:
    """A cylinder that lies on an edge between two facets has two of them within 5 degrees of level."""
    lying = mesh_of(manifold3d.Manifold.cylinder(50, 10, 10, 64).rotate((0, 90, 0)))
    assert level_of(lying) is None
    on_a_facet = level_of(turned(lying, "x", 180 / 64))
    assert on_a_facet is not None
    assert on_a_facet.flat
    # Its flat end, tilted, is one.
    upright = turned(mesh_of(manifold3d.Manifold.cylinder(50, 10, 10, 64)), "x", 0.3)
    level = level_of(upright)
    assert level is not None
    assert level.tilt_deg == pytest.approx(0.3)


def test_the_first_layer_of_a_tilted_block_is_a_strip() -> None:
    flat = footprint_of(box(40, 25, 10), 0.2)
    assert (flat.area_mm2, flat.islands, flat.contact_mm2) == pytest.approx((1000, 1, 1000))
    tilted = footprint_of(turned(box(40, 25, 10), "y", 1.0), 0.2)
    # At 0.1 over the lowest edge the wedge is 0.1 / sin t along the bottom, and 0.1 tan t from the side.
    wide = 0.1 / np.tan(np.radians(1)) + 0.1 * np.tan(np.radians(1))
    assert tilted.area_mm2 == pytest.approx(25 * wide, rel=1e-6)
    assert tilted.contact_mm2 == pytest.approx(0)
    assert footprint_of(arch(), 0.2).islands == 2


def test_the_outline_of_a_tube_has_its_opening() -> None:
    outline = outline_of(tube())
    assert outline.area == pytest.approx(polygon_area(96, 10) - polygon_area(96, 6), rel=1e-6)
    assert len(outline.geoms[0].interiors) == 1
    bent = outline_of(turned(tube(), "x", 90))
    assert bent.area == pytest.approx(20 * 20, rel=1e-3)
    assert len(bent.geoms[0].interiors) == 0


def test_the_outline_of_an_open_surface_is_what_it_covers() -> None:
    closed = box(10, 20, 30)
    lid_off = Mesh(closed.vertices, closed.faces[closed.area_vectors[:, 2] <= 0])
    assert not lid_off.topology.closed
    assert outline_of(lid_off).area == pytest.approx(200)


def test_level_does_not_depend_on_the_unit() -> None:
    """In inches a facet of a small ring opens less than any machine can do, and is a facet all the same."""
    lying = mesh_of(manifold3d.Manifold.cylinder(0.5, 0.5, 0.5, 126).rotate((0, 90, 0)))
    assert level_of(turned(lying, "x", 180 / 126)) is None or level_of(lying) is None


def test_very_many_small_faces_are_told_by_some_and_large_ones_always() -> None:
    """A block of 240 000 triangles beside one of twelve: sides of two triangles are found, too."""
    fine = mesh_of(manifold3d.Manifold.cube((10, 30, 8)).refine(142))
    coarse = box(40, 30, 8, at=(20, 0, 0))
    both = Mesh(
        np.concatenate([fine.vertices, coarse.vertices]),
        np.concatenate([fine.faces, coarse.faces + len(fine.vertices)]).astype(np.int32),
    )
    rests = rests_of(both)
    assert {rest.down: round(rest.contact_mm2, 6) for rest in rests} == {
        (0.0, 0.0, -1.0): 1500,
        (0.0, 0.0, 1.0): 1500,
        (0.0, -1.0, 0.0): 400,
        (0.0, 1.0, 0.0): 400,
        (-1.0, 0.0, 0.0): 240,
        (1.0, 0.0, 0.0): 240,
    }
    np.testing.assert_allclose(centre_of_gravity(both), [(5 * 10 + 40 * 40) / 50, 15, 4], atol=1e-9)
