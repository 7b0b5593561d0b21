"""Fit: pairs, distances, walls and moved faces, on shapes whose every number is known."""

from __future__ import annotations

from math import inf, pi, sin, sqrt

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from manifold3d import CrossSection, Manifold

from aimtrue.core.errors import Refused
from aimtrue.core.fit.clearances.clearance_band import ClearanceBand, banded
from aimtrue.core.fit.clearances.intents import band_of, freed_by, intent_met, verdict
from aimtrue.core.fit.clearances.iso286 import clearance_of, grade_mm, hole_limits, shaft_limits
from aimtrue.core.fit.distance import least_distance
from aimtrue.core.fit.faces import STATES, FitFace, State, faces_of, mesh_in
from aimtrue.core.fit.moving import movable_at, move_surface
from aimtrue.core.fit.pairs.pair_search import best_aligned, pairs_between, pairs_within
from aimtrue.core.fit.pairs.values import FoundPair
from aimtrue.core.fit.placing import onto_axis
from aimtrue.core.fit.walls.least import least_wall, wall_map
from aimtrue.core.fit.walls.thickness import by_ball, by_ray
from aimtrue.core.intake.actions import MakeKit, SettleUnit
from aimtrue.core.mesh.features.listed import features_of
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.mesh.surface_map.samples import spread
from aimtrue.core.model.division import AskSurface
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.shaping import SurfaceMove
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.truing.actions import FreeAxis, SetAllowance, SetFactor, SizeAxis
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of, screw

A, B = BodyId("s1-1"), BodyId("s1-2")
SIDES = 96


def rod(diameter: float, length: float, at: tuple[float, float, float] = (0, 0, 0)) -> Manifold:
    return Manifold.cylinder(length, diameter / 2, diameter / 2, SIDES).translate(at)


def block(x: float, y: float, z: float, at: tuple[float, float, float] = (0, 0, 0)) -> Manifold:
    return Manifold.cube((x, y, z)).translate(at)


PLATE = block(40, 30, 8) - rod(5.3, 20, (12, 15, -5))
PIN = rod(5, 20, (12, 15, -6))


def settled(name: str, corners: Floats) -> Bench:
    """A file in mm as a job."""
    return bench_of(name, binary_stl(corners)).do(SettleUnit(source="s1", unit=Unit.MM))


def both(one: Manifold, other: Manifold) -> Bench:
    """Two bodies of one file, in mm: a kit, so that they keep their place."""
    corners = np.concatenate([corners_of(mesh_of(one)), corners_of(mesh_of(other))])
    bench = settled("pair.stl", corners)
    assert len(bench.job.bodies) == 2
    return bench


def faces(bench: Bench, state: State = "released") -> list[tuple[FitFace, ...]]:
    return [faces_of(state, bench.job, body, bench) for body in bench.job.bodies]


def pairs(bench: Bench, state: State = "released") -> list[FoundPair]:
    one, other = faces(bench, state)
    return pairs_between(one, other)


def kinds(one: Manifold, other: Manifold) -> list[str]:
    return sorted(pair.kind for pair in pairs(both(one, other)))


def test_a_pin_in_a_bore_is_told_with_all_its_lengths() -> None:
    (pair,) = pairs(both(PLATE, PIN))
    assert pair.kind == "bore and shaft"
    assert pair.sizes_mm == pytest.approx((5.3, 5.0), abs=1e-5)
    assert (pair.clearance_mm, pair.per_side_mm) == (
        pytest.approx(0.3, abs=1e-5),
        pytest.approx(0.15, abs=1e-5),
    )
    assert pair.engaged_mm == pytest.approx(8)
    assert pair.offset_mm == pytest.approx(0, abs=1e-6)
    assert np.cross(pair.along, (0, 0, 1)) == pytest.approx([0, 0, 0], abs=1e-9)


