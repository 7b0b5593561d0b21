"""Remedies: they mend what they say, keep what is sound to the bit, and tell what they cost."""

import manifold3d
import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from aimtrue.core.errors import Refused
from aimtrue.core.formats import stl
from aimtrue.core.intake.health import health_of
from aimtrue.core.intake.mending.rebuild import greatest_distance, rebuilt
from aimtrue.core.intake.mending.remedies import (
    facing_outward,
    joined,
    mended,
    weld_within,
    without_crossings,
    without_degenerate,
    without_holes,
)
from aimtrue.core.intake.mending.results import faults
from aimtrue.core.mesh.crossings import crossing_faces
from aimtrue.core.mesh.mesh import Mesh, merged
from aimtrue.core.mesh.solids import mesh_of
from tests.shapes import box

BALL = mesh_of(manifold3d.Manifold.sphere(10, 64))
REMEDIES = ["weld", "remove-degenerate", "face-outward", "close-holes"]


@pytest.mark.parametrize("remedy", REMEDIES)
@pytest.mark.parametrize("mesh", [box(2, 3, 5), BALL], ids=["box", "ball"])
def test_a_clean_mesh_is_never_altered(mesh: Mesh, remedy: str) -> None:
    assert mended(mesh, remedy) is mesh  # type: ignore[arg-type]


@settings(max_examples=30, deadline=None)
@given(st.sets(st.integers(0, BALL.triangles - 1), min_size=1, max_size=40))
def test_turned_faces_are_turned_back(faces: set[int]) -> None:
    broken = BALL.faces.copy()
    chosen = np.array(sorted(faces))
    broken[chosen] = broken[chosen][:, ::-1]
    after = facing_outward(Mesh(BALL.vertices, broken))
    assert health_of(after).turned_edges == 0
    assert after.volume() == pytest.approx(BALL.volume())


def test_an_inside_out_body_and_a_hollow_face_the_right_way() -> None:
    outer, hollow = box(10, 10, 10), box(6, 6, 6, at=(2, 2, 2))
    after = facing_outward(merged([Mesh(outer.vertices, outer.faces[:, ::-1].copy()), hollow]))
    assert after.volume() == pytest.approx(1000 - 216)


@settings(max_examples=20, deadline=None)
@given(st.integers(0, len(BALL.vertices) - 1), st.integers(1, 3))
def test_holes_are_closed_and_what_was_there_stays(vertex: int, rings: int) -> None:
    gone = np.zeros(len(BALL.vertices), dtype=bool)
    gone[vertex] = True
    for _ in range(rings - 1):
        gone[BALL.faces[gone[BALL.faces].any(axis=1)].ravel()] = True
    left = BALL.faces[~gone[BALL.faces].any(axis=1)]
    after = without_holes(Mesh(BALL.vertices, left))
    assert after.topology.closed
    np.testing.assert_array_equal(after.faces[: len(left)], left)
    # A curved patch follows the ball: nearer to its volume than a flat lid would be.
    assert after.volume() == pytest.approx(BALL.volume(), rel=0.004)


def test_a_flat_hole_gets_a_flat_lid() -> None:
    cube = box(4, 4, 4)
    after = without_holes(Mesh(cube.vertices, cube.faces[2:]))
    assert after.topology.closed
    assert after.volume() == pytest.approx(64)


def test_unwelded_seams_are_seen_and_welded() -> None:
    cube = box(4, 4, 4)
    apart = cube.vertices[cube.faces] + np.random.default_rng(1).uniform(-1e-6, 1e-6, (12, 1, 3))
    loose = Mesh(apart.reshape(-1, 3), np.arange(36, dtype=np.int32).reshape(-1, 3))
    assert health_of(loose).seams > 18
    after = weld_within(loose, 1e-4)
    assert after.topology.closed
    assert after.triangles == 12
    assert after.volume() == pytest.approx(64, rel=1e-5)


def test_empty_and_double_triangles_go_and_no_hole_is_left() -> None:
    cube = box(4, 4, 4)
    doubled = np.concatenate([cube.faces, cube.faces[:1], cube.faces[3:4, [1, 2, 0]], [[1, 1, 2]]]).astype(
        np.int32
    )
    after = without_degenerate(Mesh(cube.vertices, doubled))
    assert after.triangles == 12
    assert after.topology.closed
    # A needle along an edge: its middle corner lies on the long side of its neighbour.
    middle = np.vstack([cube.vertices, [[2.0, 0, 0]]])
    faces = [f for f in cube.faces.tolist() if not {0, 1} <= set(f)]
    bottom = next(f for f in cube.faces.tolist() if {0, 1} <= set(f) and 2 in f)
    front = next(f for f in cube.faces.tolist() if {0, 1} <= set(f) and 5 in f)
    divided = [[0, 8, 5], [8, 1, 5]] if front == [0, 1, 5] else None
    assert divided
    needle = Mesh(middle, np.array([*faces, bottom, *divided, [0, 1, 8]], np.int32))
    assert needle.topology.closed
    assert health_of(needle).zero_area == 1
    mended_one = without_degenerate(needle)
    assert health_of(mended_one).zero_area == 0
    assert mended_one.topology.closed
    assert mended_one.volume() == pytest.approx(64)


