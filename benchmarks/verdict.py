"""How the unit verdict fares on made parts whose unit is known: right alone, asked, or wrong.

Parts are plates, brackets, tubes, shafts, trays and clamps with sizes drawn as people draw them, metric or
imperial, and written as binary STL in millimetres, centimetres, metres, inches or feet. Large things (houses,
tables, hulls) and tiny ones (lenses, chips; in micrometres, too) are made at full size. Nothing in name or
header tells. Each result counts as often as people make such a thing and export it in such a unit, so that
the share of wrong verdicts can be held against the share that a verdict claims.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, replace

import manifold3d
import numpy as np

from aimtrue.core.formats import stl
from aimtrue.core.intake.take_in import take_in
from aimtrue.core.intake.units.inference import verdict_of
from aimtrue.core.mesh.mesh import Mesh
from aimtrue.core.mesh.solids import mesh_of
from aimtrue.core.model.job import Job
from aimtrue.core.model.lengths import MM_PER, Unit

_INCH = 25.4
_METRIC_HOLES = (3.4, 4.5, 5.5, 6.6, 9.0, 6.0, 8.0, 10.0)
_INCH_HOLES = (0.177, 0.201, 0.257, 0.323, 0.386, 0.25, 0.375, 0.5)
UNITS = (Unit.MM, Unit.CM, Unit.M, Unit.IN, Unit.FT)
_OFTEN = {Unit.MM: 0.70, Unit.IN: 0.12, Unit.M: 0.09, Unit.CM: 0.075, Unit.FT: 0.0145, Unit.UM: 0.0005}
"""How often files are in each unit, stated a second time: the core's own table is what is tried."""


@dataclass(frozen=True)
class Made:
    """One part: what it is, its true unit, its file."""

    what: str
    unit: Unit
    data: bytes
    weight: float = 1.0


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

    def large(self, low: float, high: float) -> float:
        """A length of something at full size: centimetres or inches, doors and walls finer."""
        mm = float(np.exp(self.random.uniform(np.log(low), np.log(high))))
        steps = [12, 6, 1, 1, 0.5] if self.imperial else [100, 50, 10, 10, 5, 1]
        step = float(self.random.choice(steps)) * (_INCH if self.imperial else 1.0)
        step = step if mm > 4 * step else (_INCH / 4 if self.imperial else 1.0)
        return max(step, round(mm / step) * step)

    def tiny(self, low: float, high: float) -> float:
        """A length of something small, in steps of micrometres or thousandths of an inch."""
        mm = float(np.exp(self.random.uniform(np.log(low), np.log(high))))
        step = _INCH / 1000 if self.imperial else float(self.random.choice([0.1, 0.05, 0.01, 0.01, 0.005]))
        step = step if mm > 2 * step else step / 10
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


def _house(draw: _Draw) -> manifold3d.Manifold:
    x, y, z, wall = (
        draw.large(5000, 15000),
        draw.large(4000, 9000),
        draw.large(2400, 6000),
        draw.large(100, 400),
    )
    house = _cube(x, y, z) - _cube(x - 2 * wall, y - 2 * wall, 3 * z).translate((wall, wall, wall))
    door = _cube(draw.large(700, 1200), 4 * wall, draw.large(1900, 2200))
    return house - door.translate((x / 4, -2 * wall, wall))


def _table(draw: _Draw) -> manifold3d.Manifold:
    x, y, z, top = draw.large(800, 2400), draw.large(500, 1000), draw.large(400, 900), draw.large(18, 40)
    leg = draw.large(40, 90)
    table = _cube(x, y, top).translate((0, 0, z - top))
    for i, j in ((0, 0), (x - leg, 0), (0, y - leg), (x - leg, y - leg)):
        table += _cube(leg, leg, z).translate((i, j, 0))
    return table


def _garage(draw: _Draw) -> manifold3d.Manifold:
    x, y, z = draw.large(5400, 7600), draw.large(3000, 7600), draw.large(2200, 3200)
    return _cube(x, y, z) - _cube(x - 300, y - 300, 3 * z).translate((150, 150, 100))


def _lens(draw: _Draw) -> manifold3d.Manifold:
    across, thick = draw.tiny(0.08, 4), draw.tiny(0.02, 0.9)
    ball = manifold3d.Manifold.sphere(2 * across, 96).translate((0, 0, thick - 2 * across))
    return _rod(across, thick) ^ ball


def _chip(draw: _Draw) -> manifold3d.Manifold:
    x, y, z = draw.tiny(0.3, 8), draw.tiny(0.3, 6), draw.tiny(0.05, 0.6)
    chip, pad = _cube(x, y, z), draw.tiny(0.04, 0.1)
    for i in range(3):
        chip += _cube(pad, pad, pad / 2).translate(((i + 1) * x / 5, y / 10, z))
    return chip


_LARGE_KINDS = (_house, _table, _garage)
_TINY_KINDS = (_lens, _chip)
_SHARES = ((_KINDS, 0.965, UNITS), (_LARGE_KINDS, 0.02, UNITS), (_TINY_KINDS, 0.01, (*UNITS, Unit.UM)))
"""Kinds, how often such things are made, and the units they are tried in."""


def full_size_parts(rounds: int = 2, seed: int = 50_000) -> list[Made]:
    """Return large and tiny things at full size, in every unit that they may be in."""
    parts = []
    for number in range(rounds):
        for kinds, _, units in _SHARES[1:]:
            for k, kind in enumerate(kinds):
                for u, unit in enumerate(units):
                    imperial = (unit in (Unit.IN, Unit.FT)) != (number % 4 == 3)
                    solid = mesh_of(kind(_Draw(seed + 1000 * number + 10 * k + u, imperial=imperial)))
                    scaled = Mesh(solid.vertices / MM_PER[unit], solid.faces)
                    what = f"{'imperial' if imperial else 'metric'} {kind.__name__[1:]}"
                    parts.append(Made(what, unit, stl.write_binary(scaled, "")))
    return parts


def weighted(rounds: int = 2) -> list[Made]:
    """Return all parts, each with how often such a thing is made and exported so."""
    parts = [*made_parts(rounds), *full_size_parts(rounds)]
    names = {f"{kind.__name__[1:]}": (share, len(kinds)) for kinds, share, _ in _SHARES for kind in kinds}
    variants = []
    for part in parts:
        share, kinds = names[part.what.split()[1]]
        variants.append(replace(part, weight=share / kinds * _OFTEN[part.unit] / rounds))
    return variants


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
    unit_verdict = verdict_of(job, job.sources[0])
    if unit_verdict.clear is None:
        return "asked", unit_verdict.leads
    return ("right" if unit_verdict.clear is part.unit else "wrong"), unit_verdict.clear


def report(rounds: int = 2) -> int:
    """Print the table."""
    rows: dict[Unit, Counter[str]] = {unit: Counter() for unit in Unit}
    parts = weighted(rounds)
    often: Counter[str] = Counter()
    for part in parts:
        result, unit = judged(part)
        often[result] += part.weight  # type: ignore[assignment]
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
    settled = often["right"] + often["wrong"]
    print(f"as often as people make them: {often['asked'] / sum(often.values()):.1%} asked, of those settled")
    print(f"  alone {often['wrong'] / max(settled, 1e-300):.3%} wrong, where a verdict claims 0.5 % at most")
    return sum(row["wrong"] for row in rows.values())
