"""What a print takes: quick estimates of many seats, full ones along paths, and how far these are apart."""

from __future__ import annotations

import resource
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import trimesh
from manifold3d import Manifold

from aimtrue.core.cost.estimate import estimate_plate
from aimtrue.core.cost.paths.layer_paths import PlacedBody, paths_of
from aimtrue.core.cost.paths.regions import region_of
from aimtrue.core.cost.quick import quick_estimate
from aimtrue.core.cost.settings import plan_of
from aimtrue.core.intake.actions import SettleUnit
from aimtrue.core.mesh.mesh import Floats, Mesh
from aimtrue.core.mesh.sections import layers_of, rings_by_height
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.lengths import Unit
from aimtrue.core.model.machine import SHIPPED, BoxVolume, FirstLayerOutline, Machine
from aimtrue.core.model.printing import PrintSettings
from aimtrue.core.seating.actions import SetMachine
from aimtrue.core.truing.actions import SetFactor
from demo.parts import built
from tests.shapes import Bench, bench_of, binary_stl, corners_of

_UNITS = {"focus-knob.stl": Unit.M, "eyepiece-rack.stl": Unit.IN, "shim-plate.stl": Unit.IN}
_ROOM = Machine(
    volume=BoxVolume(size=(600.0, 600.0, 600.0)), process=SHIPPED[0].process, name="large enough for all"
)
_CHANGES = (
    PrintSettings(infill=5),
    PrintSettings(infill=40),
    PrintSettings(infill=100),
    PrintSettings(shells=3),
    PrintSettings(shells=5),
    PrintSettings(layer=0.1),
    PrintSettings(layer=0.3),
    PrintSettings(bead=0.6, layer=0.3),
    PrintSettings(solid_layers=8),
    PrintSettings(pattern="waves"),
    PrintSettings(supports=False),
)


def cost() -> int:
    """Print tables: seconds, how far quick is off full, and what settings change."""
    _quick_of_many()
    _paths_of_the_shield()
    _paths_of_twenty()
    _memory()
    _quick_against_full()
    _what_settings_change()
    return 0


def _took(work: Callable[[], object]) -> float:
    started = time.perf_counter()
    work()
    return time.perf_counter() - started


