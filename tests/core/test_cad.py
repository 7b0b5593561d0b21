"""CAD that is right comes in right: joined by topology, held against the exact surfaces, in time."""

from __future__ import annotations

import io
import tempfile
import zipfile
from pathlib import Path
from typing import Any, Literal

import numpy as np
import pytest

from aimtrue.core.errors import UnreadableFile
from aimtrue.core.formats import read_model
from aimtrue.core.formats.cad import bores, facets, fineness
from aimtrue.core.intake.actions import Accept, SettleUnit
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.model.division import AskAbove
from aimtrue.core.model.facets import Fineness
from aimtrue.core.model.lengths import Unit
from aimtrue.core.proof import ProofBroken, kernel
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.survey.survey import survey
from tests.shapes import bench_of

FINENESS = Fineness(chord_mm=0.05, angle_deg=12)


def step_of(shape: Any) -> bytes:
    from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer

    writer = STEPControl_Writer()
    writer.Transfer(shape, STEPControl_AsIs)
    with tempfile.NamedTemporaryFile(suffix=".step") as file:
        writer.Write(file.name)
        return Path(file.name).read_bytes()


def solids() -> list[Any]:
    """A cylinder, a sphere, a cone with its tip, a torus, and a block far away with a hollow in it."""
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
    from OCP.BRepPrimAPI import (
        BRepPrimAPI_MakeBox,
        BRepPrimAPI_MakeCone,
        BRepPrimAPI_MakeCylinder,
        BRepPrimAPI_MakeSphere,
        BRepPrimAPI_MakeTorus,
    )
    from OCP.gp import gp_Pnt

    block = BRepPrimAPI_MakeBox(gp_Pnt(1234.567, 89.1, 0.3), 20, 20, 20).Shape()
    ball = BRepPrimAPI_MakeSphere(gp_Pnt(1244.567, 99.1, 20.3), 7).Shape()
    return [
        BRepPrimAPI_MakeCylinder(5.1, 10.7).Shape(),
        BRepPrimAPI_MakeSphere(3.3).Shape(),
        BRepPrimAPI_MakeCone(4.2, 0, 9.9).Shape(),
        BRepPrimAPI_MakeTorus(9, 2.2).Shape(),
        BRepAlgoAPI_Cut(block, ball).Shape(),
    ]


@pytest.mark.parametrize("number", range(5))
def test_solids_are_closed_by_the_topology_of_the_kernel(number: int) -> None:
    from OCP.BRepGProp import BRepGProp
    from OCP.GProp import GProp_GProps

    shape = solids()[number]
    tessellation = facets.cut(shape, FINENESS)
    assert tessellation is not None
    assert tessellation.mesh.topology.closed
    assert tessellation.mesh.topology.shells == 1
    exact = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, exact)
    assert tessellation.mesh.volume() == pytest.approx(exact.Mass(), rel=0.02)
    assert 0 < tessellation.deviation <= 0.06
    assert tessellation.missing == ()


def test_nodes_that_differ_by_a_hair_are_joined_all_the_same(monkeypatch: pytest.MonkeyPatch) -> None:
    chance = np.random.default_rng(7)
    right = facets._net

    def shaken(face: Any, edges: Any) -> Any:
        net = right(face, edges)
        net.nodes = net.nodes + chance.uniform(-1e-10, 1e-10, net.nodes.shape)  # type: ignore[operator]
        return net

    monkeypatch.setattr(facets, "_net", shaken)
    tessellation = facets.cut(solids()[4], FINENESS)
    assert tessellation is not None
    assert tessellation.mesh.topology.closed


def test_a_face_that_is_not_cut_is_tried_again_else_named(monkeypatch: pytest.MonkeyPatch) -> None:
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.GeomAbs import GeomAbs_Cone

    right, times = facets._net, []

    def without_cones(face: Any, edges: Any) -> Any:
        cone = BRepAdaptor_Surface(face).GetType() == GeomAbs_Cone
        times.append(cone)
        return None if cone and sum(times) <= most else right(face, edges)

    monkeypatch.setattr(facets, "_net", without_cones)
    most = 1
    tessellation = facets.cut(solids()[2], FINENESS)
    assert tessellation is not None
    assert tessellation.missing == ()
    assert tessellation.mesh.topology.closed
    most = 99
    times.clear()
    # As a plain spline the cone is no longer one to the eye; that way is closed as well.
    monkeypatch.setattr(facets, "_as_splines", lambda shape, fineness: None)
    bench = bench_of("cone.step", step_of(solids()[2]))
    (finding,) = [finding for finding in survey(bench.job, bench).findings if finding.code == "face-missing"]
    assert finding.severity == "stop"
    assert "cone" in finding.says
    assert finding.places


def test_other_finenesses_are_estimated_near_what_they_come_to() -> None:
    data = step_of(solids()[0])
    taken = take_in("s1", "pin.step", data, fineness=Fineness(chord_mm=0.01, angle_deg=6))
    for step in taken.sources[0].steps:
        real = take_in("s1", "pin.step", data, fineness=step.fineness).sources[0].steps
        fineness_step = next(fineness_step for fineness_step in real if not fineness_step.estimated)
        assert step.triangles == pytest.approx(fineness_step.triangles, rel=0.2)
        assert step.estimated == (step.fineness.chord_mm != 0.01)


