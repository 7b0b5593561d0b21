"""The Larch Hill files against the table of their true sizes."""

from pathlib import Path

import pytest

from aimtrue.core.chain.sizes import group_sizes
from aimtrue.core.intake.actions import SettleUnit, SetUp
from aimtrue.core.model.lengths import MM_PER
from demo.parts import PARTS, Part
from tests.shapes import bench_of


@pytest.mark.parametrize("part", PARTS, ids=lambda part: part.file)
def test_a_file_has_its_true_size(part: Part, demo: Path) -> None:
    bench = bench_of(part.file, (demo / part.file).read_bytes())
    bench.do(SettleUnit(source="s1", unit=part.unit), SetUp(source="s1", up=part.up))
    bodies = bench.job.bodies
    # STL stores float32: a size is known to one spacing at the greatest coordinate.
    reach = max(abs(c) for body in bodies for c in (*body.low, *body.high))
    rounding = reach * 2**-22 * MM_PER[part.unit]
    assert group_sizes(bench.job, bodies) == pytest.approx(part.size_mm, abs=part.slack_mm + rounding)
    assert len(bodies) == part.pieces
    assert all(body.health.closed for body in bodies) == part.closed
