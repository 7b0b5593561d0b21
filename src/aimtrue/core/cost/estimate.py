"""This module estimates a plate along its paths, or of resin layer by layer: the full depth."""

from __future__ import annotations

from collections.abc import Callable

from aimtrue.core.cost.paths.layer_paths import LayerPaths, PlacedBody, paths_of, supports_on
from aimtrue.core.cost.settings import PrintPlan, plan_of
from aimtrue.core.cost.totals import Tally, as_learnt, money, strand_metres
from aimtrue.core.errors import Refused
from aimtrue.core.mesh.geometry_store import GeometryStore
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.mesh.sections import layers_of, sections_of
from aimtrue.core.model.body import Body
from aimtrue.core.model.estimate import BodyTotal, Estimate
from aimtrue.core.model.ids import BodyId, PlateId
from aimtrue.core.model.job import Job
from aimtrue.core.model.printing import PrintSettings
from aimtrue.core.progress import Progress
from aimtrue.core.seating.placement.places import seated_mesh
from aimtrue.core.seating.plan_drawing import on_plate

_TOLD_EVERY = 20
OnLayer = Callable[[LayerPaths], None]


def placed_bodies(job: Job, plate: PlateId, store: GeometryStore) -> tuple[list[Body], list[PlacedBody]]:
    """Return the bodies that stand on a plate, each copy by itself, in mm of the plate."""
    on_earlier = job.plate(plate).follows is not None
    bodies, placed = [], []
    for seat, place in enumerate(on_plate(job, plate, store)):
        for body in place.bodies:
            mesh = seated_mesh(job, body, store.mesh(body.geometry), place)
            bodies.append(body)
            placed.append(PlacedBody(mesh, seat, on_earlier))
    return bodies, placed


def layer_heights(placed: list[PlacedBody], layer: float) -> Floats:
    """Return the middles of the layers of a plate, from it up to the top of what is highest.

    Raises:
        Refused: nothing stands on it.
    """
    top = max((float(body.mesh.bounds()[1, 2]) for body in placed), default=0.0)
    if top <= 0:
        raise Refused("plate-empty", "nothing stands on this plate", remedy="seat something on it")
    return layers_of(0.0, top, layer)


def estimate_plate(
    job: Job,
    plate: PlateId,
    store: GeometryStore,
    settings: PrintSettings | None = None,
    *,
    on_layer: OnLayer | None = None,
    tell: Progress | None = None,
) -> Estimate:
    """Estimate a plate in full.

    Args:
        job: with the plate.
        plate: which.
        store: gives the meshes.
        settings: instead of those of the job.
        on_layer: takes the paths of each layer, from the bottom up.
        tell: of progress; what it raises ends the estimate.

    Raises:
        Refused: a setting is none, nothing stands on the plate, or ``on_layer`` is asked of
        resin.
    """
    machine = job.plate(plate).machine
    plan = plan_of(settings or job.printing, machine)
    bodies, placed = placed_bodies(job, plate, store)
    heights = layer_heights(placed, plan.bead.height)
    if machine.process.kind == "resin":
        if on_layer is not None:
            raise Refused(
                "paths-resin",
                "resin is cured area by area: it has no paths",
                remedy="choose a machine that lays strands, or leave --paths out",
            )
        of_resin = _of_resin(job, bodies, placed, heights, plan)
        return as_learnt(of_resin, plan, job.rates, job.material, plan.curing.watts)
    tally = Tally(bodies)
    for paths in paths_of(placed, heights, plan, machine.process.around):
        tally.add(paths)
        if on_layer is not None:
            on_layer(paths)
        if tell is not None and paths.number % _TOLD_EVERY == 0:
            tell(paths.number / len(heights), f"layer {paths.number + 1} of {len(heights)}")
    along = _along_paths(job, tally, plan, len(heights))
    return as_learnt(along, plan, job.rates, job.material, plan.motion.watts)


def _along_paths(job: Job, tally: Tally, plan: PrintPlan, layers: int) -> Estimate:
    changes = layers * plan.motion.layer_change_s
    seconds = float(tally.seconds.sum()) + changes + plan.motion.heating_s
    volume = float(tally.volumes.sum())
    rows = tally.by_body(job)
    around_g = float(tally.volumes[:, 0].sum()) * job.material.density / 1000
    grams = sum(row.grams for row in rows) + around_g
    kinds = tally.by_kind()
    return Estimate(
        seconds=seconds,
        grams=grams,
        strand_m=strand_metres(volume, job.material),
        support_g=sum(row.support_g for row in rows),
        cost=money(grams, seconds, job.material, plan.motion.watts, job.rates),
        layers=layers,
        height_mm=layers * plan.bead.height,
        volume_mm3=volume,
        travel_mm=sum(row.mm for row in kinds if row.kind == "travel"),
        assumed=plan.assumed,
        by_kind=kinds,
        by_body=rows,
        layer_seconds=tuple(
            round(seconds_of_layer + plan.motion.layer_change_s, 3) for seconds_of_layer in tally.layers
        ),
        thin=tuple(tally.thin_walls(plan.bead.height)),
        gaping=tally.gaping(),
    )


def _of_resin(
    job: Job, bodies: list[Body], placed: list[PlacedBody], heights: Floats, plan: PrintPlan
) -> Estimate:
    """Layers times exposure, lift and wait; the volume is the cured area of each layer times its height."""
    curing, layer = plan.curing, plan.bead.height
    sums: dict[BodyId, list[float]] = {}
    supports = supports_on(placed, heights, plan) if plan.settings.supports else [[] for _ in placed]
    for body, placed_body, regions in zip(bodies, placed, supports, strict=True):
        solid = float(sections_of(placed_body.mesh, heights, counted=False).areas.sum()) * layer
        held = sum(region.area() for region in regions) * layer * plan.settings.support_density / 100
        row = sums.setdefault(body.id, [0.0, 0.0])
        row[0] += solid + held
        row[1] += held
    volume = sum(row[0] for row in sums.values())
    first = min(curing.first_layers, len(heights))
    each = curing.lift_s + curing.wait_s
    seconds = first * (curing.first_exposure_s + each) + (len(heights) - first) * (curing.exposure_s + each)
    per_mm3 = {key: job.material_of(job.body(key)).density / 1000 for key in sums}
    rows = tuple(
        BodyTotal(
            body=job.body(key).name,
            id=key,
            seconds=seconds * row[0] / volume if volume else 0.0,
            grams=row[0] * per_mm3[key],
            support_g=row[1] * per_mm3[key],
        )
        for key, row in sums.items()
    )
    grams = sum(row.grams for row in rows)
    return Estimate(
        seconds=seconds,
        grams=grams,
        strand_m=0.0,
        support_g=sum(row.support_g for row in rows),
        cost=money(grams, seconds, job.material, curing.watts, job.rates),
        layers=len(heights),
        height_mm=len(heights) * layer,
        volume_mm3=volume,
        travel_mm=0.0,
        assumed=plan.assumed,
        by_body=rows,
        layer_seconds=tuple(
            [curing.first_exposure_s + each] * first + [curing.exposure_s + each] * (len(heights) - first)
        ),
    )
