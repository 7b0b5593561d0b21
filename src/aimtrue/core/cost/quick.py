"""This module estimates a plate at once, from areas and lengths of sections: the quick depth.

Of each body as it is turned it knows, once and for all settings, areas and outlines of some sections, and how
much of its surface looks up or down how steeply. From these:

- What shells leave of an area A with an outline P, d wide: ``A - P d + π d² χ`` (Steiner's formula for
parallel
  curves; χ counts outlines around material less those around holes).
- What n layers of height h make solid under a surface that rises by tan φ: ``n h - d tan φ`` times its area
seen
  from above, where that is positive.
- Lines in an area are as long as its mean chord, ``π A / P`` (Cauchy and Crofton).

Sections stretch with a body, so a factor along the axes changes these facts without looking at the mesh.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import pi

import numpy as np

from aimtrue.core.chain.allowance import allowed_points
from aimtrue.core.chain.seat_turns import seat_key, seat_matrix
from aimtrue.core.cost.settings import PrintPlan, plan_of
from aimtrue.core.cost.totals import as_learnt, money, strand_metres
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.sections import sections_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.estimate import BodyTotal, Estimate
from aimtrue.core.model.ids import PlateId
from aimtrue.core.model.job import Job
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.printing import PrintSettings
from aimtrue.core.seating.layer_analysis.overhang import facing, overhang_of
from aimtrue.core.seating.placement.places import SeatPlace
from aimtrue.core.seating.plan_drawing import on_plate

_SECTIONS = 64
"""So many sections of a body are looked at."""
_STEEP = np.concatenate([[0.0], np.geomspace(0.01, 100, 60)])
"""Slopes, as tangents, that surface is counted by."""
_STANDS_MM = 1e-6
_DOWN = np.array([0.0, 0.0, -1.0])


@dataclass(frozen=True, eq=False)
class SectionFacts:
    """What is known of a body as it stands, in mm.

    Attributes:
        height: from its bottom to its top.
        lift: how far its bottom is over what is under it, on the whole.
        areas, outlines: (k,) of sections at the middles of as many slices.
        turns: (k,) outlines around material less those around holes.
        slopes: (60,) how much of the surface, seen from above, is no steeper than each slope, but steeper
            than
            the one before; tops and bottoms together.
        support_mm3: of the columns under what hangs over.
    """

    height: float
    lift: float
    areas: Floats
    outlines: Floats
    turns: Floats
    slopes: Floats
    support_mm3: float


_FACTS: Memo[SectionFacts] = Memo(8192)


def facts_of(job: Job, body: Body, place: SeatPlace, overhang: float, store: GeometryStore) -> SectionFacts:
    """Return what is known of a body as it stands; kept by what it depends on.

    A body is looked at as it is drawn, turned; where its correction is one factor, lengths, areas and
    volumes are multiplied by that, and only what is stretched unequally is looked at anew.
    """
    stretch = _uniform(job, body, place)
    if stretch is None:
        known = _FACTS.get(
            job.in_force(body),
            (seat_key(place.seat), overhang),
            lambda: _looked_at(_stretched(job, body, place, store), overhang),
        )
        return _scaled(known, 1.0, _lift(place, body))
    mesh = store.mesh(body.geometry)
    # What is kept must not depend on which of two turns that are alike came first.
    turn = (seat_matrix(place.seat) @ stretch[1]).round(9) + 0.0
    plain = _FACTS.get(
        (mesh,),
        (turn.tobytes(), place.seat.mirrored, overhang),
        lambda: _looked_at(_turned(mesh, turn, mirrored=place.seat.mirrored), overhang),
    )
    return _scaled(plain, stretch[0], _lift(place, body))


def _lift(place: SeatPlace, body: Body) -> float:
    """How far a body is over the plate, or over other bodies of its seat, by the share that these are under
    it.

    Shares are those of the boxes around them, seen from above.
    """
    low, high = place.each[body.id]
    bottom = max(0.0, float(low[2]))
    if bottom <= _STANDS_MM:
        return 0.0
    lift, bare = 0.0, 1.0
    for other in place.bodies:
        its_low, its_high = place.each[other.id]
        if other.id == body.id or its_low[2] >= bottom:
            continue
        sides = np.minimum(high, its_high)[:2] - np.maximum(low, its_low)[:2]
        share = float(np.prod(np.maximum(sides, 0.0)) / max(float(np.prod((high - low)[:2])), 1e-12))
        share = min(share, bare)
        lift, bare = lift + share * max(0.0, bottom - float(its_high[2])), bare - share
    return lift + bare * bottom


def _uniform(job: Job, body: Body, place: SeatPlace) -> tuple[float, Floats] | None:
    """The factor and the turn that take numbers of a body's file to the plate; None where they stretch it."""
    start, *ends = allowed_points(job, body, np.vstack([np.zeros(3), np.eye(3)]))
    linear = np.stack(ends, axis=1) - start[:, None]
    scales = np.linalg.norm(linear, axis=0)
    if body.kept or np.ptp(scales) > 1e-9 * scales.max():
        return None
    if abs(linear.T @ linear - scales[0] ** 2 * np.eye(3)).max() > 1e-9 * scales[0] ** 2:
        return None
    return float(scales[0]), linear / scales[0]


