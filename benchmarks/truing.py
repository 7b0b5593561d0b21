"""The solver and the drawing beside general libraries doing the same work."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial

import numpy as np
import trimesh
from scipy.optimize import minimize
from trimesh.path.polygons import projected

from aimtrue.core.drawing.sheet import TitleBlock, three_views
from aimtrue.core.gauges.bands import Band
from aimtrue.core.gauges.forms import SpanForm
from aimtrue.core.mesh.features.listed import features_of
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.truing.solving.problem import Demand, Freedom
from aimtrue.core.truing.solving.solve import solve
from benchmarks.shapes import wavy_sphere

_VIEWS = ((0, -1, 0), (0, 0, 1), (-1, 0, 0))


def truing(triangles: int) -> int:
    """Print a table: our milliseconds, the general library's, and the ratio."""
    print(f"{'work':<58}{'ours':>11}{'theirs':>11}{'ratio':>8}")
    for words, free, feasible in (
        ("one factor, 50 readings that can be met", False, True),
        ("one factor, 50 that exclude each other, conflict named", False, False),
        ("three factors, 50 readings that can be met", True, True),
        ("three factors, 50 that exclude each other", True, False),
    ):
        demands = _readings(feasible)
        freedom = Freedom(free=(free, free, free))
        _row(words, partial(solve, demands, freedom), partial(_general, demands, free), 5)
    mesh = wavy_sphere(triangles)

    def fresh() -> Mesh:
        return Mesh(mesh.vertices.copy(), mesh.faces)

    theirs = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    _row(
        f"three views of {mesh.triangles} triangles (trimesh: outline)",
        lambda: three_views(fresh(), (), TitleBlock(())),
        lambda: [projected(theirs, normal=view) for view in _VIEWS],
        1,
    )
    _row(f"flat and round faces of {mesh.triangles} (trimesh: facets)", lambda: features_of(fresh()),
         lambda: trimesh.Trimesh(mesh.vertices, mesh.faces, process=False).facets, 1)  # fmt: skip
    return 0


def _readings(feasible: bool) -> list[Demand]:
    random = np.random.default_rng(4)
    factors = np.array([0.98, 0.98, 0.98])
    demands = []
    for vector in random.normal(size=(50, 3)) * 80:
        length = float(np.linalg.norm(vector * factors)) + random.normal() * (0.02 if feasible else 1.0)
        band = 0.4 if feasible else 0.1
        demands.append(Demand(SpanForm(vector), Band(length - band, length + band, length, band)))
    return demands


def _general(demands: list[Demand], free: bool) -> object:
    """Sequential least squares programming with the lengths as constraints; it names no conflict."""
    vectors = np.array([demand.form.vector for demand in demands if isinstance(demand.form, SpanForm)])
    low, high = (np.array([getattr(demand.band, end) for demand in demands]) for end in ("low", "high"))
    wanted = (low + high) / 2

    def lengths(x: np.ndarray) -> np.ndarray:
        return np.asarray(np.linalg.norm(vectors * x, axis=1))

    bounds = [
        {"type": "ineq", "fun": lambda x: lengths(x) - low},
        {"type": "ineq", "fun": lambda x: high - lengths(x)},
    ]
    start = np.ones(3 if free else 1)
    return minimize(
        lambda x: np.square(lengths(x) - wanted).sum(),
        start,
        constraints=bounds,
        method="SLSQP",
        options={"ftol": 1e-14},
    )


def _row(words: str, ours: Callable[[], object], theirs: Callable[[], object], runs: int) -> None:
    a, b = (_best(work, runs) for work in (ours, theirs))
    print(f"{words:<58}{1000 * a:>8.1f} ms{1000 * b:>8.1f} ms{b / a:>8.1f}")


def _best(work: Callable[[], object], runs: int) -> float:
    times = []
    for _ in range(runs):
        started = time.perf_counter()
        work()
        times.append(time.perf_counter() - started)
    return min(times)
