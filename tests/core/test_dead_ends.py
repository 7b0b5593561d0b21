"""What was wrong, lost or a dead end, each as it was found."""

from __future__ import annotations

import numpy as np
import pytest

from aimtrue.core.actions import apply
from aimtrue.core.drawing.sheet import TitleBlock, three_views
from aimtrue.core.errors import Refused
from aimtrue.core.gauges.construction import PickedSpot
from aimtrue.core.intake.actions import (
    Accept,
    BringHome,
    Duplicate,
    LeaveKit,
    MakeKit,
    SettleUnit,
    SetUp,
    TakeIn,
)
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.intake.tasks import MendTask, ReviseTask, SeparateTask
from aimtrue.core.mesh.features.listed import Feature
from aimtrue.core.mesh.mesh import Mesh, merged
from aimtrue.core.model.lengths import Unit, written
from aimtrue.core.release.making import refuse_unreleasable, release
from aimtrue.core.release.order import Order
from aimtrue.core.room import Inquiry
from aimtrue.core.survey.findings import all_findings
from aimtrue.core.survey.survey import survey
from aimtrue.core.tasks import Task
from aimtrue.core.truing.actions import (
    AddReading,
    FitMachine,
    HoldAxis,
    ImportReadings,
    KeepAsDrawn,
    KeepBores,
    ScaleTogether,
    SetAllowance,
    SetFactor,
    SolveReadings,
)
from aimtrue.core.truing.csv import sorted_out
from aimtrue.core.truing.effects.drawn_features import _on_thread
from tests.shapes import Bench, bench_of, binary_stl, bored, box, corners_of

A, B = "s1-1", "s2-1"


def settled(*meshes: Mesh, name: str = "part.stl") -> Bench:
    bench = bench_of(name, binary_stl(corners_of(merged(list(meshes)))))
    return bench.do(SettleUnit(source="s1", unit=Unit.MM))


def two_files(unit: Unit | None = Unit.MM) -> Bench:
    """Two files in one job, a body each."""
    bench = settled(box(20, 30, 50), name="lower.stl")
    data = binary_stl(corners_of(box(20, 30, 10, at=(0, 0, 60))))
    taken = take_in("s2", "upper.stl", data)
    bench.meshes.update(taken.meshes)
    bench.originals[taken.sources[0].sha256] = data
    bench.job = apply(bench.job, TakeIn(sources=taken.sources, bodies=taken.bodies, kits=taken.kits), bench)
    return bench.do(SettleUnit(source="s2", unit=unit)) if unit else bench


def worked(bench: Bench, task: Task, data: bytes = b"") -> Bench:
    return bench.work(task, data)


def codes(bench: Bench) -> set[str]:
    return {finding.code for finding in survey(bench.job, bench).findings}


def test_an_acceptance_is_bound_to_what_was_accepted() -> None:
    bench = settled(Mesh(box(20, 30, 50).vertices, box(20, 30, 50).faces[1:])).do(
        Accept(code="open-edges", reason="a bowl")
    )
    refuse_unreleasable(bench.job, bench, Order())
    again = binary_stl(corners_of(box(20, 30, 50))[1:])
    worked(bench, ReviseTask(source="s1", name="part.stl", sha256="x"), again)
    assert bench.job.bodies[0].accepted == ("open-edges",)
    worse = binary_stl(corners_of(box(20, 30, 50))[[0, 1, 2, 3, 4, 5, 6, 7, 8, 10]])
    worked(bench, ReviseTask(source="s1", name="part.stl", sha256="x"), worse)
    assert bench.job.bodies[0].accepted == ()
    with pytest.raises(Refused):
        refuse_unreleasable(bench.job, bench, Order())


def test_a_kit_over_two_files_keeps_one_unit_one_up_axis_and_one_home() -> None:
    bench = two_files().do(MakeKit(bodies=(A, B), name="case"))
    for action in (SettleUnit(source="s1", unit=Unit.IN), SetUp(source="s2", up="y")):
        with pytest.raises(Refused) as told:
            bench.do(action)
        assert told.value.code == "kit-mixed"
    bench.do(SetUp(source=None, up="y"), BringHome(source="s2"))
    assert len({(source.unit, source.up) for source in bench.job.sources}) == 1
    assert "kit-frames" not in codes(bench)
    # One kept from before, whose files are in two frames already, is stopped.
    lower = bench.job.sources[0].model_copy(update={"unit": Unit.IN})
    bench.job = bench.job.with_source(lower)
    assert "kit-frames" in {finding.code for finding in findings(bench) if finding.severity == "stop"}


