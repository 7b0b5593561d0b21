"""Division: pieces that add up, pins well inside, hollows, splits; known answers and random solids."""

from __future__ import annotations

import io
import math
from collections import Counter
from collections.abc import Callable
from random import Random
from typing import Any

import ezdxf.document
import manifold3d
import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

from aimtrue.core.division import pins
from aimtrue.core.division.cutting import hollow, seams, split
from aimtrue.core.division.cutting.halves import FaceGroup, parted
from aimtrue.core.division.cutting.loop_filling import filled
from aimtrue.core.division.cutting.pieces import Piece, cut_by
from aimtrue.core.division.cutting.planes import across, letter_of, plane_through, typed_plane
from aimtrue.core.division.cutting.solids import distances
from aimtrue.core.division.cutting.split import checked_rings
from aimtrue.core.division.fitting import fit_into, over_in, over_turned
from aimtrue.core.division.requests import answered
from aimtrue.core.division.sections.drawings import rings_in
from aimtrue.core.errors import Refused
from aimtrue.core.formats import read_model, threemf
from aimtrue.core.gauges import anchors
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.solids import mesh_of, solid_of
from aimtrue.core.model.decisions import PickedFace
from aimtrue.core.model.division import (
    AskAbove,
    AskCombination,
    AskFaces,
    AskHollow,
    AskInside,
    AskPieces,
    AskPins,
    AskSlice,
)
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.machine import BoxVolume, Machine, RoundVolume
from aimtrue.core.model.readings import Anchor
from aimtrue.core.model.shaping import HeightSplit, OutlineSplit, Pin, Pins, Plane, Slice
from tests.shapes import box

BLOCK = Manifold.cube((40, 30, 20))


def tube(across_mm: float = 60.0, wall: float = 8.0, high: float = 100.0) -> Manifold:
    inner = Manifold.cylinder(high + 2, across_mm / 2 - wall, across_mm / 2 - wall, 96).translate((0, 0, -1))
    return Manifold.cylinder(high, across_mm / 2, across_mm / 2, 96) - inner


def grooved() -> Manifold:
    """A rod of 20 x 20 and 100 high, stepped to 14 x 14 over 60, with a groove of 3 mm at 30."""
    rod = Manifold.cube((20, 20, 60)) + Manifold.cube((14, 14, 100)).translate((3, 3, 0))
    ring = Manifold.cube((20, 20, 3)) - Manifold.cube((16, 16, 3)).translate((2, 2, 0))
    return rod - ring.translate((0, 0, 30))


def volumes(pieces: list[Piece]) -> list[float]:
    return [piece.solid.volume() for piece in pieces]


# Planes


def test_planes_are_typed_named_and_told_apart() -> None:
    assert typed_plane("z = 6 3/4 in") == across("z", 171.45)
    tilted = typed_plane("0, 3, 4 @ 2cm")
    assert (tilted.normal, tilted.at) == ((0.0, 0.6, 0.8), 20.0)
    assert [letter_of(number) for number in (0, 25, 26, 701)] == ["A", "Z", "AA", "ZZ"]
    through = plane_through(np.array([[0.0, 0, 5], [1, 0, 5], [0, 1, 5]]))
    assert (through.normal, through.at) == ((0.0, 0.0, 1.0), 5.0)
    for text in (
        *("q=3", "z", "0,0,0 @ 4", "1,2 @ 4", "nan,0,1 @ 3", "z=wide"),
        *("z=3 tilted", "z=3 tilted 10 about w", "z=3 tilted far about x", "z=3 tilted 400 about x"),
        *("z=3 where", "z=3 where beside A", "z=3 where above 1"),
    ):
        with pytest.raises(Refused):
            typed_plane(text)


def test_a_plane_is_tilted_about_the_place_under_the_middle_of_the_body() -> None:
    tilted = typed_plane("z=10 tilted 30 about x", np.array([[0.0, 0, 90], [40, 30, 108]]))
    np.testing.assert_allclose(tilted.normal, [0, -0.5, math.sqrt(0.75)], atol=1e-15)
    assert np.dot(tilted.normal, [20, 15, 10]) == pytest.approx(tilted.at)
    twice = typed_plane("Z=10mm Tilted 90° about X and 90 about y", np.array([[0.0, 0, 0], [40, 30, 0]]))
    np.testing.assert_allclose(twice.normal, [0, -1, 0], atol=1e-15)
    off = np.array([[5.0, -3, 100], [45, 27, 120]])
    assert typed_plane("z=4 from low", off).at == 104
    assert typed_plane("y=1in from high", off).at == pytest.approx(1.6)
    halves = answered(AskPieces(planes=("z=10 from low tilted 20 about y",)), [mesh_of(BLOCK)], ["block"])
    assert volumes(halves.pieces) == pytest.approx([12000, 12000])  # through its middle


