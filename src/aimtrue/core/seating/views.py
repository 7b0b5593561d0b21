"""What sheet 5 draws, worked out when it is looked at: plan, ways to stand, first layer, layers."""

from __future__ import annotations

from typing import Literal

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from aimtrue.core.errors import Refused
from aimtrue.core.mesh.mesh import Floats, Mesh, merged
from aimtrue.core.mesh.shelf import Shelf
from aimtrue.core.mesh.solids import mesh_of, solid_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job, Value, Vec3
from aimtrue.core.model.lengths import written
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.seats import Seat
from aimtrue.core.seating.collision import overlaps_with
from aimtrue.core.seating.footprint import footprint_of
from aimtrue.core.seating.midair import mid_air
from aimtrue.core.seating.now import Mark, marks_of, name_of, seat_room
from aimtrue.core.seating.outlines import Outline, outline_of, rings_of
from aimtrue.core.seating.overhang import facing, overhang_of
from aimtrue.core.seating.places import Place, places_of, seat_of_copy, seated_mesh
from aimtrue.core.seating.rests import Rest, rests_of
from aimtrue.core.seating.sections import Sections, layers_of, rings_at, sections_of
from aimtrue.core.seating.standing import cover_of, lowest_stance, turned_mesh
from aimtrue.core.seating.turns import seat_matrix, turn_down, turn_matrix

Ring = tuple[tuple[float, float], ...]
Wish = Literal["contact", "overhang", "height", "x", "y", "z"]
"""Most contact, least overhang, least height, or strong along an axis of the body."""
_DRAWN_MM = 0.02
"""Outlines are drawn as finely as this."""
_SAME_DOWN = 1 - 1e-9
_LAYERS = 4000
_ALIKE, _FACETS = 2, 8


class PlanSeat(Value):
    """What one seat covers of its plate, in mm from the front left corner."""

    id: str
    rings: tuple[Ring, ...]


class Plan(Value):
    """A plate from above; ``fill`` is the share of its room that is covered."""

    plate: str
    seats: tuple[PlanSeat, ...]
    fill: float


class WayToStand(Value):
    """One way to stand, with its elevation from the front, in mm; ``chosen`` when it stands so now."""

    down: Vec3
    contact_mm2: float
    height_mm: float
    overhang_mm2: float
    support_mm3: float
    inside_mm: float
    along: float
    chosen: bool
    why: str
    rings: tuple[Ring, ...]


class FirstLayer(Value):
    """The first layer of a seat, beside what it would be if level, and what hangs over.

    ``starts`` are places on the plate where something begins in mid-air.
    """

    seat: str
    layer_mm: float
    rings: tuple[Ring, ...]
    area_mm2: float
    islands: int
    level_area_mm2: float | None
    level_islands: int | None
    overhang_mm2: float
    support_mm3: float
    steepest_deg: float
    bridges: int
    bridges_mm2: float
    widest_bridge_mm: float
    starts: tuple[Vec3, ...]


class Layers(Value):
    """All layers of a plate: at their middles, areas in mm2, islands and outlines in mm."""

    plate: str
    layer_mm: float
    heights: tuple[float, ...]
    areas: tuple[float, ...]
    islands: tuple[int, ...]
    outlines: tuple[float, ...]


class Layer(Value):
    """One layer, its outlines per seat."""

    number: int
    height_mm: float
    seats: tuple[PlanSeat, ...]


def plan_of(job: Job, plate: str, shelf: Shelf) -> Plan:
    """Return a plate from above."""
    machine, here = job.plate(plate).machine, _on(job, plate, shelf)
    covers = [_cover(job, place, shelf) for place in here]
    room = shapely.Polygon(machine.volume.plate(machine.kept_free)).area
    seats = tuple(
        PlanSeat(id=place.seat.id, rings=_drawn(cover)) for place, cover in zip(here, covers, strict=True)
    )
    return Plan(plate=plate, seats=seats, fill=float(sum(cover.area for cover in covers) / room))


def _on(job: Job, plate: str, shelf: Shelf) -> list[Place]:
    return [place for place in places_of(job, shelf).values() if place.seat.plate == plate]


def _cover(job: Job, place: Place, shelf: Shelf) -> Outline:
    cover = cover_of(job, place.bodies, place.seat, shelf)
    return shapely.transform(cover, lambda points: points + place.shift[:2])