def findings(bench: Bench):  # type: ignore[no-untyped-def]
    return all_findings(Inquiry(bench.job, bench))


def decided() -> Bench:
    """Two shells taken as one body, with every decision there is."""
    bench = settled(bored(), box(5, 5, 5, at=(60, 0, 0)))
    bench.do(LeaveKit(bodies=(A, "s1-2")))
    return bench.do(
        SetAllowance(body=A, shrinkage=("0.4", "0.4", "0.5"), clearance=("0.3", "0", "0")),
        KeepBores(bodies=(A,)),
        KeepAsDrawn(bodies=(A,)),
    )


def test_a_revision_keeps_allowance_as_drawn_and_bores_at_their_new_diameter() -> None:
    bench = decided()
    new = merged([bored(5.3), box(5, 5, 5, at=(60, 0, 0))])
    worked(bench, ReviseTask(source="s1", name="part.stl", sha256="x"), binary_stl(corners_of(new)))
    body = max(bench.job.bodies, key=lambda one: one.triangles)
    assert body.as_drawn
    assert body.clearance.mm == (0.3, 0, 0)
    assert [round(bore.diameter, 2) for bore in body.kept] == [5.3]
    gone = merged([box(40, 30, 8), box(5, 5, 5, at=(60, 0, 0))])
    worked(bench, ReviseTask(source="s1", name="part.stl", sha256="x"), binary_stl(corners_of(gone)))
    assert "kept bore" in next(
        finding.says for finding in survey(bench.job, bench).findings if finding.code == "revision-lost"
    )


def test_pieces_keep_what_was_decided_of_their_whole() -> None:
    from aimtrue.core.formats import threemf

    pair = merged([bored(), box(5, 5, 5, at=(60, 0, 0))])
    items = [threemf.BuildObject("pair", pair), threemf.BuildObject("cap", box(1, 2, 3, at=(0, 0, 90)))]
    bench = bench_of("pair.3mf", threemf.write(items, Unit.MM, "", ""))
    whole = bench.job.bodies[0]
    bench.do(
        SetAllowance(body=whole.id, shrinkage=("0.4",) * 3),
        KeepBores(bodies=(whole.id,)),
        KeepAsDrawn(bodies=(whole.id,)),
    )
    worked(bench, SeparateTask(body=whole.id))
    pieces = [body for body in bench.job.bodies if body.name.startswith("pair")]
    assert len(pieces) == 2
    assert all(
        piece.as_drawn and bench.job.shrinkage_of(piece).shares == (0.004,) * 3 and piece.kit == whole.kit
        for piece in pieces
    )
    assert sorted(len(piece.kept) for piece in pieces) == [0, 1]
    for kind in ("3mf", "stl"):
        release(bench.job, bench, Order(format=kind))  # raises unless proven


def test_making_a_kit_does_not_change_what_is_as_drawn() -> None:
    bench = two_files().do(SetFactor(body=A, typed="1.1"), KeepAsDrawn(bodies=(B,)))
    with pytest.raises(Refused) as told:
        bench.do(MakeKit(bodies=(A, B), name="case"))
    assert told.value.code == "as-drawn"


def test_fitting_the_machine_leaves_held_axes_and_stays_within_reason() -> None:
    bench = settled(box(20, 30, 50)).do(HoldAxis(body=A, axis="z", held=True), FitMachine(body=A))
    x, y, z = bench.job.correction_of(bench.job.bodies[0]).factors
    assert (x, z) == (y, 1.0)
    assert 30 * y == pytest.approx(210)
    with pytest.raises(Refused):
        bench.do(
            ScaleTogether(body=A, typed="1000000"),
            ScaleTogether(body=A, typed="1000000"),
            HoldAxis(body=A, axis="x", held=True),
            HoldAxis(body=A, axis="z", held=False),
            ScaleTogether(body=A, typed="1e-6"),
        )
    assert all(1e-6 <= factor <= 1e6 for factor in bench.job.correction_of(bench.job.bodies[0]).factors)


def test_a_body_beside_the_plate_is_not_told_a_negative_length() -> None:
    bench = settled(box(240, 30, 50), box(240, 30, 50, at=(0, 100, 0)), name="two.stl")
    bench.job = bench.job.model_copy(
        update={
            "kits": (),
            "bodies": tuple(body.model_copy(update={"kit": None}) for body in bench.job.bodies),
        }
    )
    (finding,) = [
        finding for finding in survey(bench.job, bench).findings if finding.code == "outside-machine"
    ]
    assert "-" not in finding.says
    assert "larger" not in finding.says