def test_a_plane_limited_to_one_piece_cuts_nothing_else() -> None:
    asked = AskPieces(planes=("z=5", "x=10 where above A", "y=10 where above A, below B"))
    division_draft = answered(asked, [mesh_of(BLOCK)], ["block"])
    places = {piece.place: piece.volume for piece in division_draft.pieces}
    assert places == pytest.approx(
        {"lower": 6000, "upper left front": 1500, "upper left back": 3000, "upper right": 13500}
    )
    assert division_draft.difference < 1e-12
    for planes, code in (
        (("z=5 where above A",), "plane-order"),
        (("z=5", "z=3 where above A"), "plane-misses"),
    ):
        with pytest.raises(Refused) as refused:
            answered(AskPieces(planes=planes), [mesh_of(BLOCK)], ["block"])
        assert refused.value.code == code
    # The same plane twice, each on one side, is one cut; and pins stand only where it cuts.
    pinned = answered(
        AskPieces(planes=("z=10", "x=20 where below A"), pins=AskPins(diameter="2", depth="3")),
        [mesh_of(BLOCK)],
        ["block"],
    )
    on_b = [pin.point for pin in pinned.shaping.pins.places if pin.plane == 1]  # type: ignore[union-attr, unused-ignore]
    assert len(on_b) == 2
    assert all(z < 10 for _, _, z in on_b)


def test_hundreds_of_pieces_are_made_only_if_that_is_meant() -> None:
    planes = tuple(f"{axis}={at}" for axis in "xy" for at in range(1, 12))
    with pytest.raises(Refused) as refused:
        answered(AskPieces(planes=planes), [mesh_of(BLOCK)], ["block"])
    assert "say that so many are meant" in refused.value.remedy
    assert len(answered(AskPieces(planes=planes, sure=True), [mesh_of(BLOCK)], ["block"]).pieces) == 144


def test_pins_placed_by_hand_are_all_there_are_and_lie_on_their_planes() -> None:
    places = (Pin(plane=0, point=(8, 15, 9.2)), Pin(plane=0, point=(32, 15, 11)))
    asked = AskPins(diameter="2", depth="3", places=places, by_hand=True)
    division_draft = answered(AskPieces(planes=("z=10",), pins=asked), [mesh_of(BLOCK)], ["block"])
    assert [pin.point for pin in division_draft.shaping.pins.places] == [(8, 15, 10), (32, 15, 10)]  # type: ignore[union-attr, unused-ignore]
    none = asked.model_copy(update={"places": ()})
    bare = answered(AskPieces(planes=("z=10",), pins=none), [mesh_of(BLOCK)], ["block"])
    assert volumes(bare.pieces) == pytest.approx([12000, 12000])
    out = asked.model_copy(update={"places": (Pin(plane=0, point=(0.5, 15, 10)),)})
    with pytest.raises(Refused, match="comes out"):
        answered(AskPieces(planes=("z=10",), pins=out), [mesh_of(BLOCK)], ["block"])
    missing = asked.model_copy(update={"places": (Pin(plane=1, point=(8, 15, 9)),)})
    with pytest.raises(Refused, match="not there"):
        answered(AskPieces(planes=("z=10",), pins=missing), [mesh_of(BLOCK)], ["block"])


STEPS = np.arange(0, 6.2, 0.1).tolist()


def ring(*corners: tuple[float, float]) -> Floats:
    return np.array(corners, float)


@pytest.mark.parametrize(
    ("loops", "area"),
    [
        ([ring((0, 0), (4, 0), (4, 3), (0, 3))], 12),
        ([ring((0, 0), (2, 0), (4, 0), (4, 3), (2, 3), (0, 3))], 12),  # corners on straight lines
        ([ring((1, 1), (1, 2), (3, 2), (3, 1)), ring((0, 0), (4, 0), (4, 3), (0, 3))], 10),  # the hole first
        ([ring((0, 0), (1, 0), (1, 1), (0, 1)), ring((5, 0), (6, 0), (6, 1), (5, 1))], 2),
        (
            [ring(*((math.cos(t) * (2 + t % 2), math.sin(t) * (2 + t % 2)) for t in np.arange(0, 6.2, 0.1)))],
            None,
        ),
    ],
)
def test_loops_are_filled_over_all_of_their_corners(loops: list[Floats], area: float | None) -> None:
    faces, points = filled(loops), np.concatenate(loops)
    edges = Counter((int(a), int(b)) for face in faces for a, b in zip(face, np.roll(face, -1), strict=True))
    assert max(edges.values()) == 1
    rim = {(a, b) for a, b in edges if (b, a) not in edges}
    starts = np.cumsum([0, *map(len, loops)]).tolist()
    assert rim == {
        (start + k, start + (k + 1) % len(loop))
        for start, loop in zip(starts, loops, strict=False)
        for k in range(len(loop))
    }
    a, b, c = (points[faces[:, k]] for k in range(3))
    twice = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    assert twice.min() >= -1e-12
    assert area is None or twice.sum() / 2 == pytest.approx(area)


@pytest.mark.parametrize(
    ("planes", "code"),
    [
        ((across("z", 20.0),), "plane-misses"),  # lies in a face
        ((across("z", -1.0),), "plane-misses"),
        ((across("x", 0.0),), "plane-misses"),
        ((across("z", 5.0), Plane(normal=(0, 0, -1), at=-5.0)), "planes-alike"),
        (tuple(across("x", 0.05 + 0.0999 * n) for n in range(400)), "pieces-many"),
    ],
)
def test_planes_that_make_no_pieces_are_refused(planes: tuple[Plane, ...], code: str) -> None:
    with pytest.raises(Refused) as refused:
        cut_by(BLOCK, planes)
    assert refused.value.code == code


