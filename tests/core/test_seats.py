"""Seats of a job: turned, placed, copied, mirrored, lifted, on several plates; released as they stand."""

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aimtrue.core.errors import Refused
from aimtrue.core.formats import read_model, threemf
from aimtrue.core.intake.actions import LeaveKit, SettleUnit
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.machine import SHIPPED, BoxVolume, Machine, Margins, RoundVolume
from aimtrue.core.model.ownership import seat_of
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.seating.actions import (
    AddPlate,
    CentreSeat,
    FaceDown,
    LevelAll,
    LevelSeat,
    LineUp,
    MirrorSeat,
    MoveSeat,
    PutBy,
    PutOn,
    RemovePlate,
    ResetSeat,
    RestOn,
    SetCopies,
    SetMachine,
    ShiftSeat,
    StandApart,
    TakeOff,
    TurnSeat,
)
from aimtrue.core.seating.orientation.orientations import stance_of
from aimtrue.core.seating.placement.collision import overlaps_of
from aimtrue.core.seating.placement.places import places_of
from aimtrue.core.seating.seat_states import SeatState
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import SetFactor
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

B = BodyId("s1-1")
M, S, TOWER, VAT = SHIPPED


def part(mesh: Mesh | None = None) -> Bench:
    data = binary_stl(corners_of(mesh or box(20, 30, 10)))
    return bench_of("part.stl", data).do(SettleUnit(source="s1", unit=Unit.MM))


def pair(*meshes: Mesh) -> Bench:
    """Lone bodies of one file each in its own right, no kit."""
    items = [threemf.BuildObject(f"part {i + 1}", mesh) for i, mesh in enumerate(meshes)]
    bench = bench_of("parts.3mf", threemf.write(items, Unit.MM, "", ""))
    return bench.do(LeaveKit(bodies=tuple(body.id for body in bench.job.bodies)))


def now(bench: Bench) -> dict[str, SeatState]:
    return {seat.id: seat for seat in survey(bench.job, bench).seats}


def codes(bench: Bench) -> set[str]:
    return {finding.code for finding in survey(bench.job, bench).findings if finding.sheet == "seating"}


def seat(bench: Bench, key: str = f"{B}~1") -> SeatState:
    return now(bench)[key]


def test_a_seat_that_nobody_touched_stands_in_the_middle_and_is_not_kept() -> None:
    bench = part()
    assert bench.job.seats == ()
    found = seat(bench)
    assert (found.room.low, found.room.high) == ((115, 90, 0), (135, 120, 10))  # type: ignore[union-attr, unused-ignore]
    assert (found.zone, found.tilt_deg, found.contact_mm2, found.marks) == ("C3", 0.0, pytest.approx(600), ())


def test_typed_places_move_the_middle_and_keys_move_it_further() -> None:
    bench = part().do(MoveSeat(body=B, x="60", y="2 in"), ShiftSeat(body=B, dx=1.5, dy=-0.8))
    low, high = seat(bench).room.low, seat(bench).room.high  # type: ignore[union-attr, unused-ignore]
    np.testing.assert_allclose(np.add(low, high) / 2, [61.5, 50, 5])
    assert seat(bench.do(CentreSeat(body=B))).room.low == (115, 90, 0)  # type: ignore[union-attr, unused-ignore]


@pytest.mark.parametrize("typed", ["abc", "1e9", "nan"])
def test_places_that_are_none_are_refused(typed: str) -> None:
    with pytest.raises(Refused):
        part().do(MoveSeat(body=B, x=typed))


@pytest.mark.parametrize("typed", ["359.999", "-12.5°", "90 deg"])
def test_any_angle_up_to_a_turn_is_taken(typed: str) -> None:
    assert len(part().do(TurnSeat(body=B, axis="z", typed=typed)).job.seats[0].turns) == 1


@pytest.mark.parametrize("typed", ["1e9", "round", "", "0"])
def test_angles_that_are_none_are_refused(typed: str) -> None:
    with pytest.raises(Refused):
        part().do(TurnSeat(body=B, axis="z", typed=typed))


