"""Flat outlines: arcs as rings with bulges, and sections of CAD whose arcs stay arcs."""

from __future__ import annotations

import io
import math
from typing import Any

import ezdxf
import numpy as np
import pytest

from aimtrue.core.division.sections import arcs
from aimtrue.core.division.sections.kernel_sections import by_kernel, outlined
from aimtrue.core.errors import Refused
from aimtrue.core.intake.actions import SettleUnit, SetUp
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.truing.actions import FreeAxis, SetAllowance, SetFactor
from tests.core.test_cad import step_of
from tests.shapes import Bench, bench_of

A = BodyId("s1-1")
SLOT = np.array([[0, -2, 0], [10, -2, 1], [10, 2, 0], [0, 2, 1.0]])


def test_rings_with_arcs_are_as_long_and_as_large_as_they_are() -> None:
    circle = np.array([[3, 0, 1], [-3, 0, 1.0]])
    assert arcs.area_of(circle) == pytest.approx(9 * math.pi)
    assert arcs.length_of(circle) == pytest.approx(6 * math.pi)
    assert arcs.area_of(SLOT) == pytest.approx(40 + 4 * math.pi)
    assert arcs.length_of(SLOT) == pytest.approx(20 + 4 * math.pi)
    bitten = SLOT * [1, 1, -1]  # its ends go inward
    assert arcs.area_of(bitten) == pytest.approx(40 - 4 * math.pi)
    for ring in (circle, SLOT, bitten):
        back = arcs.turned_round(ring)
        assert arcs.area_of(back) == pytest.approx(-arcs.area_of(ring))
        polygon = arcs.as_polygon(ring)
        assert abs(_shoelace(polygon) - arcs.area_of(ring)) < 0.01 * abs(arcs.area_of(ring))
    made, outer = arcs.oriented([circle * [0.2, 0.2, 1] + [5, 0, 0], SLOT, circle + np.array([30, 0, 0])])
    assert outer == 2
    assert [arcs.area_of(one) > 0 for one in made] == [False, True, True]


def test_a_bulge_is_read_off_the_middle_of_an_arc() -> None:
    for start, end, via, bulge in (
        ((1, 0), (0, 1), (math.sqrt(0.5), math.sqrt(0.5)), math.tan(math.pi / 8)),
        ((0, 1), (1, 0), (math.sqrt(0.5), math.sqrt(0.5)), -math.tan(math.pi / 8)),
        ((1, 0), (-1, 0), (0, 1), 1.0),
    ):
        assert arcs.bulge_of(np.array(start), np.array(end), np.array(via)) == pytest.approx(bulge)
    assert arcs.bulge_of(np.zeros(2), np.ones(2), None) == 0


def _shoelace(ring: Floats) -> float:
    x, y = ring.T
    return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum() / 2)


def plate() -> Any:
    """A plate of 40 x 30 x 8 with a bore of 10 through it, off the origin, and a cone beside it."""
    from OCP.BRep import BRep_Builder
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCone, BRepPrimAPI_MakeCylinder
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
    from OCP.TopoDS import TopoDS_Compound

    bore = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(25, 5, 0), gp_Dir(0, 0, 1)), 5, 20).Shape()
    made = BRepAlgoAPI_Cut(BRepPrimAPI_MakeBox(gp_Pnt(5, -7, 2), 40, 30, 8).Shape(), bore).Shape()
    cone = BRepPrimAPI_MakeCone(gp_Ax2(gp_Pnt(70, 0, 2), gp_Dir(0, 0, 1)), 8, 0, 8).Shape()
    both, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(both)
    builder.Add(both, made)
    builder.Add(both, cone)
    return both


def job() -> Bench:
    return bench_of("plate.step", step_of(plate())).do(SettleUnit(source="s1", unit=Unit.MM))


def test_a_section_of_cad_keeps_its_arcs_and_is_exact() -> None:
    bench = job().do(SetFactor(body=A, typed="1.5"))
    cut = outlined(bench.job, A, "z", "6", bench)
    assert cut.area_mm2 == pytest.approx(1.5**2 * (1200 - 25 * math.pi), rel=1e-9)
    assert cut.outline_mm == pytest.approx(1.5 * (140 + 10 * math.pi), rel=1e-9)
    assert (cut.islands, cut.holes, cut.arcs) == (1, 1, 2)
    lines = ezdxf.read(io.StringIO(cut.dxf)).modelspace().query("LWPOLYLINE")  # type: ignore[attr-defined]
    (round_one,) = [line for line in lines if len(line) == 2]  # type: ignore[arg-type]
    assert [abs(bulge) for *_, bulge in round_one.get_points("xyb")] == pytest.approx([1, 1])  # type: ignore[attr-defined]
    ends = np.array([point[:2] for point in round_one.get_points("xyb")])  # type: ignore[attr-defined]
    assert np.linalg.norm(ends[0] - ends[1]) == pytest.approx(15)
    assert ends.mean(axis=0) == pytest.approx([37.5, 7.5])
    assert cut.svg.count("A7.5") == 2
    cone = outlined(
        bench.job, BodyId("s1-2"), "z", "7.5", bench
    )  # three up a cone of eight: a circle of five
    assert cone.area_mm2 == pytest.approx(math.pi * (1.5 * 5) ** 2, rel=1e-9)
    across = outlined(bench.job, BodyId("s1-2"), "x", "105", bench)  # upright through its axis: a triangle
    assert (across.area_mm2, across.arcs) == (pytest.approx(1.5**2 * 64, rel=1e-9), 0)


def test_arcs_stay_where_the_up_axis_turns_and_go_where_they_are_none() -> None:
    bench = job().do(SetUp(source="s1", up="y"))
    turned = outlined(bench.job, A, "y", "-6", bench)  # what was Z is −Y now
    assert (turned.area_mm2, turned.arcs) == (pytest.approx(1200 - 25 * math.pi, rel=1e-9), 2)
    stretched = job().do(FreeAxis(body=A, axis="x", free=True), SetFactor(body=A, axis="x", typed="1.2"))
    assert outlined(stretched.job, A, "z", "6", stretched).arcs == 0
    roomy = job().do(SetAllowance(body=A, shrinkage=None, clearance=("0.2", "0.2", "0")))
    facets = outlined(roomy.job, A, "z", "6", roomy)
    assert (facets.arcs, facets.area_mm2) == (0, pytest.approx(40.2 * 30.2 - 25 * math.pi, abs=1))
    seen = outlined(roomy.job, A, "x", "", roomy)
    assert (seen.at_mm, seen.area_mm2) == (None, pytest.approx(8 * 30.2, rel=1e-6))
    with pytest.raises(Refused, match="nothing at"):
        outlined(bench.job, A, "z", "99", bench)
    # A kernel that finds nothing, or something else, is not believed.
    assert outlined(bench.job, A, "y", "-6", bench, lambda asked: None).arcs == 0
    plain = job()
    without_bore = outlined(plain.job, A, "z", "6", plain, lambda asked: (by_kernel(asked) or [])[:1])
    assert without_bore.area_mm2 == pytest.approx(1200 - 25 * math.pi, rel=1e-2)