def test_an_axis_aside_or_tilted_is_told() -> None:
    (aside,) = pairs(both(PLATE, PIN.translate((0.1, 0, 0))))
    assert aside.offset_mm == pytest.approx(0.1, abs=1e-6)
    tilted = PIN.translate((-12, -15, -4)).rotate((1, 0, 0)).translate((12, 15, 4))
    (leaning,) = pairs(both(PLATE, tilted))
    assert leaning.angle_deg == pytest.approx(1, abs=1e-4)


TUBE = rod(30, 40) - rod(20, 60, (0, 0, -10))
HALF = TUBE ^ block(60, 30, 60, (-30, 0, -10))
SLOTTED = block(40, 30, 20) - block(60, 10.4, 12, (-5, 9.8, 10))
SOCKET = block(40, 40, 20) - block(12.3, 8.4, 30, (10, 10, 5))
WEDGE = Manifold.extrude(
    CrossSection([[(0, 0), (20, 0), (15, 10), (5, 10)]]), 30
)  # fmt: skip
TRAY = block(40, 14, 30, (-10, -2, 0)) - Manifold.extrude(
    CrossSection([[(-0.2736, -0.1), (20.2736, -0.1), (14.1736, 12.1), (5.8264, 12.1)]]), 50
).translate((0, 0, -10))
ASSEMBLIES = {
    "a pin in a bore": (PLATE, PIN, ["bore and shaft"]),
    "a pin that is too thick": (PLATE, rod(6, 20, (12, 15, -6)), ["bore and shaft"]),
    "a pin beside its bore": (PLATE, rod(5, 20, (60, 15, -6)), []),
    "a pin far narrower than the bore": (PLATE, rod(2, 20, (12, 15, -6)), []),
    "a sleeve on a rod": (TUBE, rod(19.6, 80, (0, 0, -20)), ["bore and shaft"]),
    "half a clamp on a tube": (HALF, rod(19.6, 80, (0, 0, -20)), ["bore and shaft"]),
    "two halves of a clamp": (
        TUBE ^ block(60, 30, 60, (-30, 0.6, -10)),
        TUBE ^ block(60, 30, 60, (-30, -30.6, -10)),
        ["facing planes", "facing planes"],
    ),
    "a tab in a slot": (SLOTTED, block(30, 10, 15, (0, 10, 11)), ["facing planes", "slot and tab"]),
    "a block in a socket": (
        SOCKET,
        block(12, 8, 30, (10.15, 10.2, 5.5)),
        ["facing planes", "socket and block"],
    ),
    "two plates across a gap": (block(20, 20, 5), block(20, 20, 5, (3, 3, 5.5)), ["facing planes"]),
    "two plates far apart": (block(20, 20, 5), block(20, 20, 5, (0, 0, 15)), []),
    "a wedge in its tray": (TRAY, WEDGE, ["dovetail", "facing planes"]),
    "a ball beside a plate": (block(20, 20, 5), Manifold.sphere(4, SIDES).translate((10, 10, 10)), []),
}


@pytest.mark.parametrize("name", ASSEMBLIES)
def test_of_thirteen_assemblies_what_goes_together_is_found_and_nothing_else(name: str) -> None:
    one, other, wanted = ASSEMBLIES[name]
    assert kinds(one, other) == wanted


def test_slots_and_sockets_are_told_by_their_widths() -> None:
    slot = next(
        pair for pair in pairs(both(*ASSEMBLIES["a tab in a slot"][:2])) if pair.kind == "slot and tab"
    )
    assert slot.sizes_mm == pytest.approx((10.4, 10.0), abs=1e-5)
    assert (slot.clearance_mm, slot.engaged_mm) == (pytest.approx(0.4, abs=1e-5), pytest.approx(9, abs=1e-5))
    told = pairs(both(*ASSEMBLIES["a block in a socket"][:2]))
    socket = next(pair for pair in told if pair.kind == "socket and block")
    assert socket.sizes_mm == pytest.approx((12.3, 12.0, 8.4, 8.0), abs=1e-5)
    assert socket.clearance_mm == pytest.approx(0.3, abs=1e-5)