def _stretched(job: Job, body: Body, place: SeatPlace, store: GeometryStore) -> Mesh:
    """A body as it stands, but where its origin is: a place would change its last digits."""
    mesh = store.mesh(body.geometry)
    points = allowed_points(job, body, mesh.vertices) @ seat_matrix(place.seat).T
    return Mesh(points, mesh.faces[:, ::-1] if place.seat.mirrored else mesh.faces)


def _turned(mesh: Mesh, turn: Floats, *, mirrored: bool) -> Mesh:
    return Mesh(mesh.vertices @ turn.T, mesh.faces[:, ::-1] if mirrored else mesh.faces)


def _scaled(known: SectionFacts, factor: float, lift: float) -> SectionFacts:
    return SectionFacts(
        height=factor * known.height,
        lift=lift,
        areas=factor**2 * known.areas,
        outlines=factor * known.outlines,
        turns=known.turns,
        slopes=factor**2 * known.slopes,
        support_mm3=factor**3 * known.support_mm3,
    )


def _looked_at(mesh: Mesh, overhang: float) -> SectionFacts:
    low, high = mesh.bounds()[:, 2]
    slice_ = float(high - low) / _SECTIONS
    sections = sections_of(mesh, low + (np.arange(_SECTIONS) + 0.5) * slice_)
    crosses = mesh.area_vectors / 2
    flat, steep = abs(crosses[:, 2]), np.hypot(crosses[:, 0], crosses[:, 1])
    lying = flat > 1e-12 * max(float(flat.max(initial=0.0)), 1e-300)
    slope = steep[lying] / flat[lying]
    bins = np.minimum(np.searchsorted(_STEEP, slope), len(_STEEP) - 1)
    return SectionFacts(
        height=float(high - low),
        lift=0.0,
        areas=np.maximum(sections.areas, 0.0),
        outlines=sections.outlines,
        turns=(sections.islands - sections.holes).astype(np.float64),
        slopes=np.bincount(bins, flat[lying], len(_STEEP)).astype(np.float64),
        support_mm3=overhang_of(facing(mesh), _DOWN, overhang).support_mm3,
    )


@dataclass(frozen=True)
class BodyQuick:
    """What a body takes, quickly: seconds, and mm³ of material, of these for support."""

    seconds: float
    mm3: float
    support_mm3: float