def test_pieces_have_known_sizes_and_are_named_by_place() -> None:
    pieces = cut_by(BLOCK, (across("z", 5.0), across("x", 10.0), across("x", 30.0)))
    assert [piece.place for piece in pieces] == [
        "lower left", "lower centre", "lower right", "upper left", "upper centre", "upper right",
    ]  # fmt: skip
    assert volumes(pieces) == pytest.approx([1500, 3000, 1500, 4500, 9000, 4500])
    five = cut_by(BLOCK, tuple(across("y", y) for y in (5.0, 10.0, 15.0, 20.0)))
    assert [piece.place for piece in five] == [f"row {n}" for n in range(1, 6)]
    (below, above) = cut_by(BLOCK, (typed_plane("0,1,1 @ 20"),))
    assert (below.place, above.place) == ("below A", "above A")


def test_what_does_not_hang_together_is_pieces_of_its_own_and_a_void_is_not() -> None:
    fork = Manifold.cube((40, 10, 10)) + sum(
        (Manifold.cube((5, 10, 20)).translate((x, 0, 10)) for x in (0, 35)), Manifold()
    )
    assert len(cut_by(fork, (across("z", 15.0),))) == 3
    shell = Manifold.cube((30, 30, 30)) - Manifold.cube((10, 10, 4)).translate((10, 10, 3))
    lower, upper = cut_by(shell, (across("z", 20.0),))
    assert volumes([lower, upper]) == pytest.approx([18000 - 400, 9000])


def test_slivers_are_told_dropped_or_given_to_what_they_touch() -> None:
    mesh = mesh_of(BLOCK)
    kept = answered(AskPieces(planes=("z=10", "x=0.02")), [mesh], ["block"])
    assert sum(piece.sliver for piece in kept.pieces) == 2
    assert len(kept.slivers) == 2
    dropped = answered(AskPieces(planes=("z=10", "x=0.02"), slivers="drop"), [mesh], ["block"])
    assert (len(dropped.pieces), dropped.dropped[0]) == (2, 2)
    assert dropped.dropped[1] == pytest.approx(0.02 * 30 * 20)
    given_away = answered(AskPieces(planes=("z=10", "x=0.02"), slivers="give"), [mesh], ["block"])
    assert volumes(given_away.pieces) == pytest.approx([12000, 12000])


POINT = st.tuples(*(st.floats(-20, 20),) * 3)
SIZE = st.tuples(*(st.floats(5, 30),) * 3)
WAY = st.tuples(*(st.integers(-3, 3),) * 3).filter(any)


@settings(max_examples=30, deadline=None)
@given(
    st.lists(st.tuples(SIZE, POINT), min_size=1, max_size=4),
    st.lists(st.tuples(WAY, st.floats(0.1, 0.9)), min_size=1, max_size=3),
    st.floats(0.3, 3),
)
def test_random_solids_and_planes(
    parts: list[tuple[tuple[float, ...], tuple[float, ...]]],
    asked: list[tuple[tuple[int, ...], float]],
    factor: float,
) -> None:
    solid = sum((Manifold.cube(size, True).translate(at) for size, at in parts), Manifold())
    solid += Manifold.sphere(6, 24).translate(parts[0][1])
    points = mesh_of(solid).vertices
    planes = []
    for way, share in asked:
        normal = np.asarray(way) / np.linalg.norm(way)
        low, high = (points @ normal).min(), (points @ normal).max()
        planes.append(Plane(normal=tuple(normal.tolist()), at=float(low + share * (high - low))))
    for one, other in ((a, b) for i, a in enumerate(planes) for b in planes[:i]):
        parallel = abs(abs(np.dot(one.normal, other.normal)) - 1) < 1e-9
        assume(not parallel or abs(abs(one.at) - abs(other.at)) > 0.1)
    pieces = cut_by(solid, planes)
    whole = solid.volume()
    assert abs(sum(volumes(pieces)) - whole) < 1e-6 * whole
    assert all(solid_of(piece.mesh) is not None for piece in pieces)
    again = Manifold.batch_boolean([piece.solid for piece in pieces], manifold3d.OpType.Add)
    # Parts that lie micrometres beside each other are joined by the library to within as much of their area.
    beside = 2e-5 * solid.surface_area()
    assert (again - solid).volume() + (solid - again).volume() < 1e-6 * whole + beside
    # Corrected and then divided is the same as divided and then corrected.
    larger = [Plane(normal=plane.normal, at=plane.at * factor) for plane in planes]
    after = cut_by(solid.scale((factor,) * 3), larger)
    assert sorted(volumes(after)) == pytest.approx([v * factor**3 for v in sorted(volumes(pieces))], rel=1e-6)


