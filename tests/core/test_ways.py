"""Ways to stand judged by what shows and what is thin; what tells a mirrored part."""

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import SettleUnit
from aimtrue.core.mesh.features.listed import features_of
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.ownership import seat_of
from aimtrue.core.seating.actions import HideAll, MarkShowing, MirrorSeat, SetCopies, TurnSeat
from aimtrue.core.seating.layer_analysis.thin_features import crossed, thin_features
from aimtrue.core.seating.orientation.handedness import handed
from aimtrue.core.seating.orientation.ways_to_stand import WayToStand, ways_to_stand
from aimtrue.core.seating.placement.places import places_of
from aimtrue.core.seating.views import mirrored_words, tried
from aimtrue.core.truing.actions import SetFactor
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of, screw

B = BodyId("s1-1")
Solid = manifold3d.Manifold


def part(mesh: Mesh) -> Bench:
    return bench_of("part.stl", binary_stl(corners_of(mesh))).do(SettleUnit(source="s1", unit=Unit.MM))


def face_towards(mesh: Mesh, way: tuple[float, float, float]) -> int:
    return int(np.argmax(mesh.area_vectors @ np.asarray(way) / np.linalg.norm(mesh.area_vectors, axis=1)))


def by_down(ways: tuple[WayToStand, ...]) -> dict[tuple[int, ...], WayToStand]:
    return {tuple(round(one) for one in way.down): way for way in ways}


def test_a_marked_face_sees_the_sky_where_its_opposite_is_down() -> None:
    bench = part(box(20, 30, 10))
    assert all(way.sky is None for way in ways_to_stand(bench.job, B, 1, bench, "sky"))
    face = face_towards(bench.mesh(bench.job.bodies[0].geometry), (1, 0, 0))
    marked = bench.do(MarkShowing(body=B, face=face))
    ways = ways_to_stand(marked.job, B, 1, marked, "sky")
    assert (ways[0].down, ways[0].sky, ways[0].why) == ((-1, 0, 0), pytest.approx(1), "100 % sees the sky")
    assert [way.sky for way in ways[1:]] == pytest.approx([0] * 5)


def test_a_face_that_is_marked_twice_is_marked_no_more() -> None:
    bench = part(box(20, 30, 10))
    mesh = bench.mesh(bench.job.bodies[0].geometry)
    both = np.flatnonzero(mesh.area_vectors[:, 2] > 0)
    once = bench.do(MarkShowing(body=B, face=int(both[0])))
    assert len(once.job.bodies[0].showing) == 1
    assert once.do(MarkShowing(body=B, face=int(both[1]))).job.bodies[0].showing == ()
    assert len(once.do(MarkShowing(body=B, face=0)).job.bodies[0].showing) == 1
    assert once.do(HideAll(body=B)).job.bodies[0].showing == ()
    with pytest.raises(Refused, match="no such face"):
        bench.do(MarkShowing(body=B, face=12))


@settings(max_examples=25, deadline=None)
@given(st.floats(0.2, 5), st.floats(0.2, 5), st.integers(0, 11))
def test_the_share_is_of_the_area_as_corrected(x: float, z: float, face: int) -> None:
    """Two sides are marked, of which one sees the sky: their areas after the correction tell the share."""
    bench = part(box(20, 30, 10)).do(MarkShowing(body=B, face=face))
    mesh = bench.mesh(bench.job.bodies[0].geometry)
    up = face_towards(mesh, (0, 0, 1))
    if face in np.flatnonzero(mesh.area_vectors[:, 2] > 0):
        return
    bench = bench.do(MarkShowing(body=B, face=up))
    bench = bench.do(SetFactor(body=B, typed=str(x)))
    way = by_down(ways_to_stand(bench.job, B, 1, bench))[0, 0, -1]
    normal = mesh.area_vectors[face] / np.linalg.norm(mesh.area_vectors[face])
    other = {0: 30 * 10, 1: 20 * 10, 2: 20 * 30}[int(np.argmax(np.abs(normal)))]
    assert way.sky == pytest.approx(600 / (600 + other))


def plate_with_pin() -> Mesh:
    """A plate of 40 x 40 x 5 with an upright pin of 4, 20 long."""
    pin = Solid.cylinder(20.5, 2, 2, 32).translate((20, 20, 4.5))
    return mesh_of(Solid.cube((40, 40, 5)) + pin)


