"""Which triangles are one body, which bodies are alike, and which overlap."""

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from aimtrue.core.actions import apply
from aimtrue.core.intake.actions import Duplicate, SettleUnit, TakeIn
from aimtrue.core.intake.bodies.congruence import are_alike, groups_of_alike, identical
from aimtrue.core.intake.bodies.overlaps import overlaps_of
from aimtrue.core.intake.bodies.separate import separate
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.mesh.mesh import Mesh, merged, weld
from aimtrue.core.mesh.point_location import winding_numbers
from aimtrue.core.mesh.solids import mesh_of, solid_of
from aimtrue.core.model.ids import BodyId
from aimtrue.core.truing.actions import SetFactor
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of


def turned(mesh: Mesh) -> Mesh:
    return Mesh(mesh.vertices, np.ascontiguousarray(mesh.faces[:, ::-1]))


def together(*meshes: Mesh) -> Mesh:
    """Several meshes as an STL would hold them: welded corner by corner."""
    return weld(corners_of(merged(list(meshes))).astype(np.float32))


def bracket(mirrored: bool = False) -> Mesh:
    """A chiral body: no rotation brings it onto its mirror image."""
    solid = (
        manifold3d.Manifold.cube((30, 10, 5))
        + manifold3d.Manifold.cube((6, 10, 22))
        + manifold3d.Manifold.cube((6, 25, 5)).translate((24, 0, 0))
    )
    return mesh_of(solid.mirror((1, 0, 0)) if mirrored else solid)


def test_shells_that_do_not_touch_are_bodies() -> None:
    bodies = separate(together(box(2, 3, 5), box(1, 1, 1, at=(9, 0, 0))))
    assert [body.mesh.volume() for body in bodies] == pytest.approx([30, 1])
    assert all(body.mesh.topology.closed for body in bodies)


@pytest.mark.parametrize("at", [(2, 3, 0), (2, 3, 5), (2, 0.5, 5)])
def test_solids_that_touch_along_an_edge_or_at_a_corner_stay_two(at: tuple[float, float, float]) -> None:
    bodies = separate(together(box(2, 3, 5), box(2, 3, 5, at=at)))
    assert [body.mesh.volume() for body in bodies] == pytest.approx([30, 30])
    assert all(body.mesh.topology.closed for body in bodies)


def test_a_solid_that_touches_itself_along_an_edge_stays_one() -> None:
    # A ring of four posts, two of which meet in a line at the middle, on a common floor.
    posts = [box(2, 2, 4, at=(0, 0, 1)), box(2, 2, 4, at=(2, 2, 1))]
    floor = manifold3d.Manifold.cube((4, 4, 1))
    whole = floor
    for post in posts:
        low = post.bounds()[0] - [0, 0, 0.5]
        whole += manifold3d.Manifold.cube((2, 2, 4.5)).translate(tuple(low))
    mesh = mesh_of(whole)
    mesh = weld(mesh.vertices[mesh.faces].astype(np.float32))
    (body,) = separate(mesh)
    assert body.mesh.volume() == pytest.approx(16 + 32)
    assert body.voids == 0


def test_a_void_belongs_to_the_body_around_it_and_a_body_within_it_does_not() -> None:
    outer, hollow = box(10, 10, 10), turned(box(6, 6, 6, at=(2, 2, 2)))
    core = box(2, 2, 2, at=(4, 4, 4))
    bodies = separate(together(outer, hollow, core))
    assert [body.voids for body in bodies] == [1, 0]
    assert bodies[0].mesh.volume() == pytest.approx(1000 - 216)
    assert bodies[1].mesh.volume() == pytest.approx(8)


def test_parts_know_what_the_whole_knew() -> None:
    whole = together(bracket(), box(20, 30, 50, at=(100, 0, 0)))
    for body in separate(whole):
        fresh = Mesh(body.mesh.vertices, body.mesh.faces).topology
        topology = body.mesh.topology
        assert topology.closed == fresh.closed
        assert sorted(map(tuple, topology.ends.tolist())) == sorted(map(tuple, fresh.ends.tolist()))
        assert (topology.edge_valence == fresh.edge_valence).all()
        np.testing.assert_allclose(
            body.mesh.area_vectors, Mesh(body.mesh.vertices, body.mesh.faces).area_vectors
        )


