"""Two colours of one body stand together, in registration: seated as one, apart, on top, released and
proven.
"""

from __future__ import annotations

import numpy as np
import pytest
from manifold3d import Manifold

from aimtrue.core.errors import Refused
from aimtrue.core.formats import read_model
from aimtrue.core.intake.actions import SettleUnit
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.division import AskAbove, AskPieces
from aimtrue.core.model.lengths import Unit
from aimtrue.core.release.make import release
from aimtrue.core.release.order import Order
from aimtrue.core.seating.actions import MoveSeat, PutBy, SetCopies, StandApart, TurnSeat
from aimtrue.core.seating.places import places_of
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
    return [one[0].tolist() for one in sorted(parts, key=lambda one: -np.ptp(one, axis=0).max())]


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
    assert [(one.subject, one.x, one.y) for one in bench.job.seats][:1] == [
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