def test_the_quick_way_and_the_solids_cut_alike_and_give_way_to_each_other() -> None:
    ball = mesh_of(Manifold.sphere(20, 64) - Manifold.cylinder(60, 6, 6, 32).translate((1.5, 2.5, -30)))
    plane = typed_plane("0.3,-0.2,0.9 @ 3.3")
    quick = parted(FaceGroup(ball.vertices, ball.faces), plane)
    assert quick is not None
    slow = solid_of(ball).split_by_plane(plane.normal, plane.at)  # type: ignore[union-attr, unused-ignore]
    for mine, theirs in zip(quick, slow, strict=True):
        assert mine is not None
        assert mine.mesh.topology.closed
        assert mine.mesh.volume() == pytest.approx(theirs.volume(), rel=1e-12)
        assert mine.mesh.area() == pytest.approx(theirs.surface_area(), rel=1e-9)
    # A plane through corners is left to the library; one that misses leaves all on one side.
    block = FaceGroup(box(10, 10, 10).vertices, box(10, 10, 10).faces)
    assert parted(block, across("z", 10.0)) is None
    assert parted(block, across("z", 12.0)) == (None, block)
    assert parted(block, across("z", -1.0)) == (block, None)


# Fitting


def test_as_many_pieces_as_a_machine_asks_for() -> None:
    small = Machine(name="small", volume=BoxVolume(size=(120, 120, 120)))
    bounds = np.array([[-131.0, -131, 0], [131, 131, 310]])
    fit = fit_into(small, bounds)
    assert (fit.counts, fit.pieces, len(fit.planes)) == ((3, 3, 3), 27, 6)
    flat = np.array([[0.0, 0, 0], [110, 230, 100]])
    tall = Machine(name="tall", volume=BoxVolume(size=(120, 120, 240)))
    assert fit_into(tall, flat).counts == (1, 2, 1)
    assert fit_into(tall, flat, turned=True).counts == (1, 1, 1)
    assert over_in(tall, box(110, 230, 100).vertices)[1] == pytest.approx(110)
    assert over_turned(tall, box(110, 230, 100).vertices) == (0, 0, 0)
    assert fit_into(small, bounds, turned=True).counts == (3, 3, 3)
    round_one = Machine(name="round", volume=RoundVolume(diameter=180, height=400))
    assert fit_into(round_one, bounds).counts == (3, 3, 1)
    assert over_in(small, box(120, 120, 120).vertices) == (0, 0, 0)
    assert over_in(small, box(130, 20, 120.5).vertices) == pytest.approx((10, 0, 0.5))
    assert over_in(round_one, box(127, 127, 10).vertices) == (0, 0, 0)
    assert over_in(round_one, box(128, 128, 10).vertices)[0] == pytest.approx(128 * math.sqrt(2) - 180)


@pytest.mark.parametrize("seams_too", [False, True])
def test_every_piece_of_a_fit_goes_into_its_machine(seams_too: bool) -> None:
    machine = Machine(name="small", volume=BoxVolume(size=(120, 120, 45)))
    asked = AskPieces(fit=machine, seams=seams_too)
    division_draft = answered(asked, [mesh_of(grooved())], ["rod"])
    assert all(not any(over_in(machine, piece.mesh.vertices)) for piece in division_draft.pieces)
    assert len(division_draft.pieces) == 3
    cuts = sorted(plane.at for plane in division_draft.shaping.planes)  # type: ignore[union-attr, unused-ignore]
    assert cuts == pytest.approx([31.5, 60.0] if seams_too else [100 / 3, 200 / 3], abs=1e-6)


# Seams


def test_seams_are_the_groove_and_the_ledge() -> None:
    found, curve = seams.seams_of(mesh_of(grooved()), "z")
    assert [(seam.kind, round(seam.at_mm, 6)) for seam in found[:2]] == [("groove", 31.5), ("ledge", 60.0)]
    groove, ledge = found[:2]
    assert (groove.area_mm2, groove.outlines, groove.stands) == pytest.approx((256, 1, 1))
    assert ledge.area_mm2 == pytest.approx(196)  # what lies on both sides of it
    assert np.interp([10, 31.5, 80], curve.at, curve.areas) == pytest.approx([400, 256, 196])
    # Along another axis the same solid has the step of its thicker part.
    assert all(2 <= seam.at_mm <= 18 for seam in seams.seams_of(mesh_of(grooved()), "x")[0])


def test_the_narrowest_place_of_an_hourglass_is_a_seam() -> None:
    glass = Manifold.cylinder(30, 20, 8, 64) + Manifold.cylinder(30, 8, 20, 64).translate((0, 0, 30))
    found, _ = seams.seams_of(mesh_of(glass), "z")
    assert [(seam.kind, round(seam.at_mm)) for seam in found] == [("narrow", 30)]
    assert seams.seams_of(mesh_of(BLOCK), "z")[0] == ()


# Pins


def test_pins_stay_inside_and_their_clearance_is_measured() -> None:
    solid, planes = tube(), (across("z", 50.0), across("x", 0.0))
    asked = Pins(diameter=2.0, depth=6.0, clearance=0.2)
    made, without = pins.placed(mesh_of(solid), solid, planes, asked, count=2)
    assert without == ()
    on_z = [pin for pin in made.places if pin.plane == 0]
    assert len(on_z) == 4  # two on each half of the ring
    pieces = cut_by(solid, planes)
    pinned = pins.pinned(pieces, planes, made)
    hole = 6.2 * 32 * 1.1**2 * math.sin(2 * math.pi / 64) / math.cos(math.pi / 64) ** 2
    taken = [a - b for a, b in zip(volumes(pieces), volumes(pinned), strict=True)]
    assert sum(taken) == pytest.approx(2 * len(made.places) * hole, rel=1e-3)
    assert all(len(piece.solid.decompose()) == 1 for piece in pinned)
    for pin in made.places:  # material all around, by distances to the tube itself
        normal = np.asarray(planes[pin.plane].normal)
        axis = np.asarray(pin.point) + np.linspace(-6.2, 6.2, 40)[:, None] * normal
        assert distances(axis, mesh_of(solid)).min() > 1.1 + pins.WALL_MM - 0.02
    least, greatest = pins.measured_clearance(pinned, planes, made) or (0, 0)
    assert 0.2 <= least <= greatest < 0.21


