"""Surfaces that cross themselves, resolved: their material keeps its volume."""

import manifold3d
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from aimtrue.core.errors import Refused
from aimtrue.core.intake.mending.arrangements import arranged
from aimtrue.core.intake.mending.remedies import without_crossings
from aimtrue.core.mesh.crossings import crossing_faces
from aimtrue.core.mesh.mesh import Mesh, merged
from aimtrue.core.mesh.solids import solid_of
from tests.shapes import bar, box, eight


def resolved(mesh: Mesh) -> Mesh:
    """The mesh resolved, which must be a closed solid without crossings."""
    made = arranged(mesh)
    assert made is not None
    assert made.topology.closed
    assert not len(crossing_faces(made))
    return made


@given(st.integers(8, 20), st.integers(30, 60), st.floats(0.3, 2.0))
@settings(max_examples=12, deadline=None)
def test_a_tube_through_itself_agrees_with_its_strands_joined(around: int, along: int, lift: float) -> None:
    tube = eight(around, along, lift)
    solid = solid_of(tube)
    assert solid is not None
    left, rest = solid.split_by_plane((1, 0, 0), 8.0)
    middle, right = rest.split_by_plane((1, 0, 0), -8.0)
    strands = middle.decompose()
    assume(len(strands) == 2)
    apart = manifold3d.Manifold.batch_boolean([left, right, *strands], manifold3d.OpType.Add)
    mesh = resolved(tube)
    assert mesh.volume() == pytest.approx(apart.volume(), rel=1e-9)
    assert mesh.volume() < tube.volume() - 1


@pytest.mark.parametrize(("climb", "crossed"), [(0.0, 12.0), (1.5, 7.457929569265732)])
def test_a_bar_across_itself_counts_the_crossing_once(climb: float, crossed: float) -> None:
    # Flat, it crosses over 2 x 2 x 3; its caps lie in one plane there, so it touches itself as well.
    rod = bar([(0, 0), (20, 0), (20, 10), (10, 10), (10, -8)], 2, 3, climb)
    mesh = resolved(rod)
    assert mesh.volume() == pytest.approx(rod.volume() - crossed, rel=1e-7)
    kept = {tuple(one) for one in mesh.vertices.tolist()} & {tuple(one) for one in rod.vertices.tolist()}
    assert len(kept) == len(rod.vertices)  # corners outside of the crossing are where they were


def test_a_dent_pushed_through_the_other_side_ends_there() -> None:
    block = box(10, 10, 10)
    lid = (block.vertices[block.faces][:, :, 2] == 10).all(axis=1)
    faces = [*block.faces[~lid].tolist(), (4, 5, 8), (5, 6, 8), (6, 7, 8), (7, 4, 8)]
    pushed = Mesh(np.vstack([block.vertices, [5, 5, -4]]), np.array(faces, np.int32))
    tip = (10 * 4 / 14) ** 2 * 4 / 3
    assert resolved(pushed).volume() == pytest.approx(1000 - (100 * 14 / 3 - tip), rel=1e-7)


def test_three_bars_that_meet_in_one_place() -> None:
    bars = merged([box(10, 4, 4), box(4, 10, 4, at=(3, -3, 1)), box(4, 4, 10, at=(4, 1, -3.5))])
    assert resolved(bars).volume() == pytest.approx(363, rel=1e-9)


def test_a_surface_that_does_not_cross_is_the_very_same() -> None:
    for mesh in (box(3, 4, 5), bar([(0, 0), (20, 0), (20, 10)], 2, 3)):
        assert arranged(mesh) is mesh
        assert without_crossings(mesh) is mesh


def test_the_remedy_takes_a_shell_through_itself_and_shells_through_each_other() -> None:
    rod = bar([(0, 0), (20, 0), (20, 10), (10, 10), (10, -8)], 2, 3, 1.5)
    far = rod.mapped(lambda v: v + np.array([100, 0, 0]))
    alone = without_crossings(rod)
    assert without_crossings(merged([rod, far])).volume() == pytest.approx(2 * alone.volume(), rel=1e-9)
    crossed = without_crossings(merged([rod, box(4, 4, 4, at=(-1, -1.5, -1))]))
    assert crossed.topology.shells == 1
    assert not len(crossing_faces(crossed))
    with pytest.raises(Refused, match="closed"):
        without_crossings(Mesh(rod.vertices, rod.faces[1:]))