def _drawn(outline: Outline) -> tuple[Ring, ...]:
    fine = shapely.simplify(outline, _DRAWN_MM)
    shape = fine if isinstance(fine, shapely.MultiPolygon) else shapely.MultiPolygon([fine])
    return tuple(_ring(ring) for ring in rings_of(shape))


def _ring(points: Floats) -> Ring:
    return tuple((float(x), float(y)) for x, y in np.round(points, 3))


def ways_to_stand(
    job: Job, key: str, copy_number: int, shelf: Shelf, wish: Wish = "contact"
) -> tuple[WayToStand, ...]:
    """Return the ways that a kit or lone body can stand, the best for a wish first, and why."""
    group = job.seated_with(key)
    job.settled_unit(group[0])
    seat = seat_of_copy(job, group, copy_number)
    plain = Seat(subject=seat.subject, mirrored=seat.mirrored)
    mesh = _together(job, group, plain, shelf)
    steepest = (job.plate(seat.plate).machine if seat.plate else job.machine).process.overhang
    things = tuple(one for body in group for one in job.in_force(body))
    rests = _RESTS.get(things, (steepest, seat.mirrored), lambda: rests_of(mesh, steepest))
    # Directions are told in the body's own axes, whether or not it is mirrored.
    back = seat_matrix(plain).T
    turned = seat_matrix(seat)
    found = [_way(job, group, mesh, rest, back, turned, wish) for rest in _told(rests)]
    return tuple(_with_reasons(sorted(found, key=lambda way: _worth(way, wish)), wish))


def _told(rests: tuple[Rest, ...]) -> list[Rest]:
    """Of very many ways that are alike, the facets of something round, leave in a few."""
    keys = [_likeness(rest) for rest in rests]
    seen: dict[tuple[float, ...], int] = {}
    kept = []
    for rest, key in zip(rests, keys, strict=True):
        seen[key] = seen.get(key, 0) + 1
        if keys.count(key) <= _FACETS or seen[key] <= _ALIKE:
            kept.append(rest)
    return kept


def _likeness(rest: Rest) -> tuple[float, ...]:
    size = max(rest.height_mm, 1e-9)
    return (
        round(200 * rest.contact_mm2 / size**2),
        round(200 * rest.overhang_mm2 / size**2),
        round(size, 2),
    )


_RESTS: Memo[tuple[Rest, ...]] = Memo(256)
_ELEVATIONS: Memo[tuple[Ring, ...]] = Memo(2048)


def _together(job: Job, group: tuple[Body, ...], seat: Seat, shelf: Shelf) -> Mesh:
    return _fused([turned_mesh(job, body, seat, shelf) for body in group])


def _fused(meshes: list[Mesh]) -> Mesh:
    """Return several meshes as one, joined where they touch, so that what lies on another hangs over nothing.

    Where one of them is no closed solid they are taken as they are.
    """
    if len(meshes) == 1:
        return meshes[0]
    solids = [solid_of(mesh) for mesh in meshes]
    closed = [solid for solid in solids if solid is not None]
    if len(closed) < len(meshes):
        return merged(meshes)
    return mesh_of(manifold3d.Manifold.batch_boolean(closed, manifold3d.OpType.Add))


def _way(
    job: Job,
    group: tuple[Body, ...],
    mesh: Mesh,
    rest: Rest,
    back: NDArray[np.float64],
    turned: NDArray[np.float64],
    wish: Wish,
) -> WayToStand:
    own = back @ np.asarray(rest.down)
    things = tuple(one for body in group for one in job.in_force(body))
    rings = _ELEVATIONS.get(things, (rest.down,), lambda: _elevation(mesh, rest))
    axis = {"x": 0, "y": 1, "z": 2}.get(wish)
    return WayToStand(
        down=(float(own[0]), float(own[1]), float(own[2])),
        contact_mm2=rest.contact_mm2,
        height_mm=rest.height_mm,
        overhang_mm2=rest.overhang_mm2,
        support_mm3=rest.support_mm3,
        inside_mm=rest.inside_mm,
        along=0.0 if axis is None else float(1 - abs(own[axis])),
        chosen=bool((turned @ own)[2] <= -_SAME_DOWN),
        why="",
        rings=rings,
    )


