"""Two colours of one body stand together, in registration: seated as one, apart, on top, released and
proven.
"""

from __future__ import annotations

import io
import zipfile
from typing import Any
from xml.etree import ElementTree

import numpy as np
import pytest
import trimesh
from manifold3d import Manifold

from aimtrue.core.errors import Refused
from aimtrue.core.formats import read_model, threemf
from aimtrue.core.intake.actions import Paint, SettleUnit
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.division import AskAbove, AskPieces
from aimtrue.core.model.lengths import Unit
from aimtrue.core.proof.prove import ProofBroken
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from aimtrue.core.release.preview import preview
from aimtrue.core.seating.actions import MoveSeat, PutBy, SetCopies, StandApart, TurnSeat
from aimtrue.core.seating.placement.places import places_of
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import SetFactor
from tests.shapes import Bench, bench_of, binary_stl, corners_of

DIAL = Manifold.cube((60, 40, 4)) + Manifold.cube((10, 8, 1)).translate((5, 20, 4))


def dial() -> Bench:
    """A plate with a raised mark off its middle, split where the mark begins."""
    bench = bench_of("dial.stl", binary_stl(corners_of(mesh_of(DIAL)))).do(
        SettleUnit(source="s1", unit=Unit.MM)
    )
    bench.shape(AskAbove(at="4"))
    return bench


def lows(bench: Bench) -> list[list[float]]:
    """Where the two bodies begin in the released file, the larger first."""
    (made,) = release(bench.job, bench, Order(format="obj")).files
    assert made.file.proof.holds
    parts = [part.mesh.bounds() for part in read_model("a.obj", made.data).parts]
    return [part[0].tolist() for part in sorted(parts, key=lambda bounds: -np.ptp(bounds, axis=0).max())]


def test_what_a_split_makes_stands_as_one_in_registration() -> None:
    bench = dial()
    (seat,) = survey(bench.job, bench).seats
    assert len(seat.bodies) == 2
    base, mark = lows(bench)
    assert np.subtract(mark, base) == pytest.approx([5, 20, 4], abs=1e-5)
    bench.do(TurnSeat(body=bench.job.bodies[1].id, axis="z", typed="90"))
    base, mark = lows(bench)
    # A quarter turn about Z takes Y to minus X; measured from the end that was the right one.
    assert np.subtract(mark, base) == pytest.approx([40 - 28, 5, 4], abs=1e-5)


def test_it_stands_where_its_whole_stood() -> None:
    bench = bench_of("dial.stl", binary_stl(corners_of(mesh_of(DIAL)))).do(
        SettleUnit(source="s1", unit=Unit.MM)
    )
    bench.do(MoveSeat(body="s1-1", x="50", y="60"), SetCopies(body="s1-1", typed="2"))
    bench.shape(AskAbove(at="4"))
    assert [(seat.subject, seat.x, seat.y) for seat in bench.job.seats][:1] == [
        (bench.job.divisions[0].id, 50, 60)
    ]
    assert len(places_of(bench.job, bench)) == 2


def test_apart_and_on_top_of_each_other_again() -> None:
    bench = dial().do(StandApart(apart=True))
    one, two = bench.job.bodies[1:]
    base, mark = sorted((one, two), key=lambda body: -body.volume)
    assert len(survey(bench.job, bench).seats) == 2
    assert {place.bounds[0, 2] for place in places_of(bench.job, bench).values()} == {0}
    bench.do(PutBy(body=mark.id, other=f"{base.id}~1", how="on-top"))
    places = places_of(bench.job, bench)
    off = places[f"{mark.id}~1"].bounds[0] - places[f"{base.id}~1"].bounds[0]
    assert off == pytest.approx([5, 20, 4], abs=1e-5)
    bench.do(StandApart(apart=False))
    assert len(survey(bench.job, bench).seats) == 1
    with pytest.raises(Refused):
        bench.do(StandApart(apart=False))


def test_how_they_stand_stays_when_the_split_is_made_again() -> None:
    bench = dial().do(StandApart(apart=True), SetFactor(body="s1-1", typed="2"))
    bench.shape_again()
    assert not bench.job.divisions[0].together
    assert len(survey(bench.job, bench).seats) == 2