def test_an_absolute_angle_takes_the_place_of_those_before() -> None:
    bench = part().do(TurnSeat(body=B, axis="z", typed="30"), TurnSeat(body=B, axis="z", typed="15"))
    bench.do(TurnSeat(body=B, axis="z", typed="10", absolute=True))
    assert [turn.degrees for turn in bench.job.seats[0].turns] == [10]
    assert seat(bench).turn == "10°"
    assert bench.do(TurnSeat(body=B, axis="z", typed="0", absolute=True)).job.seats[0].turns == ()


def test_a_part_tilted_by_a_third_of_a_degree_is_caught_and_levelled() -> None:
    bench = part(box(40, 25, 10)).do(TurnSeat(body=B, axis="y", typed="0.3"))
    found = seat(bench)
    assert found.tilt_deg == pytest.approx(0.3)
    assert found.gap_mm == pytest.approx(40 * np.sin(np.radians(0.3)))
    assert "tilted" in codes(bench)
    (told,) = (finding for finding in survey(bench.job, bench).findings if finding.code == "tilted")
    assert told.says == "part is tilted by 0.30°, down to the right: 0.21 mm above the plate at the far side"
    (way,) = told.ways
    assert way.action is not None
    bench.do(way.action)
    assert seat(bench).tilt_deg == 0
    assert codes(bench) == set()
    assert seat(bench).contact_mm2 == pytest.approx(1000)


def test_levelling_what_is_level_or_has_nothing_flat_is_refused() -> None:
    with pytest.raises(Refused, match="level already"):
        part().do(LevelSeat(body=B))
    ball = part(mesh_of(manifold3d.Manifold.sphere(20, 96)))
    with pytest.raises(Refused, match="no flat region"):
        ball.do(TurnSeat(body=B, axis="x", typed="1.1"), LevelSeat(body=B))
    assert "nothing-flat" in codes(ball)
    (told,) = [finding for finding in survey(ball.job, ball).findings if finding.code == "nothing-flat"]
    assert [(way.kind, way.sheet) for way in told.ways] == [("sheet", "division")]


def test_all_seats_are_levelled_at_once() -> None:
    bench = part(box(40, 25, 10)).do(TurnSeat(body=B, axis="y", typed="0.3"), SetCopies(body=B, typed="3"))
    assert [one.tilt_deg for one in now(bench).values()] == pytest.approx([0.3] * 3)
    bench.do(LevelAll())
    assert [one.tilt_deg for one in now(bench).values()] == [0, 0, 0]


def test_level_is_told_by_a_factor_without_asking_the_mesh() -> None:
    bench = part(box(40, 25, 10)).do(TurnSeat(body=B, axis="y", typed="0.3"))
    seat(bench)
    bench.do(SetFactor(body=B, typed="2"))
    asked = []
    bench.mesh = lambda name: asked.append(name)  # type: ignore[assignment, method-assign, return-value]
    body = bench.job.bodies[0]
    stance = stance_of(bench.job, body, seat_of(bench.job, body), bench)
    assert stance.level is not None
    assert stance.level.gap_mm == pytest.approx(80 * np.sin(np.radians(0.3)))
    assert asked == []


@settings(max_examples=20, deadline=None)
@given(st.floats(-180, 180), st.floats(-180, 180), st.integers(0, 11))
def test_any_picked_face_goes_down_flat(x: float, z: float, face: int) -> None:
    bench = part()
    for axis, angle in (("x", x), ("z", z)):
        if abs(angle) > 1e-6:
            bench.do(TurnSeat(body=B, axis=axis, typed=repr(angle)))
    bench.do(FaceDown(body=B, on=B, face=face))
    found = seat(bench)
    assert found.tilt_deg == 0
    assert found.contact_mm2 == pytest.approx((600, 300, 200)[[10, 20, 30].index(round(found.room.high[2]))])  # type: ignore[union-attr, unused-ignore]