def test_a_very_large_part_is_not_cut_finer_than_it_needs(monkeypatch: pytest.MonkeyPatch) -> None:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere

    monkeypatch.setattr(fineness, "_MOST", 60_000)  # of the very same reckoning, in a twentieth of the time
    contents = read_model("hall.step", step_of(BRepPrimAPI_MakeSphere(19_000.0).Shape()))
    assert contents.fineness is not None
    assert contents.fineness.chord_mm > 0.3
    assert "facets-bounded" in [remark.code for remark in contents.remarks]
    assert 20_000 < contents.whole().triangles < 150_000
    asked = read_model("hall.step", step_of(solids()[1]), None, Fineness(chord_mm=0.5, angle_deg=30))
    assert asked.fineness == Fineness(chord_mm=0.5, angle_deg=30)
    assert asked.remarks == ()


def assembly() -> dict[str, bytes]:
    """An assembly of two parts, each in a file of its own, as the kernel itself writes it."""
    from OCP.gp import gp_Trsf, gp_Vec
    from OCP.STEPCAFControl import STEPCAFControl_Writer
    from OCP.STEPControl import STEPControl_AsIs
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDataStd import TDataStd_Name
    from OCP.TDocStd import TDocStd_Document
    from OCP.TopLoc import TopLoc_Location
    from OCP.XCAFDoc import XCAFDoc_DocumentTool

    document = TDocStd_Document(TCollection_ExtendedString("BinXCAF"))
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    whole = shapes.NewShape()
    for number, name in ((0, "pin"), (1, "knob")):
        part = shapes.AddShape(solids()[number], False)
        TDataStd_Name.Set_s(part, TCollection_ExtendedString(name))
        move = gp_Trsf()
        move.SetTranslation(gp_Vec(30 * number, 0, 0))
        shapes.AddComponent(whole, part, TopLoc_Location(move))
    shapes.UpdateAssemblies()
    writer = STEPCAFControl_Writer()
    with tempfile.TemporaryDirectory() as folder:
        assert writer.Transfer(document, STEPControl_AsIs, "part-")
        writer.Write(str(Path(folder) / "whole.stp"))
        found = {path.name: path.read_bytes() for path in Path(folder).iterdir()}
    # The kernel writes the parts where it was started from.
    for path in Path.cwd().glob("part-*.stp"):
        found[path.name] = path.read_bytes()
        path.unlink()
    return found


def test_an_assembly_of_several_files_is_put_together(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    files = assembly()
    assert len(files) == 3
    with pytest.raises(UnreadableFile) as told:
        read_model("whole.stp", files["whole.stp"])
    assert told.value.code == "parts-elsewhere"
    assert all(name in told.value.says for name in files if name != "whole.stp")
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    bench = bench_of("whole.zip", packed.getvalue())
    (source,) = bench.job.sources
    assert source.name == "whole.stp"
    assert len(source.beside) == 2
    pin, knob = bench.job.bodies
    assert np.subtract(knob.high, knob.low) == pytest.approx([6.6] * 3, abs=0.02)
    assert knob.low[0] - pin.low[0] == pytest.approx(30 - 3.3 + 5.1, abs=0.02)
    release(bench.job, bench, Order())  # raises unless the proof holds


@pytest.mark.parametrize("kind", ["stl", "3mf"])
def test_cad_is_proven_by_another_tessellation(kind: str, monkeypatch: pytest.MonkeyPatch) -> None:
    bench = bench_of("block.step", step_of(solids()[4]))
    order = Order(format=kind)
    proof = release(bench.job, bench, order).files[0].file.proof
    assert proof.holds
    assert "not the kernel itself" in proof.original
    # A first reading that is off by a hundredth of the size is caught by the second.
    right = kernel.read

    def other(*told: Any) -> list[kernel.KernelSolid]:
        return [
            kernel.KernelSolid(
                kernel_solid.surface.moved(kernel_solid.surface.points * [1, 1, 1.01]), kernel_solid.volume
            )
            for kernel_solid in right(*told)
        ]

    monkeypatch.setattr(kernel, "read", other)
    with pytest.raises(ProofBroken):
        release(bench.job, bench, order)


def test_surfaces_without_a_solid_are_released_on_purpose() -> None:
    from OCP.TopAbs import TopAbs_FACE

    face = next(bores.inside(solids()[4], TopAbs_FACE))
    bench = bench_of("sheet.step", step_of(face)).do(
        SettleUnit(source="s1", unit=Unit.MM), Accept(code="open-edges", reason="a bowl")
    )
    for kind in ("3mf", "stl", "obj", "stl-ascii"):
        release(bench.job, bench, Order(format=kind))  # raises unless proven


@pytest.mark.parametrize("kind", ["3mf", "step"])
def test_trimmed_surfaces_of_iges_are_sewn_and_proven(kind: Literal["3mf", "step"], tmp_path: Path) -> None:
    from demo.solids import box, cylinder, together, write_iges

    plate = box(40, 30, 20) - cylinder(6, 60).at(0, 0, -30)
    # The round face of the rod is as large as the rod: it must not be taken for all of it.
    write_iges(together([plate, cylinder(8, 25).at(60)]), tmp_path / "two.igs", surfaces=True)
    bench = bench_of("two.igs", (tmp_path / "two.igs").read_bytes())
    assert all(body.health.closed for body in bench.job.bodies)
    assert not [remark for remark in bench.job.sources[0].remarks if remark.code == "surfaces-only"]
    volumes = sorted(body.volume for body in bench.job.bodies)
    assert volumes == pytest.approx([np.pi * 64 * 25, 20 * (1200 - np.pi * 36)], rel=1e-3)
    made = release(bench.job, bench, Order(format=kind, place="own"))
    assert all(file.file.proof.holds for file in made.files)
    bench.shape(AskAbove(at="7.3"), max(bench.job.bodies, key=lambda body: body.volume).id)
    assert release(bench.job, bench, Order(format="stl", place="own"))