def test_rows_are_judged_like_typed_lengths_and_told_by_their_line() -> None:
    bench = settled(box(20, 30, 50)).do(
        AddReading(body=A, kind="extent", axis="x"),
        AddReading(body=A, kind="angle", spots=flats(settled(box(20, 30, 50)))),
    )
    angle = bench.job.readings[1].name
    text = f"name,real\n\n\noverall X,20.5\n{angle},90\noverall X,90000\nlid,3\n"
    good, problems = sorted_out(bench.job, bench.job.bodies, text)
    assert [row.real for row in good] == [20.5]
    assert [problem.code for problem in problems] == ["angle", "ask-first", "csv-unknown"]
    rows = "name,real\n\n\noverall X,wide\n"
    with pytest.raises(Refused) as told:
        bench.do(ImportReadings(body=A, text=rows))
    assert "line 4" in told.value.says
    with pytest.raises(Refused) as told:
        bench.do(ImportReadings(body=A, text='name,real\n"' + "x" * 140_000))
    assert told.value.code == "csv-cells"


def flats(bench: Bench) -> tuple[PickedSpot, PickedSpot]:
    flat = [feature for feature in bench.features(bench.job.bodies[0]).listed if feature.flat]
    other = next(feature for feature in flat if abs(np.dot(feature.direction, flat[0].direction)) < 0.1)
    return PickedSpot(feature=flat[0].id), PickedSpot(feature=other.id)


def test_a_mended_copy_does_not_overlap_its_twin() -> None:
    bench = settled(Mesh(box(20, 30, 50).vertices, box(20, 30, 50).faces[2:])).do(Duplicate(bodies=(A,)))
    worked(bench, MendTask(bodies=(A, "d1"), remedy="close-holes"))
    assert all(body.health.closed for body in bench.job.bodies)
    assert "overlap" not in codes(bench)
    assert [body.copied for body in bench.job.bodies] == [False, True]


def test_a_way_of_making_true_is_one_step() -> None:
    bench = settled(box(20, 30, 50)).do(
        AddReading(body=A, kind="extent", axis="x", typed="21"),
        AddReading(body=A, kind="extent", axis="y", typed="33"),
    )
    bench.do(SolveReadings(body=A, free="y"))
    correction = bench.job.correction_of(bench.job.bodies[0])
    assert correction.free == (False, True, False)
    assert np.multiply(correction.factors, (20, 30, 50)) == pytest.approx([21, 33, 52.5])


def test_a_threads_crest_is_no_thin_wall() -> None:
    at = {"point": (0, 0, 0), "direction": (0, 0, 1), "diameter": 6, "depth": 12, "pitch": 1}
    screw = Feature.model_validate(
        {"id": 0, "kind": "thread", "area": 1, "off": 0, "corners": (0, 1, 2), "face": 0, **at}
    )
    assert _on_thread((3, 0, 5.9), screw)
    assert _on_thread((0, 2.2, 0), screw)
    assert not _on_thread((0, 0.5, 0), screw)
    assert not _on_thread((3, 0, 9), screw)


@pytest.mark.parametrize(
    ("value", "text"),
    [
        (28.575, "28.58"),
        (1.125 * 25.4, "28.58"),
        (28.574998, "28.58"),
        (28.57449, "28.57"),
        (123456.785, "123456.79"),
        (2.675, "2.68"),
        (-0.125, "-0.13"),
        (1.005, "1.01"),
        (171.45, "171.45"),
        (0.0049, "0.00"),
    ],
)
def test_halves_are_rounded_away_from_zero(value: float, text: str) -> None:
    assert written(value) == text


def test_a_drawing_rounds_as_a_draughtsman_does() -> None:
    assert "28.58" in three_views(box(28.575, 20, 10), (), TitleBlock(()))


def test_a_body_of_a_job_kept_before_is_proven_by_its_surface_where_it_was_made_anew() -> None:
    bench = settled(Mesh(box(20, 30, 50).vertices, box(20, 30, 50).faces[2:]))
    worked(bench, MendTask(bodies=(A,), remedy="close-holes"))
    body = bench.job.bodies[0]
    bench.job = bench.job.with_body(body.model_copy(update={"remade": None, "made_of": ()}))
    proof = release(bench.job, bench, Order()).files[0].file.proof
    assert "surface" in {check.code for check in proof.checks}