def test_a_way_to_stand_brings_its_direction_down() -> None:
    bench = part().do(RestOn(body=B, down=(1.0, 0.0, 0.0)))
    assert seat(bench).room.high[2] == pytest.approx(20)  # type: ignore[union-attr, unused-ignore]
    assert seat(bench.do(ResetSeat(body=B))).room.high[2] == 10  # type: ignore[union-attr, unused-ignore]
    with pytest.raises(Refused):
        bench.do(RestOn(body=B, down=(0.0, 0.0, 0.0)))


def test_an_edge_is_lined_up_with_the_plate() -> None:
    bench = part().do(TurnSeat(body=B, axis="z", typed="33"))
    mesh = bench.mesh(bench.job.bodies[0].geometry)

    def lined_up(way: tuple[float, float, float], axis: str) -> LineUp:
        """The first edge that runs along a direction of the file, by the weights of its middle."""
        for face, corners in enumerate(mesh.vertices[mesh.faces]):
            for opposite in range(3):
                a, b = np.delete(corners, opposite, axis=0)
                if np.abs(np.cross(b - a, way)).max() == 0:
                    weights = [0.5, 0.5, 0.5]
                    weights[opposite] = 0.0
                    return LineUp(body=B, on=B, face=face, weights=tuple(weights), axis=axis)
        raise AssertionError

    near = bench.job
    bench.do(lined_up((1, 0, 0), "near"))
    np.testing.assert_allclose(np.subtract(seat(bench).room.high, seat(bench).room.low), [20, 30, 10])  # type: ignore[union-attr, unused-ignore]
    bench.job = near
    bench.do(lined_up((1, 0, 0), "y"))
    np.testing.assert_allclose(np.subtract(seat(bench).room.high, seat(bench).room.low), [30, 20, 10])  # type: ignore[union-attr, unused-ignore]
    with pytest.raises(Refused):
        bench.do(lined_up((0, 0, 1), "near"))


def test_a_face_is_turned_square_to_the_plate_and_one_that_lies_level_is_refused() -> None:
    bench = part().do(TurnSeat(body=B, axis="z", typed="20"))
    mesh = bench.mesh(bench.job.bodies[0].geometry)
    side = int(np.argmax(mesh.area_vectors[:, 0]))
    with pytest.raises(Refused, match="no direction"):
        bench.do(LineUp(body=B, on=B, face=int(np.argmax(mesh.area_vectors[:, 2]))))
    room = seat(bench.do(LineUp(body=B, on=B, face=side))).room
    assert room is not None
    assert np.subtract(room.high, room.low) == pytest.approx([20, 30, 10])
    room = seat(bench.do(LineUp(body=B, on=B, face=side, axis="x"))).room
    assert room is not None
    assert np.subtract(room.high, room.low) == pytest.approx([30, 20, 10])


def test_copies_stand_in_a_row_follow_their_original_and_are_released() -> None:
    bench = part().do(SetCopies(body=B, typed="3"), SetFactor(body=B, typed="1.5"))
    seats = now(bench)
    assert [one.name for one in seats.values()] == ["part, copy 1", "part, copy 2", "part, copy 3"]
    assert codes(bench) == set()
    (made,) = release(bench.job, bench, Order()).files
    assert made.file.proof.holds
    assert made.file.bodies == ("part, copy 1", "part, copy 2", "part, copy 3")
    back = read_model("a.3mf", made.data)
    assert [np.round(file_object.mesh.extents(), 5).tolist() for file_object in back.parts] == [
        [30, 45, 15]
    ] * 3
    each = release(bench.job, bench, Order(format="stl", shape="each")).files
    assert [proven_file.file.name for proven_file in each] == [
        "part-copy-1_r1.stl",
        "part-copy-2_r1.stl",
        "part-copy-3_r1.stl",
    ]
    assert len(bench.do(SetCopies(body=B, typed="1")).job.seats_of(B)) == 1


@pytest.mark.parametrize("typed", ["0", "10000", "-3", "two", "1.5", ""])
def test_counts_that_are_none_are_refused(typed: str) -> None:
    with pytest.raises(Refused, match="cop"):
        part().do(SetCopies(body=B, typed=typed))