def _elevation(mesh: Mesh, rest: Rest) -> tuple[Ring, ...]:
    """The outline from the front of something as it would stand, its lowest place at 0."""
    turn = turn_down(np.asarray(rest.down), "")
    stood = mesh.vertices if turn is None else mesh.vertices @ turn_matrix(turn).T
    # Seen from the front: right stays, and up becomes what the outline is taken in.
    front = np.stack([stood[:, 0], stood[:, 2], -stood[:, 1]], axis=1)
    outline = outline_of(Mesh(front, mesh.faces))
    x0, y0, x1, _ = outline.bounds
    moved = shapely.transform(outline, lambda points: points - [(x0 + x1) / 2, y0])
    return _drawn(shapely.simplify(moved, max(_DRAWN_MM, (x1 - x0) / 200)))


def _worth(way: WayToStand, wish: Wish) -> tuple[float, ...]:
    if wish == "overhang":
        return (round(way.support_mm3, 3), round(way.overhang_mm2, 3), -way.contact_mm2)
    if wish == "height":
        return (round(way.height_mm, 4), -way.contact_mm2)
    if wish == "contact":
        return (-round(way.contact_mm2, 3), way.overhang_mm2)
    return (-round(way.along, 6), way.support_mm3, -way.contact_mm2)


def _with_reasons(ways: list[WayToStand], wish: Wish) -> list[WayToStand]:
    """Say of each what it is chosen for, or what it costs against the first."""
    return [way.model_copy(update={"why": _reason(way, ways[0], wish)}) for way in ways]


def _reason(way: WayToStand, first: WayToStand, wish: Wish) -> str:
    if wish == "overhang":
        return (
            "nothing to support"
            if way.support_mm3 < 1e-6
            else f"{written(way.support_mm3 / 1000)} cm³ of support"
        )
    if wish == "height":
        more = way.height_mm - first.height_mm
        return f"{written(way.height_mm)} high" if more < 0.005 else f"{written(more)} higher"
    if wish == "contact":
        return f"{written(way.contact_mm2, 0)} mm² on the plate"
    if way.along > 0.999:
        return f"layers run along {wish.upper()}"
    return f"layers cross {wish.upper()}" if way.along < 0.3 else f"layers cross {wish.upper()} aslant"


def first_layer(job: Job, key: str, copy_number: int, shelf: Shelf) -> FirstLayer:
    """Return the first layer of a seat on a plate, beside what it would be if level."""
    group = job.seated_with(key)
    seat = seat_of_copy(job, group, copy_number)
    place = places_of(job, shelf).get(seat.id)
    if place is None:
        raise Refused("not-seated", "it is on no plate", remedy="put it on a plate first")
    process = job.plate(seat.plate).machine.process
    mesh = _seated(job, place, shelf)
    made = footprint_of(mesh, process.layer)
    level = lowest_stance(job, group, seat, shelf).level
    flat = None
    if level is not None and not level.flat:
        turn = turn_down(np.asarray(level.down), "level")
        flat = (
            None
            if turn is None
            else footprint_of(mesh.mapped(lambda v: v @ turn_matrix(turn).T), process.layer)
        )
    over = overhang_of(facing(mesh), np.array([0.0, 0.0, -1.0]), process.overhang)
    held = mid_air(mesh)
    return FirstLayer(
        seat=seat.id,
        layer_mm=process.layer,
        rings=_drawn(made.outline),
        area_mm2=made.area_mm2,
        islands=made.islands,
        level_area_mm2=None if flat is None else flat.area_mm2,
        level_islands=None if flat is None else flat.islands,
        overhang_mm2=over.area_mm2,
        support_mm3=over.support_mm3,
        steepest_deg=process.overhang,
        bridges=held.bridges,
        bridges_mm2=held.bridges_mm2,
        widest_bridge_mm=held.widest_mm,
        starts=held.starts,
    )


def _seated(job: Job, place: Place, shelf: Shelf) -> Mesh:
    return _fused([seated_mesh(job, body, shelf.mesh(body.geometry), place) for body in place.bodies])