def test_pieces_stand_each_by_itself() -> None:
    bench = bench_of("dial.stl", binary_stl(corners_of(mesh_of(DIAL)))).do(
        SettleUnit(source="s1", unit=Unit.MM)
    )
    bench.shape(AskPieces(planes=("x=30",)))
    assert len(survey(bench.job, bench).seats) == 2


def coloured(bench: Bench) -> Bench:
    for body, colour in zip(bench.job.bodies[1:], ("#1144aa", "#ffdd00"), strict=True):
        bench.do(Paint(bodies=(body.id,), colour=colour))
    return bench


def packed(bench: Bench, **order: Any) -> tuple[bytes, Any]:
    """A release as 3MF, and its model as a reader of its own has it."""
    (made,) = release(bench.job, bench, Order(format="3mf", **order)).files
    assert made.file.proof.holds
    with zipfile.ZipFile(io.BytesIO(made.data)) as package:
        return made.data, ElementTree.fromstring(package.read("3D/3dmodel.model"))


CORE = "{http://schemas.microsoft.com/3dmanufacturing/core/2015/02}"


@pytest.mark.parametrize("place", ["seated", "own", "origin"])
def test_two_colours_are_components_of_one_object(place: str) -> None:
    bench = coloured(dial())
    data, model = packed(bench, place=place)
    (item,) = model.iter(f"{CORE}item")
    objects = {one.get("id"): one for one in model.iter(f"{CORE}object")}
    whole = objects[item.get("objectid")]
    assert whole.get("name") == "dial"
    inner = [objects[one.get("objectid")] for one in whole.iter(f"{CORE}component")]
    assert sorted(one.get("name") for one in inner) == ["dial above", "dial below"]
    bases = [one.get("displaycolor") for one in model.iter(f"{CORE}base")]
    assert {bases[int(one.get("pindex"))] for one in inner} == {"#1144AAFF", "#FFDD00FF"}
    again = read_model("a.3mf", data).parts
    assert {(part.name, part.colour) for part in again} == {
        (body.name, body.colour) for body in bench.job.bodies[1:]
    }
    assert trimesh.load(io.BytesIO(data), file_type="3mf").bounds == pytest.approx(
        np.array([np.min([p.mesh.bounds()[0] for p in again], axis=0),
                  np.max([p.mesh.bounds()[1] for p in again], axis=0)]), abs=1e-4
    )  # fmt: skip


def test_copies_of_two_colours_are_one_object_placed_again() -> None:
    bench = coloured(dial())
    bench.do(SetCopies(body=bench.job.bodies[1].id, typed="3"))
    data, model = packed(bench)
    assert len(list(model.iter(f"{CORE}item"))) == 3
    assert len(list(model.iter(f"{CORE}object"))) == 3
    assert len(read_model("a.3mf", data).parts) == 6
    bench.do(TurnSeat(body=bench.job.bodies[1].id, copy_number=2, axis="z", typed="90"))
    data, model = packed(bench)
    assert len(list(model.iter(f"{CORE}item"))) == 3
    assert len(read_model("a.3mf", data).parts) == 6


def test_the_preview_says_what_is_one_object() -> None:
    bench = dial()
    assert (
        "the colours of one body are parts of one object" in preview(bench.job, bench, Order(), ()).holds_says
    )
    assert "colours" not in preview(bench.job, bench, Order(format="obj"), ()).holds_says
    assert "colours" not in preview(bench.do(StandApart(apart=True)).job, bench, Order(), ()).holds_says


def test_apart_they_are_objects_of_their_own() -> None:
    _, model = packed(coloured(dial()).do(StandApart(apart=True)))
    assert len(list(model.iter(f"{CORE}item"))) == 2
    assert not list(model.iter(f"{CORE}component"))


def test_a_component_left_out_or_moved_is_seen(monkeypatch: pytest.MonkeyPatch) -> None:
    bench = coloured(dial())
    right = threemf.writing._components_xml

    def without(number: int, name: str, items: tuple[int, ...], first: int) -> str:
        return right(number, name, items[:1], first)

    def moved(number: int, name: str, items: tuple[int, ...], first: int) -> str:
        end = '" transform="1 0 0 0 1 0 0 0 1 0 0.01 0"/></components>'
        return right(number, name, items, first).replace('"/></components>', end)

    for fault in (without, moved):
        monkeypatch.setattr(threemf.writing, "_components_xml", fault)
        with pytest.raises(ProofBroken):
            packed(bench)
