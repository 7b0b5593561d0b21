"""All layers of a plate, and one of them, as they are looked at."""

from __future__ import annotations

import numpy as np

from aimtrue.core.chain.seat_turns import seat_key
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.mesh.sections import Sections, layers_of, rings_at, sections_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.ids import PlateId
from aimtrue.core.model.job import Job
from aimtrue.core.model.machine import Machine
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.value import Value
from aimtrue.core.seating.placement.places import SeatPlace, seated_mesh
from aimtrue.core.seating.plan_drawing import PlanSeat, on_plate, ring_of, seated_whole

_LAYERS = 4000


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


def heights_of(job: Job, plate: PlateId, places: list[SeatPlace]) -> Floats:
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


def layers_now(job: Job, plate: PlateId, store: GeometryStore) -> Layers:
    """Return what all layers of a plate come to; of very many, some are taken."""
    here = on_plate(job, plate, store)
    heights = heights_of(job, plate, here)
    step = max(1, len(heights) // _LAYERS)
    taken = heights[::step]
    areas, lengths = np.zeros(len(taken)), np.zeros(len(taken))
    islands = np.zeros(len(taken), np.int64)
    for place in here:
        for body in place.bodies:
            sections = _sections(job, body, place, taken, store)
            areas += sections.areas
            lengths += sections.outlines
            islands += sections.islands
    return Layers(
        plate=plate,
        layer_mm=job.plate(plate).machine.process.layer * step,
        heights=tuple(np.round(taken, 6).tolist()),
        areas=tuple(np.round(areas, 3).tolist()),
        islands=tuple(islands.tolist()),
        outlines=tuple(np.round(lengths, 3).tolist()),
    )


_SECTIONS: Memo[tuple[Sections]] = Memo(1024)


def _sections(job: Job, body: Body, place: SeatPlace, heights: Floats, store: GeometryStore) -> Sections:
    seat = place.seat
    plain = (
        seat_key(seat),
        float(place.shift[2]),
        len(heights),
        float(heights[0]),
        float(heights[-1]),
    )
    return _SECTIONS.get(
        job.in_force(body),
        plain,
        lambda: (sections_of(seated_mesh(job, body, store.mesh(body.geometry), place), heights),),
    )[0]


def layer_at(job: Job, plate: PlateId, number: int, store: GeometryStore) -> Layer:
    """Return one layer of a plate, counted from 1."""
    here = on_plate(job, plate, store)
    heights = heights_of(job, plate, here)
    if not 1 <= number <= len(heights):
        raise Refused("layer", f"there are layers 1 to {len(heights)}", remedy="choose one of these")
    height = float(heights[number - 1])
    seats = tuple(
        PlanSeat(
            id=place.seat.id,
            rings=tuple(ring_of(_closed(ring)) for ring in rings_at(seated_whole(job, place, store), height)),
        )
        for place in here
        if place.bounds[0, 2] < height < place.bounds[1, 2]
    )
    return Layer(number=number, height_mm=height, seats=seats)


def _closed(ring: Floats) -> Floats:
    return np.concatenate([ring, ring[:1]])