def heights_of(job: Job, plate: str, places: list[Place]) -> Floats:
    """Return the middles of the layers of a plate, from it up to the top of the highest seat."""
    machine: Machine = job.plate(plate).machine
    top = max((float(place.bounds[1, 2]) for place in places), default=0.0)
    if top / machine.process.layer > 50 * _LAYERS:
        raise Refused(
            "layers",
            "this would be more layers than anybody makes",
            remedy="check the unit and the size first",
        )
    return layers_of(0.0, max(top, machine.process.layer), machine.process.layer)


def layers_now(job: Job, plate: str, shelf: Shelf) -> Layers:
    """Return what all layers of a plate come to; of very many, some are taken."""
    here = _on(job, plate, shelf)
    heights = heights_of(job, plate, here)
    step = max(1, len(heights) // _LAYERS)
    taken = heights[::step]
    areas, lengths = np.zeros(len(taken)), np.zeros(len(taken))
    islands = np.zeros(len(taken), np.int64)
    for place in here:
        for body in place.bodies:
            found = _sections(job, body, place, taken, shelf)
            areas += found.areas
            lengths += found.outlines
            islands += found.islands
    return Layers(
        plate=plate,
        layer_mm=job.plate(plate).machine.process.layer * step,
        heights=tuple(np.round(taken, 6).tolist()),
        areas=tuple(np.round(areas, 3).tolist()),
        islands=tuple(islands.tolist()),
        outlines=tuple(np.round(lengths, 3).tolist()),
    )


_SECTIONS: Memo[tuple[Sections]] = Memo(1024)


def _sections(job: Job, body: Body, place: Place, heights: Floats, shelf: Shelf) -> Sections:
    seat = place.seat
    plain = (
        seat.turns,
        seat.mirrored,
        float(place.shift[2]),
        len(heights),
        float(heights[0]),
        float(heights[-1]),
    )
    return _SECTIONS.get(
        job.in_force(body),
        plain,
        lambda: (sections_of(seated_mesh(job, body, shelf.mesh(body.geometry), place), heights),),
    )[0]


def layer_at(job: Job, plate: str, number: int, shelf: Shelf) -> Layer:
    """Return one layer of a plate, counted from 1."""
    here = _on(job, plate, shelf)
    heights = heights_of(job, plate, here)
    if not 1 <= number <= len(heights):
        raise Refused("layer", f"there are layers 1 to {len(heights)}", remedy="choose one of these")
    height = float(heights[number - 1])
    seats = tuple(
        PlanSeat(
            id=place.seat.id,
            rings=tuple(_ring(_closed(ring)) for ring in rings_at(_seated(job, place, shelf), height)),
        )
        for place in here
        if place.bounds[0, 2] < height < place.bounds[1, 2]
    )
    return Layer(number=number, height_mm=height, seats=seats)


def _closed(ring: Floats) -> Floats:
    return np.concatenate([ring, ring[:1]])


class Tried(Value):
    """How a seat would stand if it were moved so far: what would be the matter, in words with amounts."""

    marks: tuple[Mark, ...]
    says: tuple[str, ...]
    beside: tuple[str, ...]
    """Ids of the seats that it would overlap."""


def tried(job: Job, key: str, copy_number: int, dx: float, dy: float, shelf: Shelf) -> Tried:
    """Return what a move on the plate would come to; the job is not changed.

    Only the seat that moves is held against the others, so that it can be asked while a hand drags.
    """
    group = job.seated_with(key)
    seat = seat_of_copy(job, group, copy_number)
    places = places_of(job, shelf)
    place = places.get(seat.id)
    if place is None:
        raise Refused("not-seated", "it is on no plate", remedy="put it on a plate first")
    there = place.moved(np.array([dx, dy, 0.0]))
    room = seat_room(job, there, shelf)
    stance = lowest_stance(job, group, seat, shelf)
    found = overlaps_with(job, there, [one for key, one in places.items() if key != seat.id], shelf)
    told = [f"{written(one.deep_mm)} mm into {name_of(job, places[one.b])}" for one in found]
    told += [f"{written(one.beyond_mm)} mm outside along {one.axis.upper()}" for one in room.excess]
    if room.in_margin_mm > 0:
        told.append(f"{written(room.in_margin_mm)} mm in the margin")
    marks = marks_of(seat, room, stance, bool(found))
    return Tried(marks=marks, says=tuple(told), beside=tuple(one.b for one in found))