def test_fixed_and_keyed_pins_go_together_one_way_only() -> None:
    planes = (across("z", 10.0),)
    asked = Pins(kind="fixed", keyed=True, diameter=4.0, depth=5.0, clearance=0.3)
    made, _ = pins.placed(mesh_of(BLOCK), BLOCK, planes, asked, count=2)
    lower, upper = pins.pinned(cut_by(BLOCK, planes), planes, made)
    assert lower.mesh.bounds()[1, 2] == pytest.approx(15.0)
    assert (lower.solid ^ upper.solid).volume() == pytest.approx(0, abs=1e-6)
    # Turned half around it would go in but for the flats.
    middle = np.mean([pin.point for pin in made.places], axis=0)
    turned = upper.solid.translate(-middle).rotate((0, 0, 180)).translate(middle)
    assert (lower.solid ^ turned).volume() > 1.0


def test_pins_without_room_are_told_and_odd_ones_refused() -> None:
    thin = Manifold.cube((40, 2, 40))
    asked = AskPieces(planes=("z=20",), pins=AskPins(diameter="3"))
    division_draft = answered(asked, [mesh_of(thin)], ["wall"])
    assert division_draft.without == (
        "a face of cut A has no room for a pin of 3.00 mm with 1.20 mm around it; there is room for none",
    )
    for diameter, depth, clearance in (("0", "5", "0.2"), ("3", "0", "0.2"), ("3", "5", "4")):
        odd = AskPins(diameter=diameter, depth=depth, clearance=clearance)
        with pytest.raises(Refused):
            answered(AskPieces(planes=("z=20",), pins=odd), [mesh_of(BLOCK)], ["block"])
    planes = (across("z", 10.0),)
    out, _ = pins.placed(mesh_of(BLOCK), BLOCK, planes, Pins(diameter=3, depth=5, clearance=0.2), count=2)
    (first, second) = out.places
    for places in (
        (first.model_copy(update={"point": (0.5, 15, 10)}),),  # comes out of the side
        (first, second.model_copy(update={"point": first.point})),  # two in one place
        (first.model_copy(update={"point": (-9.0, 15, 10)}),),  # beside the body
    ):
        with pytest.raises(Refused, match="comes out"):
            pins.refuse_in_the_way(mesh_of(BLOCK), planes, out.model_copy(update={"places": places}))


# Split, slice, outlines


def test_two_bodies_by_height_and_by_outline_add_up() -> None:
    raised = BLOCK + Manifold.cylinder(2, 5, 5, 64).translate((20, 15, 20))
    marks, rest = split.above(raised, HeightSplit(axis="z", at=20.0))
    assert (marks.volume(), rest.volume()) == pytest.approx((raised.volume() - 24000, 24000))
    inlay, base = split.above(BLOCK, HeightSplit(axis="z", at=17.0, depth=2.0))
    assert (inlay.volume(), base.volume()) == pytest.approx((2400, 21600))
    square = ((10.0, 10.0), (20.0, 10.0), (20.0, 20.0), (10.0, 20.0))
    hole = ((12.0, 12.0), (18.0, 12.0), (18.0, 18.0), (12.0, 18.0))
    within, around = split.inside(BLOCK, OutlineSplit(axis="z", rings=(square, hole), depth=3.0))
    assert (within.volume(), around.volume()) == pytest.approx((64 * 3, 24000 - 64 * 3))
    assert (within ^ around).volume() == pytest.approx(0, abs=1e-9)
    for wrong in (
        HeightSplit(axis="z", at=20.0),
        HeightSplit(axis="z", at=-1.0),
        HeightSplit(axis="z", at=3.0, depth=0.0),
    ):
        with pytest.raises(Refused):
            split.above(BLOCK, wrong)
    crossed = ((0.0, 0.0), (10.0, 10.0), (10.0, 0.0), (0.0, 10.0))
    with pytest.raises(Refused, match="crosses"):
        split.inside(BLOCK, OutlineSplit(axis="z", rings=(crossed,)))


def test_a_trial_lies_between_its_planes_and_may_be_thinned() -> None:
    made = split.between(BLOCK, Slice(axis="x", low=5.0, high=9.0))
    assert made.volume() == pytest.approx(4 * 30 * 20)
    thin = answered(AskSlice(axis="z", low="8", high="12", wall="2"), [mesh_of(BLOCK)], ["block"])
    assert thin.pieces[0].solid.volume() == pytest.approx(4 * (40 * 30 - 36 * 26), rel=1e-6)
    for low, high in (("12", "8"), ("30", "40")):
        with pytest.raises(Refused):
            answered(AskSlice(low=low, high=high), [mesh_of(BLOCK)], ["block"])


