"""Measure beside a general mesh library doing the same work, in one run, as ratios.

Each measurement is a process of its own, so that memory is told for it alone and neither library
profits from what the other has warmed up. Loading the libraries themselves is not counted.
"""

from __future__ import annotations

import multiprocessing
import resource
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from aimtrue.core.actions import apply
from aimtrue.core.drawing.compare import drawn_of
from aimtrue.core.formats import stl, threemf
from aimtrue.core.intake.actions import SettleUnit, TakeIn
from aimtrue.core.intake.health import CROSSINGS_UP_TO
from aimtrue.core.intake.take_in import TakenFile, take_in
from aimtrue.core.mesh.crossings import crossing_faces
from aimtrue.core.mesh.features.listed import Features, features_of
from aimtrue.core.mesh.mesh import Mesh, merged
from aimtrue.core.model.body import Body
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import Unit
from aimtrue.core.proof.verification import verified
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Format, Order
from aimtrue.core.release.record import record_of
from aimtrue.core.release.sheet import sheet_of
from aimtrue.core.release.sheet.pages import as_pdf
from benchmarks.actions import bored_plate
from benchmarks.shapes import wavy_sphere

CURVE = (10_000, 30_000, 100_000, 300_000, 1_000_000, 3_000_000, 5_000_000)
_RUNS = 3


def bench(triangles: int, curve: bool) -> int:
    """Print a table: our seconds and megabytes, the general library's, and the ratios."""
    with tempfile.TemporaryDirectory() as folder:
        if curve:
            return _curve(Path(folder))
        return _table(Path(folder), triangles)