def _quick_of_many() -> None:
    rods = [
        mesh_of(
            Manifold.cylinder(10 + k % 7, 3 + k % 5 / 10, 3, 48).translate((9 * (k % 15), 9 * (k // 15), 0))
        )
        for k in range(150)
    ]
    many = bench_of("many.stl", binary_stl(np.concatenate([corners_of(rod) for rod in rods])))
    many.do(SettleUnit(source="s1", unit=Unit.MM))
    plate = many.job.plates[0].id
    first = _took(lambda: quick_estimate(many.job, plate, many))
    again = _took(lambda: quick_estimate(many.job, plate, many))
    many.do(SetFactor(body=many.job.bodies[0].id, typed="1.07"))
    after = _took(lambda: quick_estimate(many.job, plate, many))
    other = _took(lambda: quick_estimate(many.job, plate, many, PrintSettings(infill=40)))
    print(f"quick estimate of {len(many.job.bodies)} seats, first: {first:.3f} s, again {again:.3f} s,")
    print(f"    after a factor {after:.3f} s, with other settings {other:.3f} s")


def _paths_of_the_shield() -> None:
    shield = _demo("dew-shield.3mf")
    plate = shield.job.plates[0].id
    seconds = _took(lambda: estimate_plate(shield.job, plate, shield))
    layers = estimate_plate(shield.job, plate, shield).layers
    rate = 60 * layers / seconds
    print(f"full paths of the dew shield: {layers} layers in {seconds:.2f} s, {rate:,.0f} a minute")


def _paths_of_twenty() -> None:
    ball = mesh_of(Manifold.sphere(15, 316))
    bodies = [
        PlacedBody(Mesh(ball.vertices + np.array([20 + 40 * (k % 5), 20 + 40 * (k // 5), 15]), ball.faces), k)
        for k in range(20)
    ]
    triangles = sum(body.mesh.triangles for body in bodies)
    plan = plan_of(PrintSettings(), SHIPPED[0])
    heights = layers_of(0.0, 30.0, plan.bead.height)
    seconds = _took(lambda: sum(1 for _ in paths_of(bodies, heights, plan, FirstLayerOutline())))
    print(f"full paths of 20 bodies, {triangles:,} triangles, {len(heights)} layers: {seconds:.1f} s")
    ours = _took(lambda: [region_of(section.rings) for section in rings_by_height(ball, heights)])
    general = trimesh.Trimesh(ball.vertices, ball.faces, process=False)
    theirs = _took(lambda: _areas(general, heights - 15))
    print(
        f"regions of one of them: {ours:.2f} s, a general library {theirs:.2f} s, ratio {theirs / ours:.1f}"
    )


def _areas(mesh: trimesh.Trimesh, heights: Floats) -> list[float]:
    cuts = mesh.section_multiplane(np.zeros(3), np.array([0.0, 0.0, 1.0]), heights)
    return [float(cut.area) for cut in cuts if cut is not None]


def _memory() -> None:
    """How much more memory a plate takes that is ten times as high."""
    plan = plan_of(PrintSettings(supports=False), SHIPPED[0])
    peaks = []
    for high in (30.0, 300.0):
        mesh = mesh_of(Manifold.extrude(Manifold.cylinder(1, 40, 40, 2000).project(), high, 200, 90.0))
        sum(1 for _ in paths_of([PlacedBody(mesh)], layers_of(0.0, high, 0.2), plan, FirstLayerOutline()))
        peaks.append(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
    print(f"memory at most: {peaks[0]:.0f} MB for 150 layers, {peaks[1]:.0f} MB for 1500")


def _demo(name: str) -> Bench:
    bench = bench_of(name, (built() / name).read_bytes())
    if not bench.job.sources[0].unit:
        bench.do(SettleUnit(source="s1", unit=_UNITS.get(name, Unit.MM)))
    return bench.do(SetMachine(machine=_ROOM))


def _quick_against_full() -> None:
    heads = (
        ("layers", 7),
        ("full, h", 9),
        ("full, g", 9),
        ("time off", 10),
        ("grams off", 10),
        ("full takes", 12),
    )
    print(f"{'quick against full':<26}" + "".join(f"{head:>{wide}}" for head, wide in heads))
    files = sorted(path.name for path in Path(built()).iterdir() if path.suffix in (".stl", ".3mf"))
    for name in files:
        bench = _demo(name)
        plate = bench.job.plates[0].id
        quick = quick_estimate(bench.job, plate, bench)
        started = time.perf_counter()
        full = estimate_plate(bench.job, plate, bench)
        took = time.perf_counter() - started
        off = (quick.seconds / full.seconds - 1, quick.grams / max(full.grams, 1e-9) - 1)
        print(
            f"  {name:<24}{full.layers:>7}{full.seconds / 3600:>9.2f}{full.grams:>9.1f}"
            f"{100 * off[0]:>9.1f}%{100 * off[1]:>9.1f}%{took:>10.2f} s"
        )


def _what_settings_change() -> None:
    knob = _demo("focus-knob.stl")
    plate = knob.job.plates[0].id
    before = estimate_plate(knob.job, plate, knob)
    print(f"focus knob: {before.seconds / 60:.0f} min, {before.grams:.2f} g; with")
    for settings in _CHANGES:
        after = estimate_plate(knob.job, plate, knob, settings)
        changed = settings.model_dump(exclude_defaults=True)
        change = ", ".join(f"{name} {value}" for name, value in changed.items())
        minutes, grams = (after.seconds - before.seconds) / 60, after.grams - before.grams
        print(f"  {change:<26}{minutes:>+8.1f} min{grams:>+8.2f} g")
