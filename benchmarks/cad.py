"""CAD: a plate of many countersunk holes, beside what the kernel takes to read it and cut it into facets."""

from __future__ import annotations

import math
import tempfile
import time
from pathlib import Path

from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.STEPControl import STEPControl_Reader

from aimtrue.core.intake.take_in import FINE, take_in
from aimtrue.core.release.making import release
from aimtrue.core.release.order import Order
from demo.solids import Solid, box, cylinder, together, write_step
from tests.shapes import bench_of

_ROWS, _COLUMNS, _EVERY_MM = 18, 24, 10.4


def cad() -> int:
    """Print a table: seconds, and how many times the kernel's own."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "plate.step"
        write_step(_plate(), path)
        kernel = _kernel_alone(path)
        data = path.read_bytes()
    print(f"a plate of {_ROWS * _COLUMNS} countersunk holes, {len(data) / 1e6:.1f} MB of STEP\n")
    print(f"{'work':<46}{'seconds':>9}{'kernel':>9}")
    print(f"{'the kernel alone: read, and cut into facets':<46}{kernel:>8.1f}s{'1.00x':>9}")
    started = time.perf_counter()
    take_in("s1", "plate.step", data)
    _row("inspect", time.perf_counter() - started, kernel)
    bench = bench_of("plate.step", data)
    started = time.perf_counter()
    release(bench.job, bench, Order(format="3mf"))
    _row("release of what was taken in, with its proof", time.perf_counter() - started, kernel)
    return 0


def _row(words: str, seconds: float, kernel: float) -> None:
    print(f"{words:<46}{seconds:>8.1f}s{seconds / kernel:>8.2f}x")


def _plate() -> Solid:
    places = [
        (_EVERY_MM * (i - _COLUMNS / 2 + 0.5), _EVERY_MM * (j - _ROWS / 2 + 0.5))
        for i in range(_COLUMNS)
        for j in range(_ROWS)
    ]
    holes = together([cylinder(2, 10).at(x, y, -1) for x, y in places])
    sinks = together([cylinder(3.5, 3).at(x, y, 6) for x, y in places])
    return box(_EVERY_MM * (_COLUMNS + 1), _EVERY_MM * (_ROWS + 1), 8) - holes - sinks


def _kernel_alone(path: Path) -> float:
    """As a program that only shows the file would: by the kernel's usual way, at our usual fineness."""
    started = time.perf_counter()
    reader = STEPControl_Reader()
    reader.ReadFile(str(path))
    reader.TransferRoots()
    BRepMesh_IncrementalMesh(reader.OneShape(), FINE.chord_mm, False, math.radians(FINE.angle_deg), True)
    return time.perf_counter() - started