def test_many_specks_are_bounded() -> None:
    specks = [box(0.1, 0.1, 0.1, at=(i % 30, i // 30, 20)) for i in range(900)]
    bodies = separate(together(box(50, 50, 5), *specks))
    assert len(bodies) == 400
    assert sum(body.mesh.triangles for body in bodies) == 12 * 901


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 2**31), st.booleans())
def test_a_turned_copy_is_alike_and_a_mirrored_one_is_not(seed: int, mirrored: bool) -> None:
    turn = Rotation.random(random_state=seed).as_matrix()
    other = bracket(mirrored)
    moved = Mesh((other.vertices @ turn.T + [300, -20, 7]).astype(np.float32).astype(np.float64), other.faces)
    assert are_alike(bracket(), moved) == (not mirrored)


def test_balls_and_rods_are_alike_however_they_lie() -> None:
    ball, rod = manifold3d.Manifold.sphere(8, 48), manifold3d.Manifold.cylinder(20, 5, circular_segments=64)
    meshes = [
        mesh_of(ball), mesh_of(rod), mesh_of(ball.rotate((30, 20, 0)).translate((50, 0, 0))),
        mesh_of(rod.rotate((90, 0, 0))), mesh_of(ball.scale((1.01, 1, 1))), box(2, 3, 5), box(3, 2, 5),
    ]  # fmt: skip
    groups = groups_of_alike(meshes)
    assert groups[2] == groups[0]
    assert groups[3] == groups[1]
    assert groups[4] == 4
    assert groups[0] != groups[1]


def test_a_point_is_inside_or_outside() -> None:
    numbers = winding_numbers(box(2, 2, 2), np.arange(12), np.array([[1, 1, 1], [3, 1, 1], [1.9, 1.9, 1.9]]))
    np.testing.assert_allclose(numbers, [1, 0, 1], atol=1e-12)


def test_overlaps_are_measured_and_touching_is_none() -> None:
    three = [
        (BodyId("a"), box(10, 10, 10)),
        (BodyId("b"), box(10, 10, 10, at=(8, 0, 0))),
        (BodyId("c"), box(5, 5, 5, at=(0, 0, 10))),
    ]
    found, passed = overlaps_of(three)
    assert passed == 0
    assert overlaps_of(three, {BodyId("c")}) == ((), 0)
    assert overlaps_of(three, {BodyId("b")})[0] == found
    assert [(body_overlap.a, body_overlap.b) for body_overlap in found] == [("a", "b")]
    assert found[0].volume == pytest.approx(200)


def test_an_open_mesh_is_no_solid() -> None:
    assert solid_of(Mesh(box(2, 3, 5).vertices, box(2, 3, 5).faces[1:])) is None


def test_specks_and_copies_are_seen_at_intake() -> None:
    data = binary_stl(
        np.concatenate(
            [
                corners_of(m)
                for m in (
                    box(50, 40, 5),
                    box(4, 4, 4, at=(60, 0, 0)),
                    box(4, 4, 4, at=(70, 9, 0)),
                    box(0.2, 0.2, 0.2, at=(0, 0, 9)),
                )
            ]
        )
    )
    taken = take_in("s1", "rack_A.stl", data)
    assert [body.name for body in taken.bodies] == ["rack A 1", "rack A 2", "rack A 3", "rack A speck 1"]
    assert [body.stray for body in taken.bodies] == [False, False, False, True]
    assert taken.bodies[1].alike == taken.bodies[2].alike is not None
    assert taken.bodies[0].alike is None


def another(bench: Bench, key: str, mesh: Mesh) -> Bench:
    """Give a job one more file."""
    taken = take_in(key, f"{key}.stl", binary_stl(corners_of(mesh)))
    bench.meshes |= taken.meshes
    action = TakeIn(sources=taken.sources, bodies=taken.bodies, kits=taken.kits)
    bench.job = apply(bench.job, action, bench)
    return bench


def test_bodies_of_different_files_are_the_same_part_while_their_sizes_agree() -> None:
    bench = bench_of("one.stl", binary_stl(corners_of(together(bracket(), box(2, 3, 5, at=(90, 0, 0))))))
    spun = Mesh(
        bracket().vertices @ Rotation.from_euler("xyz", (90, 0, 90), degrees=True).as_matrix(),
        bracket().faces,
    )
    another(bench, "s2", spun)
    another(bench, "s3", bracket(mirrored=True))
    bench.do(*(SettleUnit(source=source.id, unit="mm") for source in bench.job.sources))
    ell, _, copy, mirrored = bench.job.bodies
    assert set(identical(bench.job)[ell.id]) == {ell.id, copy.id}
    assert mirrored.id not in identical(bench.job)
    bench.do(SettleUnit(source="s2", unit="cm"))
    assert identical(bench.job) == {}
    bench.do(SetFactor(body=copy.id, typed="0.1"))
    assert set(identical(bench.job)[copy.id]) == {ell.id, copy.id}
    bench.do(Duplicate(bodies=(copy.id,)))
    assert len(identical(bench.job)[ell.id]) == 3
