"""This module puts the paths of all bodies of a plate into one way through each layer, with its time and
volume.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from aimtrue.core.cost.motion import seconds_of
from aimtrue.core.cost.paths.body_paths import BodyLayer, PathGroup, body_layer
from aimtrue.core.cost.paths.regions import LayerRegion, Region, grown, layer_regions, nothing, regions_of
from aimtrue.core.cost.paths.supports import supports_of_seats
from aimtrue.core.cost.settings import PrintPlan
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.model.machine import FirstLayerOutline
from aimtrue.core.model.printing import PATH_KINDS, Motion, PathKind

_NUMBER: dict[PathKind, int] = {kind: number for number, kind in enumerate(PATH_KINDS)}
_TRAVEL = _NUMBER["travel"]
_ORDERED_UP_TO = 400
"""Of more groups than this, the order in which they come is kept: looking for the nearest takes too long."""


@dataclass(frozen=True, eq=False)
class LayerPaths:
    """One way through a layer.

    Attributes:
        number: of the layer, from 0.
        top_mm: of the layer, over the plate.
        points: (k + 1, 2) in mm of the plate.
        kinds: (k,) what each move is for, as a number in ``PATH_KINDS``.
        bodies: (k,) whose it is, as a number, also of the travel to it; -1 of what is around.
        volumes: (k,) what each lays, in mm³.
        speeds, seconds: (k,) in mm/s at most, and how long each takes.
        thin: places of walls that hold no bead, with body and area in mm².
        gaping: bodies whose outlines do not all close here; those that do not are not laid.
    """

    number: int
    top_mm: float
    points: Floats
    kinds: NDArray[np.int8]
    bodies: NDArray[np.int32]
    volumes: Floats
    speeds: Floats
    seconds: Floats
    thin: list[tuple[int, Floats, float]]
    gaping: list[int] = field(default_factory=list)


@dataclass(frozen=True, eq=False)
class PlacedBody:
    """A body as it stands on a plate.

    Attributes:
        mesh: in mm of the plate.
        seat: by a number, which bodies stand in one seat.
        on_earlier: whether it is printed on an earlier pass, which holds what is above the plate.
    """

    mesh: Mesh
    seat: int = 0
    on_earlier: bool = False


def paths_of(
    bodies: Sequence[PlacedBody], heights: Floats, plan: PrintPlan, around: FirstLayerOutline
) -> Iterator[LayerPaths]:
    """Yield the way through each layer of a plate, from the bottom up.

    Args:
        bodies: as they stand.
        heights: (k,) the middles of the layers, in mm.
        plan: bead, settings and speeds.
        around: what the machine draws around the first layer.
    """
    supports = supports_on(bodies, heights, plan) if plan.settings.supports else [None] * len(bodies)
    layers = [_BodyLayers(body, heights, plan, its) for body, its in zip(bodies, supports, strict=True)]
    at = np.zeros(2)
    for number in range(len(heights)):
        groups: list[tuple[int, PathGroup]] = []
        thin: list[tuple[int, Floats, float]] = []
        if number == 0:
            first = [layer.whole_of_first for layer in layers]
            groups += [(-1, group) for group in _around(first, plan, around)]
        gaping = []
        for body, layer in enumerate(layers):
            laid = layer.next()
            if layer.gapes:
                gaping.append(body)
            groups += [(body, group) for group in laid.groups]
            thin += [(body, place, area) for place, area in laid.thin]
        paths = _way(number, at, groups, plan, thin)
        at = paths.points[-1]
        yield replace(paths, gaping=gaping) if gaping else paths


def one_layer(
    bodies: Sequence[PlacedBody],
    heights: Floats,
    plan: PrintPlan,
    around: FirstLayerOutline,
    number: int,
    supports: Sequence[Region],
) -> LayerPaths:
    """Return the way through one layer, as :func:`paths_of` has it but for where it begins.

    Args:
        bodies: as they stand.
        heights: (k,) the middles of all layers, in mm.
        plan: bead, settings and speeds.
        around: what the machine draws around the first layer.
        number: of the layer, from 0.
        supports: of each body in that layer.
    """
    near = plan.settings.solid_layers
    start = max(0, number - near)
    layers = [
        next(
            layer
            for layer in layer_regions(body.mesh, heights[start : number + near + 1], near)
            if layer.number == number - start
        )
        for body in bodies
    ]
    groups: list[tuple[int, PathGroup]] = []
    thin: list[tuple[int, Floats, float]] = []
    if number == 0:
        groups += [(-1, group) for group in _around([layer.whole for layer in layers], plan, around)]
    for body, (layer, support) in enumerate(zip(layers, supports, strict=True)):
        laid = body_layer(replace(layer, number=number), support, plan)
        groups += [(body, group) for group in laid.groups]
        thin += [(body, place, area) for place, area in laid.thin]
    begin = groups[0][1].paths[0][0] if groups else np.zeros(2)
    return _way(number, np.asarray(begin), groups, plan, thin)


def supports_on(bodies: Sequence[PlacedBody], heights: Floats, plan: PrintPlan) -> list[list[Region]]:
    """Return the region of support in each layer, of each body of a plate."""
    return supports_of_seats(
        [list(regions_of(body.mesh, heights)) for body in bodies],
        [body.seat for body in bodies],
        [not body.on_earlier for body in bodies],
        plan.reach,
        plan.bead.spacing,
    )


class _BodyLayers:
    """The layers of one body, one after the other; the same again where nothing has changed."""

    def __init__(
        self, body: PlacedBody, heights: Floats, plan: PrintPlan, supports: list[Region] | None
    ) -> None:
        self._plan = plan
        self._layers = layer_regions(body.mesh, heights, plan.settings.solid_layers)
        self._first: LayerRegion | None = next(self._layers, None)
        self._supports = supports or []
        self._unheld = nothing()
        self.gapes = False
        # Lines change their direction from layer to layer, so each is like the one before the last.
        self._known: list[tuple[LayerRegion, Region, BodyLayer]] = []

    @property
    def whole_of_first(self) -> Region:
        """What stands on the plate."""
        return self._first.whole if self._first is not None else nothing()

    def next(self) -> BodyLayer:
        layer = self._first or next(self._layers)
        self._first, self.gapes = None, layer.gaping
        support = self._supports[layer.number] if self._supports else self._unheld
        if layer.whole.is_empty() and support.is_empty():
            return BodyLayer([])
        for known, its_support, laid in self._known:
            alike = known.whole is layer.whole and known.covered is layer.covered and its_support is support
            if alike and (known.number - layer.number) % 2 == 0:
                return laid
        laid = body_layer(layer, support, self._plan)
        self._known = [*self._known[-3:], (layer, support, laid)]
        return laid


def _around(first: list[Region], plan: PrintPlan, around: FirstLayerOutline) -> list[PathGroup]:
    """The outline that is drawn around what stands on the plate; nothing where nothing does."""
    stands = nothing()
    for region in first:
        stands = region if stands.is_empty() else stands + region
    if around.kind == "nothing" or stands.is_empty():
        return []
    if around.kind == "line":
        offsets = [max(around.reach, plan.bead.width)]
    else:
        count = max(1, round(around.reach / plan.bead.spacing))
        offsets = [(count - n - 0.5) * plan.bead.spacing for n in range(count)]
    loops = [
        np.concatenate([ring, ring[:1]]) for offset in offsets for ring in grown(stands, offset).to_polygons()
    ]
    return [PathGroup("around", loops, loops=True)]


def _way(
    number: int,
    at: Floats,
    groups: list[tuple[int, PathGroup]],
    plan: PrintPlan,
    thin: list[tuple[int, Floats, float]],
) -> LayerPaths:
    """One way through all groups: bodies one after the other, and in each the nearest group of a kind
    next.
    """
    points, kinds, bodies, flows = [at[None]], [], [], []
    for body, group in _in_order(at, groups):
        if isinstance(group.paths, np.ndarray):
            # To the beginning of each line, and along it.
            points.append(group.paths.reshape(-1, 2))
            kinds.append(np.tile([_TRAVEL, _NUMBER[group.kind]], len(group.paths)))
            bodies.append(np.full(2 * len(group.paths), body))
            flows.append(np.tile([0.0, group.flow], len(group.paths)))
            continue
        for path in _from_nearest(points[-1][-1], group):
            moves = len(path) - 1
            points.append(path)
            kinds += [np.array([_TRAVEL]), np.full(moves, _NUMBER[group.kind])]
            bodies.append(np.full(moves + 1, body))
            flows += [np.zeros(1), np.full(moves, group.flow)]
    where = np.concatenate(points)
    kind = np.concatenate(kinds).astype(np.int8) if kinds else np.empty(0, np.int8)
    steps = np.diff(where, axis=0)
    lengths = np.hypot(steps[:, 0], steps[:, 1])
    flow = np.concatenate(flows) if flows else np.empty(0)
    speeds = _speeds(plan.motion, first=number == 0)[kind]
    motion = plan.motion
    return LayerPaths(
        number=number,
        top_mm=(number + 1) * plan.bead.height,
        points=where,
        kinds=kind,
        bodies=np.concatenate(bodies).astype(np.int32) if bodies else np.empty(0, np.int32),
        volumes=lengths * flow * plan.bead.spacing * plan.bead.height,
        speeds=speeds,
        seconds=seconds_of(where, speeds, motion.acceleration, motion.corner_mm),
        thin=thin,
    )


def _speeds(motion: Motion, *, first: bool) -> Floats:
    """The speed of each kind of path, by its number."""
    usual = {"around": motion.first, **{kind: getattr(motion, kind) for kind in PATH_KINDS[1:]}}
    speeds = [
        min(usual[kind], motion.first) if first and kind != "travel" else usual[kind] for kind in PATH_KINDS
    ]
    return np.array(speeds)


def _in_order(at: Floats, groups: list[tuple[int, PathGroup]]) -> Iterator[tuple[int, PathGroup]]:
    """The groups as they come, but of one body and kind the nearest next."""
    begin = 0
    while begin < len(groups):
        key = (groups[begin][0], groups[begin][1].kind)
        end = begin
        while end < len(groups) and (groups[end][0], groups[end][1].kind) == key:
            end += 1
        alike = [group for _, group in groups[begin:end]]
        for group in _nearest_first(at, alike) if len(alike) <= _ORDERED_UP_TO else alike:
            yield key[0], group
            at = group.paths[-1][-1]
        begin = end


def _nearest_first(at: Floats, groups: list[PathGroup]) -> Iterator[PathGroup]:
    starts = np.array([group.paths[0][0] for group in groups])
    left = np.ones(len(groups), bool)
    for _ in groups:
        away = np.where(left, np.hypot(*(starts - at).T), np.inf)
        nearest = int(away.argmin())
        left[nearest] = False
        yield groups[nearest]
        at = groups[nearest].paths[-1][-1]


def _from_nearest(at: Floats, group: PathGroup) -> Iterator[Floats]:
    """The paths of a group; loops the nearest first, each from its corner that is nearest."""
    if not group.loops:
        yield from group.paths
        return
    loops = list(group.paths)
    while loops:
        away = [float(np.hypot(*(loop[0] - at)).min()) for loop in loops] if len(loops) > 1 else [0.0]
        loop = loops.pop(int(np.argmin(away)))
        corner = int(np.hypot(*(loop[:-1] - at).T).argmin())
        loop = np.concatenate([loop[corner:-1], loop[: corner + 1]])
        yield loop
        at = loop[-1]
