"""The Larch Hill files against the table of their true sizes."""

from pathlib import Path

import pytest

from aimtrue.core.actions import SettleUnit, SetUp
from aimtrue.core.frames import true_sizes
from demo.parts import PARTS, Part
from tests.shapes import bench_of


@pytest.mark.parametrize("part", PARTS, ids=lambda part: part.file)
def test_a_file_has_its_true_size(part: Part, demo: Path) -> None:
    bench = bench_of(part.file, (demo / part.file).read_bytes())
    bench.do(SettleUnit(source="s1", unit=part.unit), SetUp(source="s1", up=part.up))
    body = bench.job.bodies[0]
    # STL stores float32: a size is known to one spacing at the greatest coordinate.
    rounding = (
        max(abs(c) for c in (*body.low, *body.high)) * 2**-22 * {"m": 1000, "in": 25.4, "mm": 1}[part.unit]
    )
    assert true_sizes(bench.job, body) == pytest.approx(part.size_mm, abs=part.slack_mm + rounding)
    assert body.health.shells == part.pieces
    assert body.health.closed == part.closed
