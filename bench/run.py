"""Measure beside a general mesh library doing the same work, in one run, as ratios."""

from __future__ import annotations

import io
import time
from collections.abc import Callable
from functools import partial
from typing import Any

import trimesh

from aimtrue.core.actions import SettleUnit, TakeIn, apply
from aimtrue.core.formats import stl
from aimtrue.core.intake.take_in import Taken, take_in
from aimtrue.core.job import Job
from aimtrue.core.lengths import Unit
from aimtrue.core.mesh import Mesh
from aimtrue.core.release.make import Format, Order, release
from bench.shapes import wavy_sphere


def bench(triangles: int) -> int:
    """Print a table: our seconds, the general library's seconds, and how many times faster we are."""
    mesh = wavy_sphere(triangles)
    binary = stl.write_binary(mesh, "bench")
    print(f"{mesh.triangles} triangles, binary STL of {len(binary) / 1e6:.0f} MB\n")
    print(f"{'work':<44}{'ours s':>9}{'trimesh s':>11}{'ratio':>8}")
    _row("read, weld, bounds, volume, closedness", lambda: _ours(binary), lambda: _theirs(binary))
    taken = take_in("s1", "bench.stl", binary)
    job, shelf = _job(taken)
    kinds: tuple[Format, ...] = ("stl", "3mf")
    for kind in kinds:
        _row(
            f"release {kind}: write, read back, compare",
            partial(release, job, shelf, Order(format=kind)),
            partial(_their_release, binary, kind),
        )
    return 0


def _row(what: str, ours: Callable[[], object], theirs: Callable[[], object]) -> None:
    a, b = _seconds(ours), _seconds(theirs)
    print(f"{what:<44}{a:>9.2f}{b:>11.2f}{b / a:>8.2f}")


def _seconds(work: Callable[[], object]) -> float:
    started = time.perf_counter()
    work()
    return time.perf_counter() - started


def _ours(data: bytes) -> Taken:
    return take_in("s1", "bench.stl", data)


def _theirs(data: bytes) -> tuple[object, ...]:
    mesh: Any = trimesh.load(io.BytesIO(data), file_type="stl", force="mesh")
    return mesh.bounds, mesh.volume, mesh.area, mesh.is_watertight, len(mesh.split(only_watertight=False))


def _their_release(data: bytes, kind: str) -> tuple[object, ...]:
    mesh: Any = trimesh.load(io.BytesIO(data), file_type="stl", force="mesh")
    mesh.apply_scale(25.4)
    back: Any = trimesh.load(io.BytesIO(mesh.export(file_type=kind)), file_type=kind, force="mesh")
    return back.extents - mesh.extents, back.volume - mesh.volume, back.is_watertight


class _Shelf:
    def __init__(self, mesh: Mesh) -> None:
        self._mesh = mesh

    def mesh(self, geometry: str) -> Mesh:
        return self._mesh


def _job(taken: Taken) -> tuple[Job, _Shelf]:
    shelf = _Shelf(next(iter(taken.meshes.values())))
    job = apply(Job(name="bench"), TakeIn(sources=taken.sources, bodies=taken.bodies), shelf)
    return apply(job, SettleUnit(source="s1", unit=Unit.IN), shelf), shelf