def test_threads_pair_by_their_pitch() -> None:
    def thread(radius: float, pitch: float, kind: str, number: int, hand: int = 1) -> FitFace:
        feature = features_of(screw(radius, pitch)).listed[0]
        at, way = np.asarray(feature.point) * (1, 1, 0), np.asarray(feature.direction)
        return FitFace(
            BodyId(f"b{number}"), number, kind, at, way, feature.diameter, feature.diameter,  # type: ignore[arg-type]
            np.zeros(3), 10, feature.pitch, hand * feature.hand, np.empty((0, 3)),
        )  # fmt: skip

    nut, bolt = thread(4.1, 1.25, "hollow thread", 0), thread(4, 1.25, "thread", 1)
    (pair,) = pairs_between((nut,), (bolt,))
    assert (pair.kind, pair.says) == ("thread and thread", "")
    assert pair.clearance_mm == pytest.approx(0.2, abs=1e-3)
    (other,) = pairs_between((nut,), (thread(4, 1.0, "thread", 1),))
    assert "their pitches differ" in other.says
    (left,) = pairs_between((nut,), (thread(4, 1.25, "thread", 1, hand=-1),))
    assert "the other left-hand" in left.says
    mirrored = features_of(Mesh(screw().vertices * (-1, 1, 1), screw().faces[:, ::-1]))
    assert (features_of(screw()).listed[0].hand, mirrored.listed[0].hand) == (1, -1)


def test_what_is_printed_in_one_go_pairs_within_its_body() -> None:
    hinge = settled("hinge.stl", corners_of(mesh_of(PLATE + PIN)))
    bodies = hinge.job.bodies
    found = [pair for body in bodies for pair in pairs_within(faces_of("drawn", hinge.job, body, hinge))]
    assert len(bodies) == 2
    assert not found
    bench = hinge.do(MakeKit(bodies=(A, B), name="hinge")) if bodies[0].kit is None else hinge
    assert [pair.kind for pair in pairs(bench)] == ["bore and shaft"]


def test_a_scaling_and_an_allowance_are_told_in_each_state() -> None:
    bench = both(PLATE, PIN).do(SetFactor(body=A, typed="0.6"))
    told = {state: pairs(bench, state)[0].clearance_mm for state in STATES}
    assert told["drawn"] == pytest.approx(0.3, abs=1e-5)
    assert told["corrected"] == told["released"] == pytest.approx(0.18, abs=1e-5)
    bench.do(SetAllowance(body=A, shrinkage=("2", "2", "2"), clearance=None))
    assert pairs(bench)[0].clearance_mm == pytest.approx(0.18 / 0.98, abs=1e-5)


@given(st.floats(0.2, 5), st.floats(0, 1.5))
def test_clearance_after_scaling_is_clearance_times_the_factor_less_what_the_allowance_takes(
    factor: float, percent: float
) -> None:
    bench = both(PLATE, PIN).do(SetFactor(body=A, typed=repr(factor)))
    bench.do(SetAllowance(body=A, shrinkage=(f"{percent:.6f}",) * 3, clearance=None))
    wanted = 0.3 * factor / (1 - round(percent, 6) / 100)
    assert pairs(bench)[0].clearance_mm == pytest.approx(wanted, rel=1e-4)


def test_an_unequal_scale_makes_a_bore_oval_and_says_so() -> None:
    bench = both(PLATE, PIN)
    bench.do(FreeAxis(body=A, axis="x", free=True), SizeAxis(body=A, axis="x", typed="44"))
    (pair,) = pairs(bench)
    assert pair.oval == "the bore is oval, 5.3 × 5.83 and the shaft is oval, 5 × 5.5"
    assert pair.clearance_mm == pytest.approx(5.3 - 5.5, abs=1e-4)


