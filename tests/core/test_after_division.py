"""What was divided has room at once, and what had its place already keeps it."""

from __future__ import annotations

from itertools import combinations

import numpy as np
from manifold3d import Manifold

from aimtrue.core.division.actions import Undivide
from aimtrue.core.intake.actions import Duplicate, SettleUnit
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.division import AskPieces
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.machine import Machine
from aimtrue.core.seating.actions import MoveSeat
from aimtrue.core.seating.placement.places import places_of
from aimtrue.core.truing.actions import SetFactor
from tests.shapes import Bench, bench_of, binary_stl, corners_of

A = BodyId("s1-1")


def long_bar() -> Bench:
    """A bar of 500 x 150 x 30, which no usual machine takes whole."""
    data = binary_stl(corners_of(mesh_of(Manifold.cube((500, 150, 30)))))
    return bench_of("bar.stl", data).do(SettleUnit(source="s1", unit=Unit.MM))


def stand_apart_inside(bench: Bench, machine: Machine) -> None:
    """Hold by boxes alone that all pieces are inside their machine and stand clear of each other."""
    places = list(places_of(bench.job, bench).values())
    free = np.asarray(machine.free)
    for place in places:
        assert (place.bounds[0] >= -1e-6).all()
        assert (place.bounds[1] <= free + 1e-6).all()
    for one, other in combinations(places, 2):
        if one.seat.plate == other.seat.plate:
            clear = np.maximum(one.bounds[0] - other.bounds[1], other.bounds[0] - one.bounds[1])
            assert clear[:2].max() >= 3 - 1e-6


def test_pieces_stand_apart_on_as_many_plates_as_it_takes() -> None:
    bench = long_bar()
    before = bench.job
    bench.shape(AskPieces(planes=("x=125", "x=250", "x=375")))
    assert len(places_of(bench.job, bench)) == 4
    assert len(bench.job.plates) == 4  # of 250 x 210: two of 150 do not go beside each other
    stand_apart_inside(bench, bench.job.machine)
    bench.do(Undivide(division=bench.job.divisions[0].id))
    assert len(places_of(bench.job, bench)) == len(places_of(before, bench)) == 1


def test_what_has_its_place_keeps_it() -> None:
    bench = long_bar().do(Duplicate(bodies=(A,)))
    copy = bench.job.bodies[1]
    bench.do(MoveSeat(body=copy.id, x="30", y="40"))
    (stood,) = bench.job.seats
    bench.shape(AskPieces(planes=("x=250",)))
    assert stood in bench.job.seats
    pieces = {body.id for body in bench.job.bodies if body.division}
    plates = {seat.plate for seat in bench.job.seats if pieces.intersection({str(seat.subject)})}
    assert len(plates) == 2
    assert stood.plate not in plates


def test_pieces_that_were_moved_by_hand_stay_there_when_they_are_made_again() -> None:
    bench = long_bar()
    bench.shape(AskPieces(planes=("x=250",)))
    piece = next(iter(places_of(bench.job, bench).values()))
    bench.do(MoveSeat(body=piece.bodies[0].id, x="130", y="90"), SetFactor(body=A, typed="0.9"))
    stood = {(seat.plate, seat.x, seat.y) for seat in bench.job.seats}
    bench.shape_again()
    assert {(seat.plate, seat.x, seat.y) for seat in bench.job.seats} == stood