def test_nothing_but_needles_is_refused() -> None:
    with pytest.raises(Refused):
        without_degenerate(Mesh(np.eye(3), np.array([[0, 0, 1], [1, 1, 2]], np.int32)))


def test_crossing_faces_are_found_and_touching_ones_are_not() -> None:
    apart = merged([box(4, 4, 4), box(4, 4, 4, at=(9, 0, 0))])
    touching = merged([box(4, 4, 4), box(4, 4, 4, at=(4, 0, 0))])
    through = merged([box(4, 4, 4), box(2, 2, 9, at=(1.1, 1.2, -2))])
    assert len(crossing_faces(apart)) == len(crossing_faces(touching)) == len(crossing_faces(BALL)) == 0
    assert len(crossing_faces(through)) >= 8


@settings(max_examples=25, deadline=None)
@given(st.tuples(*[st.floats(-12, 12)] * 3), st.integers(0, 2**31))
@example((0.0, 0.0, 0.0), 136153288)
def test_crossings_agree_with_looking_at_every_pair(at: tuple[float, float, float], seed: int) -> None:
    random = np.random.default_rng(seed)
    points = random.uniform(-5, 5, (24, 3)) + np.asarray(at)
    soup = Mesh(points, np.arange(24, dtype=np.int32).reshape(-1, 3))
    # Less than a thousandth of an edge does not count, and so is let be either way.
    assert _by_every_pair(soup, least=0.0011) <= set(crossing_faces(soup).tolist()) <= _by_every_pair(soup)


def _by_every_pair(mesh: Mesh, least: float = 0.0) -> set[int]:
    hit: set[int] = set()
    for i in range(mesh.triangles):
        for j in range(mesh.triangles):
            if i != j and _pierced(mesh.vertices[mesh.faces[i]], mesh.vertices[mesh.faces[j]], least):
                hit |= {i, j}
    return hit


def _pierced(triangle: np.ndarray, other: np.ndarray, least: float) -> bool:
    """Whether a side of the other passes through the triangle: by solving for the point."""
    a, u, v = triangle[0], triangle[1] - triangle[0], triangle[2] - triangle[0]
    for k in range(3):
        p, d = other[k], other[(k + 1) % 3] - other[k]
        try:
            s, t, r = np.linalg.solve(np.column_stack([u, v, -d]), p - a)
        except np.linalg.LinAlgError:
            continue
        if least < r < 1 - least and s > 0 and t > 0 and s + t < 1:
            return True
    return False


def test_shells_that_cross_become_one_solid() -> None:
    through = merged([box(4, 4, 4), box(2, 2, 10, at=(1, 1, -3))])
    after = without_crossings(through)
    assert after.volume() == pytest.approx(64 + 2 * 2 * 6)
    assert after.topology.shells == 1
    assert health_of(after).crossings == 0


def test_touching_bodies_join_and_distant_ones_are_refused() -> None:
    after = joined([box(4, 4, 4), box(4, 4, 4, at=(4, 0, 0))]).mesh
    assert after.volume() == pytest.approx(128)
    assert after.topology.closed
    assert after.topology.shells == 1
    with pytest.raises(Refused) as told:
        joined([box(4, 4, 4), box(4, 4, 4, at=(9, 0, 0))])
    assert told.value.code == "apart"
    with pytest.raises(Refused):
        joined([box(4, 4, 4), Mesh(box(1, 1, 1).vertices, box(1, 1, 1).faces[1:])])


def test_rebuilding_makes_a_solid_near_the_surface_and_says_how_near() -> None:
    holed = Mesh(BALL.vertices, BALL.faces[40:])
    spacing = 0.4
    after = rebuilt(holed, spacing)
    assert after.topology.closed
    assert after.volume() == pytest.approx(BALL.volume(), rel=0.02)
    assert greatest_distance(after, BALL) < spacing
    with pytest.raises(Refused):
        rebuilt(BALL, 0.001)


def test_a_hole_in_a_scan_is_closed(demo) -> None:  # type: ignore[no-untyped-def]
    scan = stl.read((demo / "hand-grip-scan.stl").read_bytes()).parts[0].mesh
    before = health_of(scan)
    assert before.holes == 2
    assert len(before.places["open-edges"]) == 2
    after = health_of(without_holes(scan))
    assert faults(before) == before.open_edges
    assert faults(after) == 0
