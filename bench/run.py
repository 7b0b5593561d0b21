"""Measure beside a general mesh library doing the same work, in one run, as ratios."""

from __future__ import annotations

import io
import time
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
import trimesh

from aimtrue.core.actions import SettleUnit, TakeIn, apply
from aimtrue.core.formats import stl
from aimtrue.core.geometry import from_bytes
from aimtrue.core.intake.take_in import Taken, take_in
from aimtrue.core.job import Job
from aimtrue.core.lengths import Unit
from aimtrue.core.mesh import Mesh
from aimtrue.core.release.make import Format, Order, release


def bench(triangles: int) -> int:
    """Print a table: our seconds, the general library's seconds, and how many times faster we are."""
    mesh = _wavy_sphere(triangles)
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
    shelf = _Shelf(from_bytes(taken.blobs[taken.body.geometry]))
    job = apply(Job(name="bench"), TakeIn(source=taken.source, body=taken.body), shelf)
    return apply(job, SettleUnit(source="s1", unit=Unit.IN), shelf), shelf


def _wavy_sphere(triangles: int) -> Mesh:
    """A closed lattice sphere with waves, of about so many triangles."""
    rings = max(3, int((triangles / 4) ** 0.5))
    around = 2 * rings
    v, u = np.meshgrid(
        np.linspace(0, np.pi, rings + 1)[1:-1], np.arange(around) * 2 * np.pi / around, indexing="ij"
    )
    r = 3 + 0.05 * np.sin(9 * u) * np.sin(v) ** 2
    points = np.stack([r * np.sin(v) * np.cos(u), r * np.sin(v) * np.sin(u), r * np.cos(v)], axis=-1).reshape(
        -1, 3
    )
    points = np.vstack([points, [0, 0, 3], [0, 0, -3]])
    i, j = np.meshgrid(np.arange(rings - 2), np.arange(around), indexing="ij")
    a, b = i * around + j, i * around + (j + 1) % around
    quads = [np.stack([a, a + around, b + around], -1), np.stack([a, b + around, b], -1)]
    k = np.arange(around)
    top = np.stack([np.full(around, len(points) - 2), k, (k + 1) % around], -1)
    last = (rings - 2) * around
    bottom = np.stack([np.full(around, len(points) - 1), last + (k + 1) % around, last + k], -1)
    faces = np.concatenate([*(quad.reshape(-1, 3) for quad in quads), top, bottom])
    return Mesh(points, faces.astype(np.int32))
