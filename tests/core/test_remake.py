"""Bodies made anew, revisions swapped in, and what happens to the decisions made before."""

from itertools import pairwise

import numpy as np
import pytest
from manifold3d import Manifold

from aimtrue.core.actions import apply
from aimtrue.core.chain.sizes import group_sizes, true_bounds, true_sizes
from aimtrue.core.errors import Refused
from aimtrue.core.formats import threemf
from aimtrue.core.gauges.construction import PickedSpot
from aimtrue.core.intake.actions import (
    BringHome,
    Delete,
    Duplicate,
    LeaveKit,
    MakeKit,
    Paint,
    Rename,
    SettleUnit,
    SetUp,
    TakeIn,
)
from aimtrue.core.intake.successors import with_decisions
from aimtrue.core.intake.take_in import COARSE, all_kept, take_in
from aimtrue.core.intake.tasks import (
    JoinTask,
    ListFacesTask,
    LookOverTask,
    MendTask,
    RefineTask,
    ReviseTask,
    SeparateTask,
    TakeAsOneTask,
)
from aimtrue.core.mesh import serialization as geometry
from aimtrue.core.mesh.mesh import Mesh, merged
from aimtrue.core.model.body import DECISION, NATURES, Body, fields_of
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.ownership import groups_of, seat_of
from aimtrue.core.model.readings import Anchor
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.seating.actions import TurnSeat
from aimtrue.core.survey.survey import survey
from aimtrue.core.tasks import Task, refuse_unclear
from aimtrue.core.truing.actions import AddReading, ResetCorrection, SetFactor, SizeAxis
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

PAIR = {"ring": box(20, 30, 5), "marks": box(4, 4, 2, at=(8, 10, 5))}


def pair(**changed: Mesh) -> bytes:
    parts = {**PAIR, **changed}
    return threemf.write(
        [threemf.BuildObject(name, mesh) for name, mesh in parts.items()], Unit.MM, "dial", ""
    )


def done(bench: Bench, task: Task, data: bytes = b"") -> Bench:
    return bench.work(task, data)


def names(bench: Bench) -> list[str]:
    return [body.name for body in bench.job.bodies]


def corner(mesh: Mesh, x: float, y: float, z: float) -> Anchor:
    vertex = int(np.flatnonzero((mesh.vertices == [x, y, z]).all(axis=1))[0])
    face, place = np.argwhere(mesh.faces == vertex)[0].tolist()
    return Anchor(face=face, weights=tuple(np.eye(3)[place].tolist()), on="vertex")


def test_a_kit_is_sized_together_and_stays_registered() -> None:
    bench = bench_of("dial.3mf", pair()).do(SizeAxis(body="s1-2", axis="x", typed="8"))
    ring, marks = bench.job.bodies
    assert true_sizes(bench.job, ring) == (40, 60, 10)
    assert true_bounds(bench.job, marks)[0][2] == true_bounds(bench.job, ring)[1][2] == 10
    bench.do(SizeAxis(body="ks1", axis="z", typed="7"))
    assert group_sizes(bench.job, bench.job.bodies) == (20, 30, 7)
    bench.do(TurnSeat(body="s1-2", axis="x", typed="180"))
    assert (
        seat_of(bench.job, bench.job.bodies[0])
        == seat_of(bench.job, bench.job.bodies[1])
        != seat_of(bench.job, bench.job.bodies[0]).model_copy(update={"turns": ()})
    )
    drawn = survey(bench.job, bench).bodies
    assert min(facts.room.low[2] for facts in drawn if facts.room) == pytest.approx(0)
    assert drawn[0].placement.seated_shift == drawn[1].placement.seated_shift


def test_a_body_that_left_its_kit_goes_its_own_way() -> None:
    bench = bench_of("dial.3mf", pair()).do(LeaveKit(bodies=("s1-2",)), SetFactor(body="s1-2", typed="2"))
    assert bench.job.correction_of(bench.job.bodies[0]).factors == (1, 1, 1)
    assert bench.job.kits == ()
    bench.do(MakeKit(bodies=("s1-2", "s1-1"), name="dial"))
    assert bench.job.correction_of(bench.job.bodies[0]).factors == (2, 2, 2)
    assert survey(bench.job, bench).kits[0].bodies == ("s1-1", "s1-2")


