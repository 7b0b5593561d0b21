"""This module draws the paths of one layer, and works out what sets of settings and ways would change."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import numpy as np

from aimtrue.core.cost.budgets import amount, time_words
from aimtrue.core.cost.estimate import layer_heights, placed_bodies
from aimtrue.core.cost.kept_estimates import estimate_kept, estimate_key
from aimtrue.core.cost.paths.layer_paths import LayerPaths, PlacedBody, one_layer, supports_on
from aimtrue.core.cost.paths.regions import nothing, region_of
from aimtrue.core.cost.quick import quick_estimate
from aimtrue.core.cost.settings import SETS, PrintPlan, plan_of
from aimtrue.core.cost.survey import BudgetState, cost_survey
from aimtrue.core.cost.ways import WayUnder, least_words, saved_words, stood, ways_under
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.ids import PlateId, Subject
from aimtrue.core.model.job import Job
from aimtrue.core.model.memo import Memo
from aimtrue.core.model.ownership import seated_with
from aimtrue.core.model.printing import PATH_KINDS, PathKind, PrintSettings
from aimtrue.core.model.value import Value, Vec3
from aimtrue.core.seating.orientation.ways_to_stand import ways_to_stand
from aimtrue.core.seating.placement.places import seat_of_copy

Points = tuple[tuple[float, float], ...]


class PathRun(Value):
    """Moves of one kind, one after the other, in mm of the plate, and how long they take."""

    kind: PathKind
    points: Points
    seconds: float


class LayerPathsView(Value):
    """The way through one layer.

    Attributes:
        number: of the layer, from 1, of ``layers``.
        top_mm: its top.
        seconds, says: how long it takes.
        runs: in the order in which they are gone along.
    """

    number: int
    layers: int
    top_mm: float
    seconds: float
    says: str
    runs: tuple[PathRun, ...]


_Rings = list[Floats]
_SUPPORTS: Memo[list[list[_Rings]]] = Memo(4)
"""The supports of a plate, by body and layer: worked out from its top down, once for all layers that are
looked at."""


def layer_paths(job: Job, plate: PlateId, number: int, store: GeometryStore) -> LayerPathsView:
    """Draw the paths of one layer, counted from 1.

    Raises:
        Refused: there is no such layer, nothing stands on the plate, or its machine cures resin.
    """
    machine = job.plate(plate).machine
    if machine.process.kind == "resin":
        raise Refused(
            "paths-resin",
            "resin is cured area by area: it has no paths",
            remedy="choose a machine that lays strands",
        )
    plan = plan_of(job.printing, machine)
    _, placed = placed_bodies(job, plate, store)
    heights = layer_heights(placed, plan.bead.height)
    if not 1 <= number <= len(heights):
        raise Refused("layer", f"there are layers 1 to {len(heights)}", remedy="choose one of these")
    supports = [nothing() for _ in placed]
    if plan.settings.supports:
        key = estimate_key(job, plate)
        rings = _SUPPORTS.get((), (key,), lambda: _support_rings(placed, heights, plan))
        supports = [region_of(of_body[number - 1]) for of_body in rings]
    paths = one_layer(placed, heights, plan, machine.process.around, number - 1, supports)
    seconds = float(paths.seconds.sum()) + plan.motion.layer_change_s
    return LayerPathsView(
        number=number,
        layers=len(heights),
        top_mm=round(paths.top_mm, 4),
        seconds=seconds,
        says=time_words(seconds),
        runs=tuple(_runs(paths)),
    )


def _support_rings(placed: list[PlacedBody], heights: Floats, plan: PrintPlan) -> list[list[_Rings]]:
    return [[region.to_polygons() for region in regions] for regions in supports_on(placed, heights, plan)]


def _runs(paths: LayerPaths) -> Iterator[PathRun]:
    changes = np.flatnonzero(np.diff(paths.kinds) != 0) + 1
    points = np.round(paths.points, 3)
    for begin, end in zip([0, *changes], [*changes, len(paths.kinds)], strict=True):
        if end > begin:
            run = tuple(map(tuple, points[begin : end + 1].tolist()))
            seconds = round(float(paths.seconds[begin:end].sum()), 3)
            yield PathRun(kind=PATH_KINDS[int(paths.kinds[begin])], points=run, seconds=seconds)


class SetEffect(Value):
    """A set of settings, and what it would change on a plate, quickly; ``own`` is kept with the machine."""

    settings: PrintSettings
    time: str
    grams: float
    saves: str
    own: bool


def set_effects(job: Job, plate: PlateId, store: GeometryStore) -> tuple[SetEffect, ...]:
    """Return the sets of settings with what each would change; those that the machine cannot use are left
    out.
    """
    now = quick_estimate(job, plate, store)
    effects = []
    own = job.plate(plate).machine.process.sets
    for settings in (*own, *SETS):
        try:
            after = quick_estimate(job, plate, store, settings)
        except Refused:
            continue
        effects.append(
            SetEffect(
                settings=settings,
                time=time_words(after.seconds),
                grams=after.grams,
                saves=saved_words(now, after),
                own=settings in own,
            )
        )
    return tuple(effects)


class BudgetWays(Value):
    """A budget that is exceeded, with ways under it on a plate; ``least`` says what is not to be had."""

    state: BudgetState
    ways: tuple[WayUnder, ...]
    least: str


def budget_ways(job: Job, plate: PlateId, store: GeometryStore) -> tuple[BudgetWays, ...]:
    """Return ways under every budget that is exceeded and has to do with a plate."""
    now = estimate_kept(job, plate) or quick_estimate(job, plate, store)
    rows = []
    for state in cost_survey(job, store).budgets:
        if state.over <= 0 or state.budget.of not in ("", plate):
            continue
        # Of several plates each has to give what the budget of all of them is over.
        most = max(amount(now, state.budget.kind) - state.over, 1e-9)
        budget = state.budget.model_copy(update={"most": most})
        ways = ways_under(job, plate, store, budget, now)
        rows.append(BudgetWays(state=state, ways=ways, least=least_words(ways, budget, now)))
    return tuple(rows)


class CostedWay(Value):
    """What the plate of a seat takes where that stands with a direction of its body down, quickly."""

    down: Vec3
    time: str
    seconds: float
    grams: float
    support_g: float
    cost: float


CostWish = Literal["seconds", "grams", "cost"]
"""Least time, least material, least money."""


def way_costs(
    job: Job, subject: Subject, copy_number: int, store: GeometryStore, wish: CostWish
) -> tuple[CostedWay, ...]:
    """Return what each way to stand would take, the best for a wish first; nothing of a seat on no plate."""
    seat = seat_of_copy(job, seated_with(job, subject), copy_number)
    if not seat.plate:
        return ()
    rows = []
    for way in ways_to_stand(job, subject, copy_number, store):
        after = quick_estimate(stood(job, subject, copy_number, way.down, store), seat.plate, store)
        rows.append(
            CostedWay(
                down=way.down,
                time=time_words(after.seconds),
                seconds=after.seconds,
                grams=after.grams,
                support_g=after.support_g,
                cost=after.cost,
            )
        )
    return tuple(sorted(rows, key=lambda row: (getattr(row, wish), row.seconds)))