def test_a_mirrored_part_is_released_as_its_mirror_image_facing_outward() -> None:
    hook = mesh_of(manifold3d.Manifold.cube((20, 5, 5)) + manifold3d.Manifold.cube((5, 15, 5)))
    bench = part(hook).do(MirrorSeat(body=B), TurnSeat(body=B, axis="z", typed="90"))
    (made,) = release(bench.job, bench, Order(format="stl")).files
    assert made.file.proof.holds
    mesh = read_model("a.stl", made.data).whole()
    assert mesh.volume() == pytest.approx(hook.volume(), rel=1e-6)
    # Turned back it is what the file has with X the other way round.
    back = (mesh.vertices - mesh.bounds().mean(axis=0)) @ np.array([[0, -1, 0], [1, 0, 0], [0, 0, 1]])
    want = (hook.vertices - hook.bounds().mean(axis=0)) * [-1, 1, 1]
    order = np.lexsort(np.round(back, 3).T), np.lexsort(np.round(want, 3).T)
    np.testing.assert_allclose(back[order[0]], want[order[1]], atol=1e-4)
    assert seat(bench).turn == "90°, mirrored"


def test_a_lift_is_kept_through_release_and_what_would_hang_is_told() -> None:
    bench = part().do(SetMachine(machine=S), MoveSeat(body=B, lift="4"))
    assert codes(bench) == {"lifted", "hanging-first-layer"}
    (made,) = release(bench.job, bench, Order()).files
    assert read_model("a.3mf", made.data).whole().bounds()[0, 2] == 4
    assert codes(bench.do(MoveSeat(body=B, lift="-0.3"))) == {"sunk"}
    assert codes(bench.do(MoveSeat(body=B, lift="0"))) == set()


def test_two_seats_that_overlap_are_told_with_how_far() -> None:
    bench = pair(box(20, 20, 10), box(10, 10, 10)).do(MoveSeat(body=B, x="100", y="100"))
    bench.do(MoveSeat(body="s1-2", x="114", y="100"))
    (found,) = overlaps_of(bench.job, places_of(bench.job, bench), bench)
    assert found.deep_mm == pytest.approx(1.0)
    assert "seats-overlap" in codes(bench)
    touching = bench.do(MoveSeat(body="s1-2", x="115", y="100"))
    assert overlaps_of(touching.job, places_of(touching.job, touching), touching) == []


def test_a_part_may_stand_in_the_opening_of_another_or_under_it() -> None:
    ring = mesh_of(manifold3d.Manifold.cylinder(8, 30, 30, 64) - manifold3d.Manifold.cylinder(8, 20, 20, 64))
    cup = manifold3d.Manifold.cylinder(30, 30, 30, 64) - manifold3d.Manifold.cylinder(20, 25, 25, 64)
    for outer in (ring, mesh_of(cup)):  # the cup stands over it, its floor above
        bench = pair(outer, box(20, 20, 8)).do(MoveSeat(body=B, x="100", y="100"))
        bench.do(MoveSeat(body="s1-2", x="100", y="100"))
        assert overlaps_of(bench.job, places_of(bench.job, bench), bench) == []
        bench.do(MoveSeat(body="s1-2", x="115", y="100"))
        assert len(overlaps_of(bench.job, places_of(bench.job, bench), bench)) == 1


def test_put_beside_on_top_and_in_line() -> None:
    bench = pair(box(20, 20, 10), box(10, 10, 10)).do(MoveSeat(body=B, x="100", y="100"))
    beside = now(bench.do(PutBy(body="s1-2", other=f"{B}~1", how="beside", gap="3")))["s1-2~1"]
    assert beside.room.low == pytest.approx((113, 95, 0))  # type: ignore[union-attr, unused-ignore]
    top = now(bench.do(PutBy(body="s1-2", other=f"{B}~1", how="on-top")))["s1-2~1"]
    assert top.room.low == pytest.approx((95, 95, 10))  # type: ignore[union-attr, unused-ignore]
    assert "seats-overlap" not in codes(bench)
    with pytest.raises(Refused):
        bench.do(PutBy(body=B, other=f"{B}~1", how="beside"))


