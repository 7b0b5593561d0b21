"""Drawings: what is in front hides what is behind, and sizes are written as they are."""

import re
import xml.etree.ElementTree as ET

import numpy as np
import pytest

from aimtrue.core.drawing.compare import compare, drawing_of
from aimtrue.core.drawing.thumbnail import HIGH, WIDE, thumbnail
from aimtrue.core.drawing.views import FRONT, LEFT, TOP, PreparedView, strokes
from aimtrue.core.intake.actions import SettleUnit
from aimtrue.core.mesh.mesh import merged
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import Unit
from aimtrue.core.truing.actions import AddReading, SetAllowance, SetFactor
from tests.shapes import Bench, bench_of, binary_stl, box, corners_of


def length(lines: np.ndarray) -> float:
    return float(np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum())


def test_a_box_shows_its_rectangle_in_every_view() -> None:
    viewed = PreparedView(box(20, 30, 50))
    for view, around in ((FRONT, 2 * (20 + 50)), (TOP, 2 * (20 + 30)), (LEFT, 2 * (30 + 50))):
        lines = viewed.lines(view)
        low, high = lines.reshape(-1, 2).min(axis=0), lines.reshape(-1, 2).max(axis=0)
        assert 2 * (high - low).sum() == pytest.approx(around)
        # Every side of the rectangle is there; edges behind others fall on them.
        joined = strokes(lines, 0.01)
        assert len(joined) >= 1


def test_what_stands_behind_is_not_drawn() -> None:
    both = merged([box(20, 10, 20), box(8, 5, 8, at=(6, 30, 6))])
    front = PreparedView(both).lines(FRONT).reshape(-1, 2)
    inside = (np.abs(front - [10, 10]) < 9).all(axis=1)
    assert not inside.any()
    above = PreparedView(both).lines(TOP).reshape(-1, 2)
    assert (above[:, 1] > 29).any()


def test_what_stands_in_front_is_drawn() -> None:
    both = merged([box(20, 10, 20), box(8, 5, 8, at=(6, -30, 6))])
    front = PreparedView(both).lines(FRONT)
    small = front[((front > [5.9, 5.9]) & (front < [14.1, 14.1])).all(axis=(1, 2))]
    assert length(np.unique(np.round(np.sort(small, axis=1), 6), axis=0)) >= 4 * 8 - 1e-6


def bench() -> Bench:
    made = bench_of("part.stl", binary_stl(corners_of(box(20, 30, 50))))
    return made.do(SettleUnit(source="s1", unit=Unit.MM))


def test_the_drawing_says_its_sizes_and_readings_to_scale() -> None:
    one = bench().do(AddReading(body="s1-1", kind="extent", axis="x", typed="22"))
    text = drawing_of(one.job, one.job.bodies, one, "block & stand")
    root = ET.fromstring(text)
    words = [node.text or "" for node in root.iter() if node.tag.endswith("text")]
    assert {"22.00", "33.00", "55.00"} <= set(words)
    assert "block & stand" in words
    assert any(re.fullmatch(r"\d+(\.\d+)? : \d+(\.\d+)?", word) for word in words)
    assert root.get("width") == "297mm"


def test_before_and_after_are_worked_out_on_the_mesh() -> None:
    one = bench().do(SetFactor(body="s1-1", typed="2"), SetAllowance(body="s1-1", shrinkage=("1", "1", "1")))
    comparison = compare(one.job, one.job.bodies, one)
    file, corrected, released = comparison.states
    assert file.size_mm == (20, 30, 50)
    assert corrected.size_mm == (40, 60, 100)
    assert corrected.volume_mm3 == pytest.approx(8 * file.volume_mm3)
    assert corrected.area_mm2 == pytest.approx(4 * file.area_mm2)
    assert released.size_mm == pytest.approx((40 / 0.99, 60 / 0.99, 100 / 0.99))
    assert file.mass_g == pytest.approx(30 * 1.24)
    assert file.strand_m == pytest.approx(30_000 / (np.pi * 1.75**2 / 4) / 1000)
    states = re.findall(r'data-state="(\w+)"', comparison.outlines)
    assert states == ["file", "corrected", "released"]


def points_of(svg: str) -> np.ndarray:
    path = re.search(r' d="([^"]*)"', svg)
    assert path
    return np.array([[float(x), float(y)] for x, y in re.findall(r"([\d.]+) ([\d.]+)", path[1])])


def test_a_block_at_a_glance_shows_its_seven_corners_that_can_be_seen() -> None:
    for sides in ((20, 30, 50), (50, 2, 3), (1000, 700, 200)):
        bench = bench_of("block.stl", binary_stl(corners_of(box(*sides))))
        points = points_of(thumbnail(bench.job, bench))
        assert len(np.unique(points, axis=0)) == 7
        low, high = points.min(axis=0), points.max(axis=0)
        assert max((high - low) / [WIDE - 4, HIGH - 4]) == pytest.approx(1, abs=0.005)
        assert (low + high) / 2 == pytest.approx([WIDE / 2, HIGH / 2], abs=0.1)


def test_at_a_glance_a_body_is_as_it_is_corrected_and_what_is_checked_against_is_left_out() -> None:
    bench = bench_of("block.stl", binary_stl(corners_of(box(20, 20, 20))))
    before = thumbnail(bench.job, bench)
    bench.do(SettleUnit(source="s1", unit=Unit.MM))
    assert thumbnail(bench.job, bench) == before
    bench.do(SetFactor(body=bench.job.bodies[0].id, typed="2"))
    assert thumbnail(bench.job, bench) == before
    assert thumbnail(Job(name="none"), bench).count("M") == 0
    two = bench_of("two.stl", binary_stl(corners_of(merged([box(20, 20, 20), box(5, 5, 5, at=(40, 0, 0))]))))
    body = two.job.bodies[1]
    checked = two.job.with_body(body.model_copy(update={"for_checking": True}))
    assert thumbnail(checked, two) == before
    assert thumbnail(two.job, two) != before
