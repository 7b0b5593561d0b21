"""This module says what sheet 5 draws of plates and seats, worked out when it is looked at: plan, first
layer, a try.
"""

from __future__ import annotations

import numpy as np
import shapely

from aimtrue.core.chain.seat_turns import seat_key, turn_down, turn_matrix
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.outlines import Outline, as_outline, outline_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import PlateId, Subject
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, written
from aimtrue.core.model.machine import Process
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.ownership import seated_with
from aimtrue.core.model.seats import Turn
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.seating.layer_analysis.midair import mid_air
from aimtrue.core.seating.layer_analysis.overhang import facing, overhang_of, overhanging
from aimtrue.core.seating.orientation.handedness import Handedness, handed
from aimtrue.core.seating.orientation.orientations import cover_of, lowest_stance
from aimtrue.core.seating.placement.collision import overlaps_with
from aimtrue.core.seating.placement.footprint import footprint_of
from aimtrue.core.seating.placement.places import SeatPlace, places_of, seat_of_copy
from aimtrue.core.seating.plan_drawing import PlanSeat, Ring, drawn, on_plate, seated_whole
from aimtrue.core.seating.seat_states import Mark, marks_of, name_of, seat_room


class Plan(Value):
    """A plate from above; ``fill`` is the share of its room that is covered.

    ``around`` is what the machine draws around the first layer, as far out as it goes.
    """

    plate: str
    seats: tuple[PlanSeat, ...]
    fill: float
    around: tuple[PlanSeat, ...]


class FirstLayer(Value):
    """The first layer of a seat, beside what it would be if level, and what hangs over.

    ``starts`` are places on the plate where something begins in mid-air; ``supports`` is where supports would
    stand, seen from above.
    """

    seat: str
    layer_mm: float
    rings: tuple[Ring, ...]
    area_mm2: float
    islands: int
    level_rings: tuple[Ring, ...]
    level_area_mm2: float | None
    level_islands: int | None
    overhang_mm2: float
    support_mm3: float
    wants_support: bool
    supports: tuple[Ring, ...]
    steepest_deg: float
    bridges: int
    bridges_mm2: float
    widest_bridge_mm: float
    starts: tuple[Vec3, ...]


def plan_of(job: Job, plate: PlateId, store: GeometryStore) -> Plan:
    """Return a plate from above."""
    machine, here = job.plate(plate).machine, on_plate(job, plate, store)
    covers = [_cover(job, place, store) for place in here]
    room = shapely.Polygon(machine.volume.plate(machine.kept_free)).area
    seats = tuple(
        PlanSeat(id=place.seat.id, rings=drawn(cover)) for place, cover in zip(here, covers, strict=True)
    )
    around = tuple(
        PlanSeat(id=place.seat.id, rings=_around(job, place, machine.process, store))
        for place in here
        if machine.process.around.kind != "nothing"
    )
    fill = float(sum(cover.area for cover in covers) / room)
    return Plan(plate=plate, seats=seats, fill=fill, around=around)


_FEET: Memo[Outline] = Memo(2048)


def _around(job: Job, place: SeatPlace, process: Process, store: GeometryStore) -> tuple[Ring, ...]:
    """How far out a machine draws around the first layer of a seat."""
    seat = place.seat
    things = tuple(thing for body in place.bodies for thing in job.in_force(body))
    foot = _FEET.get(
        things,
        (seat_key(seat), seat.lift, process.layer),
        lambda: _foot(job, place, process.layer, store),
    )
    there = shapely.transform(foot, lambda points: points + place.shift[:2])
    return drawn(as_outline(shapely.buffer(there, process.around.reach)))


def _foot(job: Job, place: SeatPlace, layer: float, store: GeometryStore) -> Outline:
    """The first layer of a seat, before it is put in its place."""
    foot = footprint_of(seated_whole(job, place, store), layer).outline
    return shapely.transform(foot, lambda points: points - place.shift[:2])


def _cover(job: Job, place: SeatPlace, store: GeometryStore) -> Outline:
    cover = cover_of(job, place.bodies, place.seat, store)
    return shapely.transform(cover, lambda points: points + place.shift[:2])


def first_layer(job: Job, key: Subject, copy_number: int, store: GeometryStore) -> FirstLayer:
    """Return the first layer of a seat on a plate, beside what it would be if level."""
    group = seated_with(job, key)
    seat = seat_of_copy(job, group, copy_number)
    place = places_of(job, store).get(seat.id)
    if place is None:
        raise Refused("not-seated", "it is on no plate", remedy="put it on a plate first")
    process = job.plate(seat.plate).machine.process
    mesh = seated_whole(job, place, store)
    footprint = footprint_of(mesh, process.layer)
    level = lowest_stance(job, group, seat, store).level
    flat = None
    if level is not None and not level.flat:
        turn = turn_down(np.asarray(level.down), "level")
        flat = (
            None
            if turn is None
            else footprint_of(mesh.mapped(lambda v: v @ turn_matrix(turn).T), process.layer)
        )
    faces, down = facing(mesh), np.array([0.0, 0.0, -1.0])
    over = overhang_of(faces, down, process.overhang)
    hanging = overhanging(faces, down, process.overhang)
    held = mid_air(mesh)
    return FirstLayer(
        seat=seat.id,
        layer_mm=process.layer,
        rings=drawn(footprint.outline),
        area_mm2=footprint.area_mm2,
        islands=footprint.islands,
        level_rings=() if flat is None else drawn(flat.outline),
        level_area_mm2=None if flat is None else flat.area_mm2,
        level_islands=None if flat is None else flat.islands,
        overhang_mm2=over.area_mm2,
        support_mm3=over.support_mm3,
        wants_support=over.wants_support,
        supports=drawn(outline_of(Mesh(mesh.vertices, mesh.faces[hanging]))) if len(hanging) else (),
        steepest_deg=process.overhang,
        bridges=held.bridges,
        bridges_mm2=held.bridges_mm2,
        widest_bridge_mm=held.widest_mm,
        starts=held.starts,
    )