def test_axes_are_brought_together_without_moving_anything() -> None:
    bench = both(PLATE, PIN.rotate((90, 0, 0)).translate((100, 0, 0)))
    one, other = faces(bench)
    pair = best_aligned(one, other)
    assert pair is not None
    assert pair.clearance_mm == pytest.approx(0.3, abs=1e-5)
    come = next(face for face in other if face.kind == "boss")
    to = next(face for face in one if face.kind == "bore")
    meshes = [mesh_in("released", bench.job, body, bench) for body in bench.job.bodies]
    move = onto_axis(come, to)
    placed = Mesh(move.points(meshes[1].vertices), meshes[1].faces)
    assert placed.volume() == pytest.approx(meshes[1].volume(), rel=1e-9)
    near = least_distance(meshes[0], placed)
    # Facets lie within their circles, by up to 1 - cos(pi / n) of the radius.
    assert 0.15 - 2.65 * (1 - np.cos(pi / SIDES)) <= near.mm <= 0.15 + 1e-5
    assert best_aligned(one, one[:1]) is None


@pytest.mark.parametrize(
    ("other", "mm", "volume"),
    [
        (box(10, 10, 10, at=(12, 3, 3)), 2.0, 0.0),
        (box(10, 10, 10, at=(13, 14, 3)), 5.0, 0.0),
        (box(10, 10, 10, at=(12, 14, 15)), sqrt(4 + 16 + 25), 0.0),
        (box(10, 10, 10, at=(10, 0, 0)), 0.0, 0.0),
        (box(10, 10, 10, at=(8, 3, 3)), 0.0, 98.0),
        (box(2, 2, 2, at=(4, 4, 4)), 0.0, 8.0),
    ],
)
def test_boxes_are_as_far_apart_and_share_as_much_as_they_do(other: Mesh, mm: float, volume: float) -> None:
    near = least_distance(box(10, 10, 10), other)
    assert near.mm == pytest.approx(mm, abs=1e-9)
    assert near.overlap_mm3 == pytest.approx(volume, abs=1e-9)
    if not volume:
        assert float(np.linalg.norm(near.a - near.b)) == pytest.approx(mm, abs=1e-9)


def test_crossing_edges_are_nearer_than_any_corner() -> None:
    cube = Manifold.cube((10, 10, 10), True)
    one, other = mesh_of(cube.rotate((45, 0, 0))), mesh_of(cube.rotate((0, 45, 0)).translate((0, 0, 20)))
    assert least_distance(one, other).mm == pytest.approx(20 - 10 * sqrt(2), abs=1e-9)


@given(st.tuples(*[st.floats(0, 360)] * 3), st.floats(0.1, 4))
def test_turning_both_bodies_changes_no_distance(turn: tuple[float, float, float], gap: float) -> None:
    one, other = block(6, 5, 4), block(3, 4, 5, (6 + gap, 1, -2))
    apart = least_distance(mesh_of(one.rotate(turn)), mesh_of(other.rotate(turn)))
    assert apart.mm == pytest.approx(gap, abs=1e-9)


def test_walls_are_as_thick_as_they_are() -> None:
    thin = mesh_of(block(20, 20, 10) - block(18.8, 15, 20, (0.6, 2.5, -1)))
    walls = wall_map(thin, features_of(thin))
    least = least_wall(thin, walls, 0.4)
    assert least is not None
    assert (least.mm, least.beads, least.void_mm) == (
        pytest.approx(0.6, abs=1e-9),
        pytest.approx(1.5),
        pytest.approx(0.2),
    )
    assert least.ball_mm == pytest.approx(0.6, abs=1e-6)
    assert least.at[2] == pytest.approx(5, abs=5)
    assert walls.share_under(0.7) == pytest.approx(600 / thin.area(), rel=5e-3)
    assert walls.share_under(0.6) == 0