def body_quick(known: SectionFacts, plan: PrintPlan) -> BodyQuick:
    """Estimate one body as it stands."""
    settings, motion = plan.settings, plan.motion
    spacing, layer = plan.bead.spacing, plan.bead.height
    # As many as have their middle in it; one at its very top counts.
    layers = max(1.0, float(int(known.height / layer + 0.5 + 1e-6)))
    share = layers / len(known.areas)
    seconds = shell_mm3 = 0.0
    for number in range(settings.shells):
        middle = (number + 0.5) * spacing
        lengths = np.maximum(known.outlines - 2 * pi * middle * known.turns, 0.0)
        lengths = np.where(_within(known, middle) > 0, lengths, 0.0)
        speed = motion.outline if number == 0 else motion.shell
        seconds += float(lengths.sum()) * share / speed
        seconds += _travelled(known, motion.travel, motion.acceleration) * share
    wide = settings.shells * spacing
    left = np.maximum(_within(known, wide), 0.0)
    shell_mm3 = float((known.areas - left).sum()) * share * layer
    inner = float(left.sum()) * share * layer
    solid = min(inner, _solid_mm3(known, settings.solid_layers * layer, wide))
    solid = inner if settings.infill >= 100 else solid
    filled = (inner - solid) * settings.infill / 100 if settings.infill < 100 else 0.0
    chord = _mean_chord(known, left, wide)
    seconds += _lines_s(solid, spacing, chord, motion.solid, plan)
    if filled:
        apart = spacing * 100 / settings.infill
        seconds += _lines_s(filled, apart, chord, motion.infill, plan)
    support = 0.0
    if settings.supports:
        columns = known.support_mm3 + known.lift * float(known.areas[: _SECTIONS // 16].mean())
        support = columns * settings.support_density / 100
        # Nothing is known of the shape of the columns; they are taken for one as high as the body.
        across = max(columns / max(known.height + known.lift, layer), spacing**2) ** 0.5
        seconds += _lines_s(support, spacing * 100 / settings.support_density, across, motion.support, plan)
    return BodyQuick(seconds, shell_mm3 + solid + filled + support, support)


def _within(known: SectionFacts, inset: float) -> Floats:
    """(k,): the areas that are so far within the outlines."""
    return np.asarray(known.areas - inset * known.outlines + pi * inset**2 * known.turns)


def hollow_mm3(known: SectionFacts, wall: float) -> float:
    """Return how much of a body lies within a wall, in mm³: what hollowing it out takes away."""
    slice_ = known.height / len(known.areas)
    heights = (np.arange(len(known.areas)) + 0.5) * slice_
    inner = (heights > wall) & (heights < known.height - wall)
    return float(np.maximum(_within(known, wall), 0.0)[inner].sum()) * slice_


def _solid_mm3(known: SectionFacts, thick: float, wide: float) -> float:
    """What tops and bottoms so thick make solid, besides shells that are so wide."""
    deep = np.maximum(thick - wide * _STEEP, 0.0)
    return float(known.slopes @ deep)


def _mean_chord(known: SectionFacts, left: Floats, wide: float) -> float:
    around = np.maximum(known.outlines - 2 * pi * wide * known.turns, 1e-9)
    area = float(left.sum())
    return pi * area / float(around[left > 0].sum()) if area > 0 else 1.0


def _lines_s(mm3: float, apart: float, chord: float, speed: float, plan: PrintPlan) -> float:
    """How long lines take that fill a volume: from a stand to a stand each, with a hop to the next."""
    length = mm3 / (plan.bead.spacing * plan.bead.height)
    if length <= 0 or chord <= 0:
        return 0.0
    count, a = length / chord, plan.motion.acceleration
    long = speed**2 / a
    line = chord / speed + speed / a if chord > long else 2 * (chord / a) ** 0.5
    return count * (line + _hop_s(apart, plan.motion.travel, a))


def _hop_s(way: float, speed: float, acceleration: float) -> float:
    long = speed**2 / acceleration
    return way / speed + speed / acceleration if way > long else 2 * (way / acceleration) ** 0.5


def _travelled(known: SectionFacts, speed: float, acceleration: float) -> float:
    """How long it takes to get to the outlines of all sections, in s."""
    islands = np.maximum(abs(known.turns), 1.0)
    apart = np.sqrt(np.maximum(known.areas, 0.0) / islands)
    long = speed**2 / acceleration
    each = np.where(apart > long, apart / speed + speed / acceleration, 2 * np.sqrt(apart / acceleration))
    return float((islands * each).sum())


def quick_estimate(
    job: Job, plate: PlateId, store: GeometryStore, settings: PrintSettings | None = None
) -> Estimate:
    """Estimate a plate quickly; 0 of everything where nothing stands on it.

    Raises:
        Refused: a setting is none that can be printed with.
    """
    machine = job.plate(plate).machine
    plan = plan_of(settings or job.printing, machine)
    rows: dict[str, list[float]] = {}
    names: dict[str, Body] = {}
    top = 0.0
    resin = machine.process.kind == "resin"
    for place in on_plate(job, plate, store):
        top = max(top, float(place.bounds[1, 2]))
        for body in place.bodies:
            known = facts_of(job, body, place, machine.process.overhang, store)
            taken = _resin_quick(known, plan) if resin else body_quick(known, plan)
            names[body.id] = body
            row = rows.setdefault(body.id, [0.0, 0.0, 0.0])
            for k, amount in enumerate((taken.seconds, taken.mm3, taken.support_mm3)):
                row[k] += amount
    layers = int(np.ceil(top / plan.bead.height - 1e-3)) if top > 0 else 0
    return _summed(job, plan, rows, names, layers, resin=resin)


def _resin_quick(known: SectionFacts, plan: PrintPlan) -> BodyQuick:
    solid = float(known.areas.mean()) * known.height
    support = known.support_mm3 * plan.settings.support_density / 100 if plan.settings.supports else 0.0
    return BodyQuick(0.0, solid + support, support)


def _summed(
    job: Job,
    plan: PrintPlan,
    rows: dict[str, list[float]],
    names: dict[str, Body],
    layers: int,
    *,
    resin: bool,
) -> Estimate:
    seconds = sum(row[0] for row in rows.values())
    watts = plan.curing.watts if resin else plan.motion.watts
    if resin and layers:
        first = min(plan.curing.first_layers, layers)
        each = plan.curing.lift_s + plan.curing.wait_s
        seconds = first * (plan.curing.first_exposure_s + each)
        seconds += (layers - first) * (plan.curing.exposure_s + each)
    elif layers:
        seconds += layers * plan.motion.layer_change_s + plan.motion.heating_s
    by_body = tuple(
        BodyTotal(
            body=names[key].name,
            id=names[key].id,
            seconds=row[0],
            grams=row[1] * job.material_of(names[key]).density / 1000,
            support_g=row[2] * job.material_of(names[key]).density / 1000,
        )
        for key, row in rows.items()
    )
    grams, volume = sum(row.grams for row in by_body), sum(row[1] for row in rows.values())
    estimate = Estimate(
        seconds=seconds,
        grams=grams,
        strand_m=0.0 if resin else strand_metres(volume, job.material),
        support_g=sum(row.support_g for row in by_body),
        cost=money(grams, seconds, job.material, watts, job.rates),
        layers=layers,
        height_mm=layers * plan.bead.height,
        volume_mm3=volume,
        travel_mm=0.0,
        assumed=plan.assumed,
        by_body=by_body,
    )
    return as_learnt(estimate, plan, job.rates, job.material, watts)