def test_names_stay_unique_and_copies_are_alike() -> None:
    bench = bench_of("dial.3mf", pair()).do(Duplicate(bodies=("s1-1",)), Duplicate(bodies=("s1-1",)))
    assert names(bench) == ["ring", "marks", "ring (2)", "ring (3)"]
    assert len({body.alike for body in bench.job.bodies if body.name.startswith("ring")}) == 1
    with pytest.raises(Refused):
        bench.do(Rename(body="s1-2", name="ring"))
    bench.do(Delete(bodies=("s1-1", "s1-2")), Paint(bodies=("d1",), colour="#aabbcc"))
    assert names(bench) == ["ring (2)", "ring (3)"]
    assert bench.job.bodies[0].colour == "#aabbcc"
    second = take_in("s2", "dial.3mf", pair())
    bench.meshes |= second.meshes
    bench.job = apply(
        bench.job, TakeIn(sources=second.sources, bodies=second.bodies, kits=second.kits), bench
    )
    assert names(bench)[-2:] == ["ring", "marks"]
    assert "same-file" in {finding.code for finding in survey(bench.job, bench).findings}


def test_a_copy_is_as_large_as_its_original_and_goes_its_own_way_from_there() -> None:
    bench = bench_of("dial.3mf", pair()).do(SizeAxis(body="s1-1", axis="x", typed="100"))
    factors = bench.job.correction_of(bench.job.bodies[0]).factors
    bench.do(Duplicate(bodies=("s1-1",)), LeaveKit(bodies=("s1-2",)))
    assert all(bench.job.correction_of(body).factors == factors for body in bench.job.bodies)
    # What was typed of the first, or of both together, no longer holds for the others.
    bench.do(ResetCorrection(body="s1-1"))
    release(bench.job, bench, Order(shape="each", place="own"))


def test_what_float32_would_lose_far_out_is_told_with_the_way_to_keep_it() -> None:
    """Out at 400 m a released file has steps of 0.03 mm; 40.01 mm are kept at the origin only."""
    corners = [(x, y, z) for x in (400_000, 400_040.01) for y in (0, 40) for z in (0, 40)]
    hull = Manifold.hull_points(np.array(corners) - [400_000, 0, 0]).to_mesh()
    text = "".join(f"v {x + 400_000:.2f} {y:.2f} {z:.2f}\n" for x, y, z in hull.vert_properties.tolist())
    text += "".join(f"f {a + 1} {b + 1} {c + 1}\n" for a, b, c in hull.tri_verts.tolist())
    bench = bench_of("far.obj", text.encode()).do(SettleUnit(source="s1", unit=Unit.MM))
    (finding,) = survey(bench.job, bench).findings
    assert (finding.code, "step by 0.0312 mm" in finding.says) == ("far-from-origin", True)
    sizes = {
        place: release(bench.job, bench, Order(format="stl", place=place)).files[0].file.size_mm[0]
        for place in ("own", "origin")
    }
    assert sizes["own"] == 40
    assert sizes["origin"] == pytest.approx(40.01, abs=1e-5)
    bench.do(BringHome(source="s1"))
    assert survey(bench.job, bench).findings == ()


def test_a_lost_model_is_found_and_brought_home() -> None:
    bench = bench_of("part.stl", binary_stl(corners_of(box(20, 30, 50, at=(4000, -900, 70)))))
    bench.do(SettleUnit(source="s1", unit=Unit.MM), SetUp(source="s1", up="y"))
    assert "far-from-origin" in {finding.code for finding in survey(bench.job, bench).findings}
    bench.do(BringHome(source="s1"))
    np.testing.assert_allclose(
        true_bounds(bench.job, bench.job.bodies[0]), [[-10, -25, 0], [10, 25, 30]], atol=1e-9
    )
    assert survey(bench.job, bench).findings == ()
    (made,) = release(bench.job, bench, Order(format="stl", place="own")).files
    assert made.file.size_mm == (20, 50, 30)
    bench.do(BringHome(source="s1", home=False))
    assert true_bounds(bench.job, bench.job.bodies[0])[1][0] == 4020