SVG = '<svg xmlns="http://www.w3.org/2000/svg" {size}><rect x="1" y="2" width="4" height="3"/></svg>'


def test_drawings_are_read_in_mm_with_up_upwards() -> None:
    (ring,) = rings_in("a.svg", SVG.format(size='width="20mm" height="10mm" viewBox="0 0 20 10"'))
    assert (*ring.min(axis=0), *ring.max(axis=0)) == pytest.approx((1, 5, 5, 8))
    (scaled,) = rings_in("a.svg", SVG.format(size='width="2cm" height="1cm" viewBox="0 0 40 20"'))
    assert np.ptp(scaled, axis=0) == pytest.approx([2, 1.5])
    (own,) = rings_in("a.svg", SVG.format(size='width="20mm" height="10mm" viewBox="-3 -4 20 10"'))
    assert own.max(axis=0) == pytest.approx([5, -2])  # about the origin of the drawing
    (told,) = rings_in("a.svg", SVG.format(size='viewBox="0 0 20 10"'), Unit.IN)
    assert np.ptp(told, axis=0) == pytest.approx([4 * 25.4, 3 * 25.4])
    for text, code in (
        (SVG.format(size='viewBox="0 0 20 10"'), "outline-unit"),
        (
            SVG.format(size='width="9mm"').replace('<rect x="1" y="2" width="4" height="3"/>', ""),
            "outline-open",
        ),
        (SVG.format(size='width="9mm"').replace("rect", "line"), "outline-open"),
        ("rubbish", "drawing"),
    ):
        with pytest.raises(Refused) as refused:
            rings_in("a.svg", text)
        assert refused.value.code == code


def dxf(lines: list[tuple[tuple[float, float], tuple[float, float]]]) -> str:
    rows = [f"0|LINE|8|0|10|{a}|20|{b}|11|{c}|21|{d}" for (a, b), (c, d) in lines]
    body = "|".join(["0|SECTION|2|ENTITIES", *rows, "0|ENDSEC|0|EOF"])
    return f"0|SECTION|2|HEADER|9|$INSUNITS|70|4|0|ENDSEC|{body}|".replace("|", "\n")


@given(st.lists(st.integers(3, 12), min_size=1, max_size=6), st.randoms(use_true_random=False))
def test_lines_in_any_order_and_direction_make_the_rings_that_they_came_from(
    sides: list[int], chance: Random
) -> None:
    lines = []
    for number, count in enumerate(sides):
        turn = 2 * np.pi * np.arange(count) / count
        ring = np.column_stack([np.cos(turn) + 3 * number, np.sin(turn)]).round(9).tolist()
        lines += list(zip(ring, [*ring[1:], ring[0]], strict=True))
    lines = [chance.choice(((a, b), (b, a))) for a, b in lines]
    chance.shuffle(lines)
    rings = checked_rings(rings_in("a.dxf", dxf(lines)))
    areas = sorted((shapely.Polygon(ring).area, len(ring)) for ring in rings)
    wanted = sorted((count / 2 * np.sin(2 * np.pi / count), count) for count in sides)
    assert np.allclose(areas, wanted, atol=1e-6)
    with pytest.raises(Refused, match=r"did not close|are open"):
        rings_in("a.dxf", dxf(lines[1:]))


@pytest.mark.parametrize(
    ("fits", "size"), [("none", (8, 3)), ("xMidYMid meet", (4, 3)), ("xMidYMid slice", (8, 6)), ("", (4, 3))]
)
def test_a_page_of_another_shape_takes_the_drawing_as_it_says(fits: str, size: tuple[float, float]) -> None:
    told = f'preserveAspectRatio="{fits}"' if fits else ""
    page = f'width="40mm" height="10mm" viewBox="0 0 20 10" {told}'
    (ring,) = rings_in("a.svg", SVG.format(size=page))
    assert np.ptp(ring, axis=0) == pytest.approx(size)


def drawn(fill: Callable[[Any], None], units: int = 4) -> str:
    drawing = ezdxf.document.Drawing.new("R2000")
    drawing.header["$INSUNITS"] = units
    fill(drawing)
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue()


def square_in(layout: Any, at: float, size: float, **how: Any) -> None:
    corners = [(at, at), (at + size, at), (at + size, at + size), (at, at + size)]
    layout.add_lwpolyline(corners, close=True, dxfattribs=how)


def test_blocks_hatches_and_hidden_layers_of_a_dxf_are_as_they_are_seen() -> None:
    def blocks(drawing: Any) -> None:
        square_in(drawing.blocks.new("mark"), 0, 2)
        drawing.modelspace().add_blockref("mark", (10, 0), dxfattribs={"xscale": 2, "yscale": 3})

    (ring,) = rings_in("a.dxf", drawn(blocks))
    assert (*ring.min(axis=0), *ring.max(axis=0)) == pytest.approx((10, 0, 14, 6))

    def hidden(drawing: Any) -> None:
        drawing.layers.add("old").off()
        drawing.layers.add("older").freeze()
        square_in(drawing.modelspace(), 0, 5)
        square_in(drawing.modelspace(), 20, 5, layer="old")
        square_in(drawing.modelspace(), 40, 5, layer="older")

    (ring,) = rings_in("a.dxf", drawn(hidden))
    assert ring.max() == pytest.approx(5)

    def hatched(drawing: Any, outlined: bool) -> None:
        hatch = drawing.modelspace().add_hatch()
        hatch.paths.add_polyline_path([(0, 0), (6, 0), (6, 4), (0, 4)], is_closed=True)
        if outlined:
            square_in(drawing.modelspace(), 0, 3)

    for outlined, size in ((False, (6, 4)), (True, (3, 3))):
        (ring,) = rings_in("a.dxf", drawn(lambda drawing, on=outlined: hatched(drawing, on)))  # type: ignore[misc]
        assert np.ptp(ring, axis=0) == pytest.approx(size)
    (mil,) = rings_in("a.dxf", drawn(lambda drawing: square_in(drawing.modelspace(), 0, 1000), units=9))
    assert np.ptp(mil, axis=0) == pytest.approx([25.4, 25.4])