def test_a_wedge_runs_out_in_an_edge_and_has_no_thin_wall() -> None:
    wedge = mesh_of(Manifold.extrude(CrossSection([[(0, 0), (30, 0), (30, 15)]]), 10))
    least = least_wall(wedge, wall_map(wedge, features_of(wedge)), 0.4)
    assert least is not None
    assert least.mm > 9.9  # from end to end, not at its tip


def test_a_ball_and_a_ray_agree_on_a_shell() -> None:
    shell = mesh_of(Manifold.sphere(10, 128) - Manifold.sphere(8.5, 128))
    samples = spread(shell, 5000)
    assert samples.area.sum() == pytest.approx(shell.area())
    ray = by_ray(shell, samples)
    ball = by_ball(shell, samples, ray.mm)
    assert ray.mm == pytest.approx(np.full(len(ray.mm), 1.5), rel=4e-3)
    assert ball == pytest.approx(np.full(len(ball), 1.5), rel=1e-2)


def test_the_crest_of_a_thread_is_no_wall() -> None:
    thread = screw()
    assert not wall_map(thread, features_of(thread)).wall.any()


def test_fits_have_the_limits_of_the_standard() -> None:
    assert grade_mm(25, 7) == 0.021
    assert hole_limits(25, "H", 7).model_dump() == {"low_mm": 0.0, "high_mm": 0.021}
    assert shaft_limits(25, "g", 6).model_dump() == pytest.approx({"low_mm": -0.020, "high_mm": -0.007})
    assert shaft_limits(40, "k", 6).model_dump() == pytest.approx({"low_mm": 0.002, "high_mm": 0.018})
    band = clearance_of("H7/g6", 25)
    assert (band.low_mm, band.high_mm) == (pytest.approx(0.007), pytest.approx(0.041))
    assert clearance_of("H7/p6", 25).low_mm == pytest.approx(-0.035)
    # A size on the end of two ranges is of the lower one.
    assert (grade_mm(30, 7), grade_mm(30.001, 7)) == (0.021, 0.025)
    for text, size in (
        ("H7", 25),
        ("H4/g6", 25),
        ("H7/z6", 25),
        ("H7/g6", 0.5),
        ("H7/g6", 600),
        ("K7/g6", 25),
    ):
        with pytest.raises(Refused):
            clearance_of(text, size)


def test_a_verdict_counts_what_a_machine_is_off() -> None:
    band = band_of("slides", "filament")
    assert (band.low_mm, band.high_mm) == (0.3, 0.5)
    assert [verdict(c, band) for c in (0.29, 0.3, 0.4, 0.5, 0.51)] == [
        "does not hold", "holds", "holds", "holds", "does not hold",
    ]  # fmt: skip
    assert [verdict(c, band, 0.05) for c in (0.2, 0.3, 0.4, 0.56)] == [
        "does not hold", "may hold", "holds", "does not hold",
    ]  # fmt: skip
    assert verdict(99, ClearanceBand(low_mm=0.5, high_mm=inf)) == "holds"
    assert [intent_met(c, "filament") for c in (-0.5, -0.1, 0.2, 0.3, 0.6)] == [
        None, "press", "snug", "slides", "apart",
    ]  # fmt: skip
    with pytest.raises(Refused, match=r"0\.5 down to 0\.3"):
        banded(0.5, 0.3)


def test_what_frees_a_pair_brings_it_to_the_middle_of_its_band() -> None:
    (pair,) = pairs(both(PLATE, PIN))
    assert freed_by(pair.clearance_mm, band_of("slides", "filament")) == pytest.approx(0.1, abs=1e-5)
    assert freed_by(pair.clearance_mm, band_of("apart", "filament")) == pytest.approx(0.2, abs=1e-5)


def moved(mesh: Mesh, amount: float, *places: tuple[float, float, float]) -> Mesh:
    middles = mesh.vertices[mesh.faces].mean(axis=1)
    picks = [int(np.linalg.norm(middles - place, axis=1).argmin()) for place in places]
    return move_surface(mesh, SurfaceMove(faces=movable_at(mesh, picks), amount=amount)).mesh


