"""How the unit verdict fares on made parts whose unit is known: right alone, asked, or wrong.

Parts are plates, brackets, tubes, shafts, trays and clamps with sizes drawn as people draw them, metric or
imperial, and written as binary STL in millimetres, centimetres, metres, inches or feet. Nothing in name
or header tells.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass

import manifold3d
import numpy as np

from aimtrue.core.formats import stl
from aimtrue.core.intake.settle import verdict_of
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, Unit

_INCH = 25.4
_METRIC_HOLES = (3.4, 4.5, 5.5, 6.6, 9.0, 6.0, 8.0, 10.0)
_INCH_HOLES = (0.177, 0.201, 0.257, 0.323, 0.386, 0.25, 0.375, 0.5)
UNITS = (Unit.MM, Unit.CM, Unit.M, Unit.IN, Unit.FT)


@dataclass(frozen=True)
class Made:
    """One part: what it is, its true unit, its file."""

    what: str
    unit: Unit
    data: bytes


class _Draw:
    """Draws sizes in mm as a designer would."""

    def __init__(self, seed: int, *, imperial: bool) -> None:
        self.random = np.random.default_rng(seed)
        self.imperial = imperial

    def length(self, low: float, high: float) -> float:
        """A length between two in mm, on a grid that suits its size."""
        mm = float(np.exp(self.random.uniform(np.log(low), np.log(high))))
        if self.imperial:
            step = _INCH / float(self.random.choice([2, 4, 8, 16, 16, 32] if mm > 6 else [16, 32, 64]))
        else:
            step = float(self.random.choice([1, 1, 1, 0.5, 5, 0.1] if mm > 6 else [0.5, 0.1, 0.2, 1]))
        return max(step, round(mm / step) * step)

    def hole(self) -> float:
        if self.imperial:
            return float(self.random.choice(_INCH_HOLES)) * _INCH
        return float(self.random.choice(_METRIC_HOLES))


def _cube(x: float, y: float, z: float) -> manifold3d.Manifold:
    return manifold3d.Manifold.cube((x, y, z))


def _rod(diameter: float, height: float) -> manifold3d.Manifold:
    return manifold3d.Manifold.cylinder(height, diameter / 2, circular_segments=64)


def _plate(draw: _Draw) -> manifold3d.Manifold:
    x, y, z, hole = draw.length(25, 180), draw.length(18, 120), draw.length(2, 10), draw.hole()
    inset = draw.length(hole, hole * 1.8)
    plate = _cube(x, y, z)
    for i, j in ((inset, inset), (x - inset, inset), (inset, y - inset), (x - inset, y - inset)):
        plate -= _rod(hole, 3 * z).translate((i, j, -z))
    return plate


def _bracket(draw: _Draw) -> manifold3d.Manifold:
    x, y, z, wall = draw.length(20, 90), draw.length(15, 60), draw.length(20, 90), draw.length(2, 6)
    bracket = _cube(x, y, wall) + _cube(wall, y, z)
    return bracket - _rod(draw.hole(), 4 * wall).translate((x * 0.6, y / 2, -wall))


def _tube(draw: _Draw) -> manifold3d.Manifold:
    outer, height = draw.length(18, 140), draw.length(10, 220)
    wall = draw.length(1.5, max(2.0, outer / 8))
    return _rod(outer, height) - _rod(outer - 2 * wall, 3 * height).translate((0, 0, -height))


def _shaft(draw: _Draw) -> manifold3d.Manifold:
    shaft = manifold3d.Manifold()
    at = 0.0
    for _ in range(3):
        height = draw.length(6, 60)
        shaft += _rod(draw.length(6, 40), height).translate((0, 0, at))
        at += height
    return shaft - _rod(draw.hole(), 3 * at).translate((0, 0, -at))


def _tray(draw: _Draw) -> manifold3d.Manifold:
    x, y, z, wall = draw.length(30, 200), draw.length(30, 160), draw.length(12, 80), draw.length(1.2, 4)
    return _cube(x, y, z) - _cube(x - 2 * wall, y - 2 * wall, z).translate((wall, wall, wall))


def _block(draw: _Draw) -> manifold3d.Manifold:
    return _cube(draw.length(8, 120), draw.length(8, 90), draw.length(4, 60))


def _ball(draw: _Draw) -> manifold3d.Manifold:
    return manifold3d.Manifold.sphere(draw.length(8, 60) / 2, 96)


def _large(draw: _Draw) -> manifold3d.Manifold:
    outer, height = draw.length(250, 420), draw.length(200, 600)
    return _rod(outer, height) - _rod(outer - 2 * draw.length(3, 8), 3 * height).translate((0, 0, -height))


_KINDS: tuple[Callable[[_Draw], manifold3d.Manifold], ...] = (
    _plate,
    _bracket,
    _tube,
    _shaft,
    _tray,
    _block,
    _ball,
    _large,
)


def made_parts(rounds: int = 2, seed: int = 0) -> list[Made]:
    """Return parts of every kind in every unit; inches and feet are mostly imperial designs."""
    parts = []
    for number in range(rounds):
        for k, kind in enumerate(_KINDS):
            for u, unit in enumerate(UNITS):
                own = seed + 1000 * number + 10 * k + u
                imperial = (unit in (Unit.IN, Unit.FT)) != (number % 4 == 3)
                solid = mesh_of(kind(_Draw(own, imperial=imperial)))
                scaled = Mesh(solid.vertices / MM_PER[unit], solid.faces)
                system = "imperial" if imperial else "metric"
                parts.append(Made(f"{system} {kind.__name__[1:]}", unit, stl.write_binary(scaled, "")))
    return parts


def judged(part: Made) -> tuple[str, Unit | None]:
    """Return ``right``, ``asked`` or ``wrong`` for a part, and the unit that is pointed at."""
    taken = take_in("s1", "part.stl", part.data)
    job = Job(name="verdict", sources=taken.sources, bodies=taken.bodies)
    found = verdict_of(job, job.sources[0])
    if found.clear is None:
        return "asked", found.leads
    return ("right" if found.clear is part.unit else "wrong"), found.clear


def report(rounds: int = 2) -> int:
    """Print the table."""
    rows: dict[Unit, Counter[str]] = {unit: Counter() for unit in UNITS}
    parts = made_parts(rounds)
    for part in parts:
        result, unit = judged(part)
        pointed = "asked, pointing right" if unit is part.unit else "asked, pointing wrong"
        rows[part.unit][result] += 1
        if result == "asked" and unit is not None:
            rows[part.unit][pointed] += 1
        if result == "wrong":
            print(f"  wrong: {part.what} in {part.unit} taken for {unit}")
    print(f"{len(parts)} made parts    right alone   asked   wrong   (asked, pointing right / wrong)")
    for unit, row in rows.items():
        hints = f"{row['asked, pointing right']} / {row['asked, pointing wrong']}"
        print(f"  {unit.value:<14} {row['right']:>12} {row['asked']:>7} {row['wrong']:>7}   ({hints})")
    return sum(row["wrong"] for row in rows.values())