@pytest.mark.parametrize(("z", "said"), [(-110, True), (-60, False), (-50, False)])
def test_a_model_far_below_zero_is_said_and_one_that_hangs_from_it_is_not(z: float, said: bool) -> None:
    bench = bench_of("screw.stl", binary_stl(corners_of(box(20, 30, 50, at=(0, 0, z)))))
    bench.do(SettleUnit(source="s1", unit=Unit.MM))
    assert ("below-plate" in {finding.code for finding in survey(bench.job, bench).findings}) == said


def test_a_declared_unit_that_makes_no_sense_is_a_finding() -> None:
    mile = threemf.write([threemf.BuildObject("part", box(212, 158.5, 44))], Unit.M, "", "")
    bench = bench_of("part.3mf", mile)
    shown_findings = {finding.code: finding for finding in survey(bench.job, bench).findings}
    assert "unit-doubtful" in shown_findings
    assert "millimetre fits better" in shown_findings["unit-doubtful"].says
    bench.do(SettleUnit(source="s1", unit=Unit.MM))
    assert "unit-doubtful" not in {finding.code for finding in survey(bench.job, bench).findings}


def test_mending_reports_keeps_decisions_and_finds_places_again() -> None:
    holed = binary_stl(corners_of(box(20, 30, 50))[2:])
    bench = bench_of("part.stl", holed).do(
        SettleUnit(source="s1", unit=Unit.MM), SetFactor(body="s1-1", typed="2")
    )
    mesh = bench.mesh("s1-1")
    bench.do(
        AddReading(
            body="s1-1",
            spots=(PickedSpot(anchor=corner(mesh, 0, 0, 50)), PickedSpot(anchor=corner(mesh, 20, 0, 50))),
            typed="44",
        )
    )
    done(bench, MendTask(bodies=("s1-1",), remedy="close-holes"))
    (body,) = bench.job.bodies
    assert body.id != "s1-1"
    assert body.health.closed
    assert bench.job.correction_of(body).factors == pytest.approx((2.2, 2.2, 2.2))
    assert bench.job.readings[0].body == body.id
    assert not bench.job.readings[0].lost
    (record,) = body.mended
    assert (record.before.triangles, record.after.triangles) == (10, 12)
    assert (record.before.findings, record.after.findings) == (4, 0)
    assert record.after.volume == pytest.approx(30000)
    with pytest.raises(Refused) as told:
        done(bench, MendTask(bodies=(body.id,), remedy="close-holes"))
    assert told.value.code == "nothing-to-mend"


def test_separate_join_and_take_as_one() -> None:
    bench = bench_of("dial.3mf", pair())
    done(bench, TakeAsOneTask(bodies=("s1-1", "s1-2")))
    assert names(bench) == ["ring"]
    assert bench.job.bodies[0].health.shells == 2
    done(bench, SeparateTask(body=bench.job.bodies[0].id))
    assert names(bench) == ["ring 1", "ring 2"]
    done(bench, JoinTask(bodies=tuple(body.id for body in bench.job.bodies)))
    (body,) = bench.job.bodies
    assert body.volume == pytest.approx(20 * 30 * 5 + 32)
    assert body.health.shells == 1
    with pytest.raises(Refused):
        done(bench, SeparateTask(body=body.id))


def test_bodies_of_different_corrections_do_not_become_one() -> None:
    bench = bench_of("dial.3mf", pair()).do(LeaveKit(bodies=("s1-2",)), SetFactor(body="s1-2", typed="2"))
    with pytest.raises(Refused):
        done(bench, JoinTask(bodies=("s1-1", "s1-2")))


