"""Divisions in a job: made again when stale, with what was decided of them; seated, released, proven."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from manifold3d import Manifold

from aimtrue.core.division.actions import PutAll, SetPrinted, TakePrinted, Undivide
from aimtrue.core.division.making import shape_all
from aimtrue.core.division.stale import stale_bodies
from aimtrue.core.division.tasks import DivideTask
from aimtrue.core.division.trials import pairs_of, printed
from aimtrue.core.errors import Refused
from aimtrue.core.formats import threemf
from aimtrue.core.gauges.construction import PickedSpot
from aimtrue.core.intake.actions import Accept, Delete, Duplicate, Paint, Rename, SettleUnit, SetUp
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.solids import mesh_of, solid_of
from aimtrue.core.model.body import recipe_of
from aimtrue.core.model.decisions import PickedFace
from aimtrue.core.model.division import (
    AskAbove,
    AskCombination,
    Asked,
    AskFaces,
    AskHollow,
    AskInside,
    AskPieces,
    AskPins,
    AskSlice,
)
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.ownership import seat_of
from aimtrue.core.model.shaping import PieceCut, Pin
from aimtrue.core.proof import ProofBroken
from aimtrue.core.recipes import RecipeBuilder
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.seating.actions import MoveSeat, TurnSeat
from aimtrue.core.seating.placement.places import places_of
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import AddReading, AdjustReading, KeepBores, SetAllowance, SetFactor
from aimtrue.core.truing.calibration import calibrated
from tests.shapes import Bench, bench_of, binary_stl, corners_of

A = BodyId("s1-1")
PINS = AskPins(diameter="2", depth="5", clearance="0.2")
FIXED = AskPins(diameter="2", depth="5", clearance="0.2", kind="fixed", keyed=True)


def plate() -> Manifold:
    """A plate with a bore for a bolt, and a lip: 60 x 40 x 12 and 25 high, off the origin."""
    made = Manifold.cube((60, 40, 12)) + Manifold.cube((12, 40, 25))
    return (made - Manifold.cylinder(30, 2.75, 2.75, 48).translate((40, 20, -5))).translate((3, -7, 11))


def job(solid: Manifold | None = None, unit: Unit = Unit.MM) -> Bench:
    bench = bench_of("plate.stl", binary_stl(corners_of(mesh_of(solid or plate()))))
    return bench.do(SettleUnit(source="s1", unit=unit))


def pieces(bench: Bench) -> list[str]:
    return [body.name for body in bench.job.bodies if body.division]


def released(bench: Bench, **order: object) -> int:
    return len(release(bench.job, bench, Order(shape="each", **order)).files)


ASKED: dict[str, Asked] = {
    "pieces": AskPieces(planes=("x=20", "z=14"), pins=PINS),
    "limited": AskPieces(planes=("z=14", "x=20 tilted 10 about z where below A"), pins=PINS),
    "fixed": AskPieces(
        planes=("0.2,0,1 @ 16",), pins=PINS.model_copy(update={"kind": "fixed", "keyed": True})
    ),
    "trial": AskSlice(axis="x", low="20", high="30", wall="2"),
    "height": AskAbove(at="23"),
    "outline": AskInside(
        name="a.svg",
        drawing='<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="40mm" viewBox="1 -20 40 40">'
        '<circle cx="10" cy="-5" r="6"/></svg>',
        depth="4",
    ),
    "hollow": AskHollow(wall="2", drains=("2.5",), places=((33.0, 13.0, 29.0),)),
}


@pytest.mark.parametrize("how", ASKED)
def test_what_is_made_is_proven_where_it_lies_and_seated(how: str) -> None:
    bench = job().do(
        SetUp(source="s1", up="y"),
        SetFactor(body=A, typed="1.25"),
        SetAllowance(body=A, shrinkage=("0.5", "0.4", "0.3"), clearance=None),
    )
    bench.do(SetUp(source="s1", up="z"))
    bench.shape(ASKED[how])
    bodies = [body for body in bench.job.bodies if body.division]
    assert all(body.health.closed for body in bodies)
    keys = tuple(body.id for body in bodies)
    assert released(bench, place="own", bodies=keys, format="stl") == len(bodies)
    bench.do(TurnSeat(body=bodies[0].id, axis="x", typed="33"))
    released(bench, place="seated", bodies=keys[:1])
    for body in bodies:  # the recipe makes it again, to the last bit
        again = RecipeBuilder(bench).made(recipe_of(body))
        np.testing.assert_array_equal(again.vertices, bench.mesh(body.geometry).vertices)


def test_a_trial_carries_its_readings_and_what_is_measured_on_it() -> None:
    bench = job().do(SetAllowance(body=A, shrinkage=("0.5", "0.5", "0.5"), clearance=None))
    bore = next(feature for feature in bench.features(bench.job.body(A)).listed if feature.kind == "bore")
    bench.do(
        AddReading(body=A, kind="diameter", spots=(PickedSpot(feature=bore.id),), typed="5.6"),
        AddReading(body=A, kind="extent", axis="z", typed=""),
    )
    bench.shape(AskSlice(axis="x", low="35", high="51"))
    trial = bench.job.bodies[1]
    (mine,) = [reading for reading in bench.job.readings if reading.body == trial.id]
    assert (mine.of, mine.role) == (bench.job.readings[0].id, "check")
    assert released(bench, place="own", bodies=(trial.id,)) == 1
    division = bench.job.divisions[0]
    with pytest.raises(Refused, match="nothing was measured"):
        pairs_of(bench.job, division)
    with pytest.raises(Refused, match="over 20 %"):
        bench.do(SetPrinted(reading=mine.id, typed="7"))
    with pytest.raises(Refused, match="on no trial"):
        bench.do(SetPrinted(reading=mine.of, typed="5.5"))
    (told,) = printed(bench.job, division)
    assert told.released_mm == pytest.approx(5.6 / 0.995, rel=1e-6)
    bench.do(SetPrinted(reading=mine.id, typed="5.58 mm"))
    (told,) = printed(bench.job, division)
    assert told.off_mm == pytest.approx(5.58 - 5.6 / 0.995)
    calibration = calibrated("a machine", "a plastic", pairs_of(bench.job, division), 0.05)
    assert {pair.axis for pair in calibration.pairs} == {"x", "y"}
    assert calibration.shrinkage[0] == pytest.approx(1 - 5.58 / (5.6 / 0.995))
    # It was printed of what was released then: taking the calibration does not ask for it once more.
    shares = tuple(f"{100 * one}" for one in calibration.shrinkage)
    bench.do(SetAllowance(body=A, shrinkage=shares, clearance=None))
    assert pairs_of(bench.job, division) == calibration.pairs
    assert printed(bench.job, division)[0].off_mm == told.off_mm
    bench.do(SetAllowance(body=A, shrinkage=("0.5", "0.5", "0.5"), clearance=None))
    bench.do(TakePrinted(reading=mine.id))
    whole = bench.job.reading(mine.of)
    assert whole.real_mm == 5.58
    assert bench.job.correction_of(bench.job.body(A)).factors[0] == pytest.approx(5.58 / 5.5, rel=1e-5)
    # A clearance that is added to the reading is in the print already.
    bench.do(AdjustReading(reading=mine.of, clearance="0.2"), TakePrinted(reading=mine.id))
    assert bench.job.reading(mine.of).real_mm == pytest.approx(5.38)
    bench.shape_again()
    again = bench.job.reading(mine.id)
    assert (again.lost, again.printed) == (False, "5.58 mm")
    bench.do(Undivide(division=division.id))
    assert [reading.of for reading in bench.job.readings] == ["", ""]


def test_all_bodies_of_a_kit_are_cut_by_the_same_planes_and_come_back_at_once() -> None:
    items = [
        threemf.BuildObject("block", mesh_of(Manifold.cube((40, 30, 20)))),
        threemf.BuildObject("rod", mesh_of(Manifold.cylinder(8, 6, 6, 64).translate((60, 0, 0)))),
        threemf.BuildObject("cap", mesh_of(Manifold.cube((10, 10, 4)).translate((0, 60, 0)))),
    ]
    bench = bench_of("kit.3mf", threemf.write(items, Unit.MM, "kit", ""))
    keys = [body.id for body in bench.job.bodies]
    bench.shape_all(AskPieces(planes=("z=6", "x=20", "x=60 where below A", "z=10 where above A")), *keys)
    assert pieces(bench) == [
        "block 1, lower left", "block 2, lower right", "block 3, middle left", "block 4, middle right",
        "block 5, upper left", "block 6, upper right",
        "rod 1, lower left", "rod 2, lower right", "rod 3, upper",
    ]  # fmt: skip
    assert len({body.kit for body in bench.job.bodies}) == 1
    assert released(bench, place="own") == 10
    bench = bench_of("kit.3mf", threemf.write(items, Unit.MM, "kit", ""))
    only = DivideTask(bodies=tuple(keys), asked=AskPieces(planes=("x=20",)))
    (one,) = shape_all("m", bench.job, only, bench, lambda share, says: None)
    assert PutAll(each=(one.action,)).words() == "divide block into 2 pieces"
    with pytest.raises(Refused, match="none of the planes"):
        bench_of("kit.3mf", threemf.write(items, Unit.MM, "kit", "")).shape_all(
            AskPieces(planes=("z=40",)), *keys
        )
    with pytest.raises(Refused, match="one body"):
        bench_of("kit.3mf", threemf.write(items, Unit.MM, "kit", "")).shape_all(AskHollow(wall="2"), *keys)


def test_an_open_body_is_cut_on_purpose_and_what_is_open_is_told() -> None:
    whole = mesh_of(plate())
    lid = np.abs(whole.vertices[whole.faces][:, :, 2] - 36).max(axis=1) < 1e-6
    bench = bench_of("plate.stl", binary_stl(whole.vertices[whole.faces[~lid]]))
    bench.do(SettleUnit(source="s1", unit=Unit.MM), SetFactor(body=A, typed="1.1"))
    with pytest.raises(Refused, match="not a closed solid"):
        bench.shape(AskPieces(planes=("z=20",)))
    with pytest.raises(Refused, match="no inside for pins"):
        bench.shape(AskPieces(planes=("z=20",), open=True, pins=PINS))
    answer = bench.shape(AskPieces(planes=("z=20", "x=40"), open=True))
    assert not answer.closed
    assert answer.stays_open == ("4 edges stay open of 3, upper left",)
    assert bench.job.divisions[0].stays_open == answer.stays_open
    bodies = [body for body in bench.job.bodies if body.division]
    assert [body.health.closed for body in bodies] == [True, True, False, True]
    gaping = bodies[2]
    with pytest.raises(Refused, match="open"):
        released(bench, place="own")
    bench.do(Accept(bodies=(gaping.id,), code="open-edges", reason="a bowl"))
    assert released(bench, place="own") == 4
    for body in bodies:
        again = RecipeBuilder(bench).made(recipe_of(body))
        np.testing.assert_array_equal(again.vertices, bench.mesh(body.geometry).vertices)
    # A face that is missing, and one moved, are noticed although there is no inside.
    for broken in (lambda mesh: Mesh(mesh.vertices, mesh.faces[2:]), lambda mesh: moved_up(mesh, 0.02)):
        worse = replace(bench, meshes={**bench.meshes})
        worse.meshes[gaping.geometry] = broken(bench.mesh(gaping.geometry))  # type: ignore[no-untyped-call]
        with pytest.raises(ProofBroken):
            released(worse, place="own", bodies=(gaping.id,))


def moved_up(mesh: Mesh, by: float) -> Mesh:
    top = mesh.vertices[:, 2] > mesh.bounds()[1, 2] - 1e-6
    return Mesh(mesh.vertices + np.outer(top, [0, 0, by]), mesh.faces)


def marked(at: float = 0.0) -> Manifold:
    """A plate with two raised bars, off the origin."""
    bars = [Manifold.cube((6, 2, 1)).translate((8 + at, y, 4)) for y in (4, 14)]
    return (Manifold.cube((40, 30, 4)) + bars[0] + bars[1]).translate((3, -7, 11))


def test_raised_faces_are_proven_and_found_again_on_another_revision() -> None:
    bench = job(marked()).do(SetFactor(body=A, typed="1.25"))
    mesh = bench.mesh(bench.job.body(A).geometry)
    top = int((mesh.vertices[mesh.faces][:, :, 2].min(axis=1) > 15.5).argmax())
    bench.shape(AskFaces(picks=(PickedFace(face=top, point=(0, 0, 0)),), alike=True, depth="0.8"))
    marks, rest = (body for body in bench.job.bodies if body.division)
    assert (marks.name, marks.colour != rest.colour) == ("plate marks", True)
    assert marks.volume * 1.25**3 == pytest.approx(2 * 7.5 * 2.5 * (1.25 + 0.8), rel=1e-5)
    assert released(bench, place="own", bodies=(marks.id, rest.id)) == 2
    # Nothing of the picks fits a body without them; what there was stays.
    asked = bench.job.divisions[0].asked
    assert isinstance(asked, AskFaces)
    assert asked.geometry == bench.job.body(A).geometry
    moved = job(marked(0.3))
    moved.shape(asked)
    assert len(pieces(moved)) == 2
    with pytest.raises(Refused, match="neither raised"):
        job(Manifold.cube((40, 30, 4)).translate((3, -7, 11))).shape(asked)


def test_volumes_of_pieces_add_up_on_the_sheets() -> None:
    bench = job(unit=Unit.CM).do(SetFactor(body=A, typed="0.1"))
    bench.shape(AskPieces(planes=("x=20",)))
    shown = {body.id: body for body in survey(bench.job, bench).bodies}
    whole, *parts = [shown[body.id].volume_mm3 or 0 for body in bench.job.bodies]
    assert sum(parts) == pytest.approx(whole, rel=1e-9)
    assert shown[A].divided
    assert not shown[A].stale


def test_a_division_is_stale_when_its_whole_changes_and_keeps_what_was_decided() -> None:
    bench = job()
    bench.shape(AskPieces(planes=("x=20", "z=14"), pins=PINS))
    assert pieces(bench) == [
        "plate 1, lower left",
        "plate 2, lower right",
        "plate 3, upper left",
        "plate 4, upper right",
        "plate dowel",
    ]
    first = bench.job.bodies[1]
    bench.do(Rename(body=first.id, name="foot"), Paint(bodies=(first.id,), colour="#aabbcc"))
    bench.do(MoveSeat(body=first.id, x="40", y="30"))
    bench.do(AddReading(body=first.id, kind="extent", axis="x", typed="17"))
    assert stale_bodies(bench.job) == frozenset()
    bench.do(SetFactor(body=A, typed="1.1"))
    assert len(stale_bodies(bench.job)) == 5
    assert {body.id for body in survey(bench.job, bench).bodies if body.stale} == stale_bodies(bench.job)
    with pytest.raises(Refused, match="has changed since"):
        released(bench)
    bench.do(Accept(code="reading-missed", reason="it is the whole that is wanted"))
    released(bench, bodies=(A,), place="own")  # the whole itself is as good as ever
    bench.shape_again()
    foot = bench.job.bodies[1]
    assert (foot.name, foot.colour) == ("foot", "#aabbcc")
    assert seat_of(bench.job, foot).x == 40
    assert [reading.body for reading in bench.job.readings] == [foot.id]
    assert not bench.job.readings[0].lost
    # Cut at the same places in mm, though the plate is larger now.
    shown = {body.id: body for body in survey(bench.job, bench).bodies}
    assert shown[foot.id].chain is not None
    assert shown[foot.id].chain.size_mm[0] == pytest.approx(20 - 3 * 1.1)
    dowels = next(body for body in bench.job.bodies if body.name.endswith("dowel"))
    assert len(bench.job.seats_of(dowels.id)) == len(places_of(bench.job, bench)) - 4
    # The reading is missed by another amount now, so it is accepted anew.
    bench.do(Accept(code="reading-missed", reason="it is the whole that is wanted"))
    assert released(bench, place="own") == 5


def test_what_was_placed_by_hand_stays_where_it_is_on_the_body() -> None:
    places = (Pin(plane=0, point=(45, 3, 14)), Pin(plane=0, point=(45, 23, 14)))
    pins = PINS.model_copy(update={"places": places, "by_hand": True, "depth": "2"})
    bench = job().do(SetFactor(body=A, typed="1.1"))
    bench.shape(AskPieces(planes=("z=18",), pins=pins))
    bench.do(SetFactor(body=A, typed="1.3")).shape_again()
    assert not stale_bodies(bench.job)
    shaping = bench.job.divisions[0].shaping
    assert isinstance(shaping, PieceCut)
    assert shaping.pins
    for before, after in zip(places, shaping.pins.places, strict=True):
        np.testing.assert_allclose(after.point[:2], np.array(before.point[:2]) * 1.3 / 1.1)
        assert after.point[2] == 18  # on its plane, which is where it was typed


def test_pieces_stand_each_by_itself_and_the_whole_stands_aside() -> None:
    bench = job()
    bench.shape(AskPieces(planes=("x=20",)))
    standing = places_of(bench.job, bench)
    assert sorted(place.bodies[0].name for place in standing.values()) == ["plate 1, left", "plate 2, right"]
    assert released(bench) == 2
    bench.do(Undivide(division=bench.job.divisions[0].id))
    assert [body.name for body in bench.job.bodies] == ["plate"]
    assert bench.job.kits == ()
    assert released(bench) == 1


def test_divisions_chain_and_come_apart_in_order() -> None:
    bench = job(Manifold.cube((40, 30, 30)))
    bench.shape(AskHollow(wall="2", drains=("4",)))
    shell = bench.job.bodies[1]
    bench.shape(AskPieces(planes=("x=15",)), shell.id)
    assert pieces(bench) == ["plate hollow", "plate hollow 1, left", "plate hollow 2, right"]
    assert released(bench, place="own") == 2
    bench.do(SetFactor(body=A, typed="1.5"))
    assert len(stale_bodies(bench.job)) == 3
    bench.shape_again()
    assert released(bench, place="own") == 2
    with pytest.raises(Refused, match="divided further"):
        bench.do(Undivide(division=bench.job.divisions[0].id))
    with pytest.raises(Refused, match="divided already"):
        bench.shape(AskPieces(planes=("x=9",)), A)
    with pytest.raises(Refused, match="is a piece"):
        bench.do(Duplicate(bodies=(bench.job.bodies[-1].id,)))
    bench.do(Delete(bodies=(A,)))
    assert bench.job.bodies == ()
    assert bench.job.divisions == ()


def test_a_division_is_asked_for_otherwise() -> None:
    bench = job()
    bench.shape(AskPieces(planes=("x=20",)))
    first = bench.job.bodies[1]
    bench.do(Paint(bodies=(first.id,), colour="#aabbcc"))
    bench.shape(AskPieces(planes=("x=25", "z=14")), instead=bench.job.divisions[0].id)
    assert len(bench.job.divisions) == 1
    assert len(pieces(bench)) == 4
    bench.shape(AskPieces(planes=("x=22",)), instead=bench.job.divisions[0].id)
    assert pieces(bench) == ["plate 1, left", "plate 2, right"]


def test_two_bodies_of_a_kit_become_one_and_stay_in_it() -> None:
    items = [
        threemf.BuildObject("block", mesh_of(Manifold.cube((40, 30, 20), True))),
        threemf.BuildObject("rod", mesh_of(Manifold.cylinder(30, 6, 6, 64))),
    ]
    data = threemf.write(items, Unit.MM, "pair", "")
    volumes = {}
    for how in ("join", "cut", "common", "split"):
        bench = bench_of("pair.3mf", data)
        bench.shape(AskCombination(how=how), "s1-1", "s1-2")
        body = bench.job.bodies[2]
        assert body.kit == bench.job.bodies[0].kit
        assert released(bench) == (2 if how == "split" else 1)
        volumes[how] = body.volume
    disc = 10 * 64 / 2 * 36 * np.sin(2 * np.pi / 64)
    assert volumes["common"] == pytest.approx(disc)
    assert volumes["cut"] == pytest.approx(24000 - disc)
    assert volumes["join"] == pytest.approx(24000 + 2 * disc)
    assert volumes["split"] == volumes["cut"]


def test_kept_bores_and_clearance_are_in_the_pieces() -> None:
    bench = job().do(
        KeepBores(bodies=(A,)),
        SetFactor(body=A, typed="0.5"),
        SetAllowance(body=A, shrinkage=None, clearance=("0.4", "0", "0")),
    )
    bench.shape(AskPieces(planes=("z=9",)))
    lower = bench.job.bodies[1]
    bench.do(AddReading(body=lower.id, kind="extent", axis="x", typed=""))
    shown = {body.id: body for body in survey(bench.job, bench).bodies}[lower.id]
    assert shown.chain is not None
    assert shown.chain.released_mm[0] == pytest.approx(30.4)
    # Its bore is 5.5 across in the plate, whatever the factor.
    bores = [feature for feature in bench.features(lower).listed if feature.kind == "bore"]
    assert [bore.diameter * 0.5 for bore in bores] == pytest.approx([5.5], rel=1e-3)
    assert released(bench, place="own") == 2


FAULTS: dict[str, Callable[[Mesh], Mesh]] = {
    "a plane 0.01 off": lambda mesh: _pushed(mesh, 0.01),
    "a piece moved": lambda mesh: mesh.mapped(lambda v: v + np.array([0.0, 0.01, 0.0])),
    "a piece turned inside out": lambda mesh: replace(mesh, faces=np.ascontiguousarray(mesh.faces[:, ::-1])),
    "the whole in the place of a piece": lambda mesh: mesh_of(plate()),
    "a piece with a hollow": lambda mesh: mesh_of(
        _solid(mesh) - Manifold.cube((2, 2, 2)).translate((8, 3, 15))
    ),
    "a piece with a corner gone": lambda mesh: mesh_of(
        _solid(mesh) - Manifold.cube((4, 4, 4)).translate((3, -7, 11))
    ),
    "a piece with a bump": lambda mesh: mesh_of(
        _solid(mesh) + Manifold.cube((2, 2, 3)).translate((8, 3, 34))
    ),
}


def _solid(mesh: Mesh) -> Manifold:
    solid = solid_of(mesh)
    assert solid is not None
    return solid


def _pushed(mesh: Mesh, by: float) -> Mesh:
    def push(points: Floats) -> Floats:
        moved = points.copy()
        moved[np.isclose(points[:, 0], 20.0), 0] += by
        return moved

    return mesh.mapped(push)


@pytest.mark.parametrize("fault", FAULTS)
def test_the_proof_notices_a_piece_that_is_another(fault: str) -> None:
    bench = job()
    bench.shape(AskPieces(planes=("x=20",), pins=PINS))
    piece = bench.job.bodies[1]
    released(bench, bodies=(piece.id,), place="own")
    wrong = FAULTS[fault](bench.mesh(piece.geometry))
    bench.meshes[piece.geometry] = wrong
    low, high = wrong.bounds()
    # Even where the sheets believe it.
    bench.job = bench.job.with_body(
        piece.model_copy(
            update={"triangles": wrong.triangles, "low": tuple(low.tolist()), "high": tuple(high.tolist())}
        )
    )
    with pytest.raises((ProofBroken, Refused)):
        released(bench, bodies=(piece.id,), place="own")


def test_the_proof_notices_holes_and_walls_that_are_others() -> None:
    bench = job(Manifold.cube((40, 30, 30)))
    bench.shape(AskPieces(planes=("x=20",), pins=PINS))
    for change in ({"diameter": 2.2}, {"depth": 5.5}, {"clearance": 0.3}, {"places": ()}):
        body = bench.job.bodies[1]
        shaping = body.recipe.shaping  # type: ignore[union-attr, unused-ignore]
        other = shaping.model_copy(update={"pins": shaping.pins.model_copy(update=change)})
        told = body.model_copy(update={"recipe": body.recipe.model_copy(update={"shaping": other})})  # type: ignore[union-attr, unused-ignore]
        before, bench.job = bench.job, bench.job.with_body(told)
        with pytest.raises(ProofBroken):
            released(bench, bodies=(body.id,), place="own")
        bench.job = before
    bench = job(Manifold.cube((40, 30, 30)))
    bench.shape(AskHollow(wall="2"))
    body = bench.job.bodies[1]
    thin = body.recipe.model_copy(  # type: ignore[union-attr, unused-ignore]
        update={"shaping": body.recipe.shaping.model_copy(update={"wall": 2.05})}  # type: ignore[union-attr, unused-ignore]
    )
    bench.job = bench.job.with_body(body.model_copy(update={"recipe": thin}))
    with pytest.raises(ProofBroken):
        released(bench, bodies=(body.id,), place="own")