def test_a_second_pass_is_held_against_the_first() -> None:
    bench = pair(box(40, 40, 4), box(10, 10, 2)).do(AddPlate(follows="p1"))
    bench.do(MoveSeat(body=B, x="60", y="60"), MoveSeat(body="s1-2", x="60", y="60"))
    bench.do(PutOn(body="s1-2", plate="p2"))
    assert "pass-gap" in codes(bench)  # it would be made inside the first
    bench.do(MoveSeat(body="s1-2", lift="4"))
    assert "pass-gap" not in codes(bench)
    bench.do(MoveSeat(body="s1-2", x="150"))
    assert "pass-misses" in codes(bench)
    bench.do(MoveSeat(body="s1-2", x="60"))
    first, second = release(bench.job, bench, Order(format="stl")).files
    assert [first.file.name, second.file.name] == ["trial_plate-1_r1.stl", "trial_plate-2_r1.stl"]
    ends = [read_model("a.stl", proven_file.data).whole().bounds() for proven_file in (first, second)]
    assert ends[0].tolist() == [[40, 40, 0], [80, 80, 4]]
    assert ends[1].tolist() == [[55, 55, 4], [65, 65, 6]]


def test_what_is_taken_off_stays_in_the_job_and_is_listed() -> None:
    bench = pair(box(20, 20, 10), box(10, 10, 10)).do(TakeOff(body="s1-2"))
    found = now(bench)["s1-2~1"]
    assert (found.plate, found.room, found.zone) == ("", None, "")
    assert codes(bench) == {"not-seated"}
    (made,) = release(bench.job, bench, Order()).files
    assert made.file.bodies == ("part 1",)
    with pytest.raises(Refused, match="stands on a plate"):
        release(bench.job, bench, Order(bodies=("s1-2",)))
    bench.do(PutOn(body="s1-2", plate="p1"))
    assert codes(bench) == set()


def test_a_plate_that_goes_takes_its_seats_off() -> None:
    bench = pair(box(20, 20, 10), box(10, 10, 10)).do(AddPlate(), PutOn(body="s1-2", plate="p2"))
    assert {one.plate for one in now(bench).values()} == {"p1", "p2"}
    bench.do(RemovePlate(plate="p2"))
    assert now(bench)["s1-2~1"].plate == ""
    with pytest.raises(Refused, match="one plate at least"):
        bench.do(RemovePlate(plate="p1"))


def test_another_machine_judges_everything_anew() -> None:
    bench = part(box(150, 150, 20))
    assert codes(bench) == set()
    assert codes(bench.do(SetMachine(machine=S))) == {"outside-machine"}
    # On the round one its corners reach out: half the diagonal against the radius.
    bench.do(SetMachine(machine=TOWER), CentreSeat(body=B))
    (told,) = (finding for finding in survey(bench.job, bench).findings if finding.code == "outside-machine")
    out = (75 * np.sqrt(2) - 90) / np.sqrt(2)
    assert f"X by {out:.2f} mm, Y by {out:.2f} mm" in told.says
    assert codes(bench.do(SetFactor(body=B, typed="0.76"))) == set()  # 80.6 of 83 within margin and brim


def test_margins_are_told_apart_from_outside() -> None:
    bench = part().do(SetMachine(machine=M.model_copy(update={"margins": Margins(left=5)})))
    bench.do(MoveSeat(body=B, x="12", y="100"))
    (told,) = (finding for finding in survey(bench.job, bench).findings if finding.sheet == "seating")
    assert (told.code, told.says) == ("in-margin", "part is 3.00 mm into what Garden bench M is to keep free")
    assert codes(bench.do(MoveSeat(body=B, x="9"))) == {"outside-machine"}


@pytest.mark.parametrize(
    "machine",
    [
        Machine(volume=BoxVolume(size=(0, 10, 10))),
        Machine(volume=BoxVolume(size=(-5, 10, 10))),
        Machine(volume=BoxVolume(size=(1e9, 10, 10))),
        Machine(volume=BoxVolume(size=(float("nan"), 10, 10))),
        Machine(volume=RoundVolume(diameter=0, height=10)),
        Machine(margins=Margins(left=130, right=130)),
        Machine(volume=RoundVolume(diameter=50, height=10), margins=Margins(front=30)),
        Machine(name="  "),
        Machine(name="x" * 100),
        Machine(display=1),
    ],
)
def test_machines_that_are_none_are_refused(machine: Machine) -> None:
    with pytest.raises(Refused):
        part().do(SetMachine(machine=machine))