def test_layers_lie_across_an_upright_pin_and_along_one_that_lies() -> None:
    mesh = plate_with_pin()
    (pin,) = thin_features(mesh, features_of(mesh), np.eye(3))
    assert (pin.round, pin.thick_mm, pin.long_mm) == (True, pytest.approx(4, abs=1e-3), pytest.approx(20))
    assert crossed((pin,), np.array([0, 0, -1.0])) == (pin,)
    assert crossed((pin,), np.array([1.0, 0, 0])) == ()
    bench = part(mesh)
    ways = by_down(ways_to_stand(bench.job, B, 1, bench))
    assert ways[0, 0, -1].across == ("pin Ø4, 20 long",)
    assert ways[-1, 0, 0].across == ()


def test_what_is_thin_is_told_of_the_corrected_body() -> None:
    bench = part(plate_with_pin()).do(SetFactor(body=B, typed="2"))
    assert by_down(ways_to_stand(bench.job, B, 1, bench))[0, 0, -1].across == ()


def test_a_bar_is_told_once_though_four_sides_tell_of_it() -> None:
    mesh = mesh_of(Solid.cube((40, 40, 5)) + Solid.cube((3, 4, 30)).translate((10, 10, 4)))
    found = thin_features(mesh, features_of(mesh), np.eye(3))
    assert len(found) == 1
    assert found[0].thick_mm == pytest.approx(3)
    assert abs(found[0].along[2]) == pytest.approx(1)


def hook(bore: bool = False) -> Mesh:
    """An L with a foot at its side: it has no plane of symmetry."""
    made = Solid.cube((30, 8, 8)) + Solid.cube((8, 24, 8)) + Solid.cube((8, 8, 20))
    return mesh_of(made - Solid.cylinder(20, 2, 2, 24).translate((24, 4, -5)) if bore else made)


@pytest.mark.parametrize("shape", [box(20, 30, 10), mesh_of(Solid.cylinder(20, 5, 5, 48)), plate_with_pin()])
def test_what_has_a_plane_of_symmetry_is_its_own_mirror_image(shape: Mesh) -> None:
    assert handed(shape, features_of(shape)).same


def test_a_box_turned_aslant_is_its_own_mirror_image_still() -> None:
    aslant = mesh_of(Solid.cube((20, 30, 10)).rotate((17, 25, 40)))
    assert handed(aslant, features_of(aslant)).same


def test_what_has_none_is_told_with_its_bores() -> None:
    assert not handed(hook(), features_of(hook())).same
    off = mesh_of(Solid.cube((40, 30, 8)) - Solid.cylinder(20, 2, 2, 24).translate((8, 9, -5)))
    handedness = handed(off, features_of(off))
    # A plate is its own mirror image whatever bore goes through it; only where that is not through is it not.
    assert handedness.same
    blind = mesh_of(Solid.cube((40, 30, 8)) - Solid.cylinder(20, 2, 2, 24).translate((8, 9, 4)))
    handedness = handed(blind, features_of(blind))
    assert (handedness.same, handedness.bores) == (False, (pytest.approx(4, abs=0.02),))


def test_a_thread_always_tells() -> None:
    mesh = screw()
    handedness = handed(mesh, features_of(mesh))
    assert (handedness.same, handedness.threads) == (False, 1)
    bench = part(mesh)
    (told,) = mirrored_words(bench.job, B, bench)
    assert told.says.startswith("a thread turns the other way")
    assert seat_of(bench.do(MirrorSeat(body=B)).job, bench.job.bodies[0]).mirrored


def test_a_turn_is_tried_about_its_middle_and_done_there() -> None:
    bench = part(box(20, 60, 40))
    bench.do(SetCopies(body=B, typed="2"))
    before = bench.job
    x, y = places_of(bench.job, bench)[f"{B}~1"].middle
    assert tried(bench.job, B, 1, 100.0, 0.0, bench).marks == ()
    assert tried(bench.job, B, 1, 118.0, 0.0, bench, turn=90.0).marks == ("outside",)
    assert tried(bench.job, B, 1, 0.0, 0.0, bench, turn=90.0).says == ("15.00 mm into part, copy 2",)
    assert bench.job is before
    bench.do(TurnSeat(body=B, axis="z", typed="90", here=True))
    place = places_of(bench.job, bench)[f"{B}~1"]
    assert place.middle == pytest.approx([x, y])
    assert np.ptp(place.bounds, axis=0) == pytest.approx([60, 20, 40])
