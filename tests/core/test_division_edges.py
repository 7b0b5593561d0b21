"""Where division is tight: voids, slivers, planes a hair beside faces, pins in a machine, drains."""

from __future__ import annotations

import numpy as np
import pytest
from manifold3d import Manifold

from aimtrue.core.division.cutting.hollow import drain_sizes
from aimtrue.core.division.cutting.pieces import cut_by
from aimtrue.core.division.fitting import over_in
from aimtrue.core.division.pins import have_room
from aimtrue.core.division.requests import answered, planes_of
from aimtrue.core.division.views import prospect
from aimtrue.core.errors import Refused
from aimtrue.core.formats import read_model, threemf
from aimtrue.core.intake.actions import SettleUnit
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.division import AskAbove, Asked, AskHollow, AskPieces, AskPins, AskSlice
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.machine import BoxVolume, Machine
from aimtrue.core.model.shaping import PieceCut, Pin, Pins
from aimtrue.core.model.value import Vec3
from aimtrue.core.proof.prove import ProofBroken
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from tests.shapes import bench_of, binary_stl, box, corners_of


def voided() -> Mesh:
    """A box with a closed void in it."""
    return mesh_of(Manifold.cube((60, 50, 40)) - Manifold.cube((30, 20, 10)).translate((15, 15, 15)))


@pytest.mark.parametrize("kind", ["stl", "3mf"])
@pytest.mark.parametrize(
    "asked",
    [
        AskPieces(planes=("z=18",)),
        AskPieces(planes=("0.3,0.4,0.8 @ 22",)),
        AskAbove(at="20"),
        AskHollow(wall="2"),
    ],
    ids=["square", "tilted", "split", "hollow"],
)
def test_a_body_with_a_void_is_divided_and_proven(kind: str, asked: Asked) -> None:
    packed = threemf.write([threemf.BuildObject("a", voided())], Unit.MM, "a", "")
    data = binary_stl(corners_of(voided())) if kind == "stl" else packed
    bench = bench_of(f"part.{kind}", data)
    if bench.job.sources[0].unit is None:
        bench.do(SettleUnit(source="s1", unit=Unit.MM))
    bench.shape(asked)
    made = release(bench.job, bench, Order(format="stl", place="own", shape="each"))
    assert all(file.file.proof.holds for file in made.files)


def test_a_piece_that_lost_its_void_is_seen() -> None:
    bench = bench_of("part.stl", binary_stl(corners_of(voided()))).do(SettleUnit(source="s1", unit=Unit.MM))
    bench.shape(AskPieces(planes=("x=5",)))  # the void is whole in the right piece
    right = max(bench.job.bodies[1:], key=lambda body: body.volume)
    full = box(55, 50, 40, at=(5, 0, 0))
    bench.meshes[right.geometry] = full
    with pytest.raises(ProofBroken, match=r"not in it|right side"):
        release(bench.job, bench, Order(format="stl", place="own", shape="each"))


@pytest.mark.parametrize(
    "planes", [("z=0.1",), ("z=0.1", "x=30"), ("z=0.1", "0.2,0.3,0.9 @ 30"), ("x=59.95", "z=20")]
)
def test_slivers_are_given_and_proven(planes: tuple[str, ...]) -> None:
    bench = bench_of("part.stl", binary_stl(corners_of(box(60, 50, 40)))).do(
        SettleUnit(source="s1", unit=Unit.MM)
    )
    bench.shape(AskPieces(planes=planes, slivers="give"))
    assert len(bench.job.bodies) == 1 + 2 ** (len(planes) - 1)
    made = release(bench.job, bench, Order(format="stl", place="own", shape="each"))
    volumes = [read_model("a.stl", file.data).whole().volume() for file in made.files]
    assert sum(volumes) == pytest.approx(60 * 50 * 40)


@pytest.mark.parametrize(("typed", "says"), [("z=39.999999", "misses"), ("z=0.000001", "misses")])
def test_a_plane_a_hair_beside_a_face_is_the_face(typed: str, says: str) -> None:
    with pytest.raises(Refused, match=says):
        cut_by(box(60, 50, 40), planes_of(AskPieces(planes=(typed,)), box(60, 50, 40)))
    stepped = mesh_of(Manifold.cube((60, 50, 20)) + Manifold.cube((30, 50, 40)))
    (plane,) = planes_of(AskPieces(planes=("z=20.000001",)), stepped)
    assert plane.at == 20


@pytest.mark.parametrize(
    ("asked", "refused"),
    [
        (AskAbove(at="39.9999999"), "nothing of the body is above"),
        (AskAbove(at="0.0000001"), "all of the body is above"),
        (AskAbove(at="10", depth="29.9999999"), ""),
        (AskSlice(low="0.0000001", high="20"), ""),
    ],
    ids=["top", "bottom", "depth", "slice"],
)
def test_a_split_a_hair_beside_a_face_leaves_no_film(asked: Asked, refused: str) -> None:
    bench = bench_of("part.stl", binary_stl(corners_of(box(60, 50, 40))))
    bench.do(SettleUnit(source="s1", unit=Unit.MM))
    if refused:
        with pytest.raises(Refused, match=refused):
            bench.shape(asked)
        return
    bench.shape(asked)
    heights = [body.high[2] - body.low[2] for body in bench.job.bodies[1:]]
    assert heights == pytest.approx([30, 10] if len(heights) == 2 else [20], abs=1e-12)
    assert release(bench.job, bench, Order(format="stl", place="own", shape="each"))


