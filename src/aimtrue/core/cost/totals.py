"""This module adds up what a print takes, layer by layer, and what that comes to in money and strand."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from math import pi

import numpy as np

from aimtrue.core.cost.paths.layer_paths import LayerPaths
from aimtrue.core.cost.settings import PrintPlan
from aimtrue.core.mesh.mesh import Floats
from aimtrue.core.model.body import Body
from aimtrue.core.model.estimate import BodyTotal, Estimate, GapingBody, KindTotal, ThinWall
from aimtrue.core.model.ids import BodyId
from aimtrue.core.model.job import Job
from aimtrue.core.model.materials import Material
from aimtrue.core.model.printing import PATH_KINDS, Rates


def strand_metres(volume_mm3: float, material: Material) -> float:
    """Return how much strand a volume is, in m; 0 of a material that comes as none."""
    area = pi * material.strand_mm**2 / 4
    return volume_mm3 / area / 1000 if area else 0.0


def as_learnt(
    estimate: Estimate, plan: PrintPlan, rates: Rates, material: Material, watts: float
) -> Estimate:
    """Return an estimate corrected by what prints of the machine have taught; volumes stay as they are
    laid.
    """
    time, mass = plan.learnt.time, plan.learnt.mass
    if plan.learnt.count == 0:
        return estimate
    rows = tuple(
        row.model_copy(
            update={
                "seconds": time * row.seconds,
                "grams": mass * row.grams,
                "support_g": mass * row.support_g,
            }
        )
        for row in estimate.by_body
    )
    grams, seconds = mass * estimate.grams, time * estimate.seconds
    return estimate.model_copy(
        update={
            "seconds": seconds,
            "grams": grams,
            "strand_m": mass * estimate.strand_m,
            "support_g": mass * estimate.support_g,
            "cost": money(grams, seconds, material, watts, rates),
            "layer_seconds": tuple(round(time * s, 3) for s in estimate.layer_seconds),
            "by_body": rows,
        }
    )


def money(grams: float, seconds: float, material: Material, watts: float, rates: Rates) -> float:
    """Return what material, an hour of the machine and electricity come to."""
    hours = seconds / 3600
    return grams / 1000 * (material.price or 0.0) + hours * rates.hour + hours * watts / 1000 * rates.kwh


@dataclass(eq=False)
class Tally:
    """Sums over the layers of a plate, as they come.

    Attributes:
        bodies: whose the paths are, by their number.
        seconds, volumes, ways: (kinds, bodies + 1) sums; the first column is of no body.
        layers: seconds of each layer.
    """

    bodies: Sequence[Body]
    layers: list[float] = field(default_factory=list)

    def __post_init__(self) -> None:
        shape = len(PATH_KINDS), len(self.bodies) + 1
        self.seconds, self.volumes, self.ways = np.zeros(shape), np.zeros(shape), np.zeros(shape)
        self._gaping: dict[int, int] = {}
        self._thin: dict[int, list[tuple[float, int, Floats]]] = {}

    def add(self, paths: LayerPaths) -> None:
        """Add a layer."""
        shape = self.seconds.shape
        at = paths.kinds.astype(np.int64) * shape[1] + paths.bodies + 1
        steps = np.diff(paths.points, axis=0)
        lengths = np.hypot(steps[:, 0], steps[:, 1])
        for sums, amounts in (
            (self.seconds, paths.seconds),
            (self.volumes, paths.volumes),
            (self.ways, lengths),
        ):
            sums += np.bincount(at, amounts, shape[0] * shape[1]).reshape(shape)
        self.layers.append(float(paths.seconds.sum()))
        for number in paths.gaping:
            self._gaping[number] = self._gaping.get(number, 0) + 1
        for body, place, area in paths.thin:
            self._thin.setdefault(body, []).append((area, paths.number, place))

    def thin_walls(self, layer: float) -> Iterator[ThinWall]:
        """Yield the walls that hold no bead, those of a body together; ``layer`` is the height of one."""
        for number, rows in self._thin.items():
            body = self.bodies[number]
            _, at_layer, place = max(rows, key=lambda row: row[0])
            yield ThinWall(
                body=body.name,
                id=body.id,
                layers=len({row[1] for row in rows}),
                mm3=sum(row[0] for row in rows) * layer,
                layer=at_layer + 1,
                at=(float(place[0]), float(place[1])),
            )

    def gaping(self) -> tuple[GapingBody, ...]:
        """Return the bodies that are not closed, with in how many layers that shows."""
        return tuple(
            GapingBody(body=self.bodies[number].name, id=self.bodies[number].id, layers=count)
            for number, count in self._gaping.items()
        )

    def by_kind(self) -> tuple[KindTotal, ...]:
        """Return the sums of each kind of path that there is."""
        rows = zip(
            PATH_KINDS,
            self.seconds.sum(axis=1).tolist(),
            self.volumes.sum(axis=1).tolist(),
            self.ways.sum(axis=1).tolist(),
            strict=True,
        )
        return tuple(KindTotal(kind=kind, seconds=s, mm3=v, mm=w) for kind, s, v, w in rows if w > 0)

    def by_body(self, job: Job) -> tuple[BodyTotal, ...]:
        """Return the sums of each body over its copies."""
        sums: dict[BodyId, list[float]] = {}
        support = PATH_KINDS.index("support")
        for number, body in enumerate(self.bodies, start=1):
            per_mm3 = job.material_of(body).density / 1000
            row = sums.setdefault(body.id, [0.0, 0.0, 0.0])
            row[0] += float(self.seconds[:, number].sum())
            row[1] += float(self.volumes[:, number].sum()) * per_mm3
            row[2] += float(self.volumes[support, number]) * per_mm3
        return tuple(
            BodyTotal(body=job.body(key).name, id=key, seconds=row[0], grams=row[1], support_g=row[2])
            for key, row in sums.items()
        )