def test_a_new_revision_keeps_what_still_holds() -> None:
    bench = bench_of("dial.3mf", pair())
    bench.do(
        Rename(body="s1-1", name="brass ring"),
        SetFactor(body="ks1", typed="1.1"),
        Paint(bodies=("s1-2",), colour="#112233"),
    )
    mesh = bench.mesh("s1-1")
    bench.do(
        AddReading(
            body="s1-1",
            spots=(PickedSpot(anchor=corner(mesh, 0, 0, 0)), PickedSpot(anchor=corner(mesh, 20, 0, 0))),
        )
    )
    bench.do(
        AddReading(
            body="s1-1",
            spots=(PickedSpot(anchor=corner(mesh, 0, 0, 5)), PickedSpot(anchor=corner(mesh, 0, 30, 5))),
        )
    )
    newer = pair(ring=box(20, 30.5, 5), pin=box(3, 3, 9, at=(30, 0, 0)))
    done(bench, ReviseTask(source="s1", name="dial-b.3mf", sha256="x" * 64), newer)
    assert names(bench) == ["brass ring", "marks", "pin"]
    ring, marks, pin = bench.job.bodies
    assert ring.high == (20, 30.5, 5)
    assert (
        bench.job.correction_of(ring).factors
        == bench.job.correction_of(marks).factors
        == bench.job.correction_of(pin).factors
        == pytest.approx((1.1,) * 3)
    )
    assert marks.colour == "#112233"
    assert ring.kit == marks.kit == pin.kit
    assert [reading.lost for reading in bench.job.readings] == [False, True]
    assert len(bench.job.sources[0].replaced) == 1
    codes = [finding.code for finding in survey(bench.job, bench).findings]
    assert "reading-lost" in codes
    done(
        bench,
        ReviseTask(source="s1", name="dial-c.3mf", sha256="y" * 64),
        threemf.write([threemf.BuildObject("ring", PAIR["ring"])], Unit.MM, "", ""),
    )
    assert names(bench) == ["brass ring"]
    says = [finding.says for finding in survey(bench.job, bench).findings if finding.code == "revision-lost"]
    assert says == ["marks is no longer in the file", "pin is no longer in the file"]


def test_a_revision_matches_nameless_bodies_by_shape_and_place() -> None:
    def rack(*meshes: Mesh) -> bytes:
        return binary_stl(corners_of(merged(list(meshes))))

    base, left, right = box(100, 40, 5), box(9, 9, 9, at=(10, 10, 6)), box(9, 9, 9, at=(80, 10, 6))
    bench = bench_of("rack.stl", rack(base, left, right)).do(SettleUnit(source="s1", unit=Unit.MM))
    bench.do(Rename(body="s1-2", name="left"), Rename(body="s1-3", name="right"))
    taller = box(9, 9, 9.5, at=(80, 10, 6))
    done(
        bench,
        ReviseTask(source="s1", name="rack.stl", sha256="z" * 64),
        rack(taller, base, box(2, 2, 2, at=(50, 30, 30))),
    )
    assert [(body.name, body.high[2]) for body in bench.job.bodies][:2] == [("right", 15.5), ("rack 1", 5)]
    assert bench.job.sources[0].unit is Unit.MM
    assert [lost_item.says for lost_item in bench.job.missing] == ["left is no longer in the file"]


def test_finer_facets_keep_every_decision(demo) -> None:  # type: ignore[no-untyped-def]
    data = (demo / "clamp-shells.step").read_bytes()
    bench = bench_of("clamp.step", data).do(
        Rename(body="s1-1", name="front"), SetFactor(body="ks1", typed="0.98")
    )
    mesh = bench.mesh("s1-1")
    (ax, ay, az), (bx, by, bz) = (
        mesh.vertices[mesh.vertices[:, 0].argmin()],
        mesh.vertices[mesh.vertices[:, 0].argmax()],
    )
    bench.do(
        AddReading(
            body="s1-1",
            spots=(PickedSpot(anchor=corner(mesh, ax, ay, az)), PickedSpot(anchor=corner(mesh, bx, by, bz))),
            typed="207.5",
        )
    )
    before = [body.triangles for body in bench.job.bodies]
    done(bench, RefineTask(source="s1", fineness=COARSE), data)
    assert names(bench) == ["front", "shell, back"]
    assert all(now.triangles < old for now, old in zip(bench.job.bodies, before, strict=True))
    assert bench.job.sources[0].fineness == COARSE
    assert [step.fineness.chord_mm for step in bench.job.sources[0].steps] == [0.1, 0.03, 0.01]
    assert len({body.kit for body in bench.job.bodies}) == 1
    reading = survey(bench.job, bench).bodies[0].readings[0]
    assert reading.drives
    assert reading.met
    (made,) = release(bench.job, bench, Order()).files
    assert made.file.proof.holds


def test_the_facets_of_a_mesh_are_what_they_are() -> None:
    bench = bench_of("part.stl", binary_stl(corners_of(box(2, 3, 5))))
    with pytest.raises(Refused):
        done(bench, RefineTask(source="s1", fineness=COARSE), b"")