def test_fixed_pins_are_reckoned_with_when_a_machine_is_fitted() -> None:
    machine = Machine(volume=BoxVolume(size=(30, 100, 100)))
    pins = AskPins(kind="fixed", diameter="3", depth="8", clearance="0.2", count=1)
    mesh = box(60, 50, 40)
    division_draft = answered(AskPieces(fit=machine, pins=pins), [mesh], ["box"])
    assert len(division_draft.pieces) == 3
    assert all(max(over_in(machine, piece.mesh.vertices)) == 0 for piece in division_draft.pieces)


def test_the_wall_of_a_pin_is_kept_beside_a_groove_between_any_two_places() -> None:
    wall, diameter, depth, clearance = 1.2, 4.0, 10.0, 0.2
    for height in np.arange(2.0, 9.5, 0.37):
        block = Manifold.cube((14, 14, 60))
        groove = Manifold.cube((4, 14, 0.3)).translate((-1.2, 0, 30 + height))
        asked = AskPieces(
            planes=("z=30",), pins=AskPins(diameter="4", depth="10", clearance="0.2", wall="1.2", count=1)
        )
        mesh = mesh_of(block - groove)
        division_draft = answered(asked, [mesh], ["block"])
        assert isinstance(division_draft.shaping, PieceCut)
        assert division_draft.shaping.pins is not None
        (pin,) = division_draft.shaping.pins.places
        deep = depth + clearance
        hole = Manifold.cylinder(2 * deep, (diameter + clearance) / 2, circular_segments=256)
        post = hole.translate((pin.point[0], pin.point[1], 30 - deep))
        assert post.min_gap(groove, 5.0) >= wall - 1e-3


def test_a_pin_goes_in_where_its_wall_is_left_under_it() -> None:
    pins = AskPins(diameter="3", depth="8", clearance="0.2", wall="1.2", count=1)
    for height, room in ((8.2 + 1.21, True), (8.2 + 1.19, False)):
        mesh = box(30, 30, 40 + height)
        division_draft = answered(AskPieces(planes=("z=40",), pins=pins), [mesh], ["box"])
        assert (division_draft.without == ()) is room


def test_a_hole_runs_clear_of_another_and_of_another_cut() -> None:
    pins = Pins(kind="dowel", diameter=3, depth=8, clearance=0.2, places=())
    planes = planes_of(AskPieces(planes=("z=20", "x=30")), box(60, 50, 40))

    def room(*points: tuple[int, Vec3]) -> tuple[bool, ...]:
        places = tuple(Pin(plane=plane, point=point) for plane, point in points)
        return have_room(box(60, 50, 40), planes, pins.model_copy(update={"places": places}))

    assert room((0, (28.41, 25, 20))) == (False,)
    assert room((0, (28.39, 25, 20))) == (True,) == room((0, (28.4, 25, 20)))
    assert room((0, (15, 15, 20)), (0, (15, 18.1, 20))) == (True, False)
    assert room((0, (15, 15, 20)), (0, (15, 18.3, 20))) == (True, True)
    # One lies along Z about (24, 25), the other along X at height 30: 1 mm apart where they cross.
    assert room((0, (24, 25, 20)), (1, (30, 26, 30))) == (True, False)


def test_what_is_shown_of_pieces_has_their_pins() -> None:
    bench = bench_of("part.stl", binary_stl(corners_of(box(60, 50, 300))))
    bench.do(SettleUnit(source="s1", unit=Unit.MM))
    machine = Machine(volume=BoxVolume(size=(100, 100, 155)))
    asked = AskPieces(planes=("z=150",), pins=AskPins(kind="fixed", depth="8", diameter="3"))
    shown = prospect(bench.job, bench.job.bodies[0].id, asked, machine, bench).pieces
    pieces = bench.shape(asked).pieces
    for piece_shown, piece in zip(shown, pieces, strict=True):
        ends = piece.mesh.bounds()
        assert (piece_shown.low, piece_shown.high) == (pytest.approx(ends[0]), pytest.approx(ends[1]))
    assert sorted(piece_shown.over_mm[2] for piece_shown in shown) == pytest.approx([0, 3])


@pytest.mark.parametrize(
    ("drain", "place", "says"),
    [("60", None, "beside its mouth"), ("4", (1000.0, 0.0, 0.0), "mm from the body")],
)
def test_a_drain_that_makes_no_sense_is_refused(drain: str, place: Vec3 | None, says: str) -> None:
    ring = mesh_of(
        Manifold.cylinder(20, 50, 50, 96) - Manifold.cylinder(30, 30, 30, 96).translate((0, 0, -5))
    )
    asked = AskHollow(wall="2", drains=(drain,), places=(place,) if place else ())
    with pytest.raises(Refused, match=says):
        answered(asked, [ring], ["ring"])


@pytest.mark.parametrize(
    ("typed", "places", "sizes"),
    [
        (("4",), 0, [4]),
        (("4 mm",), 2, [4, 4]),
        (("4; 5",), 1, [4, 5]),
        (("4 5 6mm",), 4, [4, 5, 6, 6]),
        (("3", "0.25 in"), 2, [3, 6.35]),
        (("",), 3, []),
        ((), 0, []),
    ],
)
def test_each_place_has_a_drain_and_the_last_size_holds_for_the_rest(
    typed: tuple[str, ...], places: int, sizes: list[float]
) -> None:
    assert drain_sizes(typed, places) == pytest.approx(sizes)