def test_a_turn_on_the_plate_changes_no_tilt_but_its_side() -> None:
    bench = part(box(40, 25, 10)).do(TurnSeat(body=B, axis="y", typed="0.3"))
    sides = []
    for _ in range(4):
        found = seat(bench)
        assert (found.tilt_deg, found.gap_mm) == pytest.approx((0.3, 40 * np.sin(np.radians(0.3))))
        sides.append(found.lower)
        bench.do(TurnSeat(body=B, axis="z", typed="90"))
    assert sides == ["to the right", "to the back", "to the left", "to the front"]
    bench.do(MirrorSeat(body=B), LevelSeat(body=B))
    assert seat(bench).tilt_deg == 0


def kit_of_two() -> Bench:
    """Two boxes of one file, one on top of the other."""
    cap = box(20, 20, 10)
    above = Mesh(np.add(cap.vertices, (40.0, 0.0, 25.0)), cap.faces)
    data = threemf.write(
        [threemf.BuildObject("foot", box(20, 30, 10)), threemf.BuildObject("cap", above)], Unit.MM, "", ""
    )
    return bench_of("pair.3mf", data)


def test_bodies_of_a_kit_stand_apart_where_they_were_but_on_the_plate_and_as_one_again() -> None:
    bench = kit_of_two()
    (kit,) = bench.job.kits
    before = next(iter(places_of(bench.job, bench).values()))
    apart = bench.do(StandApart(kit=kit.id, apart=True))
    stands = now(apart)
    assert {stand.name for stand in stands.values()} == {"foot", "cap"}
    for stand in stands.values():
        room = stand.room
        assert room is not None
        assert np.asarray([room.low[:2], room.high[:2]]) == pytest.approx(before.each[stand.subject][:, :2])
        assert room.low[2] == pytest.approx(0)
    turned = apart.do(TurnSeat(body="s1-2", axis="z", typed="90"))
    assert [seat_of(turned.job, body).turns == () for body in turned.job.bodies] == [True, False]
    with pytest.raises(Refused) as refused:
        apart.do(TurnSeat(body=kit.id, axis="z", typed="90"))
    assert refused.value.code == "kit-free"
    again = apart.do(StandApart(kit=kit.id, apart=False))
    assert [one.subject for one in now(again).values()] == [kit.id]
    assert now(again)[f"{kit.id}~1"].room.high[2] == pytest.approx(35)  # type: ignore[union-attr, unused-ignore]


def test_bodies_of_a_kit_that_stand_apart_share_a_correction_and_are_released_as_they_stand() -> None:
    bench = kit_of_two()
    (kit,) = bench.job.kits
    bench = bench.do(StandApart(kit=kit.id, apart=True)).do(SetFactor(body=kit.id, typed="1.5"))
    bench = bench.do(SetCopies(body="s1-2", typed="2")).do(MoveSeat(body="s1-1", x="60", y="70"))
    (made,) = release(bench.job, bench, Order(format="3mf")).files
    assert made.file.proof.holds
    low = [
        (item.name, round(float(item.mesh.bounds()[0, 2]), 3))
        for item in read_model("o.3mf", made.data).parts
    ]
    assert low == [("foot", 0), ("cap", 0), ("cap", 0)]


def test_a_body_that_leaves_a_kit_whose_bodies_stand_apart_stays_where_it_is() -> None:
    bench = kit_of_two()
    (kit,) = bench.job.kits
    apart = bench.do(StandApart(kit=kit.id, apart=True)).do(MoveSeat(body="s1-2", x="60", y="70"))
    left = apart.do(LeaveKit(bodies=("s1-2",)))
    assert left.job.kits == ()
    assert {key: one.room for key, one in now(left).items()} == {
        key: one.room for key, one in now(apart).items()
    }
