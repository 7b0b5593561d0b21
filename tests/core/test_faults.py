"""Faults on purpose, in short: every third of the campaign; the whole is ``./aimtrue bench --faults-in-
core``.
"""

from __future__ import annotations

from benchmarks.faults import right_files, tried
from benchmarks.faults.put_in import target_of
from benchmarks.faults.scenes import SCENES
from benchmarks.faults.table import FAULTS


def test_every_fault_is_caught_and_right_files_are_not() -> None:
    assert len(FAULTS) >= 60
    right = right_files()
    assert len(right) == len(SCENES)
    # All but the last, which takes as long as all others together.
    assert all(scene() == files for scene, files in zip(SCENES[:-1], right[:-1], strict=True)), (
        "the same bytes"
    )
    outcomes = [tried(fault, right) for fault in FAULTS[::3]]
    assert [f"{outcome.fault.says}: {outcome.how}" for outcome in outcomes if outcome.how != "caught"] == []


def test_every_fault_has_its_place_in_the_core() -> None:
    """A fault whose place is gone would be stopped by that, which shows nothing of the proof."""
    for fault in FAULTS:
        target_of(fault)
