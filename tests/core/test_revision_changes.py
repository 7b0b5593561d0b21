"""What a new revision changed is told in sizes, volumes and gauges; what did not change is not."""

from __future__ import annotations

import numpy as np
import pytest
from manifold3d import Manifold

from aimtrue.core.intake.actions import SettleUnit, SetUp
from aimtrue.core.intake.revision_changes import RevisionChange
from aimtrue.core.intake.tasks import MendTask
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import AddReading, SetFactor
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of

A = BodyId("s1-1")


def file_of(*solids: Manifold, times: float = 1.0) -> bytes:
    whole = Manifold.compose(list(solids))
    return binary_stl(corners_of(mesh_of(whole.scale((times, times, times)))))


def plate(width: float = 60.0, bore: float = 4.0) -> Manifold:
    """A plate 12 high and 40 deep, with a bore in its middle."""
    return Manifold.cube((width, 40, 12)) - Manifold.cylinder(30, bore / 2, bore / 2, 64).translate(
        (20, 20, -5)
    )


def block(far: float = 100.0) -> Manifold:
    return Manifold.cube((10, 11, 13)).translate((far, 0, 0))


def begun(*solids: Manifold) -> Bench:
    return bench_of("plate.stl", file_of(*solids)).do(SettleUnit(source="s1", unit=Unit.MM))


def changes(bench: Bench) -> list[RevisionChange]:
    (source,) = survey(bench.job, bench).sources
    return list(source.changed)


def test_a_first_revision_and_the_same_file_again_change_nothing() -> None:
    bench = begun(plate(), block())
    assert changes(bench) == []
    bench.revise("plate.stl", file_of(plate(), block()))
    assert changes(bench) == []


def test_a_side_a_volume_and_a_gauge_are_told_before_and_after_whatever_the_correction() -> None:
    bench = begun(plate())
    bench.do(
        AddReading(body=A, kind="extent", axis="x", typed="61"),
        AddReading(body=A, kind="extent", axis="y", typed=""),
    )
    bench.revise("plate.stl", file_of(plate(width=63.5)))
    told = {(change.kind, change.says): change for change in changes(bench)}
    assert set(told) == {("size", "plate, X"), ("volume", "plate, volume"), ("gauge", "overall X")}
    for kind in (("size", "plate, X"), ("gauge", "overall X")):
        assert (told[kind].before, told[kind].after) == pytest.approx((60.0, 63.5), abs=1e-5)
    volume = told["volume", "plate, volume"]
    assert volume.after is not None
    assert volume.before is not None
    assert volume.after - volume.before == pytest.approx(3.5 * 40 * 12, rel=1e-5)
    assert {hash(source) for source in bench.job.sources}  # Sources are told apart in sets.
    # Another size is no other revision.
    bench.do(SetFactor(body=bench.job.bodies[0].id, typed="1.1"))
    assert {(change.kind, change.says) for change in changes(bench)} == set(told)


def test_another_up_axis_is_no_change_of_the_part() -> None:
    bench = begun(plate())
    bench.do(*(AddReading(body=A, kind="extent", axis=axis, typed="") for axis in ("x", "z")))
    bench.revise("plate.stl", file_of(plate()))
    bench.do(SetUp(source="s1", up="y"))
    assert changes(bench) == []
    bench.revise("plate.stl", file_of(plate(width=63.5)))
    assert {change.says for change in changes(bench)} == {"plate, X", "plate, volume", "overall X"}
    bench.do(SetUp(source="s1", up="x"))
    (side, volume) = changes(bench)
    assert (side.before, side.after) == pytest.approx((60.0, 63.5), abs=1e-5)
    assert (side.says, volume.kind) == ("plate, Z", "volume")


def test_the_same_part_in_another_unit_changes_nothing() -> None:
    bench = begun(plate())
    bench.revise("plate.stl", file_of(plate(), times=1 / 25.4))
    if bench.job.sources[0].unit is None:
        assert changes(bench) == []
        bench.do(SettleUnit(source="s1", unit=Unit.IN))
    assert bench.job.sources[0].unit is Unit.IN
    assert changes(bench) == []


def test_bodies_that_are_new_or_gone_are_named_and_mending_is_no_change_of_the_file() -> None:
    bench = begun(plate(), block())
    names = {body.name for body in bench.job.bodies}
    torn = corners_of(box(8, 9, 7))[1:] + np.array([0, 0, 60])
    whole = corners_of(mesh_of(Manifold.compose([plate(), block()])))
    bench.revise("plate.stl", binary_stl(np.concatenate([whole, torn])))
    (new,) = changes(bench)
    assert (new.kind, new.says in names) == ("new", False)
    bench.work(MendTask(bodies=(new.body,), remedy="close-holes"))
    (mended,) = changes(bench)
    assert (mended.kind, mended.says) == (new.kind, new.says)
    assert mended.body != new.body
    bench.revise("plate.stl", file_of(plate()))
    gone = changes(bench)
    assert {change.kind for change in gone} == {"gone"}
    assert len(gone) == 2