def polygon(diameter: float) -> float:
    """The area of the polygon that stands for a circle."""
    return SIDES * diameter**2 / 8 * sin(2 * pi / SIDES)


def test_faces_move_with_their_neighbours() -> None:
    plate = mesh_of(PLATE)
    narrower = moved(plate, 0.2, (12, 17.65, 4))
    assert narrower.volume() == pytest.approx(9600 - 8 * polygon(4.9), rel=1e-9)
    assert narrower.extents() == pytest.approx([40, 30, 8])
    wider = moved(plate, 1.0, (40, 15, 4))
    assert wider.volume() == pytest.approx(41 * 30 * 8 - 8 * polygon(5.3), rel=1e-9)
    thicker = moved(plate, -0.5, (20, 20, 8))
    assert thicker.volume() == pytest.approx(7.5 * (1200 - polygon(5.3)), rel=1e-9)
    smaller = move_surface(plate, SurfaceMove(amount=-3.0)).mesh
    assert smaller.volume() == pytest.approx(2 * (34 * 24 - polygon(11.3)), rel=1e-9)
    pocket = mesh_of(block(30, 30, 10) - block(10, 10, 6, (10, 10, 4)))
    deeper = moved(pocket, -1.0, (15, 15, 4))
    assert deeper.volume() == pytest.approx(9000 - 700, rel=1e-9)


@given(st.floats(0.01, 1.0))
def test_what_is_moved_out_and_in_again_is_as_before(amount: float) -> None:
    plate = mesh_of(PLATE)
    there = move_surface(plate, SurfaceMove(amount=amount))
    back = move_surface(there.mesh, SurfaceMove(amount=-amount)).mesh
    assert back.volume() == pytest.approx(plate.volume(), rel=1e-9)
    assert back.bounds() == pytest.approx(plate.bounds(), abs=1e-9)
    assert (there.least_mm, there.greatest_mm) == (pytest.approx(amount), pytest.approx(amount))


def test_an_amount_that_is_too_large_is_refused_with_the_largest_that_works() -> None:
    plate = mesh_of(PLATE)
    with pytest.raises(Refused, match=r"would cross itself; about -25\.3 mm"):
        moved(plate, -29, (40, 15, 4))
    with pytest.raises(Refused, match="would pass its axis") as refused:
        moved(plate, 3, (12, 17.65, 4))
    assert refused.value.remedy == "choose less than 2.65 mm"
    ball = mesh_of(Manifold.sphere(5, 32))
    with pytest.raises(Refused, match="no flat or round face"):
        moved(ball, 0.2, (5, 0, 0))
    grown = move_surface(ball, SurfaceMove(amount=0.2))
    assert grown.least_mm == pytest.approx(0.2, abs=0.01)
    assert grown.mesh.extents() == pytest.approx([10.4] * 3, rel=5e-3)


def test_moved_faces_are_released_with_a_proof_of_their_amount() -> None:
    bench = settled("plate.stl", corners_of(mesh_of(PLATE)))
    bench.do(SetFactor(body=A, typed="2"))
    bore = next(feature for feature in bench.features(bench.job.bodies[0]).listed if feature.kind == "bore")
    draft = bench.shape(AskSurface(picks=({"face": bore.face, "point": bore.point},), amount="-0.15"))
    assert draft.moved_mm == pytest.approx((-0.15, -0.15, -0.15))
    made = next(body for body in bench.job.bodies if body.division)
    out = release(bench.job, bench, Order(bodies=(made.id,), place="own"))
    (check,) = [one for one in out.files[0].file.proof.checks if one.code == "moved"]
    assert check.holds
    assert check.asked == "-0.15000 mm"
    face = next(one for one in faces_of("released", bench.job, made, bench) if one.kind == "bore")
    assert face.most == pytest.approx(10.6 + 0.3, abs=1e-4)