def two_bodies(triangles: int) -> Mesh:
    """Two wavy spheres side by side, of so many triangles together."""
    mesh = wavy_sphere(triangles // 2)
    width = float(mesh.extents()[0])
    return merged([mesh, mesh.mapped(lambda v: v + np.array([1.5 * width, 0.0, 0.0]))])


def _write(triangles: int, binary: Path, packed: Path) -> None:
    mesh = two_bodies(triangles)
    binary.write_bytes(stl.write_binary(mesh, "bench"))
    half = mesh.triangles // 2
    bodies = [Mesh(mesh.vertices, mesh.faces[:half]), Mesh(mesh.vertices, mesh.faces[half:])]
    items = [threemf.BuildObject(f"body {n}", _compact(body)) for n, body in enumerate(bodies, 1)]
    packed.write_bytes(threemf.write(items, Unit.MM, "bench", ""))


def _table(folder: Path, triangles: int) -> int:
    binary, packed = folder / "bench.stl", folder / "bench.3mf"
    # Elsewhere: the peak of a process counts for the ones it starts, and these files are made of much.
    spawn_process = multiprocessing.get_context("spawn").Process(
        target=_write, args=(triangles, binary, packed)
    )
    spawn_process.start()
    spawn_process.join()
    count = (binary.stat().st_size - 84) // 50
    print(f"{count} triangles in 2 bodies, the best of {_RUNS} runs each\n")
    print(f"{'work':<46}{'ours':>9}{'trimesh':>10}{'ratio':>8}{'MB':>8}{'MB':>8}{'ratio':>8}")
    for path in (binary, packed):
        _row(f"inspect {path.suffix[1:]}: load, split, closed?, bounds", _inspect, _their_inspect, str(path))
    kinds: tuple[Format, ...] = ("stl", "3mf")
    for kind in kinds:
        _row(f"release {kind}: write, read back, compare", _release, _their_release, str(binary), kind)
    for kind in kinds:
        seconds, megabytes = _measured(_verify, (str(binary), kind))
        print(f"{f'verify {kind} against its record':<46}{seconds:>8.2f}s{'':>18}{megabytes:>8.0f}")
    seconds, megabytes = _measured(_sheet, ())
    print(f"{'proof sheet of 20 bodies, as PDF':<46}{seconds:>8.2f}s{'':>18}{megabytes:>8.0f}")
    return 0


def _verify(path: str, kind: Format) -> float:
    data = Path(path).read_bytes()
    job, store = _job(take_in("s1", "bench.stl", data), data)
    made = release(job, store, Order(format=kind))
    record = record_of(job, [made], [file.file.name for file in made.files])
    started = time.perf_counter()
    for proven_file in made.files:
        assert all(row.holds for row in verified(proven_file.file.name, proven_file.data, record))
    return time.perf_counter() - started


def _sheet() -> float:
    """Of 20 plates with bores, each another part."""
    plates = []
    for number in range(20):
        plate = bored_plate(40 + number, 9.0)
        plates.append(Mesh(plate.vertices + np.array([0.0, 120.0 * number, 0.0]), plate.faces))
    data = stl.write_binary(merged(plates), "bench")
    job, store = _job(take_in("s1", "bench.stl", data), data)
    files = [file.file for file in release(job, store, Order(shape="each", place="own")).files]
    started = time.perf_counter()
    sheet = sheet_of(job, 1, "2026-11-27", files, store, seated=True)
    assert len(sheet.bodies) == 20
    assert as_pdf(sheet, "a4", lambda key: drawn_of(job, (job.body(key),), store))
    return time.perf_counter() - started


def _compact(mesh: Mesh) -> Mesh:
    from aimtrue.core.mesh.mesh import compacted

    return compacted(mesh.vertices, mesh.faces)


def _curve(folder: Path) -> int:
    """Inspecting, and the search for crossing faces on its own, which large files only get when asked."""
    print(f"{'triangles':>10}{'inspect s':>11}{'without search':>16}{'us/triangle':>13}{'MB':>7}", end="")
    print(f"{'search s':>11}{'us/triangle':>13}")
    for triangles in CURVE:
        path = folder / "curve.stl"
        mesh = two_bodies(triangles)
        path.write_bytes(stl.write_binary(mesh, "bench"))
        count = mesh.triangles
        whole, megabytes = _measured(_inspect, (str(path),))
        search, _ = _measured(_search, (str(path),))
        bare = whole - search if count // 2 <= CROSSINGS_UP_TO else whole
        print(f"{count:>10}{whole:>11.3f}{bare:>16.3f}{bare / count * 1e6:>13.2f}{megabytes:>7.0f}", end="")
        print(f"{search:>11.3f}{search / count * 1e6:>13.2f}", flush=True)
    return 0


def _row(
    what: str, ours: Callable[..., float | None], theirs: Callable[..., float | None], *arguments: str
) -> None:
    a, ours_mb = _measured(ours, arguments)
    b, theirs_mb = _measured(theirs, arguments)
    memory = f"{ours_mb:>8.0f}{theirs_mb:>8.0f}{ours_mb / theirs_mb:>8.2f}"
    print(f"{what:<46}{a:>8.2f}s{b:>9.2f}s{b / a:>7.1f}x{memory}")


def _measured(work: Callable[..., float | None], arguments: tuple[str, ...]) -> tuple[float, float]:
    """Return the least seconds of several runs, and the greatest memory of one in MB.

    Work that times a part of itself returns its seconds.
    """
    runs = [_in_a_process(work, arguments) for _ in range(_RUNS)]
    return min(seconds for seconds, _ in runs), max(megabytes for _, megabytes in runs)


def _in_a_process(work: Callable[..., float | None], arguments: tuple[str, ...]) -> tuple[float, float]:
    home = multiprocessing.get_context("spawn")
    ours, theirs = home.Pipe(duplex=False)
    process = home.Process(target=_child, args=(theirs, work, arguments))
    process.start()
    theirs.close()
    seconds, megabytes = ours.recv()
    process.join()
    return seconds, megabytes


def _child(pipe: Any, work: Callable[..., float | None], arguments: tuple[str, ...]) -> None:
    import trimesh  # noqa: F401 - loading it is not what is measured

    started = time.perf_counter()
    timed = work(*arguments)
    took = time.perf_counter() - started if timed is None else timed
    pipe.send((took, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000))


def _inspect(path: str) -> None:
    taken = take_in("s1", Path(path).name, Path(path).read_bytes())
    assert len(taken.bodies) == 2
    assert all(body.health.closed for body in taken.bodies)


def _search(path: str) -> float:
    """Only the search is timed: reading and separating come before it in any case."""
    taken = take_in("s1", Path(path).name, Path(path).read_bytes())
    started = time.perf_counter()
    for mesh in taken.meshes.values():
        assert not len(crossing_faces(mesh))
    return time.perf_counter() - started


def _their_inspect(path: str) -> None:
    import trimesh

    mesh: Any = trimesh.load(path, force="mesh")
    parts = mesh.split(only_watertight=False)
    assert len(parts) == 2
    assert all(part.is_watertight and len(part.bounds) == 2 for part in parts)


def _release(path: str, kind: Format) -> float:
    """Of what was taken in; taking it in is measured by itself."""
    data = Path(path).read_bytes()
    job, store = _job(take_in("s1", "bench.stl", data), data)
    started = time.perf_counter()
    assert all(file.file.proof.holds for file in release(job, store, Order(format=kind)).files)
    return time.perf_counter() - started


def _their_release(path: str, kind: str) -> float:
    """The same comparisons: with the original read a second time, triangle by triangle, sizes, volume,
    bodies.
    """
    import io

    import trimesh

    def scaled() -> Any:
        made: Any = trimesh.load(path, force="mesh")
        return made.apply_scale(25.4)

    mesh = scaled()
    started = time.perf_counter()
    back: Any = trimesh.load(io.BytesIO(mesh.export(file_type=kind)), file_type=kind, force="mesh")
    asked = scaled()
    assert back.is_watertight
    assert back.body_count == 2
    assert abs(back.volume - asked.volume) < 1e-3 * abs(asked.volume)
    assert abs(back.extents - asked.extents).max() < 1e-3
    assert len(back.triangles) == len(asked.triangles)
    assert abs(back.triangles - asked.triangles).max() < 1e-2
    return time.perf_counter() - started


class _Shelf:
    def __init__(self, meshes: dict[str, Mesh], original: bytes) -> None:
        self._meshes, self._original = meshes, original

    def mesh(self, geometry: str) -> Mesh:
        return self._meshes[geometry]

    def features(self, body: Body) -> Features:
        return features_of(self._meshes[body.geometry])

    def original(self, sha256: str) -> bytes:
        return self._original


def _job(taken: TakenFile, data: bytes) -> tuple[Job, _Shelf]:
    store = _Shelf(taken.meshes, data)
    job = apply(Job(name="bench"), TakeIn(sources=taken.sources, bodies=taken.bodies, kits=taken.kits), store)
    return apply(job, SettleUnit(source="s1", unit=Unit.IN), store), store