def test_outlines_within_outlines_are_holes_and_those_that_cross_are_refused() -> None:
    def square(size: float, x: float = 0.0) -> Floats:
        return np.array([(x, x), (x + size, x), (x + size, x + size), (x, x + size)])

    nested = checked_rings([square(2, 4), square(10), square(6, 2)])
    assert [shapely.LinearRing(ring).is_ccw for ring in nested] == [True, True, False]
    with pytest.raises(Refused, match="cross each other"):
        checked_rings([square(4), square(4, 2)])


def test_an_outline_is_placed_and_sized_as_typed() -> None:
    drawing = SVG.format(size='width="20mm" height="10mm" viewBox="0 0 20 10"')
    asked = AskInside(drawing=drawing, name="a.svg", size="8", move=("10", "5"), depth="5")
    division_draft = answered(asked, [mesh_of(BLOCK)], ["block"])
    assert division_draft.pieces[0].mesh.bounds()[0] == pytest.approx([11, 10, 15])
    assert division_draft.pieces[0].solid.volume() == pytest.approx(8 * 6 * 5)
    assert division_draft.difference < 1e-12


# Hollow


def test_a_hollow_block_has_just_the_wall_that_was_asked_for() -> None:
    division_draft = answered(AskHollow(wall="2", drains=("4",)), [mesh_of(BLOCK)], ["block"])
    assert division_draft.wall_mm == pytest.approx((2, 2, 2))
    drain = 2 * 48 / 2 * 4 * math.sin(2 * math.pi / 48)
    assert division_draft.pieces[0].solid.volume() == pytest.approx(24000 - 36 * 26 * 16 - drain, rel=1e-6)
    assert division_draft.pieces[0].solid.genus() == 0  # its drain opens it: one surface, no void
    assert len(division_draft.pieces[0].solid.decompose()) == 1


def test_a_hollow_ball_is_even_and_thick_walls_are_refused() -> None:
    ball = mesh_of(Manifold.sphere(20, 96))
    void = hollow.hollow_in(ball, 3.0, hollow.spacing_for(ball.bounds(), 3.0))
    wall = hollow.measured_wall(ball, mesh_of(void), 3.0)
    assert 2.95 < wall.least <= wall.greatest < 3.05
    assert void.volume() == pytest.approx(4 / 3 * math.pi * 17**3, rel=0.01)
    (drain,) = hollow.drains_for(ball, void, [4.0], 3.0)
    assert drain.point == pytest.approx((0, 0, -20), abs=1.0)
    with pytest.raises(Refused, match="no room left"):
        answered(AskHollow(wall="10"), [mesh_of(BLOCK)], ["block"])
    with pytest.raises(Refused, match="does not go"):
        answered(AskHollow(wall="2", drains=("90",)), [mesh_of(BLOCK)], ["block"])
    with pytest.raises(Refused, match="closed solid"):
        answered(AskAbove(at="5"), [Mesh(box(9, 9, 9).vertices, box(9, 9, 9).faces[2:])], ["lid"])


# Faces that are raised or sunk


def dial(height: float = 0.8) -> Manifold:
    """A disc with two raised bars, a raised ring, and a sunk bar; one bar has bevelled walls."""
    disc = Manifold.cylinder(4, 25, 25, 96)
    bar = Manifold.cube((6, 2, height)).translate((8, 4, 4))
    bevelled = Manifold.hull_points(
        [(x, y, 4) for x in (8, 14) for y in (-6, -3)]
        + [(x, y, 4 + height) for x in (8.5, 13.5) for y in (-5.5, -3.5)]
    )
    ring = Manifold.cylinder(height, 6, 6, 64) - Manifold.cylinder(9, 4, 4, 64, True)
    sunk = Manifold.cube((4, 10, 9)).translate((-16, -5, 3.2))
    return disc + bar + bevelled + ring.translate((-2, 12, 4)) - sunk


def picked(solid: Manifold, *places: tuple[float, float, float]) -> tuple[PickedFace, ...]:
    mesh = mesh_of(solid)
    faces = [anchors.nearest(Anchor(face=0, weights=(1, 0, 0)), place, mesh).face for place in places]
    return tuple(PickedFace(face=face, point=place) for face, place in zip(faces, places, strict=True))