class MirrorReport(Value):
    """What tells that a body is mirrored, in words; ``same`` when nothing does."""

    body: str
    same: bool
    says: str


def mirrored_words(job: Job, key: Subject, store: GeometryStore) -> tuple[MirrorReport, ...]:
    """Return, for each body of a kit or lone body, what would tell that it is mirrored."""
    return tuple(_mirrored(job, body, store) for body in seated_with(job, key))


_HANDED: Memo[Handedness] = Memo(256)


def _mirrored(job: Job, body: Body, store: GeometryStore) -> MirrorReport:
    handedness = _HANDED.get(
        (), (body.geometry, body.features), lambda: handed(store.mesh(body.geometry), store.features(body))
    )
    if handedness.same:
        return MirrorReport(body=body.id, same=True, says="is its own mirror image, so nothing tells")
    rows = []
    if handedness.threads:
        rows.append("a thread turns" if handedness.threads == 1 else f"{handedness.threads} threads turn")
        rows[-1] += " the other way, and no nut or screw fits it"
    scale = MM_PER[job.settled_unit(body)] * job.correction_of(body).factors[0]
    if handedness.bores:
        sizes = sorted({f"Ø{written(scale * bore)}" for bore in handedness.bores})
        many = "a bore lies" if len(handedness.bores) == 1 else f"{len(handedness.bores)} bores lie"
        rows.append(f"{many} on the other side ({', '.join(sizes[:4])}{' …' if len(sizes) > 4 else ''})")
    if handedness.marks:
        many = "a small face" if handedness.marks == 1 else f"{handedness.marks} small faces"
        rows.append(f"{many}, as text and marks have them, read backwards")
    if handedness.faces or not (handedness.threads or handedness.bores):
        rows.append("its shape is the other hand")
    return MirrorReport(body=body.id, same=False, says="; ".join(rows))


class TriedMove(Value):
    """How a seat would stand if it were moved so far: what would be the matter, in words with amounts."""

    marks: tuple[Mark, ...]
    says: tuple[str, ...]
    beside: tuple[str, ...]
    """Ids of the seats that it would overlap."""


def tried(  # noqa: PLR0913 - told apart by their names
    job: Job, key: Subject, copy_number: int, dx: float, dy: float, store: GeometryStore, turn: float = 0.0
) -> TriedMove:
    """Return what a move on the plate, or a turn about its middle, would come to; the job is not changed.

    Only the seat that moves is held against the others, so that it can be asked while a hand drags.

    Args:
        job, key, copy_number: which seat.
        dx, dy: how far it is moved, in mm.
        store: gives the meshes.
        turn: how far it is turned about Z, in degrees, counter-clockwise from above.
    """
    group = seated_with(job, key)
    seat = seat_of_copy(job, group, copy_number)
    places = places_of(job, store)
    place = places.get(seat.id)
    if place is None:
        raise Refused("not-seated", "it is on no plate", remedy="put it on a plate first")
    if turn:
        job, place = _turned(job, place, turn, store)
        seat = place.seat
    there = place.moved(np.array([dx, dy, 0.0]))
    room = seat_room(job, there, store)
    stance = lowest_stance(job, group, seat, store)
    seat_overlaps = overlaps_with(
        job, there, [seat_place for key, seat_place in places.items() if key != seat.id], store
    )
    problems = [
        f"{written(overlap.deep_mm)} mm into {name_of(job, places[overlap.b])}" for overlap in seat_overlaps
    ]
    problems += [
        f"{written(excess.beyond_mm)} mm outside along {excess.axis.upper()}" for excess in room.excess
    ]
    if room.in_margin_mm > 0:
        problems.append(f"{written(room.in_margin_mm)} mm in the margin")
    marks = marks_of(seat, room, stance, bool(seat_overlaps))
    return TriedMove(
        marks=marks, says=tuple(problems), beside=tuple(seat_overlap.b for seat_overlap in seat_overlaps)
    )


def _turned(job: Job, place: SeatPlace, turn: float, store: GeometryStore) -> tuple[Job, SeatPlace]:
    """The job with one seat turned further, and where that stands then."""
    seat, (x, y) = place.seat, place.middle.tolist()
    moved = seat.model_copy(update={"turns": (*seat.turns, Turn(axis="z", degrees=turn)), "x": x, "y": y})
    seats = job.seats_of(seat.subject)
    job = job.with_seats(seat.subject, tuple(moved if other.id == seat.id else other for other in seats))
    return job, places_of(job, store)[seat.id]
