"""Fit beside a general library on the same places: walls, least distances, and the pairs of many bodies."""

from __future__ import annotations

import time
from collections.abc import Callable
from importlib.util import find_spec
from typing import Any

import numpy as np
import trimesh
from manifold3d import Manifold

from aimtrue.core.fit.actions import PairUp
from aimtrue.core.fit.distance import surface_distance
from aimtrue.core.fit.offers import offers
from aimtrue.core.fit.walls.thickness import by_ball, by_ray
from aimtrue.core.intake.actions import SettleUnit
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.mesh.surface_map.samples import SurfaceSamples, spread
from aimtrue.core.model.lengths import Unit
from aimtrue.core.survey.survey import survey
from aimtrue.core.truing.actions import SetFactor
from tests.shapes import bench_of, binary_stl, corners_of

_HAS_TREE = find_spec("rtree") is not None
"""The general library's balls want a tree that is not among what we install."""
_PLACES = 20_000
_MANY = 150


def fit(triangles: int) -> int:
    """Print a table: our seconds, the general library's, and the ratio."""
    print(f"{'work':<66}{'ours':>9}{'theirs':>9}{'ratio':>8}")
    shell = _shell(triangles)
    every = spread(shell, _PLACES)
    step = max(1, len(every.face) // _PLACES)
    some = every.some(np.arange(0, len(every.face), step))
    ray = by_ray(shell, some)

    def theirs(method: str, places: SurfaceSamples) -> Callable[[], object]:
        thickness: Any = trimesh.proximity.thickness
        mesh = trimesh.Trimesh(shell.vertices, shell.faces, process=False)
        return lambda: thickness(mesh, places.points, normals=-places.inward, method=method)

    words = f"{len(some.face)} places on {shell.triangles} triangles"
    _row(
        f"walls by ball, {words}",
        lambda: by_ball(shell, some, ray.mm),
        theirs("max_sphere", some) if _HAS_TREE else None,
    )
    _row(
        f"walls by ray, one place on each of {shell.triangles}",
        lambda: by_ray(shell, every),
        theirs("ray", every),
    )
    _row(
        f"walls by ball, one place on each of {shell.triangles}",
        lambda: by_ball(shell, every, ray_of(shell, every)),
        None,
    )
    ball = Manifold.sphere(10, 1024)
    one, other = mesh_of(ball), mesh_of(ball.translate((21, 0.3, 0.2)))
    _row(f"least distance of two bodies of {one.triangles}", lambda: surface_distance(one, other), None)
    _many()
    return 0


def ray_of(mesh: Mesh, samples: SurfaceSamples) -> Floats:
    """Return how far it is straight through, which a ball starts from."""
    return by_ray(mesh, samples).mm


def _shell(triangles: int) -> Mesh:
    """A hollow ball of about so many triangles."""
    around = max(8, int(np.sqrt(triangles)) // 4 * 4)
    return mesh_of(Manifold.sphere(10, around) - Manifold.sphere(8.5, around))


def _many() -> None:
    """The pairs of plates with pins in them, and an action afterwards."""
    pin, plate = Manifold.cylinder(20, 2.5, 2.5, 48), Manifold.cube((40, 30, 8))
    plate -= Manifold.cylinder(20, 2.65, 2.65, 48).translate((12, 15, -5))
    solids = [
        solid
        for i in range(_MANY // 2)
        for x, y in [(i % 10 * 50, i // 10 * 40)]
        for solid in (plate.translate((x, y, 0)), pin.translate((x + 12, y + 15, -6)))
    ]
    data = binary_stl(np.concatenate([corners_of(mesh_of(solid)) for solid in solids]))
    bench = bench_of("many.stl", data).do(SettleUnit(source="s1", unit=Unit.MM))
    listed = {body.geometry: bench.features(body) for body in bench.job.bodies}
    bench.features = lambda body: listed[body.geometry]  # type: ignore[method-assign]
    _row(f"pairs of {_MANY} bodies", lambda: offers(bench.job, bench), None)
    _row("the same again", lambda: offers(bench.job, bench), None)
    for offer in offers(bench.job, bench)[: _MANY // 2]:
        told = offer.model_dump(include={"kind", "a", "b", "a_feature", "b_feature"})
        bench.do(PairUp.model_validate(told))
    first = bench.job.bodies[0].id
    survey(bench.do(SetFactor(body=first, typed="1.05")).job, bench)
    _row(
        f"a factor, and all that is told of it, {len(bench.job.pairs)} pairs kept",
        lambda: survey(bench.do(SetFactor(body=first, typed="1.1")).job, bench),
        None,
    )


def _row(words: str, ours: Callable[[], object], theirs: Callable[[], object] | None) -> None:
    seconds = []
    for work in (ours, theirs):
        started = time.perf_counter()
        if work is not None:
            work()
            seconds.append(time.perf_counter() - started)
    more = f"{seconds[1]:>8.2f}s{seconds[1] / seconds[0]:>8.1f}" if len(seconds) > 1 else ""
    print(f"{words:<66}{seconds[0]:>8.3f}s{more}")