def test_raised_faces_become_a_body_with_all_that_belongs_to_them() -> None:
    solid = dial()
    mesh, whole = mesh_of(solid), solid.volume()
    bar, bevelled = 6 * 2 * 0.8, 0.8 / 6 * (18 + 4 * 13.75 + 10)
    ring = 0.8 * 32 * (36 - 16) * math.sin(2 * math.pi / 64)
    for asked, volume in (
        (AskFaces(picks=picked(solid, (11, 5, 4.8))), bar),
        (AskFaces(picks=picked(solid, (11, 5, 4.8), (11, -4.5, 4.8))), bar + bevelled),
        (AskFaces(picks=picked(solid, (11, 5, 4.8)), alike=True), bar + bevelled + ring),
        (AskFaces(picks=picked(solid, (8, 5, 4.5)), alike=True), bar + bevelled + ring),  # by a wall of it
        (AskFaces(picks=picked(solid, (11, 5, 4.8)), depth="0.6"), bar + 6 * 2 * 0.6),
        (AskFaces(picks=picked(solid, (-14, 0, 3.2)), depth="1"), 4 * 10 * 1),
    ):
        division_draft = answered(asked, [mesh], ["dial"])
        assert volumes(division_draft.pieces) == pytest.approx([volume, whole - volume], rel=1e-5)
        assert division_draft.difference < 1e-9
        assert all(solid_of(piece.mesh) is not None for piece in division_draft.pieces)
    tilted = solid.rotate((20, 35, 10))
    place = Manifold.cube((1, 1, 1)).translate((10.5, 4.5, 3.8)).rotate((20, 35, 10)).bounding_box()
    division_draft = answered(
        AskFaces(picks=picked(tilted, tuple((np.array(place[:3]) + place[3:]) / 2))),
        [mesh_of(tilted)],
        ["dial"],
    )
    assert volumes(division_draft.pieces)[0] == pytest.approx(bar, rel=1e-4)


def test_where_a_cut_lies_in_a_face_no_dust_is_left() -> None:
    """Thirty-six marks all around a ring, cut off at its own face: as many shells, each with a volume."""
    ring = Manifold.cylinder(4, 62, 62, 72) - Manifold.cylinder(9, 40, 40, 72, True)
    marks = [Manifold.cube((6, 1, 2)).translate((52, -0.5, 3.5)).rotate((0, 0, 10 * n)) for n in range(36)]
    joined = Manifold.batch_boolean([ring, *marks], manifold3d.OpType.Add)
    mesh = read_model(
        "dial.3mf", threemf.write([threemf.BuildObject("dial", mesh_of(joined))], Unit.MM, "dial", "")
    ).whole()
    top = picked(joined, (55, 0, 5.5))
    for asked in (
        AskAbove(at="4"),
        AskFaces(picks=top, alike=True, depth="0.6"),
        AskFaces(picks=top, alike=True),
    ):
        made, rest = answered(asked, [mesh], ["dial"]).pieces
        assert made.mesh.topology.shells == 36
        assert rest.mesh.topology.shells == 1


def test_what_is_neither_raised_nor_sunk_is_refused() -> None:
    solid = dial()
    stepped = Manifold.cube((40, 40, 5)) + Manifold.cube((20, 40, 6))
    stepped += Manifold.cube((8, 4, 3)).translate((16, 10, 5))
    for body, asked, code in (
        (solid, AskFaces(picks=picked(solid, (0, -15, 4))), "not-raised"),
        (solid, AskFaces(picks=picked(solid, (0, 0, 0))), "not-raised"),
        (solid, AskFaces(picks=picked(solid, (-14, 0, 3.2))), "depth"),
        (solid, AskFaces(picks=(PickedFace(face=10**6, point=(0, 0, 0)),)), "face-unknown"),
        (BLOCK, AskFaces(picks=picked(BLOCK, (20, 15, 20))), "not-raised"),
        (stepped, AskFaces(picks=picked(stepped, (20, 12, 8))), "foot-uneven"),
    ):
        with pytest.raises(Refused) as refused:
            answered(asked, [mesh_of(body)], ["dial"])
        assert refused.value.code == code


def test_a_body_is_split_by_another_and_drains_go_where_they_are_told() -> None:
    other = Manifold.cube((10, 50, 10)).translate((5, -10, 15))
    division_draft = answered(AskCombination(how="split"), [mesh_of(BLOCK), mesh_of(other)], ["block", "bar"])
    assert volumes(division_draft.pieces) == pytest.approx([24000 - 1500, 1500])
    assert division_draft.difference < 1e-12
    asked = AskHollow(wall="2", drains=("3", "4"), places=((40, 15, 10), None), down=(0, 1, 0))
    picked_one, lowest = answered(asked, [mesh_of(BLOCK)], ["block"]).shaping.drains  # type: ignore[union-attr, unused-ignore]
    np.testing.assert_allclose(picked_one.point, (40, 15, 10), atol=1e-9)
    np.testing.assert_allclose(picked_one.direction, (-1, 0, 0), atol=1e-12)
    assert lowest.point[1] == pytest.approx(30)  # as it stands its back is down
    np.testing.assert_allclose(lowest.direction, (0, -1, 0), atol=1e-12)
    with pytest.raises(Refused, match="does not meet"):
        answered(AskHollow(wall="2", drains=("3",), places=((0.2, 0.2, 20),)), [mesh_of(BLOCK)], ["block"])
