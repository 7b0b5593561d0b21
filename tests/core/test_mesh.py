"""Meshes: welding, edges, closedness, area and volume, against known answers and a second library."""

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.sparse import coo_matrix, csgraph

from aimtrue.core.errors import AimTrueError
from aimtrue.core.mesh import serialization as geometry
from aimtrue.core.mesh.connected_components import connected_components
from aimtrue.core.mesh.mesh import Mesh, merged, weld
from aimtrue.core.mesh.topology import feature_edges
from tests.shapes import box, corners_of


def test_a_box_has_its_size_area_and_volume() -> None:
    mesh = box(2, 3, 5)
    assert mesh.extents().tolist() == [2, 3, 5]
    assert mesh.area() == pytest.approx(62)
    assert mesh.volume() == pytest.approx(30)
    assert mesh.topology.closed
    assert mesh.topology.shells == 1
    assert len(mesh.topology.ends) == 18


def test_volume_keeps_its_digits_far_from_the_origin() -> None:
    assert box(1, 1, 1, at=(1e6, -1e6, 1e6)).volume() == pytest.approx(1, abs=1e-9)


def test_welding_joins_equal_corners_only() -> None:
    mesh = weld(corners_of(box(2, 3, 5)).astype(np.float32))
    assert len(mesh.vertices) == 8
    assert mesh.triangles == 12
    near = corners_of(box(2, 3, 5))
    near[0, 0] += 1e-9
    assert len(weld(near).vertices) == 9


def test_minus_zero_is_zero_when_welding() -> None:
    corners = corners_of(box(1, 1, 1)).astype(np.float32)
    corners[3][corners[3] == 0] = -0.0
    assert len(weld(corners).vertices) == 8


@settings(max_examples=30, deadline=None)
@given(st.integers(1, 400), st.integers(0, 2**31))
def test_welding_keeps_every_coordinate(count: int, seed: int) -> None:
    corners = np.random.default_rng(seed).integers(-3, 4, (count, 3, 3)).astype(np.float32)
    mesh = weld(corners)
    assert (mesh.vertices[mesh.faces] == corners).all()
    assert len(np.unique(mesh.vertices, axis=0)) == len(mesh.vertices)


def test_a_missing_face_opens_three_edges() -> None:
    whole = box(1, 1, 1)
    mesh = Mesh(whole.vertices, whole.faces[1:])
    assert not mesh.topology.closed
    assert mesh.topology.open_edges == 3


def test_a_turned_face_is_counted() -> None:
    whole = box(1, 1, 1)
    faces = whole.faces.copy()
    faces[0] = faces[0][::-1]
    mesh = Mesh(whole.vertices, faces)
    assert mesh.topology.inconsistent_edges == 3
    assert not mesh.topology.closed


def test_boxes_that_share_an_edge_are_crowded_but_closed() -> None:
    two = weld(np.concatenate([corners_of(box(1, 1, 1)), corners_of(box(1, 1, 1, at=(1, 1, 0)))]))
    assert two.topology.non_manifold_edges == 1
    assert two.topology.closed


def test_boxes_that_touch_at_a_corner_are_two_shells() -> None:
    two = weld(np.concatenate([corners_of(box(1, 1, 1)), corners_of(box(1, 1, 1, at=(1, 1, 1)))]))
    assert len(two.vertices) == 15
    assert two.topology.shells == 2


def test_a_face_with_a_repeated_vertex_takes_no_part_in_edges() -> None:
    whole = box(1, 1, 1)
    mesh = Mesh(whole.vertices, np.vstack([whole.faces, [[0, 0, 1]]]).astype(np.int32))
    assert mesh.topology.closed


@pytest.mark.parametrize("subdivisions", [1, 3])
def test_agrees_with_a_second_library(subdivisions: int) -> None:
    sphere = trimesh.creation.icosphere(subdivisions=subdivisions)
    mesh = Mesh(np.asarray(sphere.vertices), np.asarray(sphere.faces, dtype=np.int32))
    assert mesh.volume() == pytest.approx(sphere.volume)
    assert mesh.area() == pytest.approx(sphere.area)
    assert mesh.topology.closed == sphere.is_watertight


def test_a_box_inks_its_twelve_edges_and_no_diagonal() -> None:
    mesh = box(2, 3, 5)
    assert len(feature_edges(mesh.topology, mesh.area_vectors, geometry.INKED_FROM)) == 12


def test_a_smooth_sphere_inks_nothing() -> None:
    sphere = trimesh.creation.icosphere(subdivisions=3)
    mesh = Mesh(np.asarray(sphere.vertices), np.asarray(sphere.faces, dtype=np.int32))
    assert len(feature_edges(mesh.topology, mesh.area_vectors, geometry.INKED_FROM)) == 0


def test_kept_bytes_bring_a_mesh_back_exactly() -> None:
    for mesh in (box(2, 3, 5), box(0.1, 1 / 3, 5)):
        back = geometry.from_bytes(geometry.to_bytes(mesh))
        assert (back.vertices == mesh.vertices).all()
        assert (back.faces == mesh.faces).all()
    assert len(geometry.to_bytes(box(2, 3, 5))) < len(geometry.to_bytes(box(0.1, 3, 5)))
    with pytest.raises(AimTrueError):
        geometry.from_bytes(b"nothing of ours")


def test_bench_bytes_draw_about_an_origin_when_far_away() -> None:
    near = np.frombuffer(geometry.bench_bytes(box(1, 1, 1)), "<f8", 3, 16)
    far = np.frombuffer(geometry.bench_bytes(box(1, 1, 1, at=(5000, 0, 0))), "<f8", 3, 16)
    assert near.tolist() == [0, 0, 0]
    assert far.tolist() == [5000.5, 0.5, 0.5]


def test_merging_keeps_every_face_in_order() -> None:
    both = merged([box(1, 1, 1), box(2, 2, 2, at=(5, 0, 0))])
    assert both.triangles == 24
    assert both.topology.shells == 2
    assert both.volume() == pytest.approx(9)


@given(st.integers(1, 60), st.lists(st.tuples(st.integers(0, 59), st.integers(0, 59)), max_size=80))
def test_what_hangs_together_is_what_scipy_says_of_it(count: int, pairs: list[tuple[int, int]]) -> None:
    links = np.array([pair for pair in pairs if max(pair) < count], np.int64).reshape(-1, 2)
    groups, label = connected_components(count, *links.T)
    want, told = csgraph.connected_components(
        coo_matrix((np.ones(len(links)), links.T), shape=(count, count)), directed=False
    )
    assert groups == want
    assert label.tolist() == told.tolist()
