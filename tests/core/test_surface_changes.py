"""Where a surface is another than before is drawn where it is another, by how much, and nowhere else."""

from __future__ import annotations

from base64 import b64decode

import numpy as np
import pytest
from numpy.typing import NDArray

from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import SettleUnit, SetUp
from aimtrue.core.intake.surface_changes import Since, SurfaceChange, surface_change
from aimtrue.core.intake.tasks import JoinTask, MendTask
from aimtrue.core.model.lengths import MM_PER, Unit
from tests.core.test_revision_changes import begun, block, file_of, plate
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of


def change_of(bench: Bench, since: Since = "revised") -> SurfaceChange:
    return surface_change(bench.job, bench.job.bodies[0], bench, since)


def hatched(change: SurfaceChange, says: str) -> NDArray[np.float64]:
    """The (n, 3) ends of strokes of the hatch that says so, in numbers of the file."""
    (band,) = [band for band in change.strokes.bands if band.kind == "hatch" and band.says.startswith(says)]
    ends = np.frombuffer(b64decode(band.strokes), "<f4").reshape(-1, 3)
    return np.asarray(ends + np.asarray(change.strokes.origin))


def hatches(change: SurfaceChange) -> set[str]:
    return {band.says for band in change.strokes.bands if band.kind == "hatch"}


def test_a_side_that_moved_out_and_a_bore_that_grew_are_drawn_there_alone() -> None:
    bench = begun(plate())
    bench.revise("plate.stl", file_of(plate(width=63.5, bore=5.0)))
    change = change_of(bench)
    assert hatches(change) == {"material added, up to 3.50 mm", "material removed, up to 0.50 mm"}
    assert change.most_mm == pytest.approx(3.5, abs=1e-3)
    # Parts that lie across the old end are hatched whole.
    assert hatched(change, "material added")[:, 0].min() > 58
    from_axis = np.hypot(*(hatched(change, "material removed")[:, :2] - 20).T)
    assert from_axis.max() == pytest.approx(2.5, abs=1e-3)
    assert change.says == "in revision 1"


def test_the_same_again_is_drawn_nowhere() -> None:
    bench = begun(plate())
    bench.revise("plate.stl", file_of(plate()))
    change = change_of(bench)
    assert change.strokes.bands == ()
    assert change.most_mm == 0.0


def test_a_revision_about_another_origin_is_laid_on_the_one_before_and_says_so() -> None:
    bench = begun(plate())
    bench.revise("plate.stl", file_of(plate(width=63.5).translate((500, -70, 3))))
    change = change_of(bench)
    assert change.says == "in revision 1, laid on each other by their low corners"
    assert hatched(change, "material added")[:, 0].min() > 558
    assert np.asarray(change.shift) == pytest.approx([500, -70, 3], abs=1e-4)


def test_a_revision_in_another_unit_is_held_against_the_one_before_in_mm() -> None:
    bench = begun(plate())
    bench.revise("plate.stl", file_of(plate(width=63.5), times=1 / 25.4))
    if bench.job.sources[0].unit is None:
        bench.do(SettleUnit(source="s1", unit=Unit.IN))
    change = change_of(bench)
    assert hatches(change) == {"material added, up to 3.50 mm"}
    assert np.asarray(change.rows) == pytest.approx(np.eye(3) / MM_PER[Unit.IN])


def test_a_revision_with_another_axis_up_is_turned_before_it_is_held_against() -> None:
    bench = begun(plate())
    bench.revise("plate.stl", file_of(plate(width=63.5).rotate((-90, 0, 0))))
    bench.do(SetUp(source="s1", up="y"))
    change = change_of(bench)
    assert "turned as its up axis was" in change.says
    assert hatches(change) == {"material added, up to 3.50 mm"}


def test_what_a_remedy_closed_is_added_and_nothing_else_is() -> None:
    torn = corners_of(box(8, 9, 7))
    lid = torn[:, :, 2].min(axis=1) == torn[:, :, 2].max()
    bench = bench_of("tray.stl", binary_stl(torn[~lid])).do(SettleUnit(source="s1", unit=Unit.MM))
    with pytest.raises(Refused, match="not mended"):
        change_of(bench, "mended")
    before = bench.job.bodies[0].geometry
    bench.work(MendTask(bodies=(bench.job.bodies[0].id,), remedy="close-holes"))
    change = change_of(bench, "mended")
    assert (change.earlier, change.says) == (before, "before it was mended")
    assert len(change.strokes.bands) > 0
    # The middle of the lid is as far from the nearest side as the lid is wide to its middle.
    assert change.most_mm == pytest.approx(4.0, abs=0.2)
    ends = np.concatenate([hatched(change, says) for says in hatches(change)])
    assert ends[:, 2].min() == pytest.approx(7.0, abs=1e-5)


def test_parts_that_were_mended_before_they_were_joined_are_not_taken_for_the_whole() -> None:
    torn = corners_of(box(8, 9, 7))[1:]
    bench = bench_of("two.stl", binary_stl(np.concatenate([torn, corners_of(box(8, 9, 7, (6, 0, 0)))])))
    bench.do(SettleUnit(source="s1", unit=Unit.MM))
    bench.work(MendTask(bodies=(bench.job.bodies[0].id,), remedy="close-holes"))
    assert change_of(bench, "mended").most_mm > 0
    bench.work(JoinTask(bodies=tuple(body.id for body in bench.job.bodies)))
    with pytest.raises(Refused, match="not mended by itself"):
        change_of(bench, "mended")


def test_what_is_new_in_a_revision_was_nothing_before() -> None:
    bench = begun(plate())
    bench.revise("plate.stl", file_of(plate(), block()))
    new = next(body for body in bench.job.bodies if "2" in body.name or body.low[0] > 90)
    with pytest.raises(Refused, match="not known"):
        surface_change(bench.job, new, bench, "revised")