def test_several_groups_stand_side_by_side() -> None:
    bench = bench_of("a.stl", binary_stl(corners_of(box(20, 30, 50)))).do(
        SettleUnit(source="s1", unit=Unit.MM)
    )
    bench.do(Duplicate(bodies=("s1-1",)), Duplicate(bodies=("s1-1",)))
    rooms = [body.room for body in survey(bench.job, bench).bodies]
    spans = sorted((room.low[0], room.high[0]) for room in rooms if room)
    assert all(after[0] - before[1] == pytest.approx(5) for before, after in pairwise(spans))
    assert spans[0][0] + spans[-1][1] == pytest.approx(250)
    assert len(release(bench.job, bench, Order(shape="each")).files) == 3
    names_ = [file.file.name for file in release(bench.job, bench, Order(shape="each")).files]
    assert names_ == ["a_r1.3mf", "a-2-_r1.3mf", "a-3-_r1.3mf"]


def test_an_empty_job_has_no_groups() -> None:
    assert groups_of(Job(name="x")) == ()


def test_gauges_on_faces_survive_other_facets_and_a_revision(demo) -> None:  # type: ignore[no-untyped-def]
    data = (demo / "clamp-shells.step").read_bytes()
    bench = bench_of("clamp.step", data)
    listed = bench.features(bench.job.bodies[0]).listed
    seat = next(feature for feature in listed if feature.kind == "hollow arc")
    bore = next(feature for feature in listed if feature.kind == "bore")
    floor, top = (
        next(feature for feature in listed if feature.flat and feature.direction[2] == z) for z in (-1, 1)
    )
    bench.do(
        AddReading(body="s1-1", kind="diameter", spots=(PickedSpot(feature=seat.id),), typed="140.6"),
        AddReading(body="s1-1", kind="depth", spots=(PickedSpot(feature=bore.id),)),
        AddReading(
            body="s1-1", kind="faces", spots=(PickedSpot(feature=floor.id), PickedSpot(feature=top.id))
        ),
        AddReading(body="s1-1", kind="extent", axis="x", kit=True),
        AddReading(body="s1-1", kind="perimeter", spots=(PickedSpot(feature=seat.id),), axis="z"),
    )
    before = [reading.model_mm for reading in survey(bench.job, bench).kits[0].readings]
    done(bench, RefineTask(source="s1", fineness=COARSE), data)
    after = survey(bench.job, bench).kits[0].readings
    assert [reading.model_mm for reading in after][:4] == pytest.approx(before[:4], rel=1e-9)
    assert after[4].model_mm == pytest.approx(before[4], rel=1e-3)  # a girth over coarser facets is shorter
    assert not any(reading.lost for reading in bench.job.readings)
    assert after[0].drives
    # A revision without the bore loses its depth, and only that.
    block = box(212, 78.8, 44, at=(-106, -79.4, 0))
    plain = threemf.write([threemf.BuildObject("shell, front", block)], Unit.MM, "", "")
    done(bench, ReviseTask(source="s1", name="clamp.3mf", sha256="q" * 64), plain)
    assert len(bench.job.readings) == 5
    lost = {reading.gauge.kind for reading in bench.job.readings if reading.lost}
    assert {"diameter", "depth"} <= lost
    assert "extent" not in lost


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ({"tolerance": "-1"}, "negative"),
        ({"tolerance": "20 cm"}, "over 100 mm"),
        ({"tolerance": "wide"}, "not a length"),
        ({"chord": "2 cm"}, "not between 0.0005 and 10 mm"),
        ({"chord": "0"}, "zero"),
        ({"angle": "90"}, "not between 0.5 and 60°"),
        ({"angle": "some"}, "not an angle"),
    ],
)
def test_what_is_typed_for_some_work_is_read_before_it_begins(typed: dict[str, str], says: str) -> None:
    bench = bench_of("part.stl", binary_stl(corners_of(box(2, 3, 5))))
    work = (
        MendTask(bodies=("s1-1",), remedy="weld", **typed)
        if "tolerance" in typed
        else RefineTask(source="s1", **typed)
    )
    with pytest.raises(Refused, match=says):
        refuse_unclear(bench.job, work)
    refuse_unclear(bench.job, MendTask(bodies=("s1-1",), remedy="weld", tolerance="1/64 in"))
    refuse_unclear(bench.job, RefineTask(source="s1", chord="0.02 mm", angle="8°"))


