"""What closed triangles enclose, held against a library that sums solid angles."""

import igl
import numpy as np
import pytest
from manifold3d import Manifold

from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.proof import winding
from aimtrue.core.proof.distance import inside
from aimtrue.core.proof.surface import Points, Surface
from aimtrue.core.proof.winding import ColumnGrid
from benchmarks.shapes import wavy_sphere
from tests.shapes import box, corners_of

CHANCE = np.random.default_rng(4)


def by_angles(corners: Points, points: Points) -> list[int]:
    flat = np.ascontiguousarray(corners.reshape(-1, 3))
    turns = igl.winding_number(flat, np.arange(len(flat)).reshape(-1, 3), points)
    return np.round(turns).astype(int).tolist()  # type: ignore[no-any-return]


def boxes(many: int, step: float) -> Points:
    """Boxes that overlap, lie in each other and touch; some of them inside out."""
    made = []
    for _ in range(many):
        low, size = CHANCE.integers(-10, 6, 3) * step, CHANCE.integers(1, 10, 3) * step
        corners = corners_of(box(*size)) + low
        made.append(corners[:, ::-1] if CHANCE.random() < 0.3 else corners)
    return np.concatenate(made)


@pytest.mark.parametrize("many", [1, 2, 5, 40])
def test_turns_are_those_that_solid_angles_add_up_to(many: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(winding, "_PAIRS", 1000)  # so that it takes several times
    for _ in range(8):
        corners = boxes(many, 0.1)
        points = CHANCE.uniform(-1.2, 1.7, (1000, 3))
        assert ColumnGrid(corners).turns(points).tolist() == by_angles(corners, points)


def test_a_point_right_under_an_edge_or_a_corner_is_beside_it(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(winding, "_UP", np.eye(3))
    for many in (1, 3, 10):
        corners = boxes(many, 1.0)
        # On the whole numbers across, where edges and corners are, and between them upward.
        points = CHANCE.integers(-11, 17, (3000, 3)) + np.array([0, 0, 0.5])
        turns = ColumnGrid(corners).turns(points)
        beside = points + np.array([1e-6, 1e-9, 0])
        assert turns.tolist() == by_angles(corners, beside)


def test_needles_and_a_round_body_as_well() -> None:
    rod = corners_of(mesh_of(Manifold.cylinder(90, 1, 1, 600)))
    ball = wavy_sphere(6000)
    for corners in (rod, rod[:, :, [2, 0, 1]], ball.vertices[ball.faces]):
        low, high = corners.min(axis=(0, 1)), corners.max(axis=(0, 1))
        points = CHANCE.uniform(low - 0.1, high + 0.1, (2000, 3))
        assert ColumnGrid(corners).turns(points).tolist() == by_angles(corners, points)


def test_what_does_not_close_is_told_by_solid_angles() -> None:
    corners = corners_of(box(1, 1, 1))[1:]
    surface = Surface(corners.reshape(-1, 3), np.arange(3 * len(corners)).reshape(-1, 3))
    assert surface.columns is None
    points = np.array([[0.5, 0.5, 0.5], [0.9, 0.2, 0.4], [2.0, 0.5, 0.5], [-0.5, 0.1, 0.1]])
    assert inside(points, surface).tolist() == [True, True, False, False]