def test_overlaps_are_looked_for_again_when_a_body_is_made_anew() -> None:
    """A body that is open fills no place; closed, it overlaps its neighbour, and joined it no longer does."""
    left, right = box(10, 10, 10), box(10, 10, 10, at=(8, 0, 0))
    pair = threemf.write(
        [
            threemf.BuildObject("left", Mesh(left.vertices, left.faces[2:])),
            threemf.BuildObject("right", right),
        ],
        Unit.MM,
        "",
        "",
    )
    bench = bench_of("pair.3mf", pair)
    assert bench.job.sources[0].overlaps == ()
    done(bench, MendTask(bodies=("s1-1",), remedy="close-holes"))
    (overlap,) = bench.job.sources[0].overlaps  # type: ignore[misc]
    assert {overlap.a, overlap.b} == {body.id for body in bench.job.bodies}
    assert overlap.volume == pytest.approx(200)
    (finding,) = [finding for finding in survey(bench.job, bench).findings if finding.code == "overlap"]
    assert {finding.body_id, finding.other_id} == {overlap.a, overlap.b}
    done(bench, JoinTask(bodies=tuple(body.id for body in bench.job.bodies)))
    assert bench.job.sources[0].overlaps == ()


def test_pairs_too_large_are_said_and_looked_at_when_asked(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("aimtrue.core.intake.bodies.overlaps._MOST_TRIANGLES", 10)
    pair = [
        threemf.BuildObject("left", box(10, 10, 10)),
        threemf.BuildObject("right", box(10, 10, 10, at=(8, 0, 0))),
    ]
    bench = bench_of("pair.3mf", threemf.write(pair, Unit.MM, "", ""))
    codes = {finding.code for finding in survey(bench.job, bench).findings}
    assert "overlaps-unknown" in codes
    assert "overlap" not in codes
    done(bench, LookOverTask(source="s1"))
    codes = {finding.code for finding in survey(bench.job, bench).findings}
    assert "overlaps-unknown" not in codes
    assert "overlap" in codes


def test_pieces_of_a_lone_body_become_a_kit() -> None:
    pieces = merged([box(4, 4, 4), box(4, 4, 4, at=(20, 0, 0))])
    bench = bench_of("two.3mf", threemf.write([threemf.BuildObject("two", pieces)], Unit.MM, "", ""))
    done(bench, TakeAsOneTask(bodies=tuple(body.id for body in bench.job.bodies)))
    assert [body.kit for body in bench.job.bodies] == [None]
    done(bench, SeparateTask(body=bench.job.bodies[0].id))
    assert len(bench.job.bodies) == 2
    assert {body.kit for body in bench.job.bodies} == {bench.job.kits[0].id}


def test_faces_can_be_listed_later_and_are_the_same() -> None:
    bench = bench_of("pair.3mf", pair())
    at_once, _ = all_kept(take_in("s1", "pair.3mf", pair()))
    later, blobs = all_kept(take_in("s1", "pair.3mf", pair()), faces_up_to=0)
    assert [body.features for body in later] == ["", ""]
    assert all(body.geometry in blobs and body.bench in blobs for body in later)
    bench.job = bench.job.model_copy(update={"bodies": later})
    bench.meshes.update({body.geometry: geometry.from_bytes(blobs[body.geometry]) for body in later})
    after = done(bench, ListFacesTask(bodies=tuple(body.id for body in later)))
    assert [body.features for body in after.job.bodies] == [body.features for body in at_once]


def test_every_field_of_a_body_has_one_nature_and_a_successor_takes_over_all_decisions() -> None:
    """So that a new field cannot be forgotten: it says what becomes of it, or this fails."""
    natures = [name for nature in NATURES for name in fields_of(nature)]
    assert sorted(natures) == sorted(Body.model_fields)
    decided = {"as_drawn": True, "alone": True, "copied": True, "kit": "k9", "home": (1.0, 2.0, 3.0)}
    fresh = bench_of("rest.stl", binary_stl(corners_of(box(4, 5, 6)))).job.bodies[0]
    after = with_decisions(fresh, fresh.model_copy(update=decided))
    assert {name: getattr(after, name) for name in decided} == decided
    assert set(decided) < set(fields_of(DECISION))
